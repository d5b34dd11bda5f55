"""Light in scenes of every kind of surface, against the renderer library's integrators."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from giftwrap.bench.figure import Figure
from giftwrap.core.tests.referees import REFEREE_SCENES, compare

UNITS = 8


def run() -> Iterator[Figure]:
    """How much more or less light there is, over each picture and over all."""
    all_of_them, errors = [], []
    for name, case in REFEREE_SCENES.items():
        found = compare(*case(), units=UNITS)
        all_of_them.append(found.whole)
        errors.append(found.errors.ravel())
        yield Figure(f"truth: light over the library's, {name}", abs(100 * found.whole), "% off", 0.5)
    pooled = abs(100 * float(np.mean(all_of_them)))
    yield Figure("truth: light over the library's, all scenes", pooled, "% off", 0.2)
    beyond = 100 * float((np.concatenate(errors) > 3).mean())
    yield Figure("truth: light, blocks beyond three standard errors", beyond, "%", 6)
