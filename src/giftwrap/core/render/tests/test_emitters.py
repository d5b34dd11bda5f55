"""How lamps are aimed at: the densities told are those with which places are chosen."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase

import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Float, UInt32
from scipy import integrate, stats

from giftwrap.core.render import optics_math as om
from giftwrap.core.render.emitters import (
    FEW,
    MANY,
    Emitter,
    importance,
    point_density,
    point_on,
    row_of,
    shares_of,
)
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.lighting import Aim, Aimed, Lighting
from giftwrap.core.scene.lamp import Lamp, panel
from giftwrap.core.scene.surrounding import Surrounding
from giftwrap.core.tests.scenes import lamp

STRIP = panel("strip", (670.0, -140.0, 260.0), (0.0, 0.0, 110.0), (160.0, 1000.0), 8.0)
WIDE = panel("wide", (80.0, 460.0, 1160.0), (0.0, 0.0, 110.0), (900.0, 600.0), 4.0)
PLACES = (((0, -300, 0), (0, 0, 1)), ((-400, 200, 5), (0.6, 0, 0.8)), ((300, 600, 300), (0, -1, 0)))
BALL = Lamp("ball", (-300.0, 250.0, 400.0), (60.0, 0.0, 0.0), (0.0, 60.0, 0.0), (9.0, 8.0, 7.0), shape="ball")
DISC = replace(
    panel("disc", (100.0, -900.0, 300.0), (0.0, 0.0, 0.0), (200.0, 200.0), 30.0),
    shape="disc",
    beam=(0.99, 0.8),
)
FADED = replace(
    panel("faded", (-500.0, -500.0, 200.0), (0.0, 0.0, 0.0), (400.0, 200.0), 20.0),
    face=np.linspace(0, 1, 40 * 80 * 3, dtype=np.float32).reshape(40, 80, 3),
)
COUNT, FEWER = 40_000, 2000
BINS = 10


def emitter(of: Lamp) -> Emitter:
    light_engine()
    from drjit.llvm.ad import Array4f

    return Emitter.of([Array4f(*(Float(float(v)) for v in quad)) for quad in row_of(of)])


def vector(values: tuple[float, ...], count: int = 1) -> Array3f:
    return Array3f(*(Float(np.full(count, v, np.float32)) for v in values))


class AimingTests(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        light_engine()
        cls.rng = np.random.default_rng(3)

    def numbers(self, count: int = COUNT) -> Array2f:
        return Array2f(*(Float(self.rng.random(count, dtype=np.float32)) for _ in range(2)))

    def aimed_by(self, lighting: Lighting, untouched: int) -> Aim:
        at, up = (vector(v, FEWER) for v in PLACES[0])
        aim, _ = lighting.aim(at, up, UInt32(untouched), self.numbers(FEWER))
        return aim

    def test_places_are_chosen_as_often_as_their_density_says(self) -> None:
        """By Pearson's chi-squared test over a hundred cells (SciPy)."""
        for of in (STRIP, WIDE):
            for origin, normal in PLACES:
                shares = shares_of(emitter(of), vector(origin), vector(normal), MANY)
                chosen = point_on(shares, self.numbers()).numpy()
                self.assertTrue(((chosen >= 0) & (chosen <= 1)).all())
                found, *_ = np.histogram2d(*chosen, bins=BINS, range=((0, 1), (0, 1)))
                fine = 4 * BINS
                middles = (np.arange(fine) + 0.5) / fine
                x, y = (
                    Float(v.ravel().astype(np.float32)) for v in np.meshgrid(middles, middles, indexing="ij")
                )
                density = point_density(shares, Array2f(x, y)).numpy().astype(float).reshape(BINS, 4, BINS, 4)
                expected = density.mean(axis=(1, 3)) / BINS**2
                self.assertAlmostEqual(float(expected.sum()), 1.0, delta=2e-3)
                likely = stats.chisquare(found.ravel(), expected.ravel() / expected.sum() * COUNT).pvalue
                self.assertGreater(likely, 1e-4, (of.name, origin))

    def test_what_a_lamp_brings_is_nearly_its_irradiance(self) -> None:
        """Against the integral over the rectangle (SciPy); half the strip is below the horizon."""
        for of in (STRIP, WIDE):
            row, (origin, normal) = row_of(of), PLACES[0]
            told = importance(
                emitter(of), shares_of(emitter(of), vector(origin), vector(normal), FEW)
            ).numpy()[0]

            def share(y: float, x: float, row=row, origin=origin, normal=normal) -> float:
                way = row[0, :3] + x * row[1, :3] + y * row[2, :3] - origin
                far = np.linalg.norm(way)
                return max(way @ np.array(normal), 0) * max(-way @ row[3, :3], 0) / far**4

            whole, _ = integrate.dblquad(share, -1, 1, -1, 1, epsabs=1e-12, epsrel=1e-3)
            self.assertAlmostEqual(told / (of.brightest * whole * row[0, 3] / 4), 1.0, delta=0.25)

    def test_following_a_surface_finds_lamps_with_the_density_of_aiming(self) -> None:
        """Both must agree, also from behind a place where nothing is, or light would be counted wrongly."""
        lighting = Lighting([STRIP, WIDE, lamp((-800, -300, 500)), BALL, DISC, FADED], Surrounding.even(0.2))
        for origin, normal in PLACES:
            at, up = vector(origin, FEWER), vector(normal, FEWER)
            aim, total = lighting.aim(at, up, UInt32(0), self.numbers(FEWER))
            for gone in (0.0, 70.0):
                begin = at + aim.direction * gone
                met = lighting.meet(begin, aim.direction, Float(1e8), invisible=UInt32(0))
                aimed = Aimed(up, total, Float(gone))
                density = lighting.met_density(met, begin, aim.direction, aimed)
                mine = (met.slot == aim.slot).numpy() & met.met.numpy() & (aim.density.numpy() > 0)
                self.assertGreater(mine.sum(), 1000)
                np.testing.assert_allclose(density.numpy()[mine], aim.density.numpy()[mine], rtol=0.02)
                shines = lighting.met_radiance(met, begin, aim.direction).numpy()[:, mine]
                np.testing.assert_allclose(shines, aim.radiance.numpy()[:, mine], rtol=0.02, atol=0.05)

    def test_lamps_that_do_not_touch_a_surface_are_not_aimed_at(self) -> None:
        lighting = Lighting([STRIP, WIDE], Surrounding.even(0.2))
        aim, _ = lighting.aim(
            vector(PLACES[0][0], FEWER), vector(PLACES[0][1], FEWER), UInt32(0b01), self.numbers(FEWER)
        )
        self.assertNotIn(0, aim.slot.numpy())
        self.assertIn(1, aim.slot.numpy())

    def test_without_lamps_the_surround_is_aimed_at(self) -> None:
        lighting = Lighting([], Surrounding.even(0.5))
        aim, _ = lighting.aim(
            vector(PLACES[0][0], FEWER), vector(PLACES[0][1], FEWER), UInt32(0), self.numbers(FEWER)
        )
        np.testing.assert_array_equal(aim.slot.numpy(), lighting.surround_slot)
        cosine = aim.direction.z.numpy()
        np.testing.assert_allclose(aim.density.numpy(), cosine / om.PI, rtol=1e-3, atol=1e-6)
