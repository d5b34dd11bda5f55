"""Several packs in one job: adding, naming, ordering, taking away and fetching back."""

from __future__ import annotations

from django.core.files.uploadedfile import SimpleUploadedFile

from giftwrap.core import model as core
from giftwrap.core.tests.samples import png
from giftwrap.studio.jobs import revisions, services
from giftwrap.studio.jobs.models import Job, Pack
from giftwrap.studio.jobs.services import start_job
from giftwrap.studio.tests.base import StudioTestCase


class PackTests(StudioTestCase):
    def detail(self, slug: str = "") -> dict:
        return self.client.get(f"/api/jobs/{slug or self.job.slug}").json()

    def names(self) -> list[str]:
        return [pack["name"] for pack in self.detail()["packs"]]

    def add(self, **how: object) -> tuple[int, dict]:
        return self.send("post", f"/api/jobs/{self.job.slug}/add/packs", how)

    def test_a_pack_is_named_after_what_it_started_from(self) -> None:
        status, made = self.add(start="jar-50")
        self.assertEqual(status, 200)
        again = self.add(start="jar-50")[1]
        first = self.detail()["packs"][0]["name"]
        self.assertEqual(self.names(), [first, made["name"], f"{made['name']} 2"])
        self.assertNotEqual(made["key"], again["key"])
        self.assertEqual(self.add(start="no-such-pack")[0], 404)

    def test_a_copy_is_a_pack_of_its_own(self) -> None:
        row = self.pack()
        made = self.add(copy_of=row["id"])[1]
        copy = self.detail()["packs"][1]
        self.assertEqual(copy["document"], row["document"])
        copy["document"]["exploded"] = 12
        body = {"base_revision": 1, "document": copy["document"]}
        self.assertEqual(self.send("put", f"/api/packs/{made['id']}", body)[0], 200)
        self.assertEqual([p["document"]["exploded"] for p in self.detail()["packs"]], [0, 12])

    def test_a_carton_for_a_pack_has_room_for_it(self) -> None:
        row = self.pack()
        status, made = self.add(carton_for=row["id"])
        self.assertEqual((status, made["name"]), (200, f"Carton of {row['name']}"))
        carton = self.detail()["packs"][1]["document"]["form"]
        facts = self.send("post", "/api/shape", {"pack": row["document"]})[1]["facts"]
        room = (carton["length"], carton["width"], carton["depth"])
        for inside, pack in zip(room, (facts["diameter"], facts["depth"], facts["height"]), strict=True):
            self.assertGreater(inside, pack + 1.5)
            self.assertLess(inside, pack + 5)
        stranger = start_job("Secret balm", "Somebody").packs.get()
        self.assertEqual(self.add(carton_for=stranger.pk)[0], 404)

    def test_a_copy_from_another_job_brings_its_artwork_and_its_colours(self) -> None:
        other = start_job("Secret balm", "Somebody")
        label = SimpleUploadedFile("label.png", png())
        sha = self.client.post(f"/api/jobs/{other.slug}/artwork", {"file": label}).json()["sha256"]
        palette = services.palette_of(other)
        revisions.save(palette, core.Palette(entries={"Glass": core.Clear(colour="#224466")}), base=1)
        row = other.packs.get()
        document = row.read()
        body = document.form.body.model_copy(update={"material": core.Linked(entry="Glass")})
        panel = document.panels[0].model_copy(update={"placements": [core.Placement(artwork=sha, width=20)]})
        form = document.form.model_copy(update={"body": body})
        revisions.save(row, document.model_copy(update={"form": form, "panels": [panel]}), base=1)
        self.assertEqual(self.add(copy_of=row.pk)[0], 200)
        copy = self.detail()["packs"][1]["document"]
        self.assertEqual(copy["form"]["body"]["material"]["colour"], "#224466")
        listed = self.client.get(f"/api/jobs/{self.job.slug}/artwork").json()
        self.assertEqual([a["sha256"] for a in listed], [sha])

    def test_names_are_told_apart_and_keys_stay(self) -> None:
        made = self.add(start="jar-50")[1]
        first = self.pack()
        status, answer = self.send("put", f"/api/packs/{made['id']}/name", {"name": first["name"]})
        self.assertEqual((status, answer["place"]), (422, "name"))
        self.assertIn("choose another name", answer["message"])
        status, renamed = self.send("put", f"/api/packs/{made['id']}/name", {"name": "  Quince balm "})
        self.assertEqual((status, renamed["name"], renamed["key"]), (200, "Quince balm", made["key"]))
        self.assertEqual(self.send("put", f"/api/packs/{made['id']}/name", {"name": " "})[0], 422)

    def test_it_is_called_after_what_it_is_started_from_until_somebody_names_it(self) -> None:
        made = self.add(start="cylinder")[1]
        begun = self.send("put", f"/api/packs/{made['id']}/started-from", {"start": "jar-50"})[1]
        self.assertNotEqual(begun["name"], made["name"])
        self.send("put", f"/api/packs/{made['id']}/name", {"name": "Mine"})
        again = self.send("put", f"/api/packs/{made['id']}/started-from", {"start": "cylinder"})[1]
        self.assertEqual(again["name"], "Mine")

    def test_packs_are_put_in_order(self) -> None:
        for _ in range(2):
            self.add(start="jar-50")
        keys = [pack["key"] for pack in self.detail()["packs"]]
        wanted = [keys[2], keys[0]]
        address = f"/api/jobs/{self.job.slug}/packs/order"
        told = self.send("put", address, {"keys": [*wanted, "gone", *wanted]})[1]
        self.assertEqual([row["key"] for row in told], [*wanted, keys[1]])
        self.assertEqual([pack["key"] for pack in self.detail()["packs"]], [*wanted, keys[1]])

    def test_what_is_taken_away_is_fetched_back(self) -> None:
        made = self.add(start="jar-50")[1]
        self.assertEqual(self.send("post", f"/api/packs/{made['id']}/remove")[0], 200)
        detail = self.detail()
        self.assertEqual(len(detail["packs"]), 1)
        self.assertEqual(detail["removed"], [{"kind": "pack", "id": made["id"], "name": made["name"]}])
        self.add(start="jar-50")
        back = self.send("post", f"/api/packs/{made['id']}/fetch-back")[1]
        self.assertEqual(back["name"], f"{made['name']} 2", "its name is taken meanwhile")
        self.assertEqual(self.detail()["removed"], [])

    def test_the_last_pack_stays(self) -> None:
        status, answer = self.send("post", f"/api/packs/{self.pack()['id']}/remove")
        self.assertEqual(status, 422)
        self.assertIn("only one", answer["message"])

    def test_a_hero_that_was_taken_away_is_said_and_another_can_be_chosen(self) -> None:
        made = self.add(start="jar-50")[1]
        shot = self.detail()["shots"][0]
        shot["document"]["hero"] = made["key"]
        body = {"base_revision": shot["revision"], "document": shot["document"]}
        saved = self.send("put", f"/api/shots/{shot['id']}", body)[1]
        self.send("post", f"/api/packs/{made['id']}/remove")
        wish = {"width": 64, "height": 80, "samples": 4}
        status, answer = self.send("post", f"/api/shots/{shot['id']}/orders", wish)
        self.assertEqual(status, 422)
        self.assertIn("not in the job any more: choose another", answer["message"])
        saved["document"]["hero"] = self.pack()["key"]
        body = {"base_revision": saved["revision"], "document": saved["document"]}
        self.assertEqual(self.send("put", f"/api/shots/{shot['id']}", body)[0], 200)
        self.assertEqual(self.send("post", f"/api/shots/{shot['id']}/orders", wish)[0], 200)

    def test_three_hundred_packs_are_too_many(self) -> None:
        document = self.job.packs.get().document
        Pack.objects.bulk_create(
            Pack(job=self.job, slug=f"p{n}", name=f"Pack {n}", document=document, revision=1)
            for n in range(services.MOST_ROWS - 1)
        )
        status, answer = self.add(start="jar-50")
        self.assertEqual(status, 422)
        self.assertIn("at most 100", answer["message"])

    def test_each_has_a_picture(self) -> None:
        response = self.client.get(f"/api/packs/{self.pack()['id']}/picture.svg")
        self.assertEqual((response.status_code, response["Content-Type"]), (200, "image/svg+xml"))
        self.assertTrue(response.content.startswith(b"<svg"))

    def test_a_new_job_s_pack_is_named_too(self) -> None:
        self.assertEqual(Job.objects.get(pk=self.job.pk).packs.get().name, services.starting_point().title)


class OtherRowsTests(StudioTestCase):
    def detail(self) -> dict:
        return self.client.get(f"/api/jobs/{self.job.slug}").json()

    def add(self, rows: str, **how: object) -> tuple[int, dict]:
        return self.send("post", f"/api/jobs/{self.job.slug}/add/{rows}", how)

    def test_shots_sets_and_colourways_are_added_copied_and_told_apart(self) -> None:
        shot = self.detail()["shots"][0]
        self.assertEqual(self.add("shots", copy_of=shot["id"])[1]["name"], "Hero 2")
        self.assertEqual(self.add("sets")[1]["name"], "Set")
        self.assertEqual(self.add("colourways", name="Damson")[1]["key"], "damson")
        detail = self.detail()
        self.assertEqual([len(detail[rows]) for rows in ("shots", "sets", "colourways")], [2, 2, 1])
        self.assertEqual(detail["shots"][1]["document"], shot["document"])
        self.assertIsNotNone(detail["sets"][1]["document"]["scaled_for"])

    def test_a_shot_of_another_job_is_not_copied(self) -> None:
        other = start_job("Secret balm", "Somebody")
        self.assertEqual(self.add("shots", copy_of=other.shots.get().pk)[0], 404)

    def test_the_last_shot_stays_and_the_last_colourway_may_go(self) -> None:
        shot = self.detail()["shots"][0]
        status, answer = self.send("post", f"/api/shots/{shot['id']}/remove")
        self.assertEqual(status, 422)
        self.assertIn("only one", answer["message"])
        way = self.add("colourways")[1]
        self.assertEqual(self.send("post", f"/api/colourways/{way['id']}/remove")[0], 200)
        self.assertEqual(self.detail()["removed"][0]["name"], "Colourway")
        self.assertEqual(self.send("post", f"/api/colourways/{way['id']}/fetch-back")[0], 200)
        self.assertEqual(self.detail()["colourways"][0]["key"], way["key"])

    def test_a_hundred_and_no_more(self) -> None:
        for number in range(services.MOST_ROWS):
            services.add_row(services.ADDRESSES["colourways"], self.job, f"Way {number}", core.Colourway())
        status, answer = self.add("colourways")
        self.assertEqual(status, 422)
        self.assertIn("at most 100", answer["message"])
        self.assertEqual(self.client.get(f"/api/jobs/{self.job.slug}").status_code, 200)
