"""Arranging what stands: put down, copied, in a row or an arc, apart, resting, grouped."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Collection, Mapping, Sequence

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array
from giftwrap.core.model import Frame, Group, OfPack, PhotoSet, Pose, Standing
from giftwrap.core.model.arrangement import (
    Apart,
    Arc,
    Arrangement,
    ClearLights,
    Copies,
    Gather,
    HangLight,
    HangLights,
    Highlight,
    Part,
    PutIn,
    Rim,
    Row,
    Scatter,
    SetUp,
    Stand,
    StandModel,
    StandProp,
    TakeAway,
    WidenSweep,
)
from giftwrap.core.model.photo_set import OfProp, group_chain
from giftwrap.core.stage.boxing import freed, put_in, take_out
from giftwrap.core.stage.faults import clear_lights, widen_sweep
from giftwrap.core.stage.hanging import with_highlight, with_light, with_rim
from giftwrap.core.stage.placing import (
    MOST_STANDING,
    align,
    face_camera,
    rest,
    scatter,
    spread_evenly,
    stack,
    stand_model,
    stand_prop,
)
from giftwrap.core.stage.resting import come_to_rest, gap_beneath
from giftwrap.core.stage.setups import with_lights, with_setup
from giftwrap.core.stage.standing import (
    Placed,
    beside,
    crossings,
    footprint,
    line_up,
    lowest,
    pose_matrix,
    pose_of,
    rested,
    room_of,
)
from giftwrap.core.stage.units import (
    Unit,
    added,
    free_key,
    shifted,
    span,
    stood_at,
    units_of,
    without_empty_groups,
)
from giftwrap.core.things.thing import Thing

APART_MM = 3.0
"""What crossed stands this far apart afterwards."""
ROUNDS = 60
RESTS = 0.5
"""Mm of air beneath what rests, at most."""
ACROSS = np.array([1.0, 0.0])
"""From left to right on the floor."""


_OF_LIGHT = HangLight | HangLights | Highlight | Rim | ClearLights | SetUp
_ANYWHERE = Stand | StandProp | StandModel | Scatter | Apart | WidenSweep | _OF_LIGHT
"""What is asked of the set, not of things that are named."""


def arranged(frame: Frame, how: Arrangement, things: Mapping[str, Thing]) -> PhotoSet:
    """The set of a frame after an arrangement; `things` by the keys of their packs.

    Raises PackError when something that is named does not stand there, or there is too much.
    """
    if not isinstance(how, _ANYWHERE):
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
    return added(frame, [[Standing(id=how.pack, of=OfPack(pack=how.pack), pose=rested(pose, here))]])


def _copies(frame: Frame, how: Copies, things: Mapping[str, Thing]) -> PhotoSet:
    """Copies stand alone, wherever their originals are grouped. What stands in a box is copied with it;
    without it its copies stand in the same one, in the insert's next holes if it has any."""
    by_id = {one.id: one for one in frame.photo_set.standing}
    ids = {*how.ids}
    ids |= {one.id for one in by_id.values() if any(b.id in ids for b in frame.photo_set.boxes_around(one))}
    chosen = [one for one in line_up(frame, things) if one.id in ids]
    if not chosen:
        return frame.photo_set
    low, high = span(chosen, ACROSS)
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
    result = added(frame, batches)
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
    units = sorted(units_of(frame, how.ids, things), key=lambda unit: float(unit.middle @ along))
    if not units:
        return frame.photo_set
    centre = np.mean([unit.middle for unit in units], axis=0)
    places = _spaced([unit.width(along) for unit in units], how.gap)
    result = frame.photo_set
    for unit, place in zip(units, places, strict=True):
        low, high = span(unit.placed, along)
        off = (low + high) / 2 - unit.middle @ along
        result = shifted(result, unit, centre + along * (place - off) - unit.middle)
    return result


def _arc(frame: Frame, how: Arc, things: Mapping[str, Thing]) -> PhotoSet:
    units = sorted(units_of(frame, how.ids, things), key=lambda unit: float(unit.middle[0]))
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
        result = shifted(result, unit, place - unit.middle, turned_to=-math.degrees(angle))
    return result


def _apart(frame: Frame, how: Apart, things: Mapping[str, Thing]) -> PhotoSet:
    """Of two that cross the smaller one gives way, of two alike the later one in the set, by the shorter way
    that parts their boxes. What rested before rests where it comes to."""
    result, moved = frame.photo_set, set[str]()
    before = {one.id: one for one in line_up(frame, things)}
    for _ in range(ROUNDS):
        now = frame.model_copy(update={"photo_set": result})
        placed = {one.id: one for one in line_up(now, things)}
        pairs = crossings(list(placed.values()))
        if not pairs:
            break
        units = {one.id: unit for unit in units_of(now, list(placed), things) for one in unit.placed}
        gone: set[str] = set()
        for pair in pairs:
            first, second = (units[name] for name in pair)
            if first.key == second.key:  # within a group each gives way by itself
                first, second = (Unit(name, False, (placed[name],)) for name in pair)
            if _covers(second) > 1.01 * _covers(first):
                first, second = second, first
            if not gone & {first.key, second.key}:
                result = shifted(result, second, _way_out(first, second))
                gone.add(second.key)
                moved |= {one.id for one in second.placed}
    return _resting_again(frame.model_copy(update={"photo_set": result}), before, moved, things)


def _covers(unit: Unit) -> float:
    return sum(float(footprint(one).area) for one in unit.placed)


def _resting_again(
    frame: Frame, before: Mapping[str, Placed], moved: Collection[str], things: Mapping[str, Thing]
) -> PhotoSet:
    """A set on which those that have moved and had rested on something are let down or lifted again."""
    placed = {one.id: one for one in line_up(frame, things)}
    poses: dict[str, Array] = {}
    for name in moved:
        others = [one for one in before.values() if one.id != name]
        if lowest(before[name]) > 1.0 and abs(gap_beneath(before[name], others)) < RESTS:
            now = [one for one in placed.values() if one.id != name]
            poses[name] = come_to_rest(placed[name], now, upright=True).pose
    return stood_at(frame.photo_set, poses) if poses else frame.photo_set


def _take_away(frame: Frame, how: TakeAway, things: Mapping[str, Thing]) -> PhotoSet:
    inside = [one.id for one in frame.photo_set.standing if one.inside in how.ids and one.id not in how.ids]
    photo_set = freed(frame, inside, things) if inside else frame.photo_set
    left = [one for one in photo_set.standing if one.id not in how.ids]
    line_ups = {
        key: one.model_copy(update={"standing": [name for name in one.standing if name not in how.ids]})
        for key, one in photo_set.line_ups.items()
    }
    used = {one.of.prop for one in left if isinstance(one.of, OfProp)}
    props = {key: prop for key, prop in photo_set.props.items() if key in used}
    changes = {"standing": left, "line_ups": line_ups, "props": props}
    return without_empty_groups(photo_set.model_copy(update=changes))


def _gather(frame: Frame, how: Gather, things: Mapping[str, Thing]) -> PhotoSet:
    photo_set = _part(frame, Part(ids=how.ids), things)
    key = free_key("group", photo_set.groups)
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
    return without_empty_groups(frame.photo_set.model_copy(update={"standing": standing}))


_HOW: dict[str, Callable[..., PhotoSet]] = {
    "stand": _stand,
    "copies": _copies,
    "row": _row,
    "arc": _arc,
    "stand-prop": stand_prop,
    "stand-model": stand_model,
    "scatter": scatter,
    "stack": stack,
    "align": align,
    "spread": spread_evenly,
    "face-camera": face_camera,
    "apart": _apart,
    "rest": rest,
    "take-away": _take_away,
    "gather": _gather,
    "part": _part,
    "put-in": put_in,
    "take-out": take_out,
    "hang-light": with_light,
    "hang-lights": with_lights,
    "highlight": with_highlight,
    "rim": with_rim,
    "clear-lights": clear_lights,
    "widen-sweep": widen_sweep,
    "set-up": with_setup,
}


def _spaced(widths: Sequence[float], gap: float) -> list[float]:
    """Middles of things of such widths side by side, about 0."""
    whole = sum(widths) + gap * (len(widths) - 1)
    places, at = [], -whole / 2
    for width in widths:
        places.append(at + width / 2)
        at += width + gap
    return places


def _way_out(first: Unit, second: Unit) -> Array:
    """The shortest move along x or y that parts the boxes of two units, away from the first."""
    a, b = room_of(first.placed), room_of(second.placed)
    ways = []
    for axis in (0, 1):
        forward = a.high[axis] - b.low[axis] + APART_MM
        back = b.high[axis] - a.low[axis] + APART_MM
        by = forward if b.middle[axis] >= a.middle[axis] else -back
        way = np.zeros(2)
        way[axis] = by
        ways.append(way)
    return min(ways, key=lambda way: float(np.abs(way).sum()))
