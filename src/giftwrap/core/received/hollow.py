"""Giving a solid container an inside: its outside moved inwards by a wall's thickness."""

from __future__ import annotations

import igl
import numpy as np
from scipy.sparse import coo_matrix, csr_matrix

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.mesh.shading import shaded
from giftwrap.core.mesh.topology import edges_of, face_normals, joined_surface, point_normals, rings_of

PUSHES = 12
"""Times that points are set back to the wall's thickness."""
ROUNDS = 24
"""Of smoothing where the inside folds over itself, rounded more tightly than the wall is thick."""
THIN = 0.9
"""Share of the thickness that is kept everywhere; where there is no room for it there is no inside."""
MOST_THIN = 0.002
"""Share of the points that may miss it, in corners sharper than the wall is thick."""


def hollowed(mesh: Mesh, wall: float, smooth: float, what: str) -> Mesh:
    """A container with an inside. What is open stays open there, its rim closed between the two.

    wall : mm; smooth : degrees up to which the inside is shaded as one; what : its name

    Raises PackError when the wall has no room in it.
    """
    points, faces, _ = joined_surface(mesh, 1e-5)
    inner = _inwards(points, faces, wall, what)
    rims = edges_of(faces).rims
    count = len(points)
    band = np.vstack(
        [
            np.stack([rims[:, 1], rims[:, 0], rims[:, 0] + count], axis=1),
            np.stack([rims[:, 1], rims[:, 0] + count, rims[:, 1] + count], axis=1),
        ]
    )
    inside = np.vstack([faces[:, ::-1] + count, band])
    both = np.vstack([points, inner])
    made = shaded(both, inside, np.arange(2 * count), None, smooth)
    return Mesh(
        np.vstack([mesh.positions, made.positions]),
        np.vstack([mesh.normals, made.normals]),
        np.vstack([mesh.uvs, made.uvs]),
        np.vstack([mesh.faces, made.faces + len(mesh.positions)]),
    )


def _inwards(points: Array, faces: Indices, wall: float, what: str) -> Array:
    """(n, 3) float: every point as far inside as the wall is thick."""
    normals = point_normals(points, faces)
    rims = edges_of(faces).rims
    fixed = np.zeros(len(points), dtype=bool)
    for ring in rings_of(rims):
        # a rim stays in its plane, so that the mouth has an even face
        ends = points[ring]
        axis = np.cross(ends - ends.mean(axis=0), np.roll(ends, -1, axis=0) - ends.mean(axis=0)).sum(axis=0)
        axis /= max(float(np.linalg.norm(axis)), 1e-30)
        level = normals[ring] - (normals[ring] @ axis)[:, None] * axis
        normals[ring] = level / np.maximum(np.linalg.norm(level, axis=1, keepdims=True), 1e-30)
        fixed[ring] = True
    places = points - wall * normals
    free = ~fixed
    for _ in range(PUSHES):  # in a corner all its faces push in turn
        places[free] = _set_back(places[free], points, faces, normals[free], wall)
    neighbours = _neighbours(faces, len(points))
    outside = face_normals(points, faces)
    for _ in range(ROUNDS):
        folded = (face_normals(places, faces) * outside).sum(axis=1) < 0
        loose = np.zeros(len(points), dtype=bool)
        loose[faces[folded]] = True
        loose &= free
        if not loose.any():
            break
        mean = np.asarray(neighbours @ places) / np.maximum(np.asarray(neighbours.sum(axis=1)), 1)
        places[loose] = 0.5 * (places + mean)[loose]
        places[loose] = _set_back(places[loose], points, faces, normals[loose], wall)
    apart = np.sqrt(igl.point_mesh_squared_distance(places, points, faces)[0])
    if np.mean(apart[free] < THIN * wall) > MOST_THIN:
        raise PackError(f"A wall of {wall:g} mm has no room in {what}: make it thinner.", "wall")
    return np.asarray(places)


def _set_back(places: Array, points: Array, faces: Indices, normals: Array, wall: float) -> Array:
    """Places that lie nearer to the surface than the wall is thick, moved straight away from it."""
    squared, _, nearest = igl.point_mesh_squared_distance(np.ascontiguousarray(places), points, faces)
    apart = np.sqrt(squared)[:, None]
    away = np.where(apart > 1e-9, (places - nearest) / np.maximum(apart, 1e-9), -normals)
    lost = (away * normals).sum(axis=1, keepdims=True) > 0.5  # it came out at the surface
    away = np.where(lost, -normals, away)
    return np.asarray(np.where((apart < wall) | lost, nearest + wall * away, places))


def _neighbours(faces: Indices, count: int) -> csr_matrix:
    """Sparse (n, n): which points share an edge."""
    one = np.concatenate([faces, faces[:, [1, 2, 0]]]).reshape(-1)
    other = np.concatenate([faces[:, [1, 2, 0]], faces]).reshape(-1)
    found = coo_matrix((np.ones(len(one)), (one, other)), shape=(count, count)).tocsr()
    found.data[:] = 1.0
    return found
