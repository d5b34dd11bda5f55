"""The seamless backdrop."""

from __future__ import annotations

import numpy as np

from giftwrap.core.mesh.fillet import rounded_path
from giftwrap.core.mesh.mesh import Mesh, extrude, quad
from giftwrap.core.mesh.path import Path
from giftwrap.core.model import Sweep

FLOOR_GAP = 0.05
"""The pack rests this many mm above the paper, so that base and floor never coincide."""


def sweep_mesh(sweep: Sweep) -> Mesh:
    """Floor, curve and wall as one sheet, facing the camera and the sky."""
    return extrude(sweep_path(sweep), half_width=sweep.width / 2)


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
