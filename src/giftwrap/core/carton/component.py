"""What a carton consists of: one or several blanks, and how each stands and comes to the others."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from shapely import Polygon

from giftwrap.core.carton.blank import Blank, rectangle
from giftwrap.core.model.carton import Carton, Window


@dataclass(frozen=True)
class Component:
    """One blank of a carton.

    stands : how its first panel is turned when it is shut: upright as a front; lying with its inside up (a
        base) or down (a lid), its blank's foot in front; or laid, as a lid whose blank's left is in front
    above : mm from the inside's floor of the carton up to the inside of a panel that lies
    windows : cut into its panels, each with its panel's name
    comes : how it is put to the first one when that is folded: over it, sliding in from the right, with
        the one before it, or not at all
    """

    name: str
    blank: Blank
    stands: Literal["front", "base", "lid", "laid"] = "front"
    above: float = 0.0
    comes: Literal["", "over", "sliding", "with"] = ""
    windows: tuple[tuple[str, Window], ...] = ()


def upright(left: float, right: float, foot: float, tall: float) -> Polygon:
    """A rectangle that goes up or down from a height."""
    return rectangle(left, min(foot, foot + tall), right, max(foot, foot + tall))


def grain_of(carton: Carton) -> float:
    """Degrees of the fibres on the blank."""
    return 0.0 if carton.board.grain == "around" else 90.0
