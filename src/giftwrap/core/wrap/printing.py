"""From a panel's placements to the picture that is printed on it."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from cachetools import LRUCache, cached
from numpy.typing import NDArray
from PIL import Image, ImageColor

from giftwrap.core.errors import ArtworkError
from giftwrap.core.model import Placement, Printed
from giftwrap.core.model.material import plain
from giftwrap.core.reading import ARTWORK
from giftwrap.core.reading.artwork import MM_PER_INCH, ArtworkFacts, rasterise, read_artwork

TEXELS_PER_PX = 4.0
"""A print is so much finer than the picture that shows it: between texels, small type would blur."""
COARSEST_PPI, FINEST_PPI, STEPS = 300.0, 1200.0, 4
"""Prints have one of a few resolutions, so that pictures a little larger or nearer share them."""
MAX_SIDE = 12_000
MOST_TEXELS = 40_000_000
"""Pixels of all prints of a pack together."""
PRINT_BYTES = 400_000_000
"""Prints that are kept for the next scene that shows them."""
STAMP_BYTES = 200_000_000
"""Artwork that is kept at the size it was printed at: moving it on its panel does not draw it anew."""

STAMP_PIXELS = 40_000_000
STAMP_SIDE = 16_000
"""Artwork is drawn at most this large; placed larger still, what shows of it is enlarged."""
DRAWING_S = 60.0
"""All the artwork of a panel may take this long to draw."""

_stamps_lock, _prints_lock, _facts_lock = threading.Lock(), threading.Lock(), threading.Lock()


def ppi_for(px_per_mm: float) -> float:
    """The resolution of prints that a picture shows so large: one of a few from coarsest to finest."""
    wanted = px_per_mm * TEXELS_PER_PX * MM_PER_INCH / COARSEST_PPI
    step = math.log(FINEST_PPI / COARSEST_PPI) / STEPS
    steps = min(max(math.ceil(math.log(max(wanted, 1e-9)) / step - 1e-9), 0), STEPS)
    return round(COARSEST_PPI * math.exp(steps * step))


def _print_key(
    panel: Printed, artwork: Mapping[str, bytes], *, ppi: float, seconds: float = DRAWING_S
) -> str:
    return panel.model_dump_json(include={"width", "height", "stock", "placements"}) + f"@{ppi:g}"


def _stamp_key(placement: Placement, data: bytes, scale: float, seconds: float) -> tuple[str, float, float]:
    return placement.artwork, placement.width, scale


@cached(LRUCache(PRINT_BYTES, getsizeof=lambda pixels: pixels.nbytes), key=_print_key, lock=_prints_lock)
def print_panel(
    panel: Printed, artwork: Mapping[str, bytes], *, ppi: float, seconds: float = DRAWING_S
) -> NDArray[np.uint8]:
    """A panel's print as `compose` makes it; the same array while nothing on it changes.

    Moving a panel on the pack does not change its print.
    """
    pixels = compose(panel, artwork, ppi=ppi, seconds=seconds)
    pixels.setflags(write=False)
    return pixels


def compose(
    panel: Printed, artwork: Mapping[str, bytes], *, ppi: float, seconds: float = DRAWING_S
) -> NDArray[np.uint8]:
    """Compose a panel's artwork over its stock, in placement order, clipped at its edges.

    artwork : file contents by SHA-256
    returns : (height, width, 3) uint8, sRGB, top row first

    Raises ArtworkError when a placed file is missing, or when all of them take more than `seconds`
    to draw.
    """
    deadline = time.monotonic() + seconds
    scale = min(ppi / MM_PER_INCH, MAX_SIDE / max(panel.width, panel.height))
    size = (max(round(panel.width * scale), 1), max(round(panel.height * scale), 1))
    sheet = Image.new("RGBA", size, (*ImageColor.getrgb(plain(panel.stock).colour), 255))
    for index, placement in enumerate(panel.placements):
        if placement.artwork not in artwork:
            raise ArtworkError(
                f"The artwork file of placement {index + 1} on “{panel.name}” is missing: place it again.",
                f"placements.{index}.artwork",
            )
        left = deadline - time.monotonic()
        if left <= 0:
            raise ArtworkError(
                f"The artwork on “{panel.name}” takes more than {seconds:g} s to draw: place less of it, or "
                "simplify it where it was made.",
                f"placements.{index}",
            )
        _put(sheet, placement, _stamp(placement, artwork[placement.artwork], scale, left), scale)
    return np.asarray(sheet.convert("RGB"))


def finest_ppi(panels: Sequence[Printed]) -> float:
    """The resolution at which the prints of some panels fit in memory together."""
    area = sum(panel.width * panel.height for panel in panels) / MM_PER_INCH**2
    return math.sqrt(MOST_TEXELS / area) if area else math.inf


def effective_ppi(placement: Placement, width_px: int | None) -> float | None:
    """Pixels per inch of a bitmap at its placed width; None for outlines, which have no limit."""
    return None if width_px is None else width_px / placement.width * MM_PER_INCH


@cached(
    LRUCache(STAMP_BYTES, getsizeof=lambda stamp: 4 * stamp.width * stamp.height),
    key=_stamp_key,
    lock=_stamps_lock,
)
def _stamp(placement: Placement, data: bytes, scale: float, seconds: float) -> Image.Image:
    """The artwork at the size it is placed at, or as large as it is ever drawn."""
    facts = _facts(placement.artwork, data)
    width, height = _size(placement, facts, scale)
    share = min(1.0, STAMP_SIDE / max(width, height), math.sqrt(STAMP_PIXELS / (width * height)))
    limits = replace(ARTWORK, seconds=min(seconds, ARTWORK.seconds))
    size = (max(round(width * share), 1), max(round(height * share), 1))
    return rasterise(data, facts.kind, *size, limits=limits)


@cached(LRUCache(1000), key=lambda sha256, data: sha256, lock=_facts_lock)
def _facts(sha256: str, data: bytes) -> ArtworkFacts:
    return read_artwork(data, "artwork", known=True)


def _size(placement: Placement, facts: ArtworkFacts, scale: float) -> tuple[int, int]:
    """Width and height of a placed artwork in px of the print."""
    return max(round(placement.width * scale), 1), max(round(placement.width / facts.aspect * scale), 1)


def _put(sheet: Image.Image, placement: Placement, stamp: Image.Image, scale: float) -> None:
    """Lay a stamp where it is placed; only what shows of it is worked on."""
    width = max(round(placement.width * scale), 1)
    larger = width / stamp.width
    height = stamp.height if larger == 1 else max(round(stamp.height * larger), 1)
    left = round(placement.x * scale)
    top = sheet.height - round(placement.y * scale) - height
    right, bottom = min(sheet.width - left, width), min(sheet.height - top, height)
    window = (max(-left, 0), max(-top, 0), right, bottom)
    if window[0] >= window[2] or window[1] >= window[3]:
        return
    at = (max(left, 0), max(top, 0))
    if larger == 1:
        sheet.alpha_composite(stamp, at, window)
        return
    size = (window[2] - window[0], window[3] - window[1])
    across, down = stamp.width / width, stamp.height / height
    box = (
        window[0] * across,
        window[1] * down,
        min(window[2] * across, stamp.width),
        min(window[3] * down, stamp.height),
    )
    shown = stamp.convert("RGBa").resize(size, Image.Resampling.BICUBIC, box=box).convert("RGBA")
    sheet.alpha_composite(shown, at)
