"""What a dragged corner waits for, on six packs of different kinds."""

from __future__ import annotations

import itertools
import os
from collections.abc import Callable, Iterator, Mapping

import django

from giftwrap.bench.demo_job import demo_documents
from giftwrap.bench.figure import Figure, median_seconds
from giftwrap.core.form.facts import pack_facts
from giftwrap.core.form.shape import shape_pack
from giftwrap.core.form.starting import starting_pack
from giftwrap.core.model import Pack
from giftwrap.core.render.interfaces import compile_stage
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
        core = median_seconds(lambda p=pack, m=moves: shape_pack(_dragged(p, next(m)), coarse=True), runs=15)
        page = median_seconds(lambda p=pack, m=moves: shape_answer(_dragged(p, next(m)), {}), runs=15)
        target = CORE_TARGET if slug == SMOOTH else None
        yield Figure(f"form: {slug}, a dragged corner in the core", 1000 * core, "ms", target)
        yield Figure(f"form: {slug}, until the answer is ready for the page", 1000 * page, "ms", PAGE_TARGET)
        triangles = pack_facts(shape_pack(pack)).triangles
        yield Figure(f"form: {slug}, triangles in a final", triangles, "", 200_000)
    pack, photo_set, _, artwork = demo_documents()
    printed = median_seconds(lambda: compose(pack.panels[0], artwork, ppi=220), runs=5)
    yield Figure("form: print the demo's label again for the page", 1000 * printed, "ms", 200)
    compiled = median_seconds(lambda: compile_stage(pack, photo_set, artwork), runs=3)
    yield Figure("form: compile the demo's stage for light", 1000 * compiled, "ms", None)


def _page() -> Callable[[Pack, Mapping[str, bytes]], bytes]:
    """What the studio does to answer a page that shows a pack."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "giftwrap.studio.settings")
    django.setup()
    from giftwrap.studio.jobs.forming import shape_answer

    return shape_answer


def _dragged(pack: Pack, step: int) -> Pack:
    """The pack with the corner above its base moved up by a little more each time; its label left off."""
    corners = list(pack.body.profile)
    corners[1] = corners[1].model_copy(update={"height": corners[1].height + 0.01 * (step % 50)})
    body = pack.body.model_copy(update={"profile": corners})
    return pack.model_copy(update={"body": body, "panels": []})
