"""Small scenes built by hand, whose light is known or can be asked of a referee."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.materials.optics import AIR, Medium, Optics, OpticsKind, Stance
from giftwrap.core.mesh.mesh import Mesh, quad, revolve, together
from giftwrap.core.mesh.path import Path
from giftwrap.core.model import Camera
from giftwrap.core.render.film import Film
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.scene.lamp import Lamp, panel
from giftwrap.core.scene.scene import Instance, Scene, Surface
from giftwrap.core.scene.surrounding import Surrounding

WATER = Medium(index=1.33)
GLASS = Medium(index=1.5)


def matt(grey: float = 0.5, **more: object) -> Optics:
    """A Lambertian surface."""
    return Optics(OpticsKind.COAT, colour=(grey,) * 3, **more)


def clear(behind: Medium = GLASS, front: Medium = AIR, alpha: float = 0.0) -> Optics:
    """A boundary between clear media."""
    return Optics(OpticsKind.CLEAR, alpha=alpha, front=front, back=behind)


@dataclass(frozen=True, eq=False)
class Solid:
    """A thing of one surface, where it is."""

    name: str
    mesh: Mesh
    optics: Optics
    untouched_by: frozenset[str] = frozenset()
    unreflecting: frozenset[str] = frozenset()
    hidden_from_camera: bool = False
    catcher: bool = False
    pose: np.ndarray = field(default_factory=lambda: np.eye(4))

    @property
    def instance(self) -> Instance:
        look = Surface(
            self.name,
            self.optics,
            untouched_by=self.untouched_by,
            unreflecting=self.unreflecting,
            hidden_from_camera=self.hidden_from_camera,
            catcher=self.catcher,
        )
        return Instance(self.name, (self.mesh,), (look,), self.pose)


surface = Solid


def scene(solids: Sequence[Solid], lamps: Sequence[Lamp], surround: float | Surrounding) -> Scene:
    """Solids under lamps. surround : even radiance, or what is all around"""
    around = surround if isinstance(surround, Surrounding) else Surrounding.even(surround)
    return Scene(tuple(solid.instance for solid in solids), tuple(lamps), around, around)


def sphere(radius: float, centre: tuple[float, float, float] = (0, 0, 0), steps: int = 128) -> Mesh:
    """A ball, its normals outwards."""
    angle = np.linspace(-np.pi / 2, np.pi / 2, steps)
    unit = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    unit[[0, -1], 0] = 0.0
    mesh = revolve(Path(unit * radius, unit), segments=2 * steps)
    return Mesh(mesh.positions + np.array(centre), mesh.normals, mesh.uvs, mesh.faces)


def box(low: Sequence[float], high: Sequence[float]) -> Mesh:
    """A box, its normals outwards."""
    middle = (np.array(low) + np.array(high)) / 2
    half = (np.array(high) - np.array(low)) / 2
    sides = []
    for axis in range(3):
        for sign in (-1.0, 1.0):
            across, up = np.zeros(3), np.zeros(3)
            across[(axis + 1) % 3], up[(axis + 2) % 3] = half[(axis + 1) % 3] * sign, half[(axis + 2) % 3]
            centre = middle.copy()
            centre[axis] += sign * half[axis]
            sides.append(quad(centre, across, up))
    return together(*sides)


def lamp(
    position: tuple[float, float, float],
    *,
    target: tuple[float, float, float] = (0, 0, 0),
    side: float = 100.0,
    radiance: float = 5.0,
    name: str = "lamp",
    **more: Any,
) -> Lamp:
    """A square lamp."""
    return panel(name, position, target, (side, side), radiance, **more)


def ahead(width: float = 200.0, *, distance: float = 500.0, height: float = 0.0, aim: float = 0.0) -> Camera:
    """A camera at the front whose rays are parallel, taking in `width` mm."""
    return Camera(
        projection="orthographic", orthographic_width=width, distance=distance, height=height, aim_height=aim
    )


def error2_of(film: Film) -> np.ndarray:
    """(pixels,) squared standard error of the mean luminance, from two halves that know nothing of each
    other: rough for a pixel, good for the mean of many."""
    (brought, odd), luminance = film.odd, np.tensordot(LUMINANCE, film.light[:-1].sum(axis=0), axes=1)
    even = film.samples - odd
    apart = (luminance - brought) / even - brought / odd
    return apart**2 * even * odd / film.samples**2


def film_of(
    one: Scene,
    camera: Camera,
    *,
    size: int = 64,
    samples: int = 64,
    units: int = 1,
    first_seed: int = 0,
    firefly_limit: float = 0.0,
) -> Film:
    """A square picture of a scene, as it is unless a firefly limit is asked for."""
    renderer, film = Renderer(one), Film(size, size)
    for seed in range(first_seed, first_seed + units):
        film.add(
            renderer.expose(camera, (size, size), samples=samples, seed=seed, firefly_limit=firefly_limit)
        )
    return film


def cylinder(radius: float, height: float) -> Mesh:
    """Its side, standing on 0."""
    return revolve(
        Path(np.array([[radius, 0.0], [radius, height]]), np.array([[1.0, 0.0], [1.0, 0.0]])), segments=360
    )


def in_even_light(
    made: Sequence[Callable[[Stance], Optics]], *, size: int = 24, samples: int = 8
) -> list[np.ndarray]:
    """Balls of a radius of 20 mm side by side in even light, each of its optics as a part that stands there:
    so many px over 40 mm of each. One scene, as each takes longer to set up than to look at."""
    count = int(np.ceil(np.sqrt(len(made))))
    solids = []
    for number, optics in enumerate(made):
        x = 50.0 * (number % count - (count - 1) / 2)
        z = 50.0 * ((count - 1) / 2 - number // count)
        stance = Stance(((1.0, 0, 0, -x), (0, 1.0, 0, 0), (0, 0, 1.0, -z)))
        solids.append(surface(f"ball {number}", sphere(20, (x, 0, z), 64), optics(stance)))
    whole = size * count * 50 // 40
    light = film_of(scene(solids, (), 1.0), ahead(50.0 * count), size=whole, samples=samples).mean_light()
    edge = whole // count
    rim = (edge - size) // 2
    return [
        light[row * edge + rim : row * edge + rim + size, column * edge + rim : column * edge + rim + size]
        for row, column in (divmod(number, count) for number in range(len(made)))
    ]


def even_light(mesh: Mesh, optics: Optics, width: float, *, size: int = 200, samples: int = 64) -> np.ndarray:
    """What is seen from the front in even light, so many px over so many mm."""
    low, high = mesh.positions.min(axis=0), mesh.positions.max(axis=0)
    level = float(low[2] + high[2]) / 2
    stage = scene((surface("one", mesh, optics),), (), 1.0)
    film = film_of(stage, ahead(width, height=level, aim=level), size=size, samples=samples)
    return film.mean_light().mean(axis=2)
