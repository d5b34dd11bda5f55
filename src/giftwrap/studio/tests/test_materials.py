"""The library of materials as pages ask for it."""

from __future__ import annotations

import io
import json
from typing import Any

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from PIL import Image

from giftwrap.core.errors import PackError
from giftwrap.core.formats.archives import pack_files, unpack_files
from giftwrap.core.materials.library import library
from giftwrap.core.model.panel import pictures_in
from giftwrap.core.render.files import shelf
from giftwrap.core.render.swatches import swatch_file
from giftwrap.studio.files import file_path
from giftwrap.studio.library.artwork import add_artwork
from giftwrap.studio.library.models import OwnMaterial
from giftwrap.studio.library.own_materials import picture_file, without_picture
from giftwrap.studio.tests.base import StudioTestCase
from giftwrap.studio.upkeep.rules import HISTORY, unused_files


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
        file = self.client.get("/api/own-materials-file").content
        (kept,) = json.loads(file)["materials"]
        self.assertEqual((kept["name"], kept["material"]["sheen"]), ("Orchard green", 0.4))
        both = self.sent("/api/own-materials-file", file, "ours.json").json()
        self.assertEqual([one["name"] for one in both], ["Orchard green 2", "Orchard green"])

    def test_a_broken_file_saves_nothing(self) -> None:
        good = {"name": "Good", "material": {"kind": "opaque"}}
        bad = {"name": "Bad", "material": {"kind": "opaque", "gloss": 7}}
        for data, words in ((b"{", "line 1"), (json.dumps({"materials": [good, bad]}).encode(), "number 2")):
            response = self.sent("/api/own-materials-file", data, "theirs.json")
            self.assertEqual(response.status_code, 422)
            self.assertIn(words, response.json()["message"])
        self.assertFalse(OwnMaterial.objects.exists())

    def kept(self, values: np.ndarray, name: str, **said: str) -> Any:
        stream = io.BytesIO()
        Image.fromarray(values).save(stream, "PNG")
        query = "&".join(f"{key}={value}" for key, value in said.items())
        return self.sent(f"/api/surface-pictures?{query}", stream.getvalue(), name)

    def test_a_picture_of_a_surface(self) -> None:
        grey = np.full((60, 80), 128, np.uint8)
        out = self.kept(grey, "oak_roughness.png").json()
        self.assertEqual(
            [out[k] for k in ("part", "taken", "width_px", "notes")], ["gloss", "roughness", 80, []]
        )
        out = self.kept(grey, "oak_roughness.png", part="relief", taken="heights").json()
        self.assertIn("flat", out["notes"][0])
        small = self.client.get(f"/api/surface-pictures/{out['sha256']}.webp")
        self.assertEqual(Image.open(io.BytesIO(small.content)).size, (80, 60))
        self.assertEqual(self.client.get(f"/api/surface-pictures/{'0' * 64}.webp").status_code, 404)
        broken = self.sent("/api/surface-pictures", b"none at all", "oak.png")
        self.assertEqual(broken.status_code, 422)
        self.assertIn("oak.png is not a picture", broken.json()["message"])

    def pictured(self) -> dict[str, str]:
        """A saved material with pictures of all three parts; their names."""
        rng = np.random.default_rng(3)
        pictures = {
            "colour": self.kept(rng.integers(0, 256, (24, 32, 3), np.uint8), "bark.png", part="colour"),
            "gloss": self.kept(rng.integers(0, 256, (24, 32), np.uint8), "bark.png", part="gloss"),
            "relief": self.kept(rng.integers(0, 65536, (24, 32), np.uint16), "bark.png", part="relief"),
        }
        names = {part: response.json()["sha256"] for part, response in pictures.items()}
        self.saved("Bark", grain={"pattern": names, "scale": 40, "share": 1, "depth": 0.5})
        return names

    def test_pictures_go_along(self) -> None:
        """To another studio and back: the same to the bit."""
        names = self.pictured()
        response = self.client.get("/api/own-materials-file")
        self.assertEqual(response["Content-Type"], "application/zip")
        for sha in names.values():
            file_path(sha).unlink()
        OwnMaterial.objects.all().delete()
        (one,) = self.sent("/api/own-materials-file", response.content, "ours.zip").json()
        self.assertEqual(one["material"]["grain"]["pattern"], names)
        self.assertEqual(one["material"]["grain"]["depth"], 0.5)
        self.assertTrue(all(file_path(sha).exists() for sha in names.values()))

    def test_pictures_that_do_not_come_along(self) -> None:
        names = self.pictured()
        archive = unpack_files(
            self.client.get("/api/own-materials-file").content, "a", refusal=PackError, relief=""
        )
        file_path(names["gloss"]).unlink()
        only_text = self.sent("/api/own-materials-file", archive["materials.json"], "ours.json")
        self.assertEqual(only_text.status_code, 422)
        self.assertIn("names a picture of gloss", only_text.json()["message"])
        del archive["materials.json"]
        without = self.sent("/api/own-materials-file", pack_files(archive), "ours.zip")
        self.assertIn("There is neither materials.json nor", without.json()["message"])
        left = self.client.get("/api/own-materials-file").content
        self.assertEqual(len(unpack_files(left, "a", refusal=PackError, relief="")), 3)
        lost = {"kind": "opaque", "grain": {"pattern": {"gloss": names["gloss"]}}}
        body = json.dumps({"name": "Lost", "material": lost})
        refused = self.client.post("/api/own-materials", body, content_type="application/json")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("the gloss of a material is not in the library", refused.json()["message"])
        broken = self.sent("/api/own-materials-file", b"PK\x03\x04 broken", "ours.zip")
        self.assertIn("no sound archive", broken.json()["message"])

    def test_materialx_with_its_relief(self) -> None:
        """A ramp of directions, half as steep as they say, over 30 mm: so many mm from lowest to highest."""
        turn = np.arange(64) * 2 * np.pi / 64
        slope = 0.4 * np.cos(turn)  # mm a mm, so that heights run over 2 · 0.4 / 2π of the width
        facing = np.stack([-slope, 0 * slope, 1 + 0 * slope], axis=1) / np.hypot(slope, 1)[:, None]
        codes = np.tile(np.round(127.5 * (facing + 1)).astype(np.uint8)[None], (32, 1, 1))
        stream = io.BytesIO()
        Image.fromarray(codes).save(stream, "PNG")
        text = """<materialx version="1.38">
        <tiledimage name="n" type="vector3"><input name="file" type="filename" value="waves.png"/>
          <input name="realworldimagesize" type="vector2" value="30, 15" unit="millimeter"/></tiledimage>
        <normalmap name="m" type="vector3"><input name="in" type="vector3" nodename="n"/>
          <input name="scale" type="float" value="0.5"/></normalmap>
        <standard_surface name="S" type="surfaceshader"><input name="normal" type="vector3" nodename="m"/>
        </standard_surface><surfacematerial name="Waves" type="material">
        <input name="surfaceshader" type="surfaceshader" nodename="S"/></surfacematerial></materialx>"""
        archive = pack_files({"waves.mtlx": text.encode(), "waves.png": stream.getvalue()})
        (one,) = self.sent("/api/own-materials-file", archive, "waves.zip").json()
        self.assertEqual((one["name"], one["source"]), ("Waves", "saved here: MaterialX"))
        grain = one["material"]["grain"]
        self.assertEqual((grain["scale"], grain["lies"]), (30.0, "over"))
        self.assertAlmostEqual(grain["depth"], 0.5 * 30 * 2 * 0.4 / (2 * np.pi), delta=0.1)
        self.assertTrue(file_path(grain["pattern"]["relief"]).exists())

    def test_its_pictures_are_swept_only_when_nothing_names_them(self) -> None:
        names = self.pictured()
        later = timezone.now() + 2 * HISTORY
        self.assertEqual(list(unused_files(later)), [])
        OwnMaterial.objects.all().delete()
        self.assertEqual(len(list(unused_files(later))), len(names))

    def test_its_chip_shows_them(self) -> None:
        self.pictured()
        _, one = without_picture(set()) or self.fail("nothing is to be drawn")
        for use in pictures_in(one.material):
            shelf.put(file_path(use.sha256).read_bytes())
        picture = np.asarray(Image.open(io.BytesIO(swatch_file(one.material))), float)
        self.assertGreater(picture[50:80, 60:100].std(axis=(0, 1)).min(), 8)

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

    def test_colours_for_every_job(self) -> None:
        """One of each name, the last that was said."""

        def kept(*colours: dict[str, str]) -> Any:
            return self.client.post(
                "/api/studio-colours", json.dumps(list(colours)), content_type="application/json"
            )

        kept({"name": "Quince", "hex": "#d9a514"}, {"name": "Damson", "hex": "#6f1d33", "spot": "Damson 9"})
        both = kept({"name": "Quince", "hex": "#d9a515"}).json()
        self.assertEqual(
            [(one["name"], one["hex"]) for one in both], [("Quince", "#d9a515"), ("Damson", "#6f1d33")]
        )
        self.assertEqual(both[1]["spot"], "Damson 9")
        self.assertAlmostEqual(both[0]["lab"][0], 71, delta=1.5)
        self.assertEqual(kept({"name": "Quince", "hex": "yellow"}).status_code, 422)
        many = [{"name": f"Colour {number}", "hex": "#000000"} for number in range(1001)]
        self.assertIn("at most 1000 colours", kept(*many).json()["message"])
        (left,) = self.client.delete(f"/api/studio-colours/{both[0]['number']}").json()
        self.assertEqual(left["name"], "Damson")
        self.assertEqual(self.client.get("/api/studio-colours").json(), [left])

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
