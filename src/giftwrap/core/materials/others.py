"""Colours and figures of other programs' materials as materials here."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from giftwrap.core.grade.display import encode_srgb, linear_colour
from giftwrap.core.materials.optics import METALS, ROUGHEST, SMOOTHEST
from giftwrap.core.materials.starting import drawn_colour
from giftwrap.core.model.material import Material, Metal, Opaque

LIKE_A_METAL = 0.16
"""Linear light by which a colour may differ from a metal's own and be taken for it."""
SEEN_THROUGH = 0.7
"""What is less opaque than this is clear."""


def hex_of(linear: Sequence[float]) -> str:
    """Linear Rec.709 as `#rrggbb`."""
    codes = np.round(255 * encode_srgb(np.array(linear[:3], dtype=np.float32))).astype(int)
    return "#" + "".join(f"{code:02x}" for code in codes)


def gloss_of(roughness: float) -> float:
    """The gloss (0 to 1) of a surface of which others give the roughness: alpha is its square, by
    Burley (2012), as glTF has it."""
    alpha = float(np.clip(roughness**2, SMOOTHEST, ROUGHEST))
    return float(round(np.log(alpha / ROUGHEST) / np.log(SMOOTHEST / ROUGHEST), 3)) + 0.0  # never −0


def frost_of(roughness: float) -> float:
    """How far a clear thing is ground (0 to 1) of which others give the roughness."""
    return float(round(np.clip((roughness**2 - SMOOTHEST) / (ROUGHEST - SMOOTHEST), 0.0, 1.0), 3))


def look_of(colour: Sequence[float], metal: float, roughness: float) -> Material:
    """Something that light does not pass: its colour in linear Rec.709, how far it is metal (0 to 1)."""
    gloss = gloss_of(min(max(roughness, 0.0), 1.0))
    if metal <= 0.5:
        return Opaque(colour=hex_of(colour), gloss=gloss)
    own = {name: np.array(linear_colour(drawn_colour(Metal(metal=name)))) for name in METALS}
    apart = {name: float(np.abs(light - np.array(colour[:3])).max()) for name, light in own.items()}
    nearest = min(apart, key=lambda name: apart[name])
    if apart[nearest] < LIKE_A_METAL:
        return Metal(metal=nearest, gloss=gloss)
    return Metal(metal="aluminium", tint=hex_of(colour), gloss=gloss)
