"""Mending a found model: joined, each body by itself and facing outwards, twins told, reduced for drawing."""

from __future__ import annotations

from collections.abc import Container, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import fast_simplification
import numpy as np

from giftwrap.core.errors import ModelError
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.mesh.topology import (
    distinct_rows,
    edges_of,
    face_normals,
    grouped,
    holds,
    joined_points,
    mixed_keys,
    pieces_of,
    rings_of,
    to_turn,
    unit,
    volume_of,
    without_doubles,
)
from giftwrap.core.model.received import MOST_BODIES
from giftwrap.core.received.found import FoundMesh, FoundModel
from giftwrap.core.received.kept import BodyFacts, Facets, KeptModel, MeshFacts

JOINS = 1e-6
"""Share of a model's size within which points are one."""
SAME = 1e-5
"""Share of a model's size within which two bodies are copies of each other."""
MOST_PIECES = 300
"""A mesh in more pieces than this is kept in one: it is grains, threads or letters."""
MOST_DRAWN = 40_000
"""Triangles of a model as pages draw it."""
LEAST_DRAWN = 400
"""Triangles of a body that are drawn in any case."""
MOST_REDUCED = 250_000
"""Triangles that are reduced by quadrics: of more, points that lie close are gathered first."""
SAMPLED = 16
"""Every so many faces tell how large a surface is."""
AGGRESSION = 5.0
OVER = 2e-3
"""Share of a picture by which coordinates may reach beyond it."""
FLAT = 1e-14
"""Twice a face's area over the model's size squared: less is a line."""


class _Piece(NamedTuple):
    """A piece of a mesh, how many rings it is open along, and what it holds."""

    facets: Facets
    holes: int
    volume: float


@dataclass
class Mended:
    """What was mended, counted, for the report."""

    lines: int = 0
    doubles: int = 0
    turned: int = 0
    inside_out: int = 0
    one_sided: int = 0
    open_bodies: int = 0
    holes: int = 0
    copies: int = 0
    kept_whole: int = 0
    repeating: int = 0


def mended(found: FoundModel) -> tuple[KeptModel, Mended]:
    """Mend a model. Raises ModelError when nothing is left of it."""
    points = np.vstack([mesh.positions for mesh in found.meshes])
    size = float(np.ptp(points, axis=0).max())
    if not size > 1e-9:
        raise ModelError("The model has no size: all of it lies in one place. Export it again.")
    counts = Mended()
    painted = {
        i
        for i, material in enumerate(found.materials)
        if material.picture or material.rough or material.facing
    }
    whole: list[Facets] = []
    bodies: list[BodyFacts] = []
    meshes = []
    for mesh in found.meshes:
        tiled, repeats = _from_the_first_tile(mesh, painted)
        pieces = _pieces(tiled, size, counts)
        if not pieces:
            continue
        counts.repeating += repeats
        meshes.append(MeshFacts(mesh.name, mesh.material, _sheet_of(pieces), repeats))
        for piece in pieces:
            whole.append(piece.facets)
            bodies.append(_facts(piece, len(meshes) - 1))
    if not whole:
        raise ModelError("The model has only lines and points: export it with its surfaces.")
    if len(whole) > MOST_BODIES:
        raise ModelError(
            f"The model is in {len(whole)} pieces; {MOST_BODIES} is the most: join them where it was made, "
            "or send only what is to be seen."
        )
    bodies = _with_copies(bodies, whole, size)
    counts.copies = sum(body.copy_of is not None for body in bodies)
    counts.holes = sum(body.holes for body in bodies)
    counts.open_bodies = sum(body.holes > 0 for body in bodies)
    return KeptModel(tuple(meshes), tuple(bodies), tuple(whole), _reduced(whole)), counts


def _from_the_first_tile(mesh: FoundMesh, painted: Container[int | None]) -> tuple[FoundMesh, bool]:
    """A mesh with coordinates from 0 on for its picture, if it has one; and whether that repeats."""
    if mesh.uvs is None or mesh.material not in painted:
        return replace(mesh, uvs=None), False
    uvs = mesh.uvs[np.unique(mesh.faces)]
    low, high = uvs.min(axis=0), uvs.max(axis=0)
    tile = np.floor(low + OVER)
    if (high - tile > 1 + OVER).any():
        return replace(mesh, uvs=mesh.uvs - tile), True
    return replace(mesh, uvs=np.clip(mesh.uvs - tile, 0.0, 1.0)), False


def _sheet_of(pieces: Sequence[_Piece]) -> tuple[float, float] | None:
    """How long the coordinates of a mesh's picture are on it from 0 to 1: of most of its area."""
    across, up, weights = [], [], []
    for facets in (piece.facets for piece in pieces):
        if facets.uvs is None:
            return None
        corners, flat = facets.positions[facets.faces], facets.uvs[facets.faces]
        edges, steps = corners[:, 1:] - corners[:, :1], flat[:, 1:] - flat[:, :1]
        det = steps[:, 0, 0] * steps[:, 1, 1] - steps[:, 0, 1] * steps[:, 1, 0]
        sound = np.abs(det) > 1e-14
        ways = np.linalg.inv(steps[sound]) @ edges[sound]
        across.append(np.linalg.norm(ways[:, 0], axis=1))
        up.append(np.linalg.norm(ways[:, 1], axis=1))
        weights.append(np.linalg.norm(face_normals(facets.positions, facets.faces), axis=1)[sound])
    weight = np.concatenate(weights)
    if not len(weight):
        return None
    middles = []
    for lengths in (np.concatenate(across), np.concatenate(up)):
        order = np.argsort(lengths)
        total = np.cumsum(weight[order])
        middles.append(float(lengths[order][int(np.searchsorted(total, total[-1] / 2))]))
    return middles[0], middles[1]


def _pieces(mesh: FoundMesh, size: float, counts: Mended) -> list[_Piece]:
    """The pieces a mesh hangs together in, each facing outwards."""
    places, index = joined_points(mesh.positions, size * JOINS)
    faces = _sound_faces(places, index, mesh.faces, size, counts)
    if not len(faces):
        return []
    edges = edges_of(index[faces])
    turned, sided = to_turn(edges)
    counts.turned += int(turned.sum())
    counts.one_sided += not sided
    if turned.any():
        faces = np.where(turned[:, None], faces[:, ::-1], faces)
    count, labels = pieces_of(edges)
    if count > MOST_PIECES:
        counts.kept_whole += 1
        count, labels = 1, np.zeros(len(faces), dtype=np.int64)
    order, starts, _ = grouped(labels)
    groups = np.split(order, starts[1:])
    pieces = [_cut_out(mesh, index, faces[np.sort(group)]) for group in groups]
    rims = labels[edges.rim_corners // 3]
    holes = [len(rings_of(edges.rims[rims == k])) if (rims == k).any() else 0 for k in range(count)]
    return _outwards(pieces, holes, counts)


def _sound_faces(places: Array, index: Indices, faces: Indices, size: float, counts: Mended) -> Indices:
    """The faces that have an area, each once."""
    joined = index[faces]
    area = np.linalg.norm(face_normals(places, joined), axis=1)
    sound = area > FLAT * size * size
    counts.lines += int((~sound).sum())
    faces, joined = faces[sound], joined[sound]
    if not len(faces):
        return faces
    corners = np.sort(joined, axis=1)
    keys = np.sort(mixed_keys(corners))
    if not (keys[1:] == keys[:-1]).any():
        return faces
    first, _ = distinct_rows(corners)
    counts.doubles += len(faces) - len(first)
    return faces[np.sort(first)]


def _cut_out(mesh: FoundMesh, index: Indices, faces: Indices) -> Facets:
    """Some of a mesh's faces with the vertices they use."""
    used, own = _renumbered(faces, len(mesh.positions))
    _, points = _renumbered(index[used], int(index.max()) + 1)
    return Facets(
        mesh.positions[used],
        own,
        points,
        None if mesh.normals is None else unit(mesh.normals[used]),
        None if mesh.uvs is None else mesh.uvs[used],
    )


def _renumbered(numbers: Indices, count: int) -> tuple[Indices, Indices]:
    """Which of `count` numbers are used, and each of the given ones by its place among those."""
    if 10 * numbers.size < count:
        used, own = np.unique(numbers, return_inverse=True)
        return used, own.reshape(numbers.shape)
    there = np.zeros(count, dtype=bool)
    there[numbers] = True
    return np.flatnonzero(there), (np.cumsum(there) - 1)[numbers]


def _outwards(pieces: list[Facets], holes: Sequence[int], counts: Mended) -> list[_Piece]:
    """Pieces of one mesh facing outwards; those that lie in an odd number of others bound a hollow and
    face into it."""
    found = []
    for i, piece in enumerate(pieces):
        depth = 0
        if len(pieces) <= MOST_PIECES and not holes[i]:
            depth = sum(
                not holes[k]
                and k != i
                and _within(piece, other)
                and holds(other.positions, other.faces, _place(piece))
                for k, other in enumerate(pieces)
            )
        volume = volume_of(piece.positions, piece.faces)
        wanted = -1 if depth % 2 else 1
        if volume * wanted < 0:
            counts.inside_out += 1
            normals = None if piece.normals is None else _facing(piece)
            turned = replace(piece, faces=np.ascontiguousarray(piece.faces[:, ::-1]), normals=normals)
            found.append(_Piece(turned, holes[i], -volume))
        else:
            found.append(_Piece(piece, holes[i], volume))
    return found


def _facing(piece: Facets) -> Array:
    """A piece's normals for when its faces are turned round: turned too, unless they were right before."""
    assert piece.normals is not None
    own = face_normals(piece.positions, piece.faces)
    agree = np.einsum("ij,ij->i", own, piece.normals[piece.faces[:, 0]]) > 0
    return -piece.normals if agree.mean() > 0.5 else piece.normals


def _within(piece: Facets, other: Facets) -> bool:
    low, high = other.positions.min(axis=0), other.positions.max(axis=0)
    return bool((piece.positions.min(axis=0) > low).all() and (piece.positions.max(axis=0) < high).all())


def _place(piece: Facets) -> Array:
    """A place on it: the middle of its first face, which no edge of another one runs through."""
    return np.asarray(piece.positions[piece.faces[0]].mean(axis=0))


def _facts(piece: _Piece, mesh: int) -> BodyFacts:
    low, high = piece.facets.positions.min(axis=0), piece.facets.positions.max(axis=0)
    return BodyFacts(
        mesh,
        len(piece.facets.faces),
        tuple(map(float, low)),  # type: ignore[arg-type]
        tuple(map(float, high)),  # type: ignore[arg-type]
        piece.volume,
        piece.holes,
    )


def _with_copies(bodies: Sequence[BodyFacts], whole: Sequence[Facets], size: float) -> list[BodyFacts]:
    """Bodies that lie exactly on an earlier one are its copies."""
    alike: dict[tuple[int, ...], list[int]] = {}
    for i, body in enumerate(bodies):
        box = np.round(np.array([body.low, body.high]).reshape(-1) / (10 * size * SAME)).astype(int)
        alike.setdefault((body.triangles, *box.tolist()), []).append(i)
    found = list(bodies)
    for those in (group for group in alike.values() if len(group) > 1):
        seen: dict[bytes, int] = {}
        for i in those:
            cells = np.round(whole[i].positions / (size * SAME)).astype(np.int64)
            first = seen.setdefault(np.unique(cells, axis=0).tobytes(), i)
            if first != i:
                found[i] = replace(found[i], copy_of=first)
    return found


def _reduced(whole: Sequence[Facets]) -> tuple[Facets, ...]:
    """Bodies with so few triangles that a page draws them smoothly."""
    total = sum(len(facets.faces) for facets in whole)
    if total <= MOST_DRAWN:
        return tuple(whole)
    share = MOST_DRAWN / total
    return tuple(_fewer(facets, max(int(len(facets.faces) * share), LEAST_DRAWN)) for facets in whole)


def _fewer(facets: Facets, count: int) -> Facets:
    """A body in about so many triangles, by quadric error (Garland and Heckbert, 1997)."""
    if len(facets.faces) <= count:
        return facets
    painted = facets.uvs is not None
    first = np.empty(int(facets.points.max()) + 1, dtype=np.int64)
    first[facets.points] = np.arange(len(facets.points))
    points, faces = facets.positions, facets.faces
    if not painted:
        points, faces = facets.positions[first], facets.points[facets.faces]
    if not painted and len(faces) > MOST_REDUCED:
        points, faces = _gathered(points, faces)
    low, scale = points.min(axis=0), float(np.ptp(points, axis=0).max())
    reduced, triangles, collapses = fast_simplification.simplify(
        ((points - low) / scale).astype(np.float32),
        faces.astype(np.int32),
        target_count=count,
        agg=AGGRESSION,
        return_collapses=True,
    )
    places = reduced.astype(float) * scale + low
    triangles = np.asarray(triangles, dtype=np.int64)
    uvs = _carried(facets, places, points, faces, collapses) if painted else None
    _, joined = joined_points(places, scale * JOINS)
    return Facets(places, triangles, joined, None, uvs)


def _gathered(points: Array, faces: Indices) -> tuple[Array, Indices]:
    """A surface with the points of each small cell as one, in their middle (Rossignac and Borrel, 1993):
    much quicker than by quadrics, and as good while cells are small."""
    area = SAMPLED * np.linalg.norm(face_normals(points, faces[::SAMPLED]), axis=1).sum() / 2
    cell = float(np.sqrt(2 * area / MOST_REDUCED))
    first, index = distinct_rows(np.round(points / cell).astype(np.int64))
    count = np.bincount(index, minlength=len(first))
    middles = [np.bincount(index, points[:, k], minlength=len(first)) / count for k in range(3)]
    gathered = index[faces]
    return np.stack(middles, axis=1), gathered[without_doubles(gathered)]


def _carried(facets: Facets, places: Array, points: Array, faces: Indices, collapses: Indices) -> Array:
    """Coordinates of the picture for the vertices that are left: those of what fell together in each."""
    assert facets.uvs is not None
    *_, left = fast_simplification.replay_simplification(
        points.astype(np.float32), faces.astype(np.int32), collapses
    )
    nearest = np.full(len(places), -1)
    there = (left >= 0) & (left < len(places))
    distance = np.linalg.norm(points[there] - places[left[there]], axis=1)
    order = np.argsort(-distance)
    nearest[left[there][order]] = np.flatnonzero(there)[order]
    return np.asarray(facets.uvs[np.maximum(nearest, 0)])
