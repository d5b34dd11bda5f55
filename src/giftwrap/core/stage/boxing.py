"""Putting things into boxes that stand on the set, and taking them out."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.model import Frame, PhotoSet, Pose, Standing
from giftwrap.core.model.arrangement import PutIn, TakeOut
from giftwrap.core.stage.standing import Placed, beside, line_up, pose_matrix, pose_of, rested
from giftwrap.core.things.thing import Inside, Thing

TAKEN = 1.0
"""Mm from a hole's middle within which something stands in it."""
AIR = 1.0
"""Mm between things side by side in a box."""


def put_in(frame: Frame, how: PutIn, things: Mapping[str, Thing]) -> PhotoSet:
    """Things stood in a box. Raises PackError when it is none, is to be seen nowhere, or lacks room."""
    placed = {one.id: one for one in line_up(frame, things)}
    box = placed.get(how.box)
    if box is None or box.thing.inside is None:
        raise PackError(f"“{how.box}” is no box that stands here: choose a carton on the set.", "box")
    around = {how.box, *(one.id for one in _boxes(frame, how.box))}
    chosen = [placed[name] for name in how.ids if name in placed and name not in around]
    if not chosen:
        raise PackError("Nothing that is chosen can stand in it: choose a pack on the set.", "ids")
    ids = {one.id for one in chosen}
    inside = box.thing.inside
    there = [one.pose for one in frame.photo_set.standing if one.inside == how.box and one.id not in ids]
    places = _in_holes(inside, there, chosen) if inside.holes else _side_by_side(inside, chosen)
    poses = {
        one.id: _upright(one, Pose(x=round(x, 3), y=round(y, 3)))
        for one, (x, y) in zip(chosen, places, strict=True)
    }
    standing = [
        one.model_copy(update={"inside": how.box, "group": None, "pose": poses[one.id]})
        if one.id in poses
        else one
        for one in frame.photo_set.standing
    ]
    return frame.photo_set.model_copy(update={"standing": standing})


def _boxes(frame: Frame, name: str) -> Sequence[Standing]:
    return frame.photo_set.boxes_around(next(one for one in frame.photo_set.standing if one.id == name))


def _in_holes(inside: Inside, there: Sequence[Pose], chosen: Sequence[Placed]) -> list[tuple[float, float]]:
    free = [
        hole for hole in inside.holes if all(np.hypot(p.x - hole[0], p.y - hole[1]) > TAKEN for p in there)
    ]
    if len(free) < len(chosen):
        raise PackError(
            f"{len(chosen)} things do not find a hole each: {len(free)} of the insert's {len(inside.holes)} "
            "are free. Choose fewer, or cut more holes.",
            "ids",
        )
    return free[: len(chosen)]


def _side_by_side(inside: Inside, chosen: Sequence[Placed]) -> list[tuple[float, float]]:
    """From left to right, all together in the middle."""
    sizes = [np.subtract(one.thing.extent.high, one.thing.extent.low) for one in chosen]
    whole = sum(float(size[0]) for size in sizes) + AIR * (len(sizes) - 1)
    deep = max(float(size[1]) for size in sizes)
    if whole > inside.room[0] or deep > inside.room[1]:
        raise PackError(
            f"They take up {whole:.1f} × {deep:.1f} mm side by side, and the box is {inside.room[0]:g} × "
            f"{inside.room[1]:g} mm inside: choose fewer, or make it larger.",
            "ids",
        )
    places, at = [], -whole / 2
    for one, size in zip(chosen, sizes, strict=True):
        places.append((at - one.thing.extent.low[0], -one.thing.extent.middle[1]))
        at += float(size[0]) + AIR
    return places


def take_out(frame: Frame, how: TakeOut, things: Mapping[str, Thing]) -> PhotoSet:
    """Things that stood in boxes beside everything, one after the other."""
    photo_set = frame.photo_set
    for name in how.ids:
        now = frame.model_copy(update={"photo_set": photo_set})
        placed = line_up(now, things)
        own = next((one for one in placed if one.id == name), None)
        others = [one for one in placed if one.id != name]
        photo_set = _reposed(
            photo_set, {name: Pose() if own is None else _upright(own, beside(others, own.thing))}
        )
    return photo_set


def _upright(one: Placed, pose: Pose) -> Pose:
    """A pose with something upright on the floor there."""
    return rested(pose, Placed(one.id, one.key, one.thing, pose_matrix(pose)))


def freed(frame: Frame, ids: Collection[str], things: Mapping[str, Thing]) -> PhotoSet:
    """Things that stand where they did, on the floor, and in no box any more."""
    poses = {}
    for one in line_up(frame, things):
        if one.id in ids:
            poses[one.id] = rested(pose_of(one.pose, Pose()), one)
    return _reposed(frame.photo_set, {name: poses.get(name, Pose()) for name in ids})


def _reposed(photo_set: PhotoSet, poses: Mapping[str, Pose]) -> PhotoSet:
    standing = [
        one.model_copy(update={"inside": None, "pose": poses[one.id]})
        if one.id in poses and one.inside is not None
        else one
        for one in photo_set.standing
    ]
    return photo_set.model_copy(update={"standing": standing})
