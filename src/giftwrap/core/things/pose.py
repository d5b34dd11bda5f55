"""Where parts stand: closures lifted, tilted or laid down, parts drawn apart, copies, packs turned over."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.form.closures import Built
from giftwrap.core.form.formed import FormedBody
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import lean, points_moved, shift, turn
from giftwrap.core.model import Pack
from giftwrap.core.model.material import plain
from giftwrap.core.things.thing import Piece

BESIDE_GAP = 14.0
"""Distance in mm between a body and a closure laid beside it."""
TABLE_GAP = 0.05
APART_SHARE = 0.6
"""Distance between the parts of a closure as a share of that between it and the body."""


def closure_pose(pack: Pack, built: Built, formed: FormedBody) -> Array:
    """The 4 × 4 transform from a closure's seat to where the pack has it.

    Raises PackError when it would lean while still in or on the neck.
    """
    closure = pack.vessel.closure
    assert closure is not None
    low = _lowest(built)
    if closure.beside:
        return _beside(built, formed, closure.tilt)
    lifted = shift(0, 0, closure.lift)
    if closure.tilt == 0:
        return lifted
    clear = formed.rim_height - low
    if closure.lift < clear:
        raise PackError(
            f"The closure is still on the neck: lift it {clear:.1f} mm before it can lean.", "closure.tilt"
        )
    hinge = np.array([built.radius, 0.0, low])
    return lifted @ shift(*hinge) @ lean(closure.tilt) @ shift(*-hinge)


def _beside(built: Built, formed: FormedBody, tilt: float) -> Array:
    """Standing on the table to the right of the body, or lying there with its top away from it."""
    widest = float(formed.outer.points[:, 0].max())
    points = np.vstack([_all_points(built)])
    leaning = lean(90.0 if built.lies else tilt)
    low = points_moved(points, leaning).min(axis=0)
    return shift(widest + BESIDE_GAP - float(low[0]), 0.0, TABLE_GAP - float(low[2])) @ leaning


def exploded_lifts(pack: Pack, built: Built | None, formed: FormedBody) -> dict[str, float]:
    """How far up each part of a closure is drawn, and how far forward the labels, mm, by part."""
    gap = pack.exploded
    if gap <= 0:
        return {}
    lifts = {"labels": gap}
    if not built:
        return lifts
    cursor = formed.rim_height + gap
    if built.tube:
        lifts[built.tube.name] = cursor - float(built.tube.heights[0])
        cursor = float(built.tube.heights[-1]) + lifts[built.tube.name] + APART_SHARE * gap
    for solid in sorted(built.solids, key=lambda s: float(s.mesh.positions[:, 2].min())):
        low, high = float(solid.mesh.positions[:, 2].min()), float(solid.mesh.positions[:, 2].max())
        lifts[solid.name] = cursor - low
        cursor += high - low + APART_SHARE * gap
    return lifts


def copied(pack: Pack, pieces: list[Piece]) -> list[Piece]:
    """The pieces of every copy of a part.

    Raises PackError when a copy names a part the pack does not have.
    """
    found: list[Piece] = []
    for index, copy in enumerate(pack.copies):
        own = [p for p in pieces if p.part == copy.of]
        if not own:
            parts = ", ".join(sorted({p.part for p in pieces}))
            raise PackError(
                f"There is no part “{copy.of}” to copy: choose one of {parts}.", f"copies.{index}.of"
            )
        points = np.vstack([p.mesh.positions for p in own])
        foot = np.array([*(points.min(axis=0) + points.max(axis=0))[:2] / 2, points[:, 2].min()])
        place = shift(copy.x, copy.y, copy.z + TABLE_GAP) @ turn(copy.turn) @ lean(copy.tilt) @ shift(*-foot)
        if copy.tilt:
            low = min(float((p.mesh.positions @ place[:3, :3].T)[:, 2].min()) + place[2, 3] for p in own)
            place = shift(0, 0, copy.z + TABLE_GAP - low) @ place
        for piece in own:
            found.append(
                replace(
                    piece.moved(place),
                    name=f"{piece.name}-copy-{index + 1}",
                    part=f"{copy.of}-copy-{index + 1}",
                    material=plain(copy.material) if copy.material else piece.material,
                    before=None,
                    front=None,
                )
            )
    return found


def turned_over(pieces: list[Piece]) -> Array:
    """The 4 × 4 transform that turns a pack upside down, its front still in front."""
    over = np.diag([-1.0, 1.0, -1.0, 1.0])
    over[2, 3] = max(float(p.mesh.positions[:, 2].max()) for p in pieces)
    return over


def stood_on_closure(pieces: list[Piece], over: Array) -> list[Piece]:
    """The pack turned upside down; prints stay upright."""
    found = []
    for piece in pieces:
        there = piece.moved(over)
        if piece.panel is not None:
            mesh = there.mesh
            there = replace(there, mesh=Mesh(mesh.positions, mesh.normals, 1 - mesh.uvs, mesh.faces))
        found.append(there)
    return found


def _lowest(built: Built) -> float:
    return float(_all_points(built)[:, 2].min())


def _all_points(built: Built) -> Array:
    points = [solid.mesh.positions for solid in built.solids]
    if built.tube:
        tube = built.tube
        for side in (-1.0, 1.0):
            points.append(np.stack([tube.shift + side * tube.outer, 0 * tube.heights, tube.heights], axis=1))
    return np.vstack(points)
