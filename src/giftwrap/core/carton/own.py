"""Blanks of one's own: from a drawing to a document, and from that to a blank that folds."""

from __future__ import annotations

import numpy as np
from shapely import Polygon

from giftwrap.core.carton.blank import MET, Blank, Draft
from giftwrap.core.carton.component import Component
from giftwrap.core.carton.curves import bending_of, settled
from giftwrap.core.carton.folding import angles_at
from giftwrap.core.errors import PackError
from giftwrap.core.model.carton import Board, Carton, OwnBlank, OwnCrease, OwnPanel, Perforation

DECIMALS, NEAR = 4, 0.01
"""Places are kept to so many decimals of a mm, and creases lie at edges within so many mm."""


def own_carton(blank: Blank, board: Board) -> Carton:
    """A carton from a blank that was read, its sizes those of the box it folds to."""
    left_foot = blank.way_to(0.0, 0.0)

    def rounded(points: object) -> tuple[tuple[float, float], ...]:
        moved = np.round(np.asarray(points, float) + left_foot, DECIMALS)
        return tuple((float(x), float(y)) for x, y in moved)

    panels = [
        OwnPanel(
            name=panel.name,
            outline=rounded(panel.outline.exterior.coords[:-1]),
            holes=[rounded(ring.coords[:-1]) for ring in panel.outline.interiors],
        )
        for panel in blank.panels
    ]
    creases = []
    for crease in blank.creases:
        start, end = rounded([crease.start, crease.end])
        creases.append(
            OwnCrease(
                parent=crease.parent,
                child=crease.child,
                start=start,
                end=end,
                angle=crease.angle,
                step=crease.step,
                closes=crease.closes,
                curve=rounded(crease.curve) if crease.curve else (),
            )
        )
    own = OwnBlank(panels=panels, creases=creases)
    faces = own_component(own).folded(angles_at(blank, 1.0), board.caliper).faces
    across, high, deep = np.clip(np.ptp(faces.outside.positions, axis=0), 5.0, 2000.0).round(1)
    size = {"length": float(across), "width": float(deep), "depth": float(high)}
    return Carton(style="own", own=own, board=board, perforations=_tears(blank), **size)


def _tears(blank: Blank) -> list[Perforation]:
    """Its perforations, each from the middle of its panel."""
    found = []
    for tear in blank.tears:
        left, foot, right, top = blank.by_name[tear.panel].outline.bounds
        (x0, y0), (x1, y1) = tear.line.coords[0], tear.line.coords[-1]
        found.append(
            Perforation(
                panel=tear.panel,
                x=round((x0 + x1 - left - right) / 2, DECIMALS),
                y=round((y0 + y1 - foot - top) / 2, DECIMALS),
                length=min(max(round(tear.line.length, DECIMALS), 2.0), 2000.0),
                angle=round(float(np.degrees(np.arctan2(y1 - y0, x1 - x0))), DECIMALS),
                cut=tear.cut,
                tie=tear.tie,
            )
        )
    return found


def own_component(own: OwnBlank, grain: float = 0.0) -> Component:
    """The blank of a document as it is folded, or bent; its grain in degrees. Raises PackError when its
    panels do not hang together as a tree, or cannot be bent along curved creases."""
    blank = _blank(own, grain)
    bending = bending_of(blank)
    if bending is None:
        return Component("carton", blank)
    return Component("carton", settled(blank, bending)[0], "lid", bending=bending)


def _blank(own: OwnBlank, grain: float) -> Blank:
    draft = Draft(grain)
    for index, panel in enumerate(own.panels):
        outline = Polygon(panel.outline, panel.holes)
        if not outline.is_valid or outline.area < MET:
            raise PackError(
                f"The outline of the {panel.name} crosses itself or has no area.", f"own.panels.{index}"
            )
        draft.panel(panel.name, outline)
    names = [panel.name for panel in own.panels]
    reached = {names[0]}
    for index, crease in enumerate(own.creases):
        ends = {crease.parent, crease.child}
        hangs = crease.parent in reached and crease.child in names and crease.child not in reached
        if not (ends <= reached if crease.closes else hangs):
            raise PackError(
                f"The {crease.child} cannot hang on the {crease.parent}: panels hang together as a tree, "
                "each on one that comes before.",
                f"own.creases.{index}",
            )
        reached.add(crease.child)
        draft.hang(
            crease.child,
            crease.parent,
            crease.start,
            crease.end,
            angle=crease.angle,
            step=crease.step,
            closes=crease.closes,
            curve=crease.curve,
            near=NEAR,
        )
    if len(reached) < len(names):
        loose = next(name for name in names if name not in reached)
        raise PackError(f"The {loose} hangs on nothing: give it a crease.", "own.creases")
    return draft.blank()
