"""Long triangles split near a place: the same surface, without gaps."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.core.mesh.nearest import carried
from giftwrap.core.mesh.refine import refined
from giftwrap.core.mesh.topology import edges_of


class RefineTests(TestCase):
    def test_a_box_stays_closed_and_as_large(self) -> None:
        box = trimesh.creation.box((70.0, 50.0, 110.0))
        at = np.array([10.0, -25.0, 30.0])
        points, faces = refined(np.asarray(box.vertices, float), np.asarray(box.faces), at, 20.0, 4.0)
        fine = trimesh.Trimesh(points, faces, process=False)
        self.assertTrue(fine.is_watertight)
        self.assertAlmostEqual(fine.volume, box.volume, places=6)
        self.assertAlmostEqual(fine.area, box.area, places=6)
        self.assertGreater(np.linalg.norm(fine.triangles_cross, axis=1).min(), 1e-9)
        near = np.linalg.norm(points[faces].mean(axis=1) - at, axis=1) < 12.0
        corners = points[faces[near]]
        longest = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max()
        self.assertLessEqual(longest, 4.0)
        self.assertLess(len(faces), 2500)

    def test_edges_on_the_rim_stay_there(self) -> None:
        points = np.array([[0, 0, 0], [40, 0, 0], [40, 3, 0], [0, 3, 0]], float)
        points, faces = refined(points, np.array([[0, 1, 2], [0, 2, 3]]), np.array([5.0, 1.0, 0.0]), 6.0, 1.0)
        self.assertEqual(len(edges_of(faces).rims), len(np.unique(edges_of(faces).rims)))
        self.assertAlmostEqual(trimesh.Trimesh(points, faces, process=False).area, 120.0, places=9)

    def test_nothing_is_split_that_is_short_or_far(self) -> None:
        box = trimesh.creation.box((2.0, 2.0, 2.0))
        points, faces = np.asarray(box.vertices, float), np.asarray(box.faces)
        for at, longest in ((np.zeros(3), 5.0), (np.full(3, 90.0), 0.5)):
            self.assertIs(refined(points, faces, at, 3.0, longest)[1], faces)


class NearestTests(TestCase):
    def test_a_place_is_carried_to_where_its_face_lies(self) -> None:
        points = np.array([[0, 0, 0], [10, 0, 0], [0, 10, 0]], float)
        there = np.array([[5, 5], [25, 5], [5, 15]], float)
        found = carried(np.array([[2.0, 3.0, 4.0]]), points, np.array([[0, 1, 2]]), there)
        np.testing.assert_allclose(found, [[9.0, 8.0]])
