"""What the hand waits for while it works on a set: in the rendering process, from change to picture."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable, Iterator

import drjit as dr
import numpy as np

from giftwrap.bench.demo_job import demo_frame
from giftwrap.bench.figure import Figure
from giftwrap.core.model import Opaque, Pack, PhotoSet, Shot, WrapPanel
from giftwrap.core.render.files import shelf
from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.proof import SAMPLES_IN_PASS, proof_job, proof_pass

PROOF = (480, 300)
REPEATS = 15


def run() -> Iterator[Figure]:
    """Moves, changes, a new part, and how far a proof gets in a second."""
    frame, artwork = demo_frame()
    pack, photo_set, shot = frame.packs[frame.hero()], frame.photo_set, frame.shot
    for data in artwork.values():
        shelf.put(data)
    bare = pack.model_copy(update={"panels": []})

    def job(pack: Pack = pack, photo_set: PhotoSet = photo_set, shot: Shot = shot) -> PictureJob:
        changes = {"packs": {frame.hero(): pack}, "photo_set": photo_set, "shot": shot}
        return proof_job(frame.model_copy(update=changes), *PROOF)

    def formed(**changes: object) -> Pack:
        return pack.model_copy(update={"form": pack.form.model_copy(update=changes)})

    def moved(number: int) -> PictureJob:
        camera = shot.camera.model_copy(update={"azimuth": number * 1.0})
        return job(shot=shot.model_copy(update={"camera": camera}))

    def coloured(number: int) -> PictureJob:
        paint = Opaque(colour=f"#a0{number + 16:02x}40")
        return job(pack=formed(closure=pack.form.closure.model_copy(update={"material": paint})))

    def lit(number: int) -> PictureJob:
        key = photo_set.lights[0].model_copy(update={"power_w": 5.0 + number})
        return job(photo_set=photo_set.model_copy(update={"lights": [key, *photo_set.lights[1:]]}))

    def filled(number: int) -> PictureJob:
        return job(
            pack=formed(contents=pack.form.contents.model_copy(update={"fill_height": 120.0 + number}))
        )

    def labelled(number: int) -> PictureJob:
        back = WrapPanel(name="Back", from_base=30, width=40 + number, height=60, centre_angle=180)
        return job(pack=pack.model_copy(update={"panels": [*pack.panels, back]}))

    proof_pass(job(), "first", 0)
    proof_pass(job(), "first", 1)
    proof_pass(job(pack=bare), "bare", 0)
    yield from _times("a camera move", moved, 60)
    yield from _times("a colour change", coloured, 100)
    yield from _times("a light change", lit, 100)
    yield from _times("a fill change", filled, 100)
    yield from _times("adding a part", labelled, 1500)
    yield Figure(
        "proof: kernels compiled by all of these", _compiled(moved, coloured, lit, filled, labelled), "", 0
    )
    samples, side = _in_a_second(job())
    yield Figure("proof: samples after one second", samples, "", None, "higher")
    yield Figure("proof: width of the picture then", side, "px", PROOF[0], "higher")


def _times(what: str, change: Callable[[int], PictureJob], target: float) -> Iterator[Figure]:
    times = []
    for number in range(REPEATS):
        job = change(number)
        started = time.perf_counter()
        proof_pass(job, f"{what} {number}", 0)
        times.append(1000 * (time.perf_counter() - started))
    yield Figure(f"proof: {what} to a picture, median", statistics.median(times), "ms", target)
    yield Figure(f"proof: {what} to a picture, 95th percentile", float(np.quantile(times, 0.95)), "ms", None)


def _compiled(*changes: Callable[[int], PictureJob]) -> int:
    with dr.scoped_set_flag(dr.JitFlag.KernelHistory, True):
        dr.kernel_history_clear()
        for number, change in enumerate(changes):
            proof_pass(change(REPEATS + number), f"compiled {number}", 0)
        return sum(k["type"] == dr.KernelType.JIT and not k["cache_hit"] for k in dr.kernel_history())


def _in_a_second(job: PictureJob) -> tuple[float, int]:
    started, samples, number = time.perf_counter(), 0.0, 0
    while time.perf_counter() - started < 1 and number < len(SAMPLES_IN_PASS):
        if picture := proof_pass(job, "one second", number):
            samples = picture.samples
        number += 1
    return samples, job.width if number > 1 else job.width // 2
