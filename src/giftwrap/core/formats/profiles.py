"""Half-profiles as drawings: SVG and DXF, read and written in mm.

A drawing shows the right half of a container's outside, the axis as a line of its own named "axis"
(an id in SVG, a layer in DXF). Drawings by others may show the whole outline instead: its middle is
then taken for the axis. Arcs that run smoothly into straight lines at both ends become roundings.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.formats.profile_dxf import read_dxf, write_dxf
from giftwrap.core.formats.profile_svg import read_svg, write_svg
from giftwrap.core.formats.strokes import JOIN, Stroke, chained, length_of, mirrored, moved, radius_of
from giftwrap.core.mesh.path import bulging
from giftwrap.core.model import Corner
from giftwrap.core.reading import DRAWING, read_apart

__all__ = ["ReadProfile", "read_outline", "read_profile", "write_dxf", "write_svg"]

TANGENT = math.radians(1.5)
MAX_CORNERS = 64
MAX_OUTLINE = 400
MAX_NOTES = 20


MAX_BYTES = 20_000_000
MAX_REACH = 5000.0
"""mm from the middle of a drawing: what lies further out is a mistake in its unit."""


@dataclass(frozen=True)
class ReadProfile:
    """A half-profile read from a drawing, and what was decided on the way."""

    corners: list[Corner]
    notes: list[str]


def read_profile(data: bytes, name: str) -> ReadProfile:
    """Read a half-profile from an SVG or DXF drawing.

    Raises PackError that says which line or entity could not be read, or what is missing, or that
    the drawing takes more to read than it may.
    """
    head = _read_apart("profile_answer", data, name)
    return ReadProfile([Corner.model_validate(corner) for corner in head["corners"]], list(head["notes"]))


def read_outline(data: bytes, name: str) -> list[tuple[float, float]]:
    """Read an outline seen from above from an SVG or DXF drawing: points in mm, y away from the front.

    Raises PackError as `read_profile` does, or when the outline is not closed.
    """
    return [(float(x), float(y)) for x, y in _read_apart("outline_answer", data, name)["points"]]


def _read_apart(call: str, data: bytes, name: str) -> dict[str, Any]:
    if len(data) > MAX_BYTES:
        raise PackError(
            f"{name} is {len(data) / 1e6:.0f} MB: a drawing may be at most {MAX_BYTES / 1e6:.0f} MB. Leave "
            "only the outline in it."
        )
    head: dict[str, Any]
    head, _ = read_apart(f"{__name__}:{call}", data, name, limits=DRAWING, refusal=PackError, name=name)
    return head


def profile_answer(data: bytes, name: str) -> tuple[dict[str, Any], bytes]:
    """`read_profile` as it is done in the reading process."""
    chains, axis, notes = _read(data, name)
    chain = max(chains, key=length_of)
    if len(chains) > 1:
        notes.append(f"{name} holds {len(chains)} lines: the longest was taken.")
    corners = _corners(_half(chain, axis, name, notes), name)
    return {"corners": [c.model_dump(mode="json") for c in corners], "notes": notes[:MAX_NOTES]}, b""


def outline_answer(data: bytes, name: str) -> tuple[dict[str, Any], bytes]:
    """`read_outline` as it is done in the reading process."""
    chains, _, _ = _read(data, name)
    chain = max(chains, key=length_of)
    if math.dist(chain[0].start, chain[-1].end) > JOIN:
        raise PackError(f"{name}: the outline is open. Close it where it was drawn.")
    points: list[tuple[float, float]] = []
    for stroke in chain:
        points.append(stroke.start)
        points += stroke.through or _along_arc(stroke)
    return {"points": [(round(x, 3), round(y, 3)) for x, y in points[:MAX_OUTLINE]]}, b""


def _along_arc(stroke: Stroke) -> list[tuple[float, float]]:
    if abs(stroke.bulge) < 1e-6:
        return []
    found = bulging(np.array(stroke.start), np.array(stroke.end), stroke.bulge).points[1:-1]
    return [(float(x), float(y)) for x, y in found[:: max(len(found) // 6, 1)]]


def _read(data: bytes, name: str) -> tuple[list[list[Stroke]], float | None, list[str]]:
    kind = name.lower().rsplit(".", 1)[-1]
    if kind not in ("svg", "dxf"):
        raise PackError(f"{name} is neither an SVG nor a DXF drawing: save it as one of these.")
    chains, axis, notes = (read_dxf if kind == "dxf" else read_svg)(data, name)
    if not chains:
        raise PackError(f"{name} holds no line that could be an outline: draw it as a path.")
    for stroke in (stroke for chain in chains for stroke in chain):
        for point in (stroke.start, stroke.end, *stroke.through):
            if not all(abs(value) <= MAX_REACH for value in point):
                raise PackError(
                    f"{name} reaches to {point[0]:.4g}, {point[1]:.4g} mm: at most {MAX_REACH:g} mm from its "
                    "origin can be read. Check its unit and move it to the origin."
                )
    return chains, axis, notes


def _half(chain: list[Stroke], axis: float | None, name: str, notes: list[str]) -> list[Stroke]:
    """The part of an outline on one side of its axis, drawn from the base up, the axis at 0."""
    xs = [x for p in chain for x in (p.start[0], p.end[0])]
    closed = math.dist(chain[0].start, chain[-1].end) < JOIN
    if axis is None:
        axis = (min(xs) + max(xs)) / 2 if closed else min(xs)
        where = "its middle" if closed else "its left end"
        notes.append(f"{name} names no axis: {where} was taken for it.")
    shifted = [moved(p, -axis, 0.0) for p in chain]
    if max(x - axis for x in xs) < 0.5 * (axis - min(xs)):
        shifted = [mirrored(p) for p in shifted]
    half = [
        p for p in shifted if p.start[0] > -JOIN and p.end[0] > -JOIN and max(p.start[0], p.end[0]) > JOIN
    ]
    chains = chained(half)
    if not chains:
        raise PackError(f"{name}: nothing lies to the right of the axis. Draw the right half of the outline.")
    best = max(chains, key=length_of)
    if best[0].start[1] > best[-1].end[1]:
        best = [p.reversed() for p in reversed(best)]
    while len(best) > 1 and _is_level(best[-1]) and best[-1].end[0] < JOIN:
        best.pop()
    while len(best) > 1 and best[0].start[0] < JOIN and _is_level(best[0]):
        best.pop(0)
    low = min(p.start[1] for p in best)
    return [moved(p, 0.0, -low) for p in best]


def _is_level(stroke: Stroke) -> bool:
    return abs(stroke.end[1] - stroke.start[1]) < JOIN and not stroke.through and abs(stroke.bulge) < JOIN


def _corners(strokes: list[Stroke], name: str) -> list[Corner]:
    """Corners of a half-profile; arcs that run into lines at both ends become roundings."""
    corners: list[Corner] = []
    index = 0
    start = _first_rounding(strokes)
    if start is not None:
        corners.append(start)
        index = 1
        strokes = [strokes[0], Stroke((start.radius, start.height), strokes[1].end), *strokes[2:]]
    while index < len(strokes):
        stroke = strokes[index]
        before = strokes[index - 1] if index else None
        after = strokes[index + 1] if index + 1 < len(strokes) else None
        rounded = _rounding(before, stroke, after)
        if rounded and corners:
            corners.append(rounded)
            assert after is not None
            strokes[index + 1] = Stroke((rounded.radius, rounded.height), after.end)
            index += 1
            continue
        if not corners or math.dist((corners[-1].radius, corners[-1].height), stroke.start) > JOIN:
            corners.append(_corner(stroke.start))
        if stroke.through:
            corners[-1] = corners[-1].model_copy(update={"leave": "curve"})
            corners += [_corner(point, leave="curve") for point in stroke.through]
        elif abs(stroke.bulge) > 1e-6:
            corners[-1] = corners[-1].model_copy(update={"leave": "arc", "bulge": round(stroke.bulge, 4)})
        if not _rounds_into(strokes, index):
            corners.append(_corner(stroke.end))
        index += 1
    kept = corners[:1] + [b for a, b in pairwise(corners) if _apart(a, b) > JOIN]
    if len(kept) > MAX_CORNERS:
        raise PackError(
            f"{name}: the profile has {len(kept)} corners, at most {MAX_CORNERS} can be worked with. "
            "Simplify the line where it was drawn."
        )
    if len(kept) < 2:
        raise PackError(f"{name}: the profile has only one point.")
    return kept


def _apart(a: Corner, b: Corner) -> float:
    return math.dist((a.radius, a.height), (b.radius, b.height))


def _rounds_into(strokes: list[Stroke], index: int) -> bool:
    """Whether the next stroke is a rounding, so that this one's end is no corner."""
    if index + 2 >= len(strokes):
        return False
    return _rounding(strokes[index], strokes[index + 1], strokes[index + 2]) is not None


def _first_rounding(strokes: list[Stroke]) -> Corner | None:
    """The rounding of the base's edge: an arc that leaves the table level and runs into a line."""
    if len(strokes) < 2:
        return None
    arc, after = strokes[0], strokes[1]
    flat = Stroke((0.0, arc.start[1]), arc.start)
    return _rounding(flat, arc, after) if arc.start[0] > JOIN else None


def _rounding(before: Stroke | None, arc: Stroke, after: Stroke | None) -> Corner | None:
    """The corner an arc rounds when it touches straight lines at both ends."""
    if before is None or after is None or abs(arc.bulge) < 1e-6 or arc.through:
        return None
    if before.through or after.through or abs(before.bulge) > 1e-6 or abs(after.bulge) > 1e-6:
        return None
    a, b = _way(before), _way(after)
    turn = math.atan2(a[0] * b[1] - a[1] * b[0], a[0] * b[0] + a[1] * b[1])
    if abs(turn) < TANGENT or abs(turn) > math.pi - TANGENT:
        return None
    chord = math.dist(arc.start, arc.end)
    sweep = 4 * math.atan(2 * arc.bulge / chord)
    # an arc bulging to the right turns left
    if abs(sweep - turn) > TANGENT:
        return None
    along = math.atan2(arc.end[1] - arc.start[1], arc.end[0] - arc.start[0])
    entering = along - sweep / 2
    leaning = math.atan2(a[1], a[0]) - entering
    if abs((leaning + math.pi) % (2 * math.pi) - math.pi) > TANGENT:
        return None
    radius = radius_of(arc)
    reach = radius * math.tan(abs(turn) / 2)
    return _corner((arc.start[0] + a[0] * reach, arc.start[1] + a[1] * reach), rounding=round(radius, 4))


def _way(stroke: Stroke) -> tuple[float, float]:
    length = math.dist(stroke.start, stroke.end)
    return (stroke.end[0] - stroke.start[0]) / length, (stroke.end[1] - stroke.start[1]) / length


def _corner(point: tuple[float, float], **more: Any) -> Corner:
    return Corner(
        radius=round(max(point[0], 0.0), 4),
        height=round(max(point[1], 0.0), 4),
        **more,
    )
