"""What is wrong with where things are: lights and cameras inside of others, things beyond the sweep."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from scipy.spatial import ConvexHull

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import points_moved
from giftwrap.core.model import Frame, Light, LightTable, PhotoSet, Sun, Sweep, SweepBehind
from giftwrap.core.model.arrangement import ClearLights, WidenSweep
from giftwrap.core.stage.camera import View
from giftwrap.core.stage.fitting import LONGEST, fitted_set
from giftwrap.core.stage.lights import hung
from giftwrap.core.stage.resting import is_in
from giftwrap.core.stage.standing import Placed, extent_of, line_up, outline_of, room_of
from giftwrap.core.things.thing import Thing

SUNK = 1.0
"""Mm that something may be beyond the sweep's edge, or in its curve."""
ROOM = 1.05
"""A sweep that was widened is so many times as large as what lies on it."""
FURTHER = 1.08
"""Lights are moved out by steps of this factor until they hang free."""


@dataclass(frozen=True)
class Fault:
    """Something wrong with where something is.

    what : a light or the camera is inside of a thing, or a thing beyond the sweep or in its curve
    thing : its id; light : its number on the set
    by : mm it is beyond
    """

    what: Literal["light", "camera", "beyond", "curve"]
    thing: str
    light: int | None = None
    by: float = 0.0


def faults_of(photo_set: PhotoSet, view: View, placed: Sequence[Placed]) -> Iterator[Fault]:
    """What is wrong with a set, arranged as it is to be (`fitting.fitted_set`), and where it is seen from."""
    middle = extent_of(placed).middle
    for number, light in enumerate(photo_set.lights):
        if met := _held_by(light, middle, placed):
            yield Fault("light", met.id, light=number)
    eye = np.array([view.position])
    if view.width is None and (met := _holding(eye, placed)):
        yield Fault("camera", met.id)
    for one in placed:
        if fault := _off_the_sweep(photo_set, one):
            yield fault


def clear_lights(frame: Frame, how: ClearLights, things: Mapping[str, Thing]) -> PhotoSet:
    """Lights that hang inside of something, moved away from what they are aimed at until they do not.

    Raises PackError where there is no such place.
    """
    placed = line_up(frame, things)
    arranged = _by_hand(frame.photo_set, placed)
    middle = extent_of(placed).middle
    lights = [_cleared(light, middle, placed) for light in arranged.lights]
    return arranged.model_copy(update={"lights": lights})


def _cleared(light: Light, middle: tuple[float, float, float], placed: Sequence[Placed]) -> Light:
    own: Any = light
    while _held_by(own, middle, placed):
        if isinstance(own, LightTable) or own.distance * FURTHER > LONGEST:
            raise PackError(
                f"“{own.name}” is inside of something further out as well: hang it elsewhere.",
                "lights",
            )
        own = own.model_copy(update={"distance": own.distance * FURTHER})
    if own is not light:
        own = own.model_copy(update={"distance": math.ceil(10 * own.distance) / 10})
    cleared: Light = own
    return cleared


def widen_sweep(frame: Frame, how: WidenSweep, things: Mapping[str, Thing]) -> PhotoSet:
    """A sweep as large as what stands there needs.

    Raises PackError when none is so large.
    """
    placed = line_up(frame, things)
    arranged = _by_hand(frame.photo_set, placed)
    sweep, room = arranged.sweep, room_of(placed)
    sizes = {
        "width": max(sweep.width, 2 * ROOM * max(abs(room.low[0]), abs(room.high[0]))),
        "front": max(sweep.front, -ROOM * room.low[1]),
        "back": max(sweep.back, ROOM * room.high[1] + sweep.curve_radius),
    }
    if max(sizes.values()) > LONGEST:
        raise PackError(
            f"A sweep is at most {LONGEST:g} mm each way, and what stands here needs "
            f"{max(sizes.values()):.0f} mm: make it smaller, or move it nearer.",
            "sweep",
        )
    return arranged.model_copy(update={"sweep": sweep.model_copy(update=sizes)})


def _by_hand(photo_set: PhotoSet, placed: Sequence[Placed]) -> PhotoSet:
    """A set as it has grown with what stands, that keeps its size from now on."""
    return fitted_set(photo_set, extent_of(placed)).model_copy(update={"scaled_for": None})


def _held_by(light: Light, middle: tuple[float, float, float], placed: Sequence[Placed]) -> Placed | None:
    if not light.on or isinstance(light, Sun):
        return None
    place = hung(light, middle)
    across, up = np.array(place.across), np.array(place.up)
    steps = [(x, y) for x in (-1, 0, 1) for y in (-1, 0, 1)]
    return _holding(np.array([place.centre + x * across + y * up for x, y in steps]), placed)


def _holding(points: Array, placed: Iterable[Placed]) -> Placed | None:
    """The first thing that holds one of some points (n, 3), mm: in what it is made of, packs within."""
    for one in placed:
        outline = outline_of(one)
        near = points[((points > outline.low) & (points < outline.high)).all(axis=1)]
        if len(near) and (any(is_in(one, place) for place in near) if one.is_prop else _in_hull(one, near)):
            return one
    return None


def _in_hull(one: Placed, points: Array) -> bool:
    sides = ConvexHull(points_moved(one.thing.hull, one.pose)).equations
    return bool((points @ sides[:, :3].T + sides[:, 3] < 0).all(axis=1).any())


def _off_the_sweep(photo_set: PhotoSet, one: Placed) -> Fault | None:
    sweep = photo_set.sweep
    outline, half = outline_of(one), sweep.width / 2
    low, high = outline.low, outline.high
    past = max(-low[0] - half, high[0] - half, -low[1] - sweep.front, high[1] - sweep.back)
    if past > SUNK:
        return Fault("beyond", one.id, by=round(float(past), 1))
    if isinstance(photo_set.behind, SweepBehind) and _in_curve(sweep, one):
        return Fault("curve", one.id)
    return None


def _in_curve(sweep: Sweep, one: Placed) -> bool:
    radius = min(sweep.curve_radius, 0.9 * sweep.back, 0.9 * sweep.height)
    if outline_of(one).high[1] <= sweep.back - radius:
        return False
    points = points_moved(one.thing.hull, one.pose)
    along = np.clip(points[:, 1] - (sweep.back - radius), 0, radius)
    curve = radius - np.sqrt(radius**2 - along**2)
    return bool((curve - np.clip(points[:, 2], 0, None) > SUNK).any())
