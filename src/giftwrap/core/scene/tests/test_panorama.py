"""Pictures of everything around: read, refused in words, kept, and changed."""

from __future__ import annotations

import math
import tempfile
from pathlib import Path
from unittest import TestCase

import numpy as np
import OpenImageIO as oiio  # noqa: N813 - the library's own convention

from giftwrap.core.errors import ArtworkError
from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.reading.panoramas import refuse_other_shapes
from giftwrap.core.scene.panorama import blurred, changed, fewer, read_panorama, unpacked

ROWS = 32


def sky(rows: int = ROWS) -> np.ndarray:
    """(rows, 2 rows, 3) bright above, a sun to the right."""
    light = np.full((rows, 2 * rows, 3), 0.2, np.float32)
    light[: rows // 2] = (0.4, 0.6, 1.0)
    light[rows // 4, rows + rows // 2] = (4e5, 3.8e5, 3e5)
    return light


def written(light: np.ndarray, suffix: str = ".exr", kind: str = "float") -> bytes:
    """A file of it."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"sky{suffix}"
        height, width, channels = light.shape
        target = oiio.ImageOutput.create(path.name)
        spec = oiio.ImageSpec(width, height, channels, kind)
        assert target.open(str(path), spec), oiio.geterror()
        target.write_image(np.ascontiguousarray(light, np.float32))
        target.close()
        return path.read_bytes()


def light_of(picture: np.ndarray) -> np.ndarray:
    """(3,) all of it, each texel by its solid angle."""
    rows = len(picture)
    edges = np.cos(np.arange(rows + 1) / rows * math.pi)
    return (picture * (edges[:-1] - edges[1:])[:, None, None]).sum(axis=(0, 1)) * math.pi / rows


class ReadingTests(TestCase):
    def test_what_goes_in_is_kept(self) -> None:
        for suffix, kind, rtol in ((".exr", "float", 1e-3), (".hdr", "float", 0.01)):
            with self.subTest(suffix):
                facts, kept = read_panorama(written(sky(), suffix, kind), f"sky{suffix}")
                self.assertEqual((facts.width_px, facts.height_px, facts.notes), (64, 32, ()))
                np.testing.assert_allclose(unpacked(kept), sky(), rtol=rtol, atol=2e-3)
                self.assertGreater(facts.contrast, 500)

    def test_a_sheet_beneath_even_light_is_as_bright_as_that(self) -> None:
        facts, _ = read_panorama(written(np.full((16, 32, 3), 0.7, np.float32)), "even.exr")
        self.assertAlmostEqual(facts.lying, 0.7, places=5)
        self.assertAlmostEqual(facts.contrast, 1.0, places=5)

    def test_grey_files_are_grey(self) -> None:
        _, kept = read_panorama(written(sky()[..., :1]), "grey.exr")
        self.assertTrue((np.ptp(unpacked(kept), axis=2) == 0).all())

    def test_large_ones_are_made_smaller_and_it_is_said(self) -> None:
        wide = np.zeros((2100, 4200, 3), np.float32)
        wide[:, :2100] = 1
        facts, kept = read_panorama(written(wide, kind="half"), "wide.exr")
        self.assertEqual((facts.width_px, facts.height_px), (2100, 1050))
        self.assertIn("4,200 × 2,100 px: it is kept with 2,100 × 1,050", facts.notes[0])
        np.testing.assert_allclose(unpacked(kept)[:, :1050], 1, rtol=1e-3)

    def test_numbers_that_are_none_are_mended_and_said(self) -> None:
        broken = sky()
        broken[3, 5], broken[20, 7], broken[21, 8] = np.inf, np.nan, -1
        facts, kept = read_panorama(written(broken), "broken.exr")
        light = unpacked(kept)
        self.assertAlmostEqual(light[3, 5, 0] / 4e5, 1, delta=0.01)
        self.assertEqual((light[20, 7].max(), light[21, 8].max()), (0, 0))
        said = " ".join(facts.notes)
        for words in ("row 4, column 6, are infinitely bright", "row 21, column 8, are no numbers", "row 22"):
            self.assertIn(words, said)

    def test_others_are_refused_with_the_reason(self) -> None:
        cases = {
            "ball.exr": (written(np.ones((64, 64, 3))), "a mirror ball or an angular map"),
            "cross.hdr": (written(np.ones((96, 128, 3)), ".hdr"), "a cube laid out as a cross"),
            "row.exr": (written(np.ones((16, 96, 3))), "sides of a cube in a row"),
            "odd.exr": (written(np.ones((50, 130, 3))), "twice as wide as high"),
            "tiny.exr": (written(np.ones((2, 4, 3))), "only 4 × 2 px"),
            "black.exr": (written(np.zeros((16, 32, 3))), "black everywhere"),
            "none.exr": (written(np.full((16, 32, 3), np.nan)), "are no numbers"),
            "empty.hdr": (b"", "is empty"),
            "photo.jpg": (b"\xff\xd8\xff\xe0" + bytes(200), "neither Radiance HDR nor OpenEXR"),
            "torn.exr": (written(sky())[:-50], "torn.exr"),
            "torn.hdr": (written(sky(), ".hdr")[:400], "torn.hdr"),
        }
        for filename, (data, words) in cases.items():
            with self.subTest(filename), self.assertRaises(ArtworkError) as refused:
                read_panorama(data, filename)
            self.assertIn(words, str(refused.exception))

    def test_more_than_is_read_is_refused_by_its_size(self) -> None:
        with self.assertRaisesRegex(ArtworkError, "40,000 × 20,000 px: at most 16,384 × 8,192"):
            refuse_other_shapes("huge.hdr", 40_000, 20_000)

    def test_what_is_none_that_was_kept(self) -> None:
        for data in (b"", b"no", written(sky())):
            with self.assertRaises(ArtworkError):
                unpacked(data)


class ChangingTests(TestCase):
    def test_fewer_texels_of_the_same_light(self) -> None:
        for rows in (16, 10):
            less = fewer(sky(), rows)
            self.assertEqual(less.shape, (rows, 2 * rows, 3))
            np.testing.assert_allclose(light_of(less), light_of(sky()), rtol=1e-4)

    def test_blur_keeps_all_light_and_spreads_it_by_its_angle(self) -> None:
        """A point becomes a normal distribution whose mean squared angle is 2 σ²; also about a pole."""
        for row in (0, 20, 60, 100, 127):
            with self.subTest(row):
                point = np.zeros((128, 256, 3), np.float32)
                point[row, 40] = 100.0
                spread = blurred(point, 8.0)
                np.testing.assert_allclose(light_of(spread), light_of(point), rtol=1e-4)
                rows = len(spread)
                zenith = ((np.arange(rows) + 0.5) / rows * math.pi)[:, None]
                way = ((np.arange(2 * rows) + 0.5) / rows * math.pi)[None]
                at, along = (row + 0.5) / 128 * math.pi, 40.5 / 128 * math.pi
                cosine = np.cos(zenith) * math.cos(at) + np.sin(zenith) * math.sin(at) * np.cos(way - along)
                angle = np.degrees(np.arccos(np.clip(cosine, -1, 1)))
                weights = spread[..., 0] * np.sin(zenith)
                self.assertAlmostEqual(np.sqrt(np.average(angle**2, weights=weights) / 2), 8.0, delta=1.2)

    def test_grey_is_of_the_same_brightness(self) -> None:
        grey = changed(sky(), saturation=0.0, contrast=1.0, blur=0.0)
        np.testing.assert_allclose(grey, np.repeat((sky() @ LUMINANCE)[..., None], 3, axis=2), rtol=1e-5)

    def test_contrast_is_a_power_about_the_middle(self) -> None:
        twice = changed(sky(), saturation=1.0, contrast=2.0, blur=0.0) @ LUMINANCE
        once = sky() @ LUMINANCE
        ratio = (twice[0, 0] / twice[-1, 0]) / (once[0, 0] / once[-1, 0]) ** 2
        self.assertAlmostEqual(float(ratio), 1, places=4)
