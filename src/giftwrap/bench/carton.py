"""Cartons: how long a changed size takes until blank and box are there, and a table of the styles."""

from __future__ import annotations

import resource
from collections.abc import Iterator
from itertools import combinations, count

from giftwrap.bench.figure import Figure, median_seconds
from giftwrap.core.carton.shape import fold_carton
from giftwrap.core.carton.styles import STYLES
from giftwrap.core.formats.blank_in import read_blank
from giftwrap.core.formats.blank_out import write_blank
from giftwrap.core.model import Carton, Pack
from giftwrap.core.model.carton import Board
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.studio.jobs.shapes import shape_answer

RUNS = 15


def run() -> Iterator[Figure]:
    """Each style at 84 × 60 × 90 mm of 0.5 mm board, pillows 30 mm high."""
    for style in STYLES:
        depth = 30 if style == "pillow" else 90
        carton = Carton(style=style, length=84, width=60, depth=depth, board=Board(caliper=0.5))
        sizes = count(84.0, 0.1)

        def answer(carton: Carton = carton, sizes: Iterator[float] = sizes) -> bytes:
            return shape_answer(Pack(form=carton.model_copy(update={"length": next(sizes)})))

        yield Figure(
            f"carton: {style}, a size to its answer", 1000 * median_seconds(answer, runs=RUNS), "ms", 100
        )
        shape = fold_carton(carton)
        blanks = shape.blanks.values()
        solids = [
            solid.transform(one.pose[:3])
            for one in shape.components
            for solid in one.folded.solids().values()
        ]
        met = sum((a ^ b).volume() for a, b in combinations(solids, 2))
        steps = max(blank.steps for blank in blanks) + (len(blanks) > 1)
        yield Figure(f"carton: {style}, blank", sum(blank.area for blank in blanks) / 100, "cm²", None)
        # bent board meets in facets, which share a little
        most = 1e-4 * sum(blank.area for blank in blanks) * 0.5 if style == "pillow" else 0.01
        yield Figure(f"carton: {style}, board inside of board when shut", met, "mm³", most)
        inside = carton.length, carton.width, carton.depth
        yield Figure(f"carton: {style}, inside", inside[0] * inside[1] * inside[2] / 1000, "cm³", None)
        yield Figure(f"carton: {style}, steps to close", steps, "", None)
    start_reading(EVERYTHING)
    blanks_read = fold_carton(Carton(style="reverse-tuck", length=84, width=60, depth=90)).blanks
    for form in ("svg", "dxf", "pdf"):
        data = write_blank(blanks_read, form)
        seconds = median_seconds(lambda d=data, f=form: read_blank(d, f"x.{f}"), runs=5)
        yield Figure(f"carton: a blank read from {form.upper()}", seconds, "s", 2.0)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024**2
    yield Figure("carton: peak memory", peak, "GB", 1)
