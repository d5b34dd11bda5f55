"""Light against closed forms: reflection, refraction, absorption, irradiance, energy."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from drjit.llvm.ad import Array3f, Float

from giftwrap.core.materials.optics import (
    AIR,
    METALS,
    Medium,
    Optics,
    OpticsKind,
    cloud_of,
    medium_of,
    surface_optics,
)
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque
from giftwrap.core.render import optics_math as om
from giftwrap.core.render.engine import light_engine
from giftwrap.core.tests.scenes import (
    GLASS,
    ahead,
    box,
    clear,
    film_of,
    lamp,
    matt,
    quad,
    scene,
    sphere,
    surface,
)

BEHIND = lamp((0, 300, 0), side=400, radiance=2)


def fresnel(angle: float, index: float) -> float:
    """Unpolarised reflectance by Fresnel's equations in their angle form (Hecht, Optics, 4.6)."""
    beyond = np.arcsin(np.sin(angle) / index)
    across = (np.sin(angle - beyond) / np.sin(angle + beyond)) ** 2
    along = (np.tan(angle - beyond) / np.tan(angle + beyond)) ** 2
    return float((across + along) / 2)


class FresnelTests(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        light_engine()

    def reflectance(self, angle: float, index: float) -> float:
        found, _ = om.dielectric_reflectance(Float(np.cos(angle)), Float(index))
        return float(found.numpy()[0])

    def test_against_the_equations(self) -> None:
        for index in (1.33, 1.52, 2.4, 1 / 1.33):
            for angle in np.radians([5, 20, 40, 47, 60, 75, 85]):
                if np.sin(angle) < index:
                    expected = fresnel(angle, index)
                    self.assertAlmostEqual(self.reflectance(angle, index), expected, delta=2e-5)

    def test_straight_on_grazing_and_brewster(self) -> None:
        self.assertAlmostEqual(self.reflectance(0, 1.5), 0.04, places=5)
        self.assertAlmostEqual(self.reflectance(np.radians(89.999), 1.5), 1.0, delta=2e-4)
        brewster = np.arctan(1.5)  # only light across the plane of incidence is reflected
        across = np.sin(brewster - np.arcsin(np.sin(brewster) / 1.5)) ** 2
        self.assertAlmostEqual(self.reflectance(brewster, 1.5), across / 2, places=5)

    def test_total_reflection_beyond_the_critical_angle(self) -> None:
        critical = np.arcsin(1 / 1.5)  # 41.8°
        self.assertEqual(self.reflectance(critical + 0.01, 1 / 1.5), 1.0)
        self.assertLess(self.reflectance(critical - 0.01, 1 / 1.5), 0.9)

    def test_snell(self) -> None:
        for index in (1.33, 1.52, 1 / 1.2):
            for angle in np.radians([10, 30, 50]):
                towards = Array3f(float(np.sin(angle)), 0, float(np.cos(angle)))
                _, cos_out = om.dielectric_reflectance(Float(float(np.cos(angle))), Float(index))
                bent = om.refracted(towards, Array3f(0, 0, 1), cos_out, Float(index)).numpy().ravel()
                self.assertAlmostEqual(-bent[0] * index, np.sin(angle), places=5)
                self.assertAlmostEqual(float(np.linalg.norm(bent)), 1.0, places=5)
                self.assertLess(bent[2], 0)

    def test_metals_straight_on(self) -> None:
        """((n − 1)² + k²) / ((n + 1)² + k²) (Born and Wolf, Principles of Optics, 14.2)."""
        for n, k in METALS.values():
            found = om.conductor_reflectance(Float(1), Array3f(*n), Array3f(*k)).numpy().ravel()
            expected = [((a - 1) ** 2 + b**2) / ((a + 1) ** 2 + b**2) for a, b in zip(n, k, strict=True)]
            np.testing.assert_allclose(found, expected, rtol=1e-5)

    def test_metals_are_those_of_the_renderer_library(self) -> None:
        engine = light_engine()
        for name, symbol in {
            "aluminium": "Al",
            "silver": "Ag",
            "gold": "Au",
            "copper": "Cu",
            "chrome": "Cr",
        }.items():
            values = engine.traverse(engine.load_dict({"type": "conductor", "material": symbol}))
            for mine, key in zip(METALS[name], ("eta.value", "k.value"), strict=True):
                np.testing.assert_allclose(mine, np.array(values[key]).ravel(), atol=2e-4)


class SlabTests(TestCase):
    """A plate between camera and lamp, or between camera and an edge."""

    def through(self, medium: Medium, thickness: float) -> np.ndarray:
        plate = surface("plate", box((-90, -thickness / 2, -90), (90, thickness / 2, 90)), clear(medium))
        film = film_of(scene((plate,), (BEHIND,), 0.0), ahead(40), size=16, samples=512)
        return film.mean_light().mean(axis=(0, 1)) / BEHIND.brightest

    def test_beer_lambert(self) -> None:
        """exp(−σ d) where nothing is reflected."""
        absorption = (0.01, 0.05, 0.2)
        for thickness in (2.0, 10.0, 40.0):
            found = self.through(Medium(1.0, absorption), thickness)
            np.testing.assert_allclose(found, np.exp(-np.array(absorption) * thickness), rtol=1e-3)

    def test_colour_at_a_depth(self) -> None:
        drink = Clear(refractive_index=1.0, colour="#e7a13c", depth=20)
        linear = ((np.array([0xE7, 0xA1, 0x3C]) / 255 + 0.055) / 1.055) ** 2.4  # IEC 61966-2-1
        np.testing.assert_allclose(self.through(medium_of(drink), 20), linear, rtol=2e-3)
        np.testing.assert_allclose(self.through(medium_of(drink), 40), linear**2, rtol=4e-3)

    def test_plate_with_all_its_inner_reflections(self) -> None:
        """(1 − R)² τ / (1 − R² τ²), R straight on and τ the absorption of one pass (Hecht, 9.6)."""
        absorption, thickness = 0.03, 12.0
        found = self.through(Medium(1.5, (absorption,) * 3), thickness)
        reflectance, passed = 0.04, np.exp(-absorption * thickness)
        expected = (1 - reflectance) ** 2 * passed / (1 - reflectance**2 * passed**2)
        np.testing.assert_allclose(found, expected, rtol=6e-3)

    def test_a_tilted_plate_shifts_what_is_behind(self) -> None:
        """t sin θ (1 − cos θ / √(n² − sin² θ)) (Hecht, problem 4.20)."""
        index, thickness, tilt = 1.5, 20.0, np.radians(35)
        plate = box((-60, -thickness / 2, -60), (60, thickness / 2, 60))
        turn = np.array([[np.cos(tilt), -np.sin(tilt), 0], [np.sin(tilt), np.cos(tilt), 0], [0, 0, 1]])
        plate = Mesh(plate.positions @ turn.T, plate.normals @ turn.T, plate.uvs, plate.faces)
        dark = surface("dark", quad((-100, 100, 0), (100, 0, 0), (0, 0, 100)), matt(0.0))
        bright = surface("bright", quad((100, 100, 0), (100, 0, 0), (0, 0, 100)), matt(1.0))
        stage = scene((dark, bright, surface("plate", plate, clear(Medium(index)))), (), 1.0)
        film = film_of(stage, ahead(40), size=160, samples=64)
        albedo, _ = film.albedo_and_normal()
        row = albedo[70:90, :, 0].mean(axis=0)
        edge = 20 - 40 * row.sum() / len(row)  # mm to the right of the middle: dark left, bright right
        shift = thickness * np.sin(tilt) * (1 - np.cos(tilt) / np.sqrt(index**2 - np.sin(tilt) ** 2))
        self.assertAlmostEqual(abs(edge), shift, delta=0.05)


class IrradianceTests(TestCase):
    def test_under_a_rectangle(self) -> None:
        """Configuration factor from an element to a parallel rectangle over its corner (Howell,
        A Catalog of Radiation Heat Transfer Configuration Factors, B-4, from memory); four make one
        that hangs over the element's middle."""
        side, height, radiance, albedo = 300.0, 200.0, 3.0, 0.5
        floor = surface("floor", quad((0, 0, 0), (5, 0, 0), (0, 5, 0)), matt(albedo))
        above = lamp((0, 0, height), target=(0, 0, 0), side=side, radiance=radiance)
        camera = ahead(4, distance=100, height=60)
        film = film_of(scene((floor,), (above,), 0.0), camera, size=8, samples=2048, units=2)
        a = b = side / 2 / height
        corner = a / np.sqrt(1 + a**2) * np.arctan(b / np.sqrt(1 + a**2))
        corner += b / np.sqrt(1 + b**2) * np.arctan(a / np.sqrt(1 + b**2))
        factor = 4 * corner / (2 * np.pi)
        self.assertAlmostEqual(float(film.mean_light().mean()), albedo * radiance * factor, delta=0.005)


class FurnaceTests(TestCase):
    """In even light from everywhere a thing that keeps all its light cannot be told apart."""

    def seen(self, optics: Optics) -> tuple[float, float]:
        """Mean brightness of a ball's middle and its rim in even light of 1."""
        film = film_of(
            scene((surface("ball", sphere(40), optics),), (), 1.0), ahead(80.0), size=48, samples=256
        )
        picture = film.mean_light((1, 1, 1)).mean(axis=2)
        across = np.hypot(*(np.indices(picture.shape) - 23.5)) / 24
        return float(picture[across < 0.6].mean()), float(picture[(across > 0.8) & (across < 0.97)].mean())

    def test_what_keeps_all_light_vanishes(self) -> None:
        lossless = {
            "matt white": matt(1.0),
            "glass": clear(GLASS),
            "coated white": surface_optics(Opaque(colour="#ffffff", gloss=0.9)),
        }
        for name, optics in lossless.items():
            with self.subTest(name):
                middle, rim = self.seen(optics)
                self.assertAlmostEqual(middle, 1.0, delta=0.01)
                self.assertAlmostEqual(rim, 1.0, delta=0.035)

    def test_nothing_gains_energy(self) -> None:
        things = {
            **{f"coat {g}": surface_optics(Opaque(colour="#ffffff", gloss=g)) for g in (0.0, 0.3, 0.6, 1.0)},
            **{f"frosted {a}": clear(GLASS, alpha=a) for a in (0.05, 0.2, 0.5)},
            **{f"metal {g}": surface_optics(Metal(metal="silver", gloss=g)) for g in (0.0, 0.5, 1.0)},
            "perfect metal": Optics(OpticsKind.METAL, alpha=0.3, n=(0.01,) * 3, k=(50.0,) * 3),
            **{f"cloudy {w}": surface_optics(Cloudy(colour="#ffffff", wander=w)) for w in (0.2, 3.0)},
        }
        for name, optics in things.items():
            with self.subTest(name):
                middle, rim = self.seen(optics)
                self.assertLess(middle, 1.006)
                self.assertLess(rim, 1.01)
                self.assertGreater(middle, 0.6)  # rough surfaces lose what bounces twice on them

    def test_a_thick_cloudy_piece_looks_its_colour(self) -> None:
        """The inversion from colour to scattering holds within a few per cent of paper white."""
        for grey in ("#404040", "#909090", "#e0e0e0"):
            cream = surface_optics(Cloudy(colour=grey, wander=0.05, gloss=0.0))
            self.assertEqual(cream.coat_index, 1.0)
            value = ((int(grey[1:3], 16) / 255 + 0.055) / 1.055) ** 2.4
            middle, _ = self.seen(cream)
            self.assertAlmostEqual(middle, value, delta=0.03)

    def test_light_wanders_sideways(self) -> None:
        """Beyond the edge of a shadow a cream is lit by what enters beside it; paper is not."""
        shade = surface(
            "shade", quad((-100, -40, 0), (100, 0, 0), (0, 0, 100)), matt(0.0), hidden_from_camera=True
        )
        front = lamp((0, -4000, 0), side=200, radiance=400)

        def beside(optics: Optics) -> float:
            body = surface("body", box((-60, 0, -60), (60, 60, 60)), optics)
            film = film_of(scene((body, shade), (front,), 0.0), ahead(40, distance=300), size=40, samples=256)
            return float(film.mean_light()[:, 12:16].mean() / film.mean_light()[:, 30:].mean())

        self.assertLess(beside(matt(0.8)), 0.02)
        self.assertGreater(beside(surface_optics(Cloudy(colour="#f0f0f0", wander=3.0, gloss=0.0))), 0.1)

    def test_cloud_of_white_keeps_nearly_all(self) -> None:
        self.assertGreater(min(cloud_of(Cloudy(colour="#ffffff")).albedo), 0.998)
        self.assertEqual(AIR.mean_free_path, 0)
