"""Scenes of every kind of surface, and our integrator beside the renderer library's own on them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from giftwrap.bench.library import LibraryScene
from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.materials.optics import Medium, Optics, OpticsKind
from giftwrap.core.mesh.mesh import flipped
from giftwrap.core.model import Camera
from giftwrap.core.render.transport import MAX_BOUNCES
from giftwrap.core.scene.scene import Scene
from giftwrap.core.tests.scenes import (
    GLASS,
    WATER,
    Solid,
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

Case = tuple[Scene, Camera, str]
"""A scene, a camera and the name of the library's integrator that is asked."""
SIZE, SAMPLES, RUNS, BLOCK = 48, 512, 8, 8
FLOOR = surface("floor", quad((0, 0, -60.2), (400, 0, 0), (0, 400, 0)), matt(0.6))
LAMPS = (
    lamp((-250, -200, 250), name="key", side=200, radiance=6),
    lamp((300, -50, 80), name="edge", side=80, radiance=14),
)
ABOVE = Camera(lens_mm=60, distance=600, height=100, aim_height=-10)
SMOKY = Medium(index=1.36, absorption=(0.015,) * 3)
"""Grey, because the referee picks one colour channel for each path and hardly settles on others."""
GOLD = Optics(
    OpticsKind.METAL, alpha=0.25, n=(0.18, 0.42, 1.37), k=(3.42, 2.35, 1.77)
)  # about gold's, from memory: any will do here


def on_the_floor(*solids: Solid, surround: float, camera: Camera = ABOVE, integrator: str = "path") -> Case:
    """Things on a matt floor under two lamps."""
    return scene((FLOOR, *solids), LAMPS, surround), camera, integrator


def matt_ball_and_box() -> Case:
    """Nothing but diffuse light."""
    ball = surface("ball", sphere(60), matt(0.7))
    block = surface("box", box((70, -40, -60), (130, 40, 20)), matt(0.3))
    camera = Camera(lens_mm=50, distance=500, height=120, aim_height=-20)
    return on_the_floor(ball, block, surround=0.3, camera=camera)


def full_ball(liquid: Medium, integrator: str) -> Case:
    """A glass ball and what it is filled with."""
    outside = surface("outside", sphere(60), clear(GLASS))
    inside = surface("inside", sphere(52), clear(liquid, front=GLASS))
    return on_the_floor(outside, inside, surround=0.5, integrator=integrator)


def dark_plate() -> Case:
    """2.5 a mm, 0.4 mm thick: what comes straight through is e⁻¹."""
    ink = clear(Medium(index=1.36, absorption=(2.5,) * 3))
    plate = surface("plate", box((-60, -0.2, -60), (60, 0.2, 60)), ink)
    camera = Camera(lens_mm=60, distance=600, height=60, aim_height=-10)
    return on_the_floor(plate, surround=0.5, camera=camera, integrator="volpath")


def room() -> Case:
    """A mirror of metal in a room of paper: many bounces."""
    walls = surface("walls", flipped(box((-150, -700, -150), (150, 150, 150))), matt(0.8))
    ball = surface("ball", sphere(50), GOLD)
    light = lamp((0, -100, 149), target=(0, -100, 0), side=120, radiance=4)
    return scene((walls, ball), (light,), 0.0), ahead(280, distance=600), "path"


REFEREE_SCENES: dict[str, Callable[[], Case]] = {
    "matt ball and box": matt_ball_and_box,
    "glass ball of water": lambda: full_ball(WATER, "path"),
    "frosted ball": lambda: on_the_floor(surface("ball", sphere(60), clear(GLASS, alpha=0.35)), surround=0.4),
    "metal ball": lambda: on_the_floor(surface("ball", sphere(60), GOLD), surround=0.3),
    "coloured liquid": lambda: full_ball(SMOKY, "volpath"),
    "dark plate": dark_plate,
    "room of mirrors and paper": room,
}


@dataclass(frozen=True)
class Agreement:
    """Mean luminance of blocks of pixels, ours beside a referee's.

    errors : (n, n) float, how far apart they are, in standard errors
    """

    ours: np.ndarray
    theirs: np.ndarray
    error2: np.ndarray
    errors: np.ndarray

    def beyond(self, errors: float) -> float:
        """Share of the blocks that are further apart than so many standard errors."""
        return float(np.mean(self.errors > errors))

    @property
    def whole(self) -> float:
        """Light of the whole picture over the referee's, less 1."""
        return float(self.ours.mean() / self.theirs.mean() - 1)

    @property
    def whole_in_errors(self) -> float:
        """How far apart the whole pictures are, in standard errors."""
        error = np.sqrt(self.error2.mean() / self.ours.size)
        return float((self.ours.mean() - self.theirs.mean()) / error)


def compare(
    one: Scene, camera: Camera, integrator: str = "path", *, units: int = 1, samples: int = SAMPLES
) -> Agreement:
    """Take a picture by both, ours in units of so many samples."""
    film = film_of(one, camera, size=SIZE, samples=samples, units=units)
    ours = blocks(
        film.mean_light(one.around.colour if one.around.picture is None else (0.0, 0.0, 0.0)) @ LUMINANCE
    )
    our_error2 = blocks(error2_of(film).reshape(SIZE, SIZE)) / BLOCK**2
    referee = LibraryScene(one, integrator, max_depth=MAX_BOUNCES + 1)
    shares = units * samples // RUNS
    runs = [referee.render(camera, (SIZE, SIZE), samples=shares, seed=seed) for seed in range(RUNS)]
    each = np.array([blocks(run @ LUMINANCE) for run in runs])
    theirs, their_error2 = each.mean(axis=0), each.var(axis=0, ddof=1) / RUNS
    errors = np.abs(ours - theirs) / np.sqrt(our_error2 + their_error2 + (0.002 * theirs) ** 2 + 1e-12)
    return Agreement(ours, theirs, our_error2 + their_error2, errors)


def blocks(values: np.ndarray) -> np.ndarray:
    """Means over squares of pixels."""
    side = values.shape[0] // BLOCK
    return values.reshape(side, BLOCK, side, BLOCK).mean(axis=(1, 3))
