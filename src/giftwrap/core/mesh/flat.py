"""Outlines, grids of points and quads in triangles."""

from __future__ import annotations

import manifold3d
import numpy as np
from shapely import Polygon

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array, Indices

_PLAIN = np.array([[0, 1, 2], [0, 2, 3]])


def flat_triangles(outline: Polygon) -> tuple[Array, Indices]:
    """(n, 2) places of an outline and its holes, and (m, 3) triangles between them, counter-clockwise."""
    rings = [np.array(ring.coords[:-1]) for ring in (outline.exterior, *outline.interiors)]
    faces = np.asarray(manifold3d.triangulate(rings), np.int64)
    flat = np.vstack(rings)
    a, b, c = (flat[faces[:, k]] for k in range(3))
    turned = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0]) < 0
    faces[turned] = faces[turned][:, ::-1]
    return flat, faces


def sheet(points: Array, normals: Array, uvs: Array) -> Mesh:
    """Rows of points, (n, k, 3), as one surface; its triangles face where its normals point."""
    index = np.arange(points.shape[0] * points.shape[1]).reshape(points.shape[:2])
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    faces = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    flat, facing = points.reshape(-1, 3), np.array(normals).reshape(-1, 3)
    p, q, r = (flat[faces[:, k]] for k in range(3))
    wrong = (np.cross(q - p, r - p) * facing[faces[:, 0]]).sum(axis=1) < 0
    faces[wrong] = faces[wrong][:, ::-1]
    return Mesh(flat, facing, uvs.reshape(-1, 2), faces)


def quads(corners: Array, normals: Array, split: Indices = _PLAIN) -> Mesh:
    """Flat pieces by their corners, (n, 4, 3), that face one way each, (n, 3).

    split : (2, 3) or (n, 2, 3) int, the triangles of one by its corners
    """
    count = len(corners)
    faces = (split + 4 * np.arange(count)[:, None, None]).reshape(-1, 3)
    return Mesh(corners.reshape(-1, 3), np.repeat(normals, 4, axis=0), np.zeros((4 * count, 2)), faces)
