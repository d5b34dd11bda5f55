"""Labels of each kind, what becomes of them on the pack, fields and what a shot sees, by the API."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from giftwrap.studio.tests.base import StudioTestCase

SVG = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
    b'<rect width="60" height="40" fill="#e9d9a8"/>'
    b'<text id="flavour" x="8" y="24" font-size="9">Quince</text></svg>'
)


class LabelTests(StudioTestCase):
    def document(self, *panels: dict[str, Any]) -> dict[str, Any]:
        return {**self.pack()["document"], "panels": list(panels)}

    def sleeve(self, **more: Any) -> dict[str, Any]:
        return {"kind": "sleeve", "from_base": 5, "width": 240, "height": 170, **more}

    def upload(self) -> dict[str, Any]:
        address = f"/api/jobs/{self.job.slug}/artwork"
        return self.client.post(address, {"file": SimpleUploadedFile("label.svg", SVG)}).json()

    def test_each_kind_begins_as_what_suits_the_pack(self) -> None:
        for kind, made in (("around", "wrap"), ("sleeve", "sleeve"), ("seal", "seal"), ("top", "picked")):
            status, panel = self.send("post", f"/api/starting-panel?kind={kind}", {"pack": self.document()})
            self.assertEqual((status, panel["kind"]), (200, made), panel)
            status, shape = self.send("post", "/api/shape", {"pack": self.document(panel)})
            self.assertEqual(status, 200, shape)
            [sheet] = shape["sheets"]
            self.assertEqual(sheet["name"], panel["name"])
            self.assertEqual(sheet["pulled"], made == "sleeve")
        open_pack = self.document()
        open_pack["form"] = {**open_pack["form"], "closure": None}
        status, refused = self.send("post", "/api/starting-panel?kind=top", {"pack": open_pack})
        self.assertEqual(status, 422)
        self.assertIn("no closure to label", refused["message"])

    def test_a_place_is_picked_on_a_closure_that_is_lifted(self) -> None:
        pack = self.document()
        pack["form"]["closure"] = {**pack["form"]["closure"], "lift": 40}
        _, shut = self.send("post", "/api/shape", {"pack": self.document()})
        top = shut["facts"]["height"]
        body = {"pack": pack, "part": "closure", "at": [3, 0, top + 40]}
        status, panel = self.send("post", "/api/picked-panel", body)
        self.assertEqual((status, panel["part"]), (200, "closure"), panel)
        np.testing.assert_allclose(panel["at"], [3, 0, top], atol=0.01)
        status, refused = self.send("post", "/api/picked-panel", {**body, "part": "contents"})
        self.assertEqual(status, 422)
        self.assertIn("No label can lie on “contents”", refused["message"])

    def test_a_label_is_moved_to_a_part_of_the_closure(self) -> None:
        """Where it was let go, turned to there; one that is taller is refused with by how much."""
        flat = {"kind": "wrap", "from_base": 30, "width": 30, "height": 5}
        pack = self.document(flat)
        _, shape = self.send("post", "/api/shape", {"pack": pack})
        top = shape["facts"]["height"]
        body = {"pack": pack, "panel": 0, "part": "closure", "at": [9, 0, top - 6]}
        status, moved = self.send("post", "/api/moved-panel", body)
        self.assertEqual((status, moved["part"], moved["centre_angle"]), (200, "closure", 90.0), moved)
        _, shape = self.send("post", "/api/shape", {"pack": {**pack, "panels": [moved]}})
        self.assertEqual(len(shape["sheets"]), 1, shape)
        tall = self.document({**flat, "height": 60})
        status, refused = self.send("post", "/api/moved-panel", {**body, "pack": tall})
        self.assertEqual((status, refused["place"]), (422, "height"))
        self.assertRegex(refused["message"], "60 mm tall, the closure only .*: make it lower first")
        wide = self.document({**flat, "width": 160})
        status, refused = self.send("post", "/api/moved-panel", {**body, "pack": wide})
        self.assertEqual((status, refused["place"]), (422, "panel.width"))
        sleeve = self.document(self.sleeve())
        status, refused = self.send("post", "/api/moved-panel", {**body, "pack": sleeve})
        self.assertEqual(status, 422)
        self.assertIn("lies over the whole pack", refused["message"])

    def test_a_sleeve_is_mapped_and_compensated(self) -> None:
        name = self.upload()["sha256"]
        placed = {"artwork": name, "x": 60, "y": 40, "width": 120}
        body = {"pack": self.document(self.sleeve(placements=[placed])), "panel": 0}
        status, found = self.send("post", "/api/distortion", body)
        self.assertEqual(status, 200, found)
        across = np.array(found["across"], float)
        self.assertLess(across[-1].mean(), across[0].mean() - 0.1, "it narrows upwards")
        self.assertLess(found["mean"], found["worst"])
        response = self.client.post("/api/compensated.png", body, content_type="application/json")
        image = Image.open(io.BytesIO(response.content))
        self.assertEqual(image.width, round(240 / 25.4 * 300))
        self.assertAlmostEqual(image.info["dpi"][0], 300, delta=1)
        flat = {"kind": "wrap", "from_base": 30, "width": 60, "height": 40}
        status, refused = self.send("post", "/api/compensated.png", {"pack": self.document(flat), "panel": 0})
        self.assertEqual(status, 422)
        self.assertIn("right as it is", refused["message"])
        status, refused = self.send("post", "/api/distortion", {**body, "panel": 7})
        self.assertEqual(status, 422)
        self.assertIn("no such label", refused["message"])

    def test_what_a_sleeve_cannot_do_is_refused_at_its_place(self) -> None:
        pack = self.document(self.sleeve(width=80))
        status, refused = self.send("post", "/api/shape", {"pack": pack})
        self.assertEqual((status, refused["place"]), (422, "panels.0.width"))

    def test_fields_are_told_and_filled_for_a_colourway(self) -> None:
        made = self.upload()
        self.assertEqual(made["fields"], {"flavour": "Quince"})
        placed = {"artwork": made["sha256"], "x": 0, "y": 0, "width": 60}
        panel = {"kind": "wrap", "from_base": 30, "width": 60, "height": 40, "placements": [placed]}

        def seen(**more: Any) -> np.ndarray:
            body = {"panel": panel, **more}
            answer = self.client.post("/api/panel-picture?ppi=100", body, content_type="application/json")
            return np.asarray(Image.open(io.BytesIO(answer.content)))

        plain = seen()
        self.assertTrue((seen(colourway={"texts": {"flavour": "Damson"}}) != plain).any())
        np.testing.assert_array_equal(seen(colourway={"texts": {"other": "Damson"}}), plain)

    def test_preflight_says_what_a_shot_sees(self) -> None:
        front = {"kind": "wrap", "from_base": 30, "width": 60, "height": 40}
        job = self.client.get(f"/api/jobs/{self.job.slug}").json()
        pack, shot = self.pack(), job["shots"][0]
        for turn, words in ((0, "camera sees 60 of its 60 mm"), (180, "camera does not see it")):
            body = {
                "pack": self.document({**front, "centre_angle": turn}),
                "key": pack["key"],
                "panel": 0,
                "shot": shot["id"],
            }
            status, found = self.send("post", "/api/preflight", body)
            self.assertEqual(status, 200, found)
            self.assertIn(words, " ".join(one["words"] for one in found))
        status, _ = self.send("post", "/api/preflight", {**body, "shot": 999_999})
        self.assertEqual(status, 404)
