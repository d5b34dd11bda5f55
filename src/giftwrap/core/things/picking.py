"""Places that are picked on a pack as it stands: labels laid there, moved there, or cut to a loop that is
drawn."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import points_moved
from giftwrap.core.model import PickedPanel, WrapPanel
from giftwrap.core.things.carton import CartonPack
from giftwrap.core.things.received import ReceivedPack
from giftwrap.core.things.stuck_on import CLOSED, on_the_blank, part_at
from giftwrap.core.things.vessel import VesselShape
from giftwrap.core.wrap.laid import Label
from giftwrap.core.wrap.picked import lassoed, lay_picked
from giftwrap.core.wrap.starting import picked_panel
from giftwrap.core.wrap.walls import wall_of
from giftwrap.core.wrap.wrapped import lay_wrapped

Shape = VesselShape | ReceivedPack | CartonPack
AROUND_CORNERS = 100.0
"""Degrees that a seal of a carton goes around."""


def picked_on(shape: Shape, part: str, at: Sequence[float]) -> PickedPanel:
    """A new label with its middle at a place, mm as the pack stands.

    part : that was met there, or a label that lies on it

    Raises PackError when labels cannot lie on it.
    """
    part = _lies_on(shape, part, at)
    low, high = shape.thing.bounds.low, shape.thing.bounds.high
    size = (high[0] - low[0], high[1] - low[1], high[2] - low[2])
    panel = picked_panel(part, _as_formed(shape, part, np.array([at]))[0], size)
    if part == CLOSED:
        panel = panel.model_copy(update={"grow": AROUND_CORNERS})
    return _kept(shape, panel)


def moved_to(shape: Shape, number: int, part: str, at: Sequence[float] | None = None) -> Label:
    """A label of a pack moved to a place, mm as the pack stands, on the part that was met there; or where it
    is now to another part.

    Raises PackError when there is no such label, or it cannot lie there as it is.
    """
    if not 0 <= number < len(shape.sheets):
        raise PackError("There is no such label on this pack: choose one of its labels.", "panel")
    label = shape.pack.panels[number]
    if isinstance(label, PickedPanel):
        laid = shape.sheets[number].panel
        if at is None and isinstance(laid, PickedPanel):
            _surface(shape, part)
            place = np.array(laid.at)
        else:
            assert at is not None
            part = _lies_on(shape, part, at)
            place = _as_formed(shape, part, np.array([at]))[0]
        x, y, z = (round(float(v), 3) for v in place)
        moved = label.model_copy(update={"part": part, "at": (x, y, z)})
        lay_picked(moved, _surface(shape, part), place="panel")
        return _kept(shape, moved)
    if isinstance(label, WrapPanel) and isinstance(shape, VesselShape) and at is not None:
        return _wound_around(shape, label, _under(shape, part), at)
    raise PackError(f"“{label.name}” lies over the whole pack: it has no part to be moved to.", "panel")


def loop_on(shape: Shape, panel: PickedPanel, part: str, loop: Array) -> PickedPanel:
    """A label cut to a loop, (n, 3) float, mm as the pack stands.

    part : that it was drawn on, or a label that lies on it

    Raises PackError when labels cannot lie there, or the loop encloses nothing that can be laid flat.
    """
    part = _lies_on(shape, part, loop[0])
    panel = panel.model_copy(update={"part": part, "rounding": 0.0})
    return _kept(shape, lassoed(panel, _surface(shape, part), _as_formed(shape, part, loop)))


def _wound_around(shape: VesselShape, label: WrapPanel, part: str, at: Sequence[float]) -> WrapPanel:
    """A label around a part, its middle as near to a place as its height allows."""
    wall = wall_of(part, shape.formed, shape.built, place="panels")
    room = wall.top - wall.foot
    if label.height > room:
        raise PackError(
            f"“{label.name}” is {label.height:g} mm tall, the {part} only {room:.1f}: make it lower first.",
            "height",
        )
    x, y, z = _as_formed(shape, part, np.array([at]))[0]
    start = float(np.clip(z - wall.foot - label.height / 2, 0.0, room - label.height))
    angle = float(np.degrees(np.arctan2(x, -y)))
    changes = {"part": part, "from_base": round(start, 2), "centre_angle": round(angle, 2)}
    moved = label.model_copy(update=changes)
    lay_wrapped(moved, wall, place="panel")
    return moved


def _lies_on(shape: Shape, part: str, at: Sequence[float] | Array) -> str:
    """What a label lies on that is put on a place of a part. Raises PackError when it cannot."""
    part = _under(shape, part)
    _surface(shape, part)
    return part_at(shape.shape, part, np.asarray(at, float)) if isinstance(shape, CartonPack) else part


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
    if not isinstance(shape, VesselShape):
        return places
    return np.asarray(points_moved(places, np.asarray(np.linalg.inv(shape.poses[part]))))


def _kept(shape: Shape, panel: PickedPanel) -> PickedPanel:
    """A label as it is kept: what is folded has its places on the blank."""
    return on_the_blank(panel, shape.shape) if isinstance(shape, CartonPack) else panel
