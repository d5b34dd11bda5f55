"""What is done to areas of panels: windows with film behind them, embossing, and perforations."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from shapely import LineString, Polygon
from shapely.affinity import rotate, scale, translate
from shapely.geometry.polygon import orient

from giftwrap.core.carton.bending import Bent
from giftwrap.core.carton.blank import Blank, FlatPanel, Pressed, Tear, opening
from giftwrap.core.carton.component import Component
from giftwrap.core.carton.folding import Folded
from giftwrap.core.carton.pressing import flank_of
from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.model.carton import Area, Carton, Window

MARGIN = 2.0
"""Mm of board around a window or an embossing at least: less tears (common practice)."""
LAP, FILM, GLUE = 6.0, 0.05, 0.02
"""Mm that film laps behind the board, that it is thick, and that its glue is (common practice)."""


def finished(components: Sequence[Component], carton: Carton) -> tuple[Component, ...]:
    """Components with the windows, embossings and perforations of a carton.

    Raises PackError, naming which of them, when there is no such panel or no room in it.
    """
    found = list(components)
    for index, window in enumerate(carton.windows):
        place = f"windows.{index}"
        number, panel = panel_of(found, window.panel, f"{place}.panel")
        shape = _within(panel, window, f"{place}.across", "window")
        cut = FlatPanel(panel.name, orient(panel.outline.difference(shape)), panel.role)
        panels = tuple(cut if one is panel else one for one in found[number].blank.panels)
        found[number] = replace(
            found[number],
            blank=replace(found[number].blank, panels=panels),
            windows=(*found[number].windows, (panel.name, window)),
        )
    for index, embossing in enumerate(carton.embossings):
        place = f"embossings.{index}"
        number, panel = panel_of(found, embossing.panel, f"{place}.panel")
        shape = _within(panel, embossing, f"{place}.across", "embossing")
        found[number] = _embossed(found[number], Pressed(panel.name, shape, embossing.height), place)
    for index, tear in enumerate(carton.perforations):
        place = f"perforations.{index}"
        number, panel = panel_of(found, tear.panel, f"{place}.panel")
        x, y = _middle(panel)
        line = LineString([(-tear.length / 2, 0), (tear.length / 2, 0)])
        line = translate(rotate(line, tear.angle, (0, 0)), x + tear.x, y + tear.y)
        met = panel.outline.intersection(line)
        if not isinstance(met, LineString) or met.length < tear.cut + tear.tie:
            raise PackError(
                f"The perforation does not go across the {tear.panel} in one piece: move it, or turn it.",
                f"{place}.length",
            )
        blank = found[number].blank
        tears = (*blank.tears, Tear(panel.name, met, tear.cut, tear.tie))
        found[number] = replace(found[number], blank=replace(blank, tears=tears))
    return tuple(found)


def _embossed(component: Component, pressed: Pressed, place: str) -> Component:
    blank: Blank = component.blank
    if component.bending is not None:
        raise PackError("Board that is bent cannot be embossed here: choose another style.", f"{place}.panel")
    if any(one.panel == pressed.panel and one.outline.intersects(pressed.outline) for one in blank.pressed):
        raise PackError(f"Two embossings meet in the {pressed.panel}: move one of them.", f"{place}.x")
    if pressed.outline.buffer(-flank_of(pressed.height)).is_empty:
        raise PackError(
            f"The embossing of {abs(pressed.height):g} mm is too high for so small an area: its flanks meet.",
            f"{place}.height",
        )
    return replace(component, blank=replace(blank, pressed=(*blank.pressed, pressed)))


def _within(panel: FlatPanel, area: Area, place: str, word: str) -> Polygon:
    shape = outline_of(panel, area)
    if not shape.is_valid:
        raise PackError(f"The outline of the {word} crosses itself: draw it as one plain shape.", place)
    if not panel.outline.buffer(-MARGIN).contains(shape):
        raise PackError(
            f"The {word} leaves less than {MARGIN:g} mm of board in the {area.panel}: make it smaller, or "
            "move it.",
            place,
        )
    return shape


def panel_of(components: Sequence[Component], name: str, place: str) -> tuple[int, FlatPanel]:
    """A panel by what windows call it, and its component's number. Raises PackError when there is none."""
    several = len(components) > 1
    for number, component in enumerate(components):
        for panel in component.blank.panels:
            if name == (f"{component.name} {panel.name}" if several else panel.name):
                return number, panel
    raise PackError(f"There is no {name} on this carton: choose another panel.", place)


def _middle(panel: FlatPanel) -> tuple[float, float]:
    left, foot, right, top = panel.outline.bounds
    return (left + right) / 2, (foot + top) / 2


def outline_of(panel: FlatPanel, area: Area) -> Polygon:
    """An area's outline on the blank."""
    shape = opening(area.across, area.high, area.rounding)
    if area.shape is not None:
        drawn = Polygon(np.asarray(area.shape))
        left, foot, right, top = drawn.bounds
        centred = translate(drawn, -(left + right) / 2, -(foot + top) / 2)
        wide, tall = max(right - left, 1e-6), max(top - foot, 1e-6)
        shape = orient(scale(centred, area.across / wide, area.high / tall, origin=(0, 0)))
    x, y = _middle(panel)
    return translate(shape, x + area.x, y + area.y)


def film_of(panel: FlatPanel, window: Window, folded: Folded | Bent) -> Mesh:
    """The film behind a window as it is folded."""
    whole = Polygon(panel.outline.exterior).buffer(-0.5)
    sheet = outline_of(panel, window).buffer(LAP, join_style="mitre").intersection(whole)
    top = -folded.caliper / 2 - GLUE
    return folded.slab(panel.name, Polygon(sheet.exterior), top - FILM, top)
