"""What a drawing of a pack shows: lines across and up, in mm, as seen from the front."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giftwrap.core.form.formed import FormedBody
from giftwrap.core.form.skin import cut_at
from giftwrap.core.mesh.path import Array
from giftwrap.core.things.pose import closure_pose, exploded_lifts
from giftwrap.core.things.vessel import VesselShape


@dataclass(frozen=True)
class Outline:
    """One closed outline of a part, (n, 2) float, mm across and up."""

    part: str
    points: Array


@dataclass(frozen=True)
class CrossSection:
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
    sections : the cross-section at each height that has one of its own, or half way up the body
    limits : largest rounding of each corner in mm; None where the line is smooth
    """

    outer: Array
    inner: Array
    contents: Array | None
    closure: tuple[Outline, ...]
    sections: tuple[CrossSection, ...]
    limits: tuple[float | None, ...]


def draw(shape: VesselShape) -> Drawing:
    """Draw a shaped pack."""
    inner = shape.formed.inside_line()
    limits = tuple(float(v) if np.isfinite(v) else None for v in shape.formed.profile.limits)
    outer = shape.formed.outer.points
    return Drawing(outer, inner, _contents(shape, inner), _closure(shape), _sections(shape.formed), limits)


def _sections(formed: FormedBody) -> tuple[CrossSection, ...]:
    heights = [mark.height for mark in formed.body.sections] or [formed.rim_height / 2]
    return tuple(_section(formed, min(height, formed.rim_height - 0.5)) for height in heights)


def _section(formed: FormedBody, height: float) -> CrossSection:
    points = formed.outer.points[formed.profile.base_end :]
    radius = float(np.interp(height, np.maximum.accumulate(points[:, 1]), points[:, 0]))
    outer = radius * formed.loft.at(np.array([height]), formed.columns).points[:, 0]
    solid = height <= formed.cavity.level_floor
    inner = None if solid else cut_at(formed.inner, height)[1].positions[:, 0, :2]
    return CrossSection(height, outer, inner)


def _contents(shape: VesselShape, inner: Array) -> Array | None:
    if shape.fill is None:
        return None
    top = shape.fill.top[0].positions
    column = int(np.abs(shape.formed.columns - np.pi / 2).argmin())
    line = top[column]
    across = np.stack([np.hypot(line[:, 0], line[:, 1]), line[:, 2]], axis=1)
    below = inner[inner[:, 1] < shape.fill.contact]
    return np.vstack([across[::-1], below[::-1]])


def _closure(shape: VesselShape) -> tuple[Outline, ...]:
    built, pack = shape.built, shape.pack
    if not built:
        return ()
    pose, lifts = closure_pose(pack, built, shape.formed), exploded_lifts(pack, built, shape.formed)
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
