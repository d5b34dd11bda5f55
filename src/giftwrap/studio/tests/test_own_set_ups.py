"""Lights that the studio has kept: saved, hung elsewhere at the size of what stands there, taken away."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.utils import timezone

from giftwrap.core.stage.starting import starting_set
from giftwrap.studio.files import store
from giftwrap.studio.jobs.models import PhotoSet, Revision
from giftwrap.studio.library.models import OwnSetUp
from giftwrap.studio.tests.base import StudioTestCase
from giftwrap.studio.upkeep.rules import HISTORY, unused_files


class OwnSetUpTests(StudioTestCase):
    def keep(self, name: str, made_for: float = 240.0, **changes: Any) -> tuple[int, Any]:
        on_set = starting_set().model_dump(mode="json")
        lights = [{**light, **changes} for light in on_set["lights"]]
        how = {"kind": "hang-lights", "lights": lights, "surround": on_set["surround"], "made_for": made_for}
        return self.send("post", "/api/own-set-ups", {"name": name, "how": how})

    def test_kept_under_names_of_their_own_and_taken_away(self) -> None:
        self.keep("Ours")
        status, own = self.keep("Ours", gel="#ff8844")
        self.assertEqual(status, 200)
        self.assertEqual([(one["name"], one["neutral"]) for one in own], [("Ours 2", False), ("Ours", True)])
        left = self.client.delete(f"/api/own-set-ups/{own[0]['number']}").json()
        self.assertEqual([one["name"] for one in left], ["Ours"])
        self.assertEqual(self.client.delete("/api/own-set-ups/999").status_code, 404)

    def test_pictures_on_their_faces_and_around_sets_are_kept(self) -> None:
        """A set-up, and a set whose history is gone, name files that nothing else does."""
        face, around = store(b"a face"), store(b"all around")
        self.keep("Ours", picture=face)
        document = PhotoSet.objects.get(job=self.job).document
        document["surround"] = {"kind": "picture", "picture": around, "name": "Yard"}
        PhotoSet.objects.filter(job=self.job).update(document=document)
        Revision.objects.all().delete()
        later = timezone.now() + HISTORY + timedelta(days=2)
        self.assertEqual(list(unused_files(later)), [])
        OwnSetUp.objects.all().delete()
        self.assertEqual(len(list(unused_files(later))), 1)

    def test_one_that_cannot_be_read_any_more_is_left_out(self) -> None:
        self.keep("Ours")
        OwnSetUp.objects.create(name="Broken", document={"lights": "none"})
        with self.assertLogs("giftwrap.studio.library.own_set_ups", "ERROR"):
            own = self.client.get("/api/own-set-ups").json()
        self.assertEqual([one["name"] for one in own], ["Ours"])

    def test_what_is_no_light_is_refused_in_words(self) -> None:
        status, answer = self.keep("Ours", kind="candle")
        self.assertEqual(status, 422)
        self.assertIn("how", answer["place"])

    def test_hung_at_the_size_of_what_stands_there(self) -> None:
        """Made for half of what stands here: everything hangs twice as far away, and is twice as large."""
        rows = self.client.get(f"/api/jobs/{self.job.slug}").json()
        documents = {"photo_set": rows["sets"][0]["document"], "shot": rows["shots"][0]["document"]}
        for_it = documents["photo_set"]["scaled_for"]
        _, own = self.keep("Ours", made_for=for_it / 2)
        body = {**documents, "how": own[0]["how"]}
        status, answer = self.send("post", f"/api/shots/{self.shot.pk}/arrange", body)
        self.assertEqual(status, 200)
        before, after = own[0]["how"]["lights"][0], answer["photo_set"]["lights"][0]
        for field in ("distance", "width", "height"):
            self.assertAlmostEqual(after[field] / before[field], 2.0, places=2)
