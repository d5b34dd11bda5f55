"""Places that are picked on a pack as it stands: labels laid there, or cut to a loop that is drawn."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import points_moved
from giftwrap.core.model import PickedPanel
from giftwrap.core.things.received import ReceivedPack
from giftwrap.core.things.vessel import VesselShape
from giftwrap.core.wrap.picked import lassoed
from giftwrap.core.wrap.starting import picked_panel

Shape = VesselShape | ReceivedPack


def picked_on(shape: Shape, part: str, at: Sequence[float]) -> PickedPanel:
    """A new label with its middle at a place, mm as the pack stands.

    part : that was met there, or a label that lies on it

    Raises PackError when labels cannot lie on it.
    """
    part = _under(shape, part)
    _surface(shape, part)
    low, high = shape.thing.bounds.low, shape.thing.bounds.high
    size = (high[0] - low[0], high[1] - low[1], high[2] - low[2])
    return picked_panel(part, _as_formed(shape, part, np.array([at]))[0], size)


def loop_on(shape: Shape, panel: PickedPanel, part: str, loop: Array) -> PickedPanel:
    """A label cut to a loop, (n, 3) float, mm as the pack stands.

    part : that it was drawn on, or a label that lies on it

    Raises PackError when labels cannot lie there, or the loop encloses nothing that can be laid flat.
    """
    part = _under(shape, part)
    panel = panel.model_copy(update={"part": part, "rounding": 0.0})
    return lassoed(panel, _surface(shape, part), _as_formed(shape, part, loop))


def _under(shape: Shape, part: str) -> str:
    """The part under a label; or the part itself."""
    for number, sheet in enumerate(shape.sheets, start=1):
        if part == f"label-{number}":
            return sheet.part
    return part


def _surface(shape: Shape, part: str) -> Mesh:
    surfaces = shape.surfaces
    if part not in surfaces:
        known = ", ".join(list(surfaces)[:6])
        raise PackError(f"No label can lie on “{part}”: choose a place on one of {known}.", "panels")
    return surfaces[part]()


def _as_formed(shape: Shape, part: str, places: Array) -> Array:
    if isinstance(shape, ReceivedPack):
        return places
    return np.asarray(points_moved(places, np.asarray(np.linalg.inv(shape.poses[part]))))
