"""Styles that stand around a floor: trays, lids and bases, drawers, books and mailers."""

from __future__ import annotations

from itertools import pairwise
from typing import Literal

from shapely import Polygon

from giftwrap.core.carton.allowances import GAP, Allowances
from giftwrap.core.carton.blank import Blank, Draft, rectangle, rounded
from giftwrap.core.carton.component import Component, grain_of, upright
from giftwrap.core.carton.tubes import SIDES, glued_tube
from giftwrap.core.model.carton import Carton


def tray_blank(
    carton: Carton, allow: Allowances, inside: tuple[float, float, float], *, seen_from_below: bool
) -> Blank:
    """A floor with four walls, and flaps in the corners glued inside of the front and back ones.

    inside : mm between walls, between the flaps that lie in front of walls, and from the floor up
    seen_from_below : as a base is, whose left on the blank is its right
    """
    t, draft = carton.board.caliper, Draft(grain_of(carton))
    length, width, tall = inside
    lap = t + GAP
    x, y = length + t, width + t + 2 * lap
    names = ("right", "left") if seen_from_below else ("left", "right")
    draft.panel("floor", rectangle(0, 0, x, y))
    high = tall + t / 2
    draft.panel(names[0], rectangle(-high, lap, 0, y - lap))
    draft.panel(names[1], rectangle(x, lap, x + high, y - lap))
    draft.panel("front", rectangle(-t / 2, -high, x + t / 2, 0))
    draft.panel("back", rectangle(-t / 2, y, x + t / 2, y + high))
    draft.hang(names[0], "floor", (0, lap), (0, y - lap), step=1)
    draft.hang(names[1], "floor", (x, lap), (x, y - lap), step=1)
    draft.hang("front", "floor", (0, 0), (x, 0), step=2)
    draft.hang("back", "floor", (0, y), (x, y), step=2)
    long, slope = allow("corner flap"), 0.5 * t + 0.5
    near, top = t / 2 + 0.3, tall - 0.2
    for name, low, upper in ((names[0], -top, -near), (names[1], x + near, x + top)):
        for end, at, way in (("front", lap, -1.0), ("back", y - lap, 1.0)):
            outer = at + way * long
            corners = [(low, at), (upper, at), (upper - slope, outer), (low + slope, outer)]
            flap = f"corner flap {name} {end}"
            draft.panel(flap, Polygon(corners), role="glue flap")
            draft.hang(flap, name, (low, at), (upper, at), step=0)
            draft.glue(flap, min(1.0, long / 5))
    return draft.blank()


def tray(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """A tray with glued corners."""
    return (_tray(carton, allow),)


def _tray(carton: Carton, allow: Allowances, comes: Literal["", "sliding"] = "") -> Component:
    inside = (carton.length, carton.width, carton.depth)
    return Component("tray", tray_blank(carton, allow, inside, seen_from_below=True), "base", comes=comes)


def _outside(carton: Carton) -> tuple[float, float, float]:
    """Mm that a tray takes up across, deep and high."""
    t = carton.board.caliper
    return carton.length + 2 * t, carton.width + 2 * t + 2 * (t + GAP), carton.depth + t


def lid_and_base(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """Two trays, one over the other."""
    air = allow("lid larger")
    inside = (carton.length, carton.width, carton.depth)
    base = tray_blank(carton, allow, inside, seen_from_below=True)
    across, deep, _ = _outside(carton)
    over = (across + 2 * air, deep + 2 * air, allow("lid depth"))
    lid = tray_blank(carton, allow, over, seen_from_below=False)
    return (Component("base", base, "base"), Component("lid", lid, "lid", carton.depth + GAP, "over"))


def shoulder(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """A base and a lid of one size, both around a neck that shows between them."""
    t, gap = carton.board.caliper, allow("shoulder")
    draft, ends = Draft(grain_of(carton)), (GAP, carton.depth - GAP)
    inside = (carton.length, carton.width, carton.depth)
    glued_tube(draft, inside, t, dict.fromkeys(SIDES, ends), allow)
    seam = t + GAP  # the neck's glue flap puts one of its sides further out; the base is as wide on both
    around = (carton.length + 2 * (t + seam + GAP), carton.width + 2 * (t + GAP))
    low = min(carton.depth - gap - 4 * t, 0.55 * carton.depth)
    base = tray_blank(carton, allow, (*around, low), seen_from_below=True)
    lid = tray_blank(carton, allow, (*around, carton.depth - low - gap), seen_from_below=False)
    return (
        Component("base", base, "base"),
        Component("neck", draft.blank()),
        Component("lid", lid, "lid", carton.depth + GAP, "over"),
    )


def drawer(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """A tray that slides into a sleeve from the right."""
    air, t = allow("lid larger"), carton.board.caliper
    across, deep, high = _outside(carton)
    draft, ends = Draft(grain_of(carton)), (0.0, across)
    inside = (deep + 2 * air, high + 2 * air, across)
    names = ("top", "front", "bottom", "back")
    glued_tube(draft, inside, t, dict.fromkeys(names, ends), allow)
    sleeve = Component("sleeve", draft.blank(), "laid", carton.depth + air)
    return sleeve, _tray(carton, allow, "sliding")


def book(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """A tray on a cover that goes around it from below, its flap held in front by magnets."""
    t, over = carton.board.caliper, allow("cover larger")
    across, deep, high = _outside(carton)
    draft = Draft(grain_of(carton))
    wide, reach = across + 2 * over, deep + 2 * GAP + t  # to the middles of spine and flap
    tall = high + 2 * GAP + t  # from the middle of the floor to that of the lid
    draft.panel("floor", rectangle(0, 0, wide, reach))
    draft.panel("spine", rectangle(0, reach, wide, reach + tall))
    draft.panel("lid", rectangle(0, reach + tall, wide, 2 * reach + tall))
    flap = min(allow("cover flap"), tall - t - 0.3)
    draft.panel("flap", rectangle(0, 2 * reach + tall, wide, 2 * reach + tall + flap), role="flap")
    draft.hang("spine", "floor", (0, reach), (wide, reach), step=3)
    draft.hang("lid", "spine", (0, reach + tall), (wide, reach + tall), step=5, springs=True)
    draft.hang("flap", "lid", (0, 2 * reach + tall), (wide, 2 * reach + tall), step=4)
    return Component("cover", draft.blank(), "base", -t - GAP), _tray(carton, allow)


def mailer(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """One blank: sides that roll over the ends of front and back, and a lid that tucks into the front."""
    t, lap = carton.board.caliper, carton.board.caliper + GAP
    x, y = carton.length + t + 4 * lap, carton.width + t
    draft = Draft(grain_of(carton))
    roll = carton.depth - t / 2 - GAP  # the height of the middle of what rolls over
    lid = carton.depth + t / 2
    draft.panel("floor", rectangle(0, 0, x, y))
    draft.panel("front", rectangle(lap, -(roll - t), x - lap, 0))
    draft.panel("back", rectangle(lap, y, x - lap, y + lid + t / 2))
    draft.hang("front", "floor", (lap, 0), (x - lap, 0), step=1)
    draft.hang("back", "floor", (lap, y), (x - lap, y), step=1)
    ear_high, ear = roll - 2 * t - 0.2, min(allow("corner flap"), 0.45 * carton.width)
    names = ("right", "left")  # as a base is seen from below
    for name, at, way in ((names[0], lap, -1.0), (names[1], x - lap, 1.0)):
        for panel, foot, up in (("front", -t / 2 - 0.3, -1.0), ("back", y + t / 2 + 0.3, 1.0)):
            flap = f"ear {panel} {name}"
            outline = upright(min(at, at + way * ear), max(at, at + way * ear), foot, up * ear_high)
            draft.panel(flap, outline, role="flap")
            draft.hang(flap, panel, (at, foot), (at, foot + up * ear_high), step=0)
    near, far = t / 2 + 0.3, y - t / 2 - 0.3
    for name, at, way in ((names[0], 0.0, -1.0), (names[1], x, 1.0)):
        wall, strip, inner = roll + t / 2, 2 * lap, roll - 0.2
        edges = [at, at + way * wall, at + way * (wall + strip), at + way * (wall + strip + inner)]
        parts = ((name, 0.0, y), (f"roll {name}", near, far), (f"inner {name}", near, far))
        before = "floor"
        for step, ((part, low, high), (start, end)) in enumerate(
            zip(parts, pairwise(edges), strict=True), start=2
        ):
            draft.panel(part, rectangle(min(start, end), low, max(start, end), high))
            draft.hang(part, before, (start, low), (start, high), step=step)
            before = part
    clearance, deep = allow("tuck clearance"), allow("tuck")
    narrow, reach = allow("lid narrower"), carton.width - clearance
    top = y + lid + t / 2
    draft.panel("lid", rectangle(narrow, top, x - narrow, top + reach))
    draft.hang("lid", "back", (lap, top), (x - lap, top), step=6, springs=True)
    side = 2.5 * lap + allow("tuck narrower")
    tuck = rectangle(side, top + reach, x - side, top + reach + deep)
    radius, foot = allow("tuck rounding"), top + reach + deep
    draft.panel("tuck", rounded(tuck, {(side, foot): radius, (x - side, foot): radius}), role="tuck")
    draft.hang("tuck", "lid", (side, top + reach), (x - side, top + reach), step=5)
    return (Component("mailer", draft.blank(), "base"),)
