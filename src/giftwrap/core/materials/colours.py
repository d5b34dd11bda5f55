"""Colours by number: hex, CIE L*a*b* as print counts it (D50, 2°), and how far two are apart."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from coloraide import Color
from PIL import Image

Lab = tuple[float, float, float]

LEAST_SHARE = 0.004
"""Of a picture that a colour takes up, to be one of its colours."""
ALIKE = 3.0
"""Colours closer than this (ΔE₀₀) are taken for one."""


@dataclass(frozen=True)
class Found:
    """A colour of the screen, `#rrggbb`, and how far it is (ΔE₀₀) from what was asked for."""

    code: str
    off: float


def hex_of(lab: Lab) -> Found:
    """The colour of the screen nearest to L*, a*, b*: what lies outside keeps its lightness and hue."""
    asked = Color("lab", [float(np.clip(lab[0], 0, 100)), lab[1], lab[2]])
    shown = Color(asked.convert("srgb").fit("srgb", method="oklch-chroma").to_string(hex=True))
    return Found(shown.to_string(hex=True), float(asked.delta_e(shown, method="2000")))


def apart(first: str, second: str) -> float:
    """ΔE₀₀ between two `#rrggbb` (CIE 142, ISO/CIE 11664-6)."""
    return float(Color(first).delta_e(Color(second), method="2000"))


def colours_in(picture: Image.Image, most: int = 12) -> list[str]:
    """The flat colours of a picture, the most frequent first; what is transparent does not count."""
    values = np.asarray(picture.convert("RGBA")).reshape(-1, 4)
    solid = values[values[:, 3] == 255][:, :3].astype(np.uint32)
    if not len(solid):
        return []
    codes, counts = np.unique((solid[:, 0] << 16) | (solid[:, 1] << 8) | solid[:, 2], return_counts=True)
    found: list[str] = []
    for number in np.argsort(-counts):
        if counts[number] < LEAST_SHARE * len(solid) or len(found) == most:
            break
        code = f"#{codes[number]:06x}"
        if all(apart(code, other) > ALIKE for other in found):
            found.append(code)
    return found
