"""Volumes of what lies inside lines drawn around an axis."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giftwrap.core.form.sections import Loft
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array, Path

MM3_PER_ML = 1000.0
_TINY = 1e-9
_BISECTIONS = 60
_GAUGED = 12
"""Lines of a cavity whose points' heights are gauged: enough to miss no bend of a floor."""
_GAUGED_DECIMALS = 9


def lofted_volume_ml(path: Path, loft: Loft) -> float:
    """Volume in ml inside a path drawn around a loft, closed level at its end.

    The area of the outline at each height, summed along the path: ∮ A(z) r² dz. Where the outline
    stays the same this is exact, by Simpson's rule on each frustum.
    """
    r, z = path.points[:, 0], path.points[:, 1]
    middle_r, middle_z = (r[1:] + r[:-1]) / 2, (z[1:] + z[:-1]) / 2
    ends, middles = loft.areas(z) * r**2, loft.areas(middle_z) * middle_r**2
    return float((np.diff(z) * (ends[:-1] + 4 * middles + ends[1:]) / 6).sum() / MM3_PER_ML)


def mesh_ml(*meshes: Mesh) -> float:
    """Volume in ml inside meshes that close around it together, by the divergence theorem."""
    total = 0.0
    for mesh in meshes:
        a, b, c = (mesh.positions[mesh.faces[:, k]] for k in range(3))
        total += float((a * np.cross(b, c)).sum())
    return abs(total) / 6 / MM3_PER_ML


@dataclass(frozen=True)
class Gauge:
    """How much a cavity holds up to any height.

    heights : (n,) float, mm, ascending; areas, middles : area in mm² at each and half way to the next
    filled : (n,) float, mm³ below each height
    """

    heights: Array
    areas: Array
    middles: Array
    filled: Array

    @property
    def brimful_ml(self) -> float:
        """Volume up to the rim."""
        return float(self.filled[-1] / MM3_PER_ML)

    def volume_at(self, height: float) -> float:
        """Volume in ml below a height in mm."""
        if height <= self.heights[0]:
            return 0.0
        if height >= self.heights[-1]:
            return self.brimful_ml
        i = int(np.searchsorted(self.heights, height, side="right")) - 1
        return self._within(i, (height - self.heights[i]) / (self.heights[i + 1] - self.heights[i]))

    def height_for(self, volume_ml: float) -> float:
        """Height in mm below which a volume in ml lies; the rim if there is less room."""
        if volume_ml >= self.brimful_ml:
            return float(self.heights[-1])
        i = int(np.searchsorted(self.filled, volume_ml * MM3_PER_ML, side="right")) - 1
        low, high = 0.0, 1.0
        for _ in range(_BISECTIONS):
            middle = (low + high) / 2
            low, high = (middle, high) if self._within(i, middle) < volume_ml else (low, middle)
        return float(self.heights[i] + high * (self.heights[i + 1] - self.heights[i]))

    def _within(self, i: int, t: float) -> float:
        """Volume in ml up to a share of the way from one height to the next, its area a parabola."""
        a, m, b = self.areas[i], self.middles[i], self.areas[i + 1]
        part = a * t + (4 * m - 3 * a - b) * t**2 / 2 + (2 * a - 4 * m + 2 * b) * t**3 / 3
        return float((self.filled[i] + (self.heights[i + 1] - self.heights[i]) * part) / MM3_PER_ML)


def gauge_of(lines: Array) -> Gauge:
    """Gauge a cavity.

    lines : (u, n, 3) float, mm, from the middle of the floor, which may be domed, to the rim; each rises
        from its own lowest place both ways

    One line stands for a circle.
    """
    rows, lowest = np.arange(lines.shape[1]), lines[..., 2].argmin(axis=1)[:, None]
    wall = np.take_along_axis(lines, np.maximum(rows, lowest)[..., None], axis=1)
    floor = np.take_along_axis(lines, np.minimum(rows[::-1], lowest)[..., None], axis=1)
    some = lines[:: max(len(lines) // _GAUGED, 1), :, 2]
    heights = np.unique(np.append(some, [wall[:, 0, 2].min(), wall[:, -1, 2].max()]).round(_GAUGED_DECIMALS))
    outer, inner = _Levels(wall, heights), _Levels(floor, heights)
    areas, middles = outer.areas - inner.areas, outer.middles - inner.middles
    steps = np.diff(heights) * (areas[:-1] + 4 * middles + areas[1:]) / 6
    return Gauge(heights, areas, middles, np.concatenate([[0.0], np.cumsum(steps)]))


class _Levels:
    """Areas inside a rising wall at heights, and half way between them; none above its top."""

    def __init__(self, wall: Array, heights: Array) -> None:
        rows = wall.shape[1]
        flat = np.zeros((len(wall), len(heights), 2))
        for u, column in enumerate(wall):
            rising = np.maximum.accumulate(column[:, 2]) + _TINY * np.arange(rows)
            for k in (0, 1):
                flat[u, :, k] = np.interp(heights + _TINY * rows, rising, column[:, k])
        above = heights > wall[..., 2].max() + 2 * _TINY * rows
        flat[:, above] = 0.0
        self.areas = ring_areas(flat)
        self.middles = ring_areas((flat[:, 1:] + flat[:, :-1]) / 2)


def ring_areas(rings: Array) -> Array:
    """(n,) float, mm²: area inside rings (u, n, 2); one point stands for a circle.

    Chords are taken for arcs that turn as their neighbours do: each cuts off a segment of
    chord² · turn / 12.
    """
    if len(rings) == 1:
        return np.asarray(np.pi * (rings[0] ** 2).sum(-1))
    nxt = np.roll(rings, -1, axis=0)
    chord = nxt - rings
    polygon = (rings[..., 0] * nxt[..., 1] - rings[..., 1] * nxt[..., 0]).sum(axis=0) / 2
    before = np.roll(chord, 1, axis=0)
    turn = np.arctan2(
        before[..., 0] * chord[..., 1] - before[..., 1] * chord[..., 0], (before * chord).sum(-1)
    )
    turn = np.where(np.abs(turn) < 0.2, turn, 0.0)
    own = (turn + np.roll(turn, -1, axis=0)) / 2
    return np.asarray(polygon + ((chord**2).sum(-1) * own).sum(axis=0) / 12)
