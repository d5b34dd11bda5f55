"""Triangle meshes by revolving and extruding paths."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import mmh3
import numpy as np
from numpy.typing import NDArray

from giftwrap.core.mesh.path import Path

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Mesh:
    """Triangles with smooth normals.

    positions : (v, 3) float, mm
    normals : (v, 3) float, unit length
    uvs : (v, 2) float, 0..1 across the sheet, left to right and bottom to top
    faces : (f, 3) int, counter-clockwise seen from the side the normals point to
    """

    positions: Floats
    normals: Floats
    uvs: Floats
    faces: NDArray[np.int64]

    @cached_property
    def digest(self) -> bytes:
        """Names its content: meshes with the same digest are the same to the last bit."""
        digest = mmh3.mmh3_x64_128()
        for values in (self.positions, self.normals, self.uvs, self.faces):
            digest.update(repr((values.shape, values.dtype.str)).encode())
            digest.update(np.ascontiguousarray(values).data)
        return bytes(digest.digest())


def segments_for(radius: float) -> int:
    """Chords that keep a circle within 0.01 mm of its arc, at least 48."""
    step = 2 * np.arccos(1 - 0.01 / max(radius, 0.5))
    return int(np.clip(np.ceil(2 * np.pi / step), 48, 360))


def revolve(
    path: Path, *, start: float = -np.pi, turn: float = 2 * np.pi, segments: int | None = None
) -> Mesh:
    """Turn a path around the z axis.

    path : first coordinate is the radius, second the height, mm
    start, turn : radians from the front (−y), growing to the right (+x)
    """
    count = segments or max(int(segments_for(path.points[:, 0].max()) * abs(turn) / (2 * np.pi)), 2)
    angles = start + turn * np.linspace(0.0, 1.0, count + 1)
    sin, cos = np.sin(angles)[:, None], -np.cos(angles)[:, None]
    r, z = path.points[:, 0][None], path.points[:, 1][None]
    nr, nz = path.normals[:, 0][None], path.normals[:, 1][None]
    full = np.ones_like(sin)
    positions = np.stack([sin * r, cos * r, full * z], axis=-1)
    normals = np.stack([sin * nr, cos * nr, full * nz], axis=-1)
    return _grid(positions, normals, path)


def flipped(mesh: Mesh) -> Mesh:
    """The same surface facing the other way."""
    return Mesh(mesh.positions, -mesh.normals, mesh.uvs, np.ascontiguousarray(mesh.faces[:, ::-1]))


def extrude(path: Path, *, half_width: float) -> Mesh:
    """Draw a path sideways along x. Its first coordinate is y, its second z, mm."""
    x = np.array([-half_width, half_width])[:, None]
    ones = np.ones_like(x)
    y, z = path.points[:, 0][None], path.points[:, 1][None]
    ny, nz = path.normals[:, 0][None], path.normals[:, 1][None]
    positions = np.stack([x * np.ones_like(y), ones * y, ones * z], axis=-1)
    normals = np.stack([x * 0 * ny, ones * ny, ones * nz], axis=-1)
    return _grid(positions, normals, path)


def _grid(positions: Floats, normals: Floats, path: Path) -> Mesh:
    """Stitch an (across, along, 3) grid into triangles, leaving out those without area."""
    across, along = positions.shape[:2]
    lengths = path.lengths()
    v = lengths / max(lengths[-1], 1e-9)
    u = np.linspace(0.0, 1.0, across)
    uvs = np.stack(np.broadcast_arrays(u[:, None], v[None, :]), axis=-1)
    index = np.arange(across * along).reshape(across, along)
    a, b = index[:-1, :-1], index[1:, :-1]
    c, d = index[1:, 1:], index[:-1, 1:]
    faces = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    flat = positions.reshape(-1, 3)
    cross = np.cross(flat[faces[:, 1]] - flat[faces[:, 0]], flat[faces[:, 2]] - flat[faces[:, 0]])
    area = np.linalg.norm(cross, axis=1)
    faces, cross = faces[area > 1e-9], cross[area > 1e-9]
    flat_normals = normals.reshape(-1, 3)
    if (cross * flat_normals[faces].sum(axis=1)).sum() < 0:
        faces = faces[:, ::-1]
    return Mesh(flat, flat_normals, uvs.reshape(-1, 2), np.ascontiguousarray(faces))


def quad(centre: Sequence[float], across: Sequence[float], up: Sequence[float]) -> Mesh:
    """A rectangle from its half sides, in mm; it faces across × up."""
    c, a, b = (np.array(v, dtype=float) for v in (centre, across, up))
    positions = np.array([c - a - b, c + a - b, c + a + b, c - a + b])
    normal = np.cross(a, b) / np.linalg.norm(np.cross(a, b))
    uvs = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], dtype=float)
    return Mesh(positions, np.tile(normal, (4, 1)), uvs, np.array([[0, 1, 2], [0, 2, 3]]))


def together(*meshes: Mesh) -> Mesh:
    """Several meshes as one."""
    starts = np.cumsum([0, *(len(mesh.positions) for mesh in meshes[:-1])])
    return Mesh(
        np.vstack([mesh.positions for mesh in meshes]),
        np.vstack([mesh.normals for mesh in meshes]),
        np.vstack([mesh.uvs for mesh in meshes]),
        np.vstack([mesh.faces + start for mesh, start in zip(meshes, starts, strict=True)]),
    )
