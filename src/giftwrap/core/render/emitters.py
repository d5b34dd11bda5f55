"""Emitters as rows of a table: each has a kind, and says where a ray meets it and how to aim at it.

A new kind of light is a number in `EmitterKind`, a row, and a branch in the functions that are
asked; nothing that asks them changes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import IntEnum
from itertools import pairwise

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Array4f, Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.mesh.path import Array
from giftwrap.core.render import optics_math as om
from giftwrap.core.scene.lamp import Lamp

FAR = 1e9
QUADS = 6
"""Rows of four numbers for each emitter."""
FEW = ((-1, -1), (1, -1), (-1, 1), (1, 1), (0, 0))
"""Places by which a lamp is chosen: its corners and its middle, in half its width and height."""
COLUMNS, ROWS = 3, 5
MANY = tuple((x, y) for y in np.linspace(-1, 1, ROWS).tolist() for x in np.linspace(-1, 1, COLUMNS).tolist())
"""Places by which a place on it is chosen, row by row; `rise` is its longer side."""
_ACROSS, _UP = ([0.5 / (n - 1), *[1 / (n - 1)] * (n - 2), 0.5 / (n - 1)] for n in (COLUMNS, ROWS))
"""What each column and each row counts for in the mean of what is straight between them."""
LEAST_FACING = 0.02
LEAST_SHINING = 0.05
"""Of the mean of a face, that places of it are chosen by at least."""
FACE_HEAD = 4
"""Rows with which a face begins."""
LEAST_BEAM = 0.02
"""Of what is chosen for a lamp's beam: only its middle is asked."""


class EmitterKind(IntEnum):
    """What an emitter is; `NONE` fills slots that nothing hangs in."""

    NONE = 0
    RECTANGLE = 1
    DISC = 2
    BALL = 3


@dataclass
class Emitter:
    """A row of the table.

    centre, normal : where it hangs and which way it shines
    span, rise : from its centre to the middle of a long and of a short edge, mm; `rise` is the longer
    area : mm²
    radiance, brightness : where it is brightest, and the luminance of all of it on average
    beam : cosines of the angles from its axis within which it is as bright, and from which it is dark
    face, columns, rows : where its face is among those of all lamps, and its texels; 0 where it is even
    """

    kind: UInt32
    centre: Array3f
    span: Array3f
    rise: Array3f
    normal: Array3f
    area: Float
    radiance: Array3f
    brightness: Float
    beam: Array2f
    face: UInt32
    columns: Float
    rows: Float

    @classmethod
    def of(cls, quads: Sequence[Array4f]) -> Emitter:
        """An emitter from its row, four numbers each."""
        a, b, c, d, e, f = quads
        return cls(
            kind=UInt32(d.w),
            centre=Array3f(a.x, a.y, a.z),
            span=Array3f(b.x, b.y, b.z),
            rise=Array3f(c.x, c.y, c.z),
            normal=Array3f(d.x, d.y, d.z),
            area=a.w,
            radiance=Array3f(e.x, e.y, e.z),
            brightness=b.w,
            beam=Array2f(f.x, f.y),
            face=UInt32(e.w),
            columns=f.z,
            rows=f.w,
        )

    @property
    def is_round(self) -> Bool:
        """Whether what is seen of it is a disc."""
        return self.kind >= int(EmitterKind.DISC)

    def seen_from(self, origin: Array3f) -> Emitter:
        """As it is seen from a point in mm: a ball is the disc before it that hides it."""
        ball = self.kind == int(EmitterKind.BALL)
        way = self.centre - origin
        squared, radius2 = dr.squared_norm(way), dr.squared_norm(self.span)
        share = dr.minimum(radius2 / dr.maximum(squared, 1e-12), 0.9999)
        towards = way * dr.rsqrt(dr.maximum(squared, 1e-12))
        radius = dr.sqrt(radius2 * (1 - share))
        across, up = om.frame_around(towards)
        return replace(
            self,
            centre=dr.select(ball, self.centre - way * share, self.centre),
            span=dr.select(ball, across * radius, self.span),
            rise=dr.select(ball, up * radius, self.rise),
            normal=dr.select(ball, -towards, self.normal),
            area=dr.select(ball, self.area * (1 - share), self.area),
        )


@dataclass
class Crossing:
    """Where a ray meets an emitter: how far along in mm, whether it does, and at what cosine to its
    lit side (negative when it meets that)."""

    distance: Float
    inside: Bool
    cosine: Float


def row_of(lamp: Lamp | None, face: int = 0) -> NDArray[np.float32]:
    """(QUADS, 4) a lamp's numbers; without a lamp, one that nothing meets.

    face : where its face begins among those of all lamps
    """
    if lamp is None:
        return np.array(
            [[0, 0, 0, 1e-12], [0] * 4, [0] * 4, [0, 0, -1, 0], [0] * 4, [-1, -2, 0, 0]], np.float32
        )
    span, rise = lying(lamp)
    whole = np.ones(3) if lamp.face is None else lamp.face.mean(axis=(0, 1))
    mean = float(lamp.radiance * whole @ LUMINANCE)
    rows, columns = (0, 0) if lamp.face is None else texels_of(lamp).shape[:2]
    quads = (
        *([*lamp.centre, lamp.area], [*span, mean], [*rise, 0]),
        [*lamp.normal, EmitterKind[lamp.shape.upper()]],
        *([*lamp.radiance, face], [*lamp.beam, columns, rows]),
    )
    return np.array(quads, np.float32)


def lying(lamp: Lamp) -> tuple[Array, Array]:
    """Its `span` and its `rise`, mm."""
    across, up = np.array(lamp.across), np.array(lamp.up)
    return (up, across) if _lies(lamp) else (across, up)


def _lies(lamp: Lamp) -> bool:
    """Whether it is wider than high."""
    return float(np.linalg.norm(lamp.across)) > float(np.linalg.norm(lamp.up))


def texels_of(lamp: Lamp) -> NDArray[np.float32]:
    """(rows, columns, 3) its face, rows along its `rise` and columns along its `span`."""
    assert lamp.face is not None
    upwards = lamp.face[::-1]
    return upwards.transpose(1, 0, 2) if _lies(lamp) else upwards


def face_rows(lamps: Sequence[Lamp]) -> tuple[list[int], NDArray[np.float32]]:
    """Where each lamp's face begins in rows of four numbers, 0 for even ones; and the rows of all faces.

    A face begins with what it has about each of the places in `MANY`, over its mean, and goes on with its
    texels.
    """
    begins, rows = [], [np.zeros((2, 4), np.float32)]
    for lamp in lamps:
        begins.append(sum(map(len, rows)) if lamp.face is not None else 0)
        if lamp.face is not None:
            texels = texels_of(lamp)
            about = np.zeros(4 * FACE_HEAD, np.float32)
            about[: len(MANY)] = _about_places(texels @ LUMINANCE.astype(float))
            colours = np.concatenate([texels, np.zeros_like(texels[..., :1])], axis=2)
            rows += [about.reshape(-1, 4), colours.reshape(-1, 4)]
    return begins, np.concatenate(rows)


def _about_places(bright: Array) -> Array:
    """(MANY,) the mean about each place over that of all; nowhere none."""
    rows, columns = (_halfway(count, size) for count, size in zip((ROWS, COLUMNS), bright.shape, strict=True))
    means = np.array([float(bright[up, across].mean()) for up in rows for across in columns])
    return np.maximum(means / max(float(bright.mean()), 1e-9), LEAST_SHINING)


def _halfway(count: int, size: int) -> list[slice]:
    """The texels of a side about each of some places along it, from halfway to one neighbour to the other."""
    ends = np.clip((np.arange(count + 1) - 0.5) / (count - 1), 0, 1) * size
    return [slice(int(a), max(int(np.ceil(b)), int(a) + 1)) for a, b in pairwise(ends.tolist())]


def crossing(lamp: Emitter, origin: Array3f, direction: Array3f) -> Crossing:
    """Where a ray meets a rectangle."""
    cosine = dr.dot(direction, lamp.normal)
    at = dr.dot(lamp.centre - origin, lamp.normal) / cosine
    place = origin + at * direction - lamp.centre
    inside = dr.abs(dr.dot(place, lamp.span)) < dr.squared_norm(lamp.span)
    inside &= dr.abs(dr.dot(place, lamp.rise)) < dr.squared_norm(lamp.rise)
    return Crossing(at, inside & (at > 0), cosine)


def round_crossing(lamp: Emitter, origin: Array3f, direction: Array3f) -> Crossing:
    """Where a ray meets a disc or a ball, as `seen_from` the ray's origin has them."""
    cosine = dr.dot(direction, lamp.normal)
    at = dr.dot(lamp.centre - origin, lamp.normal) / cosine
    inside = dr.squared_norm(origin + at * direction - lamp.centre) < dr.squared_norm(lamp.span)
    return Crossing(at, inside & (at > 0), cosine)


def in_beam(lamp: Emitter, cosine: Float) -> Float:
    """Share of its radiance that it has towards an angle from its axis, by its cosine."""
    along = dr.clip((cosine - lamp.beam.y) / (lamp.beam.x - lamp.beam.y), 0, 1)
    return along * along * (3 - 2 * along)


def importance(lamp: Emitter, shares: Sequence[Float]) -> Float:
    """Roughly what a lamp can bring to a point; 0 only where it brings nothing.

    shares : of its corners and its middle, as `shares_of` gives them for `FEW`

    By the rule for squares that is exact for cubic polynomials (Abramowitz and Stegun, 25.4.62).
    """
    *corners, middle = shares
    mean = sum(corners, Float(0)) / 12 + middle * (2 / 3)
    return lamp.brightness * dr.minimum(lamp.area * mean, 2 * om.PI)


def round_importance(lamp: Emitter, origin: Array3f, shares: Sequence[Float]) -> Float:
    """As `importance`, by how much of its beam goes there; as far as its middle tells."""
    way = origin - lamp.centre
    aimed = in_beam(lamp, dr.dot(way, lamp.normal) * dr.rsqrt(dr.squared_norm(way)))
    return importance(lamp, shares) * dr.maximum(aimed, LEAST_BEAM)


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


def way_to_disc(lamp: Emitter, origin: Array3f, place: Array2f) -> Array3f:
    """From a point in mm to a place on a disc, by its squared radius and its turn from 0 to 1."""
    sine, cosine = dr.sincos(2 * om.PI * place.y)
    radius = dr.sqrt(place.x)
    return lamp.centre + lamp.span * (radius * cosine) + lamp.rise * (radius * sine) - origin


def place_of(lamp: Emitter, point: Array3f) -> Array2f:
    """The place of a lamp's unit square that a point of it in mm is."""
    own = point - lamp.centre
    x = dr.dot(own, lamp.span) / dr.maximum(dr.squared_norm(lamp.span), 1e-20)
    y = dr.dot(own, lamp.rise) / dr.maximum(dr.squared_norm(lamp.rise), 1e-20)
    return Array2f(0.5 * x + 0.5, 0.5 * y + 0.5)


def per_solid_angle(area: Float, distance: Float, cosine: Float) -> Float:
    """What a density over the unit square of a lamp of so many mm² is times as much over directions, from so
    many mm away."""
    return distance * distance / dr.maximum(cosine * area, 1e-20)


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
