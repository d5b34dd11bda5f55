"""Documents: saving, history, clashes, and refusals that leave nothing half done."""

from __future__ import annotations

import base64

from giftwrap.studio.jobs.models import Job, Revision
from giftwrap.studio.tests.base import StudioTestCase


class JobTests(StudioTestCase):
    def test_a_new_job_has_something_at_every_station(self) -> None:
        status, made = self.send("post", "/api/jobs", {"name": "Pear cordial", "client": ""})
        self.assertEqual((status, made["slug"]), (200, "pear-cordial-2"))
        detail = self.client.get("/api/jobs/pear-cordial-2").json()
        self.assertEqual([len(detail[k]) for k in ("packs", "sets", "shots")], [1, 1, 1])
        self.assertEqual(len(detail["sets"][0]["document"]["lights"]), 4)
        self.assertEqual(detail["packs"][0]["name"], "Cordial bottle")

    def test_a_nameless_job_is_refused_with_the_field(self) -> None:
        status, answer = self.send("post", "/api/jobs", {"name": "  "})
        self.assertEqual((status, answer["place"]), (422, "name"))
        self.assertEqual(Job.objects.count(), 1)

    def test_names_that_make_no_address_still_work(self) -> None:
        self.assertEqual(self.send("post", "/api/jobs", {"name": "梨"})[1]["slug"], "job")

    def test_unknown_job_is_said_plainly(self) -> None:
        response = self.client.get("/api/jobs/nowhere")
        self.assertEqual(response.status_code, 404)
        self.assertIn("not here", response.json()["message"])


class SavingTests(StudioTestCase):
    def save(self, row: dict, *, base: int | None = None, **body_changes: object) -> tuple[int, dict]:
        document = row["document"]
        document["form"]["body"] = {**document["form"]["body"], **body_changes}
        wish = {"base_revision": row["revision"] if base is None else base, "document": document}
        return self.send("put", f"/api/packs/{row['id']}", wish)

    def test_every_save_is_a_revision_and_undo_and_redo_walk_them(self) -> None:
        row = self.pack()
        _, saved = self.save(row, wall_thickness=3.0)
        self.assertEqual((saved["revision"], saved["can_undo"], saved["can_redo"]), (2, True, False))
        _, undone = self.send("post", f"/api/packs/{row['id']}/undo")
        self.assertEqual(undone["document"]["form"]["body"]["wall_thickness"], 2.6)
        self.assertEqual((undone["can_undo"], undone["can_redo"]), (False, True))
        status, answer = self.send("post", f"/api/packs/{row['id']}/undo")
        self.assertEqual(status, 409)
        self.assertIn("nothing to undo", answer["message"])
        _, redone = self.send("post", f"/api/packs/{row['id']}/redo")
        self.assertEqual(redone["document"]["form"]["body"]["wall_thickness"], 3.0)

    def test_saving_after_undo_keeps_the_other_branch(self) -> None:
        row = self.pack()
        self.save(row, wall_thickness=3.0)
        _, undone = self.send("post", f"/api/packs/{row['id']}/undo")
        _, saved = self.save(undone, wall_thickness=2.0)
        self.assertEqual((saved["revision"], saved["can_redo"]), (3, False))
        _, restored = self.send("post", f"/api/packs/{row['id']}/restore", {"number": 2})
        self.assertEqual(restored["document"]["form"]["body"]["wall_thickness"], 3.0)

    def test_saving_the_same_again_makes_no_revision(self) -> None:
        row = self.pack()
        self.assertEqual(self.save(row)[1]["revision"], 1)

    def test_a_stale_save_is_refused_and_both_sides_are_kept(self) -> None:
        mine, theirs = self.pack(), self.pack()
        self.save(theirs, wall_thickness=3.0)
        status, answer = self.save(mine, wall_thickness=2.0)
        self.assertEqual((status, answer["current"], answer["kept"]), (409, 2, 3))
        self.assertEqual(self.pack()["document"]["form"]["body"]["wall_thickness"], 3.0)
        self.send("post", f"/api/packs/{mine['id']}/undo")
        self.assertEqual(
            self.send("post", f"/api/packs/{mine['id']}/redo")[1]["document"]["form"]["body"][
                "wall_thickness"
            ],
            3.0,
            "redo does not step onto a refused revision",
        )
        _, settled = self.send("post", f"/api/packs/{mine['id']}/restore", {"number": answer["kept"]})
        self.assertEqual(settled["document"]["form"]["body"]["wall_thickness"], 2.0)

    def test_an_impossible_pack_is_refused_and_nothing_is_saved(self) -> None:
        row = self.pack()
        status, answer = self.save(row, wall_thickness=15.0, base_thickness=15.0)
        self.assertEqual((status, answer["place"]), (422, "form.body.wall_thickness"))
        self.assertIn("leaves no opening", answer["message"])
        self.assertEqual(Revision.objects.filter(kind="pack", row=row["id"]).count(), 1)

    def test_a_crossing_profile_names_its_place(self) -> None:
        row = self.pack()
        corners = [
            {"radius": r, "height": h, "rounding": 0}
            for r, h in ((30, 0), (40, 100), (40, 20), (20, 90), (9, 120))
        ]
        status, answer = self.save(row, profile=corners)
        self.assertEqual(status, 422)
        self.assertIn("crosses itself", answer["message"])
        self.assertEqual(answer["place"], "form.body.profile")

    def test_unknown_fields_and_wrong_types_are_refused(self) -> None:
        row = self.pack()
        for changes in ({"colour": "red"}, {"wall_thickness": "thick"}, {"profile": []}):
            status, answer = self.save(self.pack(), **changes)
            self.assertEqual(status, 422, changes)
            self.assertTrue(answer["message"])
        self.assertEqual(self.pack()["revision"], row["revision"])

    def test_a_panel_cannot_carry_artwork_that_is_not_there(self) -> None:
        row = self.pack()
        row["document"]["panels"][0]["placements"] = [{"artwork": "0" * 64, "x": 0, "y": 0, "width": 20}]
        status, answer = self.save(row)
        self.assertEqual(status, 422)
        self.assertEqual(answer["place"], "panels.0.placements.0.artwork")


class OddRowTests(StudioTestCase):
    """One document that cannot be used does not stop the rest of the job."""

    def test_a_document_of_a_newer_release_is_named(self) -> None:
        row = self.job.packs.get()
        row.document = {**row.document, "schema_version": 99}
        row.save()
        response = self.client.get(f"/api/jobs/{self.job.slug}")
        self.assertEqual(response.status_code, 422)
        self.assertIn("“Cordial bottle” cannot be read", response.json()["message"])
        self.assertIn("newer release", response.json()["message"])
        self.assertEqual(self.client.get("/api/jobs").status_code, 200)

    def test_a_set_whose_pack_is_gone_is_still_drawn(self) -> None:
        detail = self.client.get(f"/api/jobs/{self.job.slug}").json()
        photo_set, shot = detail["sets"][0], detail["shots"][0]
        lost = {"id": "left", "of": {"kind": "pack", "pack": "tin"}}
        photo_set["document"]["standing"].append(lost)
        wish = {
            "photo_set": photo_set["document"],
            "shot": shot["document"],
        }
        status, plan = self.send("post", f"/api/shots/{shot['id']}/plan", wish)
        self.assertEqual((status, len(plan["lights"]), list(plan["gone"])), (200, 4, ["left"]))
        body = {"base_revision": photo_set["revision"], "document": photo_set["document"]}
        self.assertEqual(self.send("put", f"/api/sets/{photo_set['id']}", body)[0], 200)
        order = {"width": 64, "height": 80, "samples": 4}
        status, answer = self.send("post", f"/api/shots/{shot['id']}/orders", order)
        self.assertEqual(status, 422)
        self.assertIn("“left” on the set is the pack “tin”", answer["message"])
        self.assertEqual(self.client.get(f"/api/jobs/{self.job.slug}").status_code, 200)

    def test_a_pack_linked_to_an_entry_that_is_missing_is_refused_and_the_rest_works(self) -> None:
        row = self.pack()
        row["document"]["form"]["body"]["material"] = {"kind": "linked", "entry": "Amber"}
        body = {"base_revision": row["revision"], "document": row["document"]}
        status, answer = self.send("put", f"/api/packs/{row['id']}", body)
        self.assertEqual((status, answer["place"]), (422, "form.body.material"))
        self.assertIn("“Amber”", answer["message"])
        palette = self.client.get(f"/api/jobs/{self.job.slug}").json()["palette"]
        palette["document"]["entries"]["Amber"] = {"kind": "clear", "colour": "#9a5a1e"}
        wish = {"base_revision": palette["revision"], "document": palette["document"]}
        self.assertEqual(self.send("put", f"/api/palettes/{palette['id']}", wish)[0], 200)
        self.assertEqual(self.send("put", f"/api/packs/{row['id']}", body)[0], 200)
        shape = {"pack": row["document"], "palette": palette["document"]}
        status, shown = self.send("post", "/api/shape", shape)
        glass = next(s for s in shown["surfaces"] if s["part"] == "body")
        self.assertEqual((status, glass["material"]["colour"]), (200, "#9a5a1e"))
        status, answer = self.send("post", "/api/shape", {"pack": row["document"]})
        self.assertEqual((status, answer["place"]), (422, "form.body.material"))


class ShapingTests(StudioTestCase):
    def test_shape_tells_outlines_and_facts_without_saving(self) -> None:
        document = self.pack()["document"]
        status, shape = self.send("post", "/api/shape", {"pack": document})
        self.assertEqual(status, 200)
        self.assertGreater(shape["facts"]["brimful_ml"], 500)
        self.assertEqual(shape["drawing"]["outer"][0], [0, 6])
        self.assertEqual(len(shape["sheets"]), 1)
        self.assertEqual(shape["parts"], ["body", "contents", "closure", "label-1"])
        faces = {s["name"]: len(base64.b64decode(s["mesh"]["faces"])) // 6 for s in shape["surfaces"]}
        self.assertEqual(sum(faces.values()), shape["facts"]["triangles"])

    def test_fill_height_and_its_refusal(self) -> None:
        body = self.pack()["document"]["form"]["body"]
        status, answer = self.send("post", "/api/fill-height", {"body": body, "volume_ml": 400})
        self.assertEqual(status, 200)
        self.assertTrue(100 < answer["fill_height"] < 150)
        status, answer = self.send("post", "/api/fill-height", {"body": body, "volume_ml": 4000})
        self.assertEqual(status, 422)
        self.assertIn("to the brim", answer["message"])

    def test_view(self) -> None:
        camera = {"lens_mm": 50, "distance": 700, "height": 100, "aim_height": 100}
        detail = self.client.get(f"/api/jobs/{self.job.slug}").json()
        purpose = {"width_px": 1500, "height_px": 1000}
        wish = {
            "photo_set": detail["sets"][0]["document"],
            "shot": {"camera": camera, "purposes": [purpose]},
        }
        _, plan = self.send("post", f"/api/shots/{self.shot.pk}/plan", wish)
        self.assertAlmostEqual(plan["view"]["vertical_angle"], 26.99, places=2)
        self.assertEqual(plan["view"]["position"], [0, -700, 100])
