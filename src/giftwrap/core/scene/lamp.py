"""A lamp as light meets it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.mesh.path import Array
from giftwrap.core.stage.lights import Vector, axes_towards, vector_of

EVERYWHERE = (-1.0, -2.0)
"""A beam that is as bright in every direction."""


@dataclass(frozen=True, eq=False)
class Lamp:
    """What shines: a flat face, to the side that it is seen from with `across` to the right and `up` above,
    or a ball.

    centre : mm
    across, up : from there to the middle of its right and of its upper edge, mm; of what is round, radii
    radiance : of its brightest place, straight ahead, in each of three colours
    beam : cosines of the angles from its axis within which it is as bright, and from which it is dark
    face : (rows, columns, 3) float from 0 to 1, its upper left first: what shines of it; None for all
    """

    name: str
    centre: Vector
    across: Vector
    up: Vector
    radiance: Vector
    shape: Literal["rectangle", "disc", "ball"] = "rectangle"
    beam: tuple[float, float] = EVERYWHERE
    face: NDArray[np.float32] | None = None
    hidden_from_camera: bool = False

    @property
    def area(self) -> float:
        """Of its face, or of the disc that is seen of a ball, mm²."""
        sides = float(np.linalg.norm(self.across) * np.linalg.norm(self.up))
        return 4 * sides if self.shape == "rectangle" else math.pi * sides

    @property
    def normal(self) -> Array:
        """Which way its face shines, a unit vector."""
        crossed = np.cross(self.across, self.up)
        return np.asarray(crossed / np.linalg.norm(crossed))

    @property
    def brightest(self) -> float:
        """Its radiance in the brightest of the colours."""
        return max(self.radiance)


def panel(
    name: str,
    position: Vector,
    target: Vector,
    size: tuple[float, float],
    radiance: float | Vector,
    *,
    roll: float = 0.0,
    **more: Any,
) -> Lamp:
    """A flat lamp of a width and height, mm, that hangs somewhere and is aimed at something.

    radiance : of white light, or in each colour; roll : degrees to the right, as seen from what it lights
    """
    across, up = axes_towards(position, target, roll)
    half = (vector_of(across * size[0] / 2), vector_of(up * size[1] / 2))
    bright = radiance if isinstance(radiance, tuple) else (radiance,) * 3
    return Lamp(name, position, *half, bright, **more)


@dataclass(frozen=True)
class Leaving:
    """Places of a lamp that light leaves: (n, 3) mm where, which way it faces, and radiance straight ahead;
    and the mm² that all of them are spread over."""

    origins: Array
    normals: Array
    radiance: Array
    area: float


def leaving(lamp: Lamp, sample: Array) -> Leaving:
    """Places evenly over a lamp, by (n, 2) numbers from 0 to 1."""
    centre, across, up = (np.array(v) for v in (lamp.centre, lamp.across, lamp.up))
    radiance = np.tile(lamp.radiance, (len(sample), 1))
    if lamp.shape == "ball":
        height, turn = 1 - 2 * sample[:, 0], 2 * np.pi * sample[:, 1]
        out = np.sqrt(np.maximum(1 - height**2, 0))
        normals = np.stack([out * np.cos(turn), out * np.sin(turn), height], axis=1)
        return Leaving(centre + np.linalg.norm(across) * normals, normals, radiance, 4 * lamp.area)
    x, y = 2 * sample[:, 0] - 1, 2 * sample[:, 1] - 1
    if lamp.shape == "disc":
        radius, turn = np.sqrt(sample[:, 0]), 2 * np.pi * sample[:, 1]
        x, y = radius * np.cos(turn), radius * np.sin(turn)
    if lamp.face is not None:
        rows, columns = lamp.face.shape[:2]
        row = np.minimum(((1 - y) / 2 * rows).astype(int), rows - 1)
        radiance = radiance * lamp.face[row, np.minimum(((x + 1) / 2 * columns).astype(int), columns - 1)]
    normals = np.tile(lamp.normal, (len(sample), 1))
    return Leaving(centre + x[:, None] * across + y[:, None] * up, normals, radiance, lamp.area)
