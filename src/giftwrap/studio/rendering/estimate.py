"""How long a final will take here, from how long its shot has taken here before."""

from __future__ import annotations

from giftwrap.studio.jobs.models import Shot

DENOISE_S_PER_MEGAPIXEL = 2.0
"""Measured on two cores; see `./giftwrap bench`."""
OVERHEAD_S = 1.5
"""Loading the stage and writing files."""


def estimate_seconds(shot: Shot, width: int, height: int, samples: int) -> float | None:
    """Seconds for a final of a shot; None until its speed has been measured on this machine."""
    if not shot.paths_per_second:
        return None
    pixels = width * height
    return OVERHEAD_S + pixels * samples / shot.paths_per_second + DENOISE_S_PER_MEGAPIXEL * pixels / 1e6
