"""Contents of a received container: whatever its wall closes in up to a level, in exact contact with it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from manifold3d import Error, Manifold
from manifold3d import Mesh64 as KernelMesh

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import Mesh, together
from giftwrap.core.mesh.topology import joined_points, unit, without_doubles

BEYOND = 10.0
"""Mm around a container in which what is not its wall is looked at."""
LEAST = 1.0
"""Mm³: what is less is no solid, and no room."""
JOIN = 1e-5
"""Mm within which its points are one."""


@dataclass(frozen=True)
class Poured:
    """A wall cut along the level, and what stands in it.

    dry, wet : the wall's surface above the contents and where they touch it, facing out of the wall
    top : the contents' surface, facing up; volume : mm³
    """

    dry: Mesh
    wet: Mesh
    top: Mesh
    volume: float


def poured(wall: Mesh, level: float, what: str) -> Poured:
    """Fill a container up to a level, mm above the table.

    Raises PackError when it holds nothing up to there, or is not closed around its wall.
    """
    solid = _solid(wall, what)
    low, high = wall.positions.min(axis=0) - BEYOND, wall.positions.max(axis=0) + BEYOND
    around = Manifold.cube((high - low).tolist()).translate(low.tolist()).as_original() - solid
    above, below = around.split_by_plane((0.0, 0.0, 1.0), level)
    every = below.decompose()
    rooms = [room for room in every if room.bounding_box()[2] > low[2] + BEYOND / 2 and room.volume() > LEAST]
    if not rooms:
        raise PackError(
            f"{what} holds nothing up to {level:.1f} mm: raise the level, give it an inside (a wall), or "
            "close its holes.",
            "fill_height",
        )
    contents = max(rooms, key=lambda room: float(room.volume()))
    others = [room for room in every if room is not contents]
    own = solid.original_id()
    dry = [_surface(room, own, flip=True) for room in (above, *others)]
    wet = _surface(contents, own, flip=True)
    top = _surface(contents, own, flip=False, others=True)
    top = _lit_from_above(top, level)
    dry = [mesh for mesh in dry if len(mesh.faces)]
    if not dry or not len(wet.faces) or not len(top.faces):
        raise PackError(
            f"{what} crosses itself, so nothing can stand in it: give it a thinner wall.", "fill_height"
        )
    return Poured(together(*dry), wet, top, float(contents.volume()))


def _solid(wall: Mesh, what: str) -> Manifold:
    """The wall in the boolean kernel, its normals and coordinates carried along."""
    points, index = joined_points(wall.positions, JOIN)
    first = np.zeros(len(points), dtype=np.int64)
    first[index[::-1]] = np.arange(len(index))[::-1]
    double = np.flatnonzero(first[index] != np.arange(len(index)))
    whole = without_doubles(index[wall.faces])
    values = np.hstack([points[index], wall.normals, wall.uvs])
    mesh = KernelMesh(
        values,
        wall.faces[whole].astype(np.uint64),
        merge_from_vert=double.astype(np.uint64),
        merge_to_vert=first[index[double]].astype(np.uint64),
    )
    solid = Manifold(mesh)
    if solid.status() != Error.NoError or abs(solid.volume()) < LEAST:
        raise PackError(
            f"{what} is not closed around its wall, so nothing can stand in it: close its holes, or "
            "give it a wall.",
            "fill_height",
        )
    if solid.volume() < 0:
        raise PackError(f"{what} is turned inside out: turn its faces round.", "fill_height")
    return solid.as_original()


def _surface(solid: Manifold, own: int, *, flip: bool, others: bool = False) -> Mesh:
    """The faces of a solid that came from the wall, or those that did not."""
    found = solid.to_mesh64()
    values, faces = (
        np.asarray(found.vert_properties, dtype=float),
        np.asarray(found.tri_verts, dtype=np.int64),
    )
    bounds = np.asarray(found.run_index, dtype=np.int64) // 3
    chosen = np.zeros(len(faces), dtype=bool)
    for start, end, source in zip(bounds, bounds[1:], found.run_original_id, strict=False):
        chosen[start:end] = (int(source) == own) != others
    faces = faces[chosen]
    used, numbered = np.unique(faces, return_inverse=True)
    faces = numbered.reshape(-1, 3)
    values = values[used]
    padded = np.zeros((len(values), 8))
    padded[:, : values.shape[1]] = values
    return Mesh(
        padded[:, :3],
        unit(padded[:, 3:6]),
        padded[:, 6:8],
        np.ascontiguousarray(faces[:, ::-1] if flip else faces),
    )


def _lit_from_above(top: Mesh, level: float) -> Mesh:
    normals = np.tile([0.0, 0.0, 1.0], (len(top.positions), 1))
    flat = top.positions.copy()
    flat[:, 2] = level
    return Mesh(flat, normals, top.uvs, top.faces)
