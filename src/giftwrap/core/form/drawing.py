"""What a drawing of a pack shows: lines across and up, in mm, as seen from the front."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giftwrap.core.form.path import Array
from giftwrap.core.form.pose import closure_pose, exploded_lifts
from giftwrap.core.form.shape import Shape
from giftwrap.core.form.skin import cut_at
from giftwrap.core.form.vessel import Vessel


@dataclass(frozen=True)
class Outline:
    """One closed outline of a part, (n, 2) float, mm across and up."""

    part: str
    points: Array


@dataclass(frozen=True)
class Ring:
    """A cross-section at a height in mm: the wall's outside and inside, (n, 2) float, mm.

    The front is at the bottom. `inner` is None where the body is solid.
    """

    height: float
    outer: Array
    inner: Array | None


@dataclass(frozen=True)
class Drawing:
    """A pack drawn flat, as it is formed: standing on its base.

    outer : from the middle of the base up to the rim; inner : from the middle of the floor up;
    both (n, 2) float, mm from the axis and up
    contents : the outline of the contents' right half; None when there are none
    closure : the outlines of its parts where they are
    rings : the cross-section at each height that has one of its own, or half way up the body
    limits : largest rounding of each corner in mm; None where the line is smooth
    """

    outer: Array
    inner: Array
    contents: Array | None
    closure: tuple[Outline, ...]
    rings: tuple[Ring, ...]
    limits: tuple[float | None, ...]


def draw(shape: Shape) -> Drawing:
    """Draw a shaped pack."""
    inner = shape.vessel.inside_line()
    limits = tuple(float(v) if np.isfinite(v) else None for v in shape.vessel.profile.limits)
    outer = shape.vessel.outer.points
    return Drawing(outer, inner, _contents(shape, inner), _closure(shape), _rings(shape.vessel), limits)


def _rings(vessel: Vessel) -> tuple[Ring, ...]:
    heights = [mark.height for mark in vessel.body.sections] or [vessel.rim_height / 2]
    return tuple(_ring(vessel, min(height, vessel.rim_height - 0.5)) for height in heights)


def _ring(vessel: Vessel, height: float) -> Ring:
    points = vessel.outer.points[vessel.profile.base_end :]
    radius = float(np.interp(height, np.maximum.accumulate(points[:, 1]), points[:, 0]))
    outer = radius * vessel.loft.at(np.array([height]), vessel.columns).points[:, 0]
    solid = height <= vessel.cavity.level_floor
    inner = None if solid else cut_at(vessel.inner, height)[1].positions[:, 0, :2]
    return Ring(height, outer, inner)


def _contents(shape: Shape, inner: Array) -> Array | None:
    if shape.fill is None:
        return None
    top = shape.fill.top[0].positions
    column = int(np.abs(shape.vessel.columns - np.pi / 2).argmin())
    line = top[column]
    across = np.stack([np.hypot(line[:, 0], line[:, 1]), line[:, 2]], axis=1)
    below = inner[inner[:, 1] < shape.fill.contact]
    return np.vstack([across[::-1], below[::-1]])


def _closure(shape: Shape) -> tuple[Outline, ...]:
    built, pack = shape.built, shape.pack
    if not built:
        return ()
    pose, lifts = closure_pose(pack, built, shape.vessel), exploded_lifts(pack, built, shape.vessel)
    hidden = {name for name, state in pack.parts.items() if state.hidden}
    found = [
        Outline(solid.name, _posed(points, pose, lifts.get(solid.name, 0.0)))
        for solid in built.solids
        for points in solid.outlines
    ]
    if built.tube:
        tube = built.tube
        sides = [np.stack([tube.shift + side * tube.outer, tube.heights], axis=1) for side in (1.0, -1.0)]
        outline = np.vstack([sides[0], sides[1][::-1]])
        found.append(Outline(tube.name, _posed(outline, pose, lifts.get(tube.name, 0.0))))
    return tuple(outline for outline in found if outline.part not in hidden)


def _posed(points: Array, pose: Array, lift: float) -> Array:
    flat = points + np.array([0.0, lift])
    return np.asarray(flat @ pose[np.ix_([0, 2], [0, 2])].T + pose[[0, 2], 3])
