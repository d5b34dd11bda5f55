"""How much of a panel a camera sees, and how large, as far as nothing stands before it."""

from __future__ import annotations

import numpy as np

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import points_moved
from giftwrap.core.mesh.triangles import normals_of
from giftwrap.core.model import Camera, Printed
from giftwrap.core.stage.camera import project, view_of
from giftwrap.core.wrap.finding import Seen
from giftwrap.core.wrap.laid import stretched

SQUARELY = np.cos(np.radians(45.0))
"""What is turned away by more is foreshortened to less than 0.7 of its width."""


def seen_from(face: Mesh, pose: Array, printed: Printed, camera: Camera, size: tuple[int, int]) -> Seen:
    """What a camera sees of a printed face.

    pose : (4, 4) float, of the pack on the set; size : of the picture, px
    """
    places = points_moved(face.positions, pose)
    eye = np.array(view_of(camera, size[0] / size[1]).position)
    corners = places[face.faces]
    normal = normals_of(corners)
    outwards = (face.normals @ pose[:3, :3].T)[face.faces[:, 0]]
    normal *= np.where((normal * outwards).sum(axis=1) < 0, -1.0, 1.0)[:, None]
    middle = corners.mean(axis=1)
    way = eye - middle
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    facing = (normal * way).sum(axis=1)
    flat = project(camera, size[0] / size[1], places)
    inside = ((flat[face.faces] > 0) & (flat[face.faces] < 1)).all(axis=(1, 2))
    _, area = stretched(face, printed)
    across = face.uvs[face.faces][:, :, 0]
    px = flat * size
    edges = px[face.faces]
    shown = facing > 0.05
    largest = 0.0
    if (shown & inside).any():
        best = np.flatnonzero(shown & inside)
        near = best[np.argsort(-facing[best])[: max(len(best) // 10, 1)]]
        lengths = np.linalg.norm(edges[near] - np.roll(edges[near], 1, axis=1), axis=2)
        page = face.uvs[face.faces[near]] * [printed.width, printed.height]
        own = np.linalg.norm(page - np.roll(page, 1, axis=1), axis=2)
        largest = float(np.quantile(lengths[own > 1e-6] / own[own > 1e-6], 0.9))
    return Seen(
        width=_covered(across[shown & inside]) * printed.width,
        squarely=_covered(across[(facing > SQUARELY) & inside]) * printed.width,
        share=float(area[shown & inside].sum() / max(float(area.sum()), 1e-12)),
        px_per_mm=largest,
    )


def _covered(spans: Array) -> float:
    """How much of 0 to 1 is covered by spans, (n, k) float each."""
    if not len(spans):
        return 0.0
    low, high = spans.min(axis=1), spans.max(axis=1)
    order = np.argsort(low)
    reach, total = 0.0, 0.0
    for start, end in zip(low[order], high[order], strict=True):
        total += max(end - max(start, reach), 0.0)
        reach = max(reach, end)
    return float(total)
