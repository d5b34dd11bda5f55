"""Templates: a panel laid flat at 1:1 mm, for artwork to be drawn on that comes back in its place."""

from __future__ import annotations

from collections.abc import Sequence

from shapely import Polygon, box
from shapely.affinity import translate

from giftwrap.core.errors import PackError, within
from giftwrap.core.formats.blank_lines import MARGIN, FlatDrawing, FlatLine, LineKind
from giftwrap.core.model import Printed
from giftwrap.core.model.panel import Place
from giftwrap.core.wrap.laid import cut_of

MOST_BLEED = 20.0


def template_of(
    panel: Printed, *, bleed: float = 3.0, safe: float = 3.0, outline: Sequence[Place] | None = None
) -> FlatDrawing:
    """A panel's cut, what is printed beyond it and what is safe from the knife, both in mm; its middle and
    its top are marked, and its size is written below.

    outline : what it is lying flat, mm from its lower left corner, where that is no rectangle

    Raises PackError when nothing of the panel is safe, or the bleed is absurd.
    """
    if not 0 <= bleed <= MOST_BLEED:
        raise PackError(f"Bleed takes 0 to {MOST_BLEED:g} mm.", "bleed")
    off = MARGIN + bleed
    page = box(0, 0, panel.width, panel.height) if outline is None else Polygon(outline)
    if not page.is_valid or page.is_empty:
        raise PackError(f"The outline of “{panel.name}” crosses itself.", "outline")
    left, foot, right, top = page.bounds
    page = translate(page, -left, -foot)
    with within("panel"):
        cut = translate(cut_of(panel, page) or page, off, off)
    kept = cut.buffer(-safe, join_style="mitre")
    if not isinstance(kept, Polygon) or kept.is_empty:
        raise PackError(
            f"With {safe:g} mm to the knife nothing of “{panel.name}” is safe: take less.", "safe"
        )
    rings: list[tuple[LineKind, Polygon]] = [("cut", cut), ("safe", kept)]
    if bleed:
        rings.append(("bleed", cut.buffer(bleed, join_style="mitre")))
    lines = [FlatLine(kind, tuple((x, y) for x, y in ring.exterior.coords)) for kind, ring in rings]
    across, tall = right - left + 2 * off, top - foot + 2 * off
    lines.append(FlatLine("middle", ((across / 2, off - bleed), (across / 2, tall - off + bleed))))
    said = f"{panel.name}, {panel.width:g} x {panel.height:g} mm, bleed {bleed:g} mm"
    names = ((said, (across / 2, MARGIN / 2)), ("top", (across / 2, tall - MARGIN / 2)))
    return FlatDrawing((across, tall), tuple(lines), names, off, bleed)
