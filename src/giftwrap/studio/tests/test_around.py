"""Surrounds in the studio: pictures brought in, maps, and those to begin with."""

from __future__ import annotations

import base64
import io
from typing import Any

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from giftwrap.core.scene.tests.test_panorama import sky, written
from giftwrap.core.stage.surrounds import STARTING_SURROUNDS
from giftwrap.studio.files import read_file
from giftwrap.studio.tests.base import StudioTestCase


def shown(address: str) -> np.ndarray:
    """(h, w, 3) of an image that its address holds."""
    data = base64.b64decode(address.removeprefix("data:image/webp;base64,"))
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), float)


class AroundTests(StudioTestCase):
    def bring(self, data: bytes, name: str = "yard.exr") -> Any:
        return self.client.post("/api/panoramas", {"file": SimpleUploadedFile(name, data)})

    def map_of(self, surround: dict[str, Any]) -> Any:
        return self.client.post("/api/surround-map", {"surround": surround}, content_type="application/json")

    def test_a_picture_is_kept_and_shown_as_a_map(self) -> None:
        answer = self.bring(written(sky()))
        facts = answer.json()
        self.assertEqual((answer.status_code, facts["name"], facts["width_px"]), (200, "yard", 64))
        self.assertIsNotNone(read_file(facts["sha256"]))
        picture = {"kind": "picture", "picture": facts["sha256"], "name": "yard", "turn": 90}
        pixels = shown(self.map_of(picture).json()["picture"])
        self.assertEqual(pixels.shape, (32, 64, 3))
        self.assertGreater(pixels[2].mean(), pixels[-3].mean() + 20, "bright above")
        row, column = np.unravel_index(int(pixels.sum(axis=2).argmax()), pixels.shape[:2])
        self.assertLess(abs(row - 8) + abs(column - 48), 4, "its turn is left to the page")

    def test_what_is_none_is_refused_in_words(self) -> None:
        answer = self.bring(b"GIF89a", "cat.gif")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("cat.gif is neither Radiance HDR nor OpenEXR", answer.json()["message"])
        gone = {"kind": "picture", "picture": "a" * 64, "name": "Yard"}
        self.assertIn("“Yard” is gone", self.map_of(gone).json()["message"])

    def test_a_sky_says_where_its_sun_is(self) -> None:
        """48° north at noon by the sun on midsummer's day: 65.4° high in the south."""
        sky_now = {
            "kind": "sky",
            "latitude": 48,
            "longitude": 15,
            "day": "2026-06-21",
            "hour": 12.03,
            "zone": 1,
        }
        answer = self.map_of(sky_now).json()
        self.assertAlmostEqual(answer["sun"]["azimuth"], 180, delta=1.5)
        self.assertAlmostEqual(answer["sun"]["elevation"], 65.4, delta=0.3)
        self.assertIsNone(self.map_of({"kind": "even"}).json()["sun"])

    def test_those_to_begin_with(self) -> None:
        told = self.client.get("/api/starting-surrounds").json()
        self.assertEqual([one["key"] for one in told], list(STARTING_SURROUNDS))
        for one in told:
            self.assertEqual(shown(one["picture"]).shape[1], 2 * shown(one["picture"]).shape[0])
