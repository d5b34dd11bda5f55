"""Proofs: quick pictures that refine for as long as somebody looks.

These functions run in a long-lived rendering process, which keeps the film of the proof it is
working on. A process that was restarted simply begins that film anew.
"""

from __future__ import annotations

import math
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from PIL import Image

from giftwrap.core.formats.pictures import jpeg_bytes
from giftwrap.core.model import Frame
from giftwrap.core.render.film import Film, Floats
from giftwrap.core.render.job import PictureJob, develop, expose_unit
from giftwrap.core.render.planning import Region, WorkUnit

FIRST_PIXELS = 24_000
LEAST_ROUGH, MOST_ROUGH = 2.0, 2.5
"""The first picture is taken so many times smaller each way that it comes at once."""
SAMPLES_IN_PASS = (1, 1, 2, 4, *[4] * 7, *[8] * 4)
"""Samples of each pass: a first look at once, then more."""
AT_ONCE_S = 0.15
"""For so long it is not asked whether the hand has moved on: asking takes a twentieth of a second."""
THUMBNAIL_SAMPLES = 12
PRINT_PPI = 220.0
"""Labels of proofs are printed coarser than those of finals: a proof shows no more."""
_KEPT = 6


@dataclass
class _Proof:
    """A film being exposed: the number of its next sample, and how long one took."""

    film: Film
    next_sample: int
    seconds: float = AT_ONCE_S


_proofs: OrderedDict[str, _Proof] = OrderedDict()


@dataclass(frozen=True)
class ProofPicture:
    """A proof so far. `paths_per_second` is the measured speed of this pass."""

    jpeg: bytes
    samples: float
    noise: float | None
    paths_per_second: float
    seconds: float


def proof_job(frame: Frame, width: int, height: int, region: Region | None = None) -> PictureJob:
    """The work on a proof of a size in px, or on a part of it.

    Raises RenderError when the size is impossible, or the part reaches beyond it.
    """
    return replace(PictureJob.of(frame, width, height, print_ppi=PRINT_PPI, quick=True), region=region)


def proof_pass(
    job: PictureJob, key: str, number: int, overtaken: Callable[[], bool] = lambda: False
) -> ProofPicture | None:
    """Take the pass with a number (from 0) of the proof named `key` and show all that has come so far.

    Pass 0 is a smaller picture by itself. None when something else has become more urgent: asked again,
    the pass goes on where it was.
    """
    started, size = time.perf_counter(), job.film_size
    if number == 0:
        job = _rough(job)
    end = sum(_samples_in(earlier) for earlier in range(1, number + 1)) if number else _samples_in(0)
    before = _proofs.pop(key, None) if number else None
    proof = before or _Proof(Film(*job.film_size), end - _samples_in(number))
    if number:
        _keep(key, proof)
    film, first, pixels = proof.film, proof.next_sample, math.prod(job.film_size)
    while proof.next_sample < end:
        if proof.next_sample > first and overtaken():
            return None
        began = time.perf_counter()
        count = max(min(int(AT_ONCE_S / proof.seconds), end - proof.next_sample), 1)
        film.add(expose_unit(job, WorkUnit(number, 0, proof.next_sample, count, first=0, last=pixels)))
        proof.next_sample += count
        proof.seconds = (time.perf_counter() - began) / count
    exposed = time.perf_counter() - started
    _, picture = develop(film, job, fast=True)
    return ProofPicture(
        jpeg=jpeg_bytes(_enlarged(picture, size) if number == 0 else picture),
        samples=film.samples_per_pixel,
        noise=None if number == 0 else film.noise(job.grade.exposure_ev),
        paths_per_second=pixels * (end - first) / exposed,
        seconds=time.perf_counter() - started,
    )


def thumbnail(job: PictureJob) -> bytes:
    """A small picture as a JPEG: clean enough to tell one from another."""
    film = Film(*job.film_size)
    last = math.prod(job.film_size)
    film.add(expose_unit(job, WorkUnit(0, 0, 0, THUMBNAIL_SAMPLES, first=0, last=last)))
    _, picture = develop(film, job, fast=True)
    return jpeg_bytes(picture)


def _keep(key: str, proof: _Proof) -> None:
    _proofs[key] = proof
    while len(_proofs) > _KEPT:
        _proofs.popitem(last=False)


def _samples_in(number: int) -> int:
    return SAMPLES_IN_PASS[min(number, len(SAMPLES_IN_PASS) - 1)]


def _rough(job: PictureJob) -> PictureJob:
    """The work on the first picture of a proof."""
    smaller = min(max(math.sqrt(math.prod(job.film_size) / FIRST_PIXELS), LEAST_ROUGH), MOST_ROUGH)
    width, height = (max(round(side / smaller), 8) for side in (job.width, job.height))
    part = job.region
    if part:
        left, across = _part_of(part.left / smaller, part.width / smaller, width)
        top, down = _part_of(part.top / smaller, part.height / smaller, height)
        part = Region(left, top, across, down)
    return replace(job, width=width, height=height, region=part)


def _part_of(start: float, length: float, whole: int) -> tuple[int, int]:
    """Start and length in whole pixels of a part that lies within so many."""
    pixels = min(max(round(length), 1), whole)
    return min(round(start), whole - pixels), pixels


def _enlarged(picture: Floats, size: tuple[int, int]) -> Floats:
    """A picture at a size in px, linear between its pixels."""
    channels = [Image.fromarray(np.ascontiguousarray(picture[..., k])) for k in range(3)]
    larger = [np.asarray(channel.resize(size, Image.Resampling.BILINEAR)) for channel in channels]
    return np.stack(larger, axis=-1)
