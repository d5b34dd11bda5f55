"""From a panel's placements to the picture that is printed on it."""

from __future__ import annotations

import threading
from collections.abc import Mapping

import numpy as np
from cachetools import LRUCache, cached
from numpy.typing import NDArray
from PIL import Image, ImageColor

from giftwrap.core.errors import ArtworkError
from giftwrap.core.model import Panel, Placement
from giftwrap.core.wrap.artwork import MM_PER_INCH, rasterise, read_artwork

PRINT_PPI = 500.0
MAX_SIDE = 6000
PRINT_BYTES = 400_000_000
"""Prints that are kept for the next stage that shows them."""
STAMP_BYTES = 200_000_000
"""Artwork that is kept at the size it was printed at: moving it on its panel does not draw it anew."""

_stamps_lock, _prints_lock = threading.Lock(), threading.Lock()


def _print_key(panel: Panel, artwork: Mapping[str, bytes], *, ppi: float = PRINT_PPI) -> str:
    return panel.model_dump_json(include={"width", "height", "stock", "placements"}) + f"@{ppi:g}"


def _stamp_key(placement: Placement, data: bytes, scale: float) -> tuple[str, float, float]:
    return placement.artwork, placement.width, scale


@cached(LRUCache(PRINT_BYTES, getsizeof=lambda pixels: pixels.nbytes), key=_print_key, lock=_prints_lock)
def print_panel(panel: Panel, artwork: Mapping[str, bytes], *, ppi: float = PRINT_PPI) -> NDArray[np.uint8]:
    """A panel's print as `compose` makes it; the same array while nothing on it changes.

    Moving a panel on the pack does not change its print.
    """
    pixels = compose(panel, artwork, ppi=ppi)
    pixels.setflags(write=False)
    return pixels


def compose(panel: Panel, artwork: Mapping[str, bytes], *, ppi: float = PRINT_PPI) -> NDArray[np.uint8]:
    """Compose a panel's artwork over its stock, in placement order, clipped at its edges.

    artwork : file contents by SHA-256
    returns : (height, width, 3) uint8, sRGB, top row first

    Raises ArtworkError when a placed file is missing.
    """
    scale = min(ppi / MM_PER_INCH, MAX_SIDE / max(panel.width, panel.height))
    size = (max(round(panel.width * scale), 1), max(round(panel.height * scale), 1))
    sheet = Image.new("RGBA", size, (*ImageColor.getrgb(panel.stock.colour), 255))
    for index, placement in enumerate(panel.placements):
        if placement.artwork not in artwork:
            raise ArtworkError(
                f"The artwork file of placement {index + 1} on “{panel.name}” is missing: place it again.",
                f"placements.{index}.artwork",
            )
        _put(sheet, placement, _stamp(placement, artwork[placement.artwork], scale), scale)
    return np.asarray(sheet.convert("RGB"))


def effective_ppi(placement: Placement, width_px: int | None) -> float | None:
    """Pixels per inch of a bitmap at its placed width; None for outlines, which have no limit."""
    return None if width_px is None else width_px / placement.width * MM_PER_INCH


@cached(
    LRUCache(STAMP_BYTES, getsizeof=lambda stamp: 4 * stamp.width * stamp.height),
    key=_stamp_key,
    lock=_stamps_lock,
)
def _stamp(placement: Placement, data: bytes, scale: float) -> Image.Image:
    """The artwork at the size it is placed at."""
    facts = read_artwork(data, "artwork")
    width = max(round(placement.width * scale), 1)
    height = max(round(placement.width / facts.aspect * scale), 1)
    if max(width, height) > 4 * MAX_SIDE:
        raise ArtworkError(
            f"An artwork placed {placement.width:g} mm wide is far larger than its panel: place it smaller."
        )
    return rasterise(data, facts.kind, width, height)


def _put(sheet: Image.Image, placement: Placement, stamp: Image.Image, scale: float) -> None:
    left = round(placement.x * scale)
    top = sheet.height - round(placement.y * scale) - stamp.height
    right, bottom = min(sheet.width - left, stamp.width), min(sheet.height - top, stamp.height)
    window = (max(-left, 0), max(-top, 0), right, bottom)
    if window[0] < window[2] and window[1] < window[3]:
        sheet.alpha_composite(stamp, (max(left, 0), max(top, 0)), window)
