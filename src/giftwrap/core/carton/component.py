"""What a carton consists of: one or several blanks, and how each stands and comes to the others."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from shapely import Polygon

from giftwrap.core.carton.bending import Bent
from giftwrap.core.carton.blank import Blank, rectangle
from giftwrap.core.carton.folding import Folded
from giftwrap.core.carton.section import Bending
from giftwrap.core.model.carton import Carton, Window


@dataclass(frozen=True)
class Component:
    """One blank of a carton.

    stands : how its first panel is turned when it is shut: upright as a front; lying with its inside up (a
        base) or down (a lid), its blank's foot in front; or laid, as a lid whose blank's left is in front
    above : mm from the inside's floor of the carton up to the inside of a panel that lies
    windows : cut into its panels, each with its panel's name
    bending : how it is bent, where its panels are not plane
    paper : that covers it, where its board is covered
    comes : how it is put to the first one when that is folded: over it, sliding in from the right, with
        the one before it, or not at all
    """

    name: str
    blank: Blank
    stands: Literal["front", "base", "lid", "laid"] = "front"
    above: float = 0.0
    comes: Literal["", "over", "sliding", "with"] = ""
    windows: tuple[tuple[str, Window], ...] = ()
    bending: Bending | None = None
    paper: Blank | None = None

    def folded(self, angles: Mapping[str, float], caliper: float) -> Folded | Bent:
        """Its blank folded by angles, its first panel where it lay."""
        if self.bending is not None:
            return Bent(self.blank, angles, caliper, self.bending)
        return Folded(self.blank, angles, caliper)


def sheets_of(components: Sequence[Component]) -> dict[str, Blank]:
    """Everything that is cut for components: their blanks by name, and the paper that covers them."""
    papers = {f"{one.name}, paper": one.paper for one in components if one.paper is not None}
    return {one.name: one.blank for one in components} | papers


def upright(left: float, right: float, foot: float, tall: float) -> Polygon:
    """A rectangle that goes up or down from a height."""
    return rectangle(left, min(foot, foot + tall), right, max(foot, foot + tall))


def grain_of(carton: Carton) -> float:
    """Degrees of the fibres on the blank."""
    return 0.0 if carton.board.grain == "around" else 90.0
