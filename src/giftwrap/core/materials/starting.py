"""What a part is made of when somebody first chooses a kind, and how metals look seen straight on."""

from __future__ import annotations

import numpy as np

from giftwrap.core.grade.display import encode_srgb, linear_colour
from giftwrap.core.materials.optics import metal_shine
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.material import Material


def starting_materials() -> dict[str, Material]:
    """A material of each kind."""
    return {
        "clear": Clear(),
        "cloudy": Cloudy(),
        "opaque": Opaque(colour="#23262b"),
        "metal": Metal(metal="aluminium"),
    }


def drawn_colour(material: Material) -> str:
    """The sRGB colour that something is drawn in: of metals, what they reflect straight on."""
    if not isinstance(material, Metal):
        return material.colour
    reflectance = np.array(metal_shine(material.metal)) * linear_colour(material.tint)
    codes = np.round(255 * encode_srgb(reflectance.astype(np.float32))).astype(int)
    return "#" + "".join(f"{code:02x}" for code in codes)
