"""Bringing our surfaces before general-purpose mesh libraries."""

from __future__ import annotations

import numpy as np
import trimesh
from manifold3d import Error

from giftwrap.core.form.formed import FormedBody
from giftwrap.core.form.skin import skin_mesh
from giftwrap.core.mesh.mesh import Mesh, flipped, together
from giftwrap.core.mesh.solids import kernel_solid
from giftwrap.core.things.vessel import VesselShape


def library_mesh(mesh: Mesh) -> trimesh.Trimesh:
    """A mesh in trimesh, its doubled points joined."""
    found = trimesh.Trimesh(mesh.positions, mesh.faces, process=False)
    found.merge_vertices(merge_tex=True, merge_norm=True, digits_vertex=6)
    found.update_faces(found.nondegenerate_faces())
    return found


def cavity_mesh(formed: FormedBody) -> Mesh:
    """The inside closed by a level lid at the rim."""
    ring = formed.inner.positions[:, -1]
    count = len(ring)
    points = np.vstack([ring, ring.mean(axis=0)])
    fan = np.array([[i, (i + 1) % count, count] for i in range(count)])
    up = np.tile([0.0, 0.0, 1.0], (count + 1, 1))
    a, b, c = points[fan[0]]
    faces = fan if np.cross(b - a, c - a)[2] > 0 else fan[:, ::-1]
    lid = Mesh(points, up, np.zeros((count + 1, 2)), faces)
    return together(flipped(skin_mesh(formed.inner)), lid)


def closed_solids(shape: VesselShape) -> dict[str, Mesh]:
    """Everything in a pack that is one closed surface: walls, contents, parts of the closure, labels."""
    found: dict[str, list[Mesh]] = {}
    for piece in shape.pieces:
        found.setdefault(piece.part, []).append(piece.mesh)
        if piece.before is not None:
            found.setdefault(piece.before, []).append(flipped(piece.mesh))
    return {name: together(*meshes) for name, meshes in found.items()}


def is_sound(mesh: Mesh) -> bool:
    """Whether the boolean kernel takes a mesh for one oriented, closed solid of positive volume."""
    solid = kernel_solid(mesh)
    return solid.status() == Error.NoError and solid.volume() > 0
