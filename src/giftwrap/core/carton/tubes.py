"""Styles that go round as a glued tube: tuck cartons, sleeves and slotted cases.

A tube goes around from the glue flap on the left: front, right, back, left. Seen from its printed side it is
folded away from who looks. Creases lie in the middle of the board, so two of them are one caliper further
apart than the inside they enclose, and what lies outside of other board one caliper more.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

from shapely import Point, Polygon
from shapely.affinity import translate

from giftwrap.core.carton.allowances import GAP, Allowances
from giftwrap.core.carton.blank import Draft, rectangle, rounded
from giftwrap.core.carton.component import Component, grain_of, upright
from giftwrap.core.model.carton import Carton

SIDES = ("front", "right", "back", "left")
HOLE_MM, HOLE_SLOT_MM = 10.0, (32.0, 6.0)
"""A hanging hole: a circle and a slot through it (common practice)."""


@dataclass(frozen=True)
class Tube:
    """Where the creases of a glued tube are on the blank, mm; its inside's floor is at 0."""

    names: tuple[str, ...]
    xs: tuple[float, ...]

    @property
    def sides(self) -> Mapping[str, tuple[float, float]]:
        """Where each panel begins and ends."""
        return dict(zip(self.names, pairwise(self.xs), strict=True))


def glued_tube(
    draft: Draft,
    inside: tuple[float, float, float],
    caliper: float,
    ends: Mapping[str, tuple[float, float]],
    allow: Allowances,
) -> Tube:
    """Draw four panels and the glue flap.

    inside : mm from the second panel to the fourth, from the first to the third, and along the tube
    ends : by panel in their order around, where it begins and ends along the tube
    """
    wide, deep, tall = inside
    t = caliper
    first = wide + t
    second = first + deep + t
    third = second + wide + 2 * t + GAP
    tube = Tube(tuple(ends), (0.0, first, second, third, third + deep + t / 2))
    for name, (left, right) in tube.sides.items():
        draft.panel(name, rectangle(left, ends[name][0], right, ends[name][1]))
    for before, name in pairwise(tube.names):
        x = tube.sides[name][0]
        low, high = max(ends[name][0], ends[before][0]), min(ends[name][1], ends[before][1])
        draft.hang(name, before, (x, low), (x, high))
    flap_wide = allow("glue flap")
    slope = min(allow("glue flap slope"), 0.4 * tall)
    low, high = (end for end in ends[tube.names[0]])
    low, high = max(low, t), min(high, tall - t)
    flap = Polygon([(0, low), (0, high), (-flap_wide, high - slope), (-flap_wide, low + slope)])
    draft.panel("glue flap", flap, role="glue flap")
    draft.hang("glue flap", tube.names[0], (0, low), (0, high))
    draft.glue("glue flap", min(1.0, flap_wide / 5))
    return tube


def tuck_end(
    draft: Draft, carton: Carton, tube: Tube, allow: Allowances, *, of: str, top: bool, step: int
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
    draft.panel(lid, upright(low, high, outer, way * reach))
    draft.hang(lid, of, (low, outer), (high, outer), step=step + 2, springs=True)
    inset, deep = allow("tuck narrower"), allow("tuck")
    far, end = outer + way * reach, outer + way * (reach + deep)
    tucked = upright(low + inset, high - inset, far, way * deep)
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


def _tuck_carton(
    carton: Carton, allow: Allowances, *, top_of: str, bottom_of: str, tab: float = 0.0
) -> tuple[Component, ...]:
    """A tube with tuck ends; with a tab above its back to hang it by."""
    t, depth = carton.board.caliper, carton.depth
    dust, lid = (-t / 2, depth + t / 2), (-1.5 * t - GAP, depth + 1.5 * t + GAP)
    ends = {"front": lid, "right": dust, "back": (lid[0], lid[1] + tab), "left": dust}
    draft = Draft(grain_of(carton))
    tube = glued_tube(draft, (carton.length, carton.width, depth), t, ends, allow)
    tuck_end(draft, carton, tube, allow, of=bottom_of, top=False, step=1)
    tuck_end(draft, carton, tube, allow, of=top_of, top=True, step=4)
    if tab:
        left, right = tube.sides["back"]
        hole = _hanging_hole(min(1.0, 0.7 * (right - left) / HOLE_SLOT_MM[0]))
        draft.pierce("back", translate(hole, (left + right - t - GAP) / 2, lid[1] + 0.55 * tab))
    return (Component("carton", draft.blank()),)


def _hanging_hole(size: float) -> Polygon:
    """A hole around 0, as large as usual or so much smaller."""
    half, tall = size * HOLE_SLOT_MM[0] / 2, size * HOLE_SLOT_MM[1]
    slot = rectangle(-half + tall / 2, -0.01, half - tall / 2, 0.01).buffer(tall / 2)
    hole = slot.union(Point(0, tall / 3).buffer(size * HOLE_MM / 2))
    assert isinstance(hole, Polygon)
    return hole


def straight_tuck(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """Both lids hang on the back, so that no cut edge shows in front."""
    return _tuck_carton(carton, allow, top_of="back", bottom_of="back")


def reverse_tuck(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """One lid hangs on the back, the other on the front: blanks nest closer on the sheet."""
    return _tuck_carton(carton, allow, top_of="back", bottom_of="front")


def hanging_card(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """Both lids hang on the front; the back goes on above the top, with a hole to hang it by."""
    return _tuck_carton(carton, allow, top_of="front", bottom_of="front", tab=allow("hanging tab"))


def sleeve(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """A tube that is open at both ends."""
    draft, ends = Draft(grain_of(carton)), (0.0, carton.depth)
    inside = (carton.length, carton.width, carton.depth)
    glued_tube(draft, inside, carton.board.caliper, dict.fromkeys(SIDES, ends), allow)
    return (Component("sleeve", draft.blank()),)


def slotted_case(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """Flaps all of one length; those on the narrower sides are folded first."""
    t, depth = carton.board.caliper, carton.depth
    first = ("right", "left") if carton.width <= carton.length else ("front", "back")
    inner, outer = (-t / 2, depth + t / 2), (-1.5 * t - GAP, depth + 1.5 * t + GAP)
    ends = {name: inner if name in first else outer for name in SIDES}
    draft = Draft(grain_of(carton))
    tube = glued_tube(draft, (carton.length, carton.width, depth), t, ends, allow)
    slot, meeting = allow("slot"), allow("flap gap")
    short = min(carton.length, carton.width)
    long = (short + t) / 2 - meeting / 2
    for top in (False, True):
        word, way = ("top", 1.0) if top else ("bottom", -1.0)
        for name, (left, _) in tube.sides.items():
            wide = carton.length if name in ("front", "back") else carton.width
            crease, flap = ends[name][1 if top else 0], f"{word} flap {name}"
            low, high = left + slot / 2, min(left + wide + t - slot / 2, tube.xs[4])
            draft.panel(flap, upright(low, high, crease, way * long), role="flap")
            step = (4 if top else 1) + (0 if name in first else 1)
            draft.hang(flap, name, (low, crease), (high, crease), step=step, springs=name not in first)
    return (Component("case", draft.blank()),)
