"""A clear or hazy sky: where the sun is, how bright it is, and what every direction of the sky shines."""

from __future__ import annotations

import math
from datetime import UTC, date, datetime, time, timedelta
from functools import lru_cache

import numpy as np
from astral import Observer, sun
from numpy.typing import NDArray

from giftwrap.core.around import aside, down, falls_beneath
from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.mesh.path import Array

Floats = NDArray[np.float32]

SUN_KLX = 133.3
"""On what faces the sun above the air: 128 to 134 in the course of a year (common practice)."""
SUN_DEGREES = 0.533
WAVELENGTHS = np.array([0.61, 0.55, 0.465])
"""µm that stand for red, green and blue."""
ROWS = 128
"""Of a picture of the sky."""
_TO_RGB = np.array(
    [
        [3.2404542, -1.5371385, -0.4985314],
        [-0.9692660, 1.8760108, 0.0415560],
        [0.0556434, -0.2040259, 1.0572252],
    ]
)
"""XYZ to linear Rec.709 (IEC 61966-2-1, by its primaries and D65)."""
_PEREZ = {  # A to E, each by haze and as it is (Preetham, Shirley and Smits 1999, appendix A.2)
    "luminance": (
        (0.1787, -1.4630),
        (-0.3554, 0.4275),
        (-0.0227, 5.3251),
        (0.1206, -2.5771),
        (-0.0670, 0.3703),
    ),
    "x": ((-0.0193, -0.2592), (-0.0665, 0.0008), (-0.0004, 0.2125), (-0.0641, -0.8989), (-0.0033, 0.0452)),
    "y": ((-0.0167, -0.2608), (-0.0950, 0.0092), (-0.0079, 0.2102), (-0.0441, -1.6537), (-0.0109, 0.0529)),
}
_ZENITH = {  # by haze² , haze and 1; each by the third to zeroth power of the sun's zenith angle
    "x": (
        (0.00166, -0.00375, 0.00209, 0),
        (-0.02903, 0.06377, -0.03202, 0.00394),
        (0.11693, -0.21196, 0.06052, 0.25886),
    ),
    "y": (
        (0.00275, -0.00610, 0.00317, 0),
        (-0.04214, 0.08970, -0.04153, 0.00516),
        (0.15346, -0.26756, 0.06670, 0.26688),
    ),
}


def sun_at(latitude: float, longitude: float, day: date, hour: float, zone: float) -> tuple[float, float]:
    """Azimuth from north to the east and elevation of the sun in degrees, without the air's refraction.

    hour, zone : on a clock that is so many hours ahead of universal time
    """
    at = datetime.combine(day, time(), UTC) + timedelta(hours=hour - zone)
    observer = Observer(latitude, longitude)
    return (
        float(sun.azimuth(observer, at)),
        90.0 - float(sun.zenith(observer, at, with_refraction=False)),
    )


def sun_colour(elevation: float, haze: float) -> Array:
    """Illuminance in klx of what faces the sun through the air, as linear Rec.709; nothing once it is down.

    By what the air scatters and haze takes (Preetham, Shirley and Smits 1999, appendix A.1).
    """
    if elevation <= 0:
        return np.zeros(3)
    zenith = 90 - elevation
    mass = 1 / (math.sin(math.radians(elevation)) + 0.15 * (93.885 - zenith) ** -1.253)
    beta = 0.04608365822050 * haze - 0.04586025928522
    by_air = np.exp(-0.008735 * mass * WAVELENGTHS**-4.08)
    by_haze = np.exp(-beta * mass * WAVELENGTHS**-1.3)
    through: Array = SUN_KLX * by_air * by_haze
    return through


@lru_cache(maxsize=8)
def sky_picture(elevation: float, haze: float, ground: tuple[float, float, float]) -> tuple[Floats, float]:
    """(ROWS, 2 ROWS, 3) luminance in kcd/m² as linear Rec.709 of all directions around, the sun in the
    middle; and the illuminance in klx of a sheet that lies beneath the sky without its sun.

    elevation : of the sun, degrees; a sun that is down is taken to stand on the horizon
    ground : what of the light that falls on it is given back, linear Rec.709

    By Preetham, Shirley and Smits 1999, whose luminances are Perez's.
    """
    high = math.radians(max(elevation, 0.5))
    sun_zenith = math.pi / 2 - high
    above = np.minimum(down(ROWS), math.radians(89.5))[:, None]
    cosine = (
        np.cos(above) * math.cos(sun_zenith)
        + np.sin(above) * math.sin(sun_zenith) * np.cos(aside(ROWS))[None]
    )
    gamma = np.arccos(np.clip(cosine, -1, 1))
    chi = (4 / 9 - haze / 120) * (math.pi - 2 * sun_zenith)
    bright = max((4.0453 * haze - 4.9710) * math.tan(chi) - 0.2155 * haze + 2.4192, 0.05)
    luminance = bright * _spread("luminance", haze, above, gamma, sun_zenith)
    x, y = (
        _of_zenith(name, haze, sun_zenith) * _spread(name, haze, above, gamma, sun_zenith)
        for name in ("x", "y")
    )
    xyz = np.stack([luminance * x / y, luminance, luminance * (1 - x - y) / y], axis=-1)
    sky = np.maximum(xyz @ _TO_RGB.T, 0)
    is_sky = (down(ROWS) < math.pi / 2)[:, None, None]
    falls = falls_beneath(sky)
    sunny = sun_colour(elevation, haze) * math.sin(max(math.radians(elevation), 0))
    picture = np.where(is_sky, sky, np.array(ground) * (falls + sunny) / math.pi).astype(np.float32)
    picture.setflags(write=False)
    return picture, float(falls @ LUMINANCE)


def _spread(name: str, haze: float, zenith: Array, gamma: Array, sun_zenith: float) -> Array:
    """Perez's function of all directions over that of the zenith."""
    a, b, c, d, e = (by * haze + plain for by, plain in _PEREZ[name])

    def at(cosine: Array, angle: Array) -> Array:
        value: Array = (1 + a * np.exp(b / cosine)) * (1 + c * np.exp(d * angle) + e * np.cos(angle) ** 2)
        return value

    return at(np.cos(zenith), gamma) / at(np.array(1.0), np.array(sun_zenith))


def _of_zenith(name: str, haze: float, sun_zenith: float) -> float:
    powers = np.array([sun_zenith**3, sun_zenith**2, sun_zenith, 1])
    by_haze = np.array([haze**2, haze, 1])
    return float(by_haze @ np.array(_ZENITH[name]) @ powers)
