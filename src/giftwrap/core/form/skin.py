"""Skins: surfaces drawn as columns around the axis and rows along the wall."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.form.sections import ROUND, Loft
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array, Indices, Path, norms

_SAME = 1e-9
CREASE = np.radians(14.0)
"""A wall that bends by more than this between two rows has an edge there."""


@dataclass(frozen=True)
class Skin:
    """A surface that closes around the axis: its last column is joined to its first.

    positions : (u, n, 3) float, mm; columns turn from the front to the right
    normals : (u, n, 3) float, unit length. Rows run with the solid on their left as seen from the
        axis's right hand side, as paths do.
    """

    positions: Array
    normals: Array

    def rows(self, start: int, end: int | None) -> Skin:
        """Some of its rows."""
        return Skin(self.positions[:, start:end], self.normals[:, start:end])

    def reversed(self) -> Skin:
        """The same surface, its rows in the opposite order, facing the same way."""
        return Skin(self.positions[:, ::-1], self.normals[:, ::-1])

    def flipped(self) -> Skin:
        """The same surface facing the other way."""
        return Skin(self.positions, -self.normals)


def joined_skins(*skins: Skin) -> Skin:
    """Skins of the same columns, one after the other."""
    return Skin(
        np.concatenate([s.positions for s in skins], axis=1),
        np.concatenate([s.normals for s in skins], axis=1),
    )


def lofted(path: Path, loft: Loft, columns: Array) -> Skin:
    """Draw a path, (radius, height) in mm, around the outlines of a loft."""
    outlines = loft.at(path.points[:, 1], columns)
    radius, height = path.points[None, :, :1], path.points[:, 1]
    flat = radius * outlines.points
    positions = np.concatenate([flat, np.broadcast_to(height[None, :, None], (*flat.shape[:2], 1))], axis=-1)
    nr, nz = path.normals[:, 0], path.normals[:, 1]
    # the tangent along the path is r′C + r z′ dC/dz + z′k, with r′ = −nz and z′ = nr
    leaning = (outlines.rise * outlines.normals).sum(-1) * path.points[:, 0]
    upright = nz * outlines.support - nr * leaning
    normals = np.concatenate([outlines.normals * nr[None, :, None], upright[..., None]], axis=-1)
    normals /= np.maximum(norms(normals), 1e-12)
    return Skin(positions, normals)


def turned_path(path: Path, columns: Array | int) -> Skin:
    """Turn a path, (radius, height) in mm, around the axis."""
    around = np.linspace(0, 2 * np.pi, columns, endpoint=False) if isinstance(columns, int) else columns
    return lofted(path, ROUND, around)


def cut_at(skin: Skin, height: float) -> tuple[Skin, Skin]:
    """Split a skin whose rows rise, at a height in mm: what lies below, and what lies above.

    Rows that lie wholly on the other side collapse onto the cut, so that it is level and both parts
    share it exactly.
    """
    z = skin.positions[..., 2]
    below = z < height
    last = np.where(below.any(axis=1), below.shape[1] - 1 - below[:, ::-1].argmax(axis=1), 0)
    nxt = np.minimum(last + 1, z.shape[1] - 1)
    u = np.arange(len(z))
    span = z[u, nxt] - z[u, last]
    share = np.where(span > 1e-12, (height - z[u, last]) / np.where(span > 1e-12, span, 1.0), 0.0)[:, None]
    at = skin.positions[u, last] + share * (skin.positions[u, nxt] - skin.positions[u, last])
    at[:, 2] = height
    normal = skin.normals[u, last] + share * (skin.normals[u, nxt] - skin.normals[u, last])
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    index = np.arange(z.shape[1])[None]
    under, over = (index <= last[:, None])[..., None], (index > last[:, None])[..., None]
    low = Skin(
        np.where(under, skin.positions, at[:, None]), np.where(under, skin.normals, normal[:, None])
    ).rows(0, int(last.max()) + 2)
    high = Skin(
        np.where(over, skin.positions, at[:, None]), np.where(over, skin.normals, normal[:, None])
    ).rows(int(last.min()), None)
    return low, high


def with_edges(skin: Skin) -> Skin:
    """Keep normals where the wall is smooth along its rows; where it bends sharply, draw the row twice,
    each with the normals of its own side.
    """
    steps = np.diff(skin.positions, axis=1)
    around = np.roll(skin.positions, -1, axis=0) - np.roll(skin.positions, 1, axis=0)
    pieces = np.cross(around[:, :-1] + around[:, 1:], steps)
    length = norms(pieces)
    pieces = np.where(length > 1e-9, pieces / np.maximum(length, 1e-12), skin.normals[:, :-1])
    sign = np.where((pieces * skin.normals[:, :-1]).sum(-1, keepdims=True) < 0, -1.0, 1.0)
    pieces = pieces * np.median(sign)
    bend = (pieces[:, :-1] * pieces[:, 1:]).sum(-1)
    long = np.linalg.norm(steps, axis=-1) > 5e-4
    sharp = ((bend < np.cos(CREASE)) & long[:, :-1] & long[:, 1:]).any(axis=0)
    if not sharp.any():
        return skin
    rows = np.flatnonzero(sharp) + 1
    positions = np.insert(skin.positions, rows, skin.positions[:, rows], axis=1)
    normals = np.insert(skin.normals, rows, skin.normals[:, rows], axis=1)
    for shift, row in enumerate(rows):
        at = row + shift
        normals[:, at] = pieces[:, row - 1]
        normals[:, at + 1] = pieces[:, row]
    return Skin(positions, normals)


def skin_mesh(skin: Skin) -> Mesh:
    """The triangles of a skin."""
    return skins_mesh([skin])


def skins_mesh(skins: Sequence[Skin]) -> Mesh:
    """The triangles of skins one after the other, stitched where the number of columns changes."""
    faces, start = [], 0
    for index, skin in enumerate(skins):
        columns, rows = skin.positions.shape[:2]
        own = _quads(skin.positions, closed=True)
        turn = -1 if _faces_away(skin, own) else 1
        faces.append(own[:, ::turn] + start)
        if index + 1 < len(skins):
            after = skins[index + 1]
            here = start + np.arange(columns) * rows + rows - 1
            there = start + columns * rows + np.arange(len(after.positions)) * after.positions.shape[1]
            faces.append(_stitch(skin.positions[:, -1], after.positions[:, 0], here, there)[:, ::turn])
        start += columns * rows
    positions = np.concatenate([s.positions.reshape(-1, 3) for s in skins])
    normals = np.concatenate([s.normals.reshape(-1, 3) for s in skins])
    return Mesh(
        positions, normals, np.zeros((len(positions), 2)), np.ascontiguousarray(np.concatenate(faces))
    )


def open_mesh(positions: Array, normals: Array, uvs: Array | None = None) -> Mesh:
    """The triangles of columns and rows that do not close around: (u, n, 3) and, for uvs, (u, n, 2)."""
    faces = _quads(positions, closed=False)
    if _faces_away(Skin(positions, normals), faces):
        faces = faces[:, ::-1]
    uvs = np.zeros((*positions.shape[:2], 2)) if uvs is None else uvs
    return Mesh(
        positions.reshape(-1, 3), normals.reshape(-1, 3), uvs.reshape(-1, 2), np.ascontiguousarray(faces)
    )


def _faces_away(skin: Skin, faces: Indices) -> bool:
    """Whether faces look against the normals, as most of a few of them say."""
    some = faces[:: max(len(faces) // 96, 1)]
    positions, normals = skin.positions.reshape(-1, 3), skin.normals.reshape(-1, 3)
    a, b, c = (positions[some[:, k]] for k in range(3))
    return bool((np.cross(b - a, c - a) * normals[some].sum(axis=1)).sum() < 0)


def _moves(step: Array) -> NDArray[np.bool_]:
    """Whether steps (…, 3) have any length."""
    size = np.abs(step)
    return np.asarray((size[..., 0] > _SAME) | (size[..., 1] > _SAME) | (size[..., 2] > _SAME))


def _quads(positions: Array, *, closed: bool) -> Indices:
    """Two triangles between each two columns and rows, without those of no area."""
    columns, rows = positions.shape[:2]
    index = np.arange(columns * rows).reshape(columns, rows)
    along = _moves(np.diff(positions, axis=1))
    if closed:
        nxt, beside = np.roll(index, -1, axis=0), np.roll(positions, -1, axis=0)
        nxt_along = np.roll(along, -1, axis=0)
    else:
        nxt, beside, nxt_along = index[1:], positions[1:], along[1:]
        index, along, positions = index[:-1], along[:-1], positions[:-1]
    across = _moves(beside - positions)
    low, high = across[:, :-1] & nxt_along, across[:, 1:] & along
    a, b, c, d = index[:, :-1], nxt[:, :-1], nxt[:, 1:], index[:, 1:]
    return np.concatenate(
        [np.stack([a[low], b[low], c[low]], axis=-1), np.stack([a[high], c[high], d[high]], axis=-1)]
    )


def _stitch(low: Array, high: Array, here: Indices, there: Indices) -> Indices:
    """Triangles between two rings of different numbers of points, both starting at the front."""
    middle = high.mean(axis=0)
    a, b = _angles(low - middle), _angles(high - middle)
    b = b + 2 * np.pi * round((a[0] - b[0]) / (2 * np.pi))
    order = np.argsort(np.concatenate([a, b]), kind="stable")
    from_low = order < len(a)
    i = np.cumsum(from_low) - 1
    j = np.cumsum(~from_low) - 1
    n, m = len(a), len(b)
    lo, hi = here[i % n], there[j % m]
    nxt = np.where(np.roll(from_low, -1), here[np.roll(i, -1) % n], there[np.roll(j, -1) % m])
    return np.stack([lo, nxt, hi], axis=-1)


def _angles(ring: Array) -> Array:
    """(n,) float: directions of a ring's points, from the front to the right."""
    return np.asarray(np.unwrap(np.arctan2(ring[:, 0], -ring[:, 1])))
