"""Where lights hang and how bright they are."""

from __future__ import annotations

import math

from giftwrap.core.model import Softbox


def softbox_position(light: Softbox, aim: tuple[float, float, float]) -> tuple[float, float, float]:
    """Middle of a softbox in mm, at its distance from the point it is aimed at."""
    azimuth, elevation = math.radians(light.azimuth), math.radians(light.elevation)
    out = light.distance * math.cos(elevation)
    return (
        aim[0] + out * math.sin(azimuth),
        aim[1] - out * math.cos(azimuth),
        aim[2] + light.distance * math.sin(elevation),
    )


def softbox_radiance(light: Softbox) -> float:
    """Radiance of an even, one-sided Lambertian panel: L = Φ / (π A), in W/(m² sr)."""
    area = light.width * light.height / 1e6
    return light.power_w / (math.pi * area) if light.on else 0.0
