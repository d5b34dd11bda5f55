"""Hanging lights: new ones, and where the picture shows them mirrored."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array
from giftwrap.core.model import (
    Ball,
    Card,
    Falloff,
    Frame,
    Light,
    LightTable,
    PhotoSet,
    Point,
    Softbox,
    Spot,
    Sun,
    WindowLight,
)
from giftwrap.core.model.arrangement import HangLight, Highlight, Rim
from giftwrap.core.model.document import told_apart
from giftwrap.core.model.light import MOST_LIGHTS
from giftwrap.core.stage.camera import ray_through
from giftwrap.core.stage.fitting import fitted_camera, fitted_set, reach_of, scaled_light
from giftwrap.core.stage.lights import Vector, hung
from giftwrap.core.stage.standing import Placed, extent_of, line_up
from giftwrap.core.stage.starting import ARRANGED_FOR
from giftwrap.core.stage.touching import first_touched
from giftwrap.core.things.thing import Thing

LEAST_FACING = 0.03
"""Cosine at which a surface is seen too much from the side to mirror anything that can be placed."""
OFF = 0.05
"""Rays leave a surface so many mm away from it."""
WELL_ON = 0.97
"""Of half a face, that what is mirrored keeps from its edge."""
NO_CROSSING = 1e-6
"""Of a way along a face, as which it is taken to lie in it."""
SMALLEST, LARGEST = 5.0, 10_000.0
"""mm: what a light can be made by its rim."""
ABOVE = 1.0
"""What hangs is at least so many mm above the floor."""

NEW: dict[str, Light] = {
    "softbox": Softbox(
        name="Softbox", width=300, height=420, azimuth=-45, elevation=40, distance=640, power_w=3.0
    ),
    "strip": Softbox(name="Strip", width=70, height=520, azimuth=80, elevation=10, distance=430, power_w=1.2),
    "spot": Spot(name="Spot", diameter=60, azimuth=-30, elevation=50, distance=700, power_w=1.5, beam=30),
    "ball": Ball(name="Ball", diameter=120, azimuth=60, elevation=35, distance=560, power_w=2.5),
    "sun": Sun(name="Sun", azimuth=-60, elevation=40, irradiance=2.5),
    "window": WindowLight(
        name="Window", width=420, height=600, azimuth=-70, elevation=25, distance=700, power_w=4.0, bar=24
    ),
    "table": LightTable(name="Light table", width=600, height=500, power_w=1.2),
    "card": Card(name="White card", width=200, height=320, azimuth=70, elevation=10, distance=260),
    "flag": Card(
        name="Black flag", width=160, height=320, azimuth=-90, elevation=10, distance=240, colour="#050505"
    ),
}
"""Lights as they are made, for something whose diagonal is `ARRANGED_FOR`."""
Aimed = Softbox | WindowLight | Spot | Ball | Card
"""Lights that hang somewhere."""


def with_light(frame: Frame, how: HangLight, things: Mapping[str, Thing]) -> PhotoSet:
    """A set with a light more, of the size of what stands there. Raises PackError when there are too many."""
    photo_set = frame.photo_set
    if len(photo_set.lights) >= MOST_LIGHTS:
        raise PackError(f"At most {MOST_LIGHTS} lights hang on a set: take one away first.", "lights")
    new = NEW[how.what]
    name = told_apart(new.name, {light.name for light in photo_set.lights})
    reach = photo_set.scaled_for or reach_of(extent_of(line_up(frame, things)))
    new = scaled_light(new, reach / ARRANGED_FOR)
    return photo_set.model_copy(update={"lights": [*photo_set.lights, new.model_copy(update={"name": name})]})


def with_highlight(frame: Frame, how: Highlight, things: Mapping[str, Thing]) -> PhotoSet:
    """A set with a light where the camera sees its middle mirrored at a place of the picture: by the law of
    reflection, as far from there as it was from what it was aimed at.

    Raises PackError, in words, when there is nothing to mirror it or no place that it could hang at.
    """
    seen = _seen(frame, how, things)
    placed, photo_set, light, way = seen.placed, seen.photo_set, seen.light, seen.way
    start = seen.place + OFF * seen.normal
    azimuth, elevation = _bearing(way)
    if isinstance(light, Sun):
        _refuse_what_is_in_the_way(placed, start, way, math.inf)
        if elevation <= 0:
            raise PackError("There the floor is mirrored, and no sun: point higher.", "y")
        changes: dict[str, Any] = {"azimuth": azimuth, "elevation": elevation}
    else:
        at = Point(**{axis: round(float(v), 3) for axis, v in zip("xyz", seen.place, strict=True)})
        changes = {"azimuth": azimuth, "elevation": elevation, "aim": at}
        up = _lifted(light.model_copy(update=changes))
        changes["aim"] = at.model_copy(update={"z": round(at.z + up, 3)})
        _refuse_behind_the_backdrop(light.model_copy(update=changes), photo_set)
        _refuse_what_is_in_the_way(placed, start, way, light.distance)
    return _changed(photo_set, how.light, changes)


def with_rim(frame: Frame, how: Rim, things: Mapping[str, Thing]) -> PhotoSet:
    """A set with a light whose face reaches to what is mirrored at a place of the picture, or is half as
    bright there: by the law of reflection. Its middle stays, and its power.

    Raises PackError, in words, when it has no rim or its plane is not mirrored there.
    """
    seen = _seen(frame, how, things)
    light, own = seen.light, hung(seen.light, seen.middle)
    if isinstance(light, Sun):
        raise PackError("A sun is as large as it is seen: say its diameter in degrees instead.", "light")
    centre, across, up = (np.array(v) for v in (own.centre, own.across, own.up))
    if isinstance(light, Ball):
        out = float(np.linalg.norm(np.cross(centre - seen.place, seen.way))) / (light.diameter / 2)
        shares = (out, 0.0)
    else:
        facing = np.cross(across, up)
        along = float(seen.way @ facing)
        far = float((centre - seen.place) @ facing) / along if abs(along) > NO_CROSSING else -1.0
        if far <= 0:
            raise PackError(
                f"There “{light.name}” is not mirrored however large it is: point nearer to it.", "x"
            )
        aside = seen.place + far * seen.way - centre
        shares = (abs(float(aside @ across / (across @ across))), abs(float(aside @ up / (up @ up))))
    return _changed(
        seen.photo_set, how.light, _softer(light, *shares) if how.soft else _wider(light, *shares)
    )


def _wider(light: Aimed, across: float, up: float) -> dict[str, Any]:
    """Sizes by which a light reaches so many times as far as it does, to the side on which that is more."""
    if isinstance(light, (Ball, Spot)):
        return {"diameter": _size(light.diameter * math.hypot(across, up))}
    if across >= up:
        return {"width": _size(light.width * across)}
    return {"height": _size(light.height * up)}


def _size(wanted: float) -> float:
    if wanted > LARGEST:
        raise PackError(f"To reach there it would have to be larger than {LARGEST / 1000:g} m.", "x")
    return round(max(wanted, SMALLEST), 2)


def _softer(light: Aimed, across: float, up: float) -> dict[str, Any]:
    """What makes a light fade from its middle, so that it is half as bright at a share of its half size."""
    at = min(max(math.hypot(across, up) if isinstance(light, Spot) else max(across, up), 0.05), 0.98)
    if isinstance(light, Spot):
        return {"rim": round(1 - at, 3)}
    if not isinstance(light, Softbox):
        raise PackError(f"“{light.name}” has no rim that could be soft: softboxes and spots have.", "light")
    falloff = Falloff(towards="edges", by=1.0, curve=round(min(math.log(0.5) / math.log(at), 8.0), 3))
    return {"across" if across >= up else "up": falloff}


@dataclass(frozen=True)
class _Seen:
    """What is mirrored at a place of the picture: which way its light comes, (3,), from where and at what
    normal; and the light of the set that is asked for."""

    placed: Sequence[Placed]
    photo_set: PhotoSet
    light: Softbox | WindowLight | Spot | Ball | Card | Sun
    middle: Vector
    place: Array
    normal: Array
    way: Array


def _seen(frame: Frame, how: Highlight | Rim, things: Mapping[str, Thing]) -> _Seen:
    placed = line_up(frame, things)
    extent = extent_of(placed)
    photo_set = fitted_set(frame.photo_set, extent)
    if how.light >= len(photo_set.lights):
        raise PackError("That light is not on the set any more: choose another.", "light")
    light = photo_set.lights[how.light]
    if isinstance(light, LightTable):
        raise PackError("A light table lies on the floor: choose another light for this highlight.", "light")
    camera = fitted_camera(frame.shot, extent, frame.shot.aspect)
    origin, direction = ray_through(camera, frame.shot.aspect, how.x, how.y)
    touch = first_touched(placed, origin, direction)
    if touch is None:
        raise PackError("Nothing stands there that could mirror a light: point at the pack.", "x")
    if -direction @ touch.normal < LEAST_FACING:
        raise PackError(
            "There it is seen from the side, where it mirrors only what is behind it: point further in.", "x"
        )
    way = mirrored(direction, touch.normal)
    return _Seen(placed, photo_set, light, extent.middle, touch.place, touch.normal, way)


def _changed(photo_set: PhotoSet, number: int, changes: dict[str, Any]) -> PhotoSet:
    lights = [*photo_set.lights]
    lights[number] = lights[number].model_copy(update=changes)
    return photo_set.model_copy(update={"lights": lights, "scaled_for": None})


def mirrored(direction: Array, normal: Array) -> Array:
    """(3,) the way a ray goes on from a mirror."""
    way: Array = direction - 2 * (direction @ normal) * normal
    return way


def _bearing(way: Array) -> tuple[float, float]:
    """Azimuth and elevation of a direction, degrees."""
    azimuth = math.degrees(math.atan2(way[0], -way[1]))
    return round(azimuth, 4), round(math.degrees(math.asin(max(-1.0, min(1.0, float(way[2]))))), 4)


def _lifted(light: Aimed) -> float:
    """By how many mm a light has to go up to be off the floor; what was mirrored of its middle is then
    mirrored of a place further down on its face. Raises PackError where that is not on it any more."""
    own = hung(light, (0.0, 0.0, 0.0))
    half = light.diameter / 2 if isinstance(light, Ball) else abs(own.across[2]) + abs(own.up[2])
    short = max(ABOVE + half - own.centre[2], 0.0)
    room = float(np.linalg.norm(own.up)) * WELL_ON
    if short > 0 and (isinstance(light, (Ball, Spot)) or short > room):
        raise PackError(
            f"To be mirrored there “{light.name}” would have to be in the floor: point higher, or bring it "
            "nearer.",
            "y",
        )
    return short


def _refuse_behind_the_backdrop(light: Aimed, photo_set: PhotoSet) -> None:
    """Raise PackError when a light would hang behind the backdrop."""
    x, y, z = hung(light, (0.0, 0.0, 0.0)).centre
    sweep = photo_set.sweep
    if y > sweep.back and z < sweep.height and abs(x) < sweep.width / 2:
        raise PackError(
            f"To be mirrored there “{light.name}” would have to be behind the backdrop: bring it nearer, or "
            "move the backdrop back.",
            "x",
        )


def _refuse_what_is_in_the_way(placed: Sequence[Placed], start: Array, way: Array, reach: float) -> None:
    """Raise PackError when something stands between a place and a light."""
    met = first_touched(placed, start, way, reach=reach)
    if met is not None:
        raise PackError(
            f"What is mirrored there stands on the set (“{met.standing}”): point elsewhere, or move it.",
            "x",
        )
