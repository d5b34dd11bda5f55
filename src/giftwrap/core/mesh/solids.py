"""Solids swept along lines or put together from several."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from manifold3d import Manifold, OpType
from manifold3d import Mesh as KernelMesh

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.topology import joined_surface

SHARPEST = 38.0
"""Faces that meet at fewer degrees than this are shaded as one smooth surface."""
AROUND = 48
JOIN = 1e-6
"""Mm within which points of a solid are one."""


def united(meshes: Sequence[Mesh]) -> Mesh:
    """One closed surface around several closed solids, smooth but for its edges."""
    return smoothed(Manifold.batch_boolean([kernel_solid(mesh) for mesh in meshes], OpType.Add))


def swept(line: Array, radii: Array, *, squash: float = 1.0) -> Mesh:
    """A closed tube of circles along a line.

    line : (n, 2) float, mm, in the plane of x and z
    radii : (n,) float, mm; `squash` is a circle's height over its width
    """
    step = np.gradient(line, axis=0)
    along = step / np.linalg.norm(step, axis=1, keepdims=True)
    up = np.stack([-along[:, 1], 0 * along[:, 0], along[:, 0]], axis=1)
    side = np.array([0.0, 1.0, 0.0])
    turn = np.linspace(0.0, 2 * np.pi, AROUND, endpoint=False)
    middle = np.stack([line[:, 0], 0 * line[:, 0], line[:, 1]], axis=1)
    spoke = np.cos(turn)[:, None, None] * side + np.sin(turn)[:, None, None] * squash * up
    rings = middle + radii[:, None] * spoke
    count = len(line)
    positions = np.vstack([rings.reshape(-1, 3), middle[[0, -1]]])
    index = np.arange(AROUND * count).reshape(AROUND, count)
    nxt = np.roll(index, -1, axis=0)
    a, b, c, d = index[:, :-1], nxt[:, :-1], nxt[:, 1:], index[:, 1:]
    first = np.stack([nxt[:, 0], index[:, 0], np.full(AROUND, AROUND * count)], -1)
    last = np.stack([index[:, -1], nxt[:, -1], np.full(AROUND, AROUND * count + 1)], -1)
    sides = [np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)]
    faces = np.concatenate([*sides, first, last])
    solid = Manifold(KernelMesh(positions.astype(np.float32), faces.astype(np.uint32)))
    if solid.volume() < 0:
        solid = Manifold(KernelMesh(positions.astype(np.float32), faces[:, ::-1].astype(np.uint32)))
    return smoothed(solid)


def kernel_solid(mesh: Mesh) -> Manifold:
    """A closed mesh in the boolean kernel, its doubled points joined."""
    points, faces, _ = joined_surface(mesh, JOIN)
    return Manifold(KernelMesh(points.astype(np.float32), faces.astype(np.uint32)))


def smoothed(solid: Manifold) -> Mesh:
    """A solid as a mesh, shaded as one where its faces meet flatly."""
    found = solid.calculate_normals(0, SHARPEST).to_mesh()
    values = np.asarray(found.vert_properties, dtype=float)
    return Mesh(
        values[:, :3], values[:, 3:6], np.zeros((len(values), 2)), np.asarray(found.tri_verts, dtype=np.int64)
    )
