"""The one place where what something is made of becomes how light treats it."""

from __future__ import annotations

from typing import Any

import numpy as np

from giftwrap.core.grade.display import linear_colour
from giftwrap.core.model import Clear, Opaque
from giftwrap.core.render.interfaces import Boundary, Coat

SMOOTHEST, ROUGHEST = 0.03, 0.55
"""Microfacet width (Beckmann α) of the glossiest and the least glossy coat."""
MATT = 0.02
"""Below this gloss a surface is plain Lambertian."""
INK_INDEX = 1.49


def transmittance(medium: Clear, length: float) -> np.ndarray:
    """Beer–Lambert: what is left of white light after a length in mm, linear Rec.709, (3,)."""
    colour = np.maximum(np.array(linear_colour(medium.colour)), 1e-4)
    fraction: np.ndarray = colour ** (length / medium.depth)
    return fraction


def boundary_optics(look: Boundary) -> dict[str, Any]:
    """A smooth dielectric, coloured per crossing by the media around it."""
    tint = np.ones(3)
    for medium, length in look.coloured_by:
        tint = tint * transmittance(medium, length)
    return {
        "type": "dielectric",
        "int_ior": look.inside.refractive_index,
        "ext_ior": look.outside.refractive_index,
        "specular_transmittance": {"type": "rgb", "value": tint.tolist()},
    }


def coat_optics(look: Coat) -> dict[str, Any]:
    """A Lambertian or glossy coat, plain or carrying a print."""
    if look.print is None:
        colour: dict[str, Any] = {"type": "rgb", "value": list(linear_colour(look.material.colour))}
    else:
        colour = {"type": "bitmap", "data": look.print, "raw": False, "wrap_mode": "clamp"}
    return _gloss(look.material, colour)


def _gloss(material: Opaque, colour: dict[str, Any]) -> dict[str, Any]:
    if material.gloss < MATT:
        return {"type": "twosided", "bsdf": {"type": "diffuse", "reflectance": colour}}
    alpha = ROUGHEST * (SMOOTHEST / ROUGHEST) ** material.gloss
    return {
        "type": "roughplastic",
        "int_ior": INK_INDEX,
        "alpha": float(alpha),
        "nonlinear": True,
        "diffuse_reflectance": colour,
    }
