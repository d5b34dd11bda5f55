"""Props in the studio: their kinds and pictures, what they look like, put down, strewn, sent in."""

from __future__ import annotations

import io
from typing import Any

import trimesh
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from giftwrap.core.props.kinds import KINDS, picture_of
from giftwrap.studio.tests.base import StudioTestCase


class KindTests(StudioTestCase):
    def test_each_kind_has_a_picture_of_its_own(self) -> None:
        kinds = self.client.get("/api/props").json()
        self.assertEqual([one["what"] for one in kinds], list(KINDS))
        seen = set()
        for one in kinds:
            answer = self.client.get(f"/api/props/{one['what']}.webp")
            self.assertEqual(Image.open(io.BytesIO(answer.content)).size, (168, 126))
            seen.add(answer.content)
        self.assertEqual(len(seen), len(KINDS))
        self.assertEqual({path.stem for path in picture_of("apple").parent.glob("*.webp")}, set(KINDS))

    def test_what_is_none_is_refused(self) -> None:
        self.assertEqual(self.client.get("/api/props/unicorn.webp").status_code, 422)
        status, _ = self.send("post", "/api/prop-shape", {"prop": {"kind": "made", "what": "unicorn"}})
        self.assertEqual(status, 422)

    def test_a_page_gets_as_few_triangles_as_it_needs(self) -> None:
        stone = next(one for one in self.client.get("/api/props").json() if one["what"] == "stone")["usual"]
        status, shape = self.send("post", "/api/prop-shape", {"prop": stone})
        self.assertEqual((status, shape["facts"]["size"]), (200, [110, 84, 62]))
        self.assertLess(len(shape["surfaces"][0]["mesh"]["faces"]), 60_000)
        self.assertEqual(shape["surfaces"][0]["group"], "props")


class StandingTests(StudioTestCase):
    def setUp(self) -> None:
        super().setUp()
        rows = self.client.get(f"/api/jobs/{self.job.slug}").json()
        self.documents = {
            "photo_set": rows["sets"][0]["document"],
            "shot": rows["shots"][0]["document"],
        }

    def arrange(self, **how: Any) -> tuple[int, Any]:
        status, answer = self.send(
            "post", f"/api/shots/{self.shot.pk}/arrange", {**self.documents, "how": how}
        )
        if status == 200:
            self.documents["photo_set"] = answer["photo_set"]
        return status, answer

    def plan(self) -> dict[str, Any]:
        return self.send("post", f"/api/shots/{self.shot.pk}/plan", self.documents)[1]

    def test_put_down_strewn_and_drawn(self) -> None:
        self.assertEqual(self.arrange(kind="stand-prop", what="slab")[0], 200)
        self.assertEqual(
            self.arrange(kind="scatter", what=["pebble"], count=12, across=600, deep=300)[0], 200
        )
        stands = self.plan()["stands"]
        self.assertEqual(len(stands), 14)
        self.assertTrue(all(abs(one["air"]) < 0.01 and not one["crosses"] for one in stands))
        keys = {one["key"] for one in stands}
        self.assertIn("prop:slab", keys)
        self.assertLessEqual(len(keys), 8, "at most six different pebbles")

    def test_a_camera_that_frames_by_itself_stays_on_the_pack(self) -> None:
        before = self.plan()["view"]
        self.arrange(kind="stand-prop", what="arch")
        self.assertEqual(self.plan()["view"], before)

    def test_no_room_is_said_and_nothing_is_lost(self) -> None:
        status, answer = self.arrange(kind="scatter", what=["rock"], count=4, across=10, deep=10)
        self.assertEqual(status, 422)
        self.assertIn("make it larger", answer["message"])

    def test_a_model_somebody_sent(self) -> None:
        box = trimesh.creation.box((80, 60, 40)).export(file_type="stl")
        sent = SimpleUploadedFile("Old crate.stl", box)
        read = self.client.post(f"/api/jobs/{self.job.slug}/models/read", {"file": sent}).json()
        self.assertEqual(self.arrange(kind="stand-model", received=read["received"])[0], 200)
        crate = next(one for one in self.plan()["stands"] if one["key"] == "prop:old-crate")
        self.assertAlmostEqual(crate["air"], 0.0, places=2)
        self.assertEqual(crate["crosses"], [])
        prop = self.documents["photo_set"]["props"]["old-crate"]
        status, shape = self.send("post", "/api/prop-shape", {"prop": prop})
        self.assertEqual((status, shape["facts"]["size"]), (200, [80, 60, 40]))

    def test_a_thousand_copies_are_too_many(self) -> None:
        self.arrange(kind="stand-prop", what="pebble")
        for _ in range(7):
            status, answer = self.arrange(kind="copies", ids=["pebble"], count=60, gap=1)
        self.assertEqual(status, 422)
        self.assertIn("At most 400", answer["message"])
