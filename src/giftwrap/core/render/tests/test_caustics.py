"""Light that falls through what is clear: as by paths alone where these find it, and sharp where not."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from giftwrap.core.materials.optics import Medium
from giftwrap.core.model import Camera
from giftwrap.core.render.film import Film
from giftwrap.core.render.landing import Landings, Stage
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.render.targets import Boxes
from giftwrap.core.scene.lamp import Lamp
from giftwrap.core.scene.scene import Scene
from giftwrap.core.scene.surrounding import Surrounding
from giftwrap.core.stage.lights import FAR_AWAY
from giftwrap.core.tests.scenes import GLASS, box, clear, lamp, matt, quad, scene, sphere, surface

AMBER = Medium(index=1.5, absorption=(0.0, 0.01, 0.04))
FLOOR = surface("floor", quad((0, 0, 0), (400, 0, 0), (0, 400, 0)), matt(0.6))
R = 20.0
BALL = surface("ball", sphere(R, (0, 0, 1.5 * R), 96), clear(GLASS))
ABOVE = Camera(projection="orthographic", orthographic_width=120, distance=500, height=250, aim_height=0)
"""Beneath the ball, whose focus lies on the floor."""


def sun(elevation: float = 90.0, irradiance: float = 3.0, diameter: float = 0.53) -> Lamp:
    """Seen in the direction of the x axis, with the irradiance on what faces it."""
    half = np.radians(diameter / 2)
    radius, angle = FAR_AWAY * np.tan(half), np.radians(elevation)
    way = np.array([np.cos(angle), 0.0, np.sin(angle)])
    across = np.array([0.0, radius, 0.0])
    up = np.cross(-way, across / radius) * radius
    one = Lamp(
        "sun",
        tuple(FAR_AWAY * way),
        tuple(across),
        tuple(up),
        (irradiance / (np.pi * np.sin(half) ** 2),) * 3,
        shape="disc",
    )
    return one if np.dot(one.normal, way) < 0 else replace(one, up=tuple(-up))


def exposed(
    one: Scene, camera: Camera, *, kept: bool, samples: int, size: int = 40, limit: float = 0.0
) -> Film:
    renderer, film = Renderer(one), Film(size, size)
    if kept:
        renderer.keep_light()
    film.add(renderer.expose(camera, (size, size), samples=samples, seed=1, firefly_limit=limit))
    return film


def cast(one: Scene, rays: int) -> Landings:
    loaded = Renderer(one)
    stage = Stage(loaded._geometry, loaded._appearance, loaded._lighting, one.lamps, 0.0)
    return stage.cast(Boxes.about_clear(one.instances), rays, 1)


def through_a_ball(index: float, height: float) -> tuple[np.ndarray, np.ndarray]:
    """How far from the axis light of a sun above a ball arrives on a floor, and its share of what falls on
    the ball: by Snell's and Fresnel's laws, without what is mirrored inside."""
    b = R * np.sqrt((np.arange(20_000) + 0.5) / 20_000)
    enters = np.arcsin(b / R)
    within = np.arcsin(b / (index * R))
    at = 2 * within - enters  # where it leaves, from the lowest place
    x, z = R * np.sin(at), height - R * np.cos(at)
    far = x - z * np.tan(2 * (enters - within))
    a, c = np.cos(enters), np.cos(within)
    rs, rp = (a - index * c) / (a + index * c), (index * a - c) / (index * a + c)
    through = (1 - (rs**2 + rp**2) / 2) ** 2
    return np.abs(far), through / len(b)


class FallenTests(TestCase):
    def test_a_ball_gathers_the_sun(self) -> None:
        """How much of what falls on a ball arrives within so many mm of its axis (geometrical optics)."""
        for height in (1.5 * R, 2.5 * R):
            ball = replace(BALL, mesh=sphere(R, (0, 0, height), 256))
            found = cast(scene((FLOOR, ball), (sun(),), 0.0), 400_000).matt
            away = np.linalg.norm(found.points[:, :2], axis=1)
            far, share = through_a_ball(1.5, height)
            whole = 3.0 * np.pi * R**2
            for radius in (2.0, 5.0, 10.0, 20.0):
                there = found.values[away < radius, 1].sum() / 2 / whole  # each series has all light
                expected = share[far < radius].sum()
                self.assertAlmostEqual(there / expected, 1, delta=0.03, msg=f"{height} {radius}")


class PictureTests(TestCase):
    def blocks(self, film: Film, buffer: str | None = None) -> np.ndarray:
        """(8, 8) mean light of blocks of pixels."""
        light = film.mean_light() if buffer is None else film.buffer(buffer)
        return np.asarray(light.mean(axis=2).reshape(8, 5, 8, 5).mean(axis=(1, 3)))

    def test_the_same_light_as_by_paths(self) -> None:
        """Of a lamp that paths find as well; amber, so that colours differ. Block by block, and in all."""
        amber = replace(BALL, optics=clear(AMBER))
        label = surface("label", box((-3, -18, 42), (3, 18, 52)), matt(0.8))
        one = scene((FLOOR, amber, label), (lamp((-140, 60, 260), side=160, radiance=8),), 0.2)
        plain = exposed(one, ABOVE, kept=False, samples=4000)
        kept = exposed(one, ABOVE, kept=True, samples=600)
        ratio = self.blocks(kept) / self.blocks(plain)
        self.assertAlmostEqual(float(ratio.mean()), 1, delta=0.01)
        self.assertLess(float(np.abs(ratio - 1).max()), 0.05, ratio)
        colours = [f.mean_light().mean(axis=(0, 1)) for f in (plain, kept)]
        np.testing.assert_allclose(colours[1] / colours[0], 1, atol=0.01)
        self.assertLess(kept.noise() / exposed(one, ABOVE, kept=False, samples=600).noise(), 0.6)

    def test_the_sun_has_a_focus(self) -> None:
        """Its image on the floor, 1.5 R from the middle of the ball: many times as bright as the open floor,
        within a few mm of the axis. Nothing is dimmed, and samples of few bring no sparks."""
        one = scene((FLOOR, BALL), (sun(),), 0.02)
        film = exposed(one, replace_camera(ABOVE, 40), kept=True, samples=64, limit=1.0)
        light = film.mean_light()[..., 1]
        open_floor = 0.6 * 3.0 / np.pi
        row, column = np.unravel_index(light.argmax(), light.shape)
        self.assertLess(abs(column - 19.5), 2)
        self.assertLess(abs(row - 19.5), 3)
        self.assertGreater(light.max() / open_floor, 15)
        self.assertAlmostEqual(np.median(light[:, 0]) / open_floor, 1.02, delta=0.03)

    def test_a_sun_in_a_picture_of_everything_around(self) -> None:
        """As bright as a lamp that sends as much."""
        rows = 256
        picture = np.full((rows, 2 * rows, 3), 0.05, np.float32)
        angle = np.radians(60.0)
        y = int((0.5 - angle / np.pi) * rows)
        spot = picture[y - 3 : y + 3, rows // 2 - 3 : rows // 2 + 3]
        solid = spot.shape[0] * spot.shape[1] * (np.pi / rows) ** 2 * np.cos(angle)
        spot[:] = 3.0 / solid
        around = Surrounding((1.0, 1.0, 1.0), picture)
        film = exposed(scene((FLOOR, BALL), (), around), ABOVE, kept=True, samples=256, limit=1.0)
        plain = exposed(scene((FLOOR, BALL), (), around), ABOVE, kept=False, samples=4000)
        ratio = self.blocks(film) / self.blocks(plain)
        self.assertAlmostEqual(float(ratio.mean()), 1, delta=0.02)
        self.assertLess(float(np.quantile(np.abs(ratio - 1), 0.9)), 0.05, ratio)

    def test_what_is_thin_is_dark_behind(self) -> None:
        """A card of a tenth of a millimetre under the ball: the light on it does not glow through."""
        card = surface("card", box((-15, -15, 5), (15, 15, 5.1)), matt(0.6))
        below = Camera(
            projection="orthographic", orthographic_width=20, distance=400, height=-80, aim_height=5
        )
        one = scene((card, BALL), (sun(),), 0.0)
        lit = exposed(one, below, kept=True, samples=16).mean_light()[16:24, 16:24].mean()
        above = replace_camera(below, 20, height=90)
        bright = exposed(one, above, kept=True, samples=16).mean_light()[16:24, 16:24].mean()
        self.assertGreater(bright, 0.5)
        self.assertLess(lit, 1e-3 * bright)

    def test_nothing_is_kept_without_glass(self) -> None:
        one = scene((FLOOR, surface("cube", box((-5, -5, 1), (5, 5, 11)), matt())), (sun(),), 0.1)
        renderer = Renderer(one)
        with patch("giftwrap.core.render.landing.cast_light") as never:
            renderer.keep_light()
        never.assert_not_called()
        self.assertFalse(renderer._kept.fallen.numpy()[0])


def replace_camera(camera: Camera, width: float, **more: float) -> Camera:
    return camera.model_copy(update={"orthographic_width": width, **more})
