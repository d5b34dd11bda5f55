"""Caps, lids and covers: screw cap, overcap, flip-top, tin lid."""

from __future__ import annotations

import numpy as np
from shapely import MultiPoint

from giftwrap.core.errors import PackError
from giftwrap.core.form.closures.seat import (
    GAP,
    Built,
    Seat,
    Solid,
    both_sides,
    refuse_shoulder,
    refuse_unround,
    ribbed_solid,
    solid_path,
    turned_solid,
)
from giftwrap.core.form.sections import Loft
from giftwrap.core.form.skin import lofted, skin_mesh
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Path
from giftwrap.core.model import Cap, FlipTop, Overcap, SectionMark, TinLid
from giftwrap.core.model.material import plain

HINGE_GAP = 0.35
ORIFICE = 2.2
LEAST_SIDE = 0.3
"""Straight side in mm between the plate of a tin's lid and its roll."""


def cap_path(
    inside: float, outside: float, *, skirt: float, plate: float, top: float, rounding: float
) -> Path:
    """The section of a cap: from the middle of its inside, round its skirt, to the middle of its top.

    inside, outside : radii; skirt, plate, top : heights of its lower edge, inside top and top, mm
    """
    wall = outside - inside
    lip = min(0.3 * wall, 0.4)
    return solid_path(
        [
            (0.0, plate, 0.0),
            (inside, plate, min(0.3, 0.2 * (plate - skirt))),
            (inside, skirt, lip),
            (outside, skirt, lip),
            (outside, top, min(rounding, 0.9 * outside, 0.45 * (top - skirt))),
            (0.0, top, 0.0),
        ]
    )


def build_cap(closure: Cap, seat: Seat) -> Built:
    """A screw cap or lid.

    Raises PackError when its skirt would run into the shoulder or it is only a lid plate.
    """
    refuse_unround(seat, "A screw cap")
    inside = seat.thread_radius + closure.clearance
    outside = inside + closure.wall_thickness
    plate = seat.rim + GAP
    top = plate + closure.wall_thickness
    skirt = top - closure.height
    if closure.height <= closure.wall_thickness + GAP:
        raise PackError(
            f"A closure {closure.height:g} mm high with walls of {closure.wall_thickness:g} mm has no "
            "skirt: make it higher or its wall thinner.",
            "closure.height",
        )
    refuse_shoulder(seat, skirt, inside, top, "closure.height")
    rounding = min(closure.rounding, 0.9 * outside, 0.45 * closure.height)
    path = cap_path(inside, outside, skirt=skirt, plate=plate, top=top, rounding=rounding)
    solid = ribbed_solid(
        seat,
        "closure",
        path,
        closure.material,
        ribs=closure.ribs,
        bottom=skirt + 0.6,
        top=top - rounding - 0.4,
        radius=outside,
    )
    return Built((solid,), None, top, outside, skirt)


def build_overcap(closure: Overcap, seat: Seat) -> Built:
    """A smooth cover over the neck, standing on the shoulder.

    Raises PackError when it is too small to go over the finish.
    """
    refuse_unround(seat, "An overcap")
    least = 2 * (seat.thread_radius + 0.5 + closure.wall_thickness)
    diameter = closure.diameter or max(least, 2 * seat.thread_radius * 1.5)
    if diameter < least:
        raise PackError(
            f"An overcap {diameter:g} mm across does not go over the neck: at least {least:.1f} mm.",
            "closure.diameter",
        )
    outside, inside = diameter / 2, diameter / 2 - closure.wall_thickness
    foot = seat.obstacle(inside) + GAP
    top = foot + closure.height if closure.height else seat.rim + GAP + 4 * closure.wall_thickness
    if top < seat.rim + GAP + closure.wall_thickness:
        raise PackError(
            f"An overcap {closure.height:g} mm high ends under the rim: at least "
            f"{seat.rim + GAP + closure.wall_thickness - foot:.1f} mm.",
            "closure.height",
        )
    path = cap_path(
        inside, outside, skirt=foot, plate=top - closure.wall_thickness, top=top, rounding=closure.rounding
    )
    return Built((turned_solid(seat, "closure", path, closure.material),), None, top, outside, foot)


def build_flip_top(closure: FlipTop, seat: Seat) -> Built:
    """A cap with a lid hinged at the back.

    Raises PackError when it is too low for its lid or runs into the shoulder.
    """
    refuse_unround(seat, "A flip-top")
    wall = closure.wall_thickness
    if closure.height < closure.lid_height + 3 * wall:
        raise PackError(
            f"A flip-top {closure.height:g} mm high is too low for a lid of {closure.lid_height:g} mm: at "
            f"least {closure.lid_height + 3 * wall:.1f} mm.",
            "closure.height",
        )
    inside = seat.thread_radius + 0.4
    outside = inside + wall
    plate = seat.rim + GAP
    deck = plate + wall
    top = deck + closure.lid_height
    skirt = top - closure.height
    refuse_shoulder(seat, skirt, inside, top, "closure.height")
    nozzle = min(ORIFICE + 1.2, 0.5 * inside)
    rise = min(2.5, 0.5 * closure.lid_height)
    lip = min(0.3 * wall, 0.4)
    base = solid_path(
        [
            (0.0, plate, 0.0),
            (inside, plate, 0.3),
            (inside, skirt, lip),
            (outside, skirt, lip),
            (outside, deck, 0.3),
            (nozzle, deck, 0.3),
            (nozzle, deck + rise, 0.4),
            (min(ORIFICE, 0.6 * nozzle), deck + rise, 0.3),
            (min(ORIFICE, 0.6 * nozzle), deck - 0.3 * wall, 0.0),
            (0.0, deck - 0.3 * wall, 0.0),
        ]
    )
    foot = deck + HINGE_GAP
    room = max(top - foot - wall, rise + 0.3)
    lid = cap_path(
        inside, outside, skirt=foot, plate=min(foot + room, top - 0.5), top=top, rounding=closure.rounding
    )
    turned = turned_solid(seat, "lid", lid, closure.material)
    hinge = np.array([0.0, outside, foot])
    opened = _about_x(turned.mesh, hinge, np.radians(closure.open_angle))
    return Built(
        (
            turned_solid(seat, "cap", base, closure.material),
            Solid(
                "lid",
                opened,
                plain(closure.material),
                (_hull(opened) if closure.open_angle else both_sides(lid),),
            ),
        ),
        None,
        max(top, float(opened.positions[:, 2].max())),
        outside,
        skirt,
    )


def build_tin_lid(closure: TinLid, seat: Seat) -> Built:
    """A slip lid that follows the outline of its tin, its lower edge rolled outwards."""
    formed = seat.formed
    points = formed.outer.points
    wall, roll = closure.wall_thickness, closure.roll
    inside = seat.thread_radius + 0.15
    outside = inside + wall
    plate = seat.rim + GAP
    top = plate + wall
    skirt = top - closure.height
    least = wall + 2 * roll + LEAST_SIDE
    if closure.height < least:
        raise PackError(
            f"A lid {closure.height:g} mm high has no side over its roll of {roll:g} mm: make it at least "
            f"{least:.1f} mm high.",
            "closure.height",
        )
    wider = points[(points[:, 0] > inside - 0.02) & (points[:, 1] < seat.rim)]
    if len(wider) and skirt < float(wider[:, 1].max()):
        raise PackError(
            f"The lid would run into the body: make it at most {top - float(wider[:, 1].max()):.1f} mm high.",
            "closure.height",
        )
    rounding = min(closure.rounding, 0.4 * closure.height)
    edge = min(0.9 * roll, 0.45 * (1.6 * roll + wall))
    loop = solid_path(
        [
            (0.0, plate, 0.0),
            (inside, plate, max(rounding - wall, 0.1)),
            (inside, skirt, edge),
            (outside + 1.6 * roll, skirt, edge),
            (outside + 1.6 * roll, skirt + 2 * roll, edge),
            (outside, skirt + 2 * roll, 0.1),
            (outside, top, rounding),
            (0.0, top, 0.0),
        ]
    )
    below = [mark for mark in formed.loft.marks if mark.height <= seat.rim] or [formed.loft.marks[0]]
    loft = Loft((SectionMark(height=0, section=below[-1].section),))
    mesh = skin_mesh(lofted(loop, loft, formed.columns))
    solid = Solid("closure", mesh, plain(closure.material), (both_sides(loop),))
    return Built((solid,), None, top, outside + 1.6 * roll, skirt)


def _about_x(mesh: Mesh, hinge: np.ndarray, angle: float) -> Mesh:
    """A mesh turned back around a hinge that runs along x, by radians."""
    cos, sin = np.cos(angle), np.sin(angle)
    turn = np.array([[1.0, 0.0, 0.0], [0.0, cos, sin], [0.0, -sin, cos]])
    return Mesh((mesh.positions - hinge) @ turn.T + hinge, mesh.normals @ turn.T, mesh.uvs, mesh.faces)


def _hull(mesh: Mesh) -> np.ndarray:
    """The convex outline of a mesh seen from the front, (n, 2) float."""
    return np.array(MultiPoint(mesh.positions[:, [0, 2]]).convex_hull.exterior.coords)
