"""What surfaces and media of a scene do with light, as flat tables on the light engine: a row of optics for
each surface of each instance, one store of texels, one of details.

Everything the transport reads is data in a table, so one compiled kernel serves every scene.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Array4f, Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.materials.optics import (
    AIR,
    INK_INDEX,
    MATT,
    ROUGHEST,
    SMOOTHEST,
    Detail,
    Medium,
    Optics,
    Texels,
)
from giftwrap.core.render import optics_math as om
from giftwrap.core.render.coverage import ObjectName
from giftwrap.core.render.details import Detailed, DetailStore
from giftwrap.core.render.memory import aligned
from giftwrap.core.render.scattering import CLEAR, CLOUDY, COAT, METAL, Look, under_coat
from giftwrap.core.render.texels import COLOUR, GLOSS, Texel, TexelStore
from giftwrap.core.scene.scene import Instance, Surface

ROW = 5
"""Rows of four numbers for each surface."""
FLAGS = 3
"""Bits before those of lamps that it does not mirror."""
OBJECT = 17
"""Which of them is the number of the object it belongs to."""


@dataclass
class Row:
    """A surface's row of optics for each ray; `number` is that of the object masks tell apart, and `behind`
    is 1 where its back has the texture after its own."""

    kind: UInt32
    alpha: Float
    coat_index: Float
    escape: Float
    colour: Array3f
    texels: UInt32
    n: Array3f
    k: Array3f
    front: UInt32
    back: UInt32
    untouched: UInt32
    unreflecting: UInt32
    number: UInt32
    hidden: Bool
    catcher: Bool
    behind: UInt32
    detail: UInt32


@dataclass
class MediumRow:
    """What fills the space a ray travels in. `mean_free_path` is 0 where light does not wander."""

    absorption: Array3f
    index: Float
    albedo: Array3f
    mean_free_path: Float


class Appearance:
    """What every surface and medium does with light, and what is printed where."""

    def __init__(
        self,
        instances: Sequence[Instance],
        lamps: Sequence[str],
        *,
        previous: Appearance | None = None,
    ) -> None:
        surfaces = [surface for instance in instances for surface in instance.surfaces]
        named = [object_name(i, surface) for i in instances for surface in i.surfaces]
        objects = {name: number for number, name in enumerate(dict.fromkeys(named))}
        self.objects = tuple(objects)
        media: dict[Medium, int] = {AIR: 0}
        for surface in surfaces:
            for medium in (surface.optics.front, surface.optics.back):
                media.setdefault(medium, len(media))
        textures, slots = _textures(surfaces)
        details = list(dict.fromkeys(s.optics.detail for s in surfaces if s.optics.detail is not None))
        self.details = DetailStore(details)
        self._paint_escape = diffuse_escape(INK_INDEX)
        numbers = _Numbers(media, lamps, slots, {detail: i + 1 for i, detail in enumerate(details)})
        self.media = media
        self._rows = aligned(Float, _rows(instances, objects, numbers))
        self._media = aligned(Float, [_medium_row(m) for m in media])
        same = previous is not None and previous.texels.keys == tuple(texels.key for texels in textures)
        self.texels: TexelStore = previous.texels if previous and same else TexelStore(textures)
        self._textures = tuple(textures)  # what keys name by its address stays where it is
        dr.eval(self._rows, self._media)

    def row(self, surface: UInt32, active: Bool) -> Row:
        """The optics of a surface."""
        quads = [dr.gather(Array4f, self._rows, surface * ROW + i, active) for i in range(ROW)]
        a, b, c, d, e = quads
        flags = UInt32(e.z)
        return Row(
            kind=UInt32(a.x),
            alpha=a.y,
            coat_index=a.z,
            escape=a.w,
            colour=Array3f(b.x, b.y, b.z),
            texels=UInt32(b.w),
            n=Array3f(c.x, c.y, c.z),
            k=Array3f(d.x, d.y, d.z),
            front=UInt32(c.w),
            back=UInt32(d.w),
            untouched=UInt32(e.x),
            unreflecting=flags >> FLAGS,
            number=UInt32(e.y),
            hidden=(flags & 1) != 0,
            catcher=(flags & 2) != 0,
            behind=(flags >> 2) & 1,
            detail=UInt32(e.w),
        )

    def medium(self, index: UInt32) -> MediumRow:
        """What a numbered medium does with light on its way."""
        a = dr.gather(Array4f, self._media, index * 2)
        b = dr.gather(Array4f, self._media, index * 2 + 1)
        return MediumRow(Array3f(a.x, a.y, a.z), a.w, Array3f(b.x, b.y, b.z), b.w)

    def look(
        self, row: Row, texel: Texel, its: Detailed, chance: Float, front: Bool, *, active: Bool
    ) -> tuple[Look, UInt32, UInt32]:
        """The surface as seen from one side; the media on the frame's upper and lower side.

        The frame's upper side is where the ray comes from, except out of a cloudy body.

        chance : evenly from 0 to 1, by which a place that is partly bare metal is metal or not
        """
        kind = dr.select(chance < texel.metal, UInt32(METAL), row.kind)
        kind = dr.select(its.painted, UInt32(COAT), kind)
        leaving = (kind == CLOUDY) & ~front
        upper_is_front = front | leaving
        upper = dr.select(upper_is_front, row.front, row.back)
        lower = dr.select(upper_is_front, row.back, row.front)
        n_upper = dr.gather(Float, self._media, upper * 8 + 3, active)
        n_lower = dr.gather(Float, self._media, lower * 8 + 3, active)
        coat = dr.select(its.painted, dr.maximum(INK_INDEX / n_upper, 1.0), row.coat_index)
        index = dr.select(kind == CLEAR, n_lower / n_upper, coat)
        coloured, glossed = (texel.has & COLOUR) != 0, (texel.has & GLOSS) != 0
        own = dr.lerp(row.colour, its.colour, its.share)
        seen_under = (kind == COAT) & (its.share > 0)  # ink takes from what it is printed on
        under = dr.select(seen_under, dr.minimum(own / dr.maximum(row.colour, 1e-3), 4), 1.0)
        colour = dr.select(coloured, dr.minimum(texel.colour * under, 1), own)
        alpha = dr.select(glossed, ROUGHEST * (SMOOTHEST / ROUGHEST) ** texel.gloss, row.alpha)
        alpha = dr.lerp(alpha * its.roughened, its.alpha, its.turned)
        bare = glossed & (texel.gloss < MATT)
        escape = Array3f(dr.select(its.painted, self._paint_escape, row.escape))
        index, escape = dr.select(bare, 1.0, index), dr.select(bare, Array3f(1.0), escape)
        filmed = (its.film > 0) & (kind != METAL)
        colour = dr.select((kind == COAT) & ~filmed, under_coat(colour, index, alpha), colour)
        escape = dr.select(filmed, its.escape, escape)
        inked = dr.lerp(Array3f(1.0), dr.sqrt(its.colour), its.share)  # light passes what is printed twice
        tint = dr.select(kind == CLOUDY, dr.sqrt(its.tint), its.tint) * inked
        colour = dr.select(leaving, tint, colour * dr.select(kind == CLEAR, Array3f(1.0), its.tint))
        widths = dr.minimum(Array2f(alpha * its.stretch, alpha / its.stretch), 1)
        look = Look(
            *(kind, widths, index, colour, row.n, row.k, escape, leaving),
            *(tint, its.sheen, its.passes, its.lacquer, its.film, self.details.films),
        )
        return look, upper, lower


def _texture_key(optics: Optics) -> tuple[Any, Any]:
    return optics.texels and optics.texels.key, optics.behind and optics.behind.key


def _textures(surfaces: Sequence[Surface]) -> tuple[list[Texels], dict[Any, int]]:
    """Textures of surfaces, those of backs after those of their fronts; and their numbers, from 1."""
    textures: list[Texels] = []
    slots: dict[Any, int] = {}
    for optics in (surface.optics for surface in surfaces):
        key = _texture_key(optics)
        if optics.texels is not None and key not in slots:
            slots[key] = len(textures) + 1
            textures += [optics.texels, *([optics.behind] if optics.behind else [])]
    return textures, slots


def object_name(instance: Instance, surface: Surface) -> ObjectName:
    """What masks call the object a surface belongs to."""
    return ObjectName(instance.name, surface.part, surface.material)


@dataclass(frozen=True)
class _Numbers:
    """What rows of optics refer to by numbers."""

    media: Mapping[Medium, int]
    lamps: Sequence[str]
    slots: Mapping[Any, int]
    details: Mapping[Detail, int]

    def mask(self, lamps: Collection[str]) -> int:
        """A bit for each of some lamps."""
        return sum(1 << i for i, name in enumerate(self.lamps) if name in lamps)


def _rows(
    instances: Sequence[Instance], objects: Mapping[ObjectName, int], numbers: _Numbers
) -> NDArray[np.float32]:
    """(surfaces, 4 · ROW) numbers. What instances have in common is worked out once."""
    known: dict[int, NDArray[np.float32]] = {}
    found = []
    for instance in instances:
        alike = id(instance.surfaces)
        if alike not in known:
            known[alike] = np.array([_row(s, numbers) for s in instance.surfaces], np.float32)
        own = known[alike].copy()
        own[:, OBJECT] = [objects[object_name(instance, surface)] for surface in instance.surfaces]
        found.append(own)
    return np.concatenate(found) if found else np.zeros((1, 4 * ROW), np.float32)


def _row(surface: Surface, numbers: _Numbers) -> list[float]:
    """A surface's numbers; that of its object is put in for each instance."""
    optics: Optics = surface.optics
    untouched = numbers.mask(surface.untouched_by)
    flags = int(surface.hidden_from_camera) + 2 * int(surface.catcher) + 4 * int(optics.behind is not None)
    flags += numbers.mask(surface.unreflecting) << FLAGS
    slot = numbers.slots[_texture_key(optics)] if optics.texels is not None else 0
    detail = numbers.details[optics.detail] if optics.detail is not None else 0
    return [
        *(float(optics.kind), optics.alpha, optics.coat_index, diffuse_escape(optics.coat_index)),
        *(*optics.colour, float(slot)),
        *(*optics.n, float(numbers.media[optics.front])),
        *(*optics.k, float(numbers.media[optics.back])),
        *(float(untouched), 0.0, float(flags), float(detail)),
    ]


def _medium_row(medium: Medium) -> list[float]:
    return [*medium.absorption, medium.index, *medium.albedo, medium.mean_free_path]


@cache
def diffuse_escape(index: float) -> float:
    """Share of even light from outside that enters a smooth surface of a refractive index.

    One less the cosine-weighted mean of Fresnel's reflectance over the hemisphere.
    """
    if index == 1:
        return 1.0
    sin2 = (np.arange(2048) + 0.5) / 2048
    reflectance, _ = om.dielectric_reflectance(Float(np.sqrt(1 - sin2)), Float(index))
    return float(1 - np.mean(reflectance.numpy()))
