"""The seamless backdrop."""

from __future__ import annotations

import numpy as np

from giftwrap.core.mesh.fillet import rounded_path
from giftwrap.core.mesh.mesh import Mesh, extrude, quad
from giftwrap.core.mesh.path import Path
from giftwrap.core.mesh.transform import moved, shift
from giftwrap.core.model import Sweep

FLOOR_GAP = 0.05
"""The pack rests this many mm above the paper, so that base and floor never coincide."""


def sweep_meshes(sweep: Sweep) -> tuple[Mesh, ...]:
    """Floor, curve and wall as one sheet, facing the camera and the sky; as two, its other part last, where
    it has one and that begins on it."""
    path, other, half = sweep_path(sweep), sweep.other, sweep.width / 2
    if other is not None and other.way == "up" and other.at < sweep.height:
        upper, lower = _cut(path, max(other.at, 0.0))
        return extrude(lower, half_width=half), extrude(upper, half_width=half)
    if other is not None and other.way == "across" and abs(other.at) < half:
        left, right = (half + other.at) / 2, (half - other.at) / 2
        return (
            moved(extrude(path, half_width=left), shift(other.at - left, 0, 0)),
            moved(extrude(path, half_width=right), shift(other.at + right, 0, 0)),
        )
    return (extrude(path, half_width=half),)


def _cut(path: Path, height: float) -> tuple[Path, Path]:
    """What of a path that goes down lies above a height, and what below."""
    heights = path.points[:, 1]
    after = int(np.argmax(heights < height))
    share = (heights[after - 1] - height) / max(heights[after - 1] - heights[after], 1e-9)
    point, normal = (
        values[after - 1] + share * (values[after] - values[after - 1])
        for values in (path.points, path.normals)
    )
    normal = normal / np.linalg.norm(normal)
    return (
        Path(np.vstack([path.points[:after], point]), np.vstack([path.normals[:after], normal])),
        Path(np.vstack([point, path.points[after:]]), np.vstack([normal, path.normals[after:]])),
    )


def floor_mesh(sweep: Sweep) -> Mesh:
    """The floor alone, as far as the sweep's reaches, facing the sky."""
    middle = (0.0, (sweep.back - sweep.front) / 2, -FLOOR_GAP)
    return quad(middle, (sweep.width / 2, 0.0, 0.0), (0.0, (sweep.back + sweep.front) / 2, 0.0))


def sweep_path(sweep: Sweep) -> Path:
    """The sheet from the side, (y, z) in mm: down the wall, through the curve and to the front."""
    corners = np.array(
        [
            [sweep.back, sweep.height, 0.0],
            [sweep.back, -FLOOR_GAP, min(sweep.curve_radius, 0.9 * sweep.back, 0.9 * sweep.height)],
            [-sweep.front, -FLOOR_GAP, 0.0],
        ]
    )
    return rounded_path(corners)
