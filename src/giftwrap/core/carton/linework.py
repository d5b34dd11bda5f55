"""From the lines of a drawing to a blank: panels between them, and the tree of creases they hang by."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from shapely import (
    LineString,
    MultiLineString,
    Point,
    Polygon,
    STRtree,
    line_merge,
    polygonize,
    set_precision,
    unary_union,
    union_all,
)
from shapely.geometry.base import BaseGeometry

from giftwrap.core.carton.blank import Blank, Draft, Tear
from giftwrap.core.carton.curves import RIGHT, bending_of, proposed, settled, upright
from giftwrap.core.carton.folding import MOST_FOLD, Folded, angles_at
from giftwrap.core.errors import PackError

TOLERANCE = 0.3
"""Mm within which lines that nearly meet are joined."""
GRID = 1e-4
"""Mm to which places are rounded where lines meet."""
LEAST_PANEL = 4.0
"""Mm² below which what lies between lines is no panel but a slip of the pen."""
LEAST_CREASE = 0.5
CUT, TIE = 3.0, 1.0
"""Mm of a perforation that are cut and that are left, which drawings do not say (common practice)."""
MOST_LINES = 4000
LEAST_CURVE, MOST_CORNER = 6, 20.0
"""Points that a curved crease is drawn by at least, and degrees between two of its steps at most."""
CLOSE = 0.05
"""Mm by which lines may be moved without saying so."""
AT_CREASE, MEETS = 0.5, 0.1
"""Mm within which an angle is written at a crease's middle, and creases in a circle meet when closed."""
_ANGLE = re.compile(r"\s*([-−]?\d{1,3}(?:\.\d+)?)\s*°\s*")


@dataclass(frozen=True)
class FoundBlank:
    """A blank read from lines, and what was joined, left out or supposed on the way."""

    blank: Blank
    notes: tuple[str, ...]


def blank_from_lines(
    cuts: Sequence[LineString],
    creases: Sequence[LineString],
    *,
    tears: Sequence[LineString] = (),
    names: Sequence[tuple[str, tuple[float, float]]] = (),
    tolerance: float = TOLERANCE,
) -> FoundBlank:
    """Find the panels of a blank and how they hang together; each crease is proposed to close at 90° unless
    an angle is written at its middle. Creases in a circle are taken if by such angles they meet; curved ones
    if a tube can be pressed in along them, and then the blank is turned for that to go up on it.

    tears : perforations; of each straight one that lies in a panel that panel tears
    names : of panels, and a place inside each

    Raises PackError when the outline is open, no panel is found, or the panels do not hang together as a
    tree.
    """
    if not cuts:
        raise PackError("There is no cut line: say which lines are cut.")
    if len(cuts) + len(creases) > MOST_LINES:
        raise PackError(f"{len(cuts) + len(creases)} lines are more than the {MOST_LINES} that can be read.")
    notes: list[str] = []
    cut, crease, joined = _joined(list(cuts), list(creases), tolerance)
    if joined:
        notes.append(f"{joined} ends that nearly met (within {tolerance:g} mm) were joined.")
    network = set_precision(union_all([*cut, *crease], grid_size=GRID), GRID)
    faces = [Polygon(face.exterior, face.interiors) for face in polygonize([network]).geoms]
    outline = unary_union(list(polygonize([union_all(cut, grid_size=GRID)]).geoms))
    if outline.is_empty:
        raise PackError(f"The outline is open: its cut lines do not close.{_where(cut)}")
    panels = [face for face in faces if face.area >= LEAST_PANEL]
    if len(panels) < len(faces):
        notes.append(f"{len(faces) - len(panels)} slivers of less than {LEAST_PANEL:g} mm² were left out.")
    hinges = _hinges(panels, crease, _angles_in(names))
    tree, closing = _tree(panels, hinges)
    windows = len(panels) - len(tree) - 1
    if windows:
        notes.append(f"{windows} areas that no crease joins to the rest are taken for windows.")
    blank = _hung(panels, tree, closing, [(word, at) for word, at in names if not _ANGLE.fullmatch(word)])
    _refuse_circles(blank)
    blank = proposed(upright(blank))
    bending = bending_of(blank)
    if bending is not None:
        blank, off = settled(blank, bending)
        if off > CLOSE:
            notes.append(f"Curved creases were moved by up to {off:.2f} mm, to where a round tube has them.")
    torn = [tear for line in tears if (tear := _tear(blank, line)) is not None]
    if len(torn) < len(tears):
        notes.append(f"{len(tears) - len(torn)} perforations that are bent or in no panel were left out.")
    return FoundBlank(replace(blank, tears=tuple(torn)), tuple(notes))


def _tear(blank: Blank, line: LineString) -> Tear | None:
    """A perforation of a blank, cut and left as usual."""
    if _straight(np.array(line.coords)) is None or line.length < CUT + TIE:
        return None
    middle = line.interpolate(0.5, normalized=True)
    panel = next((p for p in blank.panels if p.outline.buffer(GRID).contains(middle)), None)
    return None if panel is None else Tear(panel.name, line, CUT, TIE)


def _joined(
    cuts: list[LineString], creases: list[LineString], tolerance: float
) -> tuple[list[BaseGeometry], list[BaseGeometry], int]:
    """Lines whose loose ends are moved onto the lines they nearly meet; and how many were."""
    lines = cuts + creases
    tree = STRtree(lines)
    joined = 0
    for number, line in enumerate(lines):
        points = np.array(line.coords)
        if np.allclose(points[0], points[-1]):
            continue
        for end in (0, -1):
            at = Point(points[end])
            near = [i for i in tree.query(at.buffer(2 * tolerance)) if i != number]
            gap, nearest = min(((lines[i].distance(at), i) for i in near), default=(np.inf, -1))
            if 1e-9 < gap <= tolerance:
                joined += gap > 1e-3
                points[end] = _met(at, lines[nearest], tolerance)
        lines[number] = LineString(points)
    return list(lines[: len(cuts)]), list(lines[len(cuts) :]), joined


def _met(at: Point, line: LineString, tolerance: float) -> tuple[float, float]:
    """Where an end meets a line: at one of its own ends if that is near enough."""
    ends = (Point(line.coords[0]), Point(line.coords[-1]))
    nearest = min(ends, key=at.distance)
    place = nearest if at.distance(nearest) <= tolerance else line.interpolate(line.project(at))
    return float(place.x), float(place.y)


@dataclass(frozen=True)
class _Hinge:
    """A crease between two faces, by their numbers, and its degrees when closed; it may be a curve."""

    one: int
    other: int
    line: LineString
    angle: float


def _angles_in(names: Sequence[tuple[str, tuple[float, float]]]) -> list[tuple[float, Point]]:
    """The angles that are written on a drawing, and where."""
    found = ((_ANGLE.fullmatch(word), Point(at)) for word, at in names)
    return [(float(met[1].replace("−", "-")), at) for met, at in found if met is not None]


def _hinges(
    panels: list[Polygon], creases: list[BaseGeometry], angles: Sequence[tuple[float, Point]]
) -> list[_Hinge]:
    """Pairs of faces that share a part of a crease."""
    found = []
    whole = unary_union(creases).buffer(1e-3, cap_style="flat") if creases else Polygon()
    tree = STRtree(panels)
    for one, panel in enumerate(panels):
        for other in tree.query(panel):
            if other <= one:
                continue
            shared = panel.exterior.intersection(panels[other].exterior, grid_size=GRID).intersection(whole)
            parts = [p for p in getattr(shared, "geoms", [shared]) if isinstance(p, LineString)]
            if sum(part.length for part in parts) < LEAST_CREASE:
                continue
            line = _straight(np.array([c for part in parts for c in part.coords])) or _curved(parts)
            middle = line.centroid
            written = [angle for angle, at in angles if at.distance(middle) < AT_CREASE]
            angle = written[0] if written and abs(written[0]) <= MOST_FOLD else RIGHT
            found.append(_Hinge(one, int(other), line, angle))
    return found


def _straight(points: np.ndarray) -> LineString | None:
    """The line from one end of some points to the other, if they lie on it."""
    middle = points.mean(axis=0)
    _, _, axes = np.linalg.svd(points - middle)
    along, off = (points - middle) @ axes[0], np.abs((points - middle) @ axes[1])
    if off.max() > 0.05:
        return None
    return LineString([points[along.argmin()], points[along.argmax()]])


def _curved(parts: Sequence[LineString]) -> LineString:
    """Parts of a crease as one curve. Raises PackError when they are in pieces, or have corners."""
    whole = line_merge(MultiLineString(parts))
    if isinstance(whole, LineString) and len(whole.coords) >= LEAST_CURVE:
        way = np.diff(np.array(whole.coords), axis=0)
        turns = np.diff(np.unwrap(np.arctan2(way[:, 1], way[:, 0])))
        if np.abs(turns).max() < np.radians(MOST_CORNER):
            return whole
    x, y = parts[0].coords[0]
    raise PackError(
        f"Two panels share creases that do not lie on one line, near {x:.1f}, {y:.1f} mm: board cannot be "
        "folded there."
    )


Hung = tuple[int, int, _Hinge]
"""A face, one that hangs on it, and the crease between them."""


def _tree(panels: list[Polygon], hinges: list[_Hinge]) -> tuple[list[Hung], list[Hung]]:
    """Which face hangs on which by what, from the largest outwards, and what closes circles between faces
    that hang already. Raises PackError when none hangs on any."""
    order, hung, closing = [max(range(len(panels)), key=lambda i: panels[i].area)], [], []
    loose = list(hinges)
    for at in order:
        for hinge in [hinge for hinge in loose if at in (hinge.one, hinge.other)]:
            beside = hinge.other if at == hinge.one else hinge.one
            loose.remove(hinge)
            if beside in order:
                closing.append((at, beside, hinge))
                continue
            order.append(beside)
            hung.append((at, beside, hinge))
    if not hung:
        raise PackError("No crease joins two panels: say which lines are creases.")
    return hung, closing


def _refuse_circles(blank: Blank) -> None:
    """Raise PackError when creases go round in a circle and do not meet when they are closed."""
    closing = [crease for crease in blank.creases if crease.closes]
    if not closing:
        return
    poses = Folded(blank, angles_at(blank, 1.0), 0.0).poses
    for crease in closing:
        ends = np.column_stack([[crease.start, crease.end], np.zeros(2), np.ones(2)])
        apart = ends @ (poses[crease.parent] - poses[crease.child]).T
        if np.linalg.norm(apart[:, :3], axis=1).max() > MEETS:
            middle = crease.line.centroid
            raise PackError(
                f"The creases go round in a circle near {middle.x:.1f}, {middle.y:.1f} mm: board that hangs "
                "together all around can only be folded by angles that fit each other. Cut one of them, or "
                "write the angles at the creases' middles, as “45°”."
            )


def _hung(
    panels: list[Polygon],
    tree: list[Hung],
    closing: list[Hung],
    names: Sequence[tuple[str, tuple[float, float]]],
) -> Blank:
    kept = [tree[0][0], *(child for _, child, _ in tree)]
    title = _titles(panels, kept, names)
    draft = Draft()
    for number in kept:
        draft.panel(title[number], panels[number])
    for links, closes in ((tree, False), (closing, True)):
        for parent, child, hinge in links:
            points = [(float(x), float(y)) for x, y in hinge.line.coords]
            ends = title[child], title[parent], points[0], points[-1]
            curve = points if len(points) > 2 else ()
            draft.hang(*ends, angle=hinge.angle, near=GRID, closes=closes, curve=curve)
    return draft.blank()


def _titles(
    panels: list[Polygon], kept: list[int], names: Sequence[tuple[str, tuple[float, float]]]
) -> dict[int, str]:
    """Names that lie inside of panels; numbers for the others."""
    found: dict[int, str] = {}
    for name, (x, y) in names:
        at = Point(x, y)
        inside = [i for i in kept if panels[i].contains(at)]
        if inside and inside[0] not in found and name not in found.values():
            found[inside[0]] = name
    for number, i in enumerate(kept, start=1):
        found.setdefault(i, f"panel {number}")
    return found


def _where(cuts: list[BaseGeometry]) -> str:
    """Where an outline that should close does not: the ends that nothing meets."""
    ends: list[tuple[float, float]] = []
    for line in cuts:
        if isinstance(line, LineString):
            ends += [line.coords[0], line.coords[-1]]
    loose = [p for p in ends if sum(np.hypot(p[0] - q[0], p[1] - q[1]) < 1e-3 for q in ends) == 1]
    if not loose:
        return ""
    return f" It is open at {loose[0][0]:.1f}, {loose[0][1]:.1f} mm: close it there."
