"""The lines of a blank as drawings have them: cut, crease and others, and the panels' names."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from shapely import LineString, MultiLineString, line_merge
from shapely.affinity import translate
from shapely.geometry.base import BaseGeometry

from giftwrap.core.carton.blank import Blank
from giftwrap.core.carton.folding import LEAST_FOLD, angles_at

LineKind = Literal["cut", "crease", "perforation", "emboss", "glue", "bleed", "safe", "middle"]
KINDS: tuple[LineKind, ...] = ("cut", "crease", "perforation", "emboss", "glue", "bleed", "safe", "middle")
RIGHT, LEAST_OFF = 90.0, 0.01
APART = 20.0
"""Mm between the blanks of a carton that has several."""
MARGIN = 10.0


@dataclass(frozen=True)
class FlatLine:
    """One line of a drawing, mm from its lower left corner."""

    kind: LineKind
    points: tuple[tuple[float, float], ...]

    @property
    def closed(self) -> bool:
        """Whether it comes back to where it began."""
        return self.points[0] == self.points[-1]


@dataclass(frozen=True)
class FlatDrawing:
    """All lines of a carton's blanks on one sheet, `size` mm across and up.

    names : of panels, each in the middle of its own; at creases their degrees when closed, where that is no
        right angle; and which way the grain runs, below
    trim, bleed : mm around that are cut off when it is trimmed, and how many of these are printed still
    """

    size: tuple[float, float]
    lines: tuple[FlatLine, ...]
    names: tuple[tuple[str, tuple[float, float]], ...]
    trim: float = 0.0
    bleed: float = 0.0


def drawing_of(blanks: Mapping[str, Blank]) -> FlatDrawing:
    """Blanks beside each other, a margin around them."""
    lines: list[FlatLine] = []
    names = []
    left, tall = MARGIN, 0.0
    for blank in blanks.values():
        x, y = blank.way_to(left, MARGIN)
        lines += [FlatLine(kind, _points(translate(line, x, y))) for kind, line in lines_of(blank)]
        for panel in blank.panels:
            at = panel.outline.representative_point()
            names.append((panel.name, (at.x + x, at.y + y)))
        closed = angles_at(blank, 1.0)
        for crease in blank.creases:
            angle = closed[crease.name]
            if abs(angle - RIGHT) > LEAST_OFF and not crease.curve:
                middle = crease.line.interpolate(0.5, normalized=True)
                names.append((angle_words(angle), (middle.x + x, middle.y + y)))
        way = "upright" if blank.grain else "across"
        names.append((f"grain {way}", (left + blank.size[0] / 2, MARGIN / 2)))
        left += blank.size[0] + APART
        tall = max(tall, blank.size[1])
    return FlatDrawing((left - APART + MARGIN, tall + 2 * MARGIN), tuple(lines), tuple(names))


def angle_words(degrees: float) -> str:
    """How an angle is written at a crease."""
    return "0°" if abs(degrees) <= LEAST_FOLD else f"{round(degrees, 3):.7g}°"


def lines_of(blank: Blank) -> list[tuple[LineKind, LineString]]:
    """The lines of one blank where it lies: rings are closed lines."""
    found: list[tuple[LineKind, LineString]] = []
    for ring in (blank.outline.exterior, *blank.outline.interiors):
        found.append(("cut", LineString(ring.simplify(1e-6).coords)))
    straight = [crease.line for crease in blank.creases if not crease.curve]
    found += [("crease", line) for line in _merged(straight)]
    found += [("crease", crease.line) for crease in blank.creases if crease.curve]
    found += [("perforation", tear.line) for tear in blank.tears]
    found += [("emboss", LineString(one.outline.exterior.coords)) for one in blank.pressed]
    found += [("glue", LineString(glue.exterior.coords)) for glue in blank.glue]
    return found


def _merged(lines: Sequence[LineString]) -> list[LineString]:
    """Lines that go on in each other stay apart where they turn or another one begins."""
    merged: BaseGeometry = line_merge(MultiLineString([list(line.coords) for line in lines]))
    parts = [merged] if isinstance(merged, LineString) else list(getattr(merged, "geoms", []))
    straight = []
    for part in parts:
        line = part.simplify(1e-6)
        points = np.array(line.coords)
        straight += [LineString(points[k : k + 2]) for k in range(len(points) - 1)]
    return straight


def _points(line: LineString) -> tuple[tuple[float, float], ...]:
    return tuple((float(x), float(y)) for x, y in line.coords)
