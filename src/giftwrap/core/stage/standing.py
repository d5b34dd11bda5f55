"""What stands on a set: where each thing is, what the line-up takes up, what rests and what crosses."""

from __future__ import annotations

import atexit
import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from weakref import WeakKeyDictionary

import numpy as np
from manifold3d import Manifold, OpType
from shapely import Polygon, convex_hull, get_coordinates, linestrings

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import Mesh, flipped, together
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.solids import kernel_solid
from giftwrap.core.mesh.transform import lean, nod, points_moved, shift, turn
from giftwrap.core.model import Frame, Group, Pose, Standing
from giftwrap.core.model.frame import PROP
from giftwrap.core.model.photo_set import group_chain
from giftwrap.core.things.thing import Extent, Thing

NOTHING_STANDS = Extent((-50.0, -50.0, 0.0), (50.0, 50.0, 200.0))
"""What cameras and lights look at on an empty set."""
Corners = tuple[tuple[float, float], ...]
ON_THE_FLOOR = 0.3
"""Mm up or down that the lowest point of what stands on the floor may be."""
LEAST_CROSSING = 1.0
"""Things that share less than so many mm³ touch."""


@dataclass(frozen=True, eq=False)
class Placed:
    """A thing where it stands.

    id : of what stands there; key : of what it is, among the things of its frame
    pose : (4, 4) float, rigid, mm
    """

    id: str
    key: str
    thing: Thing
    pose: Array

    @property
    def is_prop(self) -> bool:
        """Whether it is no pack."""
        return self.key.startswith(PROP)


def pose_matrix(pose: Pose) -> Array:
    """(4, 4) float of a pose."""
    return shift(pose.x, pose.y, pose.z) @ turn(pose.turn) @ lean(pose.lean) @ nod(pose.nod)


def standing_matrix(standing: Standing, groups: Mapping[str, Group]) -> Array:
    """(4, 4) float: where something stands, through the groups it is in."""
    matrix = pose_matrix(standing.pose)
    for group in group_chain(standing.group, groups):
        matrix = pose_matrix(group.pose) @ matrix
    return matrix


def line_up(frame: Frame, things: Mapping[str, Thing]) -> list[Placed]:
    """What is to be seen in a frame, in the set's order; `things` by their keys (`things.making`)."""
    found = []
    for standing in frame.standing():
        key = frame.key_of(standing)
        pose = standing_matrix(standing, frame.photo_set.groups)
        for box in frame.photo_set.boxes_around(standing):
            pose = standing_matrix(box, frame.photo_set.groups) @ _floor_in(box, frame, things) @ pose
        found.append(Placed(standing.id, key, things[key], pose))
    return found


def _floor_in(box: Standing, frame: Frame, things: Mapping[str, Thing]) -> Array:
    """(4, 4) float: the floor inside of a box; of what is none, or not to be seen, where it stands."""
    try:
        thing = things.get(frame.key_of(box))
    except PackError:
        thing = None
    return np.eye(4) if thing is None or thing.inside is None else thing.inside.floor


def extent_of(placed: Sequence[Placed]) -> Extent:
    """What cameras and lights are for, and takes up: the packs; where none stand, the props."""
    packs = [one for one in placed if not one.is_prop]
    return room_of(packs or placed)


def room_of(placed: Iterable[Placed]) -> Extent:
    """What all of it takes up."""
    ends = [_ends(one) for one in placed]
    if not ends:
        return NOTHING_STANDS
    low, high = np.min([e[0] for e in ends], axis=0), np.max([e[1] for e in ends], axis=0)
    return Extent(tuple(map(float, low)), tuple(map(float, high)))  # type: ignore[arg-type]


def _ends(one: Placed) -> tuple[Array, Array]:
    """Least and greatest corner of something; what is turned is taken as round, by an elliptic cylinder."""
    own = one.thing.extent
    half = (np.array(own.high) - own.low) / 2
    rotation = one.pose[:3, :3]
    reach = np.hypot(rotation[:, 0] * half[0], rotation[:, 1] * half[1]) + np.abs(rotation[:, 2] * half[2])
    middle = points_moved(np.array([own.middle]), one.pose)[0]
    return middle - reach, middle + reach


def pose_of(matrix: Array, before: Pose) -> Pose:
    """The pose of a matrix: turned, then leaning, then nodding; `before` when it only moved."""
    rotation = matrix[:3, :3]
    lean = math.degrees(math.asin(max(-1.0, min(1.0, -float(rotation[2, 0])))))
    if abs(abs(lean) - 90) < 1e-6:
        turn, nod = math.degrees(math.atan2(-float(rotation[0, 1]), float(rotation[1, 1]))), 0.0
    else:
        turn = math.degrees(math.atan2(float(rotation[1, 0]), float(rotation[0, 0])))
        nod = math.degrees(math.atan2(-float(rotation[2, 1]), float(rotation[2, 2])))
    x, y, z = (round(float(v), 3) for v in matrix[:3, 3])
    pose = Pose(x=x, y=y, z=z, turn=round(turn, 4), lean=round(lean, 4), nod=round(nod, 4))
    same = np.allclose(pose_matrix(pose)[:3, :3], pose_matrix(before)[:3, :3], atol=1e-9)
    return before.model_copy(update={"x": x, "y": y, "z": z}) if same else pose


@dataclass(frozen=True)
class Outline:
    """What something covers where it stands, without hollows, mm.

    footprint : of the floor as seen from above; side : as seen from the right, (y, z)
    low, high : (3,) its least and greatest coordinates
    """

    footprint: Polygon
    side: Polygon
    low: Array
    high: Array

    @cached_property
    def drawn(self) -> tuple[Corners, Corners]:
        """Corners of both, as they are drawn."""
        return _corners(self.footprint), _corners(self.side)


def _corners(outline: Polygon) -> Corners:
    """Of a convex outline, as many as are told apart."""
    drawn = outline.simplify(DRAWN_WITHIN, preserve_topology=False)
    return tuple(map(tuple, np.round(get_coordinates(drawn), 2).tolist()))


DRAWN_WITHIN = 0.05
"""Mm that a drawn outline may be off."""
OUTLINES_KEPT = 100
"""Of a thing, by where it stands: few of many have moved since they were drawn last."""
_outlines: WeakKeyDictionary[Thing, dict[bytes, Outline]] = WeakKeyDictionary()


def outline_of(one: Placed) -> Outline:
    """What something covers where it stands."""
    known, place = _outlines.setdefault(one.thing, {}), one.pose.tobytes()
    found = known.get(place)
    if found is None:
        points = points_moved(one.thing.hull, one.pose)
        above, side = (convex_hull(linestrings(points[:, axes])) for axes in ((0, 1), (1, 2)))
        found = Outline(above, side, points.min(axis=0), points.max(axis=0))
        if len(known) >= OUTLINES_KEPT:
            known.clear()
        known[place] = found
    return found


def lowest(one: Placed) -> float:
    """Height in mm of the lowest point of something above the floor: 0 when it rests there."""
    return float(outline_of(one).low[2])


def beside(placed: Sequence[Placed], thing: Thing) -> Pose:
    """On the right of what stands there, with air between; in the middle of an empty set."""
    if not placed:
        return Pose()
    extent = room_of(placed)
    gap = max(0.12 * (extent.high[0] - extent.low[0]), 8.0)
    return Pose(x=round(extent.high[0] + gap - thing.extent.low[0], 1), y=round(extent.middle[1], 1))


def rested(pose: Pose, here: Placed) -> Pose:
    """A pose at which something touches the floor: lifted or lowered from one by what it is off."""
    low = lowest(here)
    return pose if abs(low) < 1e-6 else pose.model_copy(update={"z": round(pose.z - low, 3)})


def footprint(one: Placed) -> Polygon:
    """What something covers of the floor as seen from above, without hollows, mm."""
    return outline_of(one).footprint


def crossings(placed: Sequence[Placed]) -> list[tuple[str, str]]:
    """Which two things cross each other."""
    if len(placed) < 2:
        return []
    outlines = [outline_of(one) for one in placed]
    low, high = np.array([one.low for one in outlines]), np.array([one.high for one in outlines])
    apart = (low[:, None] > high[None]).any(axis=2)
    near = np.argwhere(np.triu(~(apart | apart.T), 1))
    return [
        (placed[a].id, placed[b].id)
        for a, b in near
        if outlines[a].footprint.intersects(outlines[b].footprint) and crosses(placed[a], placed[b])
    ]


KEPT_PLACES = 500
"""Of two things beside each other of which it is known whether they cross."""
_crossed: WeakKeyDictionary[Thing, WeakKeyDictionary[Thing, dict[bytes, bool]]] = WeakKeyDictionary()


def crosses(one: Placed, other: Placed) -> bool:
    """Whether two things cross where they stand, by more than they touch.

    That depends on how the one stands to the other alone, and is kept: few of many have moved since it was
    asked last.
    """
    beside = np.round(np.linalg.inv(one.pose) @ other.pose, 6).tobytes()
    known = _crossed.setdefault(one.thing, WeakKeyDictionary()).setdefault(other.thing, {})
    found = known.get(beside)
    if found is None:
        a, b = _solid(one), _solid(other)
        found = bool(_overlap(a, b) and (a ^ b).volume() > LEAST_CROSSING)
        if len(known) >= KEPT_PLACES:
            known.clear()
        known[beside] = found
    return found


_solids: WeakKeyDictionary[Thing, Manifold] = WeakKeyDictionary()
atexit.register(_solids.clear)  # the kernel complains of solids that outlive it


def _solid(one: Placed) -> Manifold:
    """All that is solid of a thing, where it stands."""
    if one.thing not in _solids:
        meshes: dict[str, list[Mesh]] = {}
        for piece in one.thing.pieces:
            meshes.setdefault(piece.part, []).append(piece.mesh)
            if piece.before is not None:
                meshes.setdefault(piece.before, []).append(flipped(piece.mesh))
        solids = [kernel_solid(together(*group)) for group in meshes.values()]
        _solids[one.thing] = Manifold.batch_boolean(solids, OpType.Add)
    return _solids[one.thing].transform(one.pose[:3])


def _overlap(one: Manifold, other: Manifold) -> bool:
    """Whether the boxes around two solids overlap."""
    a, b = one.bounding_box(), other.bounding_box()
    return all(a[k] < b[k + 3] and b[k] < a[k + 3] for k in range(3))
