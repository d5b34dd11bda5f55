"""The noise that finals tell against the noise there is between twenty of them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from giftwrap.bench.demo_job import demo_picture
from giftwrap.bench.figure import Figure
from giftwrap.core.grade.display import LUMINANCE, encode_srgb
from giftwrap.core.render.job import take
from giftwrap.core.render.planning import Limits

RENDERS = 20
SHOTS = ("hero", "the-range")
NOISES = (5.0, 3.0, 1.5)
SIZE = {"hero": (160, 200), "the-range": (240, 135)}


def run() -> Iterator[Figure]:
    """By shot and order, and over all of them."""
    shares = []
    for shot in SHOTS:
        for noise in NOISES:
            ratio = told_over_real(shot, noise)
            shares.append(ratio)
            name = f"truth: noise told over real, {shot} to {noise:g} %"
            yield Figure(f"{name}, mean", float(ratio.mean()), "×", 1.0)
    ratios = np.concatenate(shares)
    close = 100 * float((np.abs(ratios - 1) <= 0.1).mean())
    yield Figure(f"truth: finals whose noise is told within 10 %, of {len(ratios)}", close, "%", 90, "higher")
    yield Figure("truth: noise told over real, the most hopeful", float(ratios.min()), "×", 0.95, "higher")


def told_over_real(shot: str, noise: float) -> np.ndarray:
    """(renders,) what each tells over what there is, to which its exposure and grade are alike."""
    job = demo_picture(*SIZE[shot], shot)
    told, shown = [], []
    for number in range(RENDERS):
        film = take(job, Limits(600, noise=noise), first_number=100_000 * number)
        told.append(film.noise(job.grade.exposure_ev))
        light = film.mean_light(job.background) @ LUMINANCE
        shown.append(encode_srgb(light * 2.0**job.grade.exposure_ev))
    real = 100 * np.sqrt(np.var(shown, axis=0, ddof=1).mean())
    return np.array(told, float) / real
