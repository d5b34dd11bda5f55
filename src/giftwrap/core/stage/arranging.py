"""Arranging what stands: put down, copied, in a row or an arc, apart, resting, grouped.

What moves as one is a *unit*: the outermost group of something, or the thing itself. Every arrangement
gives a set with other poses; nothing leaves the floor by it.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import points_moved
from giftwrap.core.model import Frame, Group, OfPack, PhotoSet, Pose, Standing
from giftwrap.core.model.arrangement import (
    Apart,
    Arc,
    Arrangement,
    Copies,
    Gather,
    HangLight,
    Highlight,
    Part,
    PutIn,
    Rest,
    Row,
    SetUp,
    Stand,
    TakeAway,
)
from giftwrap.core.model.photo_set import group_chain
from giftwrap.core.stage.boxing import freed, put_in, take_out
from giftwrap.core.stage.hanging import with_highlight, with_light
from giftwrap.core.stage.setups import with_setup
from giftwrap.core.stage.standing import (
    Placed,
    beside,
    crossings,
    extent_of,
    line_up,
    lowest,
    pose_matrix,
    pose_of,
    rested,
)
from giftwrap.core.things.thing import Thing

APART_MM = 3.0
"""What crossed stands this far apart afterwards."""
ROUNDS = 60
ACROSS = np.array([1.0, 0.0])
"""From left to right on the floor."""
MOST_STANDING = 400


@dataclass(frozen=True)
class _Unit:
    """What moves as one: key of a group, or id of something alone."""

    key: str
    is_group: bool
    placed: tuple[Placed, ...]

    @property
    def middle(self) -> Array:
        """(2,) on the floor, mm: of its foot."""
        extent = extent_of(self.placed)
        return np.array(extent.middle[:2])

    def width(self, along: Array) -> float:
        """What it takes up in a direction on the floor, mm."""
        low, high = _span(self.placed, along)
        return high - low


def arranged(frame: Frame, how: Arrangement, things: Mapping[str, Thing]) -> PhotoSet:
    """The set of a frame after an arrangement; `things` by the keys of their packs.

    Raises PackError when something that is named does not stand there, or there is too much.
    """
    if not isinstance(how, Stand | Apart | HangLight | Highlight | SetUp):
        known = {one.id for one in frame.photo_set.standing}
        gone = next((name for name in how.ids if name not in known), None)
        if gone is not None:
            raise PackError(f"“{gone}” does not stand on this set any more: choose something else.", "ids")
    result = _HOW[how.kind](frame, how, things)
    if len(result.standing) > MOST_STANDING:
        raise PackError(f"At most {MOST_STANDING} things stand on a set: take some away first.", "standing")
    return PhotoSet.model_validate(result.model_dump())


def _stand(frame: Frame, how: Stand, things: Mapping[str, Thing]) -> PhotoSet:
    thing = things.get(how.pack)
    if thing is None:
        raise PackError(f"The pack “{how.pack}” is not in the job any more: choose another.", "pack")
    if how.x is not None and how.y is not None:
        pose = Pose(x=how.x, y=how.y)
    else:
        pose = beside(line_up(frame, things), thing)
    here = Placed("", how.pack, thing, pose_matrix(pose))
    return _added(frame, [[Standing(id=how.pack, of=OfPack(pack=how.pack), pose=rested(pose, here))]])


def _copies(frame: Frame, how: Copies, things: Mapping[str, Thing]) -> PhotoSet:
    """Copies stand alone, wherever their originals are grouped. What stands in a box is copied with it;
    without it its copies stand in the same one, in the insert's next holes if it has any."""
    by_id = {one.id: one for one in frame.photo_set.standing}
    ids = {*how.ids}
    ids |= {one.id for one in by_id.values() if any(b.id in ids for b in frame.photo_set.boxes_around(one))}
    chosen = [one for one in line_up(frame, things) if one.id in ids]
    if not chosen:
        return frame.photo_set
    low, high = _span(chosen, ACROSS)
    step = high - low + how.gap
    batches = []
    for number in range(1, how.count + 1):
        batch = []
        for one in chosen:
            standing = by_id[one.id]
            if standing.inside in ids:
                batch.append(standing)
                continue
            pose = standing.pose if standing.inside else pose_of(one.pose, standing.pose)
            moved = pose.model_copy(update={"x": pose.x + number * step})
            batch.append(standing.model_copy(update={"pose": moved, "group": None}))
        batches.append(batch)
    result = _added(frame, batches)
    inside = {one.id: one.thing.inside for one in line_up(frame, things)}
    boxed: dict[str, list[str]] = {}
    for fresh in result.standing[len(by_id) :]:
        box = inside.get(fresh.inside) if fresh.inside else None
        if fresh.inside and box is not None and box.holes:
            boxed.setdefault(fresh.inside, []).append(fresh.id)
    for key, names in boxed.items():
        result = put_in(frame.model_copy(update={"photo_set": result}), PutIn(ids=names, box=key), things)
    return result


def _row(frame: Frame, how: Row, things: Mapping[str, Thing]) -> PhotoSet:
    along = np.array([math.cos(math.radians(how.turn)), math.sin(math.radians(how.turn))])
    units = sorted(_units(frame, how.ids, things), key=lambda unit: float(unit.middle @ along))
    if not units:
        return frame.photo_set
    centre = np.mean([unit.middle for unit in units], axis=0)
    places = _spaced([unit.width(along) for unit in units], how.gap)
    result = frame.photo_set
    for unit, place in zip(units, places, strict=True):
        low, high = _span(unit.placed, along)
        off = (low + high) / 2 - unit.middle @ along
        result = _shifted(result, unit, centre + along * (place - off) - unit.middle)
    return result


def _arc(frame: Frame, how: Arc, things: Mapping[str, Thing]) -> PhotoSet:
    units = sorted(_units(frame, how.ids, things), key=lambda unit: float(unit.middle[0]))
    if not units:
        return frame.photo_set
    widths = [unit.width(ACROSS) for unit in units]
    chords = [(a + b) / 2 + how.gap for a, b in itertools.pairwise(widths)]
    if any(chord > 2 * how.radius for chord in chords):
        raise PackError(
            f"An arc of {how.radius:g} mm is too small for what stands on it: make its radius larger, or the "
            "gap smaller.",
            "radius",
        )
    turns = np.concatenate([[0.0], np.cumsum([2 * math.asin(chord / (2 * how.radius)) for chord in chords])])
    if turns[-1] > math.radians(300):
        raise PackError(
            f"All of this goes more than once around an arc of {how.radius:g} mm: make its radius larger.",
            "radius",
        )
    turns -= turns[-1] / 2
    middle = np.mean([unit.middle for unit in units], axis=0)
    back = how.radius * (1 - math.cos(turns[-1])) / 2
    centre = middle - np.array([0.0, how.radius - back])
    result = frame.photo_set
    for unit, angle in zip(units, turns, strict=True):
        place = centre + how.radius * np.array([math.sin(angle), math.cos(angle)])
        result = _shifted(result, unit, place - unit.middle, turned_to=-math.degrees(angle))
    return result


def _apart(frame: Frame, how: Apart, things: Mapping[str, Thing]) -> PhotoSet:
    """Of two that cross the later one in the set gives way, by the shorter way that parts their boxes."""
    result = frame.photo_set
    for _ in range(ROUNDS):
        now = frame.model_copy(update={"photo_set": result})
        placed = {one.id: one for one in line_up(now, things)}
        pairs = crossings(list(placed.values()))
        if not pairs:
            break
        units = {one.id: unit for unit in _units(now, list(placed), things) for one in unit.placed}
        moved: set[str] = set()
        for pair in pairs:
            first, second = (units[name] for name in pair)
            if first.key == second.key:  # within a group each gives way by itself
                first, second = (_Unit(name, False, (placed[name],)) for name in pair)
            if not moved & {first.key, second.key}:
                result = _shifted(result, second, _way_out(first, second))
                moved.add(second.key)
    return result


def _rest(frame: Frame, how: Rest, things: Mapping[str, Thing]) -> PhotoSet:
    free = {one.id for one in frame.photo_set.standing if one.inside is None}
    drop = {one.id: -lowest(one) for one in line_up(frame, things) if one.id in how.ids and one.id in free}
    return _reposed(
        frame.photo_set,
        lambda one: one.pose.model_copy(update={"z": round(one.pose.z + drop[one.id], 3)}),
        set(drop),
    )


def _take_away(frame: Frame, how: TakeAway, things: Mapping[str, Thing]) -> PhotoSet:
    inside = [one.id for one in frame.photo_set.standing if one.inside in how.ids and one.id not in how.ids]
    photo_set = freed(frame, inside, things) if inside else frame.photo_set
    left = [one for one in photo_set.standing if one.id not in how.ids]
    line_ups = {
        key: one.model_copy(update={"standing": [name for name in one.standing if name not in how.ids]})
        for key, one in photo_set.line_ups.items()
    }
    return _without_empty_groups(photo_set.model_copy(update={"standing": left, "line_ups": line_ups}))


def _gather(frame: Frame, how: Gather, things: Mapping[str, Thing]) -> PhotoSet:
    photo_set = _part(frame, Part(ids=how.ids), things)
    key = _free_key("group", photo_set.groups)
    standing = [
        one.model_copy(update={"group": key}) if one.id in how.ids and one.inside is None else one
        for one in photo_set.standing
    ]
    groups = {**photo_set.groups, key: Group(name=how.name)}
    return photo_set.model_copy(update={"standing": standing, "groups": groups})


def _part(frame: Frame, how: Part, things: Mapping[str, Thing]) -> PhotoSet:
    groups = frame.photo_set.groups

    def alone(one: Standing) -> Standing:
        if one.id not in how.ids or one.group is None:
            return one
        matrix = pose_matrix(one.pose)
        for group in group_chain(one.group, groups):
            matrix = pose_matrix(group.pose) @ matrix
        return one.model_copy(update={"pose": pose_of(matrix, one.pose), "group": None})

    standing = [alone(one) for one in frame.photo_set.standing]
    return _without_empty_groups(frame.photo_set.model_copy(update={"standing": standing}))


_HOW: dict[str, Callable[..., PhotoSet]] = {
    "stand": _stand,
    "copies": _copies,
    "row": _row,
    "arc": _arc,
    "apart": _apart,
    "rest": _rest,
    "take-away": _take_away,
    "gather": _gather,
    "part": _part,
    "put-in": put_in,
    "take-out": take_out,
    "hang-light": with_light,
    "highlight": with_highlight,
    "set-up": with_setup,
}


def _units(frame: Frame, ids: Sequence[str], things: Mapping[str, Thing]) -> list[_Unit]:
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
    return [_Unit(key, is_group, tuple(placed)) for (key, is_group), placed in units.items()]


def _outermost(one: Standing, groups: Mapping[str, Group]) -> str | None:
    chain = group_chain(one.group, groups)
    if not chain:
        return None
    return next(key for key, group in groups.items() if group is chain[-1])


def _shifted(photo_set: PhotoSet, unit: _Unit, by: Array, turned_to: float | None = None) -> PhotoSet:
    """A set in which a unit has moved on the floor; something alone may be turned as well."""

    def moved(pose: Pose) -> Pose:
        x, y = round(pose.x + float(by[0]), 3), round(pose.y + float(by[1]), 3)
        return pose.model_copy(update={"x": x, "y": y})

    if unit.is_group:
        group = photo_set.groups[unit.key]
        groups = {**photo_set.groups, unit.key: group.model_copy(update={"pose": moved(group.pose)})}
        return photo_set.model_copy(update={"groups": groups})
    turn = {} if turned_to is None else {"turn": round(turned_to, 2)}
    return _reposed(photo_set, lambda one: moved(one.pose).model_copy(update=turn), {unit.key})


def _reposed(photo_set: PhotoSet, pose: Callable[[Standing], Pose], ids: set[str]) -> PhotoSet:
    standing = [
        one.model_copy(update={"pose": pose(one)}) if one.id in ids else one for one in photo_set.standing
    ]
    return photo_set.model_copy(update={"standing": standing})


def _added(frame: Frame, batches: Sequence[Sequence[Standing]]) -> PhotoSet:
    """A set with more on it, under keys of their own, in the shot's line-up as well. What stands in a box of
    its own batch stands in that one's copy."""
    photo_set = frame.photo_set
    taken = {one.id for one in photo_set.standing}
    named = []
    for batch in batches:
        keys: dict[str | None, str] = {}
        for one in batch:
            keys[one.id] = _free_key(one.id, taken)
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


def _free_key(wanted: str, taken: Any) -> str:
    base = wanted[:50].rstrip("-")
    key, number = base, 2
    while key in taken:
        key, number = f"{base}-{number}", number + 1
    return key


def _spaced(widths: Sequence[float], gap: float) -> list[float]:
    """Middles of things of such widths side by side, about 0."""
    whole = sum(widths) + gap * (len(widths) - 1)
    places, at = [], -whole / 2
    for width in widths:
        places.append(at + width / 2)
        at += width + gap
    return places


def _span(placed: Sequence[Placed], along: Array) -> tuple[float, float]:
    """From where to where things reach in a direction on the floor, mm."""
    reach = np.concatenate([points_moved(one.thing.hull, one.pose)[:, :2] @ along for one in placed])
    return float(reach.min()), float(reach.max())


def _way_out(first: _Unit, second: _Unit) -> Array:
    """The shortest move along x or y that parts the boxes of two units, away from the first."""
    a, b = extent_of(first.placed), extent_of(second.placed)
    ways = []
    for axis in (0, 1):
        forward = a.high[axis] - b.low[axis] + APART_MM
        back = b.high[axis] - a.low[axis] + APART_MM
        by = forward if b.middle[axis] >= a.middle[axis] else -back
        way = np.zeros(2)
        way[axis] = by
        ways.append(way)
    return min(ways, key=lambda way: float(np.abs(way).sum()))


def _without_empty_groups(photo_set: PhotoSet) -> PhotoSet:
    """A set without groups that nothing is in."""
    groups = dict(photo_set.groups)
    while True:
        used = {one.group for one in photo_set.standing} | {group.group for group in groups.values()}
        empty = [key for key in groups if key not in used]
        if not empty:
            return photo_set.model_copy(update={"groups": groups})
        for key in empty:
            del groups[key]
