"""Labels on picked places: without stretch where the surface unrolls, refused where they cannot lie."""

from __future__ import annotations

import math
from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.model import PickedPanel
from giftwrap.core.tests.models import area_of, as_mesh, lathed, whole
from giftwrap.core.wrap.flattening import flattened, stretch_of
from giftwrap.core.wrap.laid import GLUE_GAP
from giftwrap.core.wrap.picked import PickedSheet, lassoed, lay_picked

AT = (0.0, -30.0, 50.0)


def cylinder(sections: int = 96) -> Mesh:
    solid = trimesh.creation.cylinder(30, 100, sections=sections)
    solid.apply_translation((0, 0, 50))
    return as_mesh(solid)


def laid(mesh: Mesh, **change: object) -> PickedSheet:
    panel = PickedPanel.model_validate({"part": "it", "at": AT, "width": 60, "height": 80, **change})
    return lay_picked(panel, mesh, place="panels.0")


class UnrolledTests(TestCase):
    def test_a_cylinder_s_label_keeps_its_lengths(self) -> None:
        sheet = laid(cylinder())
        self.assertLess(sheet.stretch.worst, 1e-5)
        face = sheet.face
        radius = np.hypot(face.positions[:, 0], face.positions[:, 1])
        out = GLUE_GAP + sheet.panel.stock_thickness
        self.assertLess(float(np.abs(radius - 30 - out).max()), 0.02)
        angles = np.arctan2(face.positions[:, 0], -face.positions[:, 1])
        np.testing.assert_allclose(face.uvs[:, 0], 0.5 + 30.17 * angles / 60, atol=0.001)
        np.testing.assert_allclose(face.uvs[:, 1], 0.5 + (face.positions[:, 2] - 50) / 80, atol=1e-3)

    def test_it_goes_nearly_all_around(self) -> None:
        sheet = laid(cylinder(), width=180)
        self.assertLess(sheet.stretch.worst, 1e-5)
        self.assertAlmostEqual(area_of(sheet.face) / (180 * 80), 1, delta=0.01)
        with self.assertRaisesRegex(PackError, "Only 9. % of “Label” lies on “it” there"):
            laid(cylinder(), width=195)

    def test_a_cone_unrolls(self) -> None:
        cone = as_mesh(lathed((0, 0), (40, 0), (20, 100), (0, 100), sections=180))
        sheet = laid(cone, at=(0.0, -30.0, 50.0), width=50, height=50)
        self.assertLess(sheet.stretch.worst, 1e-6)

    def test_face_and_back_close_around_the_stock(self) -> None:
        sheet = laid(cylinder(), width=60, height=40)
        shell = whole(sheet.face, sheet.back)
        self.assertTrue(shell.is_watertight)
        self.assertTrue(shell.is_winding_consistent)
        self.assertAlmostEqual(shell.volume / (60 * 40 * sheet.panel.stock_thickness), 1, delta=0.01)

    def test_it_is_turned_to_the_right(self) -> None:
        sheet = laid(cylinder(), width=60, height=20, turn=90)
        span = np.ptp(sheet.face.positions[:, 2])
        self.assertAlmostEqual(float(span), 60, delta=0.01)
        left = sheet.face.positions[np.argmin(sheet.face.uvs[:, 0])]
        self.assertGreater(left[2], 70)  # what was left is up

    def test_edges_end_it_unless_it_may_go_over_them(self) -> None:
        solid = trimesh.creation.box((60, 60, 90)).subdivide_to_size(10)
        solid.apply_translation((0, 0, 45))
        box = as_mesh(solid)
        self.assertLess(laid(box, at=(0, -30, 45), width=55, height=70).stretch.worst, 1e-9)
        with self.assertRaisesRegex(PackError, "Only 6. % of “Label”"):
            laid(box, at=(0, -30, 45), width=100, height=70)
        around = laid(box, at=(0, -30, 45), width=100, height=40, grow=95)
        self.assertLess(around.stretch.worst, 2e-3)  # it goes around edges on its own face
        self.assertAlmostEqual(
            float(np.abs(around.face.positions[:, 0]).max()), 30 + GLUE_GAP + 0.12, delta=0.03
        )


class StretchedTests(TestCase):
    def test_a_ball_stretches_a_label_as_much_as_it_must(self) -> None:
        """A ring of a ball of radius R at s from its middle is 2πR sin(s/R) long, s²/6R² shorter than in the
        plane: a flat picture has to stretch by some of that, and needs no more than all of it."""
        ball = as_mesh(trimesh.creation.icosphere(5, 40))
        for side in (20.0, 40.0):
            reach = math.hypot(side, side) / 2
            stretch = laid(ball, at=(0, -40, 0), width=side, height=side).stretch.worst
            with self.subTest(side):
                self.assertLess(stretch, reach**2 / (6 * 40**2))
                self.assertGreater(stretch, reach**2 / (6 * 40**2) / 10)

    def test_flat_pieces_keep_their_places(self) -> None:
        grid = np.stack(np.meshgrid(np.arange(8.0), np.arange(6.0), indexing="ij"), axis=-1).reshape(-1, 2)
        faces = trimesh.creation.box((1, 1, 1)).faces[:0]
        index = np.arange(48).reshape(8, 6)
        a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
        faces = np.concatenate(
            [np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)]
        )
        points = np.c_[grid, 0 * grid[:, 0]] @ trimesh.transformations.rotation_matrix(0.7, (1, 2, 3))[:3, :3]
        flat = flattened(points, faces, "it")
        self.assertLess(float(np.abs(flat.stretch - 1).max()), 1e-9)
        apart = np.linalg.norm(flat.places[:, None] - flat.places[None], axis=-1)
        np.testing.assert_allclose(apart, np.linalg.norm(points[:, None] - points[None], axis=-1), atol=1e-8)

    def test_stretch_is_the_map_s(self) -> None:
        points = np.array([[0.0, 0, 0], [2, 0, 0], [0, 3, 0]])
        flat = np.array([[0.0, 0], [1, 0], [0, 1]])
        np.testing.assert_allclose(stretch_of(points, np.array([[0, 1, 2]]), flat), [[3, 2]])

    def test_what_is_closed_all_around_cannot_lie_flat(self) -> None:
        ball = trimesh.creation.icosphere(2, 40)
        with self.assertRaisesRegex(PackError, "closed all around there"):
            flattened(np.asarray(ball.vertices), np.asarray(ball.faces), "“it”")


class LassoTests(TestCase):
    """Loops drawn on a part: labels cut to them."""

    def loop(self, across: float = 20.0, high: float = 15.0, middle: float = 60.0) -> np.ndarray:
        """An oval on the cylinder's front, mm across and high from its middle, laid around the wall."""
        turn = np.linspace(0, 2 * np.pi, 60, endpoint=False)
        angle, up = across * np.cos(turn) / 30, middle + high * np.sin(turn)
        return np.stack([30 * np.sin(angle), -30 * np.cos(angle), up], axis=1)

    def drawn(self, mesh: Mesh, loop: np.ndarray) -> PickedPanel:
        panel = PickedPanel.model_validate({"part": "it", "at": AT, "width": 5, "height": 5})
        return lassoed(panel, mesh, loop)

    def test_a_label_is_cut_to_a_loop_as_it_is_when_laid_flat(self) -> None:
        """An oval of 40 × 30 mm on a cylinder unrolls to one: its area and extent, on the printed face."""
        panel = self.drawn(cylinder(360), self.loop())
        np.testing.assert_allclose((panel.width, panel.height), (40 * 30.17 / 30, 30), atol=0.1)
        np.testing.assert_allclose(panel.at, (0, -30, 60), atol=0.05)
        sheet = lay_picked(panel, cylinder(360), place="panels.0")
        self.assertAlmostEqual(area_of(sheet.face) / (math.pi * 20 * 15), 1, delta=0.01)
        radius = np.hypot(sheet.face.positions[:, 0], sheet.face.positions[:, 1])
        self.assertLess(float(np.ptp(radius)), 0.02)
        shell = whole(sheet.face, sheet.back)
        self.assertTrue(shell.is_watertight)
        self.assertAlmostEqual(shell.volume / (math.pi * 300 * 0.12), 1, delta=0.02)

    def test_it_may_bend_inwards(self) -> None:
        turn = np.linspace(0, 2 * np.pi, 90, endpoint=False)
        star = 14 + 5 * np.cos(5 * turn)
        angle, up = star * np.cos(turn) / 30, 50 + star * np.sin(turn)
        loop = np.stack([30 * np.sin(angle), -30 * np.cos(angle), up], axis=1)
        panel = self.drawn(cylinder(180), loop)
        sheet = lay_picked(panel, cylinder(180), place="panels.0")
        self.assertAlmostEqual(area_of(sheet.face) / (math.pi * (14**2 + 5**2 / 2)), 1, delta=0.03)
        self.assertTrue(whole(sheet.face, sheet.back).is_watertight)

    def test_loops_that_are_no_outline_are_refused(self) -> None:
        with self.assertRaisesRegex(PackError, "too small for a label"):
            self.drawn(cylinder(), self.loop(0.2, 0.2))
        line = self.loop(20, 0.001)
        with self.assertRaisesRegex(PackError, "crosses itself"):
            self.drawn(cylinder(), line)
        eight = PickedPanel.model_validate(
            {
                "part": "it",
                "at": AT,
                "width": 20,
                "height": 20,
                "outline": [(-9, -9), (9, 9), (9, -9), (-9, 9)],
            }
        )
        for panel, words in (
            (eight, "crosses itself"),
            (eight.model_copy(update={"outline": ((-9, 0), (30, 0), (0, 9))}), "goes beyond its size"),
        ):
            with self.assertRaisesRegex(PackError, words) as caught:
                lay_picked(panel, cylinder(), place="panels.3")
            self.assertEqual(caught.exception.place, "panels.3.outline")
