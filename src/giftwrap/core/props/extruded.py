"""Solids drawn up from an outline, their edges rounded: blocks, slabs, steps, arches, frames."""

from __future__ import annotations

import numpy as np
from manifold3d import triangulate
from shapely import Polygon
from shapely.geometry.polygon import orient

from giftwrap.core.form.skin import open_mesh
from giftwrap.core.mesh.mesh import Mesh, together
from giftwrap.core.mesh.path import Array, Indices

LEAST_EDGE = 0.15
"""Mm of the radius of an edge that is called sharp: even those catch light."""
BENDS = np.radians(20.0)
"""Sides of an outline that meet at less than this are one curve."""
FAN = np.radians(12.0)
ACROSS = 8
"""Steps of a rounded edge."""
MITRE = 2


def extruded(outline: Polygon, height: float, edge: float) -> Mesh:
    """A closed solid over an outline, on z = 0, mm.

    edge : radius of all its edges but those that the outline bends inwards at, which stay sharp; smaller
        where the outline leaves no room for it
    """
    edge = max(min(edge, 0.499 * height), min(LEAST_EDGE, 0.25 * height))
    base = outline.buffer(-edge, join_style=MITRE)
    while base.is_empty or not isinstance(base, Polygon) or len(base.interiors) != len(outline.interiors):
        edge /= 2
        base = outline.buffer(-edge, join_style=MITRE)
    base = orient(base.simplify(1e-4))
    rings = [np.array(ring.coords)[:-1] for ring in (base.exterior, *base.interiors)]
    sides = [_rounded(ring, height, edge) for ring in rings]
    corners = np.vstack(rings)
    faces = np.asarray(triangulate([ring.tolist() for ring in rings]), dtype=np.int64)
    lids = [_lid(corners, faces, level, up) for level, up in ((0.0, -1.0), (height, 1.0))]
    return together(*sides, *lids)


def _rounded(ring: Array, height: float, edge: float) -> Mesh:
    """The side of a solid along one of its rings, from foot to top, both edges with it."""
    places, ways, facing = _spokes(ring)
    turns = np.radians(np.linspace(-90.0, 0.0, ACROSS + 1))
    out, up = np.cos(np.concatenate([turns, -turns[::-1]])), np.sin(np.concatenate([turns, -turns[::-1]]))
    middle = np.where(np.arange(2 * ACROSS + 2) <= ACROSS, edge, height - edge)
    flat = places[:, None] + edge * out[None, :, None] * ways[:, None]
    level = np.broadcast_to(middle + edge * up, flat.shape[:2])
    positions = np.concatenate([flat, level[..., None]], axis=-1)
    rises = np.broadcast_to(up, flat.shape[:2])
    normals = np.concatenate([out[None, :, None] * facing[:, None], rises[..., None]], axis=-1)
    closed = [np.concatenate([values, values[:1]]) for values in (positions, normals)]
    return open_mesh(*closed)


def _spokes(ring: Array) -> tuple[Array, Array, Array]:
    """Around a ring: places on it, (n, 2), what one mm outwards is there, and where the side faces."""
    before = ring - np.roll(ring, 1, axis=0)
    before /= np.linalg.norm(before, axis=1, keepdims=True)
    places: list[Array] = []
    ways: list[Array] = []
    facing: list[Array] = []
    for place, one, other in zip(ring, before, np.roll(before, -1, axis=0), strict=True):
        first, second = np.array([one[1], -one[0]]), np.array([other[1], -other[0]])
        bend = float(np.arctan2(one[0] * other[1] - one[1] * other[0], one @ other))
        mitre = (first + second) / (1 + first @ second)
        if bend > BENDS:
            start = np.arctan2(first[1], first[0])
            around = start + np.linspace(0.0, bend, int(np.ceil(bend / FAN)) + 1)
            fan = [np.array([np.cos(turn), np.sin(turn)]) for turn in around]
            ways += fan
            facing += fan
        elif bend < -BENDS:
            ways += [mitre, mitre]
            facing += [first, second]
        else:
            ways.append(mitre)
            facing.append(mitre / np.linalg.norm(mitre))
        places += [place] * (len(ways) - len(places))
    return np.array(places), np.array(ways), np.array(facing)


def _lid(corners: Array, faces: Indices, level: float, up: float) -> Mesh:
    positions = np.column_stack([corners, np.full(len(corners), level)])
    normals = np.tile([0.0, 0.0, up], (len(corners), 1))
    return Mesh(positions, normals, np.zeros((len(corners), 2)), faces if up > 0 else faces[:, ::-1].copy())


def lying(mesh: Mesh) -> Mesh:
    """What was drawn up from an outline, its outline standing: across stays across, what was up goes back."""
    turned = [np.column_stack([v[:, 0], -v[:, 2], v[:, 1]]) for v in (mesh.positions, mesh.normals)]
    return Mesh(turned[0], turned[1], mesh.uvs, mesh.faces)


def box(width: float, depth: float) -> Polygon:
    """A rectangle around the middle."""
    half, deep = width / 2, depth / 2
    return Polygon([(-half, -deep), (half, -deep), (half, deep), (-half, deep)])
