"""Light that is kept by place: grids that kernels read.

Where light leaves a cloudy body, or falls on something matt, does not depend on who looks, so it is found
once for all paths that end there (an irradiance cache, after Ward et al. 1988; light that comes through
what is clear, after Jensen 1996). `render.keeping` fills them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array3f, Array4f, Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.render.emitters import FAR
from giftwrap.core.render.memory import aligned

Numbers = NDArray[np.float64]
MOST_BLOCKS = 4_000_000
"""Of a grid, nearly all of them empty."""
BLOCK = 8
"""Cubes along each edge of a block."""
OF_BODIES, WHICH, SMALLEST = range(3)
"""The grids: on cloudy bodies behind glass; which of the rest is for what is matt; and these, the one of the
smallest cubes first."""
GRIDS = 7


def rows_among(known: NDArray[np.int64], numbers: NDArray[np.int64]) -> NDArray[np.int64]:
    """Which of some ascending numbers others are, as many as there are for those that are none of them."""
    at = np.minimum(np.searchsorted(known, numbers), max(len(known) - 1, 0))
    return np.where(known[at] == numbers, at, len(known)) if len(known) else at


@dataclass(frozen=True)
class Grid:
    """Cubes of a size in mm, in blocks, as many of these each way as `blocks` says; the lowest corner of the
    first is at `low`."""

    low: Numbers
    cell: float
    blocks: tuple[int, int, int]

    @classmethod
    def about(cls, points: Numbers, cell: float) -> Grid:
        """One that holds all that is less than a cube away from points, larger ones if they are too many."""
        low, high = points.min(axis=0), points.max(axis=0)
        cell = max(cell, float(np.cbrt((high - low + 2 * cell).prod() / MOST_BLOCKS)) / BLOCK)
        x, y, z = (int(n) for n in np.ceil(((high - low) / cell + 2) / BLOCK))
        return cls(low - cell, cell, (x, y, z))

    @property
    def high(self) -> Numbers:
        """mm: the highest corner of the last."""
        return np.asarray(self.low + self.cell * BLOCK * np.array(self.blocks))

    def numbers(self, points: Numbers) -> NDArray[np.int64]:
        """(n,) of the cubes that places are in; −1 outside of all."""
        return self.numbered(np.floor((points - self.low) / self.cell).astype(np.int64))

    def about_each(self, numbers: NDArray[np.int64], steps: NDArray[np.int64]) -> NDArray[np.int64]:
        """(n, m) of the cubes so many on each way, (m, 3), from some of the grid; −1 outside."""
        about = (self.at(numbers)[:, None] + steps).reshape(-1, 3)
        found = self.numbered(about).reshape(len(numbers), len(steps))
        return np.where(numbers[:, None] >= 0, found, -1)

    def at(self, numbers: NDArray[np.int64]) -> NDArray[np.int64]:
        """(n, 3) how many cubes each way from the first some are."""
        block, within = np.divmod(numbers, BLOCK**3)
        x, y, _ = self.blocks
        found = np.stack([block % x, block // x % y, block // (x * y)], axis=1) * BLOCK
        return np.asarray(
            found + np.stack([within % BLOCK, within // BLOCK % BLOCK, within // BLOCK**2], axis=1)
        )

    def numbered(self, at: NDArray[np.int64]) -> NDArray[np.int64]:
        """(n,) of cubes that are so many on from the first each way, (n, 3); −1 outside of all."""
        x, y, z = at.T
        inside = (x | y | z) >= 0
        for along, blocks in zip((x, y, z), self.blocks, strict=True):
            inside &= along < BLOCK * blocks
        block = ((z >> 3) * self.blocks[1] + (y >> 3)) * self.blocks[0] + (x >> 3)
        return np.where(inside, (block << 9) | ((z & 7) << 6) | ((y & 7) << 3) | (x & 7), -1)


@dataclass(frozen=True)
class Layer:
    """What is known in a grid.

    cells : numbers of the cubes in which something is, ascending
    light : (cells, 2, slots, 3) what each lamp and the surround bring, by series
    shift : how many cubes off a surface it is kept, to the side on which it came
    numbers : (cells,) from 1, what is known instead of light
    """

    grid: Grid
    cells: NDArray[np.int64]
    light: NDArray[np.float32] | None = None
    shift: float = 0.0
    numbers: NDArray[np.int64] | None = None


class KeptLight:
    """What kernels read. What samples of even and of odd numbers take is apart, as a film's series are, so
    that how uncertain it is shows in the noise that a film tells.

    layers : what is known in each of the grids, None for nothing: on bodies radiance out of them; for what is
        matt, in which of the others what falls on it is; and what does
    most_around : what the surround brings a path through what is clear from where its light is kept is dimmed
        to this radiance: the rest is kept there
    """

    def __init__(self, layers: Sequence[Layer | None] = (), most_around: float = FAR) -> None:
        layers = [*layers, *[None] * (GRIDS - len(layers))]
        self.bodies, self.fallen = (dr.opaque(Bool, layers[n] is not None) for n in (OF_BODIES, WHICH))
        self.most_around = dr.opaque(Float, most_around)
        table = np.zeros((GRIDS, 3, 4), np.float32)
        blocks, rows = [np.zeros(0, np.uint32)], [np.zeros(0, np.uint32)]
        lights: list[NDArray[np.float32]] = []
        first, before, filled = 0, 0, 0
        for number, layer in enumerate(layers):
            if layer is None:
                continue
            grid = layer.grid
            table[number] = [[*grid.low, grid.cell], [*grid.blocks, first], [layer.shift, 0, 0, 0]]
            known, of = np.unique(layer.cells // BLOCK**3, return_inverse=True)
            own, within = np.zeros(int(np.prod(grid.blocks)), np.uint32), layer.cells % BLOCK**3
            own[known] = 1 + filled + np.arange(len(known))
            cubes = np.zeros(len(known) * BLOCK**3, np.uint32)
            if layer.numbers is not None:
                cubes[of * BLOCK**3 + within] = layer.numbers
            if layer.light is not None:
                cubes[of * BLOCK**3 + within] = 1 + before + np.arange(len(layer.cells))
                lights.append(layer.light)
                before += len(layer.cells)
            blocks, rows = [*blocks, own], [*rows, cubes]
            first, filled = first + len(own), filled + len(known)
        self._table, room = aligned(Float, table), np.zeros(16, np.uint32)
        self._blocks = aligned(UInt32, np.concatenate([*blocks, room]))
        self._rows = aligned(UInt32, np.concatenate([*rows, room]))
        self._light = aligned(Float, _in_fours(lights))

    def grid_at(self, place: Array3f, out: Array3f, active: Bool) -> tuple[Bool, UInt32]:
        """Whether what falls on a place is kept, and in which grid: in that of the largest cubes where little
        or nothing fell."""
        inside, which = self._found(UInt32(WHICH), place, out, Array3f(0.5), active)
        return inside, dr.select(inside & (which == 0), UInt32(GRIDS - 1), which)

    def row(self, grid: UInt32, place: Array3f, out: Array3f, about: Array3f, active: Bool) -> UInt32:
        """The number of a cube about a place, from 1; 0 where nothing is known.

        out : away from the surface, to the side that is looked at
        about : evenly from 0 to 1, by which it is chosen among those that are less than a cube away
        """
        return self._found(grid, place, out, about, active)[1]

    def _found(
        self, grid: UInt32, place: Array3f, out: Array3f, about: Array3f, active: Bool
    ) -> tuple[Bool, UInt32]:
        """Whether a place is in a grid, and what is known there."""
        corner, size, more = (dr.gather(Array4f, self._table, 3 * grid + i, active) for i in range(3))
        at = (place - Array3f(corner.x, corner.y, corner.z)) / dr.maximum(corner.w, 1e-9)
        at += out * more.x + about - 0.5
        inside = active & (dr.min(at) >= 0) & (corner.w > 0)
        inside &= dr.all(at < BLOCK * Array3f(size.x, size.y, size.z))
        x, y, z = UInt32(at.x), UInt32(at.y), UInt32(at.z)
        number = ((z >> 3) * UInt32(size.y) + (y >> 3)) * UInt32(size.x) + (x >> 3) + UInt32(size.w)
        block = dr.gather(UInt32, self._blocks, number, inside)
        within = ((z & 7) << 6) | ((y & 7) << 3) | (x & 7)
        here = inside & (block > 0)
        return inside, dr.gather(UInt32, self._rows, (block - 1) * BLOCK**3 + within, here)

    def light(self, row: UInt32, series: UInt32, slot: int, slots: int, active: Bool) -> Array3f:
        """What a slot brings there, as a series of samples takes it."""
        values = dr.gather(Array4f, self._light, (2 * (row - 1) + series) * slots + slot, active)
        return Array3f(values.x, values.y, values.z)


def _in_fours(lights: Sequence[NDArray[np.float32]]) -> NDArray[np.float32]:
    """(n, 4) of colours one after the other, as kernels read them fastest."""
    values = np.zeros((sum(light.size // 3 for light in lights) + 16, 4), np.float32)
    begin = 0
    for light in lights:
        end = begin + light.size // 3
        values[begin:end, :3] = light.reshape(-1, 3)
        begin = end
    return values
