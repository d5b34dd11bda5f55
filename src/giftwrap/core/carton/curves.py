"""Curved creases as they are drawn: the tube that they bend a blank to."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from scipy.optimize import minimize_scalar
from shapely import Polygon

from giftwrap.core.carton.blank import Blank, Crease, FlatPanel
from giftwrap.core.carton.section import Bend, Bending, End, Section, crease_level
from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array

OFF = 1.0
"""Mm by which a drawn crease may lie beside the curve that a tube has there."""
ROUNDEST, FLATTEST = 1.5, 0.05
"""Radians that the outermost rulings of a bent panel lean, at most and at least."""
AT, UPRIGHT, LEAST_TURN = 0.01, 1e-4, 0.5
"""Mm within which panels meet at a crease; radians off upright; degrees some crease must be folded by."""
RIGHT, WHOLE = 90.0, 360.0
TIGHTEST = 0.1
"""A tube closes where its ends are apart by less than this share of its radius: one lies in the other."""


def upright(blank: Blank) -> Blank:
    """A blank with curved creases, turned so that its longest straight one goes up."""
    straight = [crease for crease in blank.creases if not crease.curve]
    if not straight or len(straight) == len(blank.creases):
        return blank
    longest = max(straight, key=lambda crease: crease.length)
    x, y = np.subtract(longest.end, longest.start)
    degrees = 90.0 - float(np.degrees(np.arctan2(y, x)))
    return _turned(blank, degrees) if abs((degrees + 90) % 180 - 90) > np.degrees(UPRIGHT) else blank


def _turned(blank: Blank, degrees: float) -> Blank:
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))

    def place(at: tuple[float, float]) -> tuple[float, float]:
        return float(c * at[0] - s * at[1]), float(s * at[0] + c * at[1])

    return _placed(blank, place)


def _placed(blank: Blank, place: Callable[[tuple[float, float]], tuple[float, float]]) -> Blank:
    """A blank with every place on it moved."""
    panels = (replace(panel, outline=_moved(panel.outline, place)) for panel in blank.panels)
    creases = (
        replace(k, start=place(k.start), end=place(k.end), curve=tuple(place(at) for at in k.curve))
        for k in blank.creases
    )
    return replace(blank, panels=tuple(panels), creases=tuple(creases))


def _moved(outline: Polygon, place: Callable[[tuple[float, float]], tuple[float, float]]) -> Polygon:
    rings = [[place((x, y)) for x, y in ring.coords] for ring in (outline.exterior, *outline.interiors)]
    return Polygon(rings[0], rings[1:])


def bending_of(blank: Blank) -> Bending | None:
    """The tube that the curved creases of a blank bend it to: every crease lies where a plane at 45° cuts
    it, which unrolls to a cosine (textbook descriptive geometry, from memory). None where all are straight.

    Raises PackError when there is no such tube.
    """
    curved = [crease for crease in blank.creases if crease.curve]
    if not curved:
        return None
    flaps = {crease.child for crease in curved}
    walls = sorted((p for p in blank.panels if p.name not in flaps), key=lambda p: p.outline.bounds[0])
    angles = _folds(blank, walls, flaps)
    fitted = {
        wall.name: _fitted(wall, [crease for crease in curved if crease.parent == wall.name])
        for wall in walls
    }
    turns = [fitted[wall.name][0] for wall in walls]
    bends = [
        Bend(*_across(wall), float(np.degrees(turn)), angle)
        for wall, turn, angle in zip(walls, turns, angles, strict=True)
    ]
    held = sum(_across(blank.panels[0])) / 2
    ends = tuple(end for wall in walls for end in fitted[wall.name][1])
    return Bending(tuple(_glued(bends)), held, ends)


def _across(wall: FlatPanel) -> tuple[float, float]:
    left, _, right, _ = wall.outline.bounds
    return float(left), float(right)


def _folds(blank: Blank, walls: Sequence[FlatPanel], flaps: set[str]) -> list[float]:
    """Degrees of the crease on the left of each wall of a tube; 0 of the first."""
    before = {wall.name: float("nan") for wall in walls} | {walls[0].name: 0.0}
    names = [wall.name for wall in walls]
    for crease in blank.creases:
        if crease.parent in flaps:
            raise PackError(
                f"The {crease.child} hangs on the {crease.parent}, which is pressed in along a curve: "
                "nothing can be folded from that. Say which of these lines are no creases.",
                "own",
            )
        if crease.curve:
            continue
        left, right = sorted((names.index(crease.parent), names.index(crease.child)))
        (x, foot), (x1, top) = crease.start, crease.end
        if right != left + 1 or abs(x1 - x) > max(UPRIGHT * abs(top - foot), AT):
            raise PackError(
                f"Curved creases bend the whole blank, so that it cannot be folded across them, as the "
                f"{crease.child} would be near {x:.1f}, {foot:.1f} mm. Its straight creases all go one way.",
                "own",
            )
        before[names[right]] = crease.angle
    if not max((abs(angle) for angle in before.values()), default=0.0) > LEAST_TURN:
        raise PackError("A blank with curved creases needs a straight one to be folded by.", "own")
    return list(before.values())


def _fitted(wall: FlatPanel, creases: Sequence[Crease]) -> tuple[float, list[End]]:
    """Radians by which a wall turns, and its ends, from the curves at these. 0 where it has none."""
    if not creases:
        return 0.0, []
    left, right = _across(wall)
    points = [np.array(crease.curve) for crease in creases]
    ways = [1 if wall.outline.centroid.y < curve[:, 1].mean() else -1 for curve in points]

    def levels(half: float) -> list[Array]:
        radius = (right - left) / 2 / half
        return [
            curve[:, 1] + way * radius * (np.cos((curve[:, 0] - (left + right) / 2) / radius) - np.cos(half))
            for curve, way in zip(points, ways, strict=True)
        ]

    def spread(half: float) -> float:
        return float(sum(np.var(level) for level in levels(half)))

    best = minimize_scalar(spread, bounds=(FLATTEST, ROUNDEST), method="bounded", options={"xatol": 1e-12})
    found = levels(best.x)
    for crease, level in zip(creases, found, strict=True):
        off = float(np.abs(level - level.mean()).max())
        if off > OFF:
            x, y = crease.curve[len(crease.curve) // 2]
            raise PackError(
                f"Board cannot be bent to the curve that the {crease.child} is creased along, near {x:.1f}, "
                f"{y:.1f} mm: it lies {off:.1f} mm beside the nearest that a round tube has there, and "
                f"{OFF:g} mm is the most.",
                "own",
            )
    ends = [
        End(crease.child, wall.name, way, float(level.mean()), (left, right))
        for crease, way, level in zip(creases, ways, found, strict=True)
    ]
    return 2 * float(best.x), ends


def _glued(bends: list[Bend]) -> list[Bend]:
    """Flat flaps at a tube's sides are bent as what they are glued to, from within where it closes."""
    main = [index for index, bend in enumerate(bends) if bend.turn]
    if not main:
        return bends
    first, last = main[0], main[-1]
    closed = Section(bends[first : last + 1], bends[first].start, 1.0, 0.0)
    ends = closed.sharp(np.array([bends[first].start, bends[last].end]))[0]
    lap = float(np.linalg.norm(ends[1] - ends[0]))
    for index in {0, len(bends) - 1} - set(main):
        beside = bends[first if index == 0 else last]
        radius = (beside.end - beside.start) / np.radians(beside.turn)
        within = radius - lap if lap < TIGHTEST * radius else radius
        long = bends[index].end - bends[index].start
        bends[index] = replace(bends[index], turn=float(np.degrees(long / within)))
    return bends


def settled(blank: Blank, bending: Bending) -> tuple[Blank, float]:
    """A blank whose curved creases lie exactly where its tube has them; and by how many mm the farthest was
    moved."""
    closed = Section(bending.bends, bending.held, 1.0, 0.0)
    ends = {end.panel: end for end in bending.ends}
    moved: dict[tuple[float, float], tuple[float, float]] = {}
    for crease in blank.creases:
        if crease.curve:
            across = np.array(crease.curve)[:, 0]
            level = crease_level(closed, ends[crease.child], across)
            there = zip(across.tolist(), level.tolist(), strict=True)
            moved.update(zip(crease.curve, there, strict=True))
    farthest = max(float(np.hypot(*np.subtract(one, other))) for one, other in moved.items())

    def place(at: tuple[float, float]) -> tuple[float, float]:
        return moved.get(at, at)

    return _placed(blank, place), farthest


def proposed(blank: Blank) -> Blank:
    """A blank with curved creases whose flaps are pressed in after its tube is closed, at each end the
    innermost first. Its straight creases fold so far that it closes, all alike, but for those whose angle is
    no right one."""
    bending = bending_of(blank)
    if bending is None:
        return blank
    steps: dict[str, int] = {}
    for way in (-1, 1):
        inwards = sorted((end for end in bending.ends if end.way == way), key=lambda end: way * end.level)
        steps |= {end.panel: step for step, end in enumerate(inwards, start=1)}
    curved = {end.of for end in bending.ends}
    turns = [
        bend.turn
        for bend in bending.bends
        if any(_across(blank.by_name[name]) == (bend.start, bend.end) for name in curved)
    ]
    corner = (WHOLE - sum(turns)) / len(turns)
    creases = (
        replace(
            crease,
            step=steps.get(crease.child, crease.step),
            angle=corner if not crease.curve and crease.angle == RIGHT else crease.angle,
        )
        for crease in blank.creases
    )
    return replace(blank, creases=tuple(creases))
