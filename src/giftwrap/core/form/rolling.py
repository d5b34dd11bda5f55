"""A ball rolled along the outside of a body, in the plane of the axis and each direction.

Distances are those of tangents from the axis, so that one plane serves every point whose outline
faces the same way. A piece of the outside is a chain of straight segments with a ball's radius at
each point; everything is computed for all directions and heights at once.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giftwrap.core.mesh.path import Array, Indices

_FLAT = 1e-9


@dataclass(frozen=True)
class Chain:
    """Outside points in order, in every direction.

    distance : (u, n) float, mm; height, ball : (n,) float, mm
    first : index of its first point among those of the whole outside
    """

    distance: Array
    height: Array
    ball: Array
    first: int = 0

    def grown(self, by: float) -> Chain:
        """The same chain for a larger ball."""
        return Chain(self.distance, self.height, self.ball + by, self.first)


@dataclass(frozen=True)
class Touch:
    """Where a ball can go, and what stops it there.

    reach : (u, n) float, mm: the farthest distance at a height, or the lowest height at a distance
    distance, height : (u, n) float, mm, of the point that stops it
    place : (u, n) float, where that is among the chain's points
    """

    reach: Array
    distance: Array
    height: Array
    place: Array


def outwards(chain: Chain, heights: Array) -> Touch:
    """The farthest a ball's middle can go outwards at heights (u, n) in mm."""
    z, ball = chain.height, chain.ball
    room = np.maximum(ball[:-1], ball[1:])
    low, high = np.minimum(z[:-1], z[1:]) - room, np.maximum(z[:-1], z[1:]) + room
    near = (heights.max(axis=0)[:, None] >= low) & (heights.min(axis=0)[:, None] <= high)
    row, piece = np.nonzero(near)
    at = heights[:, row]
    h0, h1 = chain.distance[:, piece], chain.distance[:, piece + 1]
    z0, z1 = z[piece], z[piece + 1]
    first = h0 - _cap(ball[piece], at - z0)
    last = h1 - _cap(ball[piece + 1], at - z1)
    dh, dz = h1 - h0, z1 - z0
    rising = dz > _FLAT
    safe = np.where(rising, dz, 1.0)
    share = np.clip((at - z0) / safe, 0.0, 1.0)
    length = np.hypot(dh, safe)
    width = ball[piece] + share * (ball[piece + 1] - ball[piece])
    along = h0 + ((at - z0) * dh - width * length) / safe
    foot = ((along - h0) * dh + (at - z0) * safe) / length**2
    along = np.where(rising & (foot >= 0) & (foot <= 1), along, np.inf)
    reach, best = _least(np.minimum(np.minimum(first, last), along), row, heights.shape[1])
    u = np.arange(len(heights))[:, None]
    first, last, along, foot = first[u, best], last[u, best], along[u, best], foot[u, best]
    share = np.where(along <= np.minimum(first, last), foot, np.where(first <= last, 0.0, 1.0))
    start = piece[best]
    return Touch(
        reach,
        chain.distance[u, start] + share * (chain.distance[u, start + 1] - chain.distance[u, start]),
        z[start] + share * (z[start + 1] - z[start]),
        chain.first + start + share,
    )


def downwards(chain: Chain, distances: Array) -> Touch:
    """The lowest a ball's middle can sink over an underside, at distances (u, n) in mm."""
    z, ball = chain.height, chain.ball
    h0, h1 = chain.distance[:, None, :-1], chain.distance[:, None, 1:]
    at = distances[..., None]
    first = z[:-1] + _cap(ball[:-1], at - h0)
    last = z[1:] + _cap(ball[1:], at - h1)
    dh, dz = h1 - h0, (z[1:] - z[:-1])[None, None]
    outward = dh > _FLAT
    safe = np.where(outward, dh, 1.0)
    length = np.hypot(safe, dz)
    along = z[:-1] + ((at - h0) * dz + ball[:-1] * length) / safe
    foot = ((at - h0) * safe + (along - z[:-1]) * dz) / length**2
    along = np.where(outward & (foot >= 0) & (foot <= 1), along, -np.inf)
    highest = np.maximum(np.maximum(first, last), along)
    best = highest.argmax(axis=-1)
    first, last, along, foot = (_picked(values, best) for values in (first, last, along, foot))
    share = np.where(along >= np.maximum(first, last), foot, np.where(first >= last, 0.0, 1.0))
    u = np.arange(len(distances))[:, None]
    return Touch(
        _picked(highest, best),
        chain.distance[u, best] + share * (chain.distance[u, best + 1] - chain.distance[u, best]),
        z[best] + share * (z[best + 1] - z[best]),
        chain.first + best + share,
    )


def _picked(values: Array, index: Indices) -> Array:
    return np.asarray(np.take_along_axis(values, index[..., None], axis=-1)[..., 0])


def _cap(ball: Array, off: Array) -> Array:
    """How far a ball reaches sideways at a distance off its middle; −∞ where it does not reach."""
    inside = ball**2 - off**2
    return np.where(inside >= 0, np.sqrt(np.maximum(inside, 0.0)), -np.inf)


def _least(values: Array, row: Indices, rows: int) -> tuple[Array, Indices]:
    """The least of each row's values, (u, rows), and its index among all.

    row : (p,) int, ascending: which row each value belongs to
    """
    starts = np.searchsorted(row, np.arange(rows))
    least = np.minimum.reduceat(values, starts, axis=1)
    index = np.where(values <= least[:, row], np.arange(values.shape[1]), values.shape[1])
    return least, np.minimum.reduceat(index, starts, axis=1)
