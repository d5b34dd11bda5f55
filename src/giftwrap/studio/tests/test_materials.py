"""The library of materials as pages ask for it."""

from __future__ import annotations

import io
import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from giftwrap.core.materials.library import library
from giftwrap.core.render.swatches import swatch_file
from giftwrap.studio.library.artwork import add_artwork
from giftwrap.studio.library.models import OwnMaterial
from giftwrap.studio.library.own_materials import picture_file, without_picture
from giftwrap.studio.tests.base import StudioTestCase


class LibraryTests(StudioTestCase):
    def asked(self, **query: str) -> list[dict]:
        response = self.client.get("/api/material-library", query)
        self.assertEqual(response.status_code, 200, response.content[:200])
        return response.json()

    def test_all_of_it_and_what_is_sought(self) -> None:
        self.assertEqual([one["key"] for one in self.asked()], [one.key for one in library()])
        (amber, *_) = self.asked(words="amber", family="Glass")
        self.assertEqual((amber["name"], amber["finish"]), ("Amber glass", "clear"))
        self.assertEqual(amber["material"]["kind"], "clear")
        self.assertIn("from memory", amber["source"])
        near = self.asked(near="#101113", finish="gloss")
        self.assertEqual(near[0]["name"], "Gloss black ABS")

    def test_what_is_not_understood_is_said(self) -> None:
        for query, place in (({"near": "blue"}, "near"), ({"finish": "shiny"}, "finish")):
            response = self.client.get("/api/material-library", query)
            self.assertEqual(response.status_code, 422)
            self.assertIn(place, response.json()["place"])

    def test_a_picture_and_none(self) -> None:
        response = self.client.get("/api/material-library/amber-glass.webp")
        self.assertEqual((response.status_code, response["Content-Type"]), (200, "image/webp"))
        self.assertEqual(Image.open(io.BytesIO(response.content)).size, (168, 126))
        for wrong in ("no-such", "..%2Fsecret", "own-7", "own-x", f"own-{'9' * 40}"):
            response = self.client.get(f"/api/material-library/{wrong}.webp")
            self.assertIn(response.status_code, (404, 422))


class OwnTests(StudioTestCase):
    """Materials that the studio saves, and brand colours."""

    def sent(self, path: str, data: bytes, name: str) -> Any:
        return self.client.post(path, {"file": SimpleUploadedFile(name, data)})

    def saved(self, name: str, **material: object) -> list[dict]:
        body = {"name": name, "material": {"kind": "opaque", **material}}
        response = self.client.post("/api/own-materials", json.dumps(body), content_type="application/json")
        self.assertEqual(response.status_code, 200, response.content[:300])
        return response.json()

    def test_saved_found_and_taken_away(self) -> None:
        self.saved("Orchard green", colour="#335a3c")
        first, second = self.saved("Orchard green", colour="#335a3d", grain={"pattern": "leather"})
        self.assertEqual([first["name"], second["name"]], ["Orchard green 2", "Orchard green"])
        found = self.client.get("/api/material-library", {"words": "orchard gre"}).json()
        self.assertEqual([one["key"] for one in found], [first["key"], second["key"]])
        self.assertTrue(found[0]["own"])
        self.assertEqual(self.client.get(f"/api/material-library/{first['key']}.webp").status_code, 404)
        number = first["key"].removeprefix("own-")
        left = self.client.delete(f"/api/own-materials/{number}").json()
        self.assertEqual([one["name"] for one in left], ["Orchard green"])
        self.assertEqual(self.client.delete(f"/api/own-materials/{number}").status_code, 404)

    def test_there_and_back(self) -> None:
        self.saved("Orchard green", colour="#335a3c", sheen=0.4)
        file = self.client.get("/api/own-materials.json").content
        (kept,) = json.loads(file)["materials"]
        self.assertEqual((kept["name"], kept["material"]["sheen"]), ("Orchard green", 0.4))
        both = self.sent("/api/own-materials.json", file, "ours.json").json()
        self.assertEqual([one["name"] for one in both], ["Orchard green 2", "Orchard green"])

    def test_a_broken_file_saves_nothing(self) -> None:
        good = {"name": "Good", "material": {"kind": "opaque"}}
        bad = {"name": "Bad", "material": {"kind": "opaque", "gloss": 7}}
        for data, words in ((b"{", "line 1"), (json.dumps({"materials": [good, bad]}).encode(), "number 2")):
            response = self.sent("/api/own-materials.json", data, "theirs.json")
            self.assertEqual(response.status_code, 422)
            self.assertIn(words, response.json()["message"])
        self.assertFalse(OwnMaterial.objects.exists())

    def test_what_cannot_be_read_any_more_hides_nothing_else(self) -> None:
        OwnMaterial.objects.create(name="Of another time", document={"kind": "plasma"})
        with self.assertLogs("giftwrap.studio.library.own_materials", "ERROR"):
            self.assertEqual([one["name"] for one in self.saved("Whole")], ["Whole"])

    def test_its_picture_is_drawn_once_it_is_there(self) -> None:
        self.saved("Orchard green", colour="#335a3c")
        settled: set[int] = set()
        wanting = without_picture(settled)
        assert wanting is not None
        _, one = wanting
        picture_file(one).parent.mkdir(parents=True)
        picture_file(one).write_bytes(swatch_file(one.material))
        self.assertIsNone(without_picture(settled))
        self.assertEqual(len(settled), 1)
        response = self.client.get(f"/api/material-library/{one.key}.webp")
        self.assertEqual(Image.open(io.BytesIO(response.content)).size, (168, 126))

    def test_brand_colours(self) -> None:
        (leaf,) = self.sent("/api/brand-colours/file", b"name;L;a;b\nLeaf;76,5;-8,2;16,9\n", "b.csv").json()
        self.assertEqual(leaf["name"], "Leaf")
        self.assertAlmostEqual(leaf["lab"][0], 76.5, delta=0.4)
        named = [{"name": "Leaf", "hex": leaf["hex"], "spot": "Leaf 7"}]
        for form, words in (("csv", b"Leaf 7"), ("json", b'"spot": "Leaf 7"')):
            response = self.client.post(
                f"/api/brand-colours.{form}", json.dumps(named), content_type="application/json"
            )
            self.assertIn(words, response.content)
        broken = self.sent("/api/brand-colours/file", b"name,hex\nA,#12\n", "b.csv")
        self.assertIn("line 2", broken.json()["message"])

    def test_lab_and_what_no_screen_shows(self) -> None:
        ask = {"lightness": 50, "a": 90, "b": -90}
        found = self.client.get("/api/colour-of-lab", ask).json()
        self.assertGreater(found["off"], 2)
        self.assertEqual(self.client.get("/api/colour-of-lab", {**ask, "a": "nan"}).status_code, 422)

    def test_colours_of_an_artwork(self) -> None:
        job = self.job
        drawn = b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="20mm"><rect width="100%" height="100%" fill="#5b1e3c"/><rect width="30%" height="100%" fill="#d9a441"/></svg>'  # noqa: E501
        artwork = add_artwork(job, drawn, "mark.svg")
        found = self.client.get(f"/api/artwork/{artwork.pk}/colours").json()
        self.assertEqual([one["hex"] for one in found], ["#5b1e3c", "#d9a441"])
