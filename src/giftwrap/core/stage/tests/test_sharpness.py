"""Depth of field and shift, against the formulas of textbooks and measured in renders."""

from __future__ import annotations

import math
from unittest import TestCase

import numpy as np
from drjit.llvm.ad import Array2f, Float

from giftwrap.core.grade.display import decode_srgb, grade_picture
from giftwrap.core.model import Camera, Grade, Point
from giftwrap.core.render.lens import in_opening
from giftwrap.core.stage.camera import angle_of_view, project, ray_through, view_of
from giftwrap.core.stage.plan import plan_of
from giftwrap.core.stage.sharpness import blur, hyperfocal, sharp_between
from giftwrap.core.tests.samples import portrait, three_lights
from giftwrap.core.tests.scenes import box, film_of, lamp, matt, scene, surface


class FormulaTests(TestCase):
    """Values worked by hand from Ray, Applied Photographic Optics, as remembered: c 0.03 mm."""

    def test_hyperfocal_distance(self) -> None:
        self.assertAlmostEqual(hyperfocal(50, 8, 0.03), 50**2 / (8 * 0.03) + 50)
        self.assertAlmostEqual(hyperfocal(50, 8, 0.03) / 1000, 10.47, delta=0.01)

    def test_depth_of_field(self) -> None:
        near, far = sharp_between(50, 8, 3000, 0.03)
        self.assertAlmostEqual(near / 1000, 2.34, delta=0.01)
        self.assertAlmostEqual(far / 1000, 4.19, delta=0.01)

    def test_at_its_ends_a_point_is_as_large_as_the_circle(self) -> None:
        for lens, f_number, focus in ((85, 8, 900), (50, 2.8, 400), (135, 11, 2500)):
            for end in sharp_between(lens, f_number, focus, 0.03):
                self.assertAlmostEqual(blur(lens, f_number, focus, end), 0.03, delta=1e-9)

    def test_from_the_hyperfocal_distance_there_is_no_end(self) -> None:
        near, far = sharp_between(50, 8, hyperfocal(50, 8))
        self.assertEqual(far, math.inf)
        self.assertAlmostEqual(near, hyperfocal(50, 8) / 2, delta=0.5)

    def test_the_angle_of_view_is_the_textbooks(self) -> None:
        """50 mm on 36 mm takes in 39.6°, 85 mm 23.9° (as in every lens maker's tables, from memory)."""
        self.assertAlmostEqual(angle_of_view(50, 36), 39.6, delta=0.05)
        self.assertAlmostEqual(angle_of_view(85, 36), 23.9, delta=0.05)


class BlurTests(TestCase):
    def test_a_point_is_seen_as_a_disc_of_the_lens(self) -> None:
        """A dot that is not in focus is spread over the textbook's disc, within 3 %: the mean squared
        distance from the middle of an even disc is half its squared radius."""
        size, side = 160, 3.0
        for distance in (750.0, 1400.0):
            camera = Camera(lens_mm=85, distance=1000, height=0, aim_height=0, f_number=0.7)
            dot = lamp((0, distance - 1000, 0), target=(0, -2000, 0), side=side, radiance=5000)
            far = surface("far", box((-1, 3000, -1), (1, 3001, 1)), matt(0.5))
            film = film_of(scene((far,), (dot,), 0.0), camera, size=size, samples=3000)
            light = film.mean_light().mean(axis=2)
            rows, columns = np.indices(light.shape)
            own = [n - (n * light).sum() / light.sum() for n in (rows, columns)]
            spread = ((own[0] ** 2 + own[1] ** 2) * light).sum() / light.sum()
            a_dot = (side / distance * 85 / 24 * size) ** 2 / 6 + 1 / 6
            diameter = 2 * math.sqrt(2 * (spread - a_dot)) / size * 24
            with self.subTest(distance=distance):
                self.assertAlmostEqual(diameter / blur(85, 0.7, 1000, distance), 1.0, delta=0.03)

    def test_blades_open_as_large_an_area(self) -> None:
        """Places in an opening: six sides, its area π, evenly over it."""
        sample = np.random.default_rng(1).random((2, 200_000), dtype=np.float32)
        places = in_opening(Array2f(sample), Float(6.0)).numpy()
        half = math.pi / 6
        corner = math.sqrt(half / (math.sin(half) * math.cos(half)))
        inner = corner * math.cos(half)
        turns = (2 * np.arange(6) + 1) * half
        between = np.stack([np.sin(turns), np.cos(turns)], axis=1)
        self.assertLessEqual(float((between @ places).max()), inner + 1e-5)
        self.assertAlmostEqual(float(np.hypot(*places).max()), corner, delta=0.02)
        found, *_ = np.histogram2d(*places, bins=12, range=((-0.7, 0.7), (-0.7, 0.7)))
        expected = 200_000 * (1.4 / 12) ** 2 / math.pi
        self.assertLess(float(np.abs(found - expected).max()), 5 * math.sqrt(expected))

    def test_what_is_focused_is_sharp_and_is_where_it_is_without(self) -> None:
        block = surface("block", box((-20, 200, -20), (20, 201, 20)), matt(0.5))
        open_ = Camera(lens_mm=85, distance=1000, height=0, aim_height=0, f_number=1.4, focus=Point(y=200))
        light = lamp((0, -500, 100), target=(0, 200, 0), side=200)
        shut = open_.model_copy(update={"f_number": None})
        pictures = [film_of(scene((block,), (light,), 0.0), c, size=64, samples=32) for c in (open_, shut)]
        masks = [film.share_of("block") for film in pictures]
        self.assertLess(float(np.abs(masks[0] - masks[1]).mean()), 8e-3)
        out = open_.model_copy(update={"focus": Point(y=-600)})
        soft = film_of(scene((block,), (light,), 0.0), out, size=64, samples=32).share_of("block")
        self.assertGreater(float(np.abs(soft - masks[1]).mean()), 0.011)


class ShiftTests(TestCase):
    LOOKING_DOWN = Camera(lens_mm=50, distance=700, height=420, aim_height=80, azimuth=30)

    def test_upright_edges_are_upright(self) -> None:
        """Within 0.05°, measured at the edges of a box in a picture; without, they lean by degrees."""
        block = surface("box", box((-40, -30, 0), (40, 30, 160)), matt(0.5))
        light = lamp((0, -500, 600), target=(0, 0, 80), side=200)
        for upright, most in ((True, 0.05), (False, 30.0)):
            camera = self.LOOKING_DOWN.model_copy(update={"upright": upright})
            film = film_of(scene((block,), (light,), 0.0), camera, size=300, samples=32)
            mask = film.share_of("box")
            rows = np.arange(mask.shape[0])[(mask > 0.5).any(axis=1)]
            rows = rows[len(rows) // 3 : 2 * len(rows) // 3]
            left = [mask[row, :150].sum() for row in rows]
            lean = math.degrees(math.atan(abs(float(np.polyfit(rows, left, 1)[0]))))
            self.assertLess(lean, most)
            if not upright:
                self.assertGreater(lean, 1.0)

    def test_what_it_is_aimed_at_stays_where_it_is(self) -> None:
        aim = np.array([[0.0, 0.0, 80.0]])
        for camera in (self.LOOKING_DOWN, Camera(projection="orthographic", height=300, aim_height=80)):
            for upright in (False, True):
                here = project(camera.model_copy(update={"upright": upright}), 0.8, aim)[0]
                np.testing.assert_allclose(here, (0.5, 0.5), atol=1e-9)

    def test_rise_shift_and_roll_move_the_picture(self) -> None:
        """12 mm of a frame 24 mm wide are half of the picture."""
        camera = Camera(lens_mm=85, distance=1000, height=0, aim_height=0)
        place = np.array([[0.0, 0.0, 0.0]])
        moved = camera.model_copy(update={"shift_mm": 12.0, "rise_mm": 3.0})
        np.testing.assert_allclose(project(moved, 24 / 36, place)[0], (0.0, 0.5 + 3 / 36), atol=1e-9)
        above = np.array([[0.0, 0.0, 10.0]])
        rolled = project(camera.model_copy(update={"roll": 90.0}), 1.0, above)[0]
        self.assertLess(rolled[0], 0.5, "a camera that lies on its right side sees up on the left")
        self.assertAlmostEqual(rolled[1], 0.5)

    def test_pictures_are_where_they_are_told(self) -> None:
        """A small box in a picture is where it is projected, with everything at once."""
        camera = self.LOOKING_DOWN.model_copy(
            update={"upright": True, "rise_mm": 2.0, "shift_mm": -3.0, "roll": 12.0}
        )
        place = np.array([30.0, 10.0, 100.0])
        dot = surface("dot", box(place - 4, place + 4), matt(0.5))
        film = film_of(scene((dot,), (), 1.0), camera, size=100, samples=16)
        rows, columns = np.nonzero(film.share_of("dot") > 0.5)
        found = (columns.mean() + 0.5) / 100, (rows.mean() + 0.5) / 100
        np.testing.assert_allclose(found, project(camera, 1.0, place[None])[0], atol=0.006)
        begin, way = ray_through(camera, 1.0, *found)
        self.assertLess(float(np.linalg.norm(np.cross(place - begin, way))), 3.0)


class PlanTests(TestCase):
    def test_the_sharp_zone_is_drawn(self) -> None:
        shot = portrait()
        self.assertIsNone(plan_of(three_lights(), shot, []).sharp)
        camera = shot.camera.model_copy(update={"f_number": 5.6})
        sharp = plan_of(three_lights(), shot.model_copy(update={"camera": camera}), []).sharp
        assert sharp is not None and sharp.far is not None
        view = view_of(camera, shot.aspect)
        self.assertAlmostEqual(sharp.focus, view.focus, delta=0.1)
        near, far = sharp_between(camera.lens_mm, 5.6, view.focus)
        self.assertEqual((sharp.near, sharp.far), (round(near, 1), round(far, 1)))
        for corners in (sharp.above, sharp.side):
            deep = (np.array(corners) - view.position) @ (
                np.subtract(view.target, view.position)
                / np.linalg.norm(np.subtract(view.target, view.position))
            )
            np.testing.assert_allclose(deep, (near, near, far, far), rtol=1e-6)

    def test_a_stop_doubles_the_light(self) -> None:
        light = np.full((1, 1, 3), 0.11, np.float32)
        shown = [decode_srgb(grade_picture(light, Grade(exposure_ev=ev))) for ev in (0.0, 1.0)]
        self.assertAlmostEqual(float(shown[1].mean() / shown[0].mean()), 2.0, delta=1e-3)
