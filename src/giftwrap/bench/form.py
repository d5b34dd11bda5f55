"""What a dragged corner waits for, on six packs of different kinds."""

from __future__ import annotations

import itertools
import os
from collections.abc import Callable, Iterator
from functools import partial

import django

from giftwrap.bench.demo_job import demo_frame
from giftwrap.bench.figure import Figure, median_seconds
from giftwrap.core.model import Pack
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.things.facts import pack_facts
from giftwrap.core.things.starting import starting_pack
from giftwrap.core.things.vessel import shape_vessel
from giftwrap.core.wrap.printing import compose

SIX = ("cordial-500", "long-neck-750", "dropper-50", "jar-50", "pump-250-oval", "flask-350-square")
SMOOTH = "cordial-500"
CORE_TARGET, PAGE_TARGET = 40.0, 100.0


def run() -> Iterator[Figure]:
    """Shaping six packs as their shoulder is dragged, and printing and compiling the demo pack."""
    shape_answer = _page()
    for slug in SIX:
        moves = itertools.count()
        pack = starting_pack(slug)
        dragged = partial(_dragged_on, pack, moves)
        core = median_seconds(lambda d=dragged: shape_vessel(d(), coarse=True), runs=15)
        page = median_seconds(lambda d=dragged: shape_answer(d()), runs=15)
        target = CORE_TARGET if slug == SMOOTH else None
        yield Figure(f"form: {slug}, a dragged corner in the core", 1000 * core, "ms", target)
        yield Figure(f"form: {slug}, until the answer is ready for the page", 1000 * page, "ms", PAGE_TARGET)
        triangles = pack_facts(shape_vessel(pack)).triangles
        yield Figure(f"form: {slug}, triangles in a final", triangles, "", 200_000)
    frame, artwork = demo_frame()
    pack = frame.shown_packs()[frame.hero()]
    printed = median_seconds(lambda: compose(pack.panels[0], artwork, ppi=220), runs=5)
    yield Figure("form: print the demo's label again for the page", 1000 * printed, "ms", 200)
    compiled = median_seconds(lambda: compile_scene(frame, artwork), runs=3)
    yield Figure("form: compile the demo's scene for light", 1000 * compiled, "ms", None)


def _page() -> Callable[[Pack], bytes]:
    """What the studio does to answer a page that shows a pack."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "giftwrap.studio.settings")
    django.setup()
    from giftwrap.studio.jobs.shapes import shape_answer

    return shape_answer


def _dragged_on(pack: Pack, moves: Iterator[int]) -> Pack:
    """The pack with the corner above its base moved up by a little more each time; its label left off."""
    body, step = pack.form.body, next(moves)
    corners = list(body.profile)
    corners[1] = corners[1].model_copy(update={"height": corners[1].height + 0.01 * (step % 50)})
    form = pack.form.model_copy(update={"body": body.model_copy(update={"profile": corners})})
    return pack.model_copy(update={"form": form, "panels": []})
