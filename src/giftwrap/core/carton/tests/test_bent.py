"""Gables and pillows: creases that move each other, and board that is bent without being stretched."""

from __future__ import annotations

import math
from unittest import TestCase

import numpy as np
import trimesh
from shapely import Polygon

from giftwrap.core.carton.bending import Bent
from giftwrap.core.carton.folding import Folded
from giftwrap.core.carton.shape import fold_carton
from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import together
from giftwrap.core.model.carton import Board, Carton, Insert, Window
from giftwrap.core.tests.models import whole as whole_of

GABLE = Carton(style="gable", length=140, width=90, depth=90, board=Board(caliper=0.45))
PILLOW = Carton(style="pillow", length=90, width=110, depth=30, board=Board(caliper=0.4))


def folded(carton: Carton, **change: object) -> Folded | Bent:
    return fold_carton(carton.model_copy(update=change)).components[0].folded


class GableTests(TestCase):
    def test_creases_that_close_a_circle_meet_however_far_it_is_folded(self) -> None:
        """Where two panels share a crease their poses put it at the same place."""
        for closed in (0.0, 0.1, 0.3, 0.85, 0.9, 0.97, 1.0):
            one = folded(GABLE, closed=closed)
            closing = [crease for crease in one.blank.creases if crease.closes]
            self.assertEqual(len(closing), 3)
            for crease in closing:
                ends = np.column_stack([[crease.start, crease.end], np.zeros(2), np.ones(2)])
                apart = ends @ (one.poses[crease.parent] - one.poses[crease.child]).T
                with self.subTest(closed=closed, crease=crease.name):
                    self.assertLess(float(np.abs(apart).max()), 0.06)  # nothing is folded by less than 0.01°
                    if closed == 1.0:
                        self.assertLess(float(np.abs(apart).max()), 1e-9)

    def test_handles_stand_upright_against_each_other(self) -> None:
        one = folded(GABLE)
        front, back = (one.poses[f"handle {name}"] for name in ("front", "back"))
        np.testing.assert_allclose(front[:3, 2], -back[:3, 2], atol=1e-9)
        between = abs(float((front[:3, 3] - back[:3, 3]) @ front[:3, 2]))
        self.assertAlmostEqual(between, 0.45 + 0.05, places=6)

    def test_the_roof_moves_the_sides(self) -> None:
        """One slope by hand takes the other and both sides along; further than they can follow is refused."""
        angles = folded(GABLE, flaps={"roof front": 20.0}).angles
        self.assertEqual(angles["roof back"], 20.0)
        self.assertGreater(angles["gable right"], 5)
        for wrong in (-20.0, 120.0):
            with self.assertRaisesRegex(PackError, "cannot follow a slope that leans") as caught:
                folded(GABLE, flaps={"roof front": wrong})
            self.assertEqual(caught.exception.place, "flaps.roof front")

    def test_it_is_at_least_as_wide_as_deep(self) -> None:
        with self.assertRaisesRegex(PackError, "at least as wide as deep, 90 mm") as caught:
            folded(GABLE, length=80.0)
        self.assertEqual(caught.exception.place, "length")


class PillowTests(TestCase):
    def test_nothing_is_stretched(self) -> None:
        """Neighbouring places are as far apart on the closed pillow as on its blank: faces to 1e-9 along
        and across their rulings, flaps to a hundred thousandth."""
        one = folded(PILLOW)
        assert isinstance(one, Bent)
        step = 1e-3
        for name, panel in one.blank.by_name.items():
            left, foot, right, top = panel.outline.buffer(-2).bounds
            rng = np.random.default_rng(4)
            at = rng.uniform((left + 1, foot), (right - 1, top), (400, 2))
            for way in ((1, 0), (0, 1), (0.6, 0.8)):
                there = at + step * np.array(way)
                apart = np.linalg.norm(one.mapped(name, there)[0] - one.mapped(name, at)[0], axis=1) / step
                with self.subTest(name, way=way):
                    wide = np.percentile(np.abs(apart - 1), 95)  # but for roundings, where board is pressed
                    self.assertLess(float(wide), 2e-3 if "flap" in name else 1e-6)

    def test_its_inside_is_as_high_deep_and_wide_as_is_stated(self) -> None:
        """Along rays through the middle, by trimesh."""
        one = fold_carton(PILLOW).components[0]
        t = PILLOW.board.caliper
        mesh = together(one.faces.outside, one.faces.inside, one.faces.edge)
        solid = trimesh.Trimesh(mesh.positions, mesh.faces, process=False)
        middle = np.array([[46.8, 0.31, -PILLOW.depth / 2 - t / 2]])
        for way, size, more in (((0, 0, 1), 30, 1.5), ((0, 1, 0), 110, 0.9)):
            reach = []
            for sign in (1, -1):
                hits, _, _ = solid.ray.intersects_location(middle, [sign * np.array(way)])
                reach.append(float(np.linalg.norm(hits - middle, axis=1).min()))
            with self.subTest(way):
                self.assertGreater(sum(reach), size - 0.01)
                self.assertLess(sum(reach), size + more)  # its back lies over the glue flap

    def test_its_creases_are_the_sine_that_a_cut_cylinder_unrolls_to(self) -> None:
        """A plane at 45° cuts a cylinder along an ellipse, which unrolls to a cosine of the arc (textbook
        descriptive geometry, from memory)."""
        blank = fold_carton(PILLOW).blanks["pillow"]
        crease = next(one for one in blank.creases if one.child == "top flap front")
        places = np.array(crease.curve)
        high, chord = (30 + 0.4) / 2, 90.0
        for _ in range(50):
            half = 2 * math.atan2(2 * high, chord)
            chord = 90 + 0.4 / math.sin(half)
        radius = chord / 2 / math.sin(half)
        across = places[:, 0] - radius * half
        bulge = radius * (np.cos(across / radius) - math.cos(half))
        level = float(blank.by_name["front"].outline.bounds[3])
        np.testing.assert_allclose(places[:, 1], level - bulge, atol=1e-6)

    def test_windows_and_their_film_are_bent_with_it(self) -> None:
        window = Window(panel="front", across=40, high=30, rounding=1.0)
        plain, cut = folded(PILLOW), folded(PILLOW, windows=[window])
        areas = [trimesh.Trimesh(f.faces.outside.positions, f.faces.outside.faces).area for f in (plain, cut)]
        self.assertAlmostEqual(areas[0] - areas[1], math.pi * 300, delta=5)
        sheet = Polygon(cut.blank.by_name["front"].outline.exterior).buffer(-20)
        film = cut.slab("front", sheet, -0.3, -0.25)
        self.assertTrue(whole_of(film).is_watertight)
        self.assertAlmostEqual(whole_of(film).volume / (0.05 * sheet.area), 1, delta=0.01)

    def test_what_it_cannot_be_is_refused_with_its_field(self) -> None:
        for change, place in (
            ({"depth": 60.0}, "depth"),
            ({"length": 60.0, "depth": 5.0, "board": Board(caliper=2.0)}, "depth"),
            ({"insert": Insert(height=10)}, "insert"),
        ):
            with self.assertRaises(PackError) as caught:
                folded(PILLOW, **change)
            self.assertEqual(caught.exception.place, place)
