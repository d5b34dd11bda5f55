"""What pixels see adds up over any cut of the work, however many objects there are."""

from __future__ import annotations

from itertools import pairwise
from unittest import TestCase

import numpy as np

from giftwrap.core.render.coverage import COUNT_BITS, NOTHING, SLOTS, Coverage, Entries, Seen, summed

PIXELS, OBJECTS = 300, 600


def slots_of(samples: np.ndarray) -> np.ndarray:
    """(SLOTS, pixels) as kernels count: samples is (n, pixels) of object numbers, −1 for none."""
    slots = np.zeros((SLOTS, samples.shape[1]), np.uint32)
    for row in samples:
        for pixel, number in enumerate(row):
            for slot in range(SLOTS) if number >= 0 else ():
                if slots[slot, pixel] == 0 or slots[slot, pixel] >> COUNT_BITS == number + 1:
                    slots[slot, pixel] = max(slots[slot, pixel], (number + 1) << COUNT_BITS) + 1
                    break
    return slots


def dense(entries: Entries) -> np.ndarray:
    found = np.zeros((OBJECTS, PIXELS))
    found[entries.ids, entries.pixels] = entries.weights
    return found


class CoverageTests(TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(4)
        near = rng.integers(0, OBJECTS, PIXELS)[None] + rng.integers(0, 5, (40, PIXELS))
        self.samples = np.where(rng.random(near.shape) < 0.1, -1, near % OBJECTS)
        self.true = np.zeros((OBJECTS, PIXELS))
        for row in self.samples:
            seen = row >= 0
            self.true[row[seen], np.flatnonzero(seen)] += 1

    def test_sums_are_the_same_however_the_work_is_cut_and_in_any_order(self) -> None:
        rng = np.random.default_rng(5)
        for cuts in ([0, 40], [0, 1, 2, 40], list(range(0, 41, 5))):
            film = Coverage(PIXELS)
            passes = list(pairwise(cuts))
            rng.shuffle(passes)
            for begin, end in passes:
                halves = [np.arange(0, 120), np.arange(120, PIXELS)]
                rng.shuffle(halves)
                for pixels in halves:
                    seen = Seen.of_slots(slots_of(self.samples[begin:end][:, pixels]))
                    where = slice(pixels[0], pixels[-1] + 1) if begin else pixels
                    film.add(where, pixels.astype(np.uint32), seen)
            with self.subTest(cuts):
                np.testing.assert_array_equal(dense(film.entries()), self.true)
                number = int(self.samples.max())
                np.testing.assert_array_equal(film.share_of(number), self.true[number])

    def test_memory_does_not_grow_with_the_number_of_objects(self) -> None:
        """600 objects and pixels that see one each: 8 bytes a pixel, not 2,400."""
        film = Coverage(PIXELS)
        pixels = np.arange(PIXELS, dtype=np.uint32)
        for _ in range(3):
            film.add(slice(0, PIXELS), pixels, Seen.of_slots(slots_of(np.tile(pixels % OBJECTS, (4, 1)))))
        self.assertEqual(sum(a.nbytes for a in film.arrays().values()), 8 * PIXELS)

    def test_what_finds_no_slot_is_left_out_and_nothing_else(self) -> None:
        crowd = np.tile(np.arange(SLOTS + 3)[:, None], (1, PIXELS))
        entries = Seen.of_slots(slots_of(crowd))
        film = Coverage(PIXELS)
        film.add(slice(0, PIXELS), np.arange(PIXELS, dtype=np.uint32), entries)
        self.assertEqual(dense(film.entries()).sum(axis=0).tolist(), [SLOTS] * PIXELS)

    def test_a_pixel_that_saw_nothing_has_no_entry(self) -> None:
        film = Coverage(PIXELS)
        film.add(slice(0, 2), np.arange(2, dtype=np.uint32), Seen.of_slots(np.zeros((SLOTS, 2), np.uint32)))
        self.assertEqual(len(film.entries().pixels), 0)
        self.assertTrue((film.first == NOTHING).all())

    def test_arrays_are_read_back(self) -> None:
        film = Coverage(PIXELS)
        film.add(
            slice(0, PIXELS),
            np.arange(PIXELS, dtype=np.uint32),
            Seen.of_slots(slots_of(self.samples)),
        )
        again = Coverage.from_arrays(film.arrays())
        np.testing.assert_array_equal(dense(again.entries()), self.true)
        self.assertEqual(len(summed([film.entries(), again.entries()]).ids), len(film.entries().ids))
