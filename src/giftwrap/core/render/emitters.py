"""Emitters as rows of a table: each has a kind, and says where a ray meets it and how to aim at it.

A new kind of light is a number in `EmitterKind`, a row, and a branch in the functions that are
asked; nothing that asks them changes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import IntEnum
from itertools import pairwise

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Array4f, Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.mesh.path import Array
from giftwrap.core.render import optics_math as om
from giftwrap.core.scene.scene import Lamp

FAR = 1e9
QUADS = 5
"""Rows of four numbers for each emitter."""
FEW = ((-1, -1), (1, -1), (-1, 1), (1, 1), (0, 0))
"""Places by which a lamp is chosen: its corners and its middle, in half its width and height."""
COLUMNS, ROWS = 3, 5
MANY = tuple((x, y) for y in np.linspace(-1, 1, ROWS).tolist() for x in np.linspace(-1, 1, COLUMNS).tolist())
"""Places by which a place on it is chosen, row by row; `rise` is its longer side."""
_ACROSS, _UP = ([0.5 / (n - 1), *[1 / (n - 1)] * (n - 2), 0.5 / (n - 1)] for n in (COLUMNS, ROWS))
"""What each column and each row counts for in the mean of what is straight between them."""
LEAST_FACING = 0.02


class EmitterKind(IntEnum):
    """What an emitter is; `NONE` fills slots that nothing hangs in."""

    NONE = 0
    RECTANGLE = 1


@dataclass
class Emitter:
    """A row of the table.

    centre, normal : where it hangs and which way it shines
    span, rise : from its centre to the middle of a long and of a short edge, mm; `rise` is the longer
    area : mm²
    radiance, brightness : of its lit side, and the luminance of that
    """

    kind: UInt32
    centre: Array3f
    span: Array3f
    rise: Array3f
    normal: Array3f
    area: Float
    radiance: Array3f
    brightness: Float

    @classmethod
    def of(cls, quads: Sequence[Array4f]) -> Emitter:
        """An emitter from its row, four numbers each."""
        a, b, c, d, e = quads
        return cls(
            kind=UInt32(d.w),
            centre=Array3f(a.x, a.y, a.z),
            span=Array3f(b.x, b.y, b.z),
            rise=Array3f(c.x, c.y, c.z),
            normal=Array3f(d.x, d.y, d.z),
            area=a.w,
            radiance=Array3f(e.x, e.y, e.z),
            brightness=b.w,
        )


@dataclass
class Crossing:
    """Where a ray meets an emitter: how far along in mm, whether it does, and at what cosine to its
    lit side (negative when it meets that)."""

    distance: Float
    inside: Bool
    cosine: Float


def row_of(lamp: Lamp | None) -> NDArray[np.float32]:
    """(QUADS, 4) a lamp's numbers; without a lamp, one that nothing meets."""
    if lamp is None:
        return np.array(
            [[0, 0, 0, 1e-12], [0] * 4, [0] * 4, [0, 0, -1, EmitterKind.NONE], [0] * 4], np.float32
        )
    centre = np.array(lamp.position, dtype=float)
    normal = np.array(lamp.target, dtype=float) - centre
    normal /= np.linalg.norm(normal)
    across = np.cross([0.0, 0.0, 1.0], normal)
    if np.linalg.norm(across) < 1e-6:
        across = np.array([1.0, 0.0, 0.0])
    across /= np.linalg.norm(across)
    edges = (across * lamp.width / 2, np.cross(normal, across) * lamp.height / 2)
    span, rise = sorted(edges, key=lambda edge: float(np.linalg.norm(edge)))
    area, light = lamp.width * lamp.height, lamp.radiance
    quads = ([*centre, area], [*span, light], [*rise, 0], [*normal, EmitterKind.RECTANGLE], [*[light] * 3, 0])
    return np.array(quads, np.float32)


def crossing(lamp: Emitter, origin: Array3f, direction: Array3f) -> Crossing:
    """Where a ray meets it."""
    cosine = dr.dot(direction, lamp.normal)
    at = dr.dot(lamp.centre - origin, lamp.normal) / cosine
    place = origin + at * direction - lamp.centre
    inside = dr.abs(dr.dot(place, lamp.span)) < dr.squared_norm(lamp.span)
    inside &= dr.abs(dr.dot(place, lamp.rise)) < dr.squared_norm(lamp.rise)
    return Crossing(at, inside & (at > 0), cosine)


def importance(lamp: Emitter, shares: Sequence[Float]) -> Float:
    """Roughly what a lamp can bring to a point; 0 only where it brings nothing.

    shares : of its corners and its middle, as `shares_of` gives them for `FEW`

    By the rule for squares that is exact for cubic polynomials (Abramowitz and Stegun, 25.4.62).
    """
    *corners, middle = shares
    mean = sum(corners, Float(0)) / 12 + middle * (2 / 3)
    return lamp.brightness * dr.minimum(lamp.area * mean, 2 * om.PI)


def shares_of(
    lamp: Emitter, origin: Array3f, normal: Array3f, places: Sequence[tuple[float, float]]
) -> list[Float]:
    """What a lamp of brightness 1 brings to a point of a surface, for each mm² at some of its places.

    places : in half its width and half its height from its middle

    The cosines at both ends over the squared distance. A little is always added to the cosine at the
    surface, as not every look goes by it; all are 0 behind the lamp.
    """
    way = lamp.centre - origin
    height = dr.maximum(-dr.dot(way, lamp.normal), 0)
    squared, across, up = dr.squared_norm(way), 2 * dr.dot(way, lamp.span), 2 * dr.dot(way, lamp.rise)
    wide, high = dr.squared_norm(lamp.span), dr.squared_norm(lamp.rise)
    facing, facing_across, facing_up = (dr.dot(v, normal) for v in (way, lamp.span, lamp.rise))
    found = []
    for x, y in places:
        squared_here = squared + x * across + y * up + x * x * wide + y * y * high
        inverse = dr.rsqrt(dr.maximum(squared_here, 1e-6))
        cosine = dr.maximum(facing + x * facing_across + y * facing_up, 0) * inverse + LEAST_FACING
        found.append(cosine * height * inverse * inverse * inverse)
    return found


def point_on(shares: Sequence[Float], sample: Array2f) -> Array2f:
    """A place on a lamp, each coordinate from 0 to 1, chosen as the shares of `MANY` say.

    Its density is bilinear between them (Pharr, Jakob and Humphreys, Physically Based Rendering, 4th
    edition, A.5).
    """
    rows = [_sum(_ACROSS, shares[i : i + COLUMNS]) for i in range(0, len(shares), COLUMNS)]
    up = _along(sample.y, rows)
    return Array2f(_along(sample.x, _across_at(shares, up)), up)


def point_density(shares: Sequence[Float], place: Array2f) -> Float:
    """Density over the unit square with which `point_on` chooses a place."""
    weights = [up * across for up in _UP for across in _ACROSS]
    mean = _sum(weights, shares)
    return _between(place.x, _across_at(shares, place.y)) / dr.maximum(mean, 1e-30)


def way_to(lamp: Emitter, origin: Array3f, place: Array2f) -> Array3f:
    """From a point in mm to a place of a lamp's unit square."""
    return lamp.centre + lamp.span * (2 * place.x - 1) + lamp.rise * (2 * place.y - 1) - origin


def place_of(lamp: Emitter, point: Array3f) -> Array2f:
    """The place of a lamp's unit square that a point of it in mm is."""
    own = point - lamp.centre
    x = dr.dot(own, lamp.span) / dr.maximum(dr.squared_norm(lamp.span), 1e-20)
    y = dr.dot(own, lamp.rise) / dr.maximum(dr.squared_norm(lamp.rise), 1e-20)
    return Array2f(0.5 * x + 0.5, 0.5 * y + 0.5)


def per_solid_angle(lamp: Emitter, distance: Float, cosine: Float) -> Float:
    """What a density over a lamp's unit square is times as much over directions, from so many mm away."""
    return distance * distance / dr.maximum(cosine * lamp.area, 1e-20)


def _sum(weights: Sequence[float], values: Sequence[Float]) -> Float:
    return sum((weight * value for weight, value in zip(weights, values, strict=True)), Float(0))


def _across_at(shares: Sequence[Float], up: Float) -> list[Float]:
    """The shares across a lamp at a height of it."""
    return [_between(up, shares[column::COLUMNS]) for column in range(COLUMNS)]


def _between(place: Float, values: Sequence[Float]) -> Float:
    """What is straight from each of some values to the next, at a place from 0 to 1."""
    last = len(values) - 2
    at = place * (last + 1)
    low, high, begin = values[0], values[1], Float(0)
    for number in range(1, last + 1):
        beyond = at >= number
        low, high = dr.select(beyond, values[number], low), dr.select(beyond, values[number + 1], high)
        begin = dr.select(beyond, float(number), begin)
    return dr.lerp(low, high, at - begin)


def _along(sample: Float, values: Sequence[Float]) -> Float:
    """A place from 0 to 1, as dense as what is straight from each of some values to the next."""
    pairs = list(pairwise(values))
    left = sample * sum((low + high for low, high in pairs), Float(0))
    (low, high), begin, rest, past = pairs[0], Float(0), left, Float(0)
    for number, ((a, b), (c, d)) in enumerate(pairwise(pairs), start=1):
        past = past + a + b
        beyond = left >= past
        low, high = dr.select(beyond, c, low), dr.select(beyond, d, high)
        begin, rest = dr.select(beyond, float(number), begin), dr.select(beyond, left - past, rest)
    share = dr.clip(rest / dr.maximum(low + high, 1e-30), 0, 1)
    root = low + dr.sqrt(dr.lerp(low * low, high * high, share))
    within = dr.select(root > 0, dr.minimum(share * (low + high) / root, 1.0), share)
    return (begin + within) / len(pairs)


def opaque3(values: Array) -> Array3f:
    """Three numbers that kernels read as data."""
    return Array3f(*(dr.opaque(Float, float(v)) for v in values))
