"""Large pictures in blocks: they cover the picture once, look like the whole, and need no more memory."""

from __future__ import annotations

import errno
import tempfile
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from giftwrap.core.formats.pictures import read_linear, reduced, write_png
from giftwrap.core.render import blocks
from giftwrap.core.render.blocks import Canvas, Taken, blocks_of, taken_of, whole_region
from giftwrap.core.render.job import MAX_SIDE, PictureJob, develop, take
from giftwrap.core.render.planning import Limits, Region
from giftwrap.core.tests.samples import frame_of
from giftwrap.core.things.starting import starting_pack


class CuttingTests(TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.integers(8, 400), st.integers(8, 400), st.integers(200, 20_000))
    def test_blocks_cover_the_picture_once_and_stay_small(self, width: int, height: int, most: int) -> None:
        job = PictureJob(b"", width, height)
        seen = np.zeros((height, width), int)
        for block in blocks_of(job, most=most):
            f, t = block.fills, block.taken
            seen[f.top : f.top + f.height, f.left : f.left + f.width] += 1
            self.assertTrue(t.left <= f.left and t.top <= f.top)
            self.assertTrue(t.left >= 0 and t.left + t.width <= width and t.top + t.height <= height)
            self.assertLessEqual(f.width * f.height, 2.6 * most)
        self.assertTrue((seen == 1).all())

    def test_the_largest_picture_needs_the_film_of_one_block(self) -> None:
        job = PictureJob(b"", MAX_SIDE, MAX_SIDE)
        largest = max(b.taken.width * b.taken.height for b in blocks_of(job))
        self.assertLess(largest, 1.2 * blocks.BLOCK_PIXELS)
        self.assertEqual(len(blocks_of(PictureJob(b"", 1920, 1080))), 1)


class CanvasTests(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_a_picture_in_blocks_is_the_picture_in_one_piece(self) -> None:
        job, limits = starting_job(96, 80), Limits(64, adaptive=False)
        whole = take(job, limits)
        wanted = grey(develop(whole, job)[1])
        canvas = Canvas(self.folder, whole_region(job))
        for number, block in enumerate(blocks_of(job, most=2000)):
            part = block.job(job)
            film = take(part, limits)
            canvas.fill(number, block, *develop(film, part), taken_of(film, part))
        write_png(self.folder / "p.png", canvas.picture)
        found = grey(read_linear(self.folder / "p.png"))
        self.assertLess(np.sqrt(np.mean((found - wanted) ** 2)), 0.02)

    def test_what_was_filled_is_there_again(self) -> None:
        wanted = Region(0, 0, 12, 9)
        block = blocks.Block(wanted, wanted)
        light = np.random.default_rng(3).random((9, 12, 3), dtype=np.float32)
        Canvas(self.folder, wanted).fill(0, block, light, light, Taken(4.0, None))
        again = Canvas(self.folder, wanted)
        self.assertEqual(again.taken, {0: Taken(4.0, None)})
        self.assertLess(np.abs(again.picture / 65535 - light).max(), 1e-4)

    def test_pixels_that_are_gone_are_taken_again(self) -> None:
        wanted = Region(0, 0, 12, 9)
        light = np.zeros((9, 12, 3), np.float32)
        Canvas(self.folder, wanted).fill(0, blocks.Block(wanted, wanted), light, light, Taken(4.0, 1.0))
        (self.folder / blocks.PICTURE).unlink()
        self.assertEqual(Canvas(self.folder, wanted).taken, {})

    def test_a_disk_without_room_is_told_before_anything_is_written(self) -> None:
        with (
            patch("os.posix_fallocate", side_effect=OSError(errno.ENOSPC, "No space left on device")),
            self.assertRaises(OSError),
        ):
            Canvas(self.folder, Region(0, 0, 12, 9))


class ReducingTests(TestCase):
    def test_thin_pictures_keep_a_pixel_each_way(self) -> None:
        for shape in ((8, 16_000), (16_000, 8), (1, 1), (1601, 3)):
            small = reduced(np.full((*shape, 3), 0.25, np.float32), 1600)
            self.assertTrue(min(small.shape[:2]) >= 1 and max(small.shape[:2]) <= 1600, small.shape)
            self.assertTrue(np.allclose(small, 0.25))


def starting_job(width: int, height: int) -> PictureJob:
    return PictureJob.of(frame_of(starting_pack()), width, height)


def grey(picture: np.ndarray) -> np.ndarray:
    return np.asarray(picture, float).mean(axis=2)
