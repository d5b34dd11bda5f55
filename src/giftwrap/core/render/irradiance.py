"""Light that falls on cloudy bodies behind glass, kept by place: a grid that kernels read.

Where light leaves such a body does not depend on who looks, so it is gathered once for all walks that end
there (an irradiance cache, after Ward et al. 1988). `render.keeping` fills it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array3f, Array4f, Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.render.emitters import opaque3
from giftwrap.core.render.memory import aligned

Numbers = NDArray[np.float64]
MOST_CELLS = 16_000_000
"""Of the grid, nearly all of them empty."""
MOST_TARGETS = 4
"""Balls that light of lamps is cast at."""


class Target(NamedTuple):
    """Round something: its middle and its radius, mm."""

    middle: Numbers
    radius: float


@dataclass(frozen=True)
class Grid:
    """Cubes of a size in mm, as many each way as `size` says; the lowest corner of the first is at `low`."""

    low: Numbers
    cell: float
    size: tuple[int, int, int]

    @classmethod
    def about(cls, points: Numbers, cell: float) -> Grid:
        """One that holds all that is less than a cube away from points, larger ones if they are too many."""
        low, high = points.min(axis=0), points.max(axis=0)
        cell = max(cell, float(np.cbrt((high - low + 2 * cell).prod() / MOST_CELLS)))
        x, y, z = (int(n) for n in np.ceil((high - low) / cell + 2))
        return cls(low - cell, cell, (x, y, z))

    def numbers(self, points: Numbers) -> NDArray[np.int64]:
        """(n,) of the cubes that places are in; −1 outside of all."""
        at = np.floor((points - self.low) / self.cell).astype(np.int64)
        inside = ((at >= 0) & (at < self.size)).all(axis=1)
        x, y, z = at.T
        return np.where(inside, (z * self.size[1] + y) * self.size[0] + x, -1)


class KeptLight:
    """What kernels read. What samples of even and of odd numbers take is apart, as a film's series are, so
    that how uncertain it is shows in the noise that a film tells.

    grid, cells : numbers of the cubes in which something is known, ascending
    light : (cells, 2, slots, 3) radiance out of the body that each lamp and the surround bring, by series
    targets : what light of lamps is cast at, see `casting`
    """

    def __init__(
        self,
        grid: Grid | None = None,
        cells: NDArray[np.int64] | None = None,
        light: NDArray[np.float32] | None = None,
        targets: Sequence[Target] = (),
    ) -> None:
        self.any = dr.opaque(Bool, cells is not None and len(cells) > 0)
        grid = grid or Grid(np.zeros(3), 1.0, (0, 0, 0))
        self._low, self._cell = opaque3(grid.low), dr.opaque(Float, grid.cell)
        self._size = [dr.opaque(UInt32, n) for n in grid.size]
        rows, values = np.zeros(int(np.prod(grid.size)) + 16, np.uint32), np.zeros((16, 4), np.float32)
        if cells is not None and light is not None and len(cells) > 0:
            rows[cells] = 1 + np.arange(len(cells))
            values = np.zeros((*light.shape[:3], 4), np.float32)
            values[..., :3] = light
        self._rows, self._light = aligned(UInt32, rows), aligned(Float, values)
        padded = [*targets, *[Target(np.zeros(3), 0.0)] * (MOST_TARGETS - len(targets))]
        self._targets = [(opaque3(ball.middle), dr.opaque(Float, ball.radius)) for ball in padded]

    def row(self, place: Array3f, about: Array3f, active: Bool) -> UInt32:
        """The number of a cube about a place, from 1; 0 where nothing is known.

        about : evenly from 0 to 1, by which it is chosen among those that are less than a cube away
        """
        at = (place - self._low) / self._cell + about - 0.5
        inside = active & (dr.min(at) >= 0)
        x, y, z = UInt32(at.x), UInt32(at.y), UInt32(at.z)
        inside &= (x < self._size[0]) & (y < self._size[1]) & (z < self._size[2])
        return dr.gather(UInt32, self._rows, (z * self._size[1] + y) * self._size[0] + x, inside)

    def light(self, row: UInt32, series: UInt32, slot: int, slots: int, active: Bool) -> Array3f:
        """Radiance out of the body that a slot brings there, as a series of samples takes it."""
        values = dr.gather(Array4f, self._light, (2 * (row - 1) + series) * slots + slot, active)
        return Array3f(values.x, values.y, values.z)

    def is_cast(self, origin: Array3f, direction: Array3f, distance: Float) -> Bool:
        """Whether light that comes the other way along a ray, from a lamp so many mm ahead, is cast at a
        target, and so counted there."""
        cast, lamp = Bool(False), origin + direction * distance
        for middle, radius in self._targets:
            past = dr.cross(middle - origin, direction)
            this_side = dr.dot(middle - lamp, direction) < 0
            this_side |= dr.squared_norm(middle - lamp) < radius * radius
            cast |= this_side & (dr.squared_norm(past) < radius * radius)
        return cast
