"""The integrator against the renderer library's own ones, which serve as referees."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giftwrap.bench.library import LibraryScene
from giftwrap.core.materials.optics import Medium, Optics, OpticsKind
from giftwrap.core.mesh.mesh import flipped
from giftwrap.core.model import Camera
from giftwrap.core.render.transport import MAX_BOUNCES
from giftwrap.core.scene.scene import Scene
from giftwrap.core.tests.scenes import (
    GLASS,
    WATER,
    ahead,
    box,
    clear,
    error2_of,
    film_of,
    lamp,
    matt,
    quad,
    scene,
    sphere,
    surface,
)

SIZE, SAMPLES = 48, 512
BLOCK = 8
FLOOR = surface("floor", quad((0, 0, -60.2), (400, 0, 0), (0, 400, 0)), matt(0.6))
LAMPS = (
    lamp((-250, -200, 250), name="key", side=200, radiance=6),
    lamp((300, -50, 80), name="edge", side=80, radiance=14),
)
SMOKY = Medium(index=1.36, absorption=(0.015,) * 3)
"""Grey, because the referee picks one colour channel for each path and hardly settles on others."""
GOLD = Optics(
    OpticsKind.METAL, alpha=0.25, n=(0.18, 0.42, 1.37), k=(3.42, 2.35, 1.77)
)  # about gold's, from memory: any will do here


class RefereeTests(TestCase):
    """Means over blocks of pixels agree within three standard errors, but for chance's share."""

    def check(self, one: Scene, camera: Camera, integrator: str = "path") -> None:
        film = film_of(one, camera, size=SIZE, samples=SAMPLES)
        ours = film.mean_light((one.surround,) * 3)
        our_error2 = blocks(error2_of(film).reshape(SIZE, SIZE)) / BLOCK**2
        referee = LibraryScene(one, integrator, max_depth=MAX_BOUNCES + 1)
        runs = np.array(
            [referee.render(camera, (SIZE, SIZE), samples=SAMPLES // 8, seed=seed) for seed in range(8)]
        )
        luminance = runs @ np.array([0.2126, 0.7152, 0.0722])
        each = np.array([blocks(run) for run in luminance])
        theirs, their_error2 = each.mean(axis=0), each.var(axis=0, ddof=1) / 8
        mine = blocks(ours @ np.array([0.2126, 0.7152, 0.0722]))
        errors = np.abs(mine - theirs) / np.sqrt(our_error2 + their_error2 + (0.002 * theirs) ** 2 + 1e-12)
        # 1 in 370 lies beyond three standard errors by chance; with 8 runs the referee's own
        # error is uncertain too (Student's t with 7 degrees of freedom: 1 in 50)
        self.assertLess(float(np.mean(errors > 3)), 0.06, (errors.round(1), (mine / theirs).round(3)))
        self.assertLess(float(errors.max()), 7, errors.round(1))
        whole = abs(mine.mean() - theirs.mean()) / np.sqrt((our_error2 + their_error2).mean() / mine.size)
        self.assertLess(float(whole), 3)

    def test_matt_ball_and_box(self) -> None:
        ball = surface("ball", sphere(60), matt(0.7))
        block = surface("box", box((70, -40, -60), (130, 40, 20)), matt(0.3))
        camera = Camera(lens_mm=50, distance=500, height=120, aim_height=-20)
        self.check(scene((FLOOR, ball, block), LAMPS, 0.3), camera)

    def test_glass_ball_full_of_water(self) -> None:
        outside = surface("outside", sphere(60), clear(GLASS))
        inside = surface("inside", sphere(52), clear(WATER, front=GLASS))
        camera = Camera(lens_mm=60, distance=600, height=100, aim_height=-10)
        self.check(scene((FLOOR, outside, inside), LAMPS, 0.5), camera)

    def test_frosted_ball(self) -> None:
        ball = surface("ball", sphere(60), clear(GLASS, alpha=0.35))
        self.check(
            scene((FLOOR, ball), LAMPS, 0.4), Camera(lens_mm=60, distance=600, height=100, aim_height=-10)
        )

    def test_metal_ball(self) -> None:
        ball = surface("ball", sphere(60), GOLD)
        self.check(
            scene((FLOOR, ball), LAMPS, 0.3), Camera(lens_mm=60, distance=600, height=100, aim_height=-10)
        )

    def test_coloured_liquid_against_the_volumetric_integrator(self) -> None:
        outside = surface("outside", sphere(60), clear(GLASS))
        inside = surface("inside", sphere(52), clear(SMOKY, front=GLASS))
        camera = Camera(lens_mm=60, distance=600, height=100, aim_height=-10)
        self.check(scene((FLOOR, outside, inside), LAMPS, 0.5), camera, "volpath")

    def test_ink_that_absorbs_more_than_all_in_a_millimetre(self) -> None:
        """2.5 a mm, 0.4 mm thick: what comes straight through is e⁻¹."""
        ink = clear(Medium(index=1.36, absorption=(2.5,) * 3))
        plate = surface("plate", box((-60, -0.2, -60), (60, 0.2, 60)), ink)
        camera = Camera(lens_mm=60, distance=600, height=60, aim_height=-10)
        self.check(scene((FLOOR, plate), LAMPS, 0.5), camera, "volpath")

    def test_a_room_of_mirrors_and_paper(self) -> None:
        walls = surface("walls", flipped(box((-150, -700, -150), (150, 150, 150))), matt(0.8))
        ball = surface("ball", sphere(50), GOLD)
        light = lamp((0, -100, 149), target=(0, -100, 0), side=120, radiance=4)
        self.check(scene((walls, ball), (light,), 0.0), ahead(280, distance=600))


def blocks(values: np.ndarray) -> np.ndarray:
    """Means over squares of pixels."""
    side = values.shape[0] // BLOCK
    return values.reshape(side, BLOCK, side, BLOCK).mean(axis=(1, 3))
