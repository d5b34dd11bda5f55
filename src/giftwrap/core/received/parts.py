"""A received model as it is decided: its parts in mm, upright on the table, shaded, mended by hand."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from manifold3d import triangulate

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.mesh.shading import shaded
from giftwrap.core.mesh.topology import edges_of, rings_of
from giftwrap.core.mesh.transform import shift, turn
from giftwrap.core.model.received import Received, ReceivedPart, Up
from giftwrap.core.received.kept import BodyFacts, Facets, KeptModel

SMALLEST, LARGEST = 0.5, 3000.0
"""Mm along the longest side of a model on the table."""
REDUCED_SMOOTH = 40.0
"""Degrees up to which the reduced mesh is shaded as one where the file's own normals are wanted."""
_ROWS: dict[Up, Array] = {
    "+x": np.array([[0, 0, -1], [0, 1, 0], [1, 0, 0]], dtype=float),
    "-x": np.array([[0, 0, 1], [0, 1, 0], [-1, 0, 0]], dtype=float),
    "+y": np.array([[1, 0, 0], [0, 0, -1], [0, 1, 0]], dtype=float),
    "-y": np.array([[1, 0, 0], [0, 0, 1], [0, -1, 0]], dtype=float),
    "+z": np.eye(3),
    "-z": np.array([[1, 0, 0], [0, -1, 0], [0, 0, -1]], dtype=float),
}
"""For each way up, the file's axes as rows of right, back and up."""


def placement_of(received: Received, bodies: Sequence[BodyFacts]) -> Array:
    """(4, 4): from the file's axes and units to mm on the table, its middle over the origin.

    Raises PackError when it would be absurdly large or small, or names bodies that the model has not.
    """
    used = [i for part in received.parts if part.role != "left out" for i in part.bodies]
    for i, part in enumerate(received.parts):
        if max(part.bodies) >= len(bodies):
            raise PackError(
                f"“{part.name}” names piece {max(part.bodies)}, but the model has {len(bodies)}: send it "
                "again.",
                f"parts.{i}.bodies",
            )
    if not used:
        raise PackError("All of the model is left out: keep one of its parts.", "parts.0.role")
    rows = _ROWS[received.up] * received.unit_mm
    boxes = np.array([[bodies[i].low, bodies[i].high] for i in used]).reshape(-1, 3) @ rows.T
    low, high = boxes.min(axis=0), boxes.max(axis=0)
    size = float((high - low).max())
    if not SMALLEST <= size <= LARGEST:
        raise PackError(
            f"In this unit the model would be {size:.4g} mm along its longest side: choose another unit.",
            "unit_mm",
        )
    scaled = np.eye(4)
    scaled[:3, :3] = rows
    middle = (low + high) / 2
    return np.asarray(turn(received.turn) @ shift(-middle[0], -middle[1], -low[2]) @ scaled)


def part_mesh(
    part: ReceivedPart, received: Received, model: KeptModel, place: Array, *, coarse: bool
) -> Mesh:
    """A part's surface in mm on the table.

    place : from `placement_of`
    """
    facets = joined_facets([(model.few if coarse else model.whole)[i] for i in part.bodies])
    positions = facets.positions @ place[:3, :3].T + place[:3, 3]
    faces, points, uvs, normals = facets.faces, facets.points, facets.uvs, facets.normals
    if part.closed:
        positions, faces, points, uvs, normals = _closed(positions, faces, points, uvs)
    if part.turned:
        faces = np.ascontiguousarray(faces[:, ::-1])
    if received.smooth is None and normals is not None:
        directed = normals @ place[:3, :3].T / received.unit_mm
        return Mesh(positions, -directed if part.turned else directed, _or_nought(uvs, len(positions)), faces)
    return shaded(
        positions, faces, points, uvs, REDUCED_SMOOTH if received.smooth is None else received.smooth
    )


def joined_facets(several: Sequence[Facets]) -> Facets:
    """Bodies as one."""
    if len(several) == 1:
        return several[0]
    starts = np.cumsum([0, *(len(one.positions) for one in several)])
    counts = np.cumsum([0, *(int(one.points.max()) + 1 for one in several)])
    normals = [one.normals for one in several]
    uvs = [_or_nought(one.uvs, len(one.positions)) for one in several]
    return Facets(
        np.vstack([one.positions for one in several]),
        np.vstack([one.faces + start for one, start in zip(several, starts, strict=False)]),
        np.concatenate([one.points + count for one, count in zip(several, counts, strict=False)]),
        None if any(n is None for n in normals) else np.vstack(normals),  # type: ignore[arg-type]
        np.vstack(uvs) if any(one.uvs is not None for one in several) else None,
    )


def _or_nought(uvs: Array | None, count: int) -> Array:
    return np.zeros((count, 2)) if uvs is None else uvs


def _closed(
    positions: Array, faces: Indices, points: Indices, uvs: Array | None
) -> tuple[Array, Indices, Indices, Array | None, None]:
    """A mesh with a lid of triangles in every ring it is open along; normals are to be made anew."""
    edges = edges_of(points[faces])
    first = np.zeros(int(points.max()) + 1, dtype=np.int64)
    first[points] = np.arange(len(points))
    lids = [_lid(positions[first[ring]], ring) for ring in rings_of(edges.rims)]
    lids = [lid for lid in lids if len(lid)]
    if lids:
        faces = np.vstack([faces, *(first[lid] for lid in lids)])
    return positions, faces, points, uvs, None


def _lid(corners: Array, ring: Indices) -> Indices:
    """(f, 3) int: triangles in a ring of points, facing as what it closes, cut in the plane it lies near."""
    if len(ring) < 3:
        return np.zeros((0, 3), dtype=np.int64)
    corners, ring = corners[::-1], ring[::-1]
    after = np.roll(corners, -1, axis=0)
    normal = np.cross(corners - corners.mean(axis=0), after - corners.mean(axis=0)).sum(axis=0)
    normal /= max(float(np.linalg.norm(normal)), 1e-30)
    across = np.cross(normal, [1.0, 0, 0] if abs(normal[0]) < 0.8 else [0, 1.0, 0])
    across /= np.linalg.norm(across)
    flat = np.stack([corners @ across, corners @ np.cross(normal, across)], axis=1)
    return np.asarray(ring[np.asarray(triangulate([flat]), dtype=np.int64)])
