"""Lamps and surround as the transport sees them: where a ray meets them, and how to aim at them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Bool, Float, UInt32

from giftwrap.core.render import optics_math as om
from giftwrap.core.render.interfaces import Lamp

FEWEST_SLOTS = 4
FAR = 1e9


@dataclass(frozen=True)
class _Slot:
    """One lamp's data, each a single opaque value so that changing it compiles nothing."""

    centre: Array3f
    across: Array3f
    up: Array3f
    normal: Array3f
    half_width: Float
    half_height: Float
    radiance: Array3f
    area: Float
    brightness: Float


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
    """Every lamp of a stage, padded to a number of slots, and its surround.

    Slot numbers are bit positions in masks; the surround's slot is `surround_slot`.
    """

    def __init__(self, lamps: Sequence[Lamp], surround: float) -> None:
        count = FEWEST_SLOTS
        while count < len(lamps):
            count *= 2
        self.surround_slot = count
        self._slots = [_slot(lamps[i] if i < len(lamps) else None) for i in range(count)]
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
            at, inside, cosine = _crossing(lamp, origin, direction)
            here = inside & (at > 0) & (at < distance) & ((invisible & (1 << number)) == 0)
            distance = dr.select(here, at, distance)
            met |= here
            slot = dr.select(here, UInt32(number), slot)
            lit = cosine < 0
            radiance = dr.select(here, dr.select(lit, lamp.radiance, 0.0), radiance)
            chance = self._importance(lamp, origin, normal) / dr.maximum(total, 1e-20)
            spread = chance * at * at / dr.maximum(-cosine * lamp.area, 1e-20)
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
        centre, across, up = dr.zeros(Array3f), dr.zeros(Array3f), dr.zeros(Array3f)
        lamp_normal, radiance = dr.zeros(Array3f), Array3f(self.surround)
        chosen_importance, area = Float(total), Float(1)
        for number, lamp in enumerate(self._slots):
            importance = self._importance(lamp, origin, normal)
            total += importance
            share = importance / dr.maximum(total, 1e-20)
            take = pick < share
            pick = dr.select(
                take, pick / dr.maximum(share, 1e-20), (pick - share) / dr.maximum(1 - share, 1e-20)
            )
            slot = dr.select(take, UInt32(number), slot)
            centre = dr.select(take, lamp.centre, centre)
            across = dr.select(take, lamp.across * lamp.half_width, across)
            up = dr.select(take, lamp.up * lamp.half_height, up)
            lamp_normal = dr.select(take, lamp.normal, lamp_normal)
            radiance = dr.select(take, lamp.radiance, radiance)
            area = dr.select(take, lamp.area, area)
            chosen_importance = dr.select(take, importance, chosen_importance)
        chance = chosen_importance / dr.maximum(total, 1e-20)
        to_lamp = centre + across * (2 * sample.x - 1) + up * (2 * sample.y - 1) - origin
        distance = dr.norm(to_lamp)
        direction = to_lamp / dr.maximum(distance, 1e-9)
        cosine = -dr.dot(direction, lamp_normal)
        density = chance * distance * distance / dr.maximum(cosine * area, 1e-20)
        lit = (cosine > 0) & ((untouched & (1 << slot)) == 0)
        s, t = om.frame_around(normal)
        around = om.out_of_frame(om.cosine_hemisphere(sample), s, t, normal)
        free = slot == self.surround_slot
        direction = dr.select(free, around, direction)
        density = dr.select(free, chance * dr.maximum(dr.dot(around, normal), 1e-9) / om.PI, density)
        radiance = dr.select(free | lit, radiance, 0.0)
        return Aim(direction, dr.select(free, FAR, distance), radiance, density, slot), total

    def blocked(self, origin: Array3f, direction: Array3f, distance: Float) -> Bool:
        """Whether another lamp stands in the way of a distance in mm."""
        blocked = Bool(False)
        for lamp in self._slots:
            at, inside, _ = _crossing(lamp, origin, direction)
            blocked |= inside & (at > 0) & (at < distance * 0.9999)
        return blocked

    def brightness_towards(self, origin: Array3f, direction: Array3f) -> Float:
        """Luminance a ray would meet if nothing stood in its way."""
        seen = self.surround + Float(0)
        for lamp in self._slots:
            at, inside, cosine = _crossing(lamp, origin, direction)
            seen = dr.select(inside & (at > 0) & (cosine < 0), dr.maximum(seen, lamp.brightness), seen)
        return seen

    def _importance(self, lamp: _Slot, origin: Array3f, normal: Array3f) -> Float:
        """Roughly what a lamp can bring to a point; 0 only where it brings nothing."""
        to_lamp = lamp.centre - origin
        distance2 = dr.squared_norm(to_lamp)
        inverse = dr.rsqrt(distance2)
        cosine = -dr.dot(to_lamp, lamp.normal) * inverse
        facing = dr.maximum(dr.dot(to_lamp, normal) * inverse, 0)
        solid_angle = dr.minimum(lamp.area * cosine / distance2, 2 * om.PI)
        return dr.select(cosine > 0, lamp.brightness * solid_angle * (0.2 + facing), 0.0)

    def _surround_importance(self) -> Float:
        return self.surround * (0.5 * om.PI)


def _crossing(lamp: _Slot, origin: Array3f, direction: Array3f) -> tuple[Float, Bool, Float]:
    """How far along a ray it crosses a lamp's plane, whether within the lamp, and at what cosine."""
    cosine = dr.dot(direction, lamp.normal)
    at = dr.dot(lamp.centre - origin, lamp.normal) / cosine
    place = origin + at * direction - lamp.centre
    inside = (dr.abs(dr.dot(place, lamp.across)) <= lamp.half_width) & (
        dr.abs(dr.dot(place, lamp.up)) <= lamp.half_height
    )
    return at, inside, cosine


def _mask(lamps: Sequence[Lamp], name: str) -> int:
    return sum(1 << i for i, lamp in enumerate(lamps) if getattr(lamp, name))


def _slot(lamp: Lamp | None) -> _Slot:
    """A lamp's data; without a lamp, one that nothing meets."""
    if lamp is None:
        centre, normal = np.array([0.0, 0.0, -FAR]), np.array([0.0, 0.0, -1.0])
        half_width = half_height = radiance = 0.0
    else:
        centre = np.array(lamp.position, dtype=float)
        normal = np.array(lamp.target, dtype=float) - centre
        normal /= np.linalg.norm(normal)
        half_width, half_height, radiance = lamp.width / 2, lamp.height / 2, lamp.radiance
    across = np.cross([0.0, 0.0, 1.0], normal)
    if np.linalg.norm(across) < 1e-6:
        across = np.array([1.0, 0.0, 0.0])
    across /= np.linalg.norm(across)
    colour = np.array([1.0, 1.0, 1.0]) * radiance
    return _Slot(
        centre=opaque3(centre),
        across=opaque3(across),
        up=opaque3(np.cross(normal, across)),
        normal=opaque3(normal),
        half_width=dr.opaque(Float, half_width),
        half_height=dr.opaque(Float, half_height),
        radiance=opaque3(colour),
        area=dr.opaque(Float, max(4 * half_width * half_height, 1e-12)),
        brightness=dr.opaque(Float, float(radiance)),
    )


def opaque3(values: np.ndarray) -> Array3f:
    """Three numbers that kernels read as data."""
    return Array3f(*(dr.opaque(Float, float(v)) for v in values))
