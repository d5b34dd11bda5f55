"""Light followed forwards: from lamps, through what is clear, to cloudy bodies behind it.

Through glass lamps cannot be aimed at, but light from a lamp can be aimed at glass (Jensen 1996).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import drjit as dr
from drjit.llvm.ad import PCG32, Array2f, Array3f, Bool, UInt32, UInt64

from giftwrap.core.render import optics_math as om
from giftwrap.core.render.arriving import arrive
from giftwrap.core.render.emitters import FAR
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.geometry import Geometry
from giftwrap.core.render.lighting import Lighting
from giftwrap.core.render.scattering import CLOUDY, evaluate, scatter
from giftwrap.core.render.tables import Appearance

MOST_MET = 24


@dataclass
class Landed:
    """Where light fell on a cloudy body, and what of it comes out: radiance times mm²."""

    lands: Bool
    place: Array3f
    value: Array3f


@dr.syntax
def cast_light(
    geometry: Geometry,
    appearance: Appearance,
    lighting: Lighting,
    origin: Array3f,
    direction: Array3f,
    *,
    slot: UInt32,
    flux: Array3f,
    seed: UInt32,
) -> Landed:
    """Follow light of lamps by single directions until it falls on a cloudy body.

    slot, flux : of each ray, its lamp and what it carries: radiance times mm² times steradians

    What comes straight from a lamp, with nothing clear on its way, is left out, as is what is spread.
    """
    engine: Any = light_engine()
    lanes = dr.width(slot)
    first, second = engine.sample_tea_32(dr.arange(UInt32, lanes), seed, 4)
    rng = PCG32(lanes, UInt64(0), UInt64(0))
    rng.seed(UInt64(first), UInt64(second))
    lamp = UInt32(1) << slot
    weight = Array3f(flux)
    medium, depth, steps = dr.zeros(UInt32, lanes), dr.zeros(UInt32, lanes), dr.zeros(UInt32, lanes)
    landed = dr.full(Bool, False, lanes)
    place, value = dr.zeros(Array3f, lanes), dr.zeros(Array3f, lanes)
    active = dr.max(flux) > 0

    while active:
        filling = appearance.medium(medium)
        found = geometry.scene.ray_intersect_preliminary(
            engine.Ray3f(origin, direction), coherent=False, active=active
        )
        hits = active & found.is_valid()
        reach = dr.select(hits, found.t, FAR)
        weight *= dr.exp(-filling.absorption * dr.select(hits, reach, 0.0))
        hits &= (medium != 0) | ~lighting.blocked(origin, direction, reach)
        it = arrive(
            geometry,
            appearance,
            found,
            direction,
            chances=(rng.next_float32(), rng.next_float32()),
            arrives=hits,
            first=Bool(False),
        )
        weight = dr.select(it.passes, weight * it.texel.passing, weight)
        touched = (depth > 0) | ((it.row.untouched & lamp) == 0)
        lands = it.surface & touched & (it.look.kind == CLOUDY) & it.front & (depth > 0)
        if lands:
            outwards, upper, _ = appearance.look(
                it.row, it.texel, it.detailed, it.chance, Bool(False), active=lands
            )
            s, t = om.frame_around(it.at.normal)
            out = om.into_frame(-direction, s, t, it.at.normal)
            matt, _, _ = evaluate(outwards, Array3f(0, 0, 1), out)
            index = appearance.medium(upper).index
            value = weight * matt / (dr.maximum(out.z, 1e-3) * index * index)
            place = Array3f(it.at.place)
        landed |= lands
        goes_on = it.surface & touched & it.look.is_smooth()
        chance, _ = om.dielectric_reflectance(dr.maximum(it.towards.z, 0), it.look.index)
        pick = rng.next_float32()
        way = Array2f(rng.next_float32(), rng.next_float32())
        went = scatter(it.look, it.towards, chance, pick, way)
        ahead = om.out_of_frame(went.direction, it.s, it.t, it.normal)
        above = went.direction.z > 0
        over = dr.dot(ahead, it.at.face_normal) > 0
        goes_on &= (over == it.front) == above
        hidden = (depth == 0) & went.reflected & ((it.row.unreflecting & lamp) != 0)
        goes_on &= ~hidden
        weight = dr.select(goes_on, weight * went.weight, weight)
        medium = dr.select(goes_on, dr.select(above, it.upper, it.lower), medium)
        direction = dr.select(goes_on, ahead, direction)
        depth += dr.select(goes_on, UInt32(1), UInt32(0))
        over = dr.select(it.passes, ~it.front, over)
        goes_on |= it.passes
        origin = dr.select(
            goes_on, it.at.place + it.at.face_normal * dr.select(over, it.offset, -it.offset), origin
        )
        steps += 1
        active &= goes_on & (steps < 2 * MOST_MET) & (depth < MOST_MET) & (dr.max(weight) > 0)

    return Landed(landed, place, value)
