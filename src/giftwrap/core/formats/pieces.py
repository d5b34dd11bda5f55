"""Lines, arcs and curves between points: what drawings of half-profiles are made of."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from giftwrap.core.form.fillet import fillet_contacts
from giftwrap.core.form.path import Array
from giftwrap.core.form.profile import outer_profile, profile_legs
from giftwrap.core.model import Body

JOIN = 0.05
"""Ends closer than this in mm belong together."""


@dataclass(frozen=True)
class Piece:
    """One line, arc or curve between two points, mm with y upwards.

    bulge : how far the middle of an arc lies to the right of the straight line
    through : inner points of a curve
    """

    start: tuple[float, float]
    end: tuple[float, float]
    bulge: float = 0.0
    through: tuple[tuple[float, float], ...] = ()

    def reversed(self) -> Piece:
        """The same piece drawn the other way."""
        return Piece(self.end, self.start, -self.bulge, self.through[::-1])


def sagitta(start: Sequence[float], middle: Sequence[float], end: Sequence[float]) -> float:
    """How far the middle lies to the right of the line from start to end."""
    dx, dy = end[0] - start[0], end[1] - start[1]
    length = math.hypot(dx, dy)
    mx, my = middle[0] - (start[0] + end[0]) / 2, middle[1] - (start[1] + end[1]) / 2
    found = (mx * dy - my * dx) / length if length else 0.0
    return 0.0 if abs(found) < 1e-7 * max(length, 1.0) else float(found)


def radius_of(piece: Piece) -> float:
    """Radius of an arc in mm."""
    half = math.dist(piece.start, piece.end) / 2
    return (half**2 + piece.bulge**2) / (2 * abs(piece.bulge))


def length_of(chain: list[Piece]) -> float:
    """How far a chain reaches from point to point, mm."""
    return sum(math.dist(p.start, p.end) for p in chain)


def chained(pieces: list[Piece]) -> list[list[Piece]]:
    """Pieces put end to end, whichever way each was drawn."""
    left = list(pieces)
    chains = []
    while left:
        chain = [left.pop(0)]
        grown = True
        while grown:
            grown = False
            for index, piece in enumerate(left):
                for candidate in (piece, piece.reversed()):
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


def mirrored(piece: Piece) -> Piece:
    """The same piece on the other side of the axis."""
    through = tuple((-x, y) for x, y in piece.through)
    start, end = (-piece.start[0], piece.start[1]), (-piece.end[0], piece.end[1])
    return Piece(start, end, -piece.bulge, through)


def moved(piece: Piece, across: float, up: float) -> Piece:
    """The same piece moved by mm."""
    through = tuple((x + across, y + up) for x, y in piece.through)
    start = (piece.start[0] + across, piece.start[1] + up)
    return Piece(start, (piece.end[0] + across, piece.end[1] + up), piece.bulge, through)


def body_pieces(body: Body) -> list[Piece]:
    """The outside from the base's edge to the rim, its roundings as arcs."""
    outer_profile(body)
    legs, roundings, kinds = profile_legs(body)
    contacts = fillet_contacts(legs, roundings)
    pieces = []
    for index, (leg, kind) in enumerate(zip(legs, kinds, strict=True)):
        start, end = contacts[index], contacts[index + 1]
        first = start.after if start else 0.0
        last = end.before if end else float(leg.lengths()[-1])
        inner = [_point(leg.points, leg.lengths(), first + (last - first) * t) for t in (0.0, 0.5, 1.0)]
        if kind == "curve":
            middle = [
                _point(leg.points, leg.lengths(), first + (last - first) * k / 24) for k in range(1, 24)
            ]
            pieces.append(Piece(inner[0], inner[2], 0.0, tuple(middle)))
        else:
            pieces.append(Piece(inner[0], inner[2], sagitta(*inner)))
        if end is not None:
            after = legs[index + 1]
            next_start = _point(after.points, after.lengths(), end.after)
            centre, a, b = end.centre, np.array(inner[2]), np.array(next_start)
            middle_way = (a - centre) + (b - centre)
            radius = float(np.linalg.norm(a - centre))
            crown = centre + middle_way / np.linalg.norm(middle_way) * radius
            pieces.append(Piece(inner[2], next_start, sagitta(inner[2], tuple(crown), next_start)))
    return [p for p in pieces[1:] if math.dist(p.start, p.end) > 1e-6]


def _point(points: Array, lengths: Array, at: float) -> tuple[float, float]:
    return (float(np.interp(at, lengths, points[:, 0])), float(np.interp(at, lengths, points[:, 1])))
