"""What hangs together in a triangle mesh: edges, neighbours, pieces, which side is out, holes.

Meshes are (f, 3) int arrays of points that are joined already (`joined_points`).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array, Indices, norms

Flags = NDArray[np.bool_]
_MIX = np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9], dtype=np.uint64)


def joined_points(positions: Array, tolerance: float) -> tuple[Array, Indices]:
    """The points that differ, (n, 3), and for each of the given ones which it is, (v,).

    tolerance : points whose coordinates agree to within this are one
    """
    cells = np.round(positions / tolerance).astype(np.int64)
    first, index = distinct_rows(cells)
    return positions[first], index


def joined_surface(mesh: Mesh, tolerance: float) -> tuple[Array, Indices, Indices]:
    """A mesh with the points that lie together as one: its points (n, 3), its faces by them (f, 3) without
    those that have a point twice, and for each of the mesh's own points which it is (v,)."""
    points, index = joined_points(mesh.positions, tolerance)
    faces = index[mesh.faces]
    return points, faces[without_doubles(faces)], index


def without_doubles(faces: Indices) -> Flags:
    """(f,) bool: faces that have no point twice."""
    return np.asarray((faces != faces[:, [1, 2, 0]]).all(axis=1))


def distinct_rows(rows: Indices) -> tuple[Indices, Indices]:
    """Of (n, 3) whole numbers, a row of each that differs, and for each row which it is like."""
    order, starts, index = grouped(mixed_keys(rows))
    first = order[starts]
    if not np.array_equal(rows[first][index], rows):  # two rows with one key
        _, first, index = np.unique(rows, axis=0, return_index=True, return_inverse=True)
    return first, index.reshape(-1)


def mixed_keys(rows: Indices) -> NDArray[np.uint64]:
    """One number for each row of three: rows that differ hardly ever have the same."""
    mixed = np.zeros(len(rows), dtype=np.uint64)
    for k in range(3):
        mixed = (mixed + rows[:, k].astype(np.uint64)) * _MIX[k]
        mixed ^= mixed >> np.uint64(29)
    return mixed


def cross(one: Array, other: Array) -> Array:
    """(n, 3) float: the products of two lists of vectors."""
    found = np.empty_like(one)
    for k in range(3):
        i, j = (k + 1) % 3, (k + 2) % 3
        found[:, k] = one[:, i] * other[:, j] - one[:, j] * other[:, i]
    return found


def grouped(keys: Indices | NDArray[np.uint64]) -> tuple[Indices, Indices, Indices]:
    """An order in which equal keys lie together, where in it each group starts, and the group of each key."""
    order = np.argsort(keys)
    fresh = np.ones(len(keys), dtype=bool)
    fresh[1:] = keys[order][1:] != keys[order][:-1]
    index = np.empty(len(keys), dtype=np.int64)
    index[order] = np.cumsum(fresh) - 1
    return order, np.flatnonzero(fresh), index


def unit(vectors: Array) -> Array:
    """(n, 3) float, each 1 long."""
    return np.asarray(vectors / np.maximum(norms(vectors), 1e-30))


def point_normals(points: Array, faces: Indices) -> Array:
    """(n, 3) float, unit length: of the faces around each point by their areas."""
    vectors, flat = np.repeat(face_normals(points, faces), 3, axis=0), faces.reshape(-1)
    summed = [np.bincount(flat, vectors[:, k], minlength=len(points)) for k in range(3)]
    return unit(np.stack(summed, axis=1))


def face_normals(points: Array, faces: Indices) -> Array:
    """(f, 3) float: twice each face's area along its normal."""
    a, b, c = points[faces[:, 0]], points[faces[:, 1]], points[faces[:, 2]]
    return cross(b - a, c - a)


def volume_of(points: Array, faces: Indices) -> float:
    """What a closed surface holds, negative where it faces inwards; of an open one, about its middle."""
    if not len(faces):
        return 0.0
    middle = points.mean(axis=0)
    a, b, c = (points[faces[:, k]] - middle for k in range(3))
    return float(np.einsum("ij,ij->", a, cross(b, c)) / 6)


@dataclass(frozen=True, eq=False)
class Edges:
    """The edges of a mesh.

    of_face : (f, 3) int, the edge from each corner to the next; ahead : whether it runs from low to high
    uses : (e,) int, how many faces have it
    order : (3 f,) int, face corners (3 × face + corner) so that those of one edge lie together; each edge's
        begin at `starts`
    """

    faces: Indices
    of_face: Indices
    ahead: Flags
    uses: Indices
    order: Indices
    starts: Indices

    @cached_property
    def pairs(self) -> Indices:
        """(p, 2) int: faces that share an edge which no other face has."""
        return self._pairs[0]

    @cached_property
    def agree(self) -> Flags:
        """(p,) bool: whether the two of a pair face the same way."""
        return self._pairs[1]

    @cached_property
    def _pairs(self) -> tuple[Indices, Flags]:
        one, other = self.pair_corners
        ahead = self.ahead.reshape(-1)
        pairs = np.stack([one // 3, other // 3], axis=1)
        return pairs, ahead[one] != ahead[other]

    @cached_property
    def pair_corners(self) -> tuple[Indices, Indices]:
        """(p,) int each: the face corners (3 × face + corner) where the shared edge of each pair begins."""
        twice = self.starts[self.uses == 2]
        return self.order[twice], self.order[twice + 1]

    @cached_property
    def rim_corners(self) -> Indices:
        """(r,) int: face corners (3 × face + corner) where an edge begins that no other face has."""
        return np.asarray(self.order[self.starts[self.uses == 1]])

    @property
    def rims(self) -> Indices:
        """(r, 2) int: edges that one face only has, as that face runs along them."""
        face, corner = self.rim_corners // 3, self.rim_corners % 3
        return np.asarray(np.stack([self.faces[face, corner], self.faces[face, (corner + 1) % 3]], axis=1))


def edges_of(faces: Indices) -> Edges:
    """The edges of a mesh."""
    start, end = faces, faces[:, [1, 2, 0]]
    span = int(faces.max(initial=0)) + 1
    keys = (np.minimum(start, end) * span + np.maximum(start, end)).reshape(-1)
    order, starts, index = grouped(keys)
    uses = np.diff(starts, append=len(keys))
    return Edges(faces, index.reshape(-1, 3), start < end, uses, order, starts)


def pieces_of(edges: Edges) -> tuple[int, Indices]:
    """How many pieces a mesh hangs together in, and the piece of each face."""
    count = len(edges.faces)
    follows = np.ones(len(edges.order), dtype=bool)
    follows[edges.starts] = False
    at = np.flatnonzero(follows)
    one, other = edges.order[at - 1] // 3, edges.order[at] // 3
    graph = coo_matrix((np.ones(len(one), dtype=np.int8), (one, other)), shape=(count, count))
    found, labels = connected_components(graph, directed=False)
    return int(found), labels.astype(np.int64)


def fans_of(edges: Edges, whole: Flags) -> Indices:
    """(f, 3) int: corners at a point have one number where their faces hang together by whole edges.

    whole : (p,) bool, for each of `edges.pairs`, which have to agree there
    """
    here, there = (corners[whole] for corners in edges.pair_corners)
    rows = np.concatenate([here, next_corner(here)])
    columns = np.concatenate([next_corner(there), there])
    count = edges.faces.size
    graph = coo_matrix((np.ones(len(rows), dtype=np.int8), (rows, columns)), shape=(count, count))
    return np.asarray(connected_components(graph, directed=False)[1], dtype=np.int64).reshape(-1, 3)


def next_corner(corners: Indices) -> Indices:
    """The corners after corners (3 × face + corner) of the same faces."""
    return np.asarray(corners - corners % 3 + (corners % 3 + 1) % 3)


def to_turn(edges: Edges) -> tuple[Flags, bool]:
    """Which faces to turn round so that neighbours face the same way, and whether that can be at all.

    On the mesh taken twice, once each way round, faces hang together that agree: whichever copy of a
    face hangs with its piece's first face says how it lies.
    """
    count = len(edges.faces)
    turned = np.zeros(count, dtype=bool)
    if edges.agree.all():
        return turned, True
    one, other = edges.pairs.T
    there = np.where(edges.agree, other, other + count)
    back = np.where(edges.agree, other + count, other)
    rows, columns = np.concatenate([one, one + count]), np.concatenate([there, back])
    graph = coo_matrix((np.ones(len(rows), dtype=np.int8), (rows, columns)), shape=(2 * count, 2 * count))
    _, sheets = connected_components(graph, directed=False)
    one_sided = sheets[:count] == sheets[count:]
    both = np.minimum(sheets[:count], sheets[count:])
    turned = (sheets[:count] != both) & ~one_sided
    _, piece = np.unique(both, return_inverse=True)
    most = np.bincount(piece, weights=turned) * 2 > np.bincount(piece)
    return turned ^ (most[piece] & ~one_sided), not one_sided.any()


def rings_of(rims: Indices) -> list[Indices]:
    """Closed rings of points along the rims of holes, as the faces beside them run."""
    after: dict[int, list[int]] = {}
    for start, end in rims.tolist():
        after.setdefault(start, []).append(end)
    rings = []
    while after:
        start = next(iter(after))
        ring, at = [start], start
        while at in after:
            step = after[at].pop()
            if not after[at]:
                del after[at]
            if step == start:
                rings.append(np.array(ring))
                break
            ring.append(step)
            at = step
    return rings


def holds(points: Array, faces: Indices, place: Array) -> bool:
    """Whether a closed surface has a place in it: a ray from it meets the surface an odd number of times."""
    ray = np.array([0.2718, 0.1414, 0.9519])
    corners = points[faces] - place
    one, other = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    across = np.cross(ray, other)
    det = np.einsum("ij,ij->i", one, across)
    with np.errstate(all="ignore"):
        u = np.einsum("ij,ij->i", -corners[:, 0], across) / det
        lean = np.cross(-corners[:, 0], one)
        v = lean @ ray / det
        along = np.einsum("ij,ij->i", other, lean) / det
    return bool(np.count_nonzero((u >= 0) & (v >= 0) & (u + v <= 1) & (along > 0)) % 2)
