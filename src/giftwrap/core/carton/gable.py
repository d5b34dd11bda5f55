"""The gable box: a roof with a handle, its sides folded in between."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from shapely import Polygon
from shapely.affinity import translate

from giftwrap.core.carton.allowances import GAP, Allowances
from giftwrap.core.carton.blank import Draft, Follows, opening, rounded
from giftwrap.core.carton.component import Component, grain_of
from giftwrap.core.carton.locking import ends_on, locking_bottom
from giftwrap.core.carton.tubes import Tube, glued_tube
from giftwrap.core.errors import PackError
from giftwrap.core.model.carton import Carton

NOT_FLAT = 0.86
"""How high the creases of a gable's sides meet, as a share of the roof's slope. At 1 the sides would lie flat
between the slopes; board needs room to turn around."""
MOST_LEAN = 89.0
RELIEF, SQUARE, NOTCH = 3.0, 2.2, 4.0
"""Calipers of board that are cut away where creases meet in a corner: along each of them, square to it at its
end, and from the roof."""


@dataclass(frozen=True)
class Gusset:
    """The side of a gable: a triangle that folds in, and one on either side of it that joins it to a slope.

    base : half of its crease, mm; apex : how high the two slanting creases meet on the blank, mm
    lean : degrees by which the slopes lean when shut; caliper : of its board, mm

    Around the corner where four creases meet, the sheet can move in one way only: turned by the slope, the
    others follow. u goes up between slope and outer triangle, d between that and the inner one.
    """

    base: float
    apex: float
    lean: float
    caliper: float

    def _ways(self, slope: float) -> tuple[np.ndarray, np.ndarray]:
        """(3,) each: u and d where a slope leans in by so many degrees; x out of the side, y along its
        crease away from the slope, z up. Raises PackError when no sheet can lie so."""
        lean = np.radians(slope)
        beta = np.arctan2(self.base, self.apex)
        along = np.sin(beta)
        up = (np.cos(beta) - np.sin(lean) * along) / np.cos(lean)
        inward = 1 - along**2 - up**2
        if inward < -1e-9 or not 0 <= slope < MOST_LEAN:
            raise PackError(
                f"A gable's sides cannot follow a slope that leans by {slope:.0f}°.", "flaps.roof front"
            )
        return (
            np.array([0.0, np.sin(lean), np.cos(lean)]),
            np.array([-np.sqrt(max(inward, 0.0)), along, up]),
        )

    def inner(self, slope: float) -> float:
        """Degrees by which the inner triangle leans in."""
        _, d = self._ways(slope)
        return float(np.degrees(np.arctan2(-d[0], d[2])))

    def _facing(self, slope: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Where slope, outer and inner triangle face, outside."""
        u, d = self._ways(slope)
        lean, turned = np.radians(slope), np.radians(self.inner(slope))
        outer = np.cross(d, u)
        return (
            np.array([0.0, -np.cos(lean), np.sin(lean)]),
            outer / np.linalg.norm(outer),
            np.array([np.cos(turned), 0.0, np.sin(turned)]),
        )

    def between(self, slope: float) -> float:
        """Degrees of the crease between the triangles, which goes the other way."""
        _, outer, inner = self._facing(slope)
        return -_degrees(outer, inner)

    def closing(self, slope: float, corner: float) -> float:
        """Degrees of that crease where the tube's corner below is folded by so many; it goes on from it."""
        return self.beside(slope) - 90.0 + corner

    def beside(self, slope: float) -> float:
        """Degrees of the crease between slope and outer triangle."""
        facing, outer, _ = self._facing(slope)
        return _degrees(facing, outer)


def _degrees(one: np.ndarray, other: np.ndarray) -> float:
    return float(np.degrees(np.arctan2(np.linalg.norm(np.cross(one, other)), one @ other)))


def gable(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """A box on a locking bottom whose front and back lean to a ridge with a handle, its sides folded in."""
    t, depth = carton.board.caliper, carton.depth
    if carton.length < carton.width:
        raise PackError(
            f"A gable's sides fold in between its slopes: make it at least as wide as deep, "
            f"{carton.width:g} mm.",
            "length",
        )
    eaves = depth + t / 2
    draft = Draft(grain_of(carton))
    tops = dict.fromkeys(("front", "right", "back", "left"), eaves)
    tube = glued_tube(draft, (carton.length, carton.width, depth), t, ends_on(carton, tops), allow)
    locking_bottom(draft, carton, tube, allow)
    across = (carton.width + t) / 2  # from a slope's crease to the middle between them
    inward, high = across - (t + GAP) / 2, allow("gable height")
    lean = float(np.degrees(np.arctan2(inward, high)))
    slope = float(np.hypot(inward, high))
    gusset = Gusset(across, NOT_FLAT * slope, lean, t)
    handle = allow("handle")
    seam = t + GAP
    for name in ("front", "back"):
        left, right = tube.sides[name]
        roof, grip = f"roof {name}", f"handle {name}"
        inset, ridge = NOTCH * t, eaves + slope
        foot = [(left + inset, eaves), (right - inset, eaves), (right - inset, eaves + inset)]
        foot += [(right, eaves + inset), (right, ridge), (left, ridge)]
        foot += [(left, eaves + inset), (left + inset, eaves + inset)]
        draft.panel(roof, Polygon(foot))
        follows = Follows(("roof front",), float) if name == "back" else None
        draft.hang(roof, name, foot[0], foot[1], angle=lean, step=5, follows=follows)
        inset = 0.06 * carton.length + 1.0
        # the back goes on to the seam, where the side lies over the glue flap
        low, far = left + inset, right - inset - (seam if name == "back" else 0.0)
        top = ridge + handle
        ends = (far - 0.1 * carton.length, top), (low + 0.1 * carton.length, top)
        shape = rounded(Polygon([(low, ridge), (far, ridge), *ends]), dict.fromkeys(ends, 0.3 * handle))
        draft.panel(grip, shape, role="flap")
        draft.hang(grip, roof, (low, ridge), (far, ridge), angle=-lean, step=4)
        hole = opening(min(0.4 * carton.length, 90.0), 0.42 * handle, 1.0)
        draft.pierce(grip, translate(hole, (low + far) / 2, ridge + 0.5 * handle))
    for side, before, after in (("right", "front", "back"), ("left", "back", "front")):
        _gusset(draft, tube, gusset, eaves, (side, before, after))
    return (Component("box", draft.blank()),)


def _gusset(draft: Draft, tube: Tube, gusset: Gusset, eaves: float, names: tuple[str, str, str]) -> None:
    """The three triangles above one side, between the panels before and after it on the blank.

    Where creases meet in a point board is cut away, square to each, so that arcs have room. The last
    triangle's edge is free where the tube is closed, and passes under the slope there.
    """
    side, before, after = names
    left, end = tube.sides[side]
    right, closed = left + 2 * gusset.base, side == "left"
    slanting, caliper = float(np.hypot(gusset.base, gusset.apex)), gusset.caliper
    relief, tip, square = RELIEF * caliper, slanting - RELIEF * caliper, SQUARE * caliper
    under = (caliper + GAP) / float(np.sin(np.radians(gusset.beside(gusset.lean)))) + caliper

    def place(way: float, mm: float, aside: float = 0.0) -> tuple[float, float]:
        """So far up a slanting crease, from the left where way is 1, and then aside of it, inwards."""
        x, y = np.array([gusset.base, gusset.apex]) / slanting * mm
        x, y = x + aside * gusset.apex / slanting, y - aside * gusset.base / slanting
        return float(left + x if way > 0 else right - x), float(eaves + y)

    inner, last = f"gable {side}", relief + (2 * under if closed else 0.0)
    starts = {1.0: relief, -1.0: last}
    feet = {way: place(way, mm, square) for way, mm in starts.items()}
    base = (feet[1.0][0], eaves), (min(feet[-1.0][0], end), eaves)
    corners = [*base, feet[-1.0], place(-1.0, last), place(-1.0, tip), place(-1.0, tip, square)]
    corners += [place(1.0, tip, square), place(1.0, tip), place(1.0, relief), feet[1.0]]
    draft.panel(inner, Polygon(corners))
    draft.hang(inner, side, *base, step=5, follows=Follows(("roof front",), gusset.inner))
    for name, corner, way in ((before, left, 1.0), (after, right, -1.0)):
        outer, joined = f"gusset {side} {name}", not (closed and name == after)
        low, high, aside = place(way, starts[way]), place(way, tip), place(way, starts[way], -square)
        edge = corner if joined else corner + way * under
        foot = max(eaves + NOTCH * caliper, aside[1] + 0.1)
        inward = [(edge + way * square, foot)] if joined else []
        draft.panel(outer, Polygon([low, high, (edge, high[1]), (edge, foot), *inward, aside]))
        draft.hang(outer, inner, low, high, step=5, follows=Follows(("roof front",), gusset.between))
        if joined:
            around = side if name == before else name  # the tube's corner that it goes on from
            follows = Follows(("roof front", around), gusset.closing)
            ties = (corner, foot), (corner, high[1])
            draft.hang(outer, f"roof {name}", *ties, step=5, closes=True, follows=follows)
