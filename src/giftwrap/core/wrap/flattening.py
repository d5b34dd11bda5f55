"""Laying a piece of a surface flat with the least stretch, and what that does to it.

A conformal map (Lévy et al., 2002) to begin with, then as rigid as possible (Liu et al., 2008): both by
libigl. What can be unrolled keeps all its lengths.
"""

from __future__ import annotations

from dataclasses import dataclass

import igl
import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.mesh.topology import edges_of, face_normals

ROUNDS = 40
ENOUGH = 1e-7
"""Share of its size by which a round moves what is flat as far as it needs to be."""
MOST_FACES = 150_000


@dataclass(frozen=True)
class Flat:
    """A piece laid flat.

    places : (n, 2) float, mm, seen from outside
    stretch : (f, 2) float, how long a mm becomes on the surface along its most and least stretched way
    """

    places: Array
    stretch: Array


def flattened(points: Array, faces: Indices, what: str) -> Flat:
    """Lay a piece flat that has one rim at least.

    points : (n, 3) float, mm, all of them used; faces : (f, 3) int

    Raises PackError when it is closed, in several pieces, or has too many faces.
    """
    if len(faces) > MOST_FACES:
        raise PackError(f"{what} has too many faces to be laid flat there: choose a smaller place.")
    if not len(edges_of(faces).rims):
        raise PackError(
            f"{what} is closed all around there and cannot be laid flat: let it go on over fewer edges."
        )
    size = float(np.ptp(points, axis=0).max())
    ends = _far_apart(points, faces)
    length = float(np.linalg.norm(points[ends[1]] - points[ends[0]]))
    start = np.array([[0.0, 0.0], [length, 0.0]])
    try:
        places = np.asarray(igl.lscm(points, faces, ends, start)[0])
    except RuntimeError:
        raise PackError(f"{what} cannot be laid flat: choose a smaller place.") from None
    area, flat = np.linalg.norm(face_normals(points, faces), axis=1).sum(), _areas(places, faces)
    if not np.isfinite(places).all() or abs(flat.sum()) < 1e-12 * size * size:
        raise PackError(f"{what} cannot be laid flat: choose a smaller place.")
    if flat.sum() < 0:
        places = places * [1.0, -1.0]
    places *= np.sqrt(area / abs(flat.sum()))
    places = _rigid(points, faces, places, size)
    return Flat(places, stretch_of(points, faces, places))


def _rigid(points: Array, faces: Indices, places: Array, size: float) -> Array:
    """As rigid as possible from where it lies."""
    data = igl.ARAPData()
    data.max_iter = 4
    held = np.array([int(faces[0, 0])], dtype=np.int32)
    igl.arap_precomputation(points, faces, 2, held, data)
    for _ in range(ROUNDS):
        before = places
        places = np.asarray(igl.arap_solve(places[held], data, places))
        if np.abs(places - before).max() < ENOUGH * size:
            break
    return places


def _far_apart(points: Array, faces: Indices) -> Indices:
    """Two points of the longest rim that lie far apart."""
    rim = np.asarray(igl.boundary_loop(faces), dtype=np.int64)
    one = rim[int(np.argmax(np.linalg.norm(points[rim] - points[rim[0]], axis=1)))]
    other = rim[int(np.argmax(np.linalg.norm(points[rim] - points[one], axis=1)))]
    return np.array([one, other])


def _areas(places: Array, faces: Indices) -> Array:
    """(f,) float: twice the signed area of each flat face."""
    a, b, c = (places[faces[:, k]] for k in range(3))
    return np.asarray((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0])


def stretch_of(points: Array, faces: Indices, places: Array) -> Array:
    """(f, 2) float: the singular values of the map from flat to surface, the larger first."""
    a, b, c = (points[faces[:, k]] for k in range(3))
    along = b - a
    length = np.linalg.norm(along, axis=1)
    one = along / np.maximum(length, 1e-30)[:, None]
    reach = c - a
    x = (reach * one).sum(axis=1)
    y = np.linalg.norm(reach - x[:, None] * one, axis=1)
    u, v = places[faces[:, 1]] - places[faces[:, 0]], places[faces[:, 2]] - places[faces[:, 0]]
    surface = np.stack([np.stack([length, x], -1), np.stack([0 * length, y], -1)], axis=1)
    flat = np.stack([np.stack([u[:, 0], v[:, 0]], -1), np.stack([u[:, 1], v[:, 1]], -1)], axis=1)
    det = flat[:, 0, 0] * flat[:, 1, 1] - flat[:, 0, 1] * flat[:, 1, 0]
    sound = np.abs(det) > 1e-18
    found = np.ones((len(faces), 2))
    (p, q), (r, s) = np.moveaxis(surface[sound] @ np.linalg.inv(flat[sound]), 0, 2)
    whole, apart = p * p + q * q + r * r + s * s, np.hypot(p * p + q * q - r * r - s * s, 2 * (p * r + q * s))
    found[sound] = np.sqrt(np.maximum(np.stack([whole + apart, whole - apart], axis=-1) / 2, 0.0))
    return found
