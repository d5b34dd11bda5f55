"""What follows by itself: a camera that frames what stands, and lights and sweep of its size."""

from __future__ import annotations

import math
from typing import Any, Literal

import numpy as np

from giftwrap.core.mesh.path import Array
from giftwrap.core.model import Camera, Card, Light, PhotoSet, Shot, Sun
from giftwrap.core.stage.camera import project, view_of
from giftwrap.core.stage.lights import sides_of
from giftwrap.core.things.thing import Extent

LOWERED = 0.015
"""What stands is this share of the picture below its middle: it looks held up by the floor, not hung."""
SHORTEST, LONGEST = 0.01, 5000.0
"""Lengths of sweeps, lights and cameras, mm."""
LEAST_REACH = 1.0
"""Nothing was arranged for less than this, mm."""
LENGTHS = ("width", "height", "diameter", "distance", "frame", "bar")
"""Of lights, that grow and shrink."""
MOST_POWER = 10_000.0
STEEPEST = math.radians(85)
NEAREST = 50.0
TOO_SMALL = 0.5
"""What fills less than this share of what it could is lost in its frame."""
LEAST_AIR = 0.015
"""Nearer to the picture's edge than this share of it, something is cropped."""

Fit = Literal["fits", "cropped", "small"]


def reach_of(extent: Extent) -> float:
    """Diagonal of what stands in mm: lights and sweep are arranged for it."""
    return float(np.linalg.norm(np.subtract(extent.high, extent.low)))


SWEEP_LENGTHS = ("width", "front", "back", "height", "curve_radius")


def fitted_set(photo_set: PhotoSet, extent: Extent) -> PhotoSet:
    """A set whose sweep and lights have grown or shrunk with what stands, every light as bright to see.

    A set that was arranged by hand is as it is.
    """
    if photo_set.scaled_for is None:
        return photo_set
    scale = reach_of(extent) / max(photo_set.scaled_for, LEAST_REACH)
    lights = [scaled_light(light, scale) for light in photo_set.lights]
    sweep = photo_set.sweep
    sizes: dict[str, object] = {name: _scaled(getattr(sweep, name), scale) for name in SWEEP_LENGTHS}
    if sweep.other is not None:
        at = min(max(sweep.other.at * scale, -LONGEST), LONGEST)
        sizes["other"] = sweep.other.model_copy(update={"at": at})
    return photo_set.model_copy(update={"lights": lights, "sweep": sweep.model_copy(update=sizes)})


def _scaled(length: float, scale: float) -> float:
    return min(max(length * scale, SHORTEST), LONGEST)


def scaled_light(light: Light, scale: float) -> Light:
    """A light with its lengths so many times as long, as bright to see; the sun is as it is."""
    if isinstance(light, Sun):
        return light
    changes: dict[str, Any] = {}
    for name in LENGTHS:
        if getattr(light, name, 0.0) > 0:
            changes[name] = _scaled(getattr(light, name), scale)
    for name in ("aim", "at"):
        place = getattr(light, name, None)
        if place is not None:
            ends = {axis: math.copysign(_scaled(abs(v), scale), v) if v else 0.0 for axis, v in place}
            changes[name] = place.model_copy(update=ends)
    if not isinstance(light, Card):
        grown = [_scaled(side, scale) / max(side, SHORTEST) for side in sides_of(light)]
        changes["power_w"] = min(light.power_w * grown[0] * grown[1], MOST_POWER)
    return light.model_copy(update=changes)


def fitted_camera(shot: Shot, extent: Extent, aspect: float) -> Camera:
    """The camera of a shot in a picture of an aspect: as somebody stood it, or framing what stands."""
    return shot.camera if shot.framed_by_hand else framed(shot.camera, extent, aspect)


def framed(camera: Camera, extent: Extent, aspect: float) -> Camera:
    """A camera that takes in what stands with air around it, for pictures of an aspect (width / height).

    Its lens and the direction it looks in stay as they are.
    """
    middle, reach = extent.middle, reach_of(extent)
    elevation = math.atan2(camera.height - camera.aim_height, camera.distance)
    elevation = min(max(elevation, -STEEPEST), STEEPEST)
    near, far = max(reach * 0.75, NEAREST), 400 * reach + NEAREST
    aimed = camera.model_copy(update={"aim_x": middle[0], "aim_y": middle[1]})
    if camera.projection == "orthographic":
        low, high = _taken_in(_stood(aimed, reach * 4, elevation, middle[2]), aspect, extent)
        share = max(high[1] - low[1], high[0] - low[0]) / _filling(camera)
        aimed = aimed.model_copy(
            update={"orthographic_width": _within(camera.orthographic_width * share, SHORTEST)}
        )
        return _centred(_stood(aimed, reach * 4, elevation, middle[2]), aspect, extent)
    for _ in range(40):
        distance = math.sqrt(near * far)
        low, high = _taken_in(_stood(aimed, distance, elevation, middle[2]), aspect, extent)
        full = max(high[1] - low[1], high[0] - low[0]) > _filling(camera)
        near, far = (distance, far) if full else (near, distance)
    return _centred(_stood(aimed, far, elevation, middle[2]), aspect, extent)


def fit_of(camera: Camera, extent: Extent, aspect: float) -> Fit:
    """Whether what stands is in the picture with air around it, cropped, or lost in it."""
    low, high = _taken_in(camera, aspect, extent)
    if min(*low, *(1 - high)) < LEAST_AIR:
        return "cropped"
    filled = max(high[1] - low[1], high[0] - low[0]) / _filling(camera)
    return "small" if filled < TOO_SMALL else "fits"


def _filling(camera: Camera) -> float:
    """Share of the picture's width and height that what stands fills at most."""
    return 1 - 2 * camera.margin


def _stood(camera: Camera, distance: float, elevation: float, aim_height: float) -> Camera:
    """A camera so far from its axis, looking down by an angle in radians at a height on it."""
    return camera.model_copy(
        update={
            "distance": float(distance),
            "height": float(aim_height + distance * math.tan(elevation)),
            "aim_height": float(aim_height),
        }
    )


def _centred(camera: Camera, aspect: float, extent: Extent) -> Camera:
    """A camera lifted and lowered until what stands is a little below the middle of its picture."""
    for _ in range(4):
        low, high = _taken_in(camera, aspect, extent)
        off = (low[1] + high[1]) / 2 - (0.5 + LOWERED)
        view = view_of(camera, aspect)
        tall = view.height or 2 * camera.distance * math.tan(math.radians(view.vertical_angle) / 2)
        shift = -off * tall
        camera = camera.model_copy(
            update={"height": camera.height + shift, "aim_height": camera.aim_height + shift}
        )
    names = ("height", "aim_height", "aim_x", "aim_y")
    rounded = {name: _within(round(getattr(camera, name), 2), -LONGEST) for name in names}
    distance = _within(round(camera.distance, 2), SHORTEST)
    return camera.model_copy(update={**rounded, "distance": distance})


def _within(length: float, least: float) -> float:
    """A length as a document may have it."""
    return min(max(length, least), LONGEST)


def _taken_in(camera: Camera, aspect: float, extent: Extent) -> tuple[Array, Array]:
    """Upper left and lower right corner, 0..1, of what stands in the picture.

    Round things do not fill the corners of the box around them: an ellipse is taken at its foot and top.
    """
    low, high = np.array(extent.low), np.array(extent.high)
    turns = np.linspace(0, 2 * math.pi, 33)[:-1]
    middle, half = (low + high) / 2, (high - low) / 2
    rounds = [
        np.stack(
            [middle[0] + half[0] * np.cos(turns), middle[1] + half[1] * np.sin(turns), np.full(32, z)], axis=1
        )
        for z in (low[2], high[2])
    ]
    points = project(camera, aspect, np.vstack(rounds))
    return points.min(axis=0), points.max(axis=0)
