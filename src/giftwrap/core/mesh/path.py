"""Rounded paths in a half-plane: lines with a fillet at each corner, points with their normals.

A path runs with its solid on the left, so that normals point to the right of travel.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Indices = NDArray[np.int64]


def norms(vectors: Array) -> Array:
    """Lengths of vectors along the last axis, which is kept with one entry."""
    return np.asarray(np.sqrt(np.einsum("...i,...i->...", vectors, vectors))[..., None])


SAGITTA = 0.006
"""Largest distance in mm between an arc and the chords that stand for it."""
MAX_STEP = np.radians(7.5)


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
        return self._lengths

    @cached_property
    def _lengths(self) -> Array:
        steps = np.hypot(*np.diff(self.points, axis=0).T)
        return np.concatenate([[0.0], np.cumsum(steps)])


def straight(start: Array, end: Array) -> Path:
    """The line between two points."""
    step = np.asarray(end, dtype=float) - np.asarray(start, dtype=float)
    normal = np.array([step[1], -step[0]]) / np.linalg.norm(step)
    return Path(np.array([start, end], dtype=float), np.array([normal, normal]))


def arc_steps(radius: float, turn: float) -> int:
    """How many chords stand for an arc of a radius (mm) and turn (radians)."""
    step = min(MAX_STEP, 2 * np.arccos(max(1 - SAGITTA / max(radius, SAGITTA), 0.0)))
    return max(int(np.ceil(abs(turn) / step)), 2)


def bulging(start: Array, end: Array, bulge: float) -> Path:
    """The arc between two points whose middle lies `bulge` mm to the right of the straight line."""
    chord = np.asarray(end, dtype=float) - np.asarray(start, dtype=float)
    length = float(np.linalg.norm(chord))
    if abs(bulge) < 1e-6 * length:
        return straight(start, end)
    right = np.array([chord[1], -chord[0]]) / length
    radius = (length**2 / 4 + bulge**2) / (2 * bulge)
    centre = (np.asarray(start) + np.asarray(end)) / 2 + right * (bulge - radius)
    half = 2 * np.arctan2(2 * abs(bulge), length)
    turns = np.linspace(-half, half, arc_steps(abs(radius), 2 * half) + 1) * np.sign(bulge)
    cos, sin = np.cos(turns), np.sin(turns)
    spokes = np.stack([cos * right[0] - sin * right[1], sin * right[0] + cos * right[1]], axis=1)
    points = centre + radius * spokes
    points[0], points[-1] = start, end
    return Path(points, spokes)


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
