"""Windows: openings in panels, and the film glued behind them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import manifold3d
import numpy as np
from shapely import Polygon
from shapely.affinity import translate
from shapely.geometry.polygon import orient

from giftwrap.core.carton.blank import FlatPanel, opening
from giftwrap.core.carton.component import Component
from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.solids import smoothed
from giftwrap.core.model.carton import Window

MARGIN = 2.0
"""Mm of board around a window at least: less tears (common practice)."""
LAP, FILM, GLUE = 6.0, 0.05, 0.02
"""Mm that film laps behind the board, that it is thick, and that its glue is (common practice)."""


def with_windows(components: Sequence[Component], windows: Sequence[Window]) -> tuple[Component, ...]:
    """Components with their windows cut out.

    Raises PackError, naming the window, when there is no such panel or it has no room there.
    """
    found = list(components)
    for index, window in enumerate(windows):
        place = f"windows.{index}"
        number, panel = _panel_of(found, window, place)
        shape = opening_of(panel, window)
        if not panel.outline.buffer(-MARGIN).contains(shape):
            raise PackError(
                f"The window leaves less than {MARGIN:g} mm of board in the {window.panel}: make it smaller, "
                "or move it.",
                f"{place}.across",
            )
        cut = FlatPanel(panel.name, orient(panel.outline.difference(shape)), panel.role)
        component = found[number]
        panels = tuple(cut if one is panel else one for one in component.blank.panels)
        found[number] = replace(
            component,
            blank=replace(component.blank, panels=panels),
            windows=(*component.windows, (panel.name, window)),
        )
    return tuple(found)


def _panel_of(components: Sequence[Component], window: Window, place: str) -> tuple[int, FlatPanel]:
    several = len(components) > 1
    for number, component in enumerate(components):
        for panel in component.blank.panels:
            if window.panel == (f"{component.name} {panel.name}" if several else panel.name):
                return number, panel
    raise PackError(f"There is no {window.panel} to cut a window in: choose another panel.", f"{place}.panel")


def opening_of(panel: FlatPanel, window: Window) -> Polygon:
    """A window's outline on the blank."""
    left, foot, right, top = panel.outline.bounds
    shape = opening(window.across, window.high, window.rounding)
    return translate(shape, (left + right) / 2 + window.x, (foot + top) / 2 + window.y)


def film_of(panel: FlatPanel, window: Window, caliper: float) -> Mesh:
    """The film behind a window as it lies on the blank, its outside up."""
    whole = Polygon(panel.outline.exterior).buffer(-0.5)
    sheet = opening_of(panel, window).buffer(LAP, join_style="mitre").intersection(whole)
    rings = [np.array(orient(sheet).exterior.coords[:-1])]
    slab = manifold3d.CrossSection(rings, manifold3d.FillRule.EvenOdd).extrude(FILM)
    return smoothed(slab.translate((0, 0, -caliper / 2 - GLUE - FILM)))
