"""Edges, pieces, sides and holes of triangle meshes, held to trimesh."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.core.mesh.shading import shaded
from giftwrap.core.mesh.topology import (
    edges_of,
    face_normals,
    fans_of,
    holds,
    joined_points,
    pieces_of,
    rings_of,
    to_turn,
    volume_of,
)


def ball(radius: float = 10, subdivisions: int = 3) -> trimesh.Trimesh:
    return trimesh.creation.icosphere(subdivisions, radius)


def band(twists: int, steps: int = 24) -> tuple[np.ndarray, np.ndarray]:
    """A strip closed to a ring after half-turns."""
    angles = np.linspace(0, 2 * np.pi, steps, endpoint=False)
    rows = []
    for angle in angles:
        across = np.array(
            [
                np.cos(angle) * np.cos(twists * angle / 2),
                np.sin(angle) * np.cos(twists * angle / 2),
                np.sin(twists * angle / 2),
            ]
        )
        middle = 10 * np.array([np.cos(angle), np.sin(angle), 0.0])
        rows += [middle - 2 * across, middle + 2 * across]
    faces = []
    for i in range(steps):
        a, b, c, d = 2 * i, 2 * i + 1, 2 * i + 2, 2 * i + 3
        if i == steps - 1:
            c, d = (1, 0) if twists % 2 else (0, 1)
        faces += [[a, b, d], [a, d, c]]
    return np.array(rows), np.array(faces)


class JoinedTests(TestCase):
    def test_points_that_lie_together_are_one(self) -> None:
        solid = ball()
        soup = solid.vertices[solid.faces].reshape(-1, 3)
        points, index = joined_points(soup + np.random.default_rng(1).uniform(-1e-9, 1e-9, soup.shape), 1e-4)
        self.assertEqual(len(points), len(solid.vertices))
        np.testing.assert_allclose(points[index], soup, atol=1e-4)

    def test_places_far_from_the_middle_are_told_apart(self) -> None:
        grid = np.stack(np.meshgrid(*[np.arange(-9.0, 10)] * 3), axis=-1).reshape(-1, 3) + 4000
        points, index = joined_points(np.vstack([grid, grid]), 1e-3)
        self.assertEqual(len(points), len(grid))
        np.testing.assert_array_equal(index[: len(grid)], index[len(grid) :])


class EdgesTests(TestCase):
    def test_edges_and_neighbours_are_the_library_s(self) -> None:
        solid = ball()
        edges = edges_of(np.asarray(solid.faces))
        self.assertEqual(len(edges.uses), len(solid.edges_unique))
        theirs = {tuple(sorted(pair)) for pair in solid.face_adjacency.tolist()}
        self.assertEqual({tuple(sorted(pair)) for pair in edges.pairs.tolist()}, theirs)
        self.assertTrue(edges.agree.all())
        self.assertEqual(len(edges.rims), 0)

    def test_pieces_are_the_library_s(self) -> None:
        several = trimesh.util.concatenate(
            [ball(), ball().apply_translation((30, 0, 0)), trimesh.creation.box()]
        )
        count, labels = pieces_of(edges_of(np.asarray(several.faces)))
        self.assertEqual(count, several.body_count)
        self.assertEqual(sorted(np.bincount(labels).tolist()), [12, 1280, 1280])

    def test_an_edge_of_three_faces_holds_them_together(self) -> None:
        fan = np.array([[0, 1, 2], [0, 1, 3], [0, 1, 4]])
        edges = edges_of(fan)
        self.assertEqual(len(edges.pairs), 0)
        self.assertEqual(pieces_of(edges)[0], 1)

    def test_rings_run_along_holes(self) -> None:
        """A cylinder without its lids is open along two rings, each as long as its circle."""
        tube = trimesh.creation.cylinder(10, 30, sections=48)
        sides = tube.faces[np.abs(tube.face_normals[:, 2]) < 0.5]
        rings = rings_of(edges_of(sides).rims)
        self.assertEqual([len(ring) for ring in rings], [48, 48])
        for ring in rings:
            loop = tube.vertices[np.append(ring, ring[0])]
            length = np.linalg.norm(np.diff(loop, axis=0), axis=1).sum()
            self.assertAlmostEqual(length, 48 * 2 * 10 * np.sin(np.pi / 48), places=6)


class SidesTests(TestCase):
    def test_faces_that_were_turned_at_random_are_found(self) -> None:
        solid = ball()
        wrong = np.random.default_rng(3).random(len(solid.faces)) < 0.3
        faces = np.where(wrong[:, None], solid.faces[:, ::-1], solid.faces)
        turned, sided = to_turn(edges_of(faces))
        self.assertTrue(sided)
        np.testing.assert_array_equal(turned, wrong)  # most of them lay right

    def test_each_piece_is_turned_by_itself(self) -> None:
        two = trimesh.util.concatenate([ball(), ball().apply_translation((30, 0, 0))])
        faces = np.array(two.faces)
        faces[:5] = faces[:5, ::-1]
        faces[1285:1290] = faces[1285:1290, ::-1]
        turned, _ = to_turn(edges_of(faces))
        self.assertEqual(np.flatnonzero(turned).tolist(), [*range(5), *range(1285, 1290)])

    def test_a_twisted_band_has_no_outside(self) -> None:
        """August Ferdinand Möbius's band; with two half-turns it has two sides again."""
        for twists, sided in ((0, True), (1, False), (2, True)):
            with self.subTest(twists):
                self.assertEqual(to_turn(edges_of(band(twists)[1]))[1], sided)

    def test_volumes_are_the_library_s(self) -> None:
        for solid in (ball(), trimesh.creation.box((2, 3, 4)), trimesh.creation.torus(9, 2)):
            solid.apply_translation((50, -20, 7))
            self.assertAlmostEqual(volume_of(solid.vertices, solid.faces), solid.volume, places=6)
            self.assertAlmostEqual(volume_of(solid.vertices, solid.faces[:, ::-1]), -solid.volume, places=6)

    def test_what_lies_inside_is_the_library_s(self) -> None:
        solid = trimesh.creation.torus(10, 3)
        places = np.random.default_rng(5).uniform(-13, 13, (300, 3)) * [1, 1, 0.3]
        inside = [holds(solid.vertices, solid.faces, place) for place in places]
        np.testing.assert_array_equal(inside, solid.contains(places))
        self.assertGreater(sum(inside), 30)


class ShadingTests(TestCase):
    def shade(self, solid: trimesh.Trimesh, angle: float, uvs: np.ndarray | None = None):  # type: ignore[no-untyped-def]
        points = joined_points(np.asarray(solid.vertices), 1e-6)[1]
        return shaded(np.asarray(solid.vertices), np.asarray(solid.faces), points, uvs, angle)

    def test_a_cube_has_edges_until_the_angle_is_wider(self) -> None:
        for angle, corners in ((35, 24), (89.9, 24), (90.1, 8)):
            with self.subTest(angle):
                mesh = self.shade(trimesh.creation.box(), angle)
                self.assertEqual(len(mesh.positions), corners)

    def test_a_ball_is_smooth_whatever_its_points_are(self) -> None:
        solid = ball(subdivisions=4)
        solid.unmerge_vertices()
        mesh = self.shade(solid, 35)
        self.assertEqual(len(mesh.positions), 2562)  # 10 · 4⁴ + 2, of an icosahedron divided four times
        straight = mesh.positions / np.linalg.norm(mesh.positions, axis=1, keepdims=True)
        self.assertGreater(float((mesh.normals * straight).sum(axis=1).min()), np.cos(np.radians(0.2)))

    def test_a_cylinder_keeps_its_rim(self) -> None:
        tube = trimesh.creation.cylinder(10, 30, sections=48)
        mesh = self.shade(tube, 35)
        upright = np.abs(mesh.normals[:, 2])
        self.assertTrue(((upright < 1e-6) | (upright > 1 - 1e-6)).all())
        self.assertEqual(len(mesh.positions), 2 * 48 + 2 * 49)

    def test_a_seam_of_the_picture_keeps_its_points_but_no_edge(self) -> None:
        solid = ball()
        uvs = np.zeros((len(solid.vertices), 2))
        doubled = trimesh.Trimesh(
            solid.vertices[solid.faces].reshape(-1, 3), np.arange(3840).reshape(-1, 3), process=False
        )
        mesh = self.shade(doubled, 35, np.arange(7680.0).reshape(-1, 2))
        self.assertEqual(len(mesh.positions), 3840)
        straight = mesh.positions / np.linalg.norm(mesh.positions, axis=1, keepdims=True)
        self.assertGreater(float((mesh.normals * straight).sum(axis=1).min()), np.cos(np.radians(1)))
        self.assertEqual(len(self.shade(solid, 35, uvs).positions), len(solid.vertices))

    def test_fans_break_where_they_are_told_to(self) -> None:
        edges = edges_of(np.asarray(ball().faces))
        self.assertEqual(int(fans_of(edges, edges.agree).max()) + 1, 642)
        none = np.zeros(len(edges.pairs), dtype=bool)
        self.assertEqual(int(fans_of(edges, none).max()) + 1, 3 * 1280)

    def test_normals_face_as_their_faces_do(self) -> None:
        mesh = self.shade(trimesh.creation.torus(9, 2), 35)
        own = face_normals(mesh.positions, mesh.faces)
        for corner in range(3):
            self.assertTrue(((own * mesh.normals[mesh.faces[:, corner]]).sum(axis=1) > 0).all())
