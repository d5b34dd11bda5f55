"""Light followed forwards: from lamps, through what is clear or mirrored by it, to what is matt or cloudy.

Through glass lamps cannot be aimed at, but light from a lamp can be aimed at glass (Jensen 1996).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import drjit as dr
from drjit.llvm.ad import PCG32, Array2f, Array3f, Array4f, Bool, Float, UInt32, UInt64

from giftwrap.core.render import optics_math as om
from giftwrap.core.render.arriving import Arrival, arrive
from giftwrap.core.render.emitters import FAR
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.geometry import Geometry
from giftwrap.core.render.lighting import Lighting
from giftwrap.core.render.scattering import CLOUDY, COAT, evaluate, scatter
from giftwrap.core.render.tables import Appearance

MOST_MET = 24
ROULETTE_FROM, SURVIVAL = 10, 0.7
"""Surfaces after which as many rays as this go on, each for more."""
LANES = 1 << 15
MOST_TAKEN = 4.0
"""What falls aslant counts at most so many times, where fuzz is brightest."""


@dataclass
class Landed:
    """Where light fell after it met something clear, four numbers for each ray.

    values : on a cloudy body what of it comes out: radiance times mm²; on something matt what arrives:
        irradiance times mm², as if all came straight from above; and 1 for the one, 2 for the other, 0 for
        nothing
    places : mm; and the number of the surface
    outwards : away from the surface, to the side on which it came
    """

    values: Float
    places: Float
    outwards: Float


@dr.syntax
def cast_light(
    geometry: Geometry,
    appearance: Appearance,
    lighting: Lighting,
    rays: Float,
    *,
    seed: UInt32,
) -> Landed:
    """Follow light of a lamp by single directions until it falls on something matt or on a cloudy body.

    rays : twelve numbers for each: where it is and the slot of its lamp, which way it goes, and what it
        carries, radiance times mm² times steradians, each of these with one that counts for nothing

    What comes straight from a lamp, with nothing clear on its way, is left out, as is what is spread. Rays
    are followed one after the other, as many at a time as `LANES` says: some end at once, others in twenty
    steps.
    """
    engine: Any = light_engine()
    count = dr.width(rays) // 12
    lanes = min(LANES, count)
    own = dr.arange(UInt32, lanes)
    first, second = engine.sample_tea_32(own, seed, 4)
    rng = PCG32(lanes, UInt64(0), UInt64(0))
    rng.seed(UInt64(first), UInt64(second))
    values, places, outwards = (dr.zeros(Float, 4 * count) for _ in range(3))
    ends, step = dr.opaque(UInt32, count), dr.opaque(UInt32, lanes)  # data: numbers would be in the kernel

    origin, direction, weight, lamp = _ray(rays, own, own < ends)
    medium, depth, steps = dr.zeros(UInt32, lanes), dr.zeros(UInt32, lanes), dr.zeros(UInt32, lanes)
    active = own < ends
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
        comes = it.surface & touched & (depth > 0)
        enters = comes & (it.look.kind == CLOUDY) & it.front
        falls = comes & (it.look.kind == COAT)
        value = Array3f(0)
        if enters:
            value = weight * _out_of_body(appearance, it, direction, enters)
        if falls:
            value = weight * _onto(appearance, it, direction)
        lands = enters | falls
        out = it.at.face_normal * dr.select(it.front, 1.0, -1.0)
        kind = dr.select(enters, 1.0, dr.select(falls, 2.0, 0.0))
        dr.scatter(values, Array4f(value.x, value.y, value.z, kind), own, lands)
        dr.scatter(
            places, Array4f(it.at.place.x, it.at.place.y, it.at.place.z, Float(it.at.surface)), own, lands
        )
        dr.scatter(outwards, Array4f(out.x, out.y, out.z, 0.0), own, lands)

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
        goes_on &= (steps < 2 * MOST_MET) & (depth < MOST_MET) & (dr.max(weight) > 0)
        plays = goes_on & (depth >= ROULETTE_FROM)
        goes_on &= ~plays | (rng.next_float32() < SURVIVAL)
        weight = dr.select(plays, weight / SURVIVAL, weight)

        if active & ~goes_on:
            own += step
            active &= own < ends
            origin, direction, weight, lamp = _ray(rays, own, active)
            medium, depth, steps = UInt32(0), UInt32(0), UInt32(0)

    return Landed(values, places, outwards)


def _ray(rays: Float, own: UInt32, active: Bool) -> tuple[Array3f, Array3f, Array3f, UInt32]:
    """Where a ray is, which way it goes, what it carries, and the bit of its lamp."""
    quads = [dr.gather(Array4f, rays, 3 * own + number, active) for number in range(3)]
    origin, direction, flux = (Array3f(quad.x, quad.y, quad.z) for quad in quads)
    return origin, direction, flux, UInt32(1) << UInt32(quads[0].w)


def _out_of_body(appearance: Appearance, it: Arrival, direction: Array3f, active: Bool) -> Array3f:
    """Share of what enters a cloudy body that comes out again, as radiance."""
    outwards, upper, _ = appearance.look(it.row, it.texel, it.detailed, it.chance, Bool(False), active=active)
    s, t = om.frame_around(it.at.normal)
    out = om.into_frame(-direction, s, t, it.at.normal)
    matt, _, _ = evaluate(outwards, Array3f(0, 0, 1), out)
    index = appearance.medium(upper).index
    return matt / (dr.maximum(out.z, 1e-3) * index * index)


def _onto(appearance: Appearance, it: Arrival, direction: Array3f) -> Float:
    """Share of what falls on something matt that would bring as much from straight above."""
    slanted, _, _ = evaluate(it.look, Array3f(0, 0, 1), it.towards)
    straight, _, _ = evaluate(it.look, Array3f(0, 0, 1), Array3f(0, 0, 1))
    index = appearance.medium(it.upper).index
    steep = dr.maximum(dr.abs(dr.dot(direction, it.at.face_normal)), 0.02)
    there = dr.maximum(it.texel.presence * (1 - it.texel.metal), 0.05)
    taken = om.luminance(slanted) / dr.maximum(om.luminance(straight), 1e-9)
    return dr.minimum(taken, MOST_TAKEN) / (steep * index * index * there)
