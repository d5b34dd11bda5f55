"""Lamps and surround as the transport sees them: where a ray meets them, and how to aim at them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Array4f, Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.render import optics_math as om
from giftwrap.core.render.emitters import (
    FACE_HEAD,
    FAR,
    FEW,
    MANY,
    QUADS,
    Emitter,
    crossing,
    face_rows,
    importance,
    in_beam,
    per_solid_angle,
    place_of,
    point_density,
    point_on,
    round_crossing,
    round_importance,
    row_of,
    shares_of,
    way_to,
    way_to_disc,
)
from giftwrap.core.render.memory import aligned
from giftwrap.core.render.surroundings import Surroundings
from giftwrap.core.scene.lamp import Lamp
from giftwrap.core.scene.surrounding import Surrounding

FEWEST_SLOTS = 4
LEAST_SEEN = 0.3
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


def _dazzle(lamp: Lamp) -> float:
    """Radiance that indirect light is measured by: that of small round lamps as if they were `LEAST_SEEN` sr
    large, as whatever finds them by chance would be a spark."""
    if lamp.shape == "rectangle":
        return lamp.brightest
    size = lamp.area / max(float(np.dot(lamp.centre, lamp.centre)), lamp.area)
    return lamp.brightest * min(size / LEAST_SEEN, 1.0)


def _opaque(row: NDArray[np.float32]) -> Emitter:
    """An emitter that kernels read as data, the same for all rays."""
    return Emitter.of([Array4f(*(dr.opaque(Float, float(v)) for v in quad)) for quad in row])


@dataclass
class _Choice:
    """A lamp chosen so far: importance of all and of it, its slot, and what is left of the number used."""

    total: Float
    chosen: Float
    slot: UInt32
    pick: Float

    def offered(self, number: int, its_own: Float) -> _Choice:
        """The choice among those before and one more."""
        total = self.total + its_own
        share = its_own / dr.maximum(total, 1e-20)
        take = self.pick < share
        left = dr.select(
            take, self.pick / dr.maximum(share, 1e-20), (self.pick - share) / dr.maximum(1 - share, 1e-20)
        )
        chosen = dr.select(take, its_own, self.chosen)
        return _Choice(total, chosen, dr.select(take, UInt32(number), self.slot), left)


class Lighting:
    """Every lamp of a scene, padded to a number of slots, and its surround.

    Slot numbers are bit positions in masks; the surround's slot is `surround_slot`.
    """

    def __init__(self, lamps: Sequence[Lamp], around: Surrounding, seen: Surrounding | None = None) -> None:
        count = FEWEST_SLOTS
        while count < len(lamps):
            count *= 2
        self.surround_slot = count
        begins, faces = face_rows(lamps)
        rows = [row_of(lamps[i], begins[i]) if i < len(lamps) else row_of(None) for i in range(count)]
        flat = [
            lamp is None or lamp.shape == "rectangle" for lamp in (*lamps, *[None] * (count - len(lamps)))
        ]
        none = row_of(None)
        self._slots = [_opaque(row if is_flat else none) for row, is_flat in zip(rows, flat, strict=True)]
        self._round = [_opaque(none if is_flat else row) for row, is_flat in zip(rows, flat, strict=True)]
        self._any_round = dr.opaque(Bool, not all(flat))
        self._any_odd = dr.opaque(Bool, not all(flat) or any(lamp.face is not None for lamp in lamps))
        self._table = aligned(Float, np.array(rows))
        self._faces = aligned(Float, faces)
        self.around = Surroundings(around, seen)
        self._hidden_from_camera = dr.opaque(
            UInt32, sum(1 << i for i, one in enumerate(lamps) if one.hidden_from_camera)
        )
        self.brightest = dr.opaque(Float, max([*map(_dazzle, lamps), self.around.dazzle]))

    def invisible(self, from_camera: Bool, unmirrored: UInt32) -> UInt32:
        """Slots that a ray passes through: hidden from the camera, or not mirrored where it comes from."""
        return dr.select(from_camera, self._hidden_from_camera, UInt32(0)) | unmirrored

    @dr.syntax
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
        if self._any_round & (direction.x < FAR):
            for number, lamp in enumerate(self._round):
                at = round_crossing(lamp.seen_from(origin), origin, direction)
                here = at.inside & (at.distance < distance) & ((invisible & (1 << number)) == 0)
                distance, cosine = dr.select(here, at.distance, distance), dr.select(here, at.cosine, cosine)
                met |= here
                slot = dr.select(here, UInt32(number), slot)
        return Met(distance, met, slot, cosine)

    @dr.syntax
    def met_radiance(self, met: Met, origin: Array3f, direction: Array3f) -> Array3f:
        """What a lamp that was met shines along the ray; its back is black."""
        lit = met.met & (met.cosine < 0)
        quad = dr.gather(Array4f, self._table, met.slot * QUADS + 4, lit)
        radiance = dr.select(lit, Array3f(quad.x, quad.y, quad.z), 0.0)
        if self._any_odd & lit:
            lamp = self._lamp(met.slot, lit)
            place = place_of(lamp, origin + direction * met.distance)
            radiance = self._radiance(lamp, place, -met.cosine, lit)
        return radiance

    @dr.syntax
    def met_density(self, met: Met, origin: Array3f, direction: Array3f, aimed: Aimed) -> Float:
        """Density with which `aim` would have chosen the direction in which a lamp was met.

        aimed : as it was when `aim` was asked on the ray's way
        """
        lit = met.met & (met.cosine < 0)
        lamp = self._lamp(met.slot, lit)
        begin = origin - direction * aimed.gone
        shares = shares_of(lamp, begin, aimed.normal, MANY)
        place = place_of(lamp, origin + direction * met.distance)
        chance = importance(lamp, [shares[MANY.index(p)] for p in FEW])
        density = point_density(shares, place)
        turned = per_solid_angle(lamp.area, met.distance + aimed.gone, -met.cosine)
        if self._any_odd & lit:
            if lamp.face > 0:
                density = point_density(self._by_face(lamp, shares, lit), place)
            if lamp.is_round:
                seen = lamp.seen_from(begin)
                of_it = shares_of(seen, begin, aimed.normal, FEW)
                chance = round_importance(seen, begin, of_it)
                at = round_crossing(seen, begin, direction)
                density, turned = Float(1), per_solid_angle(seen.area, at.distance, -at.cosine)
        return dr.select(lit, density * turned * chance / dr.maximum(aimed.total, 1e-20), 0.0)

    @dr.syntax
    def surround_density(self, direction: Array3f, aimed: Aimed, active: Bool) -> Float:
        """Density with which `aim` chooses a direction towards the surround."""
        chance = self._surround_importance(aimed.normal, active) / dr.maximum(aimed.total, 1e-20)
        density = dr.maximum(dr.dot(direction, aimed.normal), 0) / om.PI
        if self.around.any_picture & active:
            density = self.around.density(direction, active)
        return chance * density

    @dr.syntax
    def aim(self, origin: Array3f, normal: Array3f, untouched: UInt32, sample: Array2f) -> tuple[Aim, Float]:
        """Choose a direction towards the lights for a surface point; also the total importance.

        untouched : mask of lamps that do not light this surface
        """
        free_share = self._surround_importance(normal, origin.x < FAR)
        choice = _Choice(free_share, free_share, UInt32(self.surround_slot), Float(sample.x))
        for number, lamp in enumerate(self._slots):
            its_own = importance(lamp, shares_of(lamp, origin, normal, FEW))
            its_own = dr.select((untouched & (1 << number)) == 0, its_own, 0.0)
            choice = choice.offered(number, its_own)
        if self._any_round & (origin.x < FAR):
            for number, lamp in enumerate(self._round):
                seen = lamp.seen_from(origin)
                its_own = round_importance(seen, origin, shares_of(seen, origin, normal, FEW))
                its_own = dr.select((untouched & (1 << number)) == 0, its_own, 0.0)
                choice = choice.offered(number, its_own)
        total, slot = choice.total, choice.slot
        chance = choice.chosen / dr.maximum(total, 1e-20)
        sample = Array2f(dr.clip(choice.pick, 0, 1), sample.y)  # what is left of the choice is as good as new
        free = slot == self.surround_slot
        lamp = self._lamp(slot, ~free)
        shares = shares_of(lamp, origin, normal, MANY)
        place = point_on(shares, sample)
        there, normal_there, area = way_to(lamp, origin, place), Array3f(lamp.normal), Float(lamp.area)
        density = point_density(shares, place)
        odd = self._any_odd & ~free
        if odd:
            if lamp.face > 0:
                by_face = self._by_face(lamp, shares, ~free)
                place = point_on(by_face, sample)
                density, there = point_density(by_face, place), way_to(lamp, origin, place)
            if lamp.is_round:
                seen = lamp.seen_from(origin)
                there, normal_there, area = way_to_disc(seen, origin, sample), seen.normal, seen.area
                density = Float(1)
        distance = dr.norm(there)
        direction = there / dr.maximum(distance, 1e-9)
        cosine = -dr.dot(direction, normal_there)
        density *= per_solid_angle(area, distance, cosine)
        shines = Array3f(lamp.radiance)
        if odd:
            shines = self._radiance(lamp, place, cosine, ~free)
        s, t = om.frame_around(normal)
        anywhere = om.out_of_frame(om.cosine_hemisphere(sample), s, t, normal)
        free_density = dr.maximum(dr.dot(anywhere, normal), 1e-9) / om.PI
        if self.around.any_picture & free:
            anywhere = self.around.chosen(sample, free)
            free_density = self.around.density(anywhere, free)
        direction = dr.select(free, anywhere, direction)
        density = chance * dr.select(free, free_density, density)
        from_around = self.around.radiance(direction, free)
        radiance = dr.select(free, from_around, dr.select(cosine > 0, shines, 0.0))
        return Aim(direction, dr.select(free, FAR, distance), radiance, density, slot), total

    @dr.syntax
    def blocked(self, origin: Array3f, direction: Array3f, distance: Float) -> Bool:
        """Whether another lamp stands in the way of a distance in mm."""
        blocked = Bool(False)
        for lamp in self._slots:
            at = crossing(lamp, origin, direction)
            blocked |= at.inside & (at.distance < distance * 0.9999)
        if self._any_round & (direction.x < FAR):
            for lamp in self._round:
                at = round_crossing(lamp.seen_from(origin), origin, direction)
                blocked |= at.inside & (at.distance < distance * 0.9999)
        return blocked

    @dr.syntax
    def brightness_towards(self, origin: Array3f, direction: Array3f) -> Float:
        """Luminance a ray would meet if nothing stood in its way."""
        seen = self.around.mean + Float(0)
        for lamp in self._slots:
            at = crossing(lamp, origin, direction)
            seen = dr.select(at.inside & (at.cosine < 0), dr.maximum(seen, lamp.brightness), seen)
        if self._any_round & (direction.x < FAR):
            for lamp in self._round:
                at = round_crossing(lamp.seen_from(origin), origin, direction)
                seen = dr.select(at.inside & (at.cosine < 0), dr.maximum(seen, lamp.brightness), seen)
        return seen

    def _lamp(self, slot: UInt32, active: Bool) -> Emitter:
        """The lamp of a slot for each ray."""
        return Emitter.of([dr.gather(Array4f, self._table, slot * QUADS + i, active) for i in range(QUADS)])

    def _by_face(self, lamp: Emitter, shares: Sequence[Float], active: Bool) -> list[Float]:
        """Shares of places, each by how bright a lamp's face is about it."""
        faced = active & (lamp.face > 0)
        quads = [dr.gather(Array4f, self._faces, lamp.face + i, faced) for i in range(FACE_HEAD)]
        about = [value for quad in quads for value in (quad.x, quad.y, quad.z, quad.w)]
        return [dr.select(faced, share * own, share) for share, own in zip(shares, about, strict=False)]

    def _radiance(self, lamp: Emitter, place: Array2f, cosine: Float, active: Bool) -> Array3f:
        """What shines from a place of a lamp at an angle to its axis, between four texels of its face."""
        faced = active & (lamp.face > 0)
        x = dr.clip(place.x * lamp.columns - 0.5, 0, lamp.columns - 1)
        y = dr.clip(place.y * lamp.rows - 0.5, 0, lamp.rows - 1)
        left, low = dr.minimum(dr.floor(x), lamp.columns - 2), dr.minimum(dr.floor(y), lamp.rows - 2)
        first = lamp.face + FACE_HEAD + UInt32(low * lamp.columns + left)
        corners = []
        for beside in (UInt32(0), UInt32(1), UInt32(lamp.columns), UInt32(lamp.columns) + 1):
            quad = dr.gather(Array4f, self._faces, first + beside, faced)
            corners.append(Array3f(quad.x, quad.y, quad.z))
        lower, upper = (dr.lerp(corners[i], corners[i + 1], x - left) for i in (0, 2))
        shown = dr.select(faced, dr.lerp(lower, upper, y - low), 1.0)
        return lamp.radiance * in_beam(lamp, cosine) * shown

    @dr.syntax
    def _surround_importance(self, normal: Array3f, active: Bool) -> Float:
        """Roughly what the surround brings to a surface: little of what is even, as following surfaces finds
        that as well."""
        found = self.around.even_brightness * (SURROUND_SHARE * om.PI) + normal.x * 0
        if self.around.any_picture & active:
            found = self.around.falls(normal)
        return found
