"""Long triangles split where a place is near, without gaps to those that are not."""

from __future__ import annotations

import numpy as np

from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.mesh.topology import Flags, edges_of

ROUNDS = 12
"""Each halves edges: enough for the longest beside the shortest that are asked for."""


def refined(points: Array, faces: Indices, at: Array, reach: float, longest: float) -> tuple[Array, Indices]:
    """A mesh whose edges are split that are longer than `longest` mm, of faces within `reach` mm of a place.

    points : (n, 3) float, mm; faces : (f, 3) int; at : (3,) float
    """
    for _ in range(ROUNDS):
        edges = edges_of(faces)
        corner = edges.order[edges.starts]
        one, other = faces.reshape(-1)[corner], np.roll(faces, -1, axis=1).reshape(-1)[corner]
        start, along = points[one], points[other] - points[one]
        corners = points[faces]
        away = np.maximum(corners.min(axis=1) - at, at - corners.max(axis=1)).clip(0)
        near = np.zeros(len(start), dtype=bool)
        near[edges.of_face[np.linalg.norm(away, axis=1) < reach]] = True
        split = near & (np.linalg.norm(along, axis=1) > longest)
        if not split.any():
            break
        middle = np.where(split, len(points) + np.cumsum(split) - 1, -1)
        points = np.vstack([points, start[split] + along[split] / 2])
        faces = _split(faces, middle[edges.of_face])
    return points, faces


def _split(faces: Indices, middle: Indices) -> Indices:
    """Faces with points in the middle of some of their edges, (f, 3) int each; -1 for none."""
    count = (middle >= 0).sum(axis=1)
    parts = [faces[count == 0]]
    for number, first in ((1, _only), (2, _first_of_two), (3, _any)):
        there = np.flatnonzero(count == number)
        turn = (first(middle[there] >= 0)[:, None] + np.arange(3)) % 3
        (a, b, c), (ab, bc, ca) = (np.take_along_axis(v[there], turn, axis=1).T for v in (faces, middle))
        if number == 1:
            parts += [np.stack(three, axis=1) for three in ((a, ab, c), (ab, b, c))]
        elif number == 2:  # a-b and b-c are split
            parts += [np.stack(three, axis=1) for three in ((ab, b, bc), (a, ab, bc), (a, bc, c))]
        else:
            parts += [np.stack(t, axis=1) for t in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))]
    return np.vstack(parts)


def _only(split: Flags) -> Indices:
    """The edge that is split."""
    return np.asarray(split.argmax(axis=1))


def _first_of_two(split: Flags) -> Indices:
    """The first of two edges in turn that are split: that after the one that is not."""
    return np.asarray(((~split).argmax(axis=1) + 1) % 3)


def _any(split: Flags) -> Indices:
    return np.zeros(len(split), dtype=np.int64)
