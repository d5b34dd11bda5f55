"""Lamps and surround as the transport sees them: where a ray meets them, and how to aim at them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Array4f, Bool, Float, UInt32

from giftwrap.core.render import optics_math as om
from giftwrap.core.render.emitters import (
    FAR,
    FEW,
    MANY,
    QUADS,
    Emitter,
    crossing,
    importance,
    per_solid_angle,
    place_of,
    point_density,
    point_on,
    row_of,
    shares_of,
    way_to,
)
from giftwrap.core.render.memory import aligned
from giftwrap.core.scene.scene import Lamp

FEWEST_SLOTS = 4
SURROUND_SHARE = 0.03
"""Of what the surround can bring, in choosing where to aim: following surfaces finds it as well."""


@dataclass
class Met:
    """Where a ray meets a lamp: distance in mm (or the given reach), its slot, and at what cosine to its
    lit side (negative when it meets that)."""

    distance: Float
    met: Bool
    slot: UInt32
    cosine: Float


@dataclass
class Aim:
    """A direction towards a light, with the radiance waiting there and the density of the choice."""

    direction: Array3f
    distance: Float
    radiance: Array3f
    density: Float
    slot: UInt32


@dataclass
class Aimed:
    """What a ray keeps of where a light was last aimed at.

    normal : of the side of the surface from which `aim` looked
    total : importance of all lights there
    gone : mm from there to the ray's origin, past places where nothing is
    """

    normal: Array3f
    total: Float
    gone: Float


class Lighting:
    """Every lamp of a scene, padded to a number of slots, and its surround.

    Slot numbers are bit positions in masks; the surround's slot is `surround_slot`.
    """

    def __init__(self, lamps: Sequence[Lamp], surround: float) -> None:
        count = FEWEST_SLOTS
        while count < len(lamps):
            count *= 2
        self.surround_slot = count
        rows = [row_of(lamps[i] if i < len(lamps) else None) for i in range(count)]
        self._slots = [
            Emitter.of([Array4f(*(dr.opaque(Float, float(v)) for v in q)) for q in row]) for row in rows
        ]
        self._table = aligned(Float, np.array(rows))
        self.surround = dr.opaque(Float, surround)
        self._hidden_from_camera = dr.opaque(UInt32, _mask(lamps, "hidden_from_camera"))
        self._hidden_from_reflections = dr.opaque(UInt32, _mask(lamps, "hidden_from_reflections"))
        self.brightest = dr.opaque(Float, max([lamp.radiance for lamp in lamps] + [surround], default=0.0))

    def invisible(self, from_camera: Bool, in_reflection: Bool) -> UInt32:
        """Slots that a ray passes through: hidden from the camera, or from reflections."""
        seen_by_camera = dr.select(from_camera, self._hidden_from_camera, UInt32(0))
        return seen_by_camera | dr.select(in_reflection, self._hidden_from_reflections, UInt32(0))

    @property
    def hidden_from_reflections(self) -> UInt32:
        """Mask of lamps that highlights do not show."""
        return self._hidden_from_reflections

    def meet(self, origin: Array3f, direction: Array3f, reach: Float, *, invisible: UInt32) -> Met:
        """The nearest lamp on a ray before `reach`."""
        distance, slot, cosine = Float(reach), UInt32(0), Float(0)
        met = Bool(False)
        for number, lamp in enumerate(self._slots):
            at = crossing(lamp, origin, direction)
            here = at.inside & (at.distance < distance) & ((invisible & (1 << number)) == 0)
            distance, cosine = dr.select(here, at.distance, distance), dr.select(here, at.cosine, cosine)
            met |= here
            slot = dr.select(here, UInt32(number), slot)
        return Met(distance, met, slot, cosine)

    def met_radiance(self, met: Met) -> Array3f:
        """What a lamp that was met shines along the ray; its back is black."""
        quad = dr.gather(Array4f, self._table, met.slot * QUADS + QUADS - 1, met.met)
        return dr.select(met.met & (met.cosine < 0), Array3f(quad.x, quad.y, quad.z), 0.0)

    def met_density(self, met: Met, origin: Array3f, direction: Array3f, aimed: Aimed) -> Float:
        """Density with which `aim` would have chosen the direction in which a lamp was met.

        aimed : as it was when `aim` was asked on the ray's way
        """
        lit = met.met & (met.cosine < 0)
        lamp = self._lamp(met.slot, lit)
        shares = shares_of(lamp, origin - direction * aimed.gone, aimed.normal, MANY)
        place = place_of(lamp, origin + direction * met.distance)
        density = importance(lamp, [shares[MANY.index(p)] for p in FEW]) / dr.maximum(aimed.total, 1e-20)
        density *= point_density(shares, place)
        density *= per_solid_angle(lamp, met.distance + aimed.gone, -met.cosine)
        return dr.select(lit, density, 0.0)

    def surround_density(self, direction: Array3f, aimed: Aimed) -> Float:
        """Density with which `aim` chooses a direction towards the surround."""
        chance = self._surround_importance() / dr.maximum(aimed.total, 1e-20)
        return chance * dr.maximum(dr.dot(direction, aimed.normal), 0) / om.PI

    def aim(self, origin: Array3f, normal: Array3f, untouched: UInt32, sample: Array2f) -> tuple[Aim, Float]:
        """Choose a direction towards the lights for a surface point; also the total importance.

        untouched : mask of lamps that do not light this surface
        """
        total = self._surround_importance() + Float(0)
        slot, pick = UInt32(self.surround_slot), sample.x
        chosen = Float(total)
        for number, lamp in enumerate(self._slots):
            its_own = importance(lamp, shares_of(lamp, origin, normal, FEW))
            its_own = dr.select((untouched & (1 << number)) == 0, its_own, 0.0)
            total += its_own
            share = its_own / dr.maximum(total, 1e-20)
            take = pick < share
            pick = dr.select(
                take, pick / dr.maximum(share, 1e-20), (pick - share) / dr.maximum(1 - share, 1e-20)
            )
            slot, chosen = dr.select(take, UInt32(number), slot), dr.select(take, its_own, chosen)
        chance = chosen / dr.maximum(total, 1e-20)
        sample = Array2f(dr.clip(pick, 0, 1), sample.y)  # what is left of the choice is as good as new
        free = slot == self.surround_slot
        lamp = self._lamp(slot, ~free)
        shares = shares_of(lamp, origin, normal, MANY)
        place = point_on(shares, sample)
        to_lamp = way_to(lamp, origin, place)
        distance = dr.norm(to_lamp)
        direction = to_lamp / dr.maximum(distance, 1e-9)
        cosine = -dr.dot(direction, lamp.normal)
        density = chance * point_density(shares, place) * per_solid_angle(lamp, distance, cosine)
        s, t = om.frame_around(normal)
        around = om.out_of_frame(om.cosine_hemisphere(sample), s, t, normal)
        direction = dr.select(free, around, direction)
        density = dr.select(free, chance * dr.maximum(dr.dot(around, normal), 1e-9) / om.PI, density)
        radiance = dr.select(free, Array3f(self.surround), dr.select(cosine > 0, lamp.radiance, 0.0))
        return Aim(direction, dr.select(free, FAR, distance), radiance, density, slot), total

    def blocked(self, origin: Array3f, direction: Array3f, distance: Float) -> Bool:
        """Whether another lamp stands in the way of a distance in mm."""
        blocked = Bool(False)
        for lamp in self._slots:
            at = crossing(lamp, origin, direction)
            blocked |= at.inside & (at.distance < distance * 0.9999)
        return blocked

    def brightness_towards(self, origin: Array3f, direction: Array3f) -> Float:
        """Luminance a ray would meet if nothing stood in its way."""
        seen = self.surround + Float(0)
        for lamp in self._slots:
            at = crossing(lamp, origin, direction)
            seen = dr.select(at.inside & (at.cosine < 0), dr.maximum(seen, lamp.brightness), seen)
        return seen

    def _lamp(self, slot: UInt32, active: Bool) -> Emitter:
        """The lamp of a slot for each ray."""
        return Emitter.of([dr.gather(Array4f, self._table, slot * QUADS + i, active) for i in range(QUADS)])

    def _surround_importance(self) -> Float:
        return self.surround * (SURROUND_SHARE * om.PI)


def _mask(lamps: Sequence[Lamp], name: str) -> int:
    return sum(1 << i for i, lamp in enumerate(lamps) if getattr(lamp, name))
