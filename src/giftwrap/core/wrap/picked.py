"""A label on a picked place of a received model: the surface around it laid flat, the label cut out of it."""

from __future__ import annotations

import threading
from dataclasses import dataclass
from functools import cached_property

import igl
import numpy as np
from cachetools import LRUCache, cached
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components, dijkstra
from shapely import Polygon
from typing_extensions import override

from giftwrap.core.errors import PackError, within
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.nearest import carried
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.mesh.refine import refined
from giftwrap.core.mesh.topology import (
    edges_of,
    face_normals,
    fans_of,
    joined_surface,
    next_corner,
    pieces_of,
    point_normals,
)
from giftwrap.core.model import PickedPanel
from giftwrap.core.wrap.flattening import Flat, flattened
from giftwrap.core.wrap.laid import GLUE_GAP, Laid, Piece, cut_of, cut_to, raised, rim_of, under_of

KEPT = 48
"""Labels whose places are kept."""
JOIN = 1e-4
"""Mm within which points of a part are one."""
LEAST_LOOP, SMOOTH = 2.0, 0.4
"""Mm that a loop drawn by hand must be across, and by which its corners are rounded."""
AROUND_EDGES = 1.35
"""Ways along edges are so much longer than straight ones, at the most of usual meshes."""
MISSING = 0.005
"""Share of a label that may lie beyond the surface: less is its own facets."""


PASSES = 3
"""Times that a place is laid flat, each time only what the label needs: the rest would stretch it too."""
MARGIN = 0.1
"""Share of a label by which what is laid flat reaches beyond it."""


@dataclass(frozen=True, kw_only=True)
class PickedSheet(Laid):
    """A label as it lies where it was picked; `piece` is what it covers of the surface."""

    panel: PickedPanel
    piece: Piece

    @cached_property
    @override
    def face(self) -> Mesh:
        return raised(self.piece, self.out)

    @property
    @override
    def under(self) -> Mesh:
        return under_of(self.piece, self.gap)

    @property
    @override
    def rim(self) -> Mesh:
        return rim_of(self.piece, self.gap, self.out)


def lay_picked(panel: PickedPanel, mesh: Mesh, *, place: str) -> PickedSheet:
    """Lay a label on a part where it was picked.

    mesh : the part's surface, mm; place : of the panel in its pack

    Raises PackError when there is no such place, or the label is larger than it.
    """
    with within(place):
        piece = _piece_of(panel, mesh)
    return PickedSheet(panel=panel, part=panel.part, piece=piece)


def _place(panel: PickedPanel, mesh: Mesh) -> tuple[object, ...]:
    outline = None if panel.outline is None else tuple(panel.outline)
    own = (panel.part, panel.at, panel.turn, panel.grow, panel.width, panel.height, panel.thickness)
    return mesh.digest, *own, panel.rounding, outline, panel.name


@cached(LRUCache(KEPT), key=_place, lock=threading.Lock())
def _piece_of(panel: PickedPanel, mesh: Mesh) -> Piece:
    """What a label covers of a part; kept, since what is printed on it changes more often."""
    shape = cut_of(panel)
    points, around, flat = _laid(panel, mesh)
    size = (panel.width, panel.height)
    piece = _cut_out(size, points, point_normals(points, around), around, flat)
    if shape is not None:
        piece = cut_to(piece, shape, size)
    covered = _flat_area(piece, size) / (panel.width * panel.height if shape is None else shape.area)
    if covered < 1 - MISSING:
        raise PackError(
            f"Only {100 * covered:.0f} % of “{panel.name}” lies on “{panel.part}” there: make it smaller, "
            "move it, or let it go on over sharper edges.",
            "width",
        )
    return piece


def _laid(panel: PickedPanel, mesh: Mesh) -> tuple[Array, Indices, Flat]:
    """What lies around a label, laid flat about its middle: points, mm, faces by these, and their places."""
    points, faces, _ = joined_surface(mesh, JOIN)
    at = np.array([panel.at], dtype=float)
    reach = np.hypot(panel.width, panel.height) / 2
    points, faces = refined(points, faces, at[0], 2 * reach, reach / 2)
    _, near, nearest = igl.point_mesh_squared_distance(at, points, faces)
    seed = int(near[0])
    frame = _frame(nearest[0], face_normals(points, faces[[seed]])[0])
    region = _grown(points, faces, seed, reach * AROUND_EDGES, panel.grow)
    for _ in range(PASSES):
        vertex, around = _cut_open(points, region, frame)
        there = points[vertex]
        # what is printed is as long as it is on its own face
        face = there + (GLUE_GAP + panel.thickness) * point_normals(there, around)
        flat = _about_seed(flattened(face, around, f"“{panel.part}”"), there, around, frame, panel.turn)
        region, before = region[_needed(flat, around, panel)], region
        if len(region) == len(before):
            break
    return points[vertex], around, flat


def lassoed(panel: PickedPanel, mesh: Mesh, loop: Array) -> PickedPanel:
    """A label that is cut to a loop drawn on a part, as large as that is when it is laid flat.

    loop : (n, 3) float, mm, places on the surface in order; the label's own size and place do not matter

    Raises PackError when the loop encloses next to nothing or cannot be laid flat.
    """
    points, faces, _ = joined_surface(mesh, JOIN)
    middle = loop.mean(axis=0)
    span = 2.2 * float(np.linalg.norm(loop - middle, axis=1).max())
    if span < LEAST_LOOP:
        raise PackError("The loop is too small for a label: draw it around the place.", "loop")
    for _ in range(2):  # the second time about its own middle
        _, _, nearest = igl.point_mesh_squared_distance(middle[None], points, faces)
        at = tuple(float(v) for v in np.round(nearest[0], 4))
        panel = panel.model_copy(update={"at": at, "width": span, "height": span, "outline": None})
        around, near, flat = _laid(panel, mesh)
        places = carried(loop, around, near, flat.places)
        shape = Polygon(places).buffer(0)
        if not isinstance(shape, Polygon) or shape.area < 1.0:
            raise PackError("The loop crosses itself: draw it around the place in one go.", "loop")
        left, foot, right, top = shape.bounds
        centre = np.array([(left + right) / 2, (foot + top) / 2])
        sheet = np.column_stack([flat.places, np.zeros(len(flat.places))])
        middle = carried(np.array([[*centre, 0.0]]), sheet, near, around)[0]
    smooth = shape.buffer(SMOOTH).buffer(-2 * SMOOTH).buffer(SMOOTH).simplify(0.05)
    if not isinstance(smooth, Polygon) or smooth.is_empty:
        smooth = shape
    left, foot, right, top = smooth.bounds
    ring = np.array(smooth.exterior.coords[:-1]) - [(left + right) / 2, (foot + top) / 2]
    return panel.model_copy(
        update={
            "at": tuple(float(v) for v in np.round(middle, 4)),
            "width": round(right - left + 0.01, 2),
            "height": round(top - foot + 0.01, 2),
            "outline": tuple((round(float(x), 3), round(float(y), 3)) for x, y in ring),
        }
    )


@dataclass(frozen=True)
class _Frame:
    """Where a label's middle lies, and its ways to the right, up and out there."""

    middle: Array
    right: Array
    up: Array
    out: Array


def _frame(middle: Array, normal: Array) -> _Frame:
    out = normal / max(float(np.linalg.norm(normal)), 1e-30)
    up = np.array([0.0, 0.0, 1.0]) if abs(out[2]) < 0.95 else np.array([0.0, 1.0, 0.0])
    up = up - (up @ out) * out
    up /= np.linalg.norm(up)
    return _Frame(middle, np.cross(up, out), up, out)


def _needed(flat: Flat, faces: Indices, panel: PickedPanel) -> Indices:
    """Which faces lie under a label, or within its margin, and hang together with its middle."""
    corners = flat.places[faces]
    half = (0.5 + MARGIN) * np.array([panel.width, panel.height])
    under = ((corners.min(axis=1) < half) & (corners.max(axis=1) > -half)).all(axis=1)
    near = np.flatnonzero(under)
    if not len(near):
        return np.arange(len(faces))
    _, labels = pieces_of(edges_of(faces[near]))
    middle = int(np.argmin(np.linalg.norm(corners[near].mean(axis=1), axis=1)))
    return np.asarray(near[labels == labels[middle]])


def _grown(points: Array, faces: Indices, seed: int, reach: float, grow: float) -> Indices:
    """The faces around a seed within reach along the surface, over edges no sharper than `grow` degrees."""
    near = _within_reach(points, faces, seed, reach)
    edges = edges_of(faces[near])
    normals = face_normals(points, faces[near])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-30)
    smooth = (normals[edges.pairs[:, 0]] * normals[edges.pairs[:, 1]]).sum(axis=1) >= np.cos(
        np.radians(grow)
    ) - 1e-9
    one, other = edges.pairs[smooth].T
    graph = coo_matrix((np.ones(len(one)), (one, other)), shape=(len(near), len(near)))
    labels = connected_components(graph, directed=False)[1]
    own = labels == labels[int(np.flatnonzero(near == seed)[0])]
    return np.asarray(faces[near][own])


def _within_reach(points: Array, faces: Indices, seed: int, reach: float) -> Indices:
    """Faces of which a corner is within reach of the seed's, along edges."""
    ends = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    lengths = np.linalg.norm(points[ends[:, 0]] - points[ends[:, 1]], axis=1)
    graph = coo_matrix((lengths, (ends[:, 0], ends[:, 1])), shape=(len(points), len(points))).tocsr()
    start = faces[seed]
    longest = float(np.linalg.norm(points[start] - points[np.roll(start, -1)], axis=1).max())
    apart = dijkstra(graph, directed=False, indices=start, limit=reach + longest, min_only=True)
    return np.flatnonzero((apart[faces] <= reach + longest).any(axis=1))


def _cut_open(points: Array, faces: Indices, frame: _Frame) -> tuple[Indices, Indices]:
    """Faces cut open behind, where those on both sides meet and their points are taken twice: which points
    they use, and the faces by those."""
    middles = points[faces].mean(axis=1) - frame.middle
    depth, side = middles @ frame.out, middles @ frame.right > 0
    behind = depth < depth.min() / 2 - 1e-9
    edges = edges_of(faces)
    one, other = edges.pairs.T
    kept = ~(behind[one] & behind[other] & (side[one] != side[other]))
    fans = fans_of(edges, kept & edges.agree)
    vertex = np.zeros(int(fans.max()) + 1, dtype=np.int64)
    vertex[fans.reshape(-1)] = faces.reshape(-1)
    return vertex, fans


def _about_seed(flat: Flat, points: Array, faces: Indices, frame: _Frame, turn: float) -> Flat:
    """A flat piece with the label's middle at its origin and the label upright."""
    _, near, _ = igl.point_mesh_squared_distance(frame.middle[None], points, faces)
    face = faces[int(near[0])]
    a, b, c = points[face]
    basis = np.stack([b - a, c - a], axis=1)
    weights, *_ = np.linalg.lstsq(basis, frame.middle - a, rcond=None)
    ends = flat.places[face]
    across = np.stack([ends[1] - ends[0], ends[2] - ends[0]], axis=1)
    origin = ends[0] + across @ weights
    up, *_ = np.linalg.lstsq(basis, frame.up, rcond=None)
    direction = across @ up
    angle = np.arctan2(direction[1], direction[0]) - np.pi / 2 + np.radians(-turn)
    turned = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    return Flat((flat.places - origin) @ turned.T, flat.stretch)


def _cut_out(size: tuple[float, float], points: Array, normals: Array, faces: Indices, flat: Flat) -> Piece:
    """The label's rectangle cut out of a flat piece, with the surface's places and normals."""
    values = np.hstack([flat.places / np.array(size) + 0.5, points, normals])
    for k in (0, 1):
        for sign, limit in ((1.0, 0.0), (-1.0, -1.0)):
            values, faces = _clipped(values, faces, sign * values[:, k] - limit)
    corner = values[faces][:, :, :2]
    area = np.abs(_cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]))
    faces = faces[area > 1e-12]
    used, numbered = np.unique(faces, return_inverse=True)
    values = values[used]
    directed = values[:, 5:8] / np.maximum(np.linalg.norm(values[:, 5:8], axis=1, keepdims=True), 1e-30)
    return Piece(values[:, 2:5], directed, values[:, :2], numbered.reshape(-1, 3))


def _clipped(values: Array, faces: Indices, inside: Array) -> tuple[Array, Indices]:
    """Triangles cut where `inside` turns negative; what is cut shares the new points along its edges."""
    keep = inside[faces] >= 0
    count = keep.sum(axis=1)
    cut = np.flatnonzero((count > 0) & (count < 3))
    if not len(cut):
        return values, faces[count == 3]
    edges = edges_of(faces[cut])
    flat = edges.of_face.reshape(-1)
    first = edges.order[edges.starts]
    start = faces[cut].reshape(-1)[first]
    end = faces[cut].reshape(-1)[next_corner(first)]
    crossing = (inside[start] >= 0) != (inside[end] >= 0)
    share = np.where(crossing, inside[start] / np.where(crossing, inside[start] - inside[end], 1.0), 0.0)
    made = values[start] + share[:, None] * (values[end] - values[start])
    fresh = len(values) + flat.reshape(-1, 3)
    parts = [faces[count == 3]]
    for k in range(3):
        one, two = (k + 1) % 3, (k + 2) % 3
        alone = keep[cut][:, k] & ~keep[cut][:, one] & ~keep[cut][:, two]
        pair = ~keep[cut][:, k] & keep[cut][:, one] & keep[cut][:, two]
        corners = faces[cut]
        parts.append(np.stack([corners[alone, k], fresh[alone, k], fresh[alone, two]], axis=1))
        parts.append(np.stack([fresh[pair, k], corners[pair, one], corners[pair, two]], axis=1))
        parts.append(np.stack([fresh[pair, k], corners[pair, two], fresh[pair, two]], axis=1))
    return np.vstack([values, made]), np.vstack(parts)


def _cross(one: Array, other: Array) -> Array:
    return np.asarray(one[..., 0] * other[..., 1] - one[..., 1] * other[..., 0])


def _flat_area(piece: Piece, size: tuple[float, float]) -> float:
    corners = piece.uvs[piece.faces] * np.array(size)
    return float(np.abs(_cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])).sum() / 2)
