"""The set as it is drawn: where lights and camera are, what stands, and the line of the sweep."""

from __future__ import annotations

import math
from dataclasses import dataclass

from giftwrap.core.model import Camera, PhotoSet, Sweep
from giftwrap.core.stage.camera import view_of
from giftwrap.core.stage.lights import softbox_position
from giftwrap.core.stage.sweep import sweep_path
from giftwrap.core.things.thing import Extent

Point = tuple[float, float, float]


@dataclass(frozen=True)
class Plan:
    """Places in mm, x to the right, y back, z up.

    middle : what lights are aimed at
    lights : the middle of each, in the set's order, those that are off too
    camera, target : where it stands and what it looks at
    sweep : (y, z) along the sweep, from the top of its wall to its front edge
    """

    middle: Point
    lights: tuple[Point, ...]
    camera: Point
    target: Point
    sweep: tuple[tuple[float, float], ...]


def plan_of(photo_set: PhotoSet, camera: Camera, extent: Extent) -> Plan:
    """Draw a set around what stands on it."""
    middle = extent.middle
    view = view_of(camera, 1.0)
    lights = tuple(softbox_position(light, middle) for light in photo_set.lights)
    return Plan(middle, lights, view.position, view.target, _line(photo_set.sweep))


def bearing(x: float, y: float, around: Point) -> tuple[float, float]:
    """Azimuth in degrees and distance in mm on the floor of a place as seen from another."""
    across, back = x - around[0], y - around[1]
    return math.degrees(math.atan2(across, -back)), math.hypot(across, back)


def _line(sweep: Sweep) -> tuple[tuple[float, float], ...]:
    return tuple((float(y), float(z)) for y, z in sweep_path(sweep).points)
