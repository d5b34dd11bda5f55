"""Materials: how long their pictures take to draw, all of them, and how long one waits who looks for one."""

from __future__ import annotations

import time
from collections.abc import Iterator

from giftwrap.bench.figure import Figure, median_seconds
from giftwrap.core.materials.library import found, library
from giftwrap.core.render.swatches import draw_swatch


def run() -> Iterator[Figure]:
    """Finding, drawing."""
    found(near="#b3324c")
    seconds = median_seconds(lambda: found("whi", near="#f2f0ea"), runs=9)
    yield Figure("materials: found by words and colour", 1000 * seconds, "ms", None)
    draw_swatch(library()[0].material, samples=1)  # what is loaded once
    began = time.perf_counter()
    for one in library():
        draw_swatch(one.material)
    yield Figure(f"materials: {len(library())} pictures drawn anew", time.perf_counter() - began, "s", 240.0)
