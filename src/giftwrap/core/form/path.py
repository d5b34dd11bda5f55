"""Rounded paths in a half-plane: lines with a fillet at each corner, points with their normals.

A path runs with its solid on the left, so that normals point to the right of travel.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.errors import PackError

Array = NDArray[np.float64]

SAGITTA = 0.004
"""Largest distance in mm between an arc and the chords that stand for it."""
MAX_STEP = np.radians(6.0)


@dataclass(frozen=True)
class Path:
    """A polyline with normals. A sharp corner is the same point twice with two normals.

    points : (n, 2) float, mm
    normals : (n, 2) float, unit length
    """

    points: Array
    normals: Array

    def lengths(self) -> Array:
        """(n,) float, mm along the path up to each point."""
        steps = np.linalg.norm(np.diff(self.points, axis=0), axis=1)
        return np.concatenate([[0.0], np.cumsum(steps)])


def rounding_limits(corners: Array) -> Array:
    """Largest rounding each corner can have beside its neighbours' present ones.

    corners : (n, 3) float, radius, height and rounding in mm
    returns : (n,) float, mm; the ends have no corner and give 0
    """
    tangents = _tangent_factors(corners) * corners[:, 2]
    limits = np.zeros(len(corners))
    lengths = np.linalg.norm(np.diff(corners[:, :2], axis=0), axis=1)
    factors = _tangent_factors(corners)
    for i in range(1, len(corners) - 1):
        room = min(lengths[i - 1] - tangents[i - 1], lengths[i] - tangents[i + 1])
        limits[i] = max(room, 0.0) / factors[i] if factors[i] > 1e-9 else np.inf
    return limits


def rounded_path(corners: Array, *, names: list[str] | None = None) -> Path:
    """Join corners by lines, replacing each inner corner by a tangent arc of its rounding.

    corners : (n, 3) float, first coordinate, second coordinate and rounding in mm
    names : document place of each corner, for errors

    Raises PackError when an arc does not fit between its neighbours.
    """
    points: list[Array] = []
    normals: list[Array] = []
    limits = rounding_limits(corners)
    directions = _directions(corners)
    for i, (x, y, rounding) in enumerate(corners):
        here = np.array([x, y])
        if i in (0, len(corners) - 1):
            points.append(here)
            normals.append(_right(directions[min(i, len(directions) - 1)]))
            continue
        if rounding > limits[i] + 1e-6:
            raise PackError(
                f"Corner {i}'s rounding of {rounding:g} mm does not fit between its neighbours: "
                f"at most {limits[i]:.1f} mm here.",
                names[i] if names else "",
            )
        arc_points, arc_normals = _corner_arc(here, directions[i - 1], directions[i], rounding)
        points.extend(arc_points)
        normals.extend(arc_normals)
    return Path(np.array(points), np.array(normals))


def cut(path: Path, start: float, end: float) -> Path:
    """The part of a path between two lengths along it, in mm from its first point."""
    lengths = path.lengths()
    inside = (lengths > start) & (lengths < end)
    ends = [_at(path, lengths, start), _at(path, lengths, end)]
    points = np.vstack([ends[0][0], path.points[inside], ends[1][0]])
    normals = np.vstack([ends[0][1], path.normals[inside], ends[1][1]])
    return Path(points, normals)


def length_at_height(path: Path, height: float) -> float:
    """Length along the path where it first rises through a height (both mm)."""
    heights, lengths = path.points[:, 1], path.lengths()
    for i in range(len(heights) - 1):
        if heights[i] <= height < heights[i + 1]:
            share = (height - heights[i]) / (heights[i + 1] - heights[i])
            return float(lengths[i] + share * (lengths[i + 1] - lengths[i]))
    return float(lengths[-1])


def shifted(path: Path, distance: float) -> Path:
    """Every point moved along its normal by a small distance in mm."""
    return Path(path.points + distance * path.normals, path.normals)


def with_creases(path: Path, *, sharpest: float = np.radians(10.0)) -> Path:
    """Keep each point's normal where the line is smooth there; where it turns by more than
    `sharpest` radians from a neighbouring piece, put the point twice, with the pieces' own normals.
    """
    steps = np.diff(path.points, axis=0)
    lengths = np.linalg.norm(steps, axis=1)
    pieces = np.stack([steps[:, 1], -steps[:, 0]], axis=1) / np.maximum(lengths, 1e-12)[:, None]
    before, after = np.vstack([pieces[:1], pieces]), np.vstack([pieces, pieces[-1:]])
    least = np.cos(sharpest)
    agree = np.minimum((before * path.normals).sum(1), (after * path.normals).sum(1))
    points: list[Array] = []
    normals: list[Array] = []
    for i in range(len(path.points)):
        smooth = agree[i] > least
        points += [path.points[i]] if smooth else [path.points[i], path.points[i]]
        normals += [path.normals[i]] if smooth else [before[i], after[i]]
    return Path(np.array(points), np.array(normals))


def reversed_path(path: Path) -> Path:
    """The same line travelled the other way, its solid now on the other side."""
    return Path(path.points[::-1].copy(), -path.normals[::-1])


def joined(*paths: Path) -> Path:
    """Paths one after the other; where they meet the point is kept twice, as at a sharp corner."""
    return Path(np.vstack([p.points for p in paths]), np.vstack([p.normals for p in paths]))


def _at(path: Path, lengths: Array, where: float) -> tuple[Array, Array]:
    point = np.array([np.interp(where, lengths, path.points[:, k]) for k in (0, 1)])
    normal = np.array([np.interp(where, lengths, path.normals[:, k]) for k in (0, 1)])
    return point, normal / np.linalg.norm(normal)


def _directions(corners: Array) -> Array:
    steps = np.diff(corners[:, :2], axis=0)
    unit: Array = steps / np.linalg.norm(steps, axis=1, keepdims=True)
    return unit


def _right(direction: Array) -> Array:
    return np.array([direction[1], -direction[0]])


def _turns(corners: Array) -> Array:
    """(n,) signed angle in radians by which the path turns left at each corner."""
    d = _directions(corners)
    cross = d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0]
    dot = (d[:-1] * d[1:]).sum(axis=1)
    return np.concatenate([[0.0], np.arctan2(cross, dot), [0.0]])


def _tangent_factors(corners: Array) -> Array:
    """Tangent length of a unit fillet at each corner: tan(turn / 2)."""
    factors: Array = np.tan(np.abs(_turns(corners)) / 2)
    return factors


def _corner_arc(
    corner: Array, before: Array, after: Array, rounding: float
) -> tuple[list[Array], list[Array]]:
    turn = float(np.arctan2(before[0] * after[1] - before[1] * after[0], before @ after))
    if abs(turn) < 1e-6:
        return [corner], [_right(before)]
    if rounding < 1e-6:
        return [corner, corner], [_right(before), _right(after)]
    start = corner - before * rounding * np.tan(abs(turn) / 2)
    side = np.sign(turn)
    centre = start - side * _right(before) * rounding
    step = min(MAX_STEP, 2 * np.arccos(max(1 - SAGITTA / rounding, 0.0)))
    count = max(int(np.ceil(abs(turn) / step)), 2)
    angles = np.linspace(0.0, turn, count + 1)
    cos, sin = np.cos(angles), np.sin(angles)
    n0 = _right(before)
    normals = np.stack([cos * n0[0] - sin * n0[1], sin * n0[0] + cos * n0[1]], axis=1)
    points = centre + side * rounding * normals
    return list(points), list(normals)
