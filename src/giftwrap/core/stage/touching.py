"""What a ray meets first of what stands there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.stage.standing import Placed

NEARLY = 1e-9


@dataclass(frozen=True)
class Touch:
    """A place on something: (3,) mm on the set, (3,) its smooth normal towards where the ray came from, how
    far that is in mm, and what it is on."""

    place: Array
    normal: Array
    distance: float
    standing: str
    part: str


def first_touched(
    placed: Sequence[Placed], origin: Array, direction: Array, *, reach: float = np.inf
) -> Touch | None:
    """The nearest surface on a ray within so many mm."""
    found: Touch | None = None
    for one in placed:
        inward = np.linalg.inv(one.pose)
        begin = inward[:3, :3] @ origin + inward[:3, 3]
        way = inward[:3, :3] @ direction
        if not _passes_box(begin, way, np.array(one.thing.extent.low), np.array(one.thing.extent.high)):
            continue
        for piece in one.thing.pieces:
            met = _met(piece.mesh, begin, way, found.distance if found else reach)
            if met is None:
                continue
            distance, normal = met
            turned = one.pose[:3, :3] @ normal
            turned = turned if turned @ direction < 0 else -turned
            found = Touch(origin + distance * direction, turned, distance, one.id, piece.part)
    return found


def _passes_box(begin: Array, way: Array, low: Array, high: Array) -> bool:
    """Whether a ray passes a box."""
    safe = np.where(np.abs(way) < NEARLY, NEARLY, way)
    ends = np.sort([(low - 1.0 - begin) / safe, (high + 1.0 - begin) / safe], axis=0)
    return bool(ends[0].max() <= ends[1].min() and ends[1].min() > 0)


def _met(mesh: Mesh, begin: Array, way: Array, reach: float) -> tuple[float, Array] | None:
    """How far along a ray a mesh is met, and its normal there (Möller and Trumbore 1997)."""
    a, b, c = (mesh.positions[mesh.faces[:, k]] for k in range(3))
    first, second = b - a, c - a
    across = np.cross(way, second)
    size = np.einsum("nd,nd->n", first, across)
    with np.errstate(divide="ignore", invalid="ignore"):
        inverse = 1.0 / size
        away = begin - a
        u = np.einsum("nd,nd->n", away, across) * inverse
        turned = np.cross(away, first)
        v = turned @ way * inverse
        far = np.einsum("nd,nd->n", second, turned) * inverse
        hits = (np.abs(size) > NEARLY) & (u >= 0) & (v >= 0) & (u + v <= 1) & (far > NEARLY) & (far < reach)
    if not hits.any():
        return None
    nearest = int(np.flatnonzero(hits)[np.argmin(far[hits])])
    shares = np.array([1 - u[nearest] - v[nearest], u[nearest], v[nearest]])
    normal = shares @ mesh.normals[mesh.faces[nearest]]
    return float(far[nearest]), normal / np.linalg.norm(normal)
