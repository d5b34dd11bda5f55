"""Patches of colour as they are seen, against what they were asked to be."""

from __future__ import annotations

import numpy as np
from coloraide import Color

from giftwrap.core.grade.display import encode_srgb
from giftwrap.core.materials.optics import Texels, deepest_colour, printed_optics, surface_optics
from giftwrap.core.model import Camera, Opaque
from giftwrap.core.tests.scenes import film_of, quad, scene, surface

PATCHES = [
    "#735244", "#c29682", "#627a9d", "#576c43", "#8580b1", "#67bdaa", "#d67e2c", "#505ba6",
    "#c15a63", "#5e3c6c", "#9dbc40", "#e0a32e", "#383d96", "#469449", "#af363c", "#e7c71f",
    "#bb5695", "#0885a1", "#f3f3f2", "#c8c8c8", "#a0a0a0", "#7a7a79", "#555555", "#7d2239",
]  # fmt: skip
"""Twenty-three of the patches that photographers hold beside things, in sRGB (from memory), and the demo's
wine red."""
ROWS, COLUMNS, CELL = 4, 6, 8
STOCKS = {"dead matt": 0.0, "the demo's": 0.12, "satin": 0.5, "high gloss": 1.0}


def seen(colours: list[str], gloss: float) -> list[str]:
    """How a sheet of patches looks from straight above under even light, white as white."""
    cells = np.array([[int(c[i : i + 2], 16) for i in (1, 3, 5)] for c in colours], np.uint8)
    sheet = cells.reshape(ROWS, COLUMNS, 3).repeat(CELL, axis=0).repeat(CELL, axis=1)
    optics = printed_optics(Opaque(colour="#ffffff", gloss=gloss), Texels(colour=sheet, size=(60, 40)))
    print_ = surface("print", quad((0, 0, 0), (30, 0, 0), (0, 0, 20)), optics)
    white = surface(
        "white", quad((0, 0, 60), (30, 0, 0), (0, 0, 20)), surface_optics(Opaque(colour="#ffffff"))
    )
    camera = Camera(projection="orthographic", orthographic_width=60, distance=300, height=0, aim_height=0)
    light = film_of(scene((print_, white), (), 1.0), camera, size=60, samples=64).mean_light()
    rows = [light[10 + 10 * r + 2 : 10 + 10 * r + 8] for r in range(ROWS)]
    means = [row[:, 10 * c + 2 : 10 * c + 8].mean(axis=(0, 1)) for row in rows for c in range(COLUMNS)]
    codes = np.rint(255 * encode_srgb(np.array(means))).astype(int)
    return ["#" + "".join(f"{v:02x}" for v in code) for code in codes]


def apart(one: str, other: str) -> float:
    """CIEDE2000 between two colours, by coloraide."""
    return Color(one).delta_e(other, method="2000")


def expected(patch: str, gloss: float) -> str:
    """What is seen of a patch: itself, but where a channel is darker than its coat's shine."""
    deepest = deepest_colour(Opaque(colour="#ffffff", gloss=gloss)) if gloss else "#000000"
    return "#" + "".join(max(patch[i : i + 2], deepest[i : i + 2]) for i in (1, 3, 5))
