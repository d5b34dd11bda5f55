"""Our integrator beside the library's own, on the same scenes in the same run."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np

from giftwrap.bench.demo_job import demo_frame
from giftwrap.bench.figure import Figure
from giftwrap.bench.library import LibraryScene
from giftwrap.bench.rays import against_bare_rays, by_what_there_is
from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.materials.optics import Optics, surface_optics
from giftwrap.core.model import Camera, Opaque
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.scene.scene import Instance, Scene

SIZE = (480, 600)
SAMPLES = 16
REPEATS = 5


def run() -> Iterator[Figure]:
    """Time at equal samples, noise at equal samples, and error at equal time."""
    frame, artwork = demo_frame()
    camera = frame.shot.camera
    scene = compile_scene(frame, artwork)
    painted = surface_optics(Opaque(colour="#8a6f4e", gloss=0.5))
    opaque = replace(scene, instances=tuple(_painted(instance, painted) for instance in scene.instances))
    for name, one in (("demo shot", scene), ("opaque", opaque)):
        ours, theirs, ratio = _paired(one, camera, "path")
        yield Figure(f"light: {name}, time over the library's path", ratio, "×", 1.15)
        paths = SIZE[0] * SIZE[1] * SAMPLES
        yield Figure(f"light: {name}, paths a second", paths / ours.seconds / 1e6, "million", None, "higher")
        target = 0.15 if name == "demo shot" else None
        yield Figure(
            f"light: {name}, variance over the library's", ours.variance / theirs.variance, "×", target
        )
    yield from against_bare_rays(scene, camera)
    yield from by_what_there_is(scene, compile_scene(frame, artwork, quick=True), camera)
    ours, theirs, ratio = _paired(scene, camera, "volpath")
    equal_time = np.sqrt(ours.variance * ours.seconds / (theirs.variance * theirs.seconds))
    yield Figure("light: coloured liquid, error at equal time over volpath", float(equal_time), "×", 0.5)


def _painted(instance: Instance, paint: Optics) -> Instance:
    """A pack whose every surface is painted; what its contents are open to the air with is left out."""
    if instance.name == "sweep":
        return instance
    shown = [
        (mesh, replace(surface, optics=paint))
        for mesh, surface in zip(instance.meshes, instance.surfaces, strict=True)
        if surface.part != "contents"
    ]
    return replace(instance, meshes=tuple(m for m, _ in shown), surfaces=tuple(s for _, s in shown))


class _Measured:
    """Seconds of one run, and the variance of its pixels between runs."""

    def __init__(self) -> None:
        self.times: list[float] = []
        self.pictures: list[np.ndarray] = []

    def take(self, work: Callable[[], np.ndarray]) -> None:
        started = time.perf_counter()
        picture = work()
        self.times.append(time.perf_counter() - started)
        self.pictures.append(picture)

    @property
    def seconds(self) -> float:
        return statistics.median(self.times)

    @property
    def variance(self) -> float:
        """Of the middle of the picture, where the pack stands; capped, as one sample may outshine all."""
        spread = np.var(np.array(self.pictures), axis=0, ddof=1)
        middle = spread[SIZE[1] // 8 : -SIZE[1] // 8, SIZE[0] // 4 : -SIZE[0] // 4]
        return float(np.mean(np.minimum(middle, np.quantile(middle, 0.999))))


def _paired(scene: Scene, camera: Camera, integrator: str) -> tuple[_Measured, _Measured, float]:
    """Both in turns, so that whatever else the machine does falls on both alike."""
    renderer, library = Renderer(scene), LibraryScene(scene, integrator)

    def mine(seed: int) -> np.ndarray:
        exposure = renderer.expose(camera, SIZE, samples=SAMPLES, seed=seed, firefly_limit=0)
        light = np.tensordot(LUMINANCE, exposure.light[:-1].sum(axis=0), axes=1)
        return light.reshape(SIZE[1], SIZE[0]) / SAMPLES

    def its(seed: int) -> np.ndarray:
        return library.render(camera, SIZE, samples=SAMPLES, seed=seed) @ LUMINANCE

    mine(0), its(0)
    ours, theirs = _Measured(), _Measured()
    for seed in range(1, REPEATS + 1):
        ours.take(lambda s=seed: mine(s))
        theirs.take(lambda s=seed: its(s))
    ratio = statistics.median(a / b for a, b in zip(ours.times, theirs.times, strict=True))
    return ours, theirs, ratio
