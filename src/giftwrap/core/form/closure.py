"""A plain cap sized from the rim it shuts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.form.path import Path, rounded_path
from giftwrap.core.form.vessel import Vessel
from giftwrap.core.model import Closure

SEAT = 0.1
"""Gap in mm between the rim and the inside of the cap, so that they never coincide."""


@dataclass(frozen=True)
class Cap:
    """The cap's surface as one loop from its top centre to its inside centre, and its size in mm."""

    surface: Path
    radius: float
    top: float


def build_cap(closure: Closure, vessel: Vessel) -> Cap:
    """Size a cap to a vessel's rim.

    Raises PackError when the skirt would run into the shoulder or the cap is only a lid plate.
    """
    rim_radius, rim = (float(v) for v in vessel.outer.points[-1])
    inside = rim_radius + closure.clearance
    radius = inside + closure.wall_thickness
    top = rim + SEAT + closure.wall_thickness
    skirt = top - closure.height
    if closure.height <= closure.wall_thickness + SEAT:
        raise PackError(
            f"A closure {closure.height:g} mm high with walls of {closure.wall_thickness:g} mm has no "
            "skirt: make it higher or its wall thinner.",
            "closure.height",
        )
    points = vessel.outer.points
    wider = points[points[:, 0] > inside - 0.05]
    obstacle = float(wider[:, 1].max()) if len(wider) else 0.0
    if skirt < obstacle:
        raise PackError(
            f"The closure's skirt runs into the shoulder: make the closure at most "
            f"{top - obstacle:.1f} mm high, or the neck longer.",
            "closure.height",
        )
    rounding = min(closure.rounding, 0.9 * radius, 0.45 * closure.height)
    lip = min(0.3 * closure.wall_thickness, 0.4)
    corners = np.array(
        [
            [0.0, rim + SEAT, 0.0],
            [inside, rim + SEAT, 0.0],
            [inside, skirt, lip],
            [radius, skirt, lip],
            [radius, top, rounding],
            [0.0, top, 0.0],
        ]
    )
    return Cap(surface=rounded_path(corners), radius=radius, top=top)
