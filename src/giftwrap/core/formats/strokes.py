"""Lines, arcs and curves between points: what drawings of half-profiles are made of."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from giftwrap.core.form.profile import outer_profile, profile_legs
from giftwrap.core.mesh.fillet import fillet_contacts
from giftwrap.core.mesh.path import Array
from giftwrap.core.model import Body

JOIN = 0.05
"""Ends closer than this in mm belong together."""


@dataclass(frozen=True)
class Stroke:
    """One line, arc or curve between two points, mm with y upwards.

    bulge : how far the middle of an arc lies to the right of the straight line
    through : inner points of a curve
    """

    start: tuple[float, float]
    end: tuple[float, float]
    bulge: float = 0.0
    through: tuple[tuple[float, float], ...] = ()

    def reversed(self) -> Stroke:
        """The same stroke drawn the other way."""
        return Stroke(self.end, self.start, -self.bulge, self.through[::-1])


def sagitta(start: Sequence[float], middle: Sequence[float], end: Sequence[float]) -> float:
    """How far the middle lies to the right of the line from start to end."""
    dx, dy = end[0] - start[0], end[1] - start[1]
    length = math.hypot(dx, dy)
    mx, my = middle[0] - (start[0] + end[0]) / 2, middle[1] - (start[1] + end[1]) / 2
    found = (mx * dy - my * dx) / length if length else 0.0
    return 0.0 if abs(found) < 1e-7 * max(length, 1.0) else float(found)


def radius_of(stroke: Stroke) -> float:
    """Radius of an arc in mm."""
    half = math.dist(stroke.start, stroke.end) / 2
    return (half**2 + stroke.bulge**2) / (2 * abs(stroke.bulge))


def length_of(chain: list[Stroke]) -> float:
    """How far a chain reaches from point to point, mm."""
    return sum(math.dist(p.start, p.end) for p in chain)


def chained(strokes: list[Stroke]) -> list[list[Stroke]]:
    """Strokes put end to end, whichever way each was drawn."""
    left = list(strokes)
    chains = []
    while left:
        chain = [left.pop(0)]
        grown = True
        while grown:
            grown = False
            for index, stroke in enumerate(left):
                for candidate in (stroke, stroke.reversed()):
                    if math.dist(chain[-1].end, candidate.start) < JOIN:
                        chain.append(candidate)
                    elif math.dist(chain[0].start, candidate.end) < JOIN:
                        chain.insert(0, candidate)
                    else:
                        continue
                    left.pop(index)
                    grown = True
                    break
                if grown:
                    break
        chains.append(chain)
    return chains


def mirrored(stroke: Stroke) -> Stroke:
    """The same stroke on the other side of the axis."""
    through = tuple((-x, y) for x, y in stroke.through)
    start, end = (-stroke.start[0], stroke.start[1]), (-stroke.end[0], stroke.end[1])
    return Stroke(start, end, -stroke.bulge, through)


def moved(stroke: Stroke, across: float, up: float) -> Stroke:
    """The same stroke moved by mm."""
    through = tuple((x + across, y + up) for x, y in stroke.through)
    start = (stroke.start[0] + across, stroke.start[1] + up)
    return Stroke(start, (stroke.end[0] + across, stroke.end[1] + up), stroke.bulge, through)


def body_strokes(body: Body) -> list[Stroke]:
    """The outside from the base's edge to the rim, its roundings as arcs."""
    outer_profile(body)
    legs, roundings, kinds = profile_legs(body)
    contacts = fillet_contacts(legs, roundings)
    strokes = []
    for index, (leg, kind) in enumerate(zip(legs, kinds, strict=True)):
        start, end = contacts[index], contacts[index + 1]
        first = start.after if start else 0.0
        last = end.before if end else float(leg.lengths()[-1])
        inner = [_point(leg.points, leg.lengths(), first + (last - first) * t) for t in (0.0, 0.5, 1.0)]
        if kind == "curve":
            middle = [
                _point(leg.points, leg.lengths(), first + (last - first) * k / 24) for k in range(1, 24)
            ]
            strokes.append(Stroke(inner[0], inner[2], 0.0, tuple(middle)))
        else:
            strokes.append(Stroke(inner[0], inner[2], sagitta(*inner)))
        if end is not None:
            after = legs[index + 1]
            next_start = _point(after.points, after.lengths(), end.after)
            centre, a, b = end.centre, np.array(inner[2]), np.array(next_start)
            middle_way = (a - centre) + (b - centre)
            radius = float(np.linalg.norm(a - centre))
            crown = centre + middle_way / np.linalg.norm(middle_way) * radius
            strokes.append(Stroke(inner[2], next_start, sagitta(inner[2], tuple(crown), next_start)))
    return [p for p in strokes[1:] if math.dist(p.start, p.end) > 1e-6]


def _point(points: Array, lengths: Array, at: float) -> tuple[float, float]:
    return (float(np.interp(at, lengths, points[:, 0])), float(np.interp(at, lengths, points[:, 1])))
