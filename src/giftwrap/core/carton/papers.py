"""The paper that covers a rigid box: its panels, what is turned in over their edges, and around corners."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from shapely import LineString, Polygon, union_all
from shapely.geometry.polygon import orient

from giftwrap.core.carton.allowances import Allowances
from giftwrap.core.carton.blank import MET, Blank, Draft
from giftwrap.core.carton.component import Component
from giftwrap.core.errors import PackError

COVERED = ("panel", "flap")
LEAST_EDGE = 2.0
"""Mm of a free edge below which no paper is turned in over it."""


def paper_of(component: Component, caliper: float, allow: Allowances) -> Blank:
    """The paper around a component's board, lying where the board's blank lies.

    It goes over every free edge, around the board's caliper, and is cut at 45° where two of these meet. Where
    two would lie over each other only the later panel's is there: it is the one that goes around the corner.

    Raises PackError when nothing of the board shows.
    """
    blank, deep = component.blank, allow("turn-in") + caliper
    kept = [panel for panel in blank.panels if panel.role in COVERED]
    if not kept:
        raise PackError("There is no board to cover with paper.", "board.wrapped")
    names = {panel.name for panel in kept}
    draft = Draft(90.0 - blank.grain)  # paper is laid across the board's grain
    for panel in kept:
        draft.panel(panel.name, Polygon(panel.outline.exterior), role=panel.role)
    for crease in blank.creases:
        if crease.parent in names and crease.child in names and not crease.curve:
            ends = crease.start, crease.end
            draft.hang(crease.child, crease.parent, *ends, angle=crease.angle, step=crease.step)
    creased = union_all([crease.line for crease in blank.creases]).buffer(1e-3)
    taken = union_all([Polygon(panel.outline.exterior) for panel in kept])
    for panel in reversed(kept):
        ring = np.array(orient(Polygon(panel.outline.exterior).simplify(1e-6)).exterior.coords)
        turned = 0
        for start, end in pairwise(ring):
            free = LineString([start, end]).difference(creased)
            length = float(np.linalg.norm(end - start))
            if free.length < length - 0.1 or length < LEAST_EDGE:
                continue
            along = (end - start) / length
            out = np.array([along[1], -along[0]])  # rings go counter-clockwise
            inset = min(deep, 0.45 * length)
            far = [end + deep * out - inset * along, start + deep * out + inset * along]
            flap = Polygon([start, end, *far])
            if flap.intersection(taken).area > MET:
                continue
            turned += 1
            name = f"{panel.name} turn-in {turned}"
            draft.panel(name, flap, role="glue flap")
            draft.hang(name, panel.name, tuple(start), tuple(end), angle=170.0, step=1)
            taken = taken.union(flap)
    return draft.blank()
