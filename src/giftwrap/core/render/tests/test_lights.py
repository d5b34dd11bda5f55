"""What lamps of every kind bring to a surface, against closed forms, and what of them is seen."""

from __future__ import annotations

import hashlib
import io
import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from PIL import Image

from giftwrap.core.errors import PackError
from giftwrap.core.materials.optics import METALS, Optics, OpticsKind
from giftwrap.core.model import Ball, Camera, Falloff, LightTable, Softbox, Spot, Sun, WindowLight
from giftwrap.core.render.film import Film
from giftwrap.core.scene.faces import face_of
from giftwrap.core.scene.lamp import Lamp
from giftwrap.core.scene.lamps import lamps_of
from giftwrap.core.stage.lights import radiance_of
from giftwrap.core.stage.starting import starting_set
from giftwrap.core.tests.scenes import ahead, film_of, matt, quad, scene, sphere, surface
from giftwrap.core.things.thing import Extent

WHITE = 0.5
PATCH = surface("patch", quad((0, 0, 0), (0.5, 0, 0), (0, 0.5, 0)), matt(WHITE))
"""A matt square millimetre in the middle that faces upwards."""
FROM_ABOVE = Camera(projection="orthographic", orthographic_width=0.4, distance=1, height=2, aim_height=0)
AROUND = Extent((-1.0, -1.0, -1.0), (1.0, 1.0, 1.0))
STEEL = Optics(OpticsKind.METAL, alpha=0.0, n=METALS["chrome"][0], k=METALS["chrome"][1])


def made(*lights: object) -> tuple[Lamp, ...]:
    """Lamps of a set with something small in the middle."""
    lamps, _ = lamps_of(starting_set().model_copy(update={"lights": list(lights)}), AROUND, {})
    return lamps


def irradiance(film: Film) -> float:
    """W/m² that fell on the patch: a matt surface shows albedo · E / π (Lambert)."""
    return float(film.mean_light().mean()) * math.pi / WHITE


def brought(*lamps: Lamp, samples: int = 256) -> float:
    return irradiance(film_of(scene((PATCH,), lamps, 0.0), FROM_ABOVE, size=8, samples=samples))


class IrradianceTests(TestCase):
    """Closed forms: of a disc on the axis and of a ball from Howell, A Catalog of Radiation Heat Transfer
    Configuration Factors, from memory."""

    def test_a_sun_brings_what_it_says_by_the_cosine(self) -> None:
        for elevation, diameter in ((90.0, 0.53), (40.0, 0.53), (30.0, 12.0)):
            (sun,) = made(
                Sun(name="Sun", azimuth=-60, elevation=elevation, diameter=diameter, irradiance=3.0)
            )
            with self.subTest(elevation=elevation, diameter=diameter):
                expected = 3.0 * math.sin(math.radians(elevation))
                self.assertAlmostEqual(brought(sun) / expected, 1.0, delta=0.01)

    def test_a_ball_brings_its_cosine_over_the_squared_distance(self) -> None:
        """E = π L (r/d)² cos θ, however near it is, as long as all of it is above."""
        for diameter, distance, elevation in (
            (60.0, 400.0, 90.0),
            (200.0, 300.0, 50.0),
            (300.0, 170.0, 75.0),
        ):
            ball = Ball(
                name="B", azimuth=20, elevation=elevation, distance=distance, diameter=diameter, power_w=2.0
            )
            with self.subTest(diameter=diameter, distance=distance):
                seen = (diameter / 2 / distance) ** 2 * math.sin(math.radians(elevation))
                expected = math.pi * radiance_of(ball) * seen
                self.assertAlmostEqual(brought(*made(ball), samples=1024) / expected, 1.0, delta=0.012)

    def test_a_spot_brings_its_strength_over_the_squared_distance(self) -> None:
        """I(θ) cos θ / d², I = L A f(θ): beside its axis by f, beyond its beam nothing."""
        spot = Spot(
            name="S", azimuth=0, elevation=90, distance=1000, diameter=4, power_w=1.0, beam=40, rim=0.5
        )
        (lamp,) = made(spot)
        straight = radiance_of(spot) * lamp.area / 1000**2
        self.assertAlmostEqual(brought(lamp) / straight, 1.0, delta=0.01)
        for degrees in (0.0, 8.0, 13.0, 15.0, 18.0, 21.0):
            aside = 1000 * math.tan(math.radians(degrees))
            cosine = math.cos(math.radians(degrees))
            moved = replace(lamp, centre=(aside, 0.0, 1000.0))
            along = (math.cos(math.radians(degrees)) - math.cos(math.radians(20))) / (
                math.cos(math.radians(10)) - math.cos(math.radians(20))
            )
            along = min(max(along, 0.0), 1.0)
            expected = straight * cosine**4 * along * along * (3 - 2 * along)
            with self.subTest(degrees):
                self.assertAlmostEqual(brought(moved), expected, delta=0.012 * straight)

    def test_a_large_round_lamp_above(self) -> None:
        """E = π L r² / (r² + h²)."""
        spot = Spot(
            name="S", azimuth=0, elevation=90, distance=300, diameter=400, power_w=5.0, beam=170, rim=0
        )
        (lamp,) = made(spot)
        even = replace(lamp, beam=(-1.0, -2.0))
        expected = math.pi * radiance_of(spot) * 200**2 / (200**2 + 300**2)
        self.assertAlmostEqual(brought(even, samples=1024) / expected, 1.0, delta=0.01)

    def test_power_is_what_all_of_a_lamp_gives(self) -> None:
        """Of a spot by adding up what it sends into every direction, 2π ∫ I(θ) sin θ dθ."""
        spot = Spot(name="S", azimuth=0, elevation=90, distance=9, diameter=30, power_w=7.0, beam=60, rim=0.4)
        (lamp,) = made(spot)
        angles = (np.arange(20_000) + 0.5) / 20_000 * math.pi / 2
        along = np.clip((np.cos(angles) - lamp.beam[1]) / (lamp.beam[0] - lamp.beam[1]), 0, 1)
        strength = lamp.radiance[0] * lamp.area / 1e6 * np.cos(angles) * along**2 * (3 - 2 * along)
        self.assertAlmostEqual(
            float((2 * math.pi * strength * np.sin(angles)).mean() * math.pi / 2), 7.0, delta=0.01
        )
        ball = Ball(name="B", azimuth=0, elevation=0, distance=9, diameter=30, power_w=7.0)
        self.assertAlmostEqual(radiance_of(ball) * math.pi * math.pi * 0.03**2, 7.0)

    def test_what_fades_brings_what_is_left(self) -> None:
        """By the same light of many even strips, each as bright as that part of it."""
        box = Softbox(
            name="K",
            width=600,
            height=300,
            azimuth=15,
            elevation=55,
            distance=500,
            power_w=4,
            across=Falloff(towards="end", by=0.9, curve=1.5),
            frame=30,
        )
        (faded,) = made(box)
        assert faded.face is not None
        centre, across, up = (np.array(v) for v in (faded.centre, faded.across, faded.up))
        total, count = 0.0, faded.face.shape[1]
        normal, radiance = faded.normal, np.array(faded.radiance)
        rows = faded.face.shape[0]
        for column in range(count):
            for row in range(rows):
                place = centre + ((column + 0.5) / count * 2 - 1) * across + (1 - (row + 0.5) / rows * 2) * up
                far = float(np.linalg.norm(place))
                cosines = place[2] / far * float(-place @ normal) / far
                total += radiance[0] * faded.face[row, column, 0] * cosines / far**2
        expected = total * faded.area / (count * rows)
        self.assertAlmostEqual(brought(faded, samples=1024) / expected, 1.0, delta=0.01)


class SeenTests(TestCase):
    def test_a_face_is_seen_the_right_way_round(self) -> None:
        """A fade towards its right and its top, by a camera that looks at it from what it lights."""
        for width, height in ((300.0, 200.0), (200.0, 300.0)):
            box = Softbox(
                name="K",
                width=width,
                height=height,
                azimuth=180,
                elevation=0,
                distance=400,
                power_w=4,
                across=Falloff(towards="end", by=0.8),
                up=Falloff(towards="end", by=0.5),
            )
            (lamp,) = made(box)
            film = film_of(scene((PATCH,), (lamp,), 0.0), ahead(100), size=16, samples=16)
            seen = film.mean_light()[..., 0] / lamp.radiance[0]
            with self.subTest(width=width):
                x = (np.arange(16) + 0.5) / 16 * 100 - 50
                across = 1 - 0.8 * (x / width + 0.5)
                up = 1 - 0.5 * (-x / height + 0.5)
                np.testing.assert_allclose(seen, np.outer(up, across), atol=0.02)

    def test_a_ball_and_a_disc_are_round(self) -> None:
        ball = Ball(name="B", azimuth=180, elevation=0, distance=400, diameter=80, power_w=1)
        disc = Spot(name="D", azimuth=180, elevation=0, distance=400, diameter=80, power_w=1)
        for light in (ball, disc):
            film = film_of(scene((PATCH,), made(light), 0.0), ahead(100), size=50, samples=16)
            lit = film.mean_light()[..., 0] / made(light)[0].radiance[0]
            with self.subTest(light.name):
                self.assertAlmostEqual(float(lit.mean()) * 100**2, math.pi * 40**2, delta=40)

    def test_a_light_table_shines_beneath_what_stands_on_it(self) -> None:
        table = LightTable(name="T", width=300, height=200, power_w=1)
        floor = surface("floor", quad((0, 0, -0.05), (500, 0, 0), (0, 500, 0)), matt(0.5))
        film = film_of(
            scene((floor, surface("ball", sphere(20, (0, 0, 20)), matt(0.5))), made(table), 0.0),
            Camera(projection="orthographic", orthographic_width=400, distance=1, height=900, aim_height=0),
            size=40,
            samples=16,
        )
        seen = film.mean_light()[..., 0] / made(table)[0].radiance[0]
        self.assertAlmostEqual(float((seen > 0.95).mean()), (300 * 200 - math.pi * 400) / 400**2, delta=0.012)
        self.assertLess(float(seen[20, 20]), 0.05, "the ball from above is dark")

    def test_each_thing_mirrors_what_it_may(self) -> None:
        """A lamp that one of two mirrors does not show is in the other, and lights them both alike."""
        box = Softbox(name="Key", width=200, height=200, azimuth=0, elevation=0, distance=400, power_w=4)
        (lamp,) = made(box)
        shy = surface("shy", quad((-30, 0, 0), (20, 0, 0), (0, 0, 20)), STEEL)
        bold = surface("bold", quad((30, 0, 0), (20, 0, 0), (0, 0, 20)), STEEL)
        shy = replace(shy, unreflecting=frozenset({"Key"}))
        behind = replace(lamp, hidden_from_camera=True)
        film = film_of(scene((shy, bold), (behind,), 0.0), ahead(100, distance=300), size=20, samples=16)
        light = film.mean_light()[..., 0]
        self.assertEqual(float(light[10, 4]), 0.0)
        self.assertGreater(float(light[10, 16]), 0.4 * lamp.radiance[0])


class FaceTests(TestCase):
    def test_a_window_is_open_between_its_bars(self) -> None:
        window = WindowLight(
            name="W",
            width=600,
            height=900,
            azimuth=0,
            elevation=0,
            distance=1,
            power_w=1,
            columns=2,
            rows=3,
            bar=60,
        )
        face = face_of(window)
        assert face is not None
        self.assertAlmostEqual(float(face.mean()), (540 / 600) * (780 / 900), delta=0.005)
        self.assertEqual(float(face[face.shape[0] // 3, face.shape[1] // 4, 0]), 0.0, "a bar across")
        self.assertEqual(float(face[face.shape[0] // 6, face.shape[1] // 4, 0]), 1.0, "a pane")

    def test_a_picture_fills_the_face_and_a_missing_one_is_named(self) -> None:
        """Its left half black, cut to the face's shape; linear by the curve of sRGB (IEC 61966-2-1)."""
        drawn = Image.new("RGB", (40, 20), (188, 188, 188))
        drawn.paste((0, 0, 0), (0, 0, 20, 20))
        file = io.BytesIO()
        drawn.save(file, "PNG")
        name = hashlib.sha256(file.getvalue()).hexdigest()
        box = Softbox(
            name="K", width=60, height=60, azimuth=0, elevation=0, distance=9, power_w=1, picture=name
        )
        photo_set = starting_set().model_copy(update={"lights": [box]})
        self.assertEqual([use.sha256 for use in photo_set.picture_uses()], [name])
        (lamp,), _ = lamps_of(photo_set, AROUND, {name: file.getvalue()})
        assert lamp.face is not None
        left, right = (lamp.face[:, half].mean() for half in (slice(0, 100), slice(156, 256)))
        self.assertAlmostEqual(float(left), 0.0, delta=0.01)
        self.assertAlmostEqual(float(right), ((188 / 255 + 0.055) / 1.055) ** 2.4, delta=0.01)
        with self.assertRaises(PackError) as caught:
            lamps_of(photo_set, AROUND, {})
        self.assertIn("“K”", caught.exception.message)

    def test_an_even_softbox_has_no_texels(self) -> None:
        box = Softbox(name="K", width=60, height=90, azimuth=0, elevation=0, distance=1, power_w=1)
        self.assertIsNone(face_of(box))
        framed = face_of(box.model_copy(update={"frame": 6.0}))
        assert framed is not None
        self.assertAlmostEqual(float(framed.mean()), 48 * 78 / (60 * 90), delta=0.005)
