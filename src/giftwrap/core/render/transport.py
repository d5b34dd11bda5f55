"""The integrator: follows light backwards from the camera and keeps every light apart.

Multiple importance sampling between aiming at lamps and following surfaces (Veach 1997), first
choices spread evenly over a pixel's samples, Russian roulette, Beer–Lambert absorption along the
true way through every medium, and a random walk in cloudy ones. Each lamp, the surround and the
background have a buffer of their own.

Left out: polarisation, dispersion, and scattering in media seen from outside without a surface.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import drjit as dr
from drjit.llvm.ad import Array2f, Array3f, Bool, Float, UInt32

from giftwrap.core.render import optics_math as om
from giftwrap.core.render.arriving import arrive
from giftwrap.core.render.coverage import COUNT_BITS, SLOTS
from giftwrap.core.render.emitters import FAR
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.geometry import Geometry
from giftwrap.core.render.irradiance import OF_BODIES, KeptLight
from giftwrap.core.render.lens import Lens, first_ray
from giftwrap.core.render.lighting import Aimed, Lighting
from giftwrap.core.render.scattering import CLEAR, COAT, evaluate, scatter
from giftwrap.core.render.sequence import CHOICES, LAMP, MIRROR, WAY, chance_of, evenly
from giftwrap.core.render.shadows import shaded_light, shades_itself
from giftwrap.core.render.tables import Appearance

MAX_BOUNCES = 24
"""A ray through a filled bottle crosses eight interfaces; this leaves room for reflections."""
ROULETTE_FROM = 12
MAX_STEPS = 1000
"""Steps of a walk in a cloudy body, after which what is left of its light is dropped."""
FAINT = 1e-3
"""A walk ends when less than this share of its light is left."""
BESIDES = 0x51ED270B
"""Sets chances that details go by apart from those of presence."""


@dataclass
class Gathered:
    """What the paths through each pixel brought, summed over its samples.

    light : radiance by buffer: every lamp slot, the surround, and last the share of background
    odd : luminance that samples of odd numbers brought, without the background, but with `caught_lit`
    albedo, normal : of the first surface that is not clear, looked at through clear ones
    guided : samples that found such a surface
    depth : mm along the camera's axis to the first surface
    seen : samples that met a surface at all
    lit, open : direct light on it as it is, and as it would be with nothing in its way but other lamps and,
        for a catcher, itself
    caught, caught_lit : share of samples that a catcher fills, and direct light on it
    beyond, caught_light : what is seen of the surround where there is nothing, and where a catcher is; there,
        where none is seen, as much of white light as comes through what is before it
    slots : objects seen first and in how many samples, see `coverage.Seen.of_slots`
    """

    light: list[Array3f]
    odd: Float
    albedo: Array3f
    normal: Array3f
    guided: Float
    depth: Float
    seen: Float
    lit: Float
    open: Float
    caught: Float
    caught_lit: Float
    beyond: Array3f
    caught_light: Array3f
    slots: list[UInt32]


class _Given:
    """What paths read and never change. In one object that the engine does not look into: whatever a loop
    names is taken for its state, and recorded a second time to find out that it is none."""

    def __init__(
        self,
        *,
        lens: Lens,
        pixels: UInt32,
        samples: UInt32,
        begin: UInt32,
        seed: UInt32,
        key: UInt32,
        firefly_limit: Float,
    ) -> None:
        self.lens, self.pixels, self.samples, self.begin = lens, pixels, samples, begin
        self.seed, self.key, self.firefly_limit = seed, key, firefly_limit


@dr.syntax
def gather_light(
    geometry: Geometry,
    appearance: Appearance,
    lighting: Lighting,
    lens: Lens,
    pixels: UInt32,
    *,
    kept: KeptLight,
    samples: UInt32,
    begin: UInt32,
    seed: UInt32,
    firefly_limit: Float,
) -> Gathered:
    """Follow paths through each pixel, one after the other.

    pixels : flat numbers of the pixels to look through, row by row; each has a lane of its own,
        which begins its next path as soon as one ends
    samples, begin : how many for each pixel, at least 1, and how many it had of the seed before
    firefly_limit : indirect samples are dimmed to this many times the brightest lamp; 0 for never
    """
    engine: Any = light_engine()
    lanes = dr.width(pixels)
    buffers = lighting.surround_slot + 2

    # the state of a path
    key = engine.sample_tea_32(pixels, seed, 4)[0]
    given = _Given(
        lens=lens,
        pixels=pixels,
        samples=samples,
        begin=begin,
        seed=seed,
        key=key,
        firefly_limit=firefly_limit,
    )
    origin, direction, medium, rng = first_ray(lens, pixels, begin, seed, key)
    weight = dr.full(Array3f, 1, lanes)  # light at the ray's origin that reaches the camera
    depth = dr.zeros(UInt32, lanes)  # surfaces met
    steps = dr.zeros(UInt32, lanes)  # of walks in cloudy bodies, and through hidden things
    from_camera = dr.full(Bool, True, lanes) & ~lens.scattered  # nothing but smooth refraction so far
    catching = dr.full(Bool, False, lanes)  # a reflection on a catcher: shows things, not lights
    looking = dr.full(Bool, True, lanes)  # no surface yet that is not clear
    spreads = dr.zeros(UInt32, lanes)  # scatterings that were not in single directions
    density = dr.zeros(Float, lanes)  # of the ray's direction; 0 for a single one
    aimed = Aimed(dr.zeros(Array3f, lanes), dr.zeros(Float, lanes), dr.zeros(Float, lanes))
    untouched = dr.zeros(UInt32, lanes)  # lamps that do not light the surface the ray left
    unmirrored = dr.zeros(UInt32, lanes)  # lamps that do not show in the reflection the ray is
    settled = dr.full(Bool, False, lanes)  # light that comes straight through what is clear was counted
    # what a pixel's paths have brought
    taken = dr.zeros(UInt32, lanes)
    light = [dr.zeros(Array3f, lanes) for _ in range(buffers)]
    odd = dr.zeros(Float, lanes)
    albedo, normal, guided = dr.zeros(Array3f, lanes), dr.zeros(Array3f, lanes), dr.zeros(Float, lanes)
    first_depth, lit, open_, caught, caught_lit = (dr.zeros(Float, lanes) for _ in range(5))
    beyond, caught_light = dr.zeros(Array3f, lanes), dr.zeros(Array3f, lanes)
    slots = [dr.zeros(UInt32, lanes) for _ in range(SLOTS)]
    seen = dr.zeros(Float, lanes)
    active = dr.full(Bool, True, lanes)

    while active:
        # 1. Walk through a cloudy body to where light leaves it, then meet the nearest surface
        filling = appearance.medium(medium)
        wanders = active & (filling.mean_free_path > 0)
        while wanders:
            free = -dr.log(1 - rng.next_float32()) * filling.mean_free_path
            step = engine.Ray3f(origin, direction, free, 0.0, [])
            within = wanders & ~geometry.scene.ray_test(step, coherent=False, active=wanders)
            origin = dr.select(within, origin + direction * free, origin)
            turn = om.uniform_sphere(Array2f(rng.next_float32(), rng.next_float32()))
            direction = dr.select(within, turn, direction)
            weight = dr.select(within, weight * filling.albedo, weight)
            steps += dr.select(within, UInt32(1), UInt32(0))
            wanders = within & (steps < MAX_STEPS) & (dr.max(weight) > FAINT)
        lost = (filling.mean_free_path > 0) & ((steps >= MAX_STEPS) | (dr.max(weight) <= FAINT))
        found = geometry.scene.ray_intersect_preliminary(
            engine.Ray3f(origin, direction), coherent=False, active=active
        )
        hits = active & found.is_valid()
        reach = dr.select(hits, found.t, FAR)

        # 2. Meet lamps, which hang in air
        in_air = active & (medium == 0)
        invisible = lighting.invisible(from_camera, unmirrored)
        met = lighting.meet(origin, direction, reach, invisible=invisible)
        glows = in_air & met.met
        reach = dr.select(glows, met.distance, reach)
        weight *= dr.select(reach < FAR, dr.exp(-filling.absorption * reach), 1.0)
        limit = dr.select(
            (given.firefly_limit > 0) & ((spreads > 1) | ((spreads == 1) & (density == 0))),
            given.firefly_limit * lighting.brightest,
            FAR,
        )
        share = Float(1)
        if glows & (density > 0):
            share = om.power_share(density, lighting.met_density(met, origin, direction, aimed))
        touched = (untouched & (UInt32(1) << met.slot)) == 0
        counted = settled & (density == 0)
        glow = dr.select(
            glows & touched & ~catching & ~counted,
            weight * lighting.met_radiance(met, origin, direction) * share,
            0.0,
        )
        brought, buffer = _dimmed(glow, limit), UInt32(met.slot)

        # 3. Escape to the surround, or to the background that the camera sees
        escapes = active & ~hits & ~glows
        share = dr.select(
            density > 0,
            om.power_share(density, lighting.surround_density(direction, aimed, escapes)),
            1.0,
        )
        dark = from_camera | catching
        around = lighting.around.radiance(direction, escapes & ~dark)
        around = weight * dr.select(counted, _dimmed(around, kept.most_around), around) * share
        sky = dr.select(escapes & ~dark, around, 0.0)
        looks_past = escapes & from_camera
        if lighting.around.shows & looks_past:
            beyond += dr.select(looks_past, weight * lighting.around.seen(direction, looks_past), 0.0)
        brought += _dimmed(sky, limit) + dr.select(looks_past, weight, 0.0)
        past = dr.select(from_camera, UInt32(buffers - 1), UInt32(buffers - 2))
        buffer = dr.select(escapes, past, buffer)

        # 4. Arrive at a surface
        arrives = hits & ~glows & ~lost
        chance = chance_of(given.key, given.begin + taken, depth + steps)
        besides = chance_of(given.key, given.begin + taken, depth + steps + UInt32(BESIDES))
        its = arrive(
            geometry,
            appearance,
            found,
            direction,
            chances=(chance, besides),
            arrives=arrives,
            first=from_camera & (depth == 0),
        )
        at, row, look, surface, passes, front = its.at, its.row, its.look, its.surface, its.passes, its.front
        upper, lower, s, t, frame_normal = its.upper, its.lower, its.s, its.t, its.normal
        towards, offset = its.towards, its.offset
        weight = dr.select(passes & ~its.unseen, weight * its.texel.passing, weight)
        first = surface & (depth == 0)
        slots = _counted(slots, row.number + 1, first)
        seen += dr.select(first, 1.0, 0.0)
        first_depth += dr.select(first, dr.dot(at.place - given.lens.eye, given.lens.forward), 0.0)
        shows = surface & looking & from_camera & ((look.kind != CLEAR) | (look.alpha.x > 0))
        looking &= ~shows
        guide = dr.select(look.kind == CLEAR, Array3f(1), look.colour)
        albedo += dr.select(shows, guide, 0.0)
        normal += dr.select(shows, frame_normal, 0.0)
        guided += dr.select(shows, 1.0, 0.0)

        # 5. Take what is kept of the light on a cloudy body behind glass, or that falls through what is clear
        leaves = surface & look.leaving & kept.bodies & ~(given.lens.scattered & (depth == 0))
        receives = surface & (look.kind == COAT) & kept.fallen & ~(catching | (row.catcher & shows))
        told, holds = dr.full(Bool, False, lanes), dr.full(Bool, False, lanes)
        if leaves | receives:
            about = Array3f(rng.next_float32(), rng.next_float32(), rng.next_float32())
            outwards = at.face_normal * dr.select(front, 1.0, -1.0)
            holds, which = kept.grid_at(at.place, outwards, receives)
            grid = dr.select(receives, which, UInt32(OF_BODIES))
            asks = leaves | holds
            cell = kept.row(grid, at.place, outwards, about, asks)
            known = asks & (cell > 0)
            told = leaves & known
            straight, _, _ = evaluate(look, towards, Array3f(0, 0, 1))
            takes = weight * dr.select(leaves, Array3f(1), straight)
            most = dr.select(
                (given.firefly_limit > 0) & (spreads > 0), given.firefly_limit * lighting.brightest, FAR
            )
            parity = (given.begin + taken) & 1
            for slot_number in range(buffers - 1):
                there = takes * kept.light(cell, parity, slot_number, buffers - 1, known)
                there = dr.select(known, _dimmed(there, most), 0.0)
                light[slot_number] += there
                odd += dr.select(parity == 1, om.luminance(there), 0.0)

        # 6. Aim at a light
        smooth = look.is_smooth()
        even = surface & dr.select(smooth, first, spreads == 0)
        number = given.begin + taken
        pick = rng.next_float32()
        lamp_pick = Array2f(rng.next_float32(), rng.next_float32())
        way = Array2f(rng.next_float32(), rng.next_float32())
        if even:
            pick = evenly(given.key, number, dr.select(smooth, UInt32(MIRROR), UInt32(CHOICES))).y
            lamp_pick = evenly(given.key, number, UInt32(LAMP))
            way = evenly(given.key, number, UInt32(WAY))
        aims = surface & ~smooth & ~told & ((upper == 0) | ((look.kind == CLEAR) & (lower == 0)))
        below = (upper != 0) | (look.is_sheet() & (besides < 0.5))
        reach_normal = dr.select(below, -frame_normal, frame_normal)
        total, value, slot = dr.zeros(Float, lanes), dr.zeros(Array3f, lanes), dr.zeros(UInt32, lanes)
        if aims:
            aim, total = lighting.aim(
                at.place,
                reach_normal,
                row.untouched,
                lamp_pick,
            )
            out = om.into_frame(aim.direction, s, t, frame_normal)
            matt, highlight, out_density = evaluate(look, towards, out)
            shown = (row.unreflecting & (UInt32(1) << aim.slot)) == 0
            value = (
                weight
                * aim.radiance
                * (matt + dr.select(shown, highlight, 0.0))
                / dr.maximum(aim.density, 1e-20)
            )
            over = dr.dot(aim.direction, at.face_normal) > 0
            reaches = (dr.select(out.z > 0, upper, lower) == 0) & (dr.max(value) > 0) & ~catching
            reaches &= (over == (front | look.leaving)) == (out.z > 0)
            start = at.place + at.face_normal * dr.select(over, offset, -offset)
            reach_there = aim.distance * (1 - 1e-4)
            shaded, value = shaded_light(
                *(geometry, appearance, start, aim.direction, reach_there),
                value=value,
                active=reaches,
                numbers=(given.key, given.begin + taken, depth + steps),
            )
            begins = reaches & shows
            catches = begins & row.catcher & shaded
            by_itself = shades_itself(geometry, appearance, start, aim.direction, reach_there, active=catches)
            by_lamps = lighting.blocked(start, aim.direction, aim.distance)
            shaded |= by_lamps
            open_ += dr.select(begins & ~by_lamps & ~by_itself, om.luminance(value), 0.0)
            lit_here = dr.select(begins & ~shaded, om.luminance(value), 0.0)
            lit += lit_here
            on_catcher = dr.select(row.catcher, lit_here, 0.0)
            caught_lit += on_catcher
            odd += dr.select((given.begin + taken) & 1 == 1, on_catcher, 0.0)
            limit = dr.select(
                (given.firefly_limit > 0) & (spreads > 0), given.firefly_limit * lighting.brightest, FAR
            )
            share = om.power_share(aim.density, out_density)
            value = dr.select(reaches & ~shaded & ~(row.catcher & shows), _dimmed(value * share, limit), 0.0)
            slot = aim.slot
        brought += value
        buffer = dr.select(aims, slot, buffer)
        brought = dr.select(dr.isfinite(brought), brought, 0.0)  # rounding may make what is no number
        light = _added(light, buffer, brought)
        counts = ((given.begin + taken) & 1 == 1) & (buffer < buffers - 1)
        odd += dr.select(counts, om.luminance(brought), 0.0)

        # 7. Go on
        reflect_chance, _ = om.dielectric_reflectance(dr.maximum(towards.z, 0), look.index)
        if first & from_camera & smooth & front:
            mirror = direction - 2 * dr.dot(direction, frame_normal) * frame_normal
            shining = reflect_chance * (lighting.brightness_towards(at.place, mirror) + 0.3)
            behind = (1 - reflect_chance) * 0.6
            reflect_chance = dr.clip(shining / (shining + behind), 1e-4, 0.5)
        went = scatter(look, towards, reflect_chance, pick, way)
        ahead = om.out_of_frame(went.direction, s, t, frame_normal)
        above = went.direction.z > 0
        over = dr.dot(ahead, at.face_normal) > 0
        agrees = (over == (front | look.leaving)) == above
        shines = rng.next_float32() >= went.matt_share
        caught += dr.select(shows & row.catcher, om.luminance(weight), 0.0)
        behind_it = Array3f(weight)
        if lighting.around.shows & shows & row.catcher:
            behind_it = weight * lighting.around.seen(direction, shows & row.catcher)
        caught_light += dr.select(shows & row.catcher, behind_it, 0.0)
        catching |= shows & row.catcher
        ends = told | (surface & (~agrees | (row.catcher & shows & ~shines)))
        single = went.density == 0
        weight = dr.select(surface, weight * went.weight, weight)
        from_camera &= ~surface | (smooth & ~above)
        mirrors = dr.select(single, went.reflected, shines)
        by_body = given.lens.scattered & (depth == 0)
        settled = dr.select(surface & ~smooth, by_body | (holds & ~shines & above), settled)
        unmirrored = dr.select(surface, dr.select(mirrors, row.unreflecting, UInt32(0)), unmirrored)
        spreads += dr.select(surface & ~smooth, UInt32(1), UInt32(0))
        density = dr.select(surface, went.density, density)
        aimed = Aimed(
            dr.select(surface, reach_normal, aimed.normal),
            dr.select(surface, total, aimed.total),
            dr.select(surface, 0.0, dr.select(passes, aimed.gone + found.t, aimed.gone)),
        )
        untouched = dr.select(surface, row.untouched, untouched)
        medium = dr.select(surface, dr.select(above, upper, lower), medium)
        direction = dr.select(surface, ahead, direction)
        over = dr.select(passes, ~front, over)
        origin = dr.select(arrives, at.place + at.face_normal * dr.select(over, offset, -offset), origin)
        depth += dr.select(surface, UInt32(1), UInt32(0))
        steps += dr.select(passes, UInt32(1), UInt32(0))

        # 8. End what has become faint
        goes_on = arrives & ~ends & (dr.max(weight) > 0)
        goes_on &= (depth < MAX_BOUNCES) & (steps < MAX_STEPS)
        survival = dr.minimum(dr.max(weight), 0.95)
        plays = goes_on & surface & (depth >= ROULETTE_FROM)
        goes_on &= ~plays | (rng.next_float32() < survival)
        weight = dr.select(plays, weight / dr.maximum(survival, 1e-6), weight)

        # 9. Begin the pixel's next path
        finished = active & ~goes_on
        if finished:
            taken += 1
            origin, direction, medium, rng = first_ray(
                given.lens, given.pixels, given.begin + taken, given.seed, given.key
            )
            weight, depth, steps = Array3f(1), UInt32(0), UInt32(0)
            from_camera, catching, looking = ~given.lens.scattered, Bool(False), Bool(True)
            spreads, density, untouched, unmirrored = UInt32(0), Float(0), UInt32(0), UInt32(0)
            settled = Bool(False)
            aimed = Aimed(Array3f(0), Float(0), Float(0))
            active &= taken < given.samples

    return Gathered(
        *(light, odd, albedo, normal, guided, first_depth, seen, lit, open_, caught, caught_lit),
        *(beyond, caught_light, slots),
    )


def _counted(slots: list[UInt32], number: UInt32, active: Bool) -> list[UInt32]:
    """Count one more sample of an object; what finds no slot is not told apart."""
    waiting, counted = active, []
    for slot in slots:
        mine = waiting & ((slot == 0) | ((slot >> COUNT_BITS) == number))
        counted.append(dr.select(mine, dr.maximum(slot, number << COUNT_BITS) + 1, slot))
        waiting = waiting & ~mine  # not in place: that would change what was given
    return counted


def _dimmed(value: Array3f, limit: Float) -> Array3f:
    """Light with its brightest channel kept under a limit."""
    return value * dr.minimum(1.0, limit / dr.maximum(dr.max(value), 1e-20))


def _added(buffers: list[Array3f], slot: UInt32, value: Array3f) -> list[Array3f]:
    """Light added to the buffer of a slot."""
    return [colour + dr.select(slot == number, value, 0.0) for number, colour in enumerate(buffers)]
