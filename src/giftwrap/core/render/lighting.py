"""Lamps and surround as the transport sees them: where a ray meets them, and how to aim at them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import drjit as dr
from drjit.llvm.ad import Array2f, Array3f, Bool, Float, UInt32

from giftwrap.core.render import optics_math as om
from giftwrap.core.render.emitters import FAR, aim_density, crossing, either, emitter_of, importance, point_on
from giftwrap.core.scene.scene import Lamp

FEWEST_SLOTS = 4


@dataclass
class Met:
    """Where a ray meets a lamp: distance in mm (or the given reach), its slot, radiance and the
    density with which `Lighting.aim` would have chosen this direction from the ray's origin."""

    distance: Float
    met: Bool
    slot: UInt32
    radiance: Array3f
    density: Float


@dataclass
class Aim:
    """A direction towards a light, with the radiance waiting there and the density of the choice."""

    direction: Array3f
    distance: Float
    radiance: Array3f
    density: Float
    slot: UInt32


class Lighting:
    """Every lamp of a scene, padded to a number of slots, and its surround.

    Slot numbers are bit positions in masks; the surround's slot is `surround_slot`.
    """

    def __init__(self, lamps: Sequence[Lamp], surround: float) -> None:
        count = FEWEST_SLOTS
        while count < len(lamps):
            count *= 2
        self.surround_slot = count
        self._slots = [emitter_of(lamps[i] if i < len(lamps) else None) for i in range(count)]
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

    def meet(
        self,
        origin: Array3f,
        direction: Array3f,
        reach: Float,
        *,
        invisible: UInt32,
        normal: Array3f,
        total: Float,
    ) -> Met:
        """The nearest lamp on a ray before `reach`.

        normal, total : as they were when `aim` was asked at the ray's origin; for the density
        """
        distance, slot = Float(reach), UInt32(0)
        radiance, density = dr.zeros(Array3f), dr.zeros(Float)
        met = Bool(False)
        for number, lamp in enumerate(self._slots):
            at = crossing(lamp, origin, direction)
            here = at.inside & (at.distance < distance) & ((invisible & (1 << number)) == 0)
            distance = dr.select(here, at.distance, distance)
            met |= here
            slot = dr.select(here, UInt32(number), slot)
            lit = at.cosine < 0
            radiance = dr.select(here, dr.select(lit, lamp.radiance, 0.0), radiance)
            chance = importance(lamp, origin, normal) / dr.maximum(total, 1e-20)
            spread = chance * aim_density(lamp, at.distance, -at.cosine)
            density = dr.select(here, dr.select(lit, spread, 0.0), density)
        return Met(distance, met, slot, radiance, density)

    def surround_density(self, direction: Array3f, normal: Array3f, total: Float) -> Float:
        """Density with which `aim` chooses a direction towards the surround."""
        chance = self._surround_importance() / dr.maximum(total, 1e-20)
        return chance * dr.maximum(dr.dot(direction, normal), 0) / om.PI

    def aim(
        self, origin: Array3f, normal: Array3f, untouched: UInt32, pick: Float, sample: Array2f
    ) -> tuple[Aim, Float]:
        """Choose a direction towards the lights for a surface point; also the total importance.

        untouched : mask of lamps that do not light this surface
        """
        total = self._surround_importance() + Float(0)
        slot = UInt32(self.surround_slot)
        chosen_importance, lamp = Float(total), self._slots[0]
        for number, other in enumerate(self._slots):
            its_own = importance(other, origin, normal)
            total += its_own
            share = its_own / dr.maximum(total, 1e-20)
            take = pick < share
            pick = dr.select(
                take, pick / dr.maximum(share, 1e-20), (pick - share) / dr.maximum(1 - share, 1e-20)
            )
            slot, lamp = dr.select(take, UInt32(number), slot), either(take, other, lamp)
            chosen_importance = dr.select(take, its_own, chosen_importance)
        chance = chosen_importance / dr.maximum(total, 1e-20)
        free = slot == self.surround_slot
        to_lamp = point_on(lamp, sample) - origin
        distance = dr.norm(to_lamp)
        direction = to_lamp / dr.maximum(distance, 1e-9)
        cosine = -dr.dot(direction, lamp.normal)
        density = chance * aim_density(lamp, distance, cosine)
        lit = (cosine > 0) & ((untouched & (1 << slot)) == 0)
        s, t = om.frame_around(normal)
        around = om.out_of_frame(om.cosine_hemisphere(sample), s, t, normal)
        direction = dr.select(free, around, direction)
        density = dr.select(free, chance * dr.maximum(dr.dot(around, normal), 1e-9) / om.PI, density)
        radiance = dr.select(free, Array3f(self.surround), dr.select(lit, lamp.radiance, 0.0))
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

    def _surround_importance(self) -> Float:
        return self.surround * (0.5 * om.PI)


def _mask(lamps: Sequence[Lamp], name: str) -> int:
    return sum(1 << i for i, lamp in enumerate(lamps) if getattr(lamp, name))
