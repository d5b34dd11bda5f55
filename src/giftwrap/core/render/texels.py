"""What changes from place to place of a surface, as kernels read it: two numbers of 32 bits a texel.

The first holds colour and presence, the second gloss, metal and relief. A texture is a row that says where
its texels lie and which of these it has; a surface without one is as its row of optics says everywhere.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.grade.display import decode_srgb
from giftwrap.core.materials.optics import Texels
from giftwrap.core.render.memory import aligned

COLOUR, PRESENCE, GLOSS, METAL, RELIEF, THROUGH = (1 << bit for bit in range(6))
"""What a texture has; and whether its colour also colours light that passes."""
_SECOND = GLOSS | METAL | RELIEF


@dataclass
class Texel:
    """A texture between its four nearest texels; what it does not have is 0, but presence 1.

    slope : of the relief, in mm a mm across and up the sheet
    """

    has: UInt32
    colour: Array3f
    presence: Float
    gloss: Float
    metal: Float
    slope: Array2f

    @property
    def passing(self) -> Array3f:
        """Share of light that passes where nothing else is."""
        return dr.select((self.has & THROUGH) != 0, dr.sqrt(self.colour), Array3f(1.0))


class TexelStore:
    """The textures of a scene.

    see_through : whether light passes anywhere, so that shadows must look at what is in their way
    """

    def __init__(self, textures: Sequence[Texels]) -> None:
        self.keys = tuple(texels.key for texels in textures)
        rows, scales, first, second = [], [], [], []
        start, start_second = 0, 0
        for texels in textures:
            height, width = texels.shape
            has = _has(texels)
            rows.append([start, width, height, start_second, has, 0, 0, 0])
            across, up = texels.size
            lift = texels.depth / 65535 / 2
            scales.append([lift * width / across, lift * height / up])
            first.append(_first(texels).ravel())
            start += width * height
            if has & _SECOND:
                second.append(_second(texels).ravel())
                start_second += width * height
        nothing = np.zeros(1, np.uint32)
        self._rows = aligned(UInt32, [*rows, [0, 1, 1, 0, 0, 0, 0, 0]])
        self._scales = aligned(Float, [*scales, [0.0, 0.0]])
        self._first = aligned(UInt32, np.concatenate([*first, nothing]))
        self._second = aligned(UInt32, np.concatenate([*second, nothing]))
        self._decoded = aligned(Float, decode_srgb(np.arange(256, dtype=np.float32) / np.float32(255)))
        self.see_through = dr.opaque(Bool, any(t.presence is not None for t in textures))
        dr.eval(self._rows, self._scales, self._first, self._second, self._decoded)

    @dr.syntax
    def at(self, number: UInt32, uv: Array2f, active: Bool) -> Texel:
        """Textures by their numbers, from 1, at coordinates of their sheets; 0 for none."""
        textured = active & (number > 0)
        which = dr.maximum(number, 1) - 1
        place = dr.gather(dr.llvm.ad.Array4u, self._rows, which * 2, textured)
        has = dr.select(textured, dr.gather(UInt32, self._rows, which * 8 + 4, textured), 0)
        width, height = place.y, place.z
        x = dr.clip(uv.x * Float(width) - 0.5, 0, Float(width) - 1)
        y = dr.clip((1 - uv.y) * Float(height) - 0.5, 0, Float(height) - 1)
        left, top = UInt32(x), UInt32(y)
        right, bottom = dr.minimum(left + 1, width - 1), dr.minimum(top + 1, height - 1)
        across, down = x - Float(left), y - Float(top)
        corners = [line * width + column for line in (top, bottom) for column in (left, right)]

        def between(values: list[Any]) -> Any:
            above = dr.lerp(values[0], values[1], across)
            return dr.lerp(above, dr.lerp(values[2], values[3], across), down)

        words = [dr.gather(UInt32, self._first, place.x + corner, textured) for corner in corners]
        colour = between([self._colour(word, textured) for word in words])
        absent = between([Float(255 - (word >> 24)) for word in words]) / 255
        presence = dr.select((has & PRESENCE) != 0, 1 - absent, 1.0)
        gloss, metal, slope = dr.zeros(Float), dr.zeros(Float), dr.zeros(Array2f)
        more = textured & ((has & _SECOND) != 0)
        if more:
            seconds = [dr.gather(UInt32, self._second, place.w + corner, more) for corner in corners]
            gloss = between([Float(word & 255) for word in seconds]) / 255
            metal = between([Float((word >> 8) & 255) for word in seconds]) / 255
            slope = self._slope(which, place, Array2f(x, y), more & ((has & RELIEF) != 0))
        return Texel(has, colour, presence, gloss, metal, slope)

    def _colour(self, word: UInt32, active: Bool) -> Array3f:
        codes = (word & 255, (word >> 8) & 255, (word >> 16) & 255)
        return Array3f(*(dr.gather(Float, self._decoded, code, active) for code in codes))

    def _slope(self, which: UInt32, place: Any, at: Array2f, active: Bool) -> Array2f:
        """Slope of the relief, by differences over two texels."""

        def height(x: Float, y: Float) -> Float:
            x, y = dr.clip(x, 0, Float(place.y) - 1), dr.clip(y, 0, Float(place.z) - 1)
            left, top = UInt32(x), UInt32(y)
            right, bottom = dr.minimum(left + 1, place.y - 1), dr.minimum(top + 1, place.z - 1)
            four = [
                Float(dr.gather(UInt32, self._second, place.w + line * place.y + column, active) >> 16)
                for line in (top, bottom)
                for column in (left, right)
            ]
            across, down = x - Float(left), y - Float(top)
            return dr.lerp(dr.lerp(four[0], four[1], across), dr.lerp(four[2], four[3], across), down)

        scale = dr.gather(Array2f, self._scales, which, active)
        slope_x = (height(at.x + 1, at.y) - height(at.x - 1, at.y)) * scale.x
        slope_y = (height(at.x, at.y - 1) - height(at.x, at.y + 1)) * scale.y
        return Array2f(dr.select(active, slope_x, 0.0), dr.select(active, slope_y, 0.0))


def _has(texels: Texels) -> int:
    parts = (
        (texels.colour, COLOUR),
        (texels.presence, PRESENCE),
        (texels.gloss, GLOSS),
        (texels.metal, METAL),
        (texels.relief, RELIEF),
    )
    return sum(bit for values, bit in parts if values is not None) + THROUGH * texels.through


def _first(texels: Texels) -> NDArray[np.uint32]:
    word = np.zeros(texels.shape, np.uint32)
    if texels.colour is not None:
        wide = texels.colour.astype(np.uint32)
        word |= wide[..., 0] | (wide[..., 1] << 8) | (wide[..., 2] << 16)
    if texels.presence is not None:
        word |= texels.presence.astype(np.uint32) << 24
    return word


def _second(texels: Texels) -> NDArray[np.uint32]:
    word = np.zeros(texels.shape, np.uint32)
    for values, shift in ((texels.gloss, 0), (texels.metal, 8), (texels.relief, 16)):
        if values is not None:
            word |= values.astype(np.uint32) << shift
    return word
