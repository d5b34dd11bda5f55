"""How long a final will take here, from how long its shot has taken here before."""

from __future__ import annotations

from giftwrap.core.render.planning import PILOT_SAMPLES, Limits
from giftwrap.studio.jobs.models import Shot

DENOISE_S_PER_MEGAPIXEL = 4.0
"""Measured on two cores; see `./giftwrap bench`."""
OVERHEAD_S = 1.5
"""Loading the scene and writing files."""


def estimate_seconds(shot: Shot, width: int, height: int, limits: Limits) -> float | None:
    """Seconds for a final of a shot; None until its speed has been measured on this machine."""
    if not shot.paths_per_second:
        return None
    samples = float(limits.samples)
    if limits.noise and shot.noise_of_one_sample:
        ratio = shot.noise_of_one_sample / limits.noise
        samples = min(samples, max(ratio * ratio, PILOT_SAMPLES))
    pixels = width * height
    rendering = pixels * samples / shot.paths_per_second
    if limits.seconds is not None:
        rendering = min(rendering, limits.seconds)
    return OVERHEAD_S + rendering + DENOISE_S_PER_MEGAPIXEL * pixels / 1e6
