"""Light of lamps and of the surround cast at all that is clear, and where it landed."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, fields
from functools import partial

import drjit as dr
import numpy as np
from drjit.llvm.ad import Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.render.casting import cast_light
from giftwrap.core.render.geometry import Geometry
from giftwrap.core.render.irradiance import Numbers
from giftwrap.core.render.lighting import Lighting
from giftwrap.core.render.memory import aligned
from giftwrap.core.render.tables import Appearance
from giftwrap.core.render.targets import Boxes, CastRays, rays_around, rays_from
from giftwrap.core.scene.lamp import Lamp

PILOT = 1024
"""Rays by which it is told how much each light casts."""
LEAST_SHARE = 0.02
"""Of all rays, that each light has at least."""
MOST_MADE_AT_ONCE, MOST_AT_ONCE = 1 << 18, 1 << 20
AROUND_FROM = 4.0
"""What is this many times as bright as the surround is on average is cast, as far as it is beyond that."""


Rays = Callable[[int, int], CastRays]
"""Rays of a light, by how many they are and their seed."""


@dataclass(frozen=True)
class Fallen:
    """Light that landed: (n, 3) mm where, (n, 3) away from the surface to the side on which it came, (n, 3)
    what it brought, and (n,) each the slots of its lamps, the series of samples that it is for, and the
    numbers of the surfaces."""

    points: Numbers
    outwards: Numbers
    values: NDArray[np.float32]
    slots: NDArray[np.int64]
    series: NDArray[np.int64]
    surfaces: NDArray[np.int64]

    def only(self, these: NDArray[np.bool_]) -> Fallen:
        """Some of it."""
        return Fallen(*(getattr(self, field.name)[these] for field in fields(self)))

    @classmethod
    def together(cls, parts: Sequence[Fallen]) -> Fallen:
        """All of it."""
        none = np.zeros(0, np.int64)
        parts = [
            cls(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros((0, 3), np.float32), none, none, none),
            *parts,
        ]
        return cls(*(np.concatenate([getattr(part, field.name) for part in parts]) for field in fields(cls)))


@dataclass(frozen=True)
class Landings:
    """What landed on cloudy bodies, and on what is matt."""

    bodies: Fallen
    matt: Fallen


@dataclass(frozen=True)
class Stage:
    """A scene as it is loaded into the light engine; `firefly_limit` as `Renderer.expose` has it."""

    geometry: Geometry
    appearance: Appearance
    lighting: Lighting
    lamps: Sequence[Lamp]
    firefly_limit: float

    @property
    def most_around(self) -> float:
        """Radiance up to which the surround's light is not cast."""
        return AROUND_FROM * float(self.lighting.around.mean.numpy()[0])

    def cast(self, boxes: Boxes, count: int, seed: int) -> Landings:
        """Follow about so many rays towards boxes, most of them of the lights that bring most."""
        casts: dict[int, Rays] = {
            slot: partial(rays_from, lamp, boxes) for slot, lamp in enumerate(self.lamps)
        }
        around = self.lighting.around
        if around.any_picture.numpy()[0]:
            casts[self.lighting.surround_slot] = partial(rays_around, around, boxes, most=self.most_around)
        brought = {slot: float(rays(PILOT, seed).flux.sum()) for slot, rays in casts.items()}
        whole = max(sum(brought.values()), 1e-30)
        tables, none = [np.zeros((0, 3, 4), np.float32)], np.zeros(0, np.int64)
        slots, series = [none], [none]
        for slot, rays in casts.items():
            share = max(brought[slot] / whole, LEAST_SHARE) if brought[slot] > 0 else 0.0
            for number in range(2 if share else 0):
                for table in _tables(rays, share * count / 2, 64 * (64 * seed + slot) + number):
                    table[:, 0, 3] = slot
                    tables.append(table)
                    slots.append(np.full(len(table), slot))
                    series.append(np.full(len(table), number))
        joined = (np.concatenate(some) for some in (slots, series))
        return self._landed(np.concatenate(tables), *joined, seed=seed)

    def _landed(
        self, rays: NDArray[np.float32], slots: NDArray[np.int64], series: NDArray[np.int64], *, seed: int
    ) -> Landings:
        """Where rays of some slots land, for each series."""
        bodies: list[Fallen] = []
        matt: list[Fallen] = []
        for begin in range(0, len(rays), MOST_AT_ONCE):
            end = begin + MOST_AT_ONCE
            with dr.suspend_grad():
                landed = cast_light(
                    self.geometry,
                    self.appearance,
                    self.lighting,
                    aligned(Float, rays[begin:end]),
                    seed=dr.opaque(UInt32, (64 * seed + begin // MOST_AT_ONCE) % 2**32),
                )
                dr.eval(landed)
            values, points, outwards = (
                v.numpy().reshape(-1, 4) for v in (landed.values, landed.places, landed.outwards)
            )
            for kind, found in ((1, bodies), (2, matt)):
                here = np.flatnonzero(values[:, 3] == kind)
                fallen = Fallen(
                    points[here, :3].astype(np.float64),
                    outwards[here, :3].astype(np.float64),
                    values[here, :3],
                    slots[begin + here],
                    series[begin + here],
                    points[here, 3].astype(np.int64),
                )
                found.append(fallen)
        return Landings(Fallen.together(bodies), Fallen.together(matt))


def _tables(rays: Rays, count: float, seed: int) -> Iterator[NDArray[np.float32]]:
    """(n, 3, 4) where about so many rays of a light are, which way they go and what they carry, in batches;
    those that carry nothing are left out."""
    each = 2 ** round(float(np.log2(max(count, 64))))
    batches = max(each // MOST_MADE_AT_ONCE, 1)
    for batch in range(batches):
        cast = rays(each // batches, 64 * seed + batch)
        table = np.zeros((len(cast.flux), 3, 4), np.float32)
        table[:, 0, :3], table[:, 1, :3] = cast.origins, cast.directions
        table[:, 2, :3] = cast.flux / batches
        yield table[cast.flux.max(axis=1) > 0]
