"""Triangles by their corners, (n, 3, 3) mm."""

from __future__ import annotations

import numpy as np

from giftwrap.core.mesh.path import Array


def areas_of(corners: Array) -> Array:
    """(n,) mm²."""
    a, b, c = np.moveaxis(corners, 1, 0)
    sizes: Array = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
    return sizes


def normals_of(corners: Array) -> Array:
    """(n, 3) which way they face; zeros for those without area."""
    crossed = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    found: Array = crossed / np.maximum(np.linalg.norm(crossed, axis=1, keepdims=True), 1e-12)
    return found
