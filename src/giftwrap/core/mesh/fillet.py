"""Rounding the corners where legs of a path meet: a circle rolled into each corner."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array, Path, arc_steps, cut, straight

SMOOTH_TURN = np.radians(0.5)
"""Legs that meet at less than this angle have no corner between them."""
_SEARCH_STEPS = 14


@dataclass(frozen=True)
class Contact:
    """A circle that touches two legs.

    before, after : mm from the start of each leg to where the circle touches it
    """

    centre: Array
    before: float
    after: float


def rounded_path(corners: Array, *, names: Sequence[str] | None = None) -> Path:
    """Join corners by lines, replacing each inner corner by a tangent arc of its rounding.

    corners : (n, 3) float, first coordinate, second coordinate and rounding in mm
    names : document place of each corner, for errors

    Raises PackError when an arc does not fit between its neighbours.
    """
    legs = [straight(a, b) for a, b in pairwise(corners[:, :2])]
    refuse_roundings(corners[:, 2], rounding_limits(legs, corners[:, 2]), names or [""] * len(corners))
    return filleted(legs, corners[:, 2])


def refuse_roundings(roundings: Array, limits: Array, names: Sequence[str], *, first: int = 0) -> None:
    """Raise PackError for the first rounding that is over its limit.

    names : document place of each rounding
    first : index of the corner that is called the first
    """
    for index in range(1, len(roundings) - 1):
        if roundings[index] > limits[index] + 1e-6:
            raise PackError(
                f"Corner {index - first + 1}'s rounding of {roundings[index]:g} mm does not fit between its "
                f"neighbours: at most {limits[index]:.1f} mm here.",
                names[index],
            )


def filleted(legs: Sequence[Path], roundings: Array) -> Path:
    """Join legs end to end, with a tangent arc where they meet.

    roundings : (legs + 1,) float, mm at the start of each leg and the end of the last, each within
        its limit; both ends are free
    """
    contacts = fillet_contacts(legs, roundings)
    points: list[Array] = []
    normals: list[Array] = []
    for index, leg in enumerate(legs):
        start, end = contacts[index], contacts[index + 1]
        length = float(leg.lengths()[-1])
        piece = cut(leg, start.after if start else 0.0, end.before if end else length)
        if start is None and index and _turn(legs, index) == 0.0:
            piece = Path(piece.points[1:], piece.normals[1:])
        points.append(piece.points)
        normals.append(piece.normals)
        if end is not None:
            arc = _arc(end.centre, piece, legs[index + 1], end.after)
            points.append(arc.points)
            normals.append(arc.normals)
    return Path(np.vstack(points), np.vstack(normals))


def fillet_contacts(legs: Sequence[Path], roundings: Array) -> list[Contact | None]:
    """Where the arc at each joint touches its legs; None where there is none."""
    return [_contact(legs, index, rounding) for index, rounding in enumerate(roundings)]


def rounding_limits(legs: Sequence[Path], roundings: Array, *, first: int = 1) -> Array:
    """Largest rounding each corner can have beside its neighbours' present ones.

    first : index of the first corner that is asked about; those before it give infinity
    returns : (legs + 1,) float, mm; the free ends and smooth joints have no corner and give infinity
    """
    taken = fillet_contacts(legs, roundings)
    limits = np.full(len(legs) + 1, np.inf)
    limits[[0, -1]] = 0.0
    for i in range(max(first, 1), len(legs)):
        if abs(_turn(legs, i)) < SMOOTH_TURN:
            continue
        before, last = taken[i - 1], taken[i + 1]
        start = before.after if before else 0.0
        length = float(legs[i].lengths()[-1])
        limits[i] = _limit(legs, i, start, last.before if last else length)
    return limits


def _limit(legs: Sequence[Path], index: int, start: float, end: float) -> float:
    """Largest rounding whose circle touches the leg before past `start` and the next before `end`."""
    before, after = legs[index - 1], legs[index]
    room = min(float(before.lengths()[-1]) - start, end)
    if room <= 0:
        return 0.0
    if len(before.points) == len(after.points) == 2:
        return float(room / np.tan(abs(_turn(legs, index)) / 2))
    low, high = 0.0, 4 * max(float(before.lengths()[-1]), float(after.lengths()[-1]))
    for _ in range(_SEARCH_STEPS):
        middle = (low + high) / 2
        found = _touching(before, after, middle, np.sign(_turn(legs, index)))
        fits = found is not None and found.before >= start and found.after <= end
        low, high = (middle, high) if fits else (low, middle)
    return low


def _turn(legs: Sequence[Path], index: int) -> float:
    """Signed angle in radians by which the path turns left where a leg begins."""
    a, b = legs[index - 1].normals[-1], legs[index].normals[0]
    turn = float(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b))
    return 0.0 if abs(turn) < SMOOTH_TURN else turn


def _contact(legs: Sequence[Path], index: int, rounding: float) -> Contact | None:
    if index in (0, len(legs)) or rounding < 1e-6:
        return None
    turn = _turn(legs, index)
    before, after = legs[index - 1], legs[index]
    if turn == 0.0:
        return None
    if len(before.points) == len(after.points) == 2:
        tangent = rounding * np.tan(abs(turn) / 2)
        length = float(before.lengths()[-1])
        way = (before.points[1] - before.points[0]) / length
        centre = before.points[1] - way * tangent - np.sign(turn) * before.normals[0] * rounding
        return Contact(centre, length - tangent, float(tangent))
    return _touching(before, after, rounding, np.sign(turn))


def _touching(before: Path, after: Path, rounding: float, side: float) -> Contact | None:
    """The circle nearest the corner that touches both legs: where their parallels cross."""
    a = before.points - side * rounding * before.normals
    b = after.points - side * rounding * after.normals
    da, db = np.diff(a, axis=0)[:, None], np.diff(b, axis=0)[None]
    gap = b[None, :-1] - a[:-1, None]
    cross = da[..., 0] * db[..., 1] - da[..., 1] * db[..., 0]
    cross = np.where(np.abs(cross) < 1e-14, np.nan, cross)
    t = (gap[..., 0] * db[..., 1] - gap[..., 1] * db[..., 0]) / cross
    s = (gap[..., 0] * da[..., 1] - gap[..., 1] * da[..., 0]) / cross
    where = np.argwhere((t >= 0) & (t <= 1) & (s >= 0) & (s <= 1))
    if not len(where):
        return None
    i, j = max(where, key=lambda pair: (pair[0], -pair[1]))
    along_a, along_b = before.lengths(), after.lengths()
    ta, tb = float(t[i, j]), float(s[i, j])
    return Contact(
        centre=a[i] + ta * (a[i + 1] - a[i]),
        before=float(along_a[i] + ta * (along_a[i + 1] - along_a[i])),
        after=float(along_b[j] + tb * (along_b[j + 1] - along_b[j])),
    )


def _arc(centre: Array, before: Path, after: Path, at: float) -> Path:
    """The inner points of the arc from the end of one piece to a place on the next leg."""
    lengths = after.lengths()
    end = np.array([np.interp(at, lengths, after.points[:, k]) for k in (0, 1)])
    first, last = before.points[-1] - centre, end - centre
    turn = float(np.arctan2(first[0] * last[1] - first[1] * last[0], first @ last))
    radius = float(np.linalg.norm(first))
    turns = np.linspace(0.0, turn, arc_steps(radius, turn) + 1)[1:-1]
    cos, sin = np.cos(turns), np.sin(turns)
    spokes = np.stack([cos * first[0] - sin * first[1], sin * first[0] + cos * first[1]], axis=1) / radius
    return Path(centre + radius * spokes, spokes * np.sign(turn))
