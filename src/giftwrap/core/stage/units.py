"""What moves as one on a set, and sets in which something has moved, stands more, or stands elsewhere.

What moves as one is a *unit*: the outermost group of something, or the thing itself.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import points_moved
from giftwrap.core.model import Frame, Group, PhotoSet, Pose, Standing
from giftwrap.core.model.photo_set import group_chain
from giftwrap.core.stage.standing import Placed, line_up, pose_matrix, pose_of, room_of
from giftwrap.core.things.thing import Thing


@dataclass(frozen=True)
class Unit:
    """What moves as one: key of a group, or id of something alone."""

    key: str
    is_group: bool
    placed: tuple[Placed, ...]

    @property
    def middle(self) -> Array:
        """(2,) on the floor, mm: of its foot."""
        return np.array(room_of(self.placed).middle[:2])

    def width(self, along: Array) -> float:
        """What it takes up in a direction on the floor, mm."""
        low, high = span(self.placed, along)
        return high - low


def units_of(frame: Frame, ids: Sequence[str], things: Mapping[str, Thing]) -> list[Unit]:
    """What moves when these are moved, each once."""
    groups = frame.photo_set.groups
    outermost = {one.id: _outermost(one, groups) for one in frame.photo_set.standing}
    carried = {one.id: frame.photo_set.boxes_around(one) for one in frame.photo_set.standing}

    def unit_of(name: str) -> tuple[str, bool]:
        name = carried[name][-1].id if carried[name] else name  # what stands in a box moves with it
        group = outermost[name]
        return (name, False) if group is None else (group, True)

    wanted = {unit_of(name) for name in ids if name in outermost}
    units: dict[tuple[str, bool], list[Placed]] = {}
    for one in line_up(frame, things):
        if unit_of(one.id) in wanted:
            units.setdefault(unit_of(one.id), []).append(one)
    return [Unit(key, is_group, tuple(placed)) for (key, is_group), placed in units.items()]


def _outermost(one: Standing, groups: Mapping[str, Group]) -> str | None:
    chain = group_chain(one.group, groups)
    if not chain:
        return None
    return next(key for key, group in groups.items() if group is chain[-1])


def shifted(photo_set: PhotoSet, unit: Unit, by: Array, turned_to: float | None = None) -> PhotoSet:
    """A set in which a unit has moved on the floor; something alone may be turned as well."""

    def moved(pose: Pose) -> Pose:
        x, y = round(pose.x + float(by[0]), 3), round(pose.y + float(by[1]), 3)
        return pose.model_copy(update={"x": x, "y": y})

    if unit.is_group:
        group = photo_set.groups[unit.key]
        groups = {**photo_set.groups, unit.key: group.model_copy(update={"pose": moved(group.pose)})}
        return photo_set.model_copy(update={"groups": groups})
    turn = {} if turned_to is None else {"turn": round(turned_to, 2)}
    return reposed(photo_set, lambda one: moved(one.pose).model_copy(update=turn), {unit.key})


def reposed(photo_set: PhotoSet, pose: Callable[[Standing], Pose], ids: set[str]) -> PhotoSet:
    """A set on which some things have other poses."""
    standing = [
        one.model_copy(update={"pose": pose(one)}) if one.id in ids else one for one in photo_set.standing
    ]
    return photo_set.model_copy(update={"standing": standing})


def added(frame: Frame, batches: Sequence[Sequence[Standing]]) -> PhotoSet:
    """A set with more on it, under keys of their own, in the shot's line-up as well. What stands in a box of
    its own batch stands in that one's copy."""
    photo_set = frame.photo_set
    taken = {one.id for one in photo_set.standing}
    named = []
    for batch in batches:
        keys: dict[str | None, str] = {}
        for one in batch:
            keys[one.id] = free_key(one.id, taken)
            taken.add(keys[one.id])
        for one in batch:
            inside = keys.get(one.inside, one.inside)
            named.append(one.model_copy(update={"id": keys[one.id], "inside": inside}))
    line_ups = dict(photo_set.line_ups)
    if frame.shot.line_up in line_ups:
        chosen = line_ups[frame.shot.line_up]
        more = [*chosen.standing, *(one.id for one in named)]
        line_ups[frame.shot.line_up] = chosen.model_copy(update={"standing": more})
    return photo_set.model_copy(update={"standing": [*photo_set.standing, *named], "line_ups": line_ups})


def free_key(wanted: str, taken: Collection[str]) -> str:
    """A key that is not taken, like the wanted one."""
    base = wanted[:50].rstrip("-")
    key, number = base, 2
    while key in taken:
        key, number = f"{base}-{number}", number + 1
    return key


def span(placed: Sequence[Placed], along: Array) -> tuple[float, float]:
    """From where to where things reach in a direction on the floor, mm."""
    reach = np.concatenate([points_moved(one.thing.hull, one.pose)[:, :2] @ along for one in placed])
    return float(reach.min()), float(reach.max())


def without_empty_groups(photo_set: PhotoSet) -> PhotoSet:
    """A set without groups that nothing is in."""
    groups = dict(photo_set.groups)
    while True:
        used = {one.group for one in photo_set.standing} | {group.group for group in groups.values()}
        empty = [key for key in groups if key not in used]
        if not empty:
            return photo_set.model_copy(update={"groups": groups})
        for key in empty:
            del groups[key]


def stood_at(photo_set: PhotoSet, poses: Mapping[str, Array]) -> PhotoSet:
    """A set on which some things stand where (4, 4) poses in the scene say, by their ids, in their groups."""

    def pose(one: Standing) -> Pose:
        around = np.eye(4)
        for group in group_chain(one.group, photo_set.groups):
            around = pose_matrix(group.pose) @ around
        return pose_of(np.linalg.inv(around) @ poses[one.id], one.pose)

    return reposed(photo_set, pose, set(poses))
