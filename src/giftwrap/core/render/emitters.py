"""Emitters as rows of a table: each has a kind, and says where a ray meets it and how to aim at it.

A new kind of light is a number in `EmitterKind`, a row, and a branch in the functions that are
asked; nothing that asks them changes.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Bool, Float, UInt32

from giftwrap.core.mesh.path import Array
from giftwrap.core.render import optics_math as om
from giftwrap.core.scene.scene import Lamp

FAR = 1e9


class EmitterKind(IntEnum):
    """What an emitter is; `NONE` fills slots that nothing hangs in."""

    NONE = 0
    RECTANGLE = 1


@dataclass
class Emitter:
    """A row of the table.

    centre, normal : where it hangs and which way it shines
    span, rise : from its centre to the middle of its right and upper edges, mm
    over_span, over_rise : the same directions, 1 over those lengths long
    area : mm²
    radiance, brightness : of its lit side, and the luminance of that
    """

    kind: UInt32
    centre: Array3f
    span: Array3f
    rise: Array3f
    over_span: Array3f
    over_rise: Array3f
    normal: Array3f
    area: Float
    radiance: Array3f
    brightness: Float


@dataclass
class Crossing:
    """Where a ray meets an emitter: how far along in mm, whether it does, and at what cosine to its
    lit side (negative when it meets that)."""

    distance: Float
    inside: Bool
    cosine: Float


def emitter_of(lamp: Lamp | None) -> Emitter:
    """A lamp's row, every number a value of its own that kernels read as data; without a lamp, one that
    nothing meets."""
    return _nothing() if lamp is None else _rectangle(lamp)


def either(first: Bool, one: Emitter, other: Emitter) -> Emitter:
    """One emitter or another for each ray."""
    rows = zip(vars(one).values(), vars(other).values(), strict=True)
    return Emitter(*(dr.select(first, a, b) for a, b in rows))


def crossing(lamp: Emitter, origin: Array3f, direction: Array3f) -> Crossing:
    """Where a ray meets it."""
    cosine = dr.dot(direction, lamp.normal)
    at = dr.dot(lamp.centre - origin, lamp.normal) / cosine
    place = origin + at * direction - lamp.centre
    inside = (dr.abs(dr.dot(place, lamp.over_span)) <= 1) & (dr.abs(dr.dot(place, lamp.over_rise)) <= 1)
    return Crossing(at, inside & (at > 0), cosine)


def importance(lamp: Emitter, origin: Array3f, normal: Array3f) -> Float:
    """Roughly what it can bring to a point; 0 only where it brings nothing."""
    to_lamp = lamp.centre - origin
    distance2 = dr.squared_norm(to_lamp)
    inverse = dr.rsqrt(distance2)
    cosine = -dr.dot(to_lamp, lamp.normal) * inverse
    facing = dr.maximum(dr.dot(to_lamp, normal) * inverse, 0)
    solid_angle = dr.minimum(lamp.area * cosine / distance2, 2 * om.PI)
    return dr.select(cosine > 0, lamp.brightness * solid_angle * (0.2 + facing), 0.0)


def point_on(lamp: Emitter, sample: Array2f) -> Array3f:
    """A point of its lit side; all are alike likely."""
    return lamp.centre + lamp.span * (2 * sample.x - 1) + lamp.rise * (2 * sample.y - 1)


def aim_density(lamp: Emitter, distance: Float, cosine: Float) -> Float:
    """Density per solid angle with which `point_on` is chosen from a place so many mm away."""
    return distance * distance / dr.maximum(cosine * lamp.area, 1e-20)


def _nothing() -> Emitter:
    away = np.full(3, FAR)
    edges = (np.zeros(3), np.zeros(3), away, away)
    return _row(EmitterKind.NONE, np.array([0.0, 0.0, -FAR]), np.array([0.0, 0.0, -1.0]), edges, 0.0)


def _rectangle(lamp: Lamp) -> Emitter:
    centre = np.array(lamp.position, dtype=float)
    normal = np.array(lamp.target, dtype=float) - centre
    normal /= np.linalg.norm(normal)
    across = np.cross([0.0, 0.0, 1.0], normal)
    if np.linalg.norm(across) < 1e-6:
        across = np.array([1.0, 0.0, 0.0])
    across /= np.linalg.norm(across)
    up, half_width, half_height = np.cross(normal, across), lamp.width / 2, lamp.height / 2
    edges = (across * half_width, up * half_height, across / half_width, up / half_height)
    return _row(EmitterKind.RECTANGLE, centre, normal, edges, lamp.radiance)


def _row(
    kind: EmitterKind, centre: Array, normal: Array, edges: tuple[Array, ...], radiance: float
) -> Emitter:
    """A row; `edges` are span, rise, and what is 1 over their lengths."""
    area = max(4 * float(np.linalg.norm(np.cross(edges[0], edges[1]))), 1e-12)
    span, rise, over_span, over_rise = map(opaque3, edges)
    return Emitter(
        kind=dr.opaque(UInt32, int(kind)),
        centre=opaque3(centre),
        span=span,
        rise=rise,
        over_span=over_span,
        over_rise=over_rise,
        normal=opaque3(normal),
        area=dr.opaque(Float, area),
        radiance=opaque3(np.full(3, radiance)),
        brightness=dr.opaque(Float, radiance),
    )


def opaque3(values: Array) -> Array3f:
    """Three numbers that kernels read as data."""
    return Array3f(*(dr.opaque(Float, float(v)) for v in values))
