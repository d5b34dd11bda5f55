"""The way from light to file, against the sRGB standard."""

from __future__ import annotations

import tempfile
from pathlib import Path
from unittest import TestCase

import numpy as np
from PIL import Image

from giftwrap.core.errors import GiftwrapError
from giftwrap.core.formats.pictures import jpeg_bytes, read_linear, write_exr, write_png
from giftwrap.core.grade.display import decode_srgb, encode_srgb, grade_picture, linear_colour
from giftwrap.core.model import Grade


class TransferTests(TestCase):
    def test_known_values(self) -> None:
        """IEC 61966-2-1: 0.0031308 is the knee; mid grey 0.18 → 0.4613 and 0.5 → 0.7354 from memory."""
        light = np.array([0, 0.0031308, 0.18, 0.5, 1, 7], np.float32)
        np.testing.assert_allclose(encode_srgb(light), [0, 0.04045, 0.4613, 0.7354, 1, 1], atol=2e-4)

    def test_there_and_back(self) -> None:
        code = np.linspace(0, 1, 256, dtype=np.float32)
        np.testing.assert_allclose(encode_srgb(decode_srgb(code)), code, atol=1e-5)

    def test_a_stop_doubles_light(self) -> None:
        light = np.full((1, 1, 3), 0.2, np.float32)
        np.testing.assert_allclose(
            grade_picture(light, Grade(exposure_ev=1)), grade_picture(2 * light, Grade()), atol=1e-6
        )

    def test_colours_are_linear_inside(self) -> None:
        np.testing.assert_allclose(linear_colour("#ff0000"), (1, 0, 0))
        self.assertAlmostEqual(linear_colour("#808080")[0], 0.2159, places=3)


class FileTests(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        ramp = np.linspace(0, 1, 4096, dtype=np.float32)
        self.picture = np.repeat(np.tile(ramp, (4, 1))[..., None], 3, axis=2)

    def test_png_keeps_sixteen_bits(self) -> None:
        path = self.folder / "ramp.png"
        write_png(path, self.picture)
        again = read_linear(path)
        self.assertEqual(len(np.unique(again[0, :, 0])), 4096)
        np.testing.assert_allclose(again, self.picture, atol=1 / 65535)
        self.assertEqual(path.read_bytes()[24], 16, "bit depth in the PNG header")
        with Image.open(path) as image:
            self.assertEqual(image.size, (4096, 4))

    def test_exr_keeps_light_above_white(self) -> None:
        path = self.folder / "light.exr"
        write_exr(path, self.picture * 40)
        np.testing.assert_allclose(read_linear(path)[..., :3], self.picture * 40, rtol=2e-3)

    def test_unknown_kind_is_refused_and_leaves_nothing(self) -> None:
        with self.assertRaises(GiftwrapError):
            write_png(self.folder / "picture.nonsense", self.picture)
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_page_pictures_are_jpeg(self) -> None:
        self.assertTrue(jpeg_bytes(self.picture).startswith(b"\xff\xd8\xff"))
