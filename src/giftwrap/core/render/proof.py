"""Proofs: quick pictures that refine for as long as somebody looks.

These functions run in a long-lived rendering process, which keeps the film of the proof it is
working on. A process that was restarted simply begins that film anew.
"""

from __future__ import annotations

import time
from collections import OrderedDict
from dataclasses import dataclass

from giftwrap.core.formats.pictures import jpeg_bytes
from giftwrap.core.model import Shot
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import PictureJob, WorkUnit, develop, expose_unit

SAMPLES_IN_PASS = (1, 1, 2, 2, *[4] * 8, *[8] * 4)
"""Samples of each pass: a first look at once, then more, in passes short enough to be overtaken."""
PRINT_PPI = 220.0
"""Labels of proofs are printed coarser than those of finals: a proof shows no more."""
GUIDES_IN_PASS = 4
_KEPT = 6

_films: OrderedDict[str, Film] = OrderedDict()


@dataclass(frozen=True)
class ProofPicture:
    """A proof so far. `paths_per_second` is the measured speed of this pass."""

    jpeg: bytes
    samples: float
    noise: float | None
    paths_per_second: float
    seconds: float


def proof_pass(job: PictureJob, key: str, number: int) -> ProofPicture:
    """Take the pass with a number (from 0) of the proof named `key` and show all that has come so far."""
    started = time.perf_counter()
    film = _films.pop(key, None) or Film(job.width, job.height)
    samples = SAMPLES_IN_PASS[min(number, len(SAMPLES_IN_PASS) - 1)]
    guides = min(samples, GUIDES_IN_PASS)
    unit = WorkUnit(seed=number, top=0, bottom=job.height, samples=samples, guide_samples=guides)
    film.add(expose_unit(job, unit))
    exposed = time.perf_counter() - started
    _films[key] = film
    while len(_films) > _KEPT:
        _films.popitem(last=False)
    grade = Shot.model_validate_json(job.shot).grade
    _, picture = develop(film, grade, fast=True)
    return ProofPicture(
        jpeg=jpeg_bytes(picture),
        samples=film.samples_per_pixel,
        noise=film.noise(grade.exposure_ev),
        paths_per_second=job.width * job.height * samples / exposed,
        seconds=time.perf_counter() - started,
    )
