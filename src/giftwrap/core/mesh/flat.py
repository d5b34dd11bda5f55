"""Flat outlines in triangles."""

from __future__ import annotations

import manifold3d
import numpy as np
from shapely import Polygon

from giftwrap.core.mesh.path import Array, Indices


def flat_triangles(outline: Polygon) -> tuple[Array, Indices]:
    """(n, 2) places of an outline and its holes, and (m, 3) triangles between them, counter-clockwise."""
    rings = [np.array(ring.coords[:-1]) for ring in (outline.exterior, *outline.interiors)]
    faces = np.asarray(manifold3d.triangulate(rings), np.int64)
    flat = np.vstack(rings)
    a, b, c = (flat[faces[:, k]] for k in range(3))
    turned = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0]) < 0
    faces[turned] = faces[turned][:, ::-1]
    return flat, faces
