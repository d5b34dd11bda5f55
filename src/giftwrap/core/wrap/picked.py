"""A label on a picked place of a received model: the surface around it laid flat, the label cut out of it."""

from __future__ import annotations

from dataclasses import dataclass

import igl
import numpy as np
import shapely
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components, dijkstra
from scipy.spatial import cKDTree
from shapely import Polygon
from shapely.geometry.polygon import orient

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.flat import flat_triangles
from giftwrap.core.mesh.mesh import Mesh, together
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.mesh.topology import (
    edges_of,
    face_normals,
    fans_of,
    joined_surface,
    next_corner,
    pieces_of,
    point_normals,
    rings_of,
    without_doubles,
)
from giftwrap.core.model import PickedPanel
from giftwrap.core.wrap.flattening import Flat, flattened
from giftwrap.core.wrap.panel import GLUE_GAP

JOIN, WELD, MET = 1e-4, 1e-3, 1e-3
"""Mm within which points of a part are one, those of a label cut out of it, and an outline its size."""
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


@dataclass(frozen=True)
class PickedSheet:
    """A label as it lies on a received model.

    face : its printed side, uvs left to right and bottom to top; back : the other, with its edges
    stretch : the most that a mm of it is longer or shorter than it is printed, as a share
    """

    panel: PickedPanel
    face: Mesh
    back: Mesh
    stretch: float


def lay_picked(panel: PickedPanel, mesh: Mesh, *, place: str) -> PickedSheet:
    """Lay a label on a part where it was picked.

    mesh : the part's surface, mm; place : of the panel in its pack

    Raises PackError when there is no such place, or the label is larger than it.
    """
    shape = outline_of(panel, place)
    points, around, flat = _laid(panel, mesh)
    cut = _cut_out(panel, points, point_normals(points, around), around, flat)
    if shape is not None:
        cut = _cut_to(cut, shape)
    covered = _flat_area(cut) / (panel.width * panel.height if shape is None else shape.area)
    if covered < 1 - MISSING:
        raise PackError(
            f"Only {100 * covered:.0f} % of “{panel.name}” lies on “{panel.part}” there: make it smaller, "
            "move it, or let it go on over sharper edges.",
            f"{place}.width",
        )
    out = GLUE_GAP + panel.thickness
    return PickedSheet(panel, _raised(cut, out), _back(cut, GLUE_GAP, out), cut.stretch)


def _laid(panel: PickedPanel, mesh: Mesh) -> tuple[Array, Indices, Flat]:
    """What lies around a label, laid flat about its middle: points, mm, faces by these, and their places."""
    points, faces, _ = joined_surface(mesh, JOIN)
    at = np.array([panel.at], dtype=float)
    _, near, nearest = igl.point_mesh_squared_distance(at, points, faces)
    seed = int(near[0])
    reach = np.hypot(panel.width, panel.height) / 2
    frame = _frame(nearest[0], face_normals(points, faces[[seed]])[0])
    region = _grown(points, faces, seed, reach * AROUND_EDGES, panel.grow)
    for _ in range(PASSES):
        vertex, around = _cut_open(points, region, frame)
        flat = _about_seed(
            flattened(points[vertex], around, f"“{panel.part}”"), points[vertex], around, frame, panel.turn
        )
        region, before = region[_needed(flat, around, panel)], region
        if len(region) == len(before):
            break
    return points[vertex], around, flat


def outline_of(panel: PickedPanel, place: str) -> Polygon | None:
    """What a label is cut to, if it is no rectangle, mm. Raises PackError when that crosses itself."""
    if panel.outline is None:
        return None
    shape = Polygon(panel.outline)
    half = 0.5 * panel.width + MET, 0.5 * panel.height + MET
    left, foot, right, top = shape.bounds
    if not shape.is_valid or shape.area < MET:
        raise PackError(f"The outline of “{panel.name}” crosses itself: draw it anew.", f"{place}.outline")
    if left < -half[0] or right > half[0] or foot < -half[1] or top > half[1]:
        raise PackError(f"The outline of “{panel.name}” goes beyond its size.", f"{place}.outline")
    return shape


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
        places = _places_of(loop, around, near, flat)
        shape = Polygon(places).buffer(0)
        if not isinstance(shape, Polygon) or shape.area < 1.0:
            raise PackError("The loop crosses itself: draw it around the place in one go.", "loop")
        left, foot, right, top = shape.bounds
        centre = np.array([(left + right) / 2, (foot + top) / 2])
        middle = _lifted(centre, around, near, flat)
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


def _places_of(loop: Array, points: Array, faces: Indices, flat: Flat) -> Array:
    """(n, 2) float: where places on a surface lie when it is laid flat, mm."""
    _, near, nearest = igl.point_mesh_squared_distance(np.ascontiguousarray(loop), points, faces)
    corners = points[faces[near]]
    weights = igl.barycentric_coordinates(nearest, *(np.ascontiguousarray(corners[:, k]) for k in range(3)))
    return np.asarray((weights[..., None] * flat.places[faces[near]]).sum(axis=1))


def _lifted(place: Array, points: Array, faces: Indices, flat: Flat) -> Array:
    """(3,) float: where a place on what is laid flat lies on the surface."""
    sheet = np.column_stack([flat.places, np.zeros(len(flat.places))])
    at = np.array([[*place, 0.0]])
    _, near, nearest = igl.point_mesh_squared_distance(at, sheet, faces)
    corners = sheet[faces[near]]
    weights = igl.barycentric_coordinates(nearest, *(np.ascontiguousarray(corners[:, k]) for k in range(3)))
    return np.asarray((weights[0][:, None] * points[faces[near[0]]]).sum(axis=0))


@dataclass(frozen=True)
class _Frame:
    """Where a label's middle lies, and its ways to the right, up and out there."""

    middle: Array
    right: Array
    up: Array
    out: Array


@dataclass(frozen=True)
class _Cut:
    """A label cut out of a surface: its points there with their normals, and where they lie on it, 0 to 1."""

    positions: Array
    normals: Array
    uvs: Array
    faces: Indices
    size: tuple[float, float]
    stretch: float


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


def _cut_out(panel: PickedPanel, points: Array, normals: Array, faces: Indices, flat: Flat) -> _Cut:
    """The label's rectangle cut out of a flat piece, with the surface's places and normals."""
    size = np.array([panel.width, panel.height])
    values = np.hstack([flat.places / size + 0.5, points, normals])
    source = np.arange(len(faces))
    for k in (0, 1):
        for sign, limit in ((1.0, 0.0), (-1.0, -1.0)):
            values, faces, source = _clipped(values, faces, source, sign * values[:, k] - limit)
    corner = values[faces][:, :, :2]
    area = np.abs(_cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]))
    faces, source, area = faces[area > 1e-12], source[area > 1e-12], area[area > 1e-12]
    most = np.abs(np.log(flat.stretch[source])).max(axis=1) if len(faces) else np.zeros(1)
    order = np.argsort(most)
    share = np.cumsum(area[order]) / max(float(area.sum()), 1e-30) if len(faces) else np.ones(1)
    stretch = float(np.expm1(most[order][int(np.searchsorted(share, 0.99))]))
    used, numbered = np.unique(faces, return_inverse=True)
    values = values[used]
    directed = values[:, 5:8] / np.maximum(np.linalg.norm(values[:, 5:8], axis=1, keepdims=True), 1e-30)
    return _Cut(
        values[:, 2:5], directed, values[:, :2], numbered.reshape(-1, 3), tuple(size.tolist()), stretch
    )


def _cut_to(cut: _Cut, shape: Polygon) -> _Cut:
    """A label cut to an outline, mm from its middle."""
    size = np.array(cut.size)
    places = (cut.uvs - 0.5) * size
    triangles = shapely.polygons(places[cut.faces])
    shapely.prepare(shape)
    whole = shapely.contains_properly(shape, triangles)
    edge = np.flatnonzero(~whole & shapely.intersects(shape, triangles))
    table = np.hstack([cut.uvs, cut.positions, cut.normals])
    values, faces, count = [table], [cut.faces[whole]], len(table)
    for number, part in zip(edge, shapely.intersection(shape, triangles[edge]), strict=True):
        corners = np.column_stack([places[cut.faces[number]], np.ones(3)])
        for piece in getattr(part, "geoms", [part]):
            if not isinstance(piece, Polygon) or piece.area < 1e-9:
                continue
            at, found = flat_triangles(orient(piece))
            weights = np.linalg.solve(corners.T, np.column_stack([at, np.ones(len(at))]).T).T
            values.append(weights @ table[cut.faces[number]])
            faces.append(found + count)
            count += len(at)
    everything = np.vstack(values)
    one, other = cKDTree(everything[:, 2:5]).query_pairs(WELD, output_type="ndarray").T
    graph = coo_matrix((np.ones(len(one)), (one, other)), shape=(len(everything),) * 2)
    index = connected_components(graph, directed=False)[1]
    joined = index[np.vstack(faces)]
    joined = joined[without_doubles(joined)]
    used, numbered = np.unique(joined, return_inverse=True)
    kept = everything[np.unique(index, return_index=True)[1][used]]
    normals = kept[:, 5:8] / np.maximum(np.linalg.norm(kept[:, 5:8], axis=1, keepdims=True), 1e-30)
    return _Cut(kept[:, 2:5], normals, kept[:, :2], numbered.reshape(-1, 3), cut.size, cut.stretch)


def _clipped(values: Array, faces: Indices, source: Indices, inside: Array) -> tuple[Array, Indices, Indices]:
    """Triangles cut where `inside` turns negative; what is cut shares the new points along its edges."""
    keep = inside[faces] >= 0
    count = keep.sum(axis=1)
    cut = np.flatnonzero((count > 0) & (count < 3))
    if not len(cut):
        return values, faces[count == 3], source[count == 3]
    edges = edges_of(faces[cut])
    flat = edges.of_face.reshape(-1)
    first = edges.order[edges.starts]
    start = faces[cut].reshape(-1)[first]
    end = faces[cut].reshape(-1)[next_corner(first)]
    crossing = (inside[start] >= 0) != (inside[end] >= 0)
    share = np.where(crossing, inside[start] / np.where(crossing, inside[start] - inside[end], 1.0), 0.0)
    made = values[start] + share[:, None] * (values[end] - values[start])
    fresh = len(values) + flat.reshape(-1, 3)
    parts, from_face = [faces[count == 3]], [source[count == 3]]
    for k in range(3):
        one, two = (k + 1) % 3, (k + 2) % 3
        alone = keep[cut][:, k] & ~keep[cut][:, one] & ~keep[cut][:, two]
        pair = ~keep[cut][:, k] & keep[cut][:, one] & keep[cut][:, two]
        corners = faces[cut]
        parts.append(np.stack([corners[alone, k], fresh[alone, k], fresh[alone, two]], axis=1))
        parts.append(np.stack([fresh[pair, k], corners[pair, one], corners[pair, two]], axis=1))
        parts.append(np.stack([fresh[pair, k], corners[pair, two], fresh[pair, two]], axis=1))
        from_face += [source[cut][alone], source[cut][pair], source[cut][pair]]
    return np.vstack([values, made]), np.vstack(parts), np.concatenate(from_face)


def _cross(one: Array, other: Array) -> Array:
    return np.asarray(one[..., 0] * other[..., 1] - one[..., 1] * other[..., 0])


def _flat_area(cut: _Cut) -> float:
    corners = cut.uvs[cut.faces] * np.array(cut.size)
    return float(np.abs(_cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])).sum() / 2)


def _raised(cut: _Cut, out: float) -> Mesh:
    return Mesh(cut.positions + out * cut.normals, cut.normals, cut.uvs, cut.faces)


def _back(cut: _Cut, gap: float, out: float) -> Mesh:
    """The back of a label and its edges; with its face it is one closed shell."""
    under = Mesh(cut.positions + gap * cut.normals, -cut.normals, cut.uvs, cut.faces[:, ::-1].copy())
    strips = [under]
    for ring in rings_of(edges_of(cut.faces).rims):
        loop = np.append(ring, ring[0])
        top, foot = (
            cut.positions[loop] + out * cut.normals[loop],
            cut.positions[loop] + gap * cut.normals[loop],
        )
        along = np.diff(top, axis=0)
        facing = np.cross(along, cut.normals[loop[:-1]])
        facing /= np.maximum(np.linalg.norm(facing, axis=1, keepdims=True), 1e-30)
        corners = np.concatenate([top[:-1], top[1:], foot[:-1], foot[1:]])
        n = len(along)
        i = np.arange(n)
        faces = np.concatenate(
            [np.stack([i, i + 2 * n, i + n], -1), np.stack([i + n, i + 2 * n, i + 3 * n], -1)]
        )
        strips.append(Mesh(corners, np.tile(facing, (4, 1)), np.zeros((4 * n, 2)), faces))
    return together(*strips)
