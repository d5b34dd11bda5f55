"""The blank: a carton unfolded flat, seen from its printed side, in mm."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from shapely import LineString, Point, Polygon, box, union_all
from shapely.affinity import scale
from shapely.geometry.base import BaseGeometry
from shapely.ops import substring

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array

Role = Literal["panel", "flap", "dust flap", "tuck", "glue flap"]
LEAST_ROUNDING = 0.05
SLIT_MM = 0.2
"""How wide the knife of a perforation cuts (common practice)."""
_FINE = 24
MET = 1e-6
"""Mm within which what should meet does."""


@dataclass(frozen=True)
class FlatPanel:
    """One panel or flap, cut and crease around it; `outline` has its holes."""

    name: str
    outline: Polygon
    role: Role = "panel"


@dataclass(frozen=True)
class Follows:
    """What the angle of a crease follows from: those of others, all in degrees."""

    creases: tuple[str, ...]
    rule: Callable[..., float]


@dataclass(frozen=True)
class Crease:
    """Where a panel is folded from another. It lies in the middle of the board.

    start, end : on the blank, the child on the right of the way from one to the other
    angle : degrees when closed, towards the inside where positive
    step : when it folds, in the order of the carton's steps
    springs : whether it is held by nothing but what it is tucked into
    follows : the crease that moves it, where creases meet in a corner and none can move alone
    closes : whether both of its panels hang on others, and it closes the circle between them
    curve : its points where it is no straight line
    """

    parent: str
    child: str
    start: tuple[float, float]
    end: tuple[float, float]
    angle: float = 90.0
    step: int = 0
    springs: bool = False
    follows: Follows | None = None
    closes: bool = False
    curve: tuple[tuple[float, float], ...] = ()

    @property
    def name(self) -> str:
        """Its name, which is its child's: every panel but the first hangs on one crease. What closes a
        circle is named by both."""
        return f"{self.child} at {self.parent}" if self.closes else self.child

    @cached_property
    def length(self) -> float:
        """Mm."""
        return float(self.line.length)

    @cached_property
    def line(self) -> LineString:
        """As a line."""
        return LineString(self.curve or [self.start, self.end])


@dataclass(frozen=True)
class Tear:
    """A perforation across a panel: a straight line, mm that are cut and mm that are left in turns."""

    panel: str
    line: LineString
    cut: float
    tie: float

    def slits(self) -> list[Polygon]:
        """What is cut, half of what is left at its beginning."""
        found = []
        for start in np.arange(self.tie / 2, self.line.length - MET, self.cut + self.tie):
            piece = substring(self.line, start, min(start + self.cut, self.line.length))
            found.append(piece.buffer(SLIT_MM / 2, cap_style="square"))
        return [slit for slit in found if isinstance(slit, Polygon) and slit.area > MET]


@dataclass(frozen=True)
class Pressed:
    """Board of a panel that is pressed out of its plane by so many mm, or in where negative."""

    panel: str
    outline: Polygon
    height: float


@dataclass(frozen=True)
class Blank:
    """Panels that hang together by creases, the first one on none.

    glue : where it is glued, on its outside
    grain : degrees of its fibres on the blank
    tears, pressed : perforations in its panels, and what is embossed
    """

    panels: tuple[FlatPanel, ...]
    creases: tuple[Crease, ...]
    glue: tuple[Polygon, ...] = ()
    grain: float = 0.0
    tears: tuple[Tear, ...] = ()
    pressed: tuple[Pressed, ...] = ()

    @cached_property
    def by_name(self) -> Mapping[str, FlatPanel]:
        """Its panels."""
        return {panel.name: panel for panel in self.panels}

    @cached_property
    def outline(self) -> Polygon:
        """Everything that is cut out of the sheet, with its holes."""
        whole = union_all([panel.outline for panel in self.panels], grid_size=MET)
        if not isinstance(whole, Polygon):
            raise PackError("This blank falls into pieces.", "style")
        return whole

    @property
    def area(self) -> float:
        """Mm² of board."""
        return float(self.outline.area)

    @property
    def size(self) -> tuple[float, float]:
        """Mm across and up."""
        left, foot, right, top = self.outline.bounds
        return right - left, top - foot

    @property
    def crease_length(self) -> float:
        """Mm of all creases together."""
        return sum(crease.length for crease in self.creases)

    @property
    def steps(self) -> int:
        """In how many steps it closes."""
        return 1 + max((crease.step for crease in self.creases), default=0)

    def slit(self, name: str, outline: Polygon) -> Polygon:
        """What is left of a panel, or of a part of it, where perforations are cut."""
        slits = [slit for tear in self.tears if tear.panel == name for slit in tear.slits()]
        left = outline.difference(union_all(slits)) if slits else outline
        parts = [part for part in getattr(left, "geoms", [left]) if isinstance(part, Polygon)]
        return max(parts, key=lambda part: part.area)

    def hanging(self, name: str) -> Iterator[Crease]:
        """The creases by which panels hang on one."""
        return (crease for crease in self.creases if crease.parent == name and not crease.closes)

    def way_to(self, x: float, y: float) -> Array:
        """(2,) float: how far to move it for its lower left corner to lie at a place, mm."""
        left, foot, _, _ = self.outline.bounds
        return np.array([x - left, y - foot])


class Draft:
    """A blank being drawn, panel by panel.

    Outlines may be given larger than they can be: what would lie over panels drawn before is refused.
    """

    def __init__(self, grain: float = 0.0) -> None:
        self._panels: dict[str, FlatPanel] = {}
        self._creases: list[Crease] = []
        self._glue: list[Polygon] = []
        self._grain = grain

    def panel(self, name: str, outline: BaseGeometry, *, role: Role = "panel") -> None:
        """Draw one. Raises PackError when it has no area or lies over another."""
        if not isinstance(outline, Polygon) or not outline.is_valid or outline.area < MET:
            raise PackError(
                f"No board is left for the {name}: make the carton larger, or the allowances smaller.",
                "length",
            )
        for other in self._panels.values():
            if outline.intersection(other.outline).area > 1e-3:
                raise PackError(
                    f"On the blank {name} and {other.name} would lie over each other: make the carton "
                    "larger, or the allowances smaller.",
                    "length",
                )
        self._panels[name] = FlatPanel(name, outline, role)

    def pierce(self, name: str, hole: Polygon) -> None:
        """Cut a hole into a panel. Raises PackError when it does not lie within it."""
        panel = self._panels[name]
        if not hole.is_valid or not panel.outline.buffer(-1.0).contains(hole):
            raise PackError(f"There is no room for the hole in the {name}: make the carton larger.", "length")
        pierced = panel.outline.difference(hole)
        assert isinstance(pierced, Polygon)
        self._panels[name] = FlatPanel(name, pierced, panel.role)

    def hang(
        self,
        child: str,
        parent: str,
        start: tuple[float, float],
        end: tuple[float, float],
        *,
        angle: float = 90.0,
        step: int = 0,
        springs: bool = False,
        follows: Follows | None = None,
        closes: bool = False,
        curve: Sequence[tuple[float, float]] = (),
        near: float = MET,
    ) -> None:
        """Crease a panel from another along a line that both have at their edge, within so many mm."""
        line = LineString(curve or [start, end])
        for name in (child, parent):
            if self._panels[name].outline.exterior.distance(line) > near:
                raise PackError(f"The crease of the {child} does not lie at the edge of the {name}.", "own")
        way = np.subtract(end, start)
        aside = np.subtract(self._panels[child].outline.centroid.coords[0], start)
        curve = tuple(curve)
        if way[0] * aside[1] - way[1] * aside[0] > 0:
            start, end, curve = end, start, curve[::-1]
        self._creases.append(Crease(parent, child, start, end, angle, step, springs, follows, closes, curve))

    def glue(self, panel: str, inset: float) -> None:
        """Glue a whole panel on its outside, but for so many mm at its edge."""
        area = self._panels[panel].outline.buffer(-inset)
        if isinstance(area, Polygon) and not area.is_empty:
            self._glue.append(area)

    def blank(self) -> Blank:
        """What was drawn."""
        return Blank(tuple(self._panels.values()), tuple(self._creases), tuple(self._glue), self._grain)


def rectangle(left: float, foot: float, right: float, top: float) -> Polygon:
    """An upright one by its sides; an empty one if they are the wrong way round."""
    if right - left < MET or top - foot < MET:
        return Polygon()
    return Polygon([(left, foot), (right, foot), (right, top), (left, top)])


def opening(across: float, high: float, rounding: float) -> Polygon:
    """A hole around 0, mm: a rectangle with its corners rounded, an oval where `rounding` is 1.

    rounding : share of half its shorter side
    """
    half = np.array([across, high]) / 2
    radius = rounding * float(half.min())
    if rounding == 1:
        return Polygon(scale(Point(0, 0).buffer(1.0, quad_segs=_FINE), *half).exterior)
    inner = box(*(radius - half), *(half - radius))
    return inner if radius < LEAST_ROUNDING else Polygon(inner.buffer(radius, quad_segs=_FINE).exterior)


def rounded(outline: Polygon, corners: Mapping[tuple[float, float], float]) -> Polygon:
    """An outline with some of its corners rounded, each by its radius in mm; too large ones are cut."""
    points = np.array(outline.exterior.coords[:-1])
    drawn: list[tuple[float, float]] = []
    for index, at in enumerate(points):
        radius = next((r for corner, r in corners.items() if Point(corner).distance(Point(at)) < MET), 0.0)
        before, after = points[index - 1] - at, points[(index + 1) % len(points)] - at
        ways = before / np.linalg.norm(before), after / np.linalg.norm(after)
        half = np.arccos(np.clip(ways[0] @ ways[1], -1, 1)) / 2
        cut = min(radius / np.tan(half), 0.5 * np.linalg.norm(before), 0.5 * np.linalg.norm(after))
        radius = cut * np.tan(half)
        if radius < 1e-4:
            drawn.append((float(at[0]), float(at[1])))
            continue
        bisector = (ways[0] + ways[1]) / np.linalg.norm(ways[0] + ways[1])
        middle = at + bisector * radius / np.sin(half)
        first, last = (at + way * cut - middle for way in ways)
        turn = np.arctan2(first[0] * last[1] - first[1] * last[0], first @ last)
        steps = max(int(np.ceil(abs(turn) / 0.15)), 2)
        for share in np.linspace(0.0, 1.0, steps + 1):
            c, s = np.cos(share * turn), np.sin(share * turn)
            drawn.append(
                (
                    float(middle[0] + c * first[0] - s * first[1]),
                    float(middle[1] + s * first[0] + c * first[1]),
                )
            )
    return Polygon(drawn)
