"""Printed and painted colours are what is seen under even light, their coat's shine among it."""

from __future__ import annotations

from unittest import TestCase

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Float

from giftwrap.core.grade.display import encode_srgb
from giftwrap.core.materials.optics import INK_INDEX, coat_shine, deepest_colour
from giftwrap.core.model import Opaque
from giftwrap.core.render import optics_math as om
from giftwrap.core.tests.patches import PATCHES, STOCKS, apart, expected, seen


class ColourTests(TestCase):
    def test_twenty_four_patches_on_four_stocks(self) -> None:
        """By CIEDE2000 (coloraide): no more than 1 at any gloss, but where a channel is darker than the
        coat's shine, which is what is seen of it then."""
        for name, gloss in STOCKS.items():
            for patch, shown in zip(PATCHES, seen(PATCHES, gloss), strict=True):
                with self.subTest(stock=name, patch=patch):
                    self.assertLess(apart(expected(patch, gloss), shown), 1.0)

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
                micro = om.visible_normal(up, Array2f(alpha) + dr.zeros(Float, 400_000), sample)
                out = om.mirrored(up, micro)
                mirrored, _ = om.dielectric_reflectance(dr.maximum(dr.dot(up, micro), 0), Float(index))
                shone = dr.select(out.z > 0, mirrored / (1 + om.smith_lambda(out, Array2f(alpha))), 0.0)
                straight, told = coat_shine(index, alpha)
                self.assertAlmostEqual(
                    told / straight, float(dr.mean(shone).numpy()[0]) / straight, delta=0.025
                )
