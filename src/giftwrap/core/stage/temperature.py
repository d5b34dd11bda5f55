"""The colour of a light by its temperature and of the gel before it."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from coloraide import Color

from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.mesh.path import Array

HOT_BODY_UNTIL, DAYLIGHT_FROM = 4000.0, 5000.0
"""Between these, K, lights go over from the colours of hot bodies to those of daylight."""
LEAST = 1e-4


@lru_cache(maxsize=256)
def light_colour(temperature_k: float | None, gel: str | None) -> tuple[float, float, float]:
    """Linear Rec.709 of luminance 1, of a temperature in K and seen through a gel; what the screen cannot
    show of it is left out.

    Hot bodies by Planck's law and the observer of CIE 1931 (Ohno 2014), daylight by CIE 15. Neutral is
    daylight of 6504 K, the white of sRGB.
    """
    colour = np.ones(3) if temperature_k is None else _of_temperature(temperature_k)
    if gel is not None:
        colour = colour * np.array(Color(gel).convert("srgb-linear").coords())
    colour = np.maximum(colour, 0)
    bright = float(colour @ LUMINANCE)
    colour = colour / bright if bright > LEAST else np.ones(3)
    return (float(colour[0]), float(colour[1]), float(colour[2]))


def _of_temperature(kelvin: float) -> Array:
    share = float(np.clip((kelvin - HOT_BODY_UNTIL) / (DAYLIGHT_FROM - HOT_BODY_UNTIL), 0, 1))
    found = np.zeros(3)
    if share < 1:
        hot = Color.blackbody("srgb-linear", kelvin, scale=False, method="ohno-2013")
        found += (1 - share) * np.array(hot.coords())
    if share > 0:
        found += share * _linear(*daylight(kelvin))
    return found


def daylight(kelvin: float) -> tuple[float, float]:
    """Chromaticity x, y of daylight from 4000 to 25,000 K (CIE 15:2004, equations 3.3 and 3.4)."""
    by = 1000 / kelvin
    if kelvin <= 7000:
        x = 0.244063 + 0.09911 * by + 2.9678 * by**2 - 4.607 * by**3
    else:
        x = 0.23704 + 0.24748 * by + 1.9018 * by**2 - 2.0064 * by**3
    return x, -3 * x * x + 2.87 * x - 0.275


def _linear(x: float, y: float) -> Array:
    """Linear Rec.709 of luminance 1 of a chromaticity."""
    return np.array(Color("xyz-d65", [x / y, 1.0, (1 - x - y) / y]).convert("srgb-linear").coords())
