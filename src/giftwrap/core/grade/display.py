"""From light to screen: exposure, then the sRGB transfer function (IEC 61966-2-1)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.model import Grade

Floats = NDArray[np.float32]
LUMINANCE = np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)
"""Of linear Rec.709 (ITU-R BT.709, IEC 61966-2-1)."""


def encode_srgb(linear: Floats) -> Floats:
    """Linear light 0..1 to sRGB code values 0..1; out-of-range light is clipped."""
    clipped = np.clip(linear, 0.0, 1.0)
    low = 12.92 * clipped
    high = 1.055 * np.power(np.maximum(clipped, 1e-8), 1 / 2.4) - 0.055
    return np.where(clipped <= 0.0031308, low, high).astype(np.float32)


def decode_srgb(code: Floats) -> Floats:
    """sRGB code values 0..1 to linear light 0..1."""
    return np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4).astype(np.float32)


def linear_colour(colour: str) -> tuple[float, float, float]:
    """A `#rrggbb` colour as linear Rec.709."""
    code = np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)], dtype=np.float32) / np.float32(255)
    red, green, blue = (float(v) for v in decode_srgb(code))
    return red, green, blue


def grade_picture(light: Floats, grade: Grade) -> Floats:
    """Light (h, w, 3) in linear Rec.709 to sRGB code values 0..1."""
    return encode_srgb(light * np.float32(2.0**grade.exposure_ev))
