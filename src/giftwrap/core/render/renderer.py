"""Light transport for one scene: load it once, then take samples from any camera."""

from __future__ import annotations

from typing import Any

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array3f, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.errors import RenderError
from giftwrap.core.model import Camera
from giftwrap.core.render.coverage import MOST_COUNTED, ObjectName, Seen
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.film import Exposure, Floats
from giftwrap.core.render.geometry import Geometry
from giftwrap.core.render.irradiance import KeptLight
from giftwrap.core.render.keeping import kept_light
from giftwrap.core.render.landing import Stage
from giftwrap.core.render.lens import lens_of
from giftwrap.core.render.lighting import Lighting
from giftwrap.core.render.memory import aligned
from giftwrap.core.render.planning import Region
from giftwrap.core.render.tables import Appearance
from giftwrap.core.render.transport import gather_light
from giftwrap.core.scene.scene import RESERVED_BUFFERS, Scene

FIREFLY_LIMIT = 1.0
"""An indirect sample brighter than the brightest lamp comes of chance, not of light."""


class Renderer:
    """A scene loaded into the light engine.

    `previous` lends what a new scene has in common with it, so that a change loads only itself.
    """

    def __init__(self, scene: Scene, *, previous: Renderer | None = None) -> None:
        light_engine()
        lamps = [lamp.name for lamp in scene.lamps]
        self.buffers = (*lamps, *RESERVED_BUFFERS)
        old_geometry: Geometry | None = previous._geometry if previous else None
        old_appearance: Appearance | None = previous._appearance if previous else None
        self._geometry: Geometry = Geometry.of(scene.instances, previous=old_geometry)
        self._appearance: Appearance = Appearance(scene.instances, lamps, previous=old_appearance)
        self.extent = scene.extent
        self._lighting = Lighting(scene.lamps, scene.around, scene.seen)
        self._lamps = len(lamps)
        self._instances, self._scene_lamps = scene.instances, scene.lamps
        self._kept = KeptLight()

    def keep_light(self, pixels: int = 1_000_000, seed: int = 0) -> None:
        """Find the light that falls through what is clear once, on what is matt and on cloudy bodies, so that
        pictures take it from there: seconds that are worth it for finals. Nothing is done where nothing is
        clear.

        pixels : of the pictures, for as many as these it is as finely known
        """
        stage = Stage(self._geometry, self._appearance, self._lighting, self._scene_lamps, FIREFLY_LIMIT)
        self._kept = kept_light(stage, self._instances, pixels=pixels, seed=seed)

    @property
    def objects(self) -> tuple[ObjectName, ...]:
        """What masks tell apart."""
        return self._appearance.objects

    def expose(
        self,
        camera: Camera,
        size: tuple[int, int],
        *,
        samples: int | NDArray[np.uint32],
        seed: int,
        begin: int | NDArray[np.uint32] = 0,
        region: Region | None = None,
        pixels: NDArray[np.uint32] | None = None,
        firefly_limit: float = FIREFLY_LIMIT,
    ) -> Exposure:
        """Take samples of a picture of `size` (width, height) px, or of a part of it.

        samples : of each pixel; one number for all or one for each
        seed, begin : which series of samples, and how many of it were taken before, like `samples`
        region : the part of the picture that is wanted
        pixels : flat numbers of the wanted pixels of the region, row by row, ascending
        firefly_limit : how bright indirect samples may be, as a multiple of the brightest lamp;
            0 leaves them as they are

        Different seeds give independent samples; samples of one seed lie evenly as they go on.

        Raises RenderError when there are more samples than masks can count.
        """
        if np.max(samples) > MOST_COUNTED:
            raise RenderError(f"At most {MOST_COUNTED} samples of a pixel are taken at once.", "samples")
        region = region or Region(0, 0, *size)
        count = region.width * region.height
        wanted = np.arange(count, dtype=np.uint32) if pixels is None else pixels
        lens = lens_of(camera, size, region)
        with dr.suspend_grad():
            gathered = gather_light(
                self._geometry,
                self._appearance,
                self._lighting,
                lens,
                aligned(UInt32, wanted),
                kept=self._kept,
                samples=aligned(UInt32, np.broadcast_to(np.uint32(samples), wanted.shape)),
                begin=aligned(UInt32, np.broadcast_to(np.uint32(begin), wanted.shape)),
                seed=dr.opaque(UInt32, seed),
                firefly_limit=dr.opaque(Float, firefly_limit),
            )
            dr.eval(gathered)
        return Exposure(
            pixels=wanted,
            samples=samples,
            buffers=self.buffers,
            objects=self.objects,
            light=_planes(self._used(gathered.light)).reshape(-1, 3, len(wanted)),
            odd=np.stack([gathered.odd.numpy(), _odd_numbers(begin, samples, len(wanted))]),
            guides=_planes(
                [gathered.albedo, gathered.normal, gathered.guided, gathered.depth, gathered.seen]
            ),
            shadow=_planes(
                [
                    *(gathered.lit, gathered.open, gathered.caught, gathered.caught_light, gathered.beyond),
                    gathered.caught_lit,
                ]
            ),
            seen=Seen.of_slots(np.stack([slot.numpy() for slot in gathered.slots])),
        )

    def _used(self, buffers: list[Any]) -> list[Any]:
        """The buffers of lamps that are there, of the surround and of the background."""
        return [*buffers[: self._lamps], *buffers[-2:]]


def _odd_numbers(begin: int | NDArray[np.uint32], samples: int | NDArray[np.uint32], count: int) -> Floats:
    """(count,) how many odd numbers there are from `begin` on, of so many."""
    first = np.asarray(begin, np.int64)
    odd = (first + samples) // 2 - first // 2
    return np.broadcast_to(odd, (count,)).astype(np.float32)


def _planes(values: list[Any]) -> Floats:
    """(channels, pixels) of numbers and colours one after the other."""
    channels = [c for value in values for c in (value if isinstance(value, Array3f) else [value])]
    return np.stack([channel.numpy() for channel in channels])
