"""Preflight: what would go wrong in print, and which artwork it is about."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

import numpy as np
import zxingcpp
from numpy.typing import NDArray
from PIL import Image
from shapely import Polygon, box
from shapely.affinity import rotate

from giftwrap.core.formats.blank_lines import KINDS
from giftwrap.core.model import Opaque, Placement, Printed
from giftwrap.core.model.run import Ink
from giftwrap.core.reading.artwork import rasterise
from giftwrap.core.reading.colours import PAPER_WHITE, white_edge
from giftwrap.core.reading.facts import MM_PER_INCH
from giftwrap.core.wrap.finding import Finding, Seen
from giftwrap.core.wrap.legibility import READ_PPI, contrasts, of_camera, of_type
from giftwrap.core.wrap.printing import compose, effective_ppi
from giftwrap.core.wrap.stamps import effective_aspect, facts_of

LEAST_PPI = 250.0
"""Bitmaps look soft in print below (common practice)."""
NEAR_CUT = 0.6
"""Mm from the cut within which artwork is meant to reach it."""
SMALL_GAP = 4.0
"""Mm that a label all around leaves bare at the most; more is meant."""
NOMINAL = 0.33
"""Mm of the narrowest bar of EAN and UPC symbols at 100 % (GS1 General Specifications, from memory)."""
LEAST, MOST = 0.8, 2.0
"""Magnifications that EAN and UPC symbols may have (GS1 General Specifications, from memory)."""
MODULES = {"EAN-13": 95, "UPC-A": 95, "EAN-8": 67}
MOST_ARC = 60.0
"""Degrees of a round pack that a code around it may take up: its ends then lean by 30° (GS1 General
Specifications, from memory)."""
TRIAL_PX, INKED = 160, 40
"""Side in px of what is looked at small, and from which code on something is there."""
ALL_WHITE = 0.6
"""So much of an artwork's edge that is white is a forgotten ground."""


def preflight(
    panel: Printed,
    artwork: Mapping[str, bytes],
    *,
    bleed: float = 2.0,
    around: float | None = None,
    diameter: float | None = None,
    seen: Seen | None = None,
) -> list[Finding]:
    """What to mend on a panel and what to look at, the worst first.

    artwork : file contents by SHA-256
    bleed : mm that artwork has to go beyond the cut where it reaches it
    around, diameter : of the pack behind it, mm, where it is round
    seen : what a picture shows of it

    Raises ArtworkError as `compose` does.
    """
    printed = compose(panel, artwork, ppi=READ_PPI).picture
    found = [
        *_run(panel),
        *_seam(panel, around),
        *of_camera(panel, seen),
        *_codes(panel, artwork, printed, diameter),
    ]
    for index in range(len(panel.placements)):
        found += _artwork(panel, index, artwork, bleed)
        found += of_type(panel, index, artwork, seen)
        found += contrasts(panel, index, artwork, printed)
    return sorted(found, key=lambda one: one.level == "look")


def _run(panel: Printed) -> Iterator[Finding]:
    """Layers that are nowhere."""
    for number, layer in enumerate(panel.run):
        own = isinstance(layer, Ink) and layer.material is None
        placed = any(layer.name in one.areas for one in panel.placements)
        if layer.covers == "placed" and not own and not placed:
            yield Finding("wrong", f"No artwork says where the layer “{layer.name}” is.", layer=number)


def _seam(panel: Printed, around: float | None) -> Iterator[Finding]:
    """A label all around that nearly meets itself."""
    gap = math.inf if around is None else around - panel.width
    if 0.05 < gap < SMALL_GAP:
        yield Finding("look", f"At the seam {gap:.1f} mm stay bare: is that meant?")


def _artwork(panel: Printed, index: int, artwork: Mapping[str, bytes], bleed: float) -> Iterator[Finding]:
    placement = panel.placements[index]
    data = artwork[placement.artwork]
    facts = facts_of(placement.artwork, data)
    ppi = effective_ppi(placement, facts.width_px)
    if ppi is not None and ppi < LEAST_PPI:
        yield Finding(
            "wrong", f"{ppi:.0f} ppi at its size look soft in print: {LEAST_PPI:g} are the least.", index
        )
    left_on = [name for name in facts.layers if name.lower() in KINDS and name not in placement.without]
    if left_on and placement.printed:
        yield Finding("wrong", f"The layer “{left_on[0]}” of the file would be printed.", index)
    height = placement.width / effective_aspect(facts.aspect_of(placement.page), placement.crop)
    lies = rotate(
        box(placement.x, placement.y, placement.x + placement.width, placement.y + height), -placement.turn
    )
    cut, pixels = box(0, 0, panel.width, panel.height), _small(placement, data)
    if not lies.intersects(cut):
        yield Finding("wrong", "It lies beside the panel, where nothing is printed.", index)
    elif placement.repeat is None and placement.turn % 90 == 0:
        yield from _bleed(panel, index, pixels, lies, bleed)
    if placement.printed and not placement.knock_out and _on_white(panel, pixels):
        yield Finding(
            "look",
            "Its ground is white and the stock is not: knock the white out, unless it is meant.",
            index,
        )


def _bleed(
    panel: Printed, index: int, pixels: NDArray[np.uint8], lies: Polygon, bleed: float
) -> Iterator[Finding]:
    """Edges with something on them that reach the cut and do not go far enough beyond it."""
    left, foot, right, top = lies.bounds
    beyond = {"left": -left, "right": right - panel.width, "bottom": -foot, "top": top - panel.height}
    there = np.rot90(pixels[..., 3], round(-panel.placements[index].turn / 90))
    edges = {"left": there[:, 0], "right": there[:, -1], "bottom": there[-1], "top": there[0]}
    inked = {side for side, edge in edges.items() if edge.max() > INKED}
    short = {side: mm for side, mm in beyond.items() if side in inked and -NEAR_CUT < mm < bleed - 0.05}
    if short:
        least, sides = abs(max(min(short.values()), 0.0)), ", ".join(short)
        words = f"It reaches the cut ({sides}) and goes {least:.1f} mm beyond it: {bleed:g} mm are usual."
        yield Finding("look", words, index)


def _small(placement: Placement, data: bytes) -> NDArray[np.uint8]:
    """What is left of an artwork drawn small, (rows, columns, 4)."""
    facts = facts_of(placement.artwork, data)
    aspect = facts.aspect_of(placement.page)
    size = (
        (TRIAL_PX, max(round(TRIAL_PX / aspect), 2))
        if aspect > 1
        else (max(round(TRIAL_PX * aspect), 2), TRIAL_PX)
    )
    what = {"page": placement.page, "without": list(placement.without)} if facts.kind == "pdf" else {}
    pixels = np.asarray(rasterise(data, facts.kind, *size, what=what))
    if placement.crop is None:
        return pixels
    crop, (rows, columns) = placement.crop, pixels.shape[:2]
    top, left = round(crop.top * rows), round(crop.left * columns)
    foot, right = rows - round(crop.bottom * rows), columns - round(crop.right * columns)
    return pixels[top : max(foot, top + 1), left : max(right, left + 1)]


def _on_white(panel: Printed, pixels: NDArray[np.uint8]) -> bool:
    """Whether an artwork has a white ground of its own on a stock that is not white."""
    stock = panel.made_of
    if isinstance(stock, Opaque) and int(stock.colour[1:3], 16) > PAPER_WHITE:
        return False
    return white_edge(pixels) > ALL_WHITE


def _codes(
    panel: Printed, artwork: Mapping[str, bytes], printed: Image.Image, diameter: float | None
) -> Iterator[Finding]:
    """Barcodes as they are printed, read by zxing: their size, and how far around they go."""
    flat = Image.new("RGB", printed.size, "white")
    flat.paste(printed, (0, 0), printed if printed.mode == "RGBA" else None)
    scale = READ_PPI / MM_PER_INCH
    for code in zxingcpp.read_barcodes(np.asarray(flat.convert("L"))):
        corners = np.array([(p.x, p.y) for p in _corners(code.position)], float) / scale
        across = corners[1] - corners[0]
        wide = float(np.hypot(*across))
        name = str(code.format).rsplit(".", 1)[-1]
        middle = corners.mean(axis=0)
        index = _topmost(panel, float(middle[0]), panel.height - float(middle[1]), artwork)
        said = f"{_called(name)} {code.text}"
        modules = MODULES.get(_called(name))
        if modules:
            size = wide / modules / NOMINAL
            if not LEAST - 0.02 <= size <= MOST + 0.02:
                yield Finding(
                    "wrong", f"{said} is printed at {100 * size:.0f} %: 80 to 200 % can be relied on.", index
                )
            else:
                yield Finding("look", f"{said} reads, at {100 * size:.0f} %.", index)
        else:
            yield Finding("look", f"{said} reads, {wide:.1f} mm wide.", index)
        arc = math.degrees(wide / (diameter / 2)) if diameter else 0.0
        if arc > MOST_ARC and abs(across[0]) > abs(across[1]):
            words = f"{said} goes {arc:.0f}° around the pack, of which {MOST_ARC:g}° are read in one look: "
            yield Finding("wrong", f"{words}turn it by 90°, or print it smaller.", index)


def _called(name: str) -> str:
    return {"EAN13": "EAN-13", "EAN8": "EAN-8", "UPCA": "UPC-A", "QRCode": "QR"}.get(name, name)


def _corners(position: zxingcpp.Position) -> list[zxingcpp.Point]:
    return [position.top_left, position.top_right, position.bottom_right, position.bottom_left]


def _topmost(panel: Printed, x: float, y: float, artwork: Mapping[str, bytes]) -> int | None:
    """The last artwork that covers a place."""
    for index in reversed(range(len(panel.placements))):
        one = panel.placements[index]
        if not one.printed:
            continue
        facts = facts_of(one.artwork, artwork[one.artwork])
        high = one.width / effective_aspect(facts.aspect_of(one.page), one.crop)
        if one.x <= x <= one.x + one.width and one.y <= y <= one.y + high:
            return index
    return None
