"""Cross-sections: outlines seen from above, and how one becomes another along the height.

An outline is a closed curve C(u), u from the front (−y) turning to the right (+x), scaled so that it
reaches x = ±1: multiplied by the half-profile's radius it is the wall at that height. Outlines of
one body share u, the angle once their depth is stretched to their width.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from scipy.interpolate import CubicSpline

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.model import Body, Oval, OwnOutline, Polygon, Rectangle, Round, SectionMark, Squircle
from giftwrap.core.model.body import Section

TABLE = 2880
"""Directions in which an outline is tabulated; divisible by the sides of common polygons."""
TURN_STEP = np.radians(3.0)
"""Largest turn of the wall between two columns, unless the radius asks for less."""
COARSER = 2.6
THIN = 0.2
"""An outline flatter than this keeps all its columns: its ends turn too sharply for fewer."""
SAGITTA = 0.01
"""Largest distance in mm between a wall and the chords that stand for it."""


@dataclass(frozen=True)
class Outlines:
    """Outlines of one body at several heights and in several directions.

    points, normals : (u, n, 2) float; normals are of unit length, outwards
    rise : (u, n, 2) float, change of `points` per mm of height
    """

    points: Array
    normals: Array
    rise: Array

    @property
    def support(self) -> Array:
        """(u, n) float: distance of the tangent from the axis."""
        return np.asarray((self.points * self.normals).sum(-1))

    @property
    def along(self) -> Array:
        """(u, n) float: where on its tangent each point lies, to the left seen from outside."""
        tangent = np.stack([-self.normals[..., 1], self.normals[..., 0]], axis=-1)
        return np.asarray((self.points * tangent).sum(-1))


class Loft:
    """The cross-sections of a body along its height."""

    def __init__(self, marks: tuple[SectionMark, ...] = ()) -> None:
        self.marks = marks or (SectionMark(height=0, section=Round()),)
        self.heights = np.array([mark.height for mark in self.marks])
        self._curves = np.array([_tabulated(mark.section) for mark in self.marks])
        self._tangents = np.array([_tangents(curve) for curve in self._curves])

    @property
    def is_round(self) -> bool:
        """Whether every section is a circle."""
        return all(isinstance(mark.section, Round) for mark in self.marks)

    @property
    def changes(self) -> tuple[tuple[float, float], ...]:
        """Height bands in mm over which one section becomes another."""
        pairs = zip(self.marks, self.marks[1:], strict=False)
        return tuple((a.height, b.height) for a, b in pairs if a.section != b.section)

    def columns(self, radius: float, *, coarse: bool = False) -> Array:
        """Directions in which a wall of a largest radius (mm) is drawn, closer where it turns.

        returns : (n,) float, radians from the front; 2π itself is not among them
        """
        flat = float(self._curves[..., 1].max(axis=1).min()) < THIN
        step = min(TURN_STEP, 2 * np.arccos(1 - SAGITTA / max(radius, 1.0)))
        step *= COARSER if coarse and not flat else 1.0
        count = 4 * int(np.ceil(2 * np.pi / step / 4))
        if self.is_round:
            return np.linspace(0.0, 2 * np.pi, count, endpoint=False)
        return _spread(self._density, int(count * (1.3 if len(self.marks) > 1 else 1.0)) // 4 * 4)

    @cached_property
    def _density(self) -> Array:
        """(TABLE,) float: how closely columns should stand, by the turn and length of the outlines."""
        total = np.zeros(TABLE)
        for curve, tangent in zip(self._curves, self._tangents, strict=True):
            angle = np.unwrap(np.arctan2(tangent[:, 1], tangent[:, 0]))
            turn = np.abs(np.diff(angle, append=angle[0] + 2 * np.pi))
            length = np.linalg.norm(np.diff(curve, axis=0, append=curve[:1]), axis=1)
            total = np.maximum(total, turn / turn.sum() + 0.35 * length / length.sum())
        return total

    def at(self, heights: Array, columns: Array) -> Outlines:
        """Outlines at heights (n,) in mm and directions (u,) in radians."""
        if len(self.marks) == 1:
            point, along = self._sampled(self._curves, columns)[0], self._sampled(self._tangents, columns)[0]
            normal = np.stack([along[:, 1], -along[:, 0]], axis=-1)
            normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
            size = (len(columns), len(heights), 2)
            points, normals = (np.broadcast_to(values[:, None], size) for values in (point, normal))
            return Outlines(points, normals, np.broadcast_to(0.0, size))
        low, share, slope = self._between(heights)
        high = np.minimum(low + 1, len(self.marks) - 1)
        curves, tangents = self._sampled(self._curves, columns), self._sampled(self._tangents, columns)
        a, b = np.swapaxes(curves[low], 0, 1), np.swapaxes(curves[high], 0, 1)
        ta, tb = np.swapaxes(tangents[low], 0, 1), np.swapaxes(tangents[high], 0, 1)
        mix = share[None, :, None]
        points = a + mix * (b - a)
        along = ta + mix * (tb - ta)
        normals = np.stack([along[..., 1], -along[..., 0]], axis=-1)
        normals /= np.linalg.norm(normals, axis=-1, keepdims=True)
        return Outlines(points, normals, (b - a) * slope[None, :, None])

    def areas(self, heights: Array) -> Array:
        """(n,) float: area of the outline at each height, for a radius of one."""
        low, share, _ = self._between(heights)
        high = np.minimum(low + 1, len(self.marks) - 1)

        keep = 1 - share
        own, mixed = self._mixed_areas, self._mixed_areas + self._mixed_areas.T
        return np.asarray(
            own[low, low] * keep**2 + mixed[low, high] * keep * share + own[high, high] * share**2
        )

    @cached_property
    def _mixed_areas(self) -> Array:
        """(marks, marks) float: ½ ∮ x dy − y dx with the curve of one mark and the tangent of another."""
        x, y = self._curves[..., 0], self._curves[..., 1]
        dx, dy = self._tangents[..., 0], self._tangents[..., 1]
        return np.asarray((x @ dy.T - y @ dx.T) * (np.pi / TABLE))

    def _between(self, heights: Array) -> tuple[Indices, Array, Array]:
        """Index of the mark below each height, and how far and how fast the next takes over."""
        low = np.clip(np.searchsorted(self.heights, heights, side="right") - 1, 0, len(self.marks) - 1)
        high = np.minimum(low + 1, len(self.marks) - 1)
        span = np.where(high > low, self.heights[high] - self.heights[low], 1.0)
        t = np.clip((heights - self.heights[low]) / span, 0.0, 1.0) * (high > low)
        return low, t * t * (3 - 2 * t), 6 * t * (1 - t) / span

    @staticmethod
    def _sampled(table: Array, columns: Array) -> Array:
        """(marks, u, 2) float: tables read at directions, between their entries."""
        at = columns / (2 * np.pi) * TABLE
        index = np.floor(at).astype(int)
        share = (at - index)[None, :, None]
        return np.asarray(table[:, index % TABLE] * (1 - share) + table[:, (index + 1) % TABLE] * share)


def loft_of(body: Body) -> Loft:
    """The cross-sections of a body.

    Raises PackError when an own outline cannot be a wall.
    """
    for index, mark in enumerate(body.sections):
        try:
            _tabulated(mark.section)
        except PackError as error:
            raise PackError(error.message, f"body.sections.{index}.section.{error.place}") from error
    return _loft(tuple(body.sections))


@lru_cache(maxsize=64)
def _loft(marks: tuple[SectionMark, ...]) -> Loft:
    return Loft(marks)


def _spread(density: Array, count: int) -> Array:
    """Directions that share a density over the table evenly."""
    total = np.concatenate([[0.0], np.cumsum(density)])
    wanted = np.linspace(0.0, total[-1], count, endpoint=False)
    return np.interp(wanted, total, np.linspace(0.0, 2 * np.pi, TABLE + 1))


_U = np.linspace(0.0, 2 * np.pi, TABLE, endpoint=False)
_SIN, _COS = np.sin(_U), -np.cos(_U)


@lru_cache(maxsize=128)
def _tabulated(section: Section) -> Array:
    """(TABLE, 2) float: an outline that reaches x = ±1."""
    if isinstance(section, Round):
        return np.stack([_SIN, _COS], axis=1)
    if isinstance(section, Oval):
        return np.stack([_SIN, section.depth_ratio * _COS], axis=1)
    if isinstance(section, Squircle):
        n = section.squareness
        reach = (np.abs(_SIN) ** n + np.abs(_COS) ** n) ** (-1 / n)
        return np.stack([reach * _SIN, section.depth_ratio * reach * _COS], axis=1)
    if isinstance(section, Rectangle):
        return _rectangle(section)
    if isinstance(section, Polygon):
        return _polygon(section)
    return _own(section)


def _tangents(curve: Array) -> Array:
    """(TABLE, 2) float: dC/du of a closed table, by central differences."""
    return np.asarray((np.roll(curve, -1, axis=0) - np.roll(curve, 1, axis=0)) * TABLE / (4 * np.pi))


def _rectangle(section: Rectangle) -> Array:
    depth = section.depth_ratio
    r = section.corner * min(1.0, depth)
    centres = np.array([[1 - r, -depth + r], [1 - r, depth - r], [-1 + r, depth - r], [-1 + r, -depth + r]])
    return _radial(_cornered(centres, r), np.array([1.0, depth]))


def _polygon(section: Polygon) -> Array:
    turns = 2 * np.pi * (np.arange(section.sides) + 0.5) / section.sides
    inradius = np.cos(np.pi / section.sides)
    r = section.corner * inradius
    share = 1 - r / inradius
    centres = share * np.stack([np.sin(turns), -np.cos(turns)], axis=1)
    outline = _cornered(centres, r)
    return _radial(outline / outline[:, 0].max(), np.ones(2))


def _cornered(centres: Array, rounding: float) -> Array:
    """A convex outline of arcs of one rounding around centres, joined by straight sides."""
    away = centres - np.roll(centres, 1, axis=0)
    on = np.roll(centres, -1, axis=0) - centres
    points = []
    for centre, before, after in zip(centres, away, on, strict=True):
        first = np.arctan2(-before[0], before[1])
        turn = (np.arctan2(-after[0], after[1]) - first) % (2 * np.pi)
        angles = first + np.linspace(0, turn, 64)
        points.append(centre + rounding * np.stack([np.cos(angles), np.sin(angles)], axis=1))
    return np.vstack(points)


def _own(section: OwnOutline) -> Array:
    points = np.array(section.points, dtype=float)
    middle = (points.max(axis=0) + points.min(axis=0)) / 2
    points = points - middle
    if section.smooth:
        closed = np.vstack([points, points[:1]])
        at = np.concatenate([[0.0], np.cumsum(np.sqrt(np.linalg.norm(np.diff(closed, axis=0), axis=1)))])
        points = CubicSpline(at, closed, bc_type="periodic")(np.linspace(0, at[-1], 1440, endpoint=False))
        points -= (points.max(axis=0) + points.min(axis=0)) / 2
    area = (points[:, 0] * np.roll(points[:, 1], -1) - points[:, 1] * np.roll(points[:, 0], -1)).sum()
    if area < 0:
        points = points[::-1]
    points = points / points[:, 0].max()
    return _radial(points, np.array([1.0, float(points[:, 1].max())]))


def _cross(p: Array, q: Array) -> Array:
    return np.asarray(p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0])


def _radial(outline: Array, size: Array) -> Array:
    """An outline tabulated by direction, its depth stretched to its width.

    Raises PackError when a ray from the middle meets it more than once.
    """
    stretched = outline / size
    angle = np.unwrap(np.arctan2(stretched[:, 0], -stretched[:, 1]))
    if np.diff(angle, append=angle[0] + 2 * np.pi).min() <= 0:
        raise PackError(
            "The outline folds back behind itself as seen from its middle: draw it so that every point "
            "can be seen from there.",
            "points",
        )
    start = float(angle[0])
    around = np.concatenate([angle - 2 * np.pi, angle, angle + 2 * np.pi])
    closed = np.tile(stretched, (3, 1))
    u = start + (_U - start) % (2 * np.pi)
    index = np.clip(np.searchsorted(around, u, side="right") - 1, 0, len(around) - 2)
    a, b = closed[index], closed[index + 1]
    way = np.stack([_SIN, _COS], axis=1)
    reach = _cross(a, b - a) / _cross(way, b - a)
    return np.asarray(reach[:, None] * way * size)


ROUND = Loft()
"""A body that is round all the way up."""
