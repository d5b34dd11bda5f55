"""What a picture waits for, in one process on this machine."""

from __future__ import annotations

import resource
import time
from collections.abc import Iterator
from dataclasses import replace

from giftwrap.bench.demo_job import demo_picture
from giftwrap.bench.figure import Figure, median_seconds
from giftwrap.core.model import Grade
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import WorkUnit, develop, expose_unit, plan_units
from giftwrap.core.render.proof import PRINT_PPI, proof_pass

PROOF = (346, 433)


def run() -> Iterator[Figure]:
    """First picture, proofs, a small final and the parts of it."""
    proof = replace(demo_picture(*PROOF), print_ppi=PRINT_PPI)
    started = time.perf_counter()
    proof_pass(proof, "first", 0)
    yield Figure("light: first proof, process and stage cold", time.perf_counter() - started, "s", 3)
    turn = iter(range(1, 100))
    warm = median_seconds(lambda: proof_pass(proof, f"again-{next(turn)}", 0), runs=9)
    yield Figure("light: first pass of a proof, stage loaded", 1000 * warm, "ms", None)

    final = demo_picture(640, 800)
    unit = WorkUnit(seed=1, top=0, bottom=800, samples=4, guide_samples=0)
    plain = median_seconds(lambda: expose_unit(final, unit), runs=3)
    yield Figure("light: paths a second, demo shot", 640 * 800 * 4 / plain / 1e6, "million", None, "higher")
    guided = WorkUnit(seed=1, top=0, bottom=800, samples=4, guide_samples=4)
    ratio = median_seconds(lambda: expose_unit(final, guided), runs=3) / plain
    yield Figure("light: time with guides over time without", ratio, "×", None)

    film = Film(640, 800)
    started = time.perf_counter()
    for planned in plan_units(640, 800, 64):
        film.add(expose_unit(final, planned))
    exposed = time.perf_counter()
    develop(film, Grade())
    ended = time.perf_counter()
    yield Figure("light: demo shot 640×800, 64 samples", ended - started, "s", None)
    yield Figure("light: of which denoising and grading", ended - exposed, "s", None)
    yield Figure("light: its noise before denoising", film.noise() or 0.0, "%", None)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024**2
    yield Figure("light: peak memory", peak, "GB", 3)
