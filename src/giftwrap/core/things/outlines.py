"""Outlines of a thing's parts as one sees them from one side."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import MultiPolygon, Polygon

from giftwrap.core.mesh.path import Array
from giftwrap.core.things.thing import Piece

CELLS = 320
"""Along the longer side of a drawing: outlines are as exact as this."""
Ring = Array


def outlines_of(pieces: Sequence[Piece], turned: float = 0.0) -> list[tuple[str, list[Ring]]]:
    """Every part's outline, the furthest part first.

    turned : degrees by which one has gone to the right around the thing
    returns : rings, (n, 2) float, mm to the right and up
    """
    angle = np.radians(turned)
    right, away = (
        np.array([np.cos(angle), np.sin(angle), 0.0]),
        np.array([-np.sin(angle), np.cos(angle), 0.0]),
    )
    parts: dict[str, list[Piece]] = {}
    for piece in pieces:
        parts.setdefault(piece.part, []).append(piece)
        if piece.before is not None:
            parts.setdefault(piece.before, []).append(piece)
    points = np.vstack([piece.mesh.positions for piece in pieces])
    cell = max(float(np.ptp(points @ right)), float(np.ptp(points[:, 2])), 1e-6) / CELLS
    found = []
    for part, own in parts.items():
        triangles = np.vstack([piece.mesh.positions[piece.mesh.faces] for piece in own])
        far = float((triangles @ away).mean())
        flat = np.stack([triangles @ right, triangles[..., 2]], axis=-1)
        found.append((far, part, _rings(flat, cell)))
    return [(part, rings) for _, part, rings in sorted(found, key=lambda item: -item[0])]


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
