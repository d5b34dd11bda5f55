"""Materials: what is waited for while one is chosen and changed, what they cost light, how long their
pictures take."""

from __future__ import annotations

import io
import statistics
import time
from collections.abc import Iterator
from dataclasses import replace

import drjit as dr
import numpy as np
from PIL import Image
from scipy import ndimage

from giftwrap.bench.cloudy import cream_to_a_final
from giftwrap.bench.demo_job import demo_frame
from giftwrap.bench.figure import Figure, median_seconds
from giftwrap.core.materials.library import found, library, picture_of
from giftwrap.core.materials.optics import material_optics
from giftwrap.core.materials.patterns import NAMES, pattern
from giftwrap.core.materials.pictured import read_picture
from giftwrap.core.model import Frame, Opaque
from giftwrap.core.model.material import Material
from giftwrap.core.model.worked import Fade, Film, Grain, Pictures
from giftwrap.core.render.files import shelf
from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.proof import proof_job, proof_pass
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.render.swatches import draw_swatch
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.scene.scene import Instance, Scene

PROOF, SIZE = (480, 300), (360, 450)
REPEATS, SAMPLES = 7, 8
SIDE = 4096
CHANGES: dict[str, Material] = {
    "a gloss": Opaque(colour="#6f1d33", gloss=0.31),
    "a pattern": Opaque(colour="#6f1d33", grain=Grain(pattern="leather", depth=0.1)),
    "a pattern through it": Opaque(colour="#dcb88c", grain=Grain(pattern="wood", lies="through", share=0.7)),
    "a fade": Opaque(colour="#6f1d33", fade=Fade(begins=0, whole=20)),
    "a film": Opaque(colour="#f2ede4", gloss=0.7, film=Film(thickness=380)),
}


def run() -> Iterator[Figure]:
    """Finding, changing, the cost of patterns, drawing."""
    frame, artwork = demo_frame()
    for data in artwork.values():
        shelf.put(data)
    found(near="#b3324c")
    seconds = median_seconds(lambda: found("whi", near="#f2f0ea"), runs=9)
    yield Figure("materials: found by words and colour", 1000 * seconds, "ms", None)
    seconds = median_seconds(lambda: [picture_of(one.key).read_bytes() for one in library()], runs=5)
    yield Figure(f"materials: {len(library())} kept pictures read", 1000 * seconds, "ms", 1000.0)
    yield from _made_patterns()
    yield from _changed(frame)
    yield from _pictured(frame)
    yield from _costs(frame, artwork)
    yield from cream_to_a_final()
    draw_swatch(library()[0].material, samples=1)  # what is loaded once
    began = time.perf_counter()
    for one in library():
        draw_swatch(one.material)
    yield Figure(f"materials: {len(library())} pictures drawn anew", time.perf_counter() - began, "s", 240.0)


def _made_patterns() -> Iterator[Figure]:
    times = []
    for name in NAMES:
        began = time.perf_counter()
        pattern(name)
        times.append(time.perf_counter() - began)
    yield Figure("materials: a pattern made, the slowest", max(times), "s", 1.0)


def _job(frame: Frame, material: Material, number: int = 0) -> PictureJob:
    """A proof of the hero with another closure; others with other numbers."""
    pack = frame.packs[frame.hero()]
    other = material.model_copy(update={"density": 1.0 + number / 1000})
    closure = pack.form.closure.model_copy(update={"material": other})
    form = pack.form.model_copy(update={"closure": closure})
    packs = {frame.hero(): pack.model_copy(update={"form": form})}
    return proof_job(frame.model_copy(update={"packs": packs}), *PROOF)


def _to_proof(job: PictureJob, name: str) -> float:
    began = time.perf_counter()
    proof_pass(job, name, 0)
    return time.perf_counter() - began


def _changed(frame: Frame) -> Iterator[Figure]:
    """From a change to a proof of it, and what is compiled for that."""
    for number in (0, 1):
        proof_pass(_job(frame, Opaque()), "first", number)
    for what, material in CHANGES.items():
        jobs = [_job(frame, material, number) for number in range(REPEATS)]
        times = [1000 * _to_proof(job, f"{what} {number}") for number, job in enumerate(jobs)]
        yield Figure(f"materials: {what} to a proof, median", statistics.median(times), "ms", 150.0)
    with dr.scoped_set_flag(dr.JitFlag.KernelHistory, True):
        dr.kernel_history_clear()
        for what, material in CHANGES.items():
            proof_pass(_job(frame, material, REPEATS), f"{what} compiled", 0)
        made = [k for k in dr.kernel_history() if k["type"] == dr.KernelType.JIT and not k["cache_hit"]]
    yield Figure("materials: kernels compiled by these", len(made), "", 0)


def _pictured(frame: Frame) -> Iterator[Figure]:
    """Three pictures of 4096 × 4096: read, and to a first proof of them, files and all."""
    rng = np.random.default_rng(1)
    rough = ndimage.gaussian_filter(rng.standard_normal((SIDE, SIDE)).astype(np.float32), 3, mode="wrap")
    codes = np.clip(128 + 60 * rough / rough.std(), 0, 255).astype(np.uint8)
    down, across = np.gradient(8 * rough / rough.std())
    facing = np.dstack([-across, down, np.ones_like(down)])
    facing /= np.linalg.norm(facing, axis=2, keepdims=True)
    given = {
        "colour": np.dstack([codes, codes[::-1], codes[:, ::-1]]),
        "roughness": codes,
        "normal": np.round(127.5 * (facing + 1)).astype(np.uint8),
    }
    files = []
    for name, values in given.items():
        stream = io.BytesIO()
        Image.fromarray(values).save(stream, "PNG", compress_level=1)
        files.append((f"{name}.png", stream.getvalue()))
    began = time.perf_counter()
    read = [read_picture(data, name) for name, data in files]
    yield Figure("materials: three pictures of 4k taken in", time.perf_counter() - began, "s", None)
    names = {facts.part: shelf.put(kept) for facts, kept in read}
    grain = Grain(pattern=Pictures(**names), scale=20, share=1, depth=0.4)
    proof_pass(_job(frame, Opaque()), "before pictures", 0)
    seconds = _to_proof(_job(frame, Opaque(gloss=0.5, grain=grain)), "pictured")
    yield Figure("materials: three pictures of 4k to a proof, the first", seconds, "s", 1.0)
    wider = [grain.model_copy(update={"scale": 20.0 + number}) for number in range(1, REPEATS)]
    times = [1000 * _to_proof(_job(frame, Opaque(gloss=0.5, grain=g)), f"wide {g.scale}") for g in wider]
    yield Figure("materials: pictures turned to a proof, median", statistics.median(times), "ms", 150.0)


def _costs(frame: Frame, artwork: dict[str, bytes]) -> Iterator[Figure]:
    """Time at equal samples with patterns on everything that is painted, over that without."""
    scene = compile_scene(frame, artwork)
    worn = Opaque(colour="#8a6f4e", gloss=0.5, grain=Grain(pattern="leather", share=0.5, depth=0.1))
    plain, patterned = (
        Renderer(_painted(scene, one)) for one in (worn.model_copy(update={"grain": None}), worn)
    )
    times: dict[int, list[float]] = {0: [], 1: []}
    for repeat in range(REPEATS + 1):
        for index, renderer in enumerate((plain, patterned)):
            began = time.perf_counter()
            renderer.expose(frame.shot.camera, SIZE, samples=SAMPLES, seed=1)
            if repeat:
                times[index].append(time.perf_counter() - began)
    paths = SIZE[0] * SIZE[1] * SAMPLES
    medians = [statistics.median(times[index]) for index in (0, 1)]
    yield Figure("materials: paths a second, plain", paths / medians[0] / 1e6, "million", None, "higher")
    yield Figure("materials: paths a second, patterned", paths / medians[1] / 1e6, "million", None, "higher")
    ratios = [b / a for a, b in zip(times[0], times[1], strict=True)]
    yield Figure("materials: everything patterned over plain, time", statistics.median(ratios), "×", None)


def _painted(scene: Scene, material: Material) -> Scene:
    """A scene in which every surface of packs is made of one material."""
    optics = material_optics(material)

    def dressed(instance: Instance) -> Instance:
        if instance.name == "sweep":
            return instance
        shown = tuple(replace(surface, optics=optics) for surface in instance.surfaces)
        return replace(instance, surfaces=shown)

    return replace(scene, instances=tuple(map(dressed, scene.instances)))
