"""Outlines of a thing's parts as one sees them from one side."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import fast_simplification
import numpy as np
import shapely
from shapely.geometry import MultiPolygon, Polygon

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.topology import joined_points
from giftwrap.core.things.thing import Piece

CELLS = 320
"""Along the longer side of a drawing: outlines are as exact as this."""
MOST_FACES = 4_000
"""Of a piece; of more, as many are made that look alike."""
Ring = Array


def outlines_of(pieces: Sequence[Piece], *turned: float) -> list[list[tuple[str, list[Ring]]]]:
    """Every part's outline from one side or several, the furthest part first.

    turned : degrees by which one has gone to the right around the thing, for each side
    returns : for each side, by part, rings, (n, 2) float, mm to the right and up
    """
    parts: dict[str, list[Array]] = {}
    for piece in pieces:
        few = _few(piece.mesh)
        parts.setdefault(piece.part, []).append(few)
        if piece.before is not None:
            parts.setdefault(piece.before, []).append(few)
    triangles = {part: np.vstack(own) for part, own in parts.items()}
    return [_from_one_side(triangles, angle) for angle in turned]


def _from_one_side(triangles: Mapping[str, Array], turned: float) -> list[tuple[str, list[Ring]]]:
    angle = np.radians(turned)
    right, away = (
        np.array([np.cos(angle), np.sin(angle), 0.0]),
        np.array([-np.sin(angle), np.cos(angle), 0.0]),
    )
    points = np.vstack([corners.reshape(-1, 3) for corners in triangles.values()])
    cell = max(float(np.ptp(points @ right)), float(np.ptp(points[:, 2])), 1e-6) / CELLS
    found = []
    for part, corners in triangles.items():
        flat = np.stack([corners @ right, corners[..., 2]], axis=-1)
        found.append((float((corners @ away).mean()), part, _rings(flat, cell)))
    return [(part, rings) for _, part, rings in sorted(found, key=lambda item: -item[0])]


def _few(mesh: Mesh) -> Array:
    """(f, 3, 3) float: a mesh's triangles, reduced where they are more than an outline needs."""
    if len(mesh.faces) <= MOST_FACES:
        return np.asarray(mesh.positions[mesh.faces])
    points, index = joined_points(mesh.positions, 1e-6)
    low, scale = points.min(axis=0), max(float(np.ptp(points, axis=0).max()), 1e-9)
    reduced, faces = fast_simplification.simplify(
        ((points - low) / scale).astype(np.float32),
        index[mesh.faces].astype(np.int32),
        target_count=MOST_FACES,
    )
    return np.asarray(reduced[faces] * scale + low)


def _rings(flat: Array, cell: float) -> list[Ring]:
    """What some triangles cover together."""
    snapped = np.round(flat / cell) * cell
    one, other = snapped[:, 1] - snapped[:, 0], snapped[:, 2] - snapped[:, 0]
    area = one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]
    snapped = snapped[np.abs(area) > 1e-9]
    if not len(snapped):
        return []
    _, first = np.unique(
        np.sort(np.round(snapped / cell).astype(int) @ [1, 100_003], axis=1), axis=0, return_index=True
    )
    covered = shapely.union_all(shapely.polygons(snapped[first]), grid_size=cell / 64)
    whole = covered.buffer(0.3 * cell).buffer(-0.3 * cell).simplify(0.35 * cell)
    shapes = whole.geoms if isinstance(whole, MultiPolygon) else [whole]
    return [
        np.array(ring.coords)
        for s in shapes
        if isinstance(s, Polygon)
        for ring in (s.exterior, *s.interiors)
        if len(ring.coords) > 3
    ]
