"""What the integrator costs beside bare intersections, and what a path costs by what there is in a scene."""

from __future__ import annotations

import copy
import statistics
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array3f, Bool, Float, UInt32

from giftwrap.bench.figure import Figure
from giftwrap.core.model import Camera
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.memory import aligned
from giftwrap.core.render.planning import Region
from giftwrap.core.render.renderer import Renderer, lens_of
from giftwrap.core.render.transport import gather_light
from giftwrap.core.scene.scene import Instance, Scene

SIZE = (480, 600)
RUNS = 5
MOST_RAYS = 4_000_000


class _Note:
    """Rays that one place of the integrator asked about."""

    def __init__(self) -> None:
        self.count = dr.zeros(UInt32, 1)
        self.rows = [dr.zeros(Float, MOST_RAYS) for _ in range(7)]
        dr.eval(self.count, self.rows)

    def take(self, ray: Any, active: Bool) -> None:
        """Write down a ray."""
        number = dr.scatter_inc(self.count, UInt32(0), active)
        for row, value in zip(self.rows, (*ray.o, *ray.d, ray.maxt), strict=True):
            dr.scatter(row, Float(value), number, active & (number < MOST_RAYS))

    @property
    def taken(self) -> int:
        """How many there were."""
        return int(self.count.numpy()[0])

    def rays(self) -> Any:
        """All of them, in the order in which they were asked about."""
        at = dr.arange(UInt32, min(self.taken, MOST_RAYS))
        rows = [dr.gather(Float, row, at) for row in self.rows]
        ray = light_engine().Ray3f(Array3f(*rows[:3]), Array3f(*rows[3:6]), rows[6], 0.0, [])
        dr.eval(ray)
        return ray


class _Recorder:
    """A search tree that writes down every ray it is asked about; each place in its own notes, as what is
    written in one may not be read in another while a loop is recorded."""

    def __init__(self, scene: Any) -> None:
        self._scene = scene
        self.nearest: list[_Note] = []
        self.shadow: list[_Note] = []

    def ray_intersect_preliminary(self, ray: Any, *, coherent: bool, active: Bool) -> Any:
        """As the tree's own."""
        self.nearest.append(_Note())
        self.nearest[-1].take(ray, active)
        return self._scene.ray_intersect_preliminary(ray, coherent=coherent, active=active)

    def ray_test(self, ray: Any, *, coherent: bool, active: Bool) -> Any:
        """As the tree's own."""
        self.shadow.append(_Note())
        self.shadow[-1].take(ray, active)
        return self._scene.ray_test(ray, coherent=coherent, active=active)


def against_bare_rays(scene: Scene, camera: Camera) -> Iterator[Figure]:
    """The rays of one sample of each pixel, followed by the integrator and by a bare loop of the library."""
    renderer = Renderer(scene)
    geometry = copy.copy(renderer._geometry)
    geometry.scene = recorder = _Recorder(renderer._geometry.scene)
    _gather(renderer, geometry, camera, 1)
    nearest, shadow = ([n.rays() for n in notes if n.taken] for notes in (recorder.nearest, recorder.shadow))
    tree = renderer._geometry.scene

    def bare() -> None:
        dr.eval([tree.ray_intersect_preliminary(rays, coherent=False).t for rays in nearest])
        dr.eval([tree.ray_test(rays, coherent=False) for rays in shadow])
        dr.sync_thread()

    ratio = statistics.median(
        _seconds(bare) / _seconds(lambda: _gather(renderer, renderer._geometry, camera, 1))
        for _ in range(RUNS)
    )
    rays, pixels = sum(note.taken for note in recorder.nearest + recorder.shadow), SIZE[0] * SIZE[1]
    yield Figure("light: rays a path", rays / pixels, "", None)
    yield Figure("light: rays a second over those of bare intersections", ratio, "×", 0.6, "higher")


def by_what_there_is(scene: Scene, coarse: Scene, camera: Camera) -> Iterator[Figure]:
    """Time of a path by pixels, triangles, lamps and copies."""
    many = tuple(
        replace(lamp, name=f"{lamp.name}-{n}", radiance=tuple(bright / 5 for bright in lamp.radiance))
        for lamp in scene.lamps
        for n in range(5)
    )
    standing = [one for one in scene.instances if one.name != "sweep"]
    copies = (*scene.instances, *(_beside(one, n) for one in standing for n in range(1, 20)))
    cases: dict[str, tuple[Scene, tuple[int, int]]] = {
        "": (scene, SIZE),
        ", a quarter of the pixels": (scene, (SIZE[0] // 2, SIZE[1] // 2)),
        ", packs with fewer columns": (coarse, SIZE),
        ", five times the lamps": (replace(scene, lamps=many), SIZE),
        ", twenty copies": (replace(scene, instances=copies), SIZE),
    }
    for what, (one, size) in cases.items():
        renderer = Renderer(one)
        renderer.expose(camera, size, samples=8, seed=0)
        times = []
        for seed in range(1, RUNS + 1):
            times.append(_seconds(lambda s=seed, r=renderer, z=size: r.expose(camera, z, samples=8, seed=s)))
        path = statistics.median(times) / (size[0] * size[1] * 8)
        yield Figure(f"light: time of a path{what}", 1e6 * path, "µs", None)


def _beside(one: Instance, number: int) -> Instance:
    """A copy out of the picture's middle, behind and beside."""
    pose = one.pose.copy()
    pose[:2, 3] += (200.0 * (number % 5 - 2), 250.0 * (1 + number // 5))
    return replace(one, name=f"{one.name}-{number}", pose=pose)


def _gather(renderer: Renderer, geometry: Any, camera: Camera, seed: int) -> None:
    count = SIZE[0] * SIZE[1]
    with dr.suspend_grad():
        gathered = gather_light(
            geometry,
            renderer._appearance,
            renderer._lighting,
            lens_of(camera, SIZE, Region(0, 0, *SIZE)),
            aligned(UInt32, np.arange(count, dtype=np.uint32)),
            kept=renderer._kept,
            samples=aligned(UInt32, np.ones(count, np.uint32)),
            begin=aligned(UInt32, np.zeros(count, np.uint32)),
            seed=dr.opaque(UInt32, seed),
            firefly_limit=dr.opaque(Float, 1.0),
        )
        dr.eval(gathered)
    dr.sync_thread()


def _seconds(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started
