"""Normals by angle: where faces meet flatter than it they are shaded as one, elsewhere there is an edge."""

from __future__ import annotations

import numpy as np

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.mesh.topology import edges_of, face_normals, fans_of, grouped


def shaded(positions: Array, faces: Indices, points: Indices, uvs: Array | None, angle: float) -> Mesh:
    """A mesh with normals.

    positions : (v, 3) float; faces : (f, 3) int; points : (v,) int, vertices with one number lie together
    uvs : (v, 2) float
    angle : degrees up to which faces are shaded as one
    """
    joined = points[faces]
    vectors = face_normals(positions, faces)
    normals = vectors / np.maximum(np.linalg.norm(vectors, axis=1, keepdims=True), 1e-30)
    fans = _fans(joined, normals, angle)
    weights = _corner_angles(positions, faces)
    count = int(fans.max(initial=-1)) + 1
    flat = fans.reshape(-1)
    weighted = (normals[:, None, :] * weights[:, :, None]).reshape(-1, 3)
    summed = np.stack([np.bincount(flat, weighted[:, k], minlength=count) for k in range(3)], axis=1)
    summed = summed / np.maximum(np.linalg.norm(summed, axis=1, keepdims=True), 1e-30)
    # where the picture has a seam, one fan has several vertices
    keys = flat if uvs is None else flat * len(positions) + faces.reshape(-1)
    order, starts, index = grouped(keys)
    first = order[starts]
    vertex = faces.reshape(-1)[first]
    return Mesh(
        positions[vertex],
        summed[flat[first]],
        np.zeros((len(vertex), 2)) if uvs is None else uvs[vertex],
        index.reshape(-1, 3),
    )


def _fans(joined: Indices, normals: Array, angle: float) -> Indices:
    """(f, 3) int: corners at a point whose faces are shaded as one have one number."""
    edges = edges_of(joined)
    one, other = edges.pairs.T
    smooth = (normals[one] * normals[other]).sum(axis=1) > np.cos(np.radians(angle)) - 1e-12
    return fans_of(edges, smooth & edges.agree)


def _corner_angles(positions: Array, faces: Indices) -> Array:
    """(f, 3) float: radians at each corner of each face."""
    found = np.empty(faces.shape)
    for k in range(3):
        at = positions[faces[:, k]]
        one, other = positions[faces[:, (k + 1) % 3]] - at, positions[faces[:, (k + 2) % 3]] - at
        across = np.linalg.norm(np.cross(one, other), axis=1)
        found[:, k] = np.arctan2(across, (one * other).sum(axis=1))
    return found
