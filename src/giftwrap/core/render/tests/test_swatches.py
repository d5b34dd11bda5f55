"""Swatches: what is opaque shows its colour, what is clear the card under it, and metal itself."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giftwrap.core.model import Clear, Metal, Opaque
from giftwrap.core.model.material import Material
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.swatches import draw_swatch

SIZE = (84, 63)
FACE = (slice(22, 30), slice(22, 32))
"""Where the chip's face lies over the card."""


class SwatchTests(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        light_engine()

    def drawn(self, material: Material) -> np.ndarray:
        return np.asarray(draw_swatch(material, size=SIZE, samples=16), float)

    def test_opaque_ones_show_their_colour_and_hide_the_card(self) -> None:
        face = self.drawn(Opaque(colour="#b3324c", gloss=0.1))[FACE].reshape(-1, 3)
        red, green, blue = face.mean(axis=0)
        self.assertTrue(red > 1.6 * green and red > 1.4 * blue, (red, green, blue))
        self.assertLess(face.mean(axis=1).std(), 12)

    def test_clear_ones_show_the_card(self) -> None:
        face = self.drawn(Clear())[FACE].mean(axis=2)
        self.assertGreater(face.std(), 35)

    def test_gold_is_golden(self) -> None:
        red, green, blue = self.drawn(Metal(metal="gold", gloss=0.6))[FACE].reshape(-1, 3).mean(axis=0)
        self.assertTrue(red > green > 1.15 * blue, (red, green, blue))
