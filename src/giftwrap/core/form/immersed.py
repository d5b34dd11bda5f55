"""Tubes that hang into contents: each surface knows what it touches inside and out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giftwrap.core.form.closures import Tube
from giftwrap.core.form.contents import Hole
from giftwrap.core.form.skin import Skin, cut_at, joined_skins, skin_mesh, skins_mesh
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array

AROUND = 64
BORE_ROWS = 6


@dataclass(frozen=True)
class Immersed:
    """The surfaces of a tube. Those that it does not have are None.

    dry : tube to air; wet : tube to contents; bore_top : contents to air inside it, facing up
    """

    dry: Mesh
    wet: Mesh | None
    bore_top: Mesh | None


def raised(tube: Tube, by: float) -> Tube:
    """The tube lifted by mm."""
    return Tube(tube.name, tube.heights + by, tube.shift, tube.outer, tube.inner, tube.material)


def hole_of(tube: Tube, height: float) -> Hole | None:
    """Where a tube stands through a level; None when it ends above it."""
    if height <= tube.heights[0] + 0.3 or height >= tube.heights[-1]:
        return None
    return Hole(cut_at(_wall(tube, tube.outer), height)[1].positions[:, 0])


def immerse(tube: Tube, contact: float, level: float) -> Immersed:
    """Split a tube where contents meet it outside, at `contact`, and inside, at `level` (mm)."""
    outside, inside = _wall(tube, tube.outer), _wall(tube, tube.inner)
    inside = inside.flipped()
    tip, lip = _ring(outside, inside, 0), _ring(outside, inside, -1)
    if hole_of(tube, contact) is None:
        return Immersed(skins_mesh([tip, outside, lip, inside.reversed()]), None, None)
    outer_wet, outer_dry = cut_at(outside, contact)
    inner_wet, inner_dry = cut_at(inside, level)
    wet = skin_mesh(joined_skins(inner_wet.reversed(), tip, outer_wet))
    dry = skin_mesh(joined_skins(outer_dry, lip, inner_dry.reversed()))
    ring = inner_dry.positions[:, 0]
    share = np.linspace(0.0, 1.0, BORE_ROWS)[None, :, None]
    top = ring[:, None] + share * (ring.mean(axis=0) - ring)[:, None]
    up = np.broadcast_to(np.array([0.0, 0.0, 1.0]), top.shape)
    return Immersed(dry, wet, skin_mesh(Skin(top, up)))


def _wall(tube: Tube, radius: Array) -> Skin:
    """Rings rising along the tube, facing outwards."""
    turn = np.linspace(0.0, 2 * np.pi, AROUND, endpoint=False)[:, None]
    sin, cos = np.sin(turn), -np.cos(turn)
    ones = np.ones_like(sin)
    positions = np.stack([sin * radius + tube.shift, cos * radius, ones * tube.heights], axis=-1)
    lean = np.gradient(tube.shift, tube.heights) * sin + np.gradient(radius, tube.heights)
    normals = np.stack([sin * np.ones_like(radius), cos * np.ones_like(radius), -lean], axis=-1)
    return Skin(positions, normals / np.linalg.norm(normals, axis=-1, keepdims=True))


def _ring(outside: Skin, inside: Skin, row: int) -> Skin:
    """The level end between inside and outside: the tip (row 0, facing down) or the top (row −1)."""
    a, b = outside.positions[:, row], inside.positions[:, row]
    ends = np.stack([b, a], axis=1) if row == 0 else np.stack([a, b], axis=1)
    facing = np.array([0.0, 0.0, -1.0 if row == 0 else 1.0])
    return Skin(ends, np.broadcast_to(facing, ends.shape))
