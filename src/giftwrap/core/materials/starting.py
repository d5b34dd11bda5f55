"""What a part is made of when somebody first chooses a kind, and how metals look seen straight on."""

from __future__ import annotations

from typing import Any

import numpy as np

from giftwrap.core.grade.display import encode_srgb, linear_colour
from giftwrap.core.materials.optics import metal_shine
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.material import Material
from giftwrap.core.model.worked import Grain, PatternName


def starting_materials() -> dict[str, Material]:
    """A material of each kind."""
    return {
        "clear": Clear(),
        "cloudy": Cloudy(),
        "opaque": Opaque(colour="#23262b"),
        "metal": Metal(metal="aluminium"),
    }


def starting_grains() -> dict[PatternName, Grain]:
    """Each pattern as it is commonly met with, by eye."""
    said: dict[PatternName, dict[str, Any]] = {
        "brushed": {"scale": 0.12, "depth": 0.003, "brushed": 0.7},
        "cast": {"scale": 0.5, "lies": "over", "depth": 0.12},
        "concrete": {"scale": 3, "lies": "through", "colour": "#6c6963", "share": 0.7, "depth": 0.4},
        "cork": {"scale": 2.4, "lies": "through", "colour": "#5b3417", "share": 0.85, "depth": 0.3},
        "felt": {"scale": 1.2, "lies": "over", "depth": 0.1},
        "fibres": {"scale": 1.2, "lies": "over", "colour": "#7a5a34", "share": 0.5, "depth": 0.03},
        "flecks": {"scale": 1, "lies": "through", "colour": "#5d4c3c", "share": 0.9},
        "hammered": {"scale": 3.5, "depth": 0.25},
        "laid": {"scale": 1, "lies": "over", "colour": "#cfc5b2", "share": 0.45, "depth": 0.04},
        "leather": {"scale": 1.2, "colour": "#2a140c", "share": 0.5, "depth": 0.14},
        "marble": {"scale": 16, "lies": "through", "colour": "#5d5f66", "share": 0.8},
        "orange peel": {"scale": 1.2, "depth": 0.012},
        "shards": {"scale": 0.9, "share": 1, "depth": 0.33},
        "terrazzo": {"scale": 6, "lies": "through", "colour": "#6d4a3c", "share": 0.9},
        "wood": {"scale": 3, "lies": "through", "turn": 90, "colour": "#7d5730", "share": 0.8, "depth": 0.04},
        "woven": {"scale": 0.7, "lies": "over", "colour": "#8f7f60", "share": 0.6, "depth": 0.15},
    }
    return {name: Grain(pattern=name, **how) for name, how in said.items()}


def drawn_colour(material: Material) -> str:
    """The sRGB colour that something is drawn in: of metals, what they reflect straight on."""
    if not isinstance(material, Metal):
        return material.colour
    reflectance = np.array(metal_shine(material.metal)) * linear_colour(material.tint)
    codes = np.round(255 * encode_srgb(reflectance.astype(np.float32))).astype(int)
    return "#" + "".join(f"{code:02x}" for code in codes)
