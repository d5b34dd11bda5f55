"""Places carried from one mesh to another of the same faces."""

from __future__ import annotations

import igl
import numpy as np

from giftwrap.core.mesh.path import Array, Indices


def carried(places: Array, points: Array, faces: Indices, there: Array) -> Array:
    """(n, k) float: where the nearest of a mesh to some places, (n, 3) float, lies on another mesh.

    points, there : (m, 3) and (m, k) float: the corners of the same faces on both
    """
    _, near, nearest = igl.point_mesh_squared_distance(np.ascontiguousarray(places), points, faces)
    corners = points[faces[near]]
    weights = igl.barycentric_coordinates(nearest, *(np.ascontiguousarray(corners[:, k]) for k in range(3)))
    return np.asarray((weights[..., None] * there[faces[near]]).sum(axis=1))
