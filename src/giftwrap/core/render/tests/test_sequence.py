"""The even sequence is what it is said to be."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from drjit.llvm.ad import UInt32
from scipy.stats import qmc

from giftwrap.core.render import sequence


def points(index: np.ndarray, key: np.ndarray) -> np.ndarray:
    """(…, 2) points with numbers of the sequences of keys."""
    index, key = (np.ascontiguousarray(v, dtype=np.uint32) for v in np.broadcast_arrays(index, key))
    flat = np.array(sequence.even_points(UInt32(index.ravel()), UInt32(key.ravel())))
    return flat.T.reshape(*index.shape, 2)


class SequenceTests(TestCase):
    def test_second_coordinate_against_scipy(self) -> None:
        """SciPy's Sobol sequence (Joe & Kuo 2008) holds the same points in another order (Gray code)."""
        index = np.arange(64, dtype=np.uint32)
        turned = [int(f"{i:032b}"[::-1], 2) / 2**32 for i in index]
        seconds = [int(f"{i:032b}"[::-1], 2) / 2**32 for i in np.array(sequence._second(UInt32(index)))]
        theirs = qmc.Sobol(2, scramble=False, bits=32).random(64)
        self.assertEqual(set(zip(turned, seconds, strict=True)), {tuple(point) for point in theirs})

    def test_each_run_of_a_power_of_two_fills_every_box(self) -> None:
        """A (0, 2)-sequence in base 2 (Niederreiter 1992): one point in each elementary box."""
        for key, first in ((1, 0), (77, 0), (0xDEADBEEF, 64)):
            run = points(first + np.arange(64), np.uint32(key))
            for level in range(7):
                some = run[: 1 << level]
                for wide in range(level + 1):
                    boxes = np.floor(some * [1 << wide, 1 << (level - wide)])
                    self.assertEqual(len(np.unique(boxes, axis=0)), 1 << level)

    def test_keys_are_independent_and_points_fill_the_square_alike(self) -> None:
        many = points(np.uint32(0), np.arange(4000))
        np.testing.assert_allclose(many.mean(axis=0), 0.5, atol=4 * np.sqrt(1 / 12 / 4000))
        np.testing.assert_allclose(many.var(axis=0), 1 / 12, rtol=0.06)
        one, other = points(np.arange(4096), np.array([[5], [6]]))
        self.assertLess(abs(np.corrcoef(one[:, 0], other[:, 0])[0, 1]), 4 / 64)
        self.assertLess(abs(np.corrcoef(one[:, 0], one[:, 1])[0, 1]), 4 / 64)
        self.assertTrue(((one >= 0) & (one < 1)).all())

    def test_a_smooth_mean_is_found_sooner_than_by_chance(self) -> None:
        """∫ x y dx dy over the square is 1/4; by chance 64 points miss it by √(7/144/64)."""
        misses = points(np.arange(64), np.arange(200)[:, None]).prod(axis=-1).mean(axis=1) - 0.25
        self.assertLess(np.sqrt(np.mean(np.square(misses))), 0.1 * np.sqrt(7 / 144 / 64))
