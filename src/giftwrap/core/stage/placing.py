"""Putting things on what is there: put down, strewn, at rest, stacked, in line, facing the camera."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.random import Generator, default_rng

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import shift, turn
from giftwrap.core.model import Frame, Group, MadeProp, OfProp, PhotoSet, Pose, Prop, ReceivedProp, Standing
from giftwrap.core.model.arrangement import (
    Align,
    FaceCamera,
    Rest,
    Scatter,
    SpreadEvenly,
    Stack,
    StandModel,
    StandProp,
)
from giftwrap.core.model.frame import PROP
from giftwrap.core.model.prop import MOST_PROPS, PropName
from giftwrap.core.props.kinds import KINDS, usual
from giftwrap.core.stage.camera import view_of
from giftwrap.core.stage.fitting import fitted_camera
from giftwrap.core.stage.resting import come_to_rest
from giftwrap.core.stage.standing import (
    ON_THE_FLOOR,
    Placed,
    beside,
    crossings,
    extent_of,
    footprint,
    line_up,
    lowest,
    pose_matrix,
    pose_of,
    room_of,
)
from giftwrap.core.stage.units import added, free_key, shifted, span, stood_at, units_of
from giftwrap.core.things.making import thing_of_prop
from giftwrap.core.things.thing import Thing

MOST_STANDING = 400
VARIANTS = 6
"""Different ones of a kind among those that are strewn: each is a thing of its own to be made."""
TRIES = 60
LEANS = 35.0
"""Degrees that what is strewn may lean on what it lies on."""
THROWN = "thrown"
NEW = f"{PROP}new"
"""Key among the things of what is not on the set yet."""
AIR = 1.5
"""Mm between what is strewn."""
Things = Mapping[str, Thing]


def stand_prop(frame: Frame, how: StandProp, things: Things) -> PhotoSet:
    """A set with a prop more."""
    prop = usual(how.what, seed=_free_seed(frame, how.what))
    thing, placed = thing_of_prop(prop), line_up(frame, things)
    if how.x is not None and how.y is not None:
        there = Placed("", NEW, thing, shift(how.x, how.y, 0.0))
        pose = come_to_rest(there, placed, upright=_built(prop), above=True).pose
    else:
        there = Placed("", NEW, thing, pose_matrix(beside(placed, thing)))
        pose = come_to_rest(there, [], upright=_built(prop)).pose
    return _stood(frame, how.what, prop, pose)


def stand_model(frame: Frame, how: StandModel, things: Things) -> PhotoSet:
    """A set with a received model more as a prop; `things` has it under `NEW`."""
    there = Placed("", NEW, things[NEW], pose_matrix(beside(line_up(frame, things), things[NEW])))
    pose = come_to_rest(there, [], upright=True).pose
    name = re.sub(r"[^a-z0-9]+", "-", how.received.file.rsplit(".", 1)[0].lower()).strip("-")
    return _stood(frame, name or "model", ReceivedProp(received=how.received), pose)


def _stood(frame: Frame, name: str, prop: Prop, pose: Array) -> PhotoSet:
    _refuse_more_props(frame, 1)
    key = free_key(name, frame.photo_set.props)
    with_it = frame.model_copy(update={"photo_set": _with_props(frame.photo_set, {key: prop})})
    return added(with_it, [[Standing(id=key, of=OfProp(prop=key), pose=pose_of(pose, Pose()))]])


def _built(prop: MadeProp) -> bool:
    """Whether it stands as it was made: only what is found comes to lie."""
    return not KINDS[prop.what].varies


def _free_seed(frame: Frame, what: PropName) -> int:
    """One that none of its kind on the set has."""
    props = frame.photo_set.props.values()
    taken = {prop.seed for prop in props if isinstance(prop, MadeProp) and prop.what == what}
    return next(seed for seed in range(MOST_PROPS + 1) if seed not in taken)


def _with_props(photo_set: PhotoSet, props: Mapping[str, Prop]) -> PhotoSet:
    return photo_set.model_copy(update={"props": {**photo_set.props, **props}})


def _refuse_more_props(frame: Frame, count: int) -> None:
    if len(frame.photo_set.props) + count > MOST_PROPS:
        raise PackError(
            f"At most {MOST_PROPS} different props are on a set: take some away first, or copy one that is "
            "there.",
            "what",
        )


def scatter(frame: Frame, how: Scatter, things: Things) -> PhotoSet:
    """A set over which props are strewn. Raises PackError when none finds room."""
    rng = default_rng(how.seed)
    photo_set = frame.photo_set
    count = min(how.count, MOST_STANDING - len(photo_set.standing))
    if count < 1:
        raise PackError(f"At most {MOST_STANDING} things stand on a set: take some away first.", "count")
    per_kind = max(min(VARIANTS, count // len(how.what)), 1)
    _refuse_more_props(frame, per_kind * len(how.what))
    kinds: dict[str, MadeProp] = {}
    for what in how.what:
        for _ in range(per_kind):
            key = free_key(what, {*photo_set.props, *kinds})
            kinds[key] = _varied(
                usual(what, seed=int(rng.integers(10_000))), 1 + how.varies * rng.uniform(-1, 1)
            )
    made = {key: Placed(key, f"{PROP}{key}", thing_of_prop(prop), np.eye(4)) for key, prop in kinds.items()}
    lying = {
        key: replace(one, pose=come_to_rest(one, [], upright=_built(kinds[key])).pose)
        for key, one in made.items()
    }
    ground = _Ground(line_up(frame, things))
    strewn = []
    for number in range(count):
        key = list(kinds)[(number % len(how.what)) * per_kind + (number // len(how.what)) % per_kind]
        pose = _thrown(rng, how, lying[key], ground)
        if pose is not None:
            strewn.append((key, pose))
    if not strewn:
        raise PackError(
            f"Nothing finds room on {how.across:g} × {how.deep:g} mm there: make it larger, or move it.",
            "across",
        )
    used = {key for key, _ in strewn}
    group = free_key(f"strewn-{how.what[0]}", photo_set.groups)
    groups = {**photo_set.groups, group: Group(name=_called(how.what, len(strewn)))}
    photo_set = _with_props(photo_set, {key: kinds[key] for key in kinds if key in used})
    photo_set = photo_set.model_copy(update={"groups": groups})
    standing = [
        Standing(id=key, of=OfProp(prop=key), pose=pose_of(pose, Pose()), group=group) for key, pose in strewn
    ]
    return added(frame.model_copy(update={"photo_set": photo_set}), [[one] for one in standing])


def _called(what: Sequence[PropName], count: int) -> str:
    names = " and ".join(KINDS[one].title.lower() for one in what[:2])
    return f"{count} strewn: {names}{' …' if len(what) > 2 else ''}"


def _varied(prop: MadeProp, factor: float) -> MadeProp:
    sizes = {side: round(getattr(prop, side) * factor, 2) for side in ("width", "depth", "height")}
    return prop.model_copy(update=sizes)


class _Ground:
    """What is there when something is thrown, and what has been thrown."""

    def __init__(self, placed: Sequence[Placed]) -> None:
        self.placed = list(placed)
        self.prints = [footprint(one) for one in placed]
        self.there = len(placed)

    def near(self, one: Placed) -> list[int]:
        """Numbers of what it would touch or lie over."""
        reach = footprint(one).buffer(AIR)
        return [int(k) for k in np.flatnonzero(shapely.intersects(self.prints, reach))] if self.prints else []

    def may_carry(self, number: int) -> bool:
        """Whether it is a prop that was there before."""
        return number < self.there and self.placed[number].is_prop

    def add(self, one: Placed) -> None:
        """It lies there now."""
        self.placed.append(one)
        self.prints.append(footprint(one))


def _thrown(rng: Generator, how: Scatter, lying: Placed, ground: _Ground) -> Array | None:
    """Where something comes to lie that lies like this on the floor; None when it finds no room."""
    for _ in range(TRIES):
        away, way = np.sqrt(rng.uniform()), rng.uniform(0, 2 * np.pi)
        x, y = how.x + how.across / 2 * away * np.cos(way), how.y + how.deep / 2 * away * np.sin(way)
        turned = turn(float(rng.uniform(-how.turns, how.turns)))
        one = replace(lying, pose=shift(float(x), float(y), 0.0) @ turned @ lying.pose)
        near = ground.near(one)
        if not all(map(ground.may_carry, near)):
            continue
        if near:
            beneath = [ground.placed[k] for k in near]
            found = come_to_rest(one, beneath, above=True)
            one = replace(one, id=THROWN, pose=found.pose)
            if not found.stands or found.leans > LEANS:
                continue
            if any(THROWN in pair for pair in crossings([*beneath, one])):
                continue
        ground.add(one)
        return one.pose
    return None


def rest(frame: Frame, how: Rest, things: Things) -> PhotoSet:
    """Things let down, the lowest first. Raises PackError when what is asked for would not stay there."""
    free = {one.id for one in frame.photo_set.standing if one.inside is None}
    placed = line_up(frame, things)
    wanted = [one for one in placed if one.id in how.ids and one.id in free]
    there = {one.id: one for one in placed if one.id in free and one not in wanted}
    poses, tipped = {}, []
    for one in sorted(wanted, key=lambda one: float(one.pose[2, 3])):
        found = come_to_rest(one, list(there.values()), upright=_upright(one, frame))
        if not found.stands:  # what rolls is held as it was, where it is carried at all
            found = come_to_rest(one, list(there.values()), upright=True)
        if not found.stands and lowest(replace(one, pose=found.pose)) > ON_THE_FLOOR:
            tipped.append(one.id)
        else:
            poses[one.id] = found.pose
        there[one.id] = replace(one, pose=poses.get(one.id, one.pose))
    if tipped and not poses:
        raise PackError(
            f"“{tipped[0]}” would tip over there: move it further onto what is beneath it, or off it.", "ids"
        )
    return stood_at(frame.photo_set, poses)


def _upright(one: Placed, frame: Frame) -> bool:
    """Whether something is not to lean: packs, and what is built."""
    prop = frame.photo_set.props.get(one.key.removeprefix(PROP)) if one.is_prop else None
    return not isinstance(prop, MadeProp) or _built(prop)


def stack(frame: Frame, how: Stack, things: Things) -> PhotoSet:
    """Things on top of each other, where the lowest stands. Raises PackError when one would not stay."""
    free = {one.id for one in frame.photo_set.standing if one.inside is None}
    wanted = [one for one in line_up(frame, things) if one.id in how.ids and one.id in free]
    wanted.sort(key=lambda one: -footprint(one).area)
    poses: dict[str, Array] = {}
    pile: list[Placed] = []
    for one in wanted:
        pose = one.pose
        if pile:
            own, under = room_of([one]).middle, room_of(pile[-1:]).middle
            pose = shift(under[0] - own[0], under[1] - own[1], 0.0) @ pose
        found = come_to_rest(replace(one, pose=pose), pile, upright=_upright(one, frame), above=True)
        if not found.stands and pile:
            raise PackError(
                f"“{one.id}” would not stay on “{pile[-1].id}”: stack it on something flatter.", "ids"
            )
        pile.append(replace(one, pose=found.pose))
        poses[one.id] = found.pose
    return stood_at(frame.photo_set, poses)


_SIDES = {
    "left": (0, 0.0),
    "middle": (0, 0.5),
    "right": (0, 1.0),
    "front": (1, 0.0),
    "centre": (1, 0.5),
    "back": (1, 1.0),
}
"""By which axis things are put in line, and where between their edges."""


def align(frame: Frame, how: Align, things: Things) -> PhotoSet:
    """Things in one line."""
    axis, share = _SIDES[how.to]
    along = np.eye(2)[axis]
    units = units_of(frame, how.ids, things)
    ends = [span(unit.placed, along) for unit in units]
    if not ends:
        return frame.photo_set
    low, high = min(e[0] for e in ends), max(e[1] for e in ends)
    line = low + share * (high - low)
    result = frame.photo_set
    for unit, (first, last) in zip(units, ends, strict=True):
        result = shifted(result, unit, along * (line - first - share * (last - first)))
    return result


def spread_evenly(frame: Frame, how: SpreadEvenly, things: Things) -> PhotoSet:
    """Things with the same air between them. Raises PackError for fewer than three."""
    along = np.eye(2)[0 if how.along == "across" else 1]
    units = sorted(units_of(frame, how.ids, things), key=lambda unit: float(unit.middle @ along))
    if len(units) < 3:
        raise PackError("At least three things are spread evenly: choose more.", "ids")
    ends = [span(unit.placed, along) for unit in units]
    taken = sum(last - first for first, last in ends)
    gap = (ends[-1][1] - ends[0][0] - taken) / (len(units) - 1)
    result, at = frame.photo_set, ends[0][0]
    for unit, (first, last) in zip(units, ends, strict=True):
        result = shifted(result, unit, along * (at - first))
        at += last - first + gap
    return result


def face_camera(frame: Frame, how: FaceCamera, things: Things) -> PhotoSet:
    """Things whose fronts face the camera."""
    placed = line_up(frame, things)
    eye = np.array(
        view_of(fitted_camera(frame.shot, extent_of(placed), frame.shot.aspect), frame.shot.aspect).position
    )
    poses = {}
    for one in placed:
        if one.id not in how.ids:
            continue
        there = one.pose[:3, 3]
        away = eye[:2] - there[:2]
        wanted = np.degrees(np.arctan2(away[0], -away[1]))
        now = np.degrees(np.arctan2(one.pose[1, 0], one.pose[0, 0]))
        x, y, z = map(float, there)
        poses[one.id] = shift(x, y, z) @ turn(float(wanted - now)) @ shift(-x, -y, -z) @ one.pose
    inside = {one.id for one in frame.photo_set.standing if one.inside is not None}
    return stood_at(frame.photo_set, {key: pose for key, pose in poses.items() if key not in inside})
