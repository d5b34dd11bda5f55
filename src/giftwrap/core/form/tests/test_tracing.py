"""Laying photos behind the half-profile."""

from __future__ import annotations

import io
import math
from unittest import TestCase

import numpy as np
from PIL import Image, ImageDraw

from giftwrap.core.errors import ArtworkError, PackError
from giftwrap.core.form.tracing import SHOWN_SIDE, calibrate, profile_point, read_photo
from giftwrap.core.tests.samples import png

NAME = "a" * 64


class CalibrationTests(TestCase):
    def test_a_leaning_photo_stands_upright_to_scale(self) -> None:
        """A bottle of 60 × 200 mm drawn at 3 px to the mm and turned by 7° by Pillow as referee."""
        image = Image.new("RGB", (900, 1000), "white")
        ImageDraw.Draw(image).rectangle((300, 200, 480, 800), fill="black")
        turned = np.asarray(image.rotate(7, fillcolor="white"))
        c, s = math.cos(math.radians(7)), math.sin(math.radians(7))

        def seen(x: float, y: float) -> tuple[float, float]:
            dx, dy = x - 450, y - 500
            return 450 + c * dx + s * dy, 500 - s * dx + c * dy

        inside = seen(310, 790)
        self.assertLess(turned[int(inside[1]), int(inside[0])].mean(), 60)
        axis = (seen(390, 200), seen(390, 800))
        tracing = calibrate(NAME, (900, 1000), axis, (seen(300, 500), seen(480, 500)), 60)
        self.assertAlmostEqual(tracing.angle, 7, places=6)
        self.assertAlmostEqual(tracing.mm_per_px, 1 / 3, places=6)
        radius, height = profile_point(tracing, seen(480, 200))
        self.assertAlmostEqual(radius, 30, places=6)
        self.assertAlmostEqual(height, 200, places=6)

    def test_marks_that_cannot_be(self) -> None:
        good = ((50.0, 10.0), (50.0, 90.0))
        for axis, known, length, words in (
            (((50, 90), (50, 10)), good, 50, "middle at the top first"),
            (((10, 50), (90, 55)), good, 50, "leans by more"),
            (good, ((5, 5), (5, 5)), 50, "same place"),
            (good, good, 0.0, "not usable"),
        ):
            with self.subTest(words), self.assertRaisesRegex(PackError, words):
                calibrate(NAME, (100, 100), axis, known, length)


class PhotoTests(TestCase):
    def test_a_hundred_megapixels_are_made_small_enough_to_show(self) -> None:
        stream = io.BytesIO()
        Image.new("RGB", (12_500, 8_000), "#889966").save(stream, "JPEG", quality=60)
        photo = read_photo(stream.getvalue(), "huge.jpg")
        self.assertEqual(max(photo.width_px, photo.height_px), SHOWN_SIDE)
        self.assertLess(len(photo.data), 1_000_000)

    def test_upright_as_the_camera_held_it(self) -> None:
        image = Image.new("RGB", (60, 40), "white")
        exif = image.getexif()
        exif[0x0112] = 6  # EXIF orientation: turned to the right (Exif 2.3, table 4)
        stream = io.BytesIO()
        image.save(stream, "JPEG", exif=exif)
        photo = read_photo(stream.getvalue(), "held.jpg")
        self.assertEqual((photo.width_px, photo.height_px), (40, 60))

    def test_broken_and_renamed_files_are_named(self) -> None:
        for data in (b"not a picture", png()[:60], b""):
            with self.assertRaisesRegex(ArtworkError, "bottle.jpg"):
                read_photo(data, "bottle.jpg")
