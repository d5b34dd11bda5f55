"""Where rays arrive: what is there, how it looks from that side, and the frame that light is spread in."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import drjit as dr
from drjit.llvm.ad import Array2f, Array3f, Bool, Float, UInt32

from giftwrap.core.render import optics_math as om
from giftwrap.core.render.details import Detailed
from giftwrap.core.render.geometry import Geometry, Triangle
from giftwrap.core.render.scattering import Look
from giftwrap.core.render.tables import Appearance, Row
from giftwrap.core.render.texels import RELIEF, Texel

OFFSET = 2e-5
"""Rays start this far off a surface, relative to their distance from the origin: a few roundings."""


@dataclass
class Arrival:
    """A surface that was met, or a place where nothing is.

    surface, passes : there is something; there is nothing, and light goes on
    unseen : it is hidden from the camera that looks at it
    front : the ray meets its front
    upper, lower : media on the frame's upper and lower side, as `Appearance.look` has them
    s, t, normal : the frame; `towards` is where the ray came from, in it
    offset : mm off the surface at which rays start
    """

    at: Triangle
    row: Row
    texel: Texel
    detailed: Detailed
    look: Look
    surface: Bool
    passes: Bool
    unseen: Bool
    front: Bool
    chance: Float
    upper: UInt32
    lower: UInt32
    s: Array3f
    t: Array3f
    normal: Array3f
    towards: Array3f
    offset: Float


def arrive(
    geometry: Geometry,
    appearance: Appearance,
    found: Any,
    direction: Array3f,
    *,
    chances: tuple[Float, Float],
    arrives: Bool,
    first: Bool,
) -> Arrival:
    """What a ray meets.

    found : by the search tree
    chances : evenly from 0 to 1, by which a place that is partly there, or partly bare metal, is that or
        not, and by which its details go
    first : it comes straight from the camera, that some things are hidden from
    """
    at = geometry.triangle(found, arrives)
    row = appearance.row(at.surface, arrives)
    front = dr.dot(at.face_normal, direction) < 0
    texel = appearance.texels.at(row.texels + dr.select(front, 0, row.behind), at.uv, arrives)
    chance, besides = chances
    unseen = arrives & row.hidden & first
    passes = unseen | (arrives & (chance >= texel.presence))
    surface = arrives & ~passes
    chance = chance / dr.maximum(texel.presence, 1e-6)
    detailed = appearance.details.at(row.detail, at, besides, surface)
    look, upper, lower = appearance.look(row, texel, detailed, chance, front, active=surface)
    relieved = surface & ((texel.has & RELIEF) != 0)
    at.normal = dr.select(relieved, leaning(at, texel.slope), at.normal)
    at.normal = dr.select(detailed.painted, at.normal, leant(at.normal, detailed.leans))
    facing = dr.select(front, 1.0, -1.0)
    toward = -direction
    normal = at.normal * facing
    normal = dr.select(dr.dot(normal, toward) > 1e-3, normal, at.face_normal * facing)
    normal = dr.select(look.leaving, at.normal, normal)
    s, t = om.frame_around(normal)
    along = detailed.along - dr.dot(detailed.along, normal) * normal
    combed = dr.squared_norm(along) > 1e-6
    s = dr.select(combed, dr.normalize(along), s)
    t = dr.select(combed, dr.cross(normal, s), t)
    towards = dr.select(look.leaving, Array3f(0, 0, 1), om.into_frame(toward, s, t, normal))
    offset = (1 + dr.max(dr.abs(at.place))) * OFFSET
    return Arrival(
        *(at, row, texel, detailed, look, surface, passes, unseen, front, chance, upper, lower),
        *(s, t, normal, towards, offset),
    )


def leaning(at: Triangle, slope: Array2f) -> Array3f:
    """The normal of a relief of a slope on the sheet."""
    across = dr.normalize(at.across - dr.dot(at.across, at.normal) * at.normal)
    up = at.up - dr.dot(at.up, at.normal) * at.normal
    up = dr.normalize(up - dr.dot(up, across) * across)
    return dr.normalize(at.normal - slope.x * across - slope.y * up)


def leant(normal: Array3f, gradient: Array3f) -> Array3f:
    """The normal of a relief of a gradient, mm a mm."""
    return dr.normalize(normal - gradient + dr.dot(gradient, normal) * normal)
