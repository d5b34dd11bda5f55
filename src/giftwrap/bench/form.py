"""What a dragged corner waits for."""

from __future__ import annotations

from collections.abc import Iterator

from giftwrap.bench.demo_job import demo_documents
from giftwrap.bench.figure import Figure, median_seconds
from giftwrap.core.form.facts import pack_facts
from giftwrap.core.form.shape import shape_pack
from giftwrap.core.render.interfaces import compile_stage
from giftwrap.core.wrap.printing import print_panel


def run() -> Iterator[Figure]:
    """Shaping, printing and compiling the demo pack."""
    pack, photo_set, _, artwork = demo_documents()
    shape = median_seconds(lambda: pack_facts(shape_pack(pack)), runs=30)
    yield Figure("form: shape the demo pack, with its facts", 1000 * shape, "ms", 40)
    printed = median_seconds(lambda: print_panel(pack.panels[0], artwork, ppi=220), runs=5)
    yield Figure("form: print its label for the page", 1000 * printed, "ms", 200)
    compiled = median_seconds(lambda: compile_stage(pack, photo_set, artwork), runs=3)
    yield Figure("form: compile its stage for light", 1000 * compiled, "ms", None)
    triangles = sum(len(s.mesh.faces) for s in compile_stage(pack, photo_set, artwork).surfaces)
    yield Figure("form: triangles on the stage", triangles, "", 200_000)
