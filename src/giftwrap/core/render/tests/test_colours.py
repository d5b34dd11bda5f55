"""Printed and painted colours are what is seen under even light, their coat's shine among it."""

from __future__ import annotations

from unittest import TestCase

import drjit as dr
import numpy as np
from coloraide import Color
from drjit.llvm.ad import Array2f, Array3f, Float

from giftwrap.core.grade.display import encode_srgb
from giftwrap.core.materials.optics import INK_INDEX, Texels, coat_shine, deepest_colour, surface_optics
from giftwrap.core.model import Camera, Opaque
from giftwrap.core.render import optics_math as om
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
    optics = surface_optics(Opaque(colour="#ffffff", gloss=gloss), texels=Texels(colour=sheet, size=(60, 40)))
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
    return Color(one).delta_e(other, method="2000")


class ColourTests(TestCase):
    def test_twenty_four_patches_on_four_stocks(self) -> None:
        """By CIEDE2000 (coloraide): no more than 1 at any gloss, but where a channel is darker than the
        coat's shine, which is what is seen of it then."""
        for name, gloss in STOCKS.items():
            deepest = deepest_colour(Opaque(colour="#ffffff", gloss=gloss)) if gloss else "#000000"
            for patch, shown in zip(PATCHES, seen(PATCHES, gloss), strict=True):
                pairs = [max(patch[i : i + 2], deepest[i : i + 2]) for i in (1, 3, 5)]
                with self.subTest(stock=name, patch=patch):
                    self.assertLess(apart("#" + "".join(pairs), shown), 1.0)

    def test_what_is_darker_than_its_coats_shine_ends_there(self) -> None:
        """At full gloss that is Fresnel's reflectance straight on, ((n − 1) / (n + 1))²."""
        shine = ((INK_INDEX - 1) / (INK_INDEX + 1)) ** 2
        code = round(255 * float(encode_srgb(np.array([shine], np.float32))[0]))
        self.assertEqual(
            deepest_colour(Opaque(colour="#000000", gloss=1.0)), f"#{code:02x}{code:02x}{code:02x}"
        )
        for found in seen(["#000000", "#202020", *PATCHES[:-2]], 1.0)[:2]:
            self.assertAlmostEqual(int(found[1:3], 16), code, delta=1)

    def test_the_shine_of_rough_coats_is_the_integral_of_their_scattering(self) -> None:
        """By chance: the mean weight of 400,000 highlights, for an ink's and for a thinner coat."""
        rng = np.random.default_rng(1)
        sample = Array2f(*(Float(rng.random(400_000, dtype=np.float32)) for _ in range(2)))
        up = Array3f(0, 0, 1) + dr.zeros(Array3f, 400_000)
        for index in (1.13, INK_INDEX):
            for alpha in (0.03, 0.1, 0.2, 0.35, 0.55):
                micro = om.visible_normal(up, Float(alpha) + dr.zeros(Float, 400_000), sample)
                out = om.mirrored(up, micro)
                mirrored, _ = om.dielectric_reflectance(dr.maximum(dr.dot(up, micro), 0), Float(index))
                shone = dr.select(out.z > 0, mirrored / (1 + om.smith_lambda(out, Float(alpha))), 0.0)
                straight, told = coat_shine(index, alpha)
                self.assertAlmostEqual(
                    told / straight, float(dr.mean(shone).numpy()[0]) / straight, delta=0.025
                )
