"""Light that came through what is clear, or was mirrored by it, kept where it falls on what is matt.

Cubes are small where many rays fell and large where few did: so what is uncertain is about the same
everywhere, and what is bright has sharp edges.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.mesh.transform import points_moved
from giftwrap.core.mesh.triangles import areas_of, normals_of
from giftwrap.core.render.areas import area_points, near_triangles, spread_evenly
from giftwrap.core.render.irradiance import SMALLEST, Grid, Layer, Numbers, rows_among
from giftwrap.core.render.landing import Fallen
from giftwrap.core.scene.scene import Instance

CELLS = (1.0, 2.5, 6.0, 16.0, 48.0)
"""mm: cubes where much light fell, where less did, and elsewhere."""
DENSE = (14.0, 2.3, 0.4, 0.06, 0.0)
"""Rays a mm² from which on they are as small as that: some sixteen of each series are about a place."""
REGION = 8.0
"""mm: cubes for which it is told how small cubes are there."""
BESIDE = 0.5
"""mm off the surface, to the side on which light came, at which that is asked."""
SHIFT = 1.0
"""Cubes off the surface at which light is kept, so that what is thin is dark behind."""
FINE = 1.5
"""By how much finer than cubes areas are told."""
PATCH = 2
"""Cubes along each edge of what is looked at for whether anything fell there."""
LEAST_AREA = 0.02
"""Of a cube's face: where a cube holds less of all surfaces, what falls there is dropped."""
TINY = 0.25
"""Triangles smaller than this share of the square over a piece's edge are told by some of them."""
AT_ONCE = 50_000
"""Triangles whose pieces are counted together."""
CORNERS = np.array([(x, y, z) for z in (0, 1) for y in (0, 1) for x in (0, 1)])
ABOUT = np.array([(x, y, z) for z in (-1, 0, 1) for y in (-1, 0, 1) for x in (-1, 0, 1)])


def fallen_layers(instances: Sequence[Instance], fallen: Fallen, slots: int) -> list[Layer | None]:
    """What fell on what is matt: first which grid it is kept in where, and then each of these."""
    if len(fallen.points) == 0:
        return [None] * (1 + len(CELLS))
    lit = _Lit.of(instances, np.unique(fallen.surfaces))
    regions = _Regions.of(lit.corners, fallen)
    own = regions.levels(fallen.points + BESIDE * fallen.outwards)
    kept = [_laid_out(regions, level, lit, fallen.only(own == level), slots) for level in range(len(CELLS))]
    return [regions.layer, *kept]


@dataclass(frozen=True)
class _Lit:
    """Triangles of the surfaces on which light fell: (n, 3, 3) mm their corners, and (n,) mm²."""

    corners: Numbers
    areas: Numbers

    @classmethod
    def of(cls, instances: Sequence[Instance], surfaces: NDArray[np.int64]) -> _Lit:
        """Of surfaces by their numbers, counted through all instances."""
        own = [(instance, mesh) for instance in instances for mesh in instance.meshes]
        parts = [np.zeros((0, 3, 3))]
        for number in surfaces:
            instance, mesh = own[number]
            parts.append(points_moved(mesh.positions, instance.pose)[mesh.faces])
        corners = np.concatenate(parts)
        return cls(corners, areas_of(corners))


@dataclass(frozen=True)
class _Regions:
    """How small cubes are where: by how many rays fell about each of some large ones.

    cells : numbers of those in which any fell, ascending; level : of each, which of `CELLS`
    """

    grid: Grid
    cells: NDArray[np.int64]
    level: NDArray[np.int64]

    @classmethod
    def of(cls, corners: Numbers, fallen: Fallen) -> _Regions:
        grid = Grid.about(np.stack([corners.min(axis=(0, 1)), corners.max(axis=(0, 1))]), REGION)
        own = grid.numbers(fallen.points + BESIDE * fallen.outwards)
        cells, counts = np.unique(own[own >= 0], return_counts=True)
        about = grid.about_each(cells, ABOUT)
        near = np.append(counts, 0)[rows_among(cells, about)]
        wide = np.count_nonzero(near, axis=1)
        dense = near.sum(axis=1) / (wide * grid.cell**2)
        return cls(grid, cells, np.searchsorted(-np.array(DENSE), -dense))

    def levels(self, points: Numbers) -> NDArray[np.int64]:
        """(n,) which of `CELLS` are for places: the largest where nothing fell."""
        return np.append(self.level, len(CELLS) - 1)[rows_among(self.cells, self.grid.numbers(points))]

    @property
    def layer(self) -> Layer:
        """As kernels read it."""
        numbers = self.level + SMALLEST
        return Layer(self.grid, self.cells, shift=BESIDE / self.grid.cell, numbers=numbers)


def _laid_out(regions: _Regions, level: int, lit: _Lit, fallen: Fallen, slots: int) -> Layer | None:
    """What fell where cubes are of one size: shared out between the eight that are less than one away, as is
    the surface."""
    if len(fallen.points) == 0:
        return None
    everywhere = np.stack([fallen.points.min(axis=0), fallen.points.max(axis=0)])
    grid = Grid.about(everywhere, CELLS[level])
    spread = _Spread(grid, fallen.points + SHIFT * grid.cell * fallen.outwards)
    known = spread.cells()
    share = np.zeros(len(known))
    for points, outwards, sizes in _pieces(grid, lit, known):
        own = regions.levels(points + BESIDE * outwards) == level
        moved = points[own] + SHIFT * grid.cell * outwards[own]
        for number, weight in _Spread(grid, moved).shares(known):
            share += np.bincount(number, weight * sizes[own], len(known) + 1)[:-1]
    light = np.zeros(((len(known) + 1) * 2 * slots, 3))
    for number, weight in spread.shares(known):
        where = (2 * number + fallen.series) * slots + fallen.slots
        for k in range(3):
            light[:, k] += np.bincount(where, weight * fallen.values[:, k], len(light))
    light = light.reshape(-1, 2, slots, 3)[:-1]
    enough = share >= LEAST_AREA * grid.cell**2
    found = light[enough] / share[enough, None, None, None]
    return Layer(grid, known[enough], found.astype(np.float32), SHIFT)


def _pieces(grid: Grid, lit: _Lit, known: NDArray[np.int64]) -> Iterator[tuple[Numbers, Numbers, Numbers]]:
    """Pieces of surfaces whose light may be kept in known cubes: (n, 3) their middles, (n, 3) away from them
    to one side, and (n,) mm²."""
    small, (x, y, z) = PATCH * grid.cell, (-(-blocks // PATCH) for blocks in grid.blocks)
    patches = Grid(grid.low, small, (x, y, z))
    held = np.unique(patches.numbered(grid.at(known) // PATCH))
    wider = np.unique(patches.about_each(held, ABOUT))

    def near(points: Numbers, some: NDArray[np.int64]) -> NDArray[np.bool_]:
        number = patches.numbers(points)
        return np.asarray((number >= 0) & (rows_among(some, number) < len(some)))

    def may_be_near(middles: Numbers, radii: Numbers) -> NDArray[np.bool_]:
        touches = np.ones(len(middles), bool)
        for along, low, high in zip(middles.T, grid.low, grid.high, strict=True):
            touches &= (along > low - radii) & (along < high + radii)
        large = radii > small
        return np.asarray(touches & (large | near(middles, wider)))

    def both_sides(
        points: Numbers, normals: Numbers, sizes: Numbers
    ) -> Iterator[tuple[Numbers, Numbers, Numbers]]:
        for outwards in (normals, -normals):
            here = near(points + SHIFT * grid.cell * outwards, held)
            yield points[here], outwards[here], sizes[here]

    fine = grid.cell / FINE
    share = TINY * fine**2
    tiny = lit.areas < share
    close = near_triangles(lit.corners[~tiny], small, may_be_near)
    corners, areas = np.concatenate([lit.corners[tiny], close]), np.append(lit.areas[tiny], areas_of(close))
    tiny = areas < share
    chosen, size = spread_evenly(areas[tiny], share)
    some = corners[tiny][chosen]
    yield from both_sides(some.mean(axis=1), normals_of(some), np.full(len(some), size))
    large = corners[~tiny]
    normals = normals_of(large)
    for begin in range(0, len(large), AT_ONCE):
        points, sizes, of = area_points(large[begin : begin + AT_ONCE], fine)
        yield from both_sides(points, normals[begin + of], sizes)


class _Spread:
    """Places between the middles of the eight cubes about each."""

    def __init__(self, grid: Grid, points: Numbers) -> None:
        at = (points - grid.low) / grid.cell - 0.5
        self._ahead = (at - np.floor(at)).T.copy()
        self._behind = 1 - self._ahead
        self._first, self._of = np.unique(grid.numbers(points - grid.cell / 2), return_inverse=True)
        self._about = grid.about_each(self._first, CORNERS)

    def cells(self) -> NDArray[np.int64]:
        """Numbers of all cubes that they are between, ascending."""
        found = np.unique(self._about)
        return found[found >= 0]

    def shares(self, known: NDArray[np.int64]) -> Iterator[tuple[NDArray[np.int64], Numbers]]:
        """For each corner which of the known cubes it is, as many as are known for none, and its share."""
        rows = rows_among(known, self._about)
        for number, corner in enumerate(CORNERS):
            x, y, z = (self._ahead[n] if ahead else self._behind[n] for n, ahead in enumerate(corner))
            yield rows[self._of, number], x * y * z
