"""Where on a blank the sizes of the inside are read: lines from crease to crease."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal, NamedTuple

from giftwrap.core.carton.component import Component
from giftwrap.core.model.carton import Carton

OVER = 6.0
"""Calipers by which creases may lie further apart than the inside they close in."""
SHARE = 0.22
"""How far from a panel's edge a line is drawn, as a share of the panel."""


class Dimension(NamedTuple):
    """A size of the inside and the line on the blank that shows it, mm."""

    field: Literal["length", "width", "depth"]
    start: tuple[float, float]
    end: tuple[float, float]


def dimensions_of(carton: Carton, components: Sequence[Component]) -> list[Dimension]:
    """The sizes of a carton on its first blank, as far as its panels show them; none on one of one's own.

    A tube shows them on its front and right, what is folded up from a floor on that and on its front. A
    panel that is larger than the inside by more than its board, as a case's boards are, does not show it.
    """
    if carton.own is not None:
        return []
    panels = components[0].blank.by_name
    if "floor" in panels:
        across, deep, tall = ("floor", "length"), ("floor", "width"), ("front", "depth")
    elif {"front", "right", "glue flap"} <= set(panels):
        across, deep, tall = ("front", "length"), ("right", "width"), ("front", "depth")
    else:
        return []
    found = []
    for (name, size), upright in ((across, False), (deep, "floor" in panels), (tall, True)):
        if name not in panels:
            continue
        left, foot, right, top = panels[name].outline.bounds
        x, y = left + SHARE * (right - left), foot + SHARE * (top - foot)
        ends = ((x, foot), (x, top)) if upright else ((left, y), (right, y))
        beyond = math.dist(*ends) - getattr(carton, size)
        if abs(beyond) < OVER * carton.board.caliper:
            found.append(Dimension(size, *ends))  # type: ignore[arg-type]
    return found
