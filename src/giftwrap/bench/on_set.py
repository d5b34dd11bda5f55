"""Light and camera on a set: from a change to a picture of it, and how soon an HDR's small sun is clean."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable, Iterator
from dataclasses import replace

import drjit as dr
import numpy as np

from giftwrap.bench import crowd
from giftwrap.bench.demo_job import demo_frame
from giftwrap.bench.figure import Figure
from giftwrap.core.model import (
    Ball,
    ColourBehind,
    EvenSurround,
    Frame,
    PhotoSet,
    PicturedSurround,
    Purpose,
    SkySurround,
    Softbox,
    Spot,
    StudioCard,
    StudioSurround,
    Sun,
    SurroundBehind,
)
from giftwrap.core.model.light import Point
from giftwrap.core.reading.panoramas import packed
from giftwrap.core.render.files import shelf
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import PictureJob, develop, scene_of, take
from giftwrap.core.render.planning import Limits
from giftwrap.core.render.proof import proof_job, proof_pass
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.stage.fitting import fitted_camera

PROOF = (480, 300)
REPEATS = 11
ROWS = 1024
SUN_RADIUS = 0.3
"""Degrees."""
NOISE, FINE_NOISE = 3.0, 1.0
FINAL = (320, 400)


def sunny() -> np.ndarray:
    """(ROWS, 2 ROWS, 3) a sky with a sun of half a degree, half of the light being the sun's."""
    down, aside = np.mgrid[0:ROWS, 0 : 2 * ROWS].astype(np.float32) + 0.5
    zenith, way = down / ROWS * np.pi, aside / ROWS * np.pi - np.pi
    light = np.where(
        (zenith < np.pi / 2)[..., None], np.float32([0.5, 0.6, 0.8]), np.float32([0.3, 0.27, 0.24])
    )
    sun = np.array([np.sin(0.9) * np.sin(2.5), np.sin(0.9) * np.cos(2.5), np.cos(0.9)])
    ways = (np.sin(zenith) * np.sin(way), np.sin(zenith) * np.cos(way), np.cos(zenith))
    angle = np.arccos(np.clip(sum(a * b for a, b in zip(ways, sun, strict=True)), -1, 1))
    disc = angle < np.radians(SUN_RADIUS)
    radiance = 2.5 / (np.pi * np.radians(SUN_RADIUS) ** 2)
    return np.asarray(light + disc[..., None] * np.float32([1.05, 1.0, 0.9]) * radiance, np.float32)


def run() -> Iterator[Figure]:
    """First proofs, changes under the hand, what they compile, and noise in the light of an HDR."""
    frame, artwork = demo_frame()
    for data in artwork.values():
        shelf.put(data)
    around = PicturedSurround(picture=shelf.put(packed(sunny())), name="Yard", strength=0.5)
    on_set = frame.photo_set
    alone = on_set.model_copy(update={"lights": [], "surround": around})

    def job(photo_set: PhotoSet, **camera: object) -> PictureJob:
        shot = frame.shot.model_copy(update={"camera": frame.shot.camera.model_copy(update=camera)})
        return proof_job(frame.model_copy(update={"photo_set": photo_set, "shot": shot}), *PROOF)

    def turned(number: int) -> PictureJob:
        return job(alone.model_copy(update={"surround": around.model_copy(update={"turn": number * 5.0})}))

    def hung(number: int) -> PictureJob:
        key = on_set.lights[0].model_copy(update={"azimuth": -60.0 + number})
        return job(on_set.model_copy(update={"lights": [key, *on_set.lights[1:]]}))

    def focused(number: int) -> PictureJob:
        return job(on_set, f_number=4.0, focus=Point(y=-20.0 + number, z=100.0))

    def carded(number: int) -> PictureJob:
        card = StudioCard(name="Key", azimuth=-60 + number, elevation=20, width=30, height=60)
        return job(alone.model_copy(update={"surround": StudioSurround(cards=[card])}))

    for warm in (turned(0), hung(0), focused(0), carded(0)):
        proof_pass(warm, "warm", 0)
    yield _first(frame)
    for what, change, target in (
        ("an HDR's turn", turned, 150),
        ("a light moved", hung, 150),
        ("the focus moved", focused, 150),
        ("a light card moved", carded, None),
    ):
        yield _median(what, change, target)
    yield Figure(
        "set: kernels compiled by every kind of light and surround", _compiled(on_set, around, job), "", 0
    )
    yield from _to_noise(frame, alone)
    yield from crowd.run()


def _median(what: str, change: Callable[[int], PictureJob], target: float | None) -> Figure:
    times = []
    for number in range(1, REPEATS + 1):
        one = change(number)
        started = time.perf_counter()
        proof_pass(one, f"{what} {number}", 0)
        times.append(1000 * (time.perf_counter() - started))
    return Figure(f"set: {what}, to a picture of it", statistics.median(times), "ms", target)


def _first(frame: Frame) -> Figure:
    """A set that no process has loaded: everything is shaped, printed, laid out and looked at once."""
    rough = replace(proof_job(frame, *PROOF), width=PROOF[0] // 2, height=PROOF[1] // 2)
    times = []
    for seed in range(5):
        started = time.perf_counter()
        scene = scene_of(rough)
        camera = fitted_camera(frame.shot, scene.extent, PROOF[0] / PROOF[1])
        film = Film(rough.width, rough.height)
        film.add(Renderer(scene).expose(camera, (rough.width, rough.height), samples=1, seed=seed))
        develop(film, rough, fast=True)
        times.append(1000 * (time.perf_counter() - started))
    return Figure("set: first proof of a new set", statistics.median(times), "ms", 600)


def _compiled(on_set: PhotoSet, around: PicturedSurround, job: Callable[[PhotoSet], PictureJob]) -> int:
    there = {"azimuth": -40.0, "elevation": 30.0, "distance": 700.0}
    lights = [
        Softbox(name="Box", width=200, height=300, power_w=4, **there),
        Spot(name="Spot", diameter=40, power_w=2, **there),
        Ball(name="Ball", diameter=80, power_w=2, **there),
        Sun(name="Sun", azimuth=-40, elevation=30, irradiance=2),
    ]
    sets = [on_set.model_copy(update={"lights": [light]}) for light in lights]
    for surround in (EvenSurround(), StudioSurround(), SkySurround(), around):
        sets.append(on_set.model_copy(update={"surround": surround}))
    for behind in (ColourBehind(), SurroundBehind(), SurroundBehind(other=around)):
        sets.append(on_set.model_copy(update={"behind": behind}))
    with dr.scoped_set_flag(dr.JitFlag.KernelHistory, True):
        dr.kernel_history_clear()
        for number, one in enumerate(sets):
            proof_pass(job(one), f"compiled {number}", 0)
        return sum(k["type"] == dr.KernelType.JIT and not k["cache_hit"] for k in dr.kernel_history())


def _to_noise(frame: Frame, alone: PhotoSet) -> Iterator[Figure]:
    """Seconds to a noise under an HDR with a sun over those under three softboxes; samples under a small sun,
    whose light falls through the bottle onto what is about it, over those."""
    seconds, samples = [], []
    sun = Sun(name="Sun", azimuth=-62, elevation=34, irradiance=3.2)
    for photo_set in (frame.photo_set, alone, frame.photo_set.model_copy(update={"lights": [sun]})):
        purposes = [Purpose(width_px=FINAL[0], height_px=FINAL[1])]
        shot = frame.shot.model_copy(update={"purposes": purposes})
        one = PictureJob.of(frame.model_copy(update={"photo_set": photo_set, "shot": shot}), *FINAL)
        started = time.perf_counter()
        scene_of(one)
        shaped, started = time.perf_counter() - started, time.perf_counter()
        take(one, Limits(2))  # loads the scene and finds the light through what is clear
        loaded, started = time.perf_counter() - started, time.perf_counter()
        take(one, Limits(4000, noise=NOISE))
        seconds.append(time.perf_counter() - started)
        samples.append(take(one, Limits(4000, noise=FINE_NOISE), first_number=1000).samples_per_pixel)
    yield Figure(f"set: three softboxes to {NOISE:g} % of noise", seconds[0], "s", None)
    yield Figure(f"set: an HDR with a sun to {NOISE:g} % over that", seconds[1] / seconds[0], "×", 2.0)
    yield Figure("set: light of a small sun through the bottle found", loaded - shaped, "s", None)
    yield Figure(
        f"set: samples under a small sun to {FINE_NOISE:g} % over three softboxes",
        samples[2] / samples[0],
        "×",
        4,
    )
