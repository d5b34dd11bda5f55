"""What goes into the neck: stopper, dropper, pump."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.form.closures.caps import cap_path
from giftwrap.core.form.closures.seat import (
    GAP,
    Built,
    Seat,
    Solid,
    Tube,
    both_sides,
    refuse_shoulder,
    refuse_unround,
    ribbed_solid,
    solid_path,
    turned_solid,
)
from giftwrap.core.form.skin import skin_mesh, turned_path
from giftwrap.core.mesh.fillet import rounded_path
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array, norms
from giftwrap.core.mesh.solids import swept, united
from giftwrap.core.model import Dropper, Linked, Pump, Stopper
from giftwrap.core.model.material import Material, plain

CLEARANCE = 0.4
COLLAR_WALL = 1.5
PLUG_GAP = 0.06
"""Gap in mm between a plug and the bore, too small to see."""
PIPETTE_WALL = 1.0
TIP_RADIUS = 1.1
TUBE_WALL = 0.7
TUBE_PLAY = 0.3
"""Least gap between a tube and the opening it goes through, mm."""
HEAD_COLUMNS = 72
LEAST_SPOUT = 1.0
SPOUT_SQUASH = 0.85
"""Height of a spout over its width."""
STEM_RADIUS_SHARE = 0.32
TUBE_STEPS, TUBE_TRIES = 64, 48
TUBE_BEND = 2.2
"""Power of its depth by which a dip tube bends."""
TUBE_ROOM = 0.4
"""Least distance of a dip tube from the wall, mm."""


def build_stopper(closure: Stopper, seat: Seat) -> Built:
    """A plug that fills the bore, under a head.

    Raises PackError when it is deeper than the neck is straight.
    """
    refuse_unround(seat, "A stopper")
    bottom = seat.rim + GAP - closure.depth
    line = seat.formed.inside_line()
    inside = line[(line[:, 1] > bottom) & (line[:, 1] < seat.rim), 0]
    radius = min(seat.bore, float(inside.min()) if len(inside) else seat.bore) - PLUG_GAP
    if bottom < float(line[0, 1]) + 1 or radius < 0.5 * seat.bore:
        raise PackError(
            f"A stopper {closure.depth:g} mm deep does not fit the neck: make it shallower.",
            "closure.depth",
        )
    foot = 0.94 * radius
    head = min(seat.neck_radius + closure.head_overhang, 4 * seat.neck_radius)
    deck, top = seat.rim + GAP, seat.rim + GAP + closure.head_height
    rounding = min(closure.rounding, 0.45 * closure.head_height, 0.9 * head)
    plug = solid_path(
        [
            (0.0, bottom, 0.0),
            (foot, bottom, min(1.0, 0.3 * foot)),
            (radius, deck - 0.02, 0.0),
            (0.0, deck - 0.02, 0.0),
        ]
    )
    knob = solid_path(
        [(0.0, deck, 0.0), (head, deck, min(rounding, 0.6)), (head, top, rounding), (0.0, top, 0.0)]
    )
    solids = (
        turned_solid(seat, "stopper", plug, closure.material),
        turned_solid(seat, "head", knob, closure.head),
    )
    return Built(solids, None, top, head, None, lies=True)


def _collar(
    seat: Seat, height: float, ribs: int, material: Material | Linked, place: str
) -> tuple[Solid, float, float, float]:
    """A screw collar; returns it with its radius, its top and its skirt, mm."""
    inside = seat.thread_radius + CLEARANCE
    outside = inside + COLLAR_WALL
    plate = seat.rim + GAP
    top = plate + COLLAR_WALL
    skirt = top - height
    if height <= COLLAR_WALL + GAP:
        raise PackError(f"A collar {height:g} mm high has no skirt: make it higher.", place)
    refuse_shoulder(seat, skirt, inside, top, place)
    solid = ribbed_solid(
        seat,
        "collar",
        cap_path(inside, outside, skirt=skirt, plate=plate, top=top, rounding=1.0),
        material,
        ribs=ribs,
        bottom=skirt + 0.6,
        top=top - 1.4,
        radius=outside,
    )
    return solid, outside, top, skirt


def _refuse_wide(seat: Seat, radius: float, what: str, place: str) -> None:
    """Raise PackError when a tube does not go through the opening."""
    if radius > seat.bore - TUBE_PLAY:
        raise PackError(
            f"{what} {2 * radius:g} mm thick does not go through the opening of {2 * seat.bore:.1f} mm: make "
            f"it at most {2 * (seat.bore - TUBE_PLAY):.1f} mm.",
            place,
        )


def build_dropper(closure: Dropper, seat: Seat) -> Built:
    """A collar, a bulb and a pipette that ends above the floor.

    Raises PackError when the pipette does not go through the neck or has no room to hang.
    """
    refuse_unround(seat, "A dropper")
    collar, outside, deck, skirt = _collar(
        seat, closure.collar_height, closure.ribs, closure.material, "closure.collar_height"
    )
    radius = closure.pipette_diameter / 2
    _refuse_wide(seat, radius, "A pipette", "closure.pipette_diameter")
    low = float(seat.formed.inside_line()[0, 1]) + closure.to_floor
    top = seat.rim + GAP - 0.03
    if low > top - 20:
        raise PackError("The pipette has no room to hang: leave it less above the floor.", "closure.to_floor")
    bulb_radius = min(closure.bulb_diameter / 2, outside - 0.5)
    height = closure.bulb_height
    neck, base = 0.82 * bulb_radius, deck + GAP
    bulb = solid_path(
        [
            (0.0, base, 0.0),
            (bulb_radius * 1.12, base, 0.5),
            (bulb_radius * 1.12, base + 0.1 * height, 0.6),
            (neck, base + 0.17 * height, 1.2),
            (bulb_radius, base + 0.42 * height, 3.0),
            (0.92 * bulb_radius, base + height, min(0.8 * bulb_radius, 0.3 * height)),
            (0.0, base + height, 0.0),
        ]
    )
    tip = min(14.0, 0.3 * (top - low))
    heights = np.concatenate([low + tip * np.linspace(0, 1, 14), np.linspace(low + tip, top, TUBE_STEPS)[1:]])
    share = np.clip((heights - low) / tip, 0.0, 1.0)
    share = share * share * (3 - 2 * share)
    outer = TIP_RADIUS + 0.7 + share * (radius - TIP_RADIUS - 0.7)
    wall = np.minimum(0.7 + share * (PIPETTE_WALL - 0.7), 0.5 * outer)
    pipette = Tube("pipette", heights, 0 * heights, outer, outer - wall, plain(closure.pipette))
    solids = (collar, turned_solid(seat, "bulb", bulb, closure.bulb))
    return Built(solids, pipette, base + height, outside, skirt, lies=True)


def build_pump(closure: Pump, seat: Seat) -> Built:
    """A collar, a stem, an actuator with a spout, and a dip tube that bends out to the heel.

    Raises PackError when the tube does not go through the neck or has no room to hang.
    """
    refuse_unround(seat, "A pump")
    collar, outside, deck, skirt = _collar(
        seat, closure.collar_height, closure.ribs, closure.material, "closure.collar_height"
    )
    radius = closure.tube_diameter / 2
    _refuse_wide(seat, radius, "A dip tube", "closure.tube_diameter")
    head_radius = closure.actuator_diameter / 2
    shoulder = deck + 2.5
    stem_radius = max(STEM_RADIUS_SHARE * head_radius, 1.5)
    foot = shoulder + GAP + closure.travel * (1 - closure.pressed)
    boss = solid_path(
        [
            (0.0, deck + 0.02, 0.0),
            (0.72 * outside, deck + 0.02, 0.3),
            (0.6 * outside, shoulder, 0.8),
            (0.0, shoulder, 0.0),
        ]
    )
    stem = solid_path(
        [
            (0.0, shoulder + 0.02, 0.0),
            (stem_radius, shoulder + 0.02, 0.0),
            (stem_radius, foot - 0.02, 0.0),
            (0.0, foot - 0.02, 0.0),
        ]
    )
    solids = [collar, turned_solid(seat, "boss", boss, closure.material)]
    low, high = shoulder + 0.02, foot - 0.02
    if high - low > 0.3:
        stem = solid_path([(0, low, 0), (stem_radius, low, 0), (stem_radius, high, 0), (0, high, 0)])
        solids.append(turned_solid(seat, "stem", stem, closure.actuator))
    actuator, top = _actuator(closure, foot)
    solids.append(actuator)
    tube = _dip_tube(closure, seat, radius)
    return Built(tuple(solids), tube, top, outside, skirt, lies=True)


def _actuator(closure: Pump, foot: float) -> tuple[Solid, float]:
    """The head one presses, with its spout to the right; returns it and its top in mm."""
    mesh, outlines = _head(closure.actuator_diameter / 2, closure.actuator_height, closure.spout)
    up = np.array([0.0, 0.0, foot])
    placed = Mesh(mesh.positions + up, mesh.normals, mesh.uvs, mesh.faces)
    seen = tuple(points + up[[0, 2]] for points in outlines)
    return Solid("actuator", placed, plain(closure.actuator), seen), foot + closure.actuator_height


@lru_cache(maxsize=32)
def _head(radius: float, height: float, spout: float) -> tuple[Mesh, tuple[Array, ...]]:
    """An actuator that stands on z = 0: a head's radius and height, and how far its spout reaches, mm."""
    body = solid_path(
        [
            (0.0, 0.0, 0.0),
            (0.9 * radius, 0.0, 0.6),
            (radius, 0.35 * height, 2.0),
            (0.94 * radius, height, min(2.2, 0.3 * height)),
            (0.0, height, 0.0),
        ]
    )
    head = skin_mesh(turned_path(body, HEAD_COLUMNS))
    if spout < LEAST_SPOUT:
        return head, (both_sides(body),)
    thick = min(0.3 * height, 4.5)
    reach, level = radius + spout, 0.62 * height
    bend = (reach - 0.8 * thick, level + 0.5, 1.6 * thick)
    line = rounded_path(np.array([(0.2 * radius, level, 0), bend, (reach, level - 1.9 * thick, 0)])).points
    thickness = thick * (1.0 - 0.35 * np.linspace(0.0, 1.0, len(line)))
    step = np.gradient(line, axis=0)
    side = np.stack([-step[:, 1], step[:, 0]], axis=1) / norms(step)
    reach_out = SPOUT_SQUASH * thickness[:, None] * side
    outlines = (both_sides(body), np.vstack([line + reach_out, (line - reach_out)[::-1]]))
    return united([head, swept(line, thickness, squash=SPOUT_SQUASH)]), outlines


def _dip_tube(closure: Pump, seat: Seat, radius: float) -> Tube:
    """A tube from under the collar, bent to the right as far as the wall lets it."""
    inside = seat.formed.inside_line()
    lowest = seat.formed.cavity.lowest_row
    wall = inside[lowest:]
    rising = np.maximum.accumulate(wall[:, 1]) + 1e-9 * np.arange(len(wall))
    top = seat.rim + GAP - 0.03
    for shift in np.linspace(float(wall[:, 0].max()), 0.0, TUBE_TRIES):
        across = shift + radius * np.linspace(-1.0, 1.0, 9)
        floor = np.interp(np.abs(across), inside[: lowest + 1, 0], inside[: lowest + 1, 1])
        low = float(floor.max()) + closure.to_floor
        heights = np.linspace(low, top, TUBE_STEPS)
        bend = shift * ((top - heights) / (top - low)) ** TUBE_BEND
        room = np.interp(heights, rising, wall[:, 0])
        if low < top - 10 and (bend + radius + TUBE_ROOM < room).all():
            outer = np.full(TUBE_STEPS, radius)
            inner = np.full(TUBE_STEPS, max(radius - TUBE_WALL, 0.4 * radius))
            return Tube("dip tube", heights, bend, outer, inner, plain(closure.tube))
    raise PackError("The dip tube has no room to hang: leave it less above the floor.", "closure.to_floor")
