"""Zones: the named height bands of a body."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array
from giftwrap.core.model import Body
from giftwrap.core.model.body import ZoneName

ZONES: tuple[ZoneName, ...] = ("base", "heel", "body", "shoulder", "neck", "finish")
NARROWING = 0.97
"""The body ends where the radius falls for good below this share of its largest."""
NECK_SHARE = 1.15
"""The neck begins where the radius stays within this share of the narrowest above."""
RAMP = 2.0
"""Half the length in mm over which one zone's wall thickness passes into the next one's."""


@dataclass(frozen=True)
class Zone:
    """A height band, mm above the table. It is empty where the shape has no such zone."""

    name: ZoneName
    bottom: float
    top: float


def zones_of(body: Body, points: Array, heel_top: float, finish_bottom: float) -> tuple[Zone, ...]:
    """The zones of a body, from where the shape says or from where the person did.

    points : (n, 2) float, the outer path from the base's edge up to the rim, mm
    heel_top : height where the rounding of the base's edge ends
    finish_bottom : height where the finish begins; the rim without one

    Raises PackError when the given tops are not in order.
    """
    rim = float(points[-1, 1])
    below = points[points[:, 1] <= finish_bottom + 1e-6]
    radius, height = below[:, 0], below[:, 1]
    wide = np.flatnonzero(radius >= NARROWING * radius.max())[-1]
    body_top = float(height[wide]) if radius[-1] < NARROWING * radius.max() else finish_bottom
    least_above = np.minimum.accumulate(radius[::-1])[::-1]
    most_above = np.maximum.accumulate(radius[::-1])[::-1]
    straight = np.flatnonzero((most_above <= NECK_SHARE * least_above) & (height >= body_top))
    neck_bottom = float(height[straight[0]]) if len(straight) else finish_bottom
    tops: dict[ZoneName, float] = {
        "base": 0.0,
        "heel": min(heel_top, body_top),
        "body": body_top,
        "shoulder": max(neck_bottom, body_top) if body_top < finish_bottom else finish_bottom,
        "neck": finish_bottom,
        "finish": rim,
    }
    tops |= {name: min(top, rim) for name, top in body.zone_tops.items()}
    tops["finish"] = rim
    zones, bottom = [], 0.0
    for name in ZONES:
        if tops[name] < bottom - 1e-6:
            raise PackError(
                f"The {name} would end at {tops[name]:.1f} mm, below where it begins ({bottom:.1f} mm): "
                "raise it or lower the zone under it.",
                f"body.zone_tops.{name}",
            )
        zones.append(Zone(name, bottom, max(tops[name], bottom)))
        bottom = zones[-1].top
    return tuple(zones)


def wall_thickness(body: Body, zones: tuple[Zone, ...], heights: Array) -> Array:
    """Wall thickness at heights, passing smoothly from zone to zone.

    heights : (n,) float, mm
    returns : (n,) float, mm
    """
    at, thick = _thickness_marks(body, zones)
    return np.interp(heights, at, thick)


def ramp_heights(body: Body, zones: tuple[Zone, ...]) -> Array:
    """Heights in mm between which the wall's thickness changes; none where it is even."""
    at, thick = _thickness_marks(body, zones)
    changes = np.flatnonzero(np.abs(np.diff(thick)) > 1e-9)
    steps = [np.linspace(at[i], at[i + 1], 9) for i in changes]
    return np.unique(np.concatenate(steps)) if steps else np.empty(0)


def _thickness_marks(body: Body, zones: tuple[Zone, ...]) -> tuple[Array, Array]:
    marks: list[tuple[float, float]] = []
    for zone in zones:
        if zone.top - zone.bottom < 1e-6:
            continue
        thickness = body.zone_walls.get(zone.name, body.wall_thickness)
        ramp = min(RAMP, (zone.top - zone.bottom) / 2)
        marks += [(zone.bottom + ramp, thickness), (zone.top - ramp, thickness)]
    at, thick = np.array(marks).T
    return at, thick
