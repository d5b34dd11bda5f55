"""Embossing as shape: where a print stands out of its stock far enough to cast a shadow, its face is so.

Finer relief (the stock's own face, raised varnish) only leans the surface.
"""

from __future__ import annotations

import threading
from typing import Any

import numpy as np
from cachetools import LRUCache, cached
from scipy.ndimage import binary_dilation, map_coordinates
from trimesh.remesh import subdivide

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.wrap.press import PrintedSheet

CELL_MM = 0.15
"""Relief is looked at in cells of this size: the stock's own face is evened out in them."""
LEAST_MM = 0.06
"""What stands out by less than this casts no shadow that is seen."""
STEP_MM = 0.2
"""Longest edge of what is drawn of it."""
MOST_TRIANGLES = 300_000
ROUNDS = 12
KEPT = 8


class _Held:
    """An array as a key: equal to itself alone, and kept so that no other takes its place in memory."""

    def __init__(self, array: Any) -> None:
        self.array = array

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Held) and other.array is self.array

    def __hash__(self) -> int:
        return id(self.array)


def _key(mesh: Mesh, sheet: PrintedSheet, deepest: float) -> tuple[object, ...]:
    return mesh.digest, _Held(sheet.face.relief), sheet.low, deepest


@cached(LRUCache(KEPT), key=_key, lock=threading.Lock())
def pressed(mesh: Mesh, sheet: PrintedSheet, deepest: float) -> Mesh:
    """A printed face with its embossing as shape; the face itself where nothing is embossed.

    mesh : its uvs run over the whole sheet; deepest : mm that it may be pressed in
    """
    height = _heights(sheet)
    if height is None:
        return mesh
    height = np.maximum(height, -deepest)
    there = binary_dilation(np.abs(height) > LEAST_MM / 4, iterations=2)
    size = np.array(sheet.face.size)
    wanted = there.mean() * size.prod()
    step = max(STEP_MM, float(np.sqrt(2 * wanted / MOST_TRIANGLES)))
    vertices, faces = mesh.positions, mesh.faces
    attributes = {"uv": mesh.uvs, "normal": mesh.normals}
    for _ in range(ROUNDS):
        corners = attributes["uv"][faces]
        edges = np.linalg.norm((corners - np.roll(corners, 1, axis=1)) * size, axis=2).max(axis=1)
        coarse = np.flatnonzero((edges > step) & _touched(corners, there))
        if not len(coarse) or len(faces) + 3 * len(coarse) > 2 * MOST_TRIANGLES + len(mesh.faces):
            break
        vertices, faces, attributes = subdivide(
            vertices, faces, face_index=coarse, vertex_attributes=attributes
        )
    normals = attributes["normal"]
    normals = normals / np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    lifted = vertices + _at(height, attributes["uv"])[:, None] * normals
    return Mesh(
        np.ascontiguousarray(lifted), normals, attributes["uv"], np.ascontiguousarray(faces, dtype=np.int64)
    )


def _heights(sheet: PrintedSheet) -> Array | None:
    """(rows, columns) mm from the stock's face, in cells, top row first; None where nothing is embossed."""
    relief, depth = sheet.face.relief, sheet.face.depth
    if relief is None or max(depth + sheet.low, -sheet.low) < LEAST_MM:
        return None
    per = max(round(relief.shape[1] / sheet.face.size[0] * CELL_MM), 1)
    rows, columns = relief.shape[0] // per, relief.shape[1] // per
    if rows < 2 or columns < 2:
        return None
    cells = relief[: rows * per, : columns * per].reshape(rows, per, columns, per).mean(axis=(1, 3))
    height = np.asarray(cells / 65535 * depth + sheet.low)
    return height if np.abs(height).max() >= LEAST_MM else None


def _touched(corners: Array, there: Array) -> Array:
    """(f,) bool: whether the box around a face, (f, 3, 2) uv, holds a cell that is."""
    rows, columns = there.shape
    total = np.pad(there.cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0)))
    low, high = corners.min(axis=1), corners.max(axis=1)
    left = np.clip((low[:, 0] * columns).astype(int), 0, columns - 1)
    right = np.clip((high[:, 0] * columns).astype(int) + 1, 1, columns)
    top = np.clip(((1 - high[:, 1]) * rows).astype(int), 0, rows - 1)
    foot = np.clip(((1 - low[:, 1]) * rows).astype(int) + 1, 1, rows)
    return np.asarray(total[foot, right] - total[top, right] - total[foot, left] + total[top, left] > 0)


def _at(height: Array, uv: Array) -> Array:
    """(n,) mm at places of the sheet."""
    rows, columns = height.shape
    at = [(1 - uv[:, 1]) * rows - 0.5, uv[:, 0] * columns - 0.5]
    return np.asarray(map_coordinates(height, at, order=1, mode="nearest"))
