"""Received models through the API: read, taken up, added, replaced, labelled, and packs sent elsewhere."""

from __future__ import annotations

import io
import math
from typing import Any

import trimesh
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from giftwrap.core import model as core
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.tests.models import bottle_glb, exported, label_sheet
from giftwrap.studio.files import read_file
from giftwrap.studio.jobs import services
from giftwrap.studio.library.models import Artwork
from giftwrap.studio.tests.base import StudioTestCase


def setUpModule() -> None:
    """What reads models is loaded once, as it is in the web process."""
    start_reading(EVERYTHING)


class ReceivedTestCase(StudioTestCase):
    def read(self, *files: tuple[str, bytes], query: str = "") -> tuple[int, Any]:
        sent = [SimpleUploadedFile(name, data) for name, data in files]
        response = self.client.post(f"/api/jobs/{self.job.slug}/models/read{query}", {"file": sent})
        return response.status_code, response.json()

    def bottle(self) -> dict[str, Any]:
        """The bottle as a pack, its materials said in full."""
        status, answer = self.read(("bottle.glb", bottle_glb()))
        self.assertEqual(status, 200, answer)
        pack = core.Pack(form=core.Received.model_validate(answer["received"]))
        palette = core.Palette.model_validate({"entries": answer["entries"]})
        found: dict[str, Any] = core.dressed("bottle", pack, palette).model_dump(mode="json")
        return found


class ReadingTests(ReceivedTestCase):
    def test_a_model_is_read_and_its_pictures_kept(self) -> None:
        status, answer = self.read(("Bottle.glb", bottle_glb()))
        self.assertEqual(status, 200, answer)
        received = answer["received"]
        self.assertEqual([p["name"] for p in received["parts"]], ["Bottle", "Liquid", "Cap", "Front label"])
        self.assertEqual(set(answer["entries"]), {"green glass", "juice", "brass", "paper"})
        self.assertEqual([a.filename for a in Artwork.objects.filter(job=self.job)], ["paper.png"])
        self.assertEqual(services.palette_of(self.job).revision, 1)  # nothing in the job has changed

    def test_gloss_and_relief_of_a_model_lie_as_it_was_unwrapped(self) -> None:
        """Its pictures are kept as every material's are."""
        rough = Image.new("RGB", (32, 16), (0, 200, 255))
        ramp, level = Image.linear_gradient("L").resize((32, 16)), Image.new("L", (32, 16), 180)
        facing = Image.merge("RGB", [ramp, level, level])
        sheet = label_sheet()
        sheet.visual.material.metallicRoughnessTexture = rough
        sheet.visual.material.normalTexture = facing
        status, answer = self.read(("sheet.glb", exported(trimesh.Scene({"Sheet": sheet}), "glb")))
        self.assertEqual(status, 200, answer)
        grain = answer["entries"]["paper"]["grain"]
        self.assertEqual(grain["lies"], "unwrapped")
        for part in ("gloss", "relief"):
            self.assertIsNotNone(read_file(grain["pattern"][part]))
        self.assertIsNone(grain["pattern"]["colour"])
        self.assertEqual([a.filename for a in Artwork.objects.filter(job=self.job)], ["paper.png"])

    def test_a_picture_that_repeats_is_of_its_material(self) -> None:
        sheet = label_sheet()
        sheet.visual.uv = 4 * sheet.visual.uv
        status, answer = self.read(("sheet.glb", exported(trimesh.Scene({"Sheet": sheet}), "glb")))
        self.assertEqual(status, 200, answer)
        grain = answer["entries"]["paper"]["grain"]
        self.assertEqual((grain["lies"], grain["share"]), ("unwrapped", 1.0))
        self.assertIsNotNone(read_file(grain["pattern"]["colour"]))
        self.assertFalse(Artwork.objects.filter(job=self.job).exists())
        self.assertIn("they are on what it is made of", " ".join(answer["received"]["notes"]))

    def test_several_files_are_one_model(self) -> None:
        obj = b"mtllib a.mtl\no Cube\nv 0 0 0\nv 30 0 0\nv 0 30 0\nv 0 0 30\nusemtl red\n"
        obj += b"f 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n"
        status, answer = self.read(("cube.obj", obj), ("a.mtl", b"newmtl red\nKd 0.8 0.1 0.1\n"))
        self.assertEqual(status, 200, answer)
        self.assertEqual(answer["entries"]["red"]["colour"], "#cc1a1a")

    def test_what_cannot_be_read_is_refused_in_words(self) -> None:
        for name, data, words in (
            ("short.glb", bottle_glb()[:5000], "cut short"),
            ("notes.txt", b"hello", "no model"),
            ("x.stl", b"\0" * 80 + b"\xff\xff\xff\x7f", "million triangles|cut short"),
        ):
            status, answer = self.read((name, data))
            with self.subTest(name):
                self.assertEqual(status, 422)
                self.assertRegex(answer["message"], words)
        self.assertEqual(self.client.post(f"/api/jobs/{self.job.slug}/models/read").status_code, 422)
        self.assertEqual(self.read(("a.glb", bottle_glb()), query="?chord=9")[0], 422)


class TakenUpTests(ReceivedTestCase):
    def test_it_becomes_a_pack_of_the_job(self) -> None:
        _, answer = self.read(("Bottle.glb", bottle_glb()))
        palette = services.palette_of(self.job)
        body = {
            "base_revision": palette.revision,
            "document": {"schema_version": 1, "entries": answer["entries"]},
        }
        self.assertEqual(self.send("put", f"/api/palettes/{palette.pk}", body)[0], 200)
        status, row = self.send(
            "post", f"/api/jobs/{self.job.slug}/add/packs", {"received": answer["received"]}
        )
        self.assertEqual((status, row["name"]), (200, "Bottle"))
        detail = self.client.get(f"/api/jobs/{self.job.slug}").json()
        self.assertEqual(detail["packs"][1]["document"]["form"]["kind"], "received")
        picture = self.client.get(f"/api/packs/{row['id']}/picture.svg")
        self.assertIn(b"<path", picture.content)
        boxed = self.send("post", f"/api/jobs/{self.job.slug}/add/packs", {"carton_for": row["id"]})
        self.assertEqual(boxed[0], 200)

    def test_without_its_materials_it_is_refused(self) -> None:
        _, answer = self.read(("Bottle.glb", bottle_glb()))
        status, said = self.send(
            "post", f"/api/jobs/{self.job.slug}/add/packs", {"received": answer["received"]}
        )
        self.assertEqual(status, 422)
        self.assertIn("palette does not have", said["message"])

    def test_a_page_gets_everything_to_draw_it(self) -> None:
        pack = self.bottle()
        pack["panels"] = [{"kind": "picked", "part": "Bottle", "at": [0, 34, 60], "width": 30, "height": 20}]
        status, shape = self.send("post", "/api/shape", {"pack": pack})
        self.assertEqual((status, shape["kind"]), (200, "received"), shape)
        self.assertEqual([panel["name"] for panel in shape["panels"]], ["Front label", "Label"])
        self.assertEqual({s["panel"] for s in shape["surfaces"]}, {None, 0, 1})
        self.assertEqual(
            {one["part"] for one in shape["side"]}, {"Bottle", "Liquid", "Cap", "Front label", "label-1"}
        )
        self.assertLess(shape["sheets"][0]["worst"], 0.01)
        self.assertAlmostEqual(shape["facts"]["contents_ml"], 268, delta=2)

    def test_what_is_wrong_is_said_with_its_place(self) -> None:
        for change, place in (
            ({"unit_mm": 1e5}, "form.unit_mm"),
            ({"model": "0" * 64}, "form.model"),
            ({"up": "+w"}, "form.up"),
            ({"parts": []}, "form.parts"),
            ({"fill_height": 1.0}, "form.fill_height"),
        ):
            pack = self.bottle()
            pack["form"] |= change
            status, answer = self.send("post", "/api/shape", {"pack": pack})
            with self.subTest(place):
                self.assertEqual((status, answer["place"].removeprefix("pack.")), (422, place), answer)
        pack = self.bottle()
        pack["panels"] = [{"kind": "picked", "part": "Bottle", "at": [0, 34, 60], "width": -1, "height": 20}]
        status, answer = self.send("post", "/api/shape", {"pack": pack})
        self.assertEqual((status, answer["place"]), (422, "panels.0.width"))
        self.assertIn(
            "where one picks a place",
            self.send("post", "/api/starting-panel", {"pack": self.bottle()})[1]["message"],
        )

    def test_a_newer_file_takes_its_place(self) -> None:
        old = self.bottle()["form"]
        old["parts"][0] |= {"name": "Glass", "wall": 2.5}
        _, newer = self.read(("Bottle v2.glb", bottle_glb()))
        status, made = self.send("post", "/api/received/replace", {"old": old, "newer": newer["received"]})
        self.assertEqual(status, 200, made)
        self.assertEqual([p["name"] for p in made["parts"]], ["Glass", "Liquid", "Cap", "Front label"])
        self.assertEqual(made["parts"][0]["wall"], 2.5)
        self.assertEqual(made["file"], "Bottle v2.glb")

    def test_parts_are_merged_and_split(self) -> None:
        form = self.bottle()["form"]
        status, one = self.send("post", "/api/received/merge", {"received": form, "parts": [0, 2]})
        self.assertEqual(
            (status, [p["name"] for p in one["parts"]]), (200, ["Bottle", "Liquid", "Front label"])
        )
        status, two = self.send("post", "/api/received/split", {"received": one, "parts": [0]})
        self.assertEqual((status, len(two["parts"])), (200, 4))
        status, refused = self.send("post", "/api/received/split", {"received": form, "parts": [0]})
        self.assertEqual(status, 422)
        self.assertIn("hangs together", refused["message"])

    def test_a_label_is_cut_to_a_loop(self) -> None:
        pack = self.bottle()
        label = {"kind": "picked", "part": "Bottle", "at": [0, -35, 60], "width": 20, "height": 20}
        pack["panels"] = [label]
        loop = [[10 * math.sin(t), -34, 60 + 8 * math.cos(t)] for t in (0, 1, 2, 3, 4, 5)]
        body = {"pack": pack, "panel": 0, "part": "Bottle", "loop": loop}
        status, found = self.send("post", "/api/lasso", body)
        self.assertEqual(status, 200, found)
        self.assertGreater(len(found["outline"]), 5)
        self.assertTrue(18 < found["width"] < 22 and 14 < found["height"] < 17, found)
        for wrong, words in (
            ({"panel": 3}, "no such label"),
            ({"loop": [[0, -35, 60]] * 3}, "too small"),
            ({"pack": {**pack, "panels": [{**label, "part": "Cork"}]}}, "no “Cork” to label"),
        ):
            status, refused = self.send("post", "/api/lasso", body | wrong)
            with self.subTest(words):
                self.assertEqual(status, 422, refused)
                self.assertIn(words, refused["message"])

    def test_another_unit(self) -> None:
        status, larger = self.send("post", "/api/received/resize", {"pack": self.bottle(), "unit_mm": 2000})
        self.assertEqual((status, larger["form"]["unit_mm"]), (200, 2000))
        status, _ = self.send(
            "post",
            "/api/received/resize",
            {
                "pack": core.Pack(form=core.Carton(style="tray", length=60, width=60, depth=30)).model_dump(
                    mode="json"
                ),
                "unit_mm": 2,
            },
        )
        self.assertEqual(status, 422)


class SendingTests(ReceivedTestCase):
    def test_packs_go_out_as_files(self) -> None:
        document = self.pack()["document"]
        for form in ("glb", "stl", "3mf"):
            response = self.client.post(
                f"/api/pack.{form}", {"pack": document}, content_type="application/json"
            )
            with self.subTest(form):
                self.assertEqual(response.status_code, 200)
                scene = trimesh.load_scene(io.BytesIO(response.content), file_type=form)
                self.assertGreater(float(max(scene.extents)), 0.05)
        carton = core.Pack(form=core.Carton(style="tray", length=60, width=60, depth=30)).model_dump(
            mode="json"
        )
        refused = self.client.post("/api/pack.stl", {"pack": carton}, content_type="application/json")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("save its blank", refused.json()["message"])

    def test_a_received_model_goes_out_again(self) -> None:
        response = self.client.post("/api/pack.glb", {"pack": self.bottle()}, content_type="application/json")
        self.assertEqual(response.status_code, 200)
        scene = trimesh.load_scene(io.BytesIO(response.content), file_type="glb")
        self.assertAlmostEqual(float(scene.extents[1]), 0.195, places=4)

    def test_a_set_goes_out_with_its_camera(self) -> None:
        response = self.client.get(f"/api/shots/{self.shot.pk}/scene.glb")
        self.assertEqual(response.status_code, 200)
        self.assertIn(".glb", response["Content-Disposition"])
        self.assertIn(b'"cameras"', response.content[:200_000])
        self.assertEqual(self.client.get("/api/shots/999/scene.glb").status_code, 404)

    def test_what_is_sent_can_be_read_in_again(self) -> None:
        response = self.client.post(
            "/api/pack.glb", {"pack": self.pack()["document"]}, content_type="application/json"
        )
        status, answer = self.read(("again.glb", response.content))
        self.assertEqual(status, 200, answer)
        self.assertEqual(answer["received"]["unit_mm"], 1000)
        box = trimesh.creation.box((10, 20, 30))
        self.assertEqual(self.read(("box.stl", exported(box, "stl")))[1]["received"]["up"], "+z")
