"""The styles: from the size of the inside to the blanks of a carton.

A tube goes around from the glue flap on the left: front, right, back, left. Seen from its printed side it is
folded away from who looks. Creases lie in the middle of the board, so two of them are one caliper further
apart than the inside they enclose, and what lies outside of other board one caliper more.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from shapely import Polygon

from giftwrap.core.carton.allowances import GAP, Allowances
from giftwrap.core.carton.blank import Blank, Draft, rectangle, rounded
from giftwrap.core.errors import PackError
from giftwrap.core.model.carton import Carton

At = tuple[float, float]


@dataclass(frozen=True)
class Component:
    """One blank of a carton and how it stands when it is shut.

    stands : how its first panel is turned: upright as a front, or lying with its inside up (a base) or
        down (a lid)
    above : mm from the inside's floor of the carton up to where it lies
    """

    name: str
    blank: Blank
    stands: Literal["front", "base", "lid"] = "front"
    above: float = 0.0


@dataclass(frozen=True)
class Style:
    """What it is called, and how its blanks are drawn."""

    title: str
    draw: Callable[[Carton, Allowances], tuple[Component, ...]]


@dataclass(frozen=True)
class _Tube:
    """Where the creases of a glued tube are on the blank, mm; its inside's floor is at 0."""

    xs: tuple[float, float, float, float, float]
    caliper: float

    @property
    def sides(self) -> Mapping[str, tuple[float, float]]:
        return dict(
            zip(("front", "right", "back", "left"), zip(self.xs[:-1], self.xs[1:], strict=True), strict=True)
        )


def _tube(draft: Draft, carton: Carton, ends: Mapping[str, tuple[float, float]], allow: Allowances) -> _Tube:
    """Draw four panels and the glue flap.

    ends : by panel, where it begins and ends, from the inside's floor up
    """
    t = carton.board.caliper
    first = carton.length + t
    second = first + carton.width + t
    third = second + carton.length + 2 * t + GAP
    last = third + carton.width + t / 2
    tube = _Tube((0.0, first, second, third, last), t)
    for name, (left, right) in tube.sides.items():
        low, high = ends[name]
        draft.panel(name, rectangle(left, low, right, high))
    before = "front"
    for name in ("right", "back", "left"):
        x = tube.sides[name][0]
        low, high = max(ends[name][0], ends[before][0]), min(ends[name][1], ends[before][1])
        draft.hang(name, before, (x, low), (x, high))
        before = name
    low, high = ends["front"]
    wide = allow("glue flap")
    slope = min(allow("glue flap slope"), 0.4 * carton.depth)
    low, high = max(low, t), min(high, carton.depth - t)
    flap = Polygon([(0, low), (0, high), (-wide, high - slope), (-wide, low + slope)])
    draft.panel("glue flap", flap, role="glue flap")
    draft.hang("glue flap", "front", (0, low), (0, high))
    draft.glue("glue flap", "outside", inset=min(1.0, wide / 5))
    return tube


def _tuck_end(
    draft: Draft, carton: Carton, tube: _Tube, allow: Allowances, *, of: str, top: bool, step: int
) -> None:
    """A lid with its tuck on one panel, and dust flaps on both sides, at the top or bottom of a tube."""
    t, way = carton.board.caliper, 1.0 if top else -1.0
    inner = carton.depth + t / 2 if top else -t / 2
    outer = inner + way * (t + GAP)
    clearance, word = allow("tuck clearance"), "top" if top else "bottom"
    reach = carton.width - clearance  # from the middle of its own panel to the middle of its tuck
    left, right = tube.sides[of]
    seam = t + GAP if of == "back" else 0.0  # the glue flap's side of the back is further out
    narrower = allow("lid narrower")
    # seen from the print side the back's left side on the blank is the right one of the carton
    low, high = left + narrower, right - seam - narrower
    lid, tuck = f"{word} lid", f"{word} tuck"
    draft.panel(lid, _upright(low, high, outer, way * reach))
    draft.hang(lid, of, (low, outer), (high, outer), step=step + 2, springs=True)
    inset, deep = allow("tuck narrower"), allow("tuck")
    far, end = outer + way * reach, outer + way * (reach + deep)
    tucked = _upright(low + inset, high - inset, far, way * deep)
    radius = allow("tuck rounding")
    draft.panel(tuck, rounded(tucked, {(low + inset, end): radius, (high - inset, end): radius}), role="tuck")
    draft.hang(tuck, lid, (low + inset, far), (high - inset, far), step=step + 1)
    long, slope = allow("dust flap"), min(allow("dust flap slope"), 0.3 * carton.width)
    beside = 1.5 * t + clearance + 0.3  # the tuck passes between it and the panel before it
    for name in ("right", "left"):
        left = tube.sides[name][0]
        right = left + carton.width + t
        # the tuck goes in at the side away from the lid's own panel
        tucks_right = (of == "back") == (name == "left")
        near = t / 2 + 0.3
        low, high = (left + near, right - beside) if tucks_right else (left + beside, right - near)
        outline = Polygon(
            [
                (low, inner),
                (high, inner),
                (high - (slope if not tucks_right else slope / 3), inner + way * long),
                (low + (slope if tucks_right else slope / 3), inner + way * long),
            ]
        )
        flap = f"{word} dust flap {name}"
        draft.panel(flap, outline, role="dust flap")
        draft.hang(flap, name, (low, inner), (high, inner), step=step)


def _upright(left: float, right: float, foot: float, tall: float) -> Polygon:
    """A rectangle that goes up or down from a height."""
    return rectangle(left, min(foot, foot + tall), right, max(foot, foot + tall))


def _tuck(carton: Carton, allow: Allowances, top_of: str, bottom_of: str) -> tuple[Component, ...]:
    t, depth = carton.board.caliper, carton.depth
    dust, lid = (-t / 2, depth + t / 2), (-1.5 * t - GAP, depth + 1.5 * t + GAP)
    ends = dict.fromkeys(("right", "left"), dust)
    ends |= dict.fromkeys(("front", "back"), lid)
    draft = Draft(_grain(carton))
    tube = _tube(draft, carton, ends, allow)
    _tuck_end(draft, carton, tube, allow, of=bottom_of, top=False, step=1)
    _tuck_end(draft, carton, tube, allow, of=top_of, top=True, step=4)
    return (Component("carton", draft.blank()),)


def _straight_tuck(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    return _tuck(carton, allow, "back", "back")


def _reverse_tuck(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    return _tuck(carton, allow, "back", "front")


def _sleeve(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    draft = Draft(_grain(carton))
    ends = (0.0, carton.depth)
    _tube(draft, carton, dict.fromkeys(("front", "right", "back", "left"), ends), allow)
    return (Component("sleeve", draft.blank()),)


def _slotted_case(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """Flaps all of one length; those on the narrower sides are folded first."""
    t, depth = carton.board.caliper, carton.depth
    first = ("right", "left") if carton.width <= carton.length else ("front", "back")
    inner, outer = (-t / 2, depth + t / 2), (-1.5 * t - GAP, depth + 1.5 * t + GAP)
    ends = {name: inner if name in first else outer for name in ("front", "right", "back", "left")}
    draft = Draft(_grain(carton))
    tube = _tube(draft, carton, ends, allow)
    slot, meeting = allow("slot"), allow("flap gap")
    short = min(carton.length, carton.width)
    long = (short + t) / 2 - meeting / 2
    for top in (False, True):
        word, way = ("top", 1.0) if top else ("bottom", -1.0)
        for name, (left, _) in tube.sides.items():
            wide = carton.length if name in ("front", "back") else carton.width
            crease, flap = ends[name][1 if top else 0], f"{word} flap {name}"
            low, high = left + slot / 2, min(left + wide + t - slot / 2, tube.xs[4])
            draft.panel(flap, _upright(low, high, crease, way * long), role="flap")
            step = (4 if top else 1) + (0 if name in first else 1)
            draft.hang(flap, name, (low, crease), (high, crease), step=step, springs=name not in first)
    return (Component("case", draft.blank()),)


def _tray_blank(
    carton: Carton, allow: Allowances, inside: tuple[float, float, float], *, seen_from_below: bool
) -> Blank:
    """A floor with four walls, and flaps in the corners glued inside of the front and back ones.

    inside : mm between walls, between the flaps that lie in front of walls, and from the floor up
    seen_from_below : as a base is, whose left on the blank is its right
    """
    t, draft = carton.board.caliper, Draft(_grain(carton))
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
            draft.glue(flap, "outside", inset=min(1.0, long / 5))
    return draft.blank()


def _tray(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    inside = (carton.length, carton.width, carton.depth)
    return (Component("tray", _tray_blank(carton, allow, inside, seen_from_below=True), "base"),)


def _lid_and_base(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    t, air = carton.board.caliper, allow("lid larger")
    inside = (carton.length, carton.width, carton.depth)
    base = _tray_blank(carton, allow, inside, seen_from_below=True)
    around = 2 * (t + air)
    over = (carton.length + around, carton.width + around + 2 * (t + GAP), allow("lid depth"))
    lid = _tray_blank(carton, allow, over, seen_from_below=False)
    return (Component("base", base, "base"), Component("lid", lid, "lid", carton.depth + GAP))


def _grain(carton: Carton) -> float:
    return 0.0 if carton.board.grain == "around" else 90.0


STYLES: Mapping[str, Style] = {
    "straight-tuck": Style("Straight tuck end", _straight_tuck),
    "reverse-tuck": Style("Reverse tuck end", _reverse_tuck),
    "sleeve": Style("Sleeve", _sleeve),
    "slotted-case": Style("Regular slotted case", _slotted_case),
    "tray": Style("Tray", _tray),
    "lid-and-base": Style("Lid and base", _lid_and_base),
}


def components_of(carton: Carton) -> tuple[tuple[Component, ...], Mapping[str, float]]:
    """The blanks of a carton, and the allowances they are drawn with.

    Raises PackError when they cannot be drawn or folded, naming the field.
    """
    t = carton.board.caliper
    for name in ("length", "width", "depth"):
        if getattr(carton, name) < 6 * t:
            raise PackError(
                f"Board of {t:g} mm cannot be folded to {getattr(carton, name):g} mm: take thinner board, or "
                f"at least {6 * t:g} mm.",
                name,
            )
    allow = Allowances(carton)
    return STYLES[carton.style].draw(carton, allow), allow.used
