"""Surrounds that differ from direction to direction, against the renderer library's own and closed forms."""

from __future__ import annotations

import math
from unittest import TestCase

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Bool, Float, UInt32

from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.model import Camera
from giftwrap.core.render.lighting import Aimed, Lighting
from giftwrap.core.render.surroundings import Surroundings
from giftwrap.core.scene.scene import Scene
from giftwrap.core.scene.surrounding import Surrounding
from giftwrap.core.tests.referees import ABOVE, FLOOR, GOLD, compare
from giftwrap.core.tests.scenes import film_of, matt, quad, scene, sphere, surface

ROWS = 64
WHITE = (1.0, 1.0, 1.0)


def picture(name: str) -> np.ndarray:
    """(64, 128, 3) of varied contrast: the last a sun of 8 square degrees over a dim sky."""
    down, aside = np.indices((ROWS, 2 * ROWS)) + 0.5
    zenith, way = down / ROWS * math.pi, aside / ROWS * math.pi - math.pi
    shapes = {
        "overcast": (1 + 2 * np.cos(zenith).clip(0)) / 3,
        "sunset": 2 * np.exp(-((zenith - 1.3) ** 2) * 8),
        "window": 0.05 + 8.0 * ((abs(way - 1) < 0.4) & (abs(zenith - 1.2) < 0.3)),
        "two lamps": 0.1 + 60.0 * ((abs(abs(way) - 2) < 0.1) & (abs(zenith - 0.7) < 0.1)),
        "noise": np.random.default_rng(3).lognormal(-2, 1.5, (ROWS, 2 * ROWS)),
        "sun": 0.3 + 5000.0 * ((down == 20.5) & (aside == 40.5)),
    }
    return np.asarray(shapes[name][..., None] * np.array([1.0, 0.9, 0.8]), np.float32)


SINE = np.sin((np.arange(ROWS) + 0.5) / ROWS * math.pi)
PICTURES = ("overcast", "sunset", "window", "two lamps", "noise", "sun")


class RefereeTests(TestCase):
    def test_six_pictures_against_the_librarys_own_emitter(self) -> None:
        """Over a matt floor under a metal ball, by the renderer library's `envmap` and its integrator."""
        ball = surface("ball", sphere(60), GOLD)
        for name in PICTURES:
            with self.subTest(name):
                around = Surrounding(WHITE, picture(name), turn=35.0)
                agreement = compare(scene((FLOOR, ball), (), around), ABOVE)
                self.assertLess(abs(agreement.whole), 0.006)
                self.assertLess(agreement.beyond(3), 0.06)


class ChoiceTests(TestCase):
    COUNT = 60_000

    def numbers(self) -> Array2f:
        rng = np.random.default_rng(5)
        return Array2f(*(Float(rng.random(self.COUNT).astype(np.float32)) for _ in range(2)))

    def test_places_are_chosen_as_dense_as_it_is_told(self) -> None:
        """The mean of what is brighter there than on average over its density is the light of all of that: of
        what is told between texels and by a sum over them."""
        for name in PICTURES:
            with self.subTest(name):
                one = Surroundings(Surrounding(WHITE, picture(name), turn=50.0), None)
                every = dr.full(Bool, True, self.COUNT)
                way = one.chosen(self.numbers(), every)
                np.testing.assert_allclose(dr.norm(way).numpy(), 1, atol=1e-5)
                density = one.density(way, every).numpy()
                light = one.radiance(way, every).numpy().T @ LUMINANCE
                mean = float(np.average((picture(name) @ LUMINANCE).mean(axis=1), weights=SINE))
                solid = SINE * (math.pi / ROWS) ** 2
                summed = ((picture(name) @ LUMINANCE).sum(axis=1) * solid).sum()
                found = (light / density).mean()
                self.assertAlmostEqual(found / summed, 1, delta=0.03 + 0.3 * (name == "noise"))
                bright = light > 3 * mean
                if bright.any():
                    brings = (light / density)[bright]
                    self.assertLess(
                        brings.std() / brings.mean(), 1.0, "every bright place brings about as much"
                    )

    def test_a_turn_goes_to_the_right_from_above(self) -> None:
        sun = Surroundings(Surrounding(WHITE, picture("sun"), turn=0.0), None)
        turned = Surroundings(Surrounding(WHITE, picture("sun"), turn=90.0), None)
        zenith, way = 20.5 / ROWS * math.pi, 40.5 / ROWS * math.pi - math.pi
        level, up = math.sin(zenith), math.cos(zenith)
        there = Array3f(level * math.sin(way), level * math.cos(way), up)
        right_of_it = Array3f(level * math.cos(way), -level * math.sin(way), up)
        bright = 5000.3
        for one, towards in ((sun, there), (turned, right_of_it)):
            found = one.radiance(towards + Array3f(Float([0.0])), Bool([True])).numpy().ravel()
            self.assertAlmostEqual(found[0] / bright, 1, delta=0.01)

    def test_following_a_surface_finds_it_with_the_density_of_aiming(self) -> None:
        lighting = Lighting([], Surrounding(WHITE, picture("window"), turn=20.0))
        at, up = dr.zeros(Array3f, self.COUNT), Array3f(Float(np.zeros(self.COUNT, np.float32)), 0.6, 0.8)
        aim, total = lighting.aim(at, up, UInt32(0), self.numbers())
        np.testing.assert_array_equal(aim.slot.numpy(), lighting.surround_slot)
        aimed = Aimed(up, total, Float(0))
        density = lighting.surround_density(aim.direction, aimed, dr.full(Bool, True, self.COUNT))
        np.testing.assert_allclose(density.numpy(), aim.density.numpy(), rtol=0.02)


class MattSheetTests(TestCase):
    """A white sheet has the radiance E / π."""

    CAMERA = Camera(lens_mm=85, distance=300, height=300, aim_height=0)

    def light_on(self, around: Surrounding) -> float:
        sheet = surface("sheet", quad((0, 0, 0), (400, 0, 0), (0, 400, 0)), matt(1.0))
        film = film_of(scene((sheet,), (), around), self.CAMERA, size=16, samples=256)
        return float((film.mean_light() @ LUMINANCE).mean())

    def test_a_picture_of_one_brightness_is_even_light(self) -> None:
        even = np.full((8, 16, 3), 0.5, np.float32)
        self.assertAlmostEqual(self.light_on(Surrounding((2.0, 2.0, 2.0), even)), 1.0, delta=0.01)

    def test_what_falls_on_a_sheet_is_the_sum_over_the_picture(self) -> None:
        for name in ("overcast", "two lamps", "sun"):
            with self.subTest(name):
                zenith = (np.arange(ROWS) + 0.5) / ROWS * math.pi
                falls = (picture(name) @ LUMINANCE).sum(axis=1) * np.sin(zenith) * np.cos(zenith).clip(0)
                wanted = falls.sum() * (math.pi / ROWS) ** 2 / math.pi
                self.assertAlmostEqual(
                    self.light_on(Surrounding(WHITE, picture(name))) / wanted, 1, delta=0.015
                )

    def test_nine_numbers_tell_roughly_what_falls_on_a_surface(self) -> None:
        """Within a few per cent (Ramamoorthi and Hanrahan 2001). Light 1 + cos θ is brighter than its mean by
        the cosine above: what falls of that upwards is ∫ cos² = 2π / 3, on what stands upright 2 / 3."""
        zenith = ((np.arange(ROWS) + 0.5) / ROWS * math.pi)[:, None, None]
        slanted = np.broadcast_to(1 + np.cos(zenith), (ROWS, 2 * ROWS, 3)).astype(np.float32)
        one = Surroundings(Surrounding(WHITE, slanted), None)
        for up, falls in ((1.0, 2 * math.pi / 3), (0.0, 2 / 3), (-1.0, 0.05 * math.pi)):
            facing = Array3f(Float([math.sqrt(1 - up * up)]), 0, up)
            self.assertAlmostEqual(one.falls(facing).numpy()[0], falls, delta=0.08)


class SeenTests(TestCase):
    def test_the_camera_sees_another_one_than_gives_light(self) -> None:
        glow, shown = picture("overcast"), np.zeros((ROWS, 2 * ROWS, 3), np.float32)
        shown[:, ROWS:] = (0.0, 0.5, 0.0)  # to the right of what is straight behind
        ball = surface("ball", sphere(60), matt(0.5)).instance
        one = Scene((ball,), (), Surrounding(WHITE, glow), Surrounding(WHITE, shown))
        film = film_of(one, Camera(lens_mm=50, distance=900, height=0, aim_height=0), size=48, samples=16)
        light = film.mean_light()
        np.testing.assert_allclose(light[2, 40], (0, 0.5, 0), atol=0.01)
        np.testing.assert_allclose(light[2, 6], 0, atol=0.01)
        self.assertGreater(light[24, 24].min(), 0.05)
        self.assertEqual(float(film.alpha()[2, 2]), 0.0)
