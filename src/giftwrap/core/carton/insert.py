"""Inserts: a deck on walls that stands in a carton, with holes for what stands in it."""

from __future__ import annotations

from shapely import box
from shapely.affinity import translate

from giftwrap.core.carton.allowances import Allowances
from giftwrap.core.carton.blank import Draft, opening, rectangle
from giftwrap.core.carton.component import Component, grain_of
from giftwrap.core.errors import PackError, within
from giftwrap.core.model.carton import Carton, Insert

BRIDGE = 2.0
"""Mm of board that are left between holes, and between them and the edge (common practice)."""


def insert_of(carton: Carton, insert: Insert, allow: Allowances) -> Component:
    """The insert of a carton. Raises PackError, naming the hole, when it has no room."""
    t, air = carton.board.caliper, allow("insert smaller")
    if not 4 * t <= insert.height <= carton.depth:
        raise PackError(
            f"An insert of {insert.height:g} mm does not stand in {carton.depth:g} mm: from {4 * t:.1f} to "
            f"{carton.depth:g} mm.",
            "insert.height",
        )
    x, y = carton.length - 2 * air - t, carton.width - 2 * air - t
    low = insert.height - t / 2
    draft = Draft(grain_of(carton))
    draft.panel("deck", rectangle(0, 0, x, y))
    draft.panel("left", rectangle(-low, 0, 0, y))
    draft.panel("right", rectangle(x, 0, x + low, y))
    gap = t / 2 + 0.2  # front and back stand between the other two
    draft.panel("front", rectangle(gap, -low, x - gap, 0))
    draft.panel("back", rectangle(gap, y, x - gap, y + low))
    draft.hang("left", "deck", (0, 0), (0, y), step=0)
    draft.hang("right", "deck", (x, 0), (x, y), step=0)
    draft.hang("front", "deck", (gap, 0), (x - gap, 0), step=1)
    draft.hang("back", "deck", (gap, y), (x - gap, y), step=1)
    free = box(0, 0, x, y).buffer(-BRIDGE - t / 2)
    for index, hole in enumerate(insert.holes):
        outline = translate(opening(hole.across, hole.deep, hole.rounding), x / 2 + hole.x, y / 2 + hole.y)
        if not free.contains(outline):
            raise PackError(
                f"Hole {index + 1} comes within {BRIDGE:g} mm of another or of the edge: move it, or make it "
                "smaller.",
                f"insert.holes.{index}",
            )
        with within(f"insert.holes.{index}"):
            draft.pierce("deck", outline)
        free = free.difference(outline.buffer(BRIDGE))
    return Component("insert", draft.blank(), "lid", insert.height - t, "with")
