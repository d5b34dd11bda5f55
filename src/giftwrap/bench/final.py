"""What a final takes, in one process on this machine."""

from __future__ import annotations

import resource
import time
from collections.abc import Iterator

from giftwrap.bench.demo_job import demo_picture
from giftwrap.bench.figure import Figure
from giftwrap.core.render.job import develop, take
from giftwrap.core.render.planning import Limits

SIZE = (1920, 1080)
NOISE = 5.0


def run() -> Iterator[Figure]:
    """The demo shot to a noise, with samples where the noise is and everywhere alike."""
    job = demo_picture(*SIZE)
    take(demo_picture(32, 18), Limits(2))  # kernels
    for adaptive in (True, False):
        how = "" if adaptive else ", samples everywhere alike"
        started = time.perf_counter()
        film = take(job, Limits(512, noise=NOISE, adaptive=adaptive))
        taken = time.perf_counter()
        develop(film, job)
        ended = time.perf_counter()
        target = 15.0 if adaptive else None
        yield Figure(f"final: 1920×1080 to {NOISE:g} % noise, denoised{how}", ended - started, "s", target)
        yield Figure(f"final: of which denoising and grading{how}", ended - taken, "s", None)
        yield Figure(f"final: samples per pixel{how}", film.samples_per_pixel, "", None)
        yield Figure(f"final: noise reached{how}", film.noise() or 0.0, "%", NOISE)
        del film
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024**2
    yield Figure("final: peak memory", peak, "GB", 2)
