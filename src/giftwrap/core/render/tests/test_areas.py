"""Surfaces cut into pieces: nothing of them is lost, and nothing is told twice."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giftwrap.core.mesh.triangles import areas_of, normals_of
from giftwrap.core.render.areas import area_points, near_triangles, spread_evenly
from giftwrap.core.render.irradiance import rows_among

RNG = np.random.default_rng(3)


class PieceTests(TestCase):
    def setUp(self) -> None:
        self.corners = RNG.uniform(-20, 20, (60, 3, 3))
        self.corners[0] = [[0, 0, 0], [900, 0, 0], [0, 0.5, 0]]  # a sliver

    def test_by_heron(self) -> None:
        a, b, c = (np.linalg.norm(self.corners[:, n] - self.corners[:, n - 1], axis=1) for n in range(3))
        half = (a + b + c) / 2
        expected = np.sqrt(half * (half - a) * (half - b) * (half - c))
        np.testing.assert_allclose(areas_of(self.corners), expected, rtol=1e-3)
        np.testing.assert_allclose(normals_of(self.corners)[0], (0, 0, 1))

    def test_pieces_make_up_all(self) -> None:
        points, sizes, of = area_points(self.corners, 2.0)
        np.testing.assert_allclose(np.bincount(of, sizes), areas_of(self.corners))
        middles = np.stack([np.bincount(of, sizes * points[:, k]) for k in range(3)], axis=1)
        np.testing.assert_allclose(
            middles / areas_of(self.corners)[:, None], self.corners.mean(axis=1), atol=1e-9
        )

    def test_halves_make_up_all_that_is_near(self) -> None:
        whole = near_triangles(self.corners, 3.0, lambda middles, radii: np.ones(len(middles), bool))
        self.assertAlmostEqual(areas_of(whole).sum() / areas_of(self.corners).sum(), 1, delta=1e-9)
        edges = np.linalg.norm(whole - np.roll(whole, 1, axis=1), axis=2)
        self.assertLess(edges.max(), 3.0001)
        place = np.array([5.0, 0, 0])

        def near(middles: np.ndarray, radii: np.ndarray) -> np.ndarray:
            return np.linalg.norm(middles - place, axis=1) < radii + 4

        some = near_triangles(self.corners, 3.0, near)
        close = np.linalg.norm(whole.mean(axis=1) - place, axis=1) < 4
        self.assertGreaterEqual(areas_of(some).sum(), areas_of(whole[close]).sum())
        self.assertLess(len(some), len(whole) / 4)

    def test_some_stand_for_all(self) -> None:
        areas = RNG.random(5000)
        chosen, each = spread_evenly(areas, 10.0)
        self.assertAlmostEqual(len(chosen) * each, areas.sum())
        self.assertLess(np.abs(np.diff(np.cumsum(areas)[chosen]) - each).max(), 1.0, "evenly in their order")
        self.assertEqual(spread_evenly(np.zeros(0), 1.0)[0].tolist(), [])

    def test_which_of_the_known(self) -> None:
        known = np.array([2, 5, 9])
        self.assertEqual(rows_among(known, np.array([5, 9, 1, 10, -1])).tolist(), [1, 2, 3, 3, 3])
        self.assertEqual(rows_among(known[:0], known).tolist(), [0, 0, 0])
