"""The set as it is drawn: where lights and camera are, how they fit what stands, and the sweep's line."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from giftwrap.core.model import Camera, PhotoSet, Shot, Sweep
from giftwrap.core.stage.camera import View, axes_of, ray_through, view_of
from giftwrap.core.stage.faults import Fault, faults_of
from giftwrap.core.stage.fitting import Fit, fit_of, fitted_camera, fitted_set, reach_of
from giftwrap.core.stage.lights import Hung, hung, vector_of
from giftwrap.core.stage.resting import gap_beneath
from giftwrap.core.stage.sharpness import sharp_between
from giftwrap.core.stage.standing import (
    ON_THE_FLOOR,
    Placed,
    crossings,
    extent_of,
    lowest,
    outline_of,
)
from giftwrap.core.stage.sweep import sweep_path

Point = tuple[float, float, float]
DRAWN_TO = 3.0
"""What is sharp without end is drawn to so many times the focus."""


@dataclass(frozen=True)
class Stands:
    """Something that stands on the set.

    key : of what it is among the things of its frame
    footprint : corners of what it covers of the floor, mm; pose : 4 × 4, row by row
    side : corners, (y, z), of what it covers as seen from the right
    lifted : mm that its lowest point is above the floor; air : above what is beneath it, less than nothing
        where it is sunk in; crosses : what it runs into, by id
    """

    id: str
    key: str
    footprint: tuple[tuple[float, float], ...]
    side: tuple[tuple[float, float], ...]
    pose: tuple[float, ...]
    lifted: float
    air: float
    crosses: tuple[str, ...]


@dataclass(frozen=True)
class Sharp:
    """What is sharp, mm along the camera's axis; `far` is None where there is no end to it.

    above, side : corners of it in the middle of the picture, across and upright, near ones first; what has no
        end is drawn to three times the focus
    """

    near: float
    focus: float
    far: float | None
    above: tuple[Point, ...]
    side: tuple[Point, ...]


@dataclass(frozen=True)
class Plan:
    """Places in mm, x to the right, y back, z up.

    middle : what lights are aimed at
    lights : where each hangs, in the set's order, those that are off too
    camera, target : where it stands and what it looks at
    sweep : (y, z) along the sweep, from the top of its wall to its front edge
    photo_set, shot_camera : as they are by themselves or by hand
    view : of that camera
    fit : whether it takes in what stands; reach : mm of that, as sets are scaled for
    stands : what is to be seen, in the set's order
    sharp : None where everything is
    faults : of where lights, camera and things are, but for how things rest and cross
    """

    middle: Point
    lights: tuple[Hung, ...]
    camera: Point
    target: Point
    sweep: tuple[tuple[float, float], ...]
    photo_set: PhotoSet
    shot_camera: Camera
    view: View
    fit: Fit
    reach: float
    stands: tuple[Stands, ...]
    sharp: Sharp | None
    faults: tuple[Fault, ...]


def plan_of(photo_set: PhotoSet, shot: Shot, placed: Sequence[Placed]) -> Plan:
    """Draw a set and a shot's camera around what stands there."""
    extent = extent_of(placed)
    middle = extent.middle
    camera = fitted_camera(shot, extent, shot.aspect)
    arranged = fitted_set(photo_set, extent)
    view = view_of(camera, shot.aspect)
    return Plan(
        middle=middle,
        lights=tuple(hung(light, middle) for light in arranged.lights),
        camera=view.position,
        target=view.target,
        sweep=_line(arranged.sweep),
        photo_set=arranged,
        shot_camera=camera,
        view=view,
        fit=fit_of(camera, extent, shot.aspect),
        reach=reach_of(extent),
        stands=tuple(_stands(placed)),
        sharp=_sharp(camera, view, shot.aspect),
        faults=tuple(faults_of(arranged, view, placed)),
    )


def _sharp(camera: Camera, view: View, aspect: float) -> Sharp | None:
    if camera.f_number is None:
        return None
    near, far = sharp_between(camera.lens_mm, camera.f_number, view.focus)
    end = min(far, DRAWN_TO * view.focus)
    forward = axes_of(view)[0]

    def at(x: float, y: float, distance: float) -> Point:
        begin, way = ray_through(camera, aspect, x, y)
        return vector_of(begin + way * (distance / float(way @ forward)))

    return Sharp(
        round(near, 1),
        round(view.focus, 1),
        None if math.isinf(far) else round(far, 1),
        above=(at(0, 0.5, near), at(1, 0.5, near), at(1, 0.5, end), at(0, 0.5, end)),
        side=(at(0.5, 0, near), at(0.5, 1, near), at(0.5, 1, end), at(0.5, 0, end)),
    )


def _stands(placed: Sequence[Placed]) -> Iterator[Stands]:
    pairs = crossings(placed)
    for one in placed:
        above, side = outline_of(one).drawn
        yield Stands(
            one.id,
            one.key,
            above,
            side,
            tuple(float(v) for v in one.pose.ravel()),
            round(lowest(one), 3),
            round(_air_beneath(one, placed), 3),
            tuple(b if a == one.id else a for a, b in pairs if one.id in (a, b)),
        )


def _air_beneath(one: Placed, placed: Sequence[Placed]) -> float:
    low = lowest(one)
    return low if abs(low) < ON_THE_FLOOR else gap_beneath(one, placed)


def _line(sweep: Sweep) -> tuple[tuple[float, float], ...]:
    return tuple((float(y), float(z)) for y, z in sweep_path(sweep).points)
