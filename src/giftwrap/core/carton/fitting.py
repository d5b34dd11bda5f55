"""A carton for what goes into it, and how many go into one."""

from __future__ import annotations

from dataclasses import dataclass

from giftwrap.core.carton.allowances import Allowances
from giftwrap.core.model.carton import Board, Carton, StyleName

CLEARANCE = 1.0
"""Mm of air on every side: what is put in by hand comes out again (common practice)."""
_CALIPERS = ((60.0, 0.35), (160.0, 0.45), (320.0, 0.55))
"""Mm of board for what is so tall (common practice); taller things get more."""
_MOST_CALIPER = 0.7
_TUCKS = {"straight-tuck": 1, "reverse-tuck": 2}
"""Tucks that reach down into the inside, between the front and the back."""


@dataclass(frozen=True)
class Packed:
    """How many upright things stand in a carton: across, deep and high; `turned` by a quarter or not.

    left : mm that stay free across, deep and high
    """

    across: int
    deep: int
    high: int
    turned: bool
    left: tuple[float, float, float]

    @property
    def count(self) -> int:
        """All of them."""
        return self.across * self.deep * self.high


def packed(size: tuple[float, float, float], inside: tuple[float, float, float]) -> Packed:
    """Stand as many things of a size as can be in rows in an inside, all turned alike; mm across, deep and
    high."""

    def rows(*, turned: bool) -> Packed:
        own = (size[1], size[0], size[2]) if turned else size
        x, y, z = (int((room + 1e-6) // side) for room, side in zip(inside, own, strict=True))
        left = (inside[0] - x * own[0], inside[1] - y * own[1], inside[2] - z * own[2])
        return Packed(x, y, z, turned, left)

    return max(rows(turned=False), rows(turned=True), key=lambda one: one.count)


def carton_for(
    size: tuple[float, float, float], style: StyleName = "reverse-tuck", clearance: float = CLEARANCE
) -> Carton:
    """A carton whose inside has room for something of a size, mm across, deep and high, and air around it."""
    across, deep, high = (round(side + 2 * clearance, 1) for side in size)
    caliper = next((mm for tall, mm in _CALIPERS if size[2] <= tall), _MOST_CALIPER)
    carton = Carton(style=style, length=across, width=deep, depth=high, board=Board(caliper=caliper))
    tucked = (
        _TUCKS.get(style, 0) * (caliper + Allowances(carton)("tuck clearance")) if style in _TUCKS else 0.0
    )
    return carton.model_copy(update={"width": round(deep + tucked, 1)})
