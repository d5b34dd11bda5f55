"""What a part is made of when somebody first chooses a kind, and how metals look seen straight on."""

from __future__ import annotations

import numpy as np

from giftwrap.core.grade.display import encode_srgb, linear_colour
from giftwrap.core.materials.optics import METALS
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
    """The sRGB colour that something is drawn in: of metals, what they reflect straight on.

    Fresnel's reflectance at normal incidence, ((n − 1)² + k²) / ((n + 1)² + k²) (Born and Wolf, 14.2).
    """
    if not isinstance(material, Metal):
        return material.colour
    n, k = (np.array(values) for values in METALS[material.metal])
    reflectance = ((n - 1) ** 2 + k**2) / ((n + 1) ** 2 + k**2) * np.array(linear_colour(material.tint))
    codes = np.round(255 * encode_srgb(reflectance.astype(np.float32))).astype(int)
    return "#" + "".join(f"{code:02x}" for code in codes)
