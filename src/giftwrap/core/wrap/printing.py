"""From a panel's placements to the picture that is printed on it."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageColor

from giftwrap.core.errors import ArtworkError
from giftwrap.core.model import Panel, Placement
from giftwrap.core.wrap.artwork import MM_PER_INCH, rasterise, read_artwork

PRINT_PPI = 500.0
MAX_SIDE = 6000
KEPT_BYTES = 400_000_000
"""Prints that are kept for the next stage that shows them."""

_lock = threading.Lock()
_prints: OrderedDict[str, NDArray[np.uint8]] = OrderedDict()


def print_panel(panel: Panel, artwork: Mapping[str, bytes], *, ppi: float = PRINT_PPI) -> NDArray[np.uint8]:
    """A panel's print as `compose` makes it; the same array while nothing on it changes.

    Moving a panel on the pack does not change its print.
    """
    key = panel.model_dump_json(include={"width", "height", "stock", "placements"}) + f"@{ppi:g}"
    with _lock:
        if key in _prints:
            _prints.move_to_end(key)
            return _prints[key]
    pixels = compose(panel, artwork, ppi=ppi)
    pixels.setflags(write=False)
    with _lock:
        _prints[key] = pixels
        while sum(kept.nbytes for kept in _prints.values()) > KEPT_BYTES and len(_prints) > 1:
            _prints.popitem(last=False)
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
        _stamp(sheet, placement, artwork[placement.artwork], scale)
    return np.asarray(sheet.convert("RGB"))


def effective_ppi(placement: Placement, width_px: int | None) -> float | None:
    """Pixels per inch of a bitmap at its placed width; None for outlines, which have no limit."""
    return None if width_px is None else width_px / placement.width * MM_PER_INCH


def _stamp(sheet: Image.Image, placement: Placement, data: bytes, scale: float) -> None:
    facts = read_artwork(data, "artwork")
    width = max(round(placement.width * scale), 1)
    height = max(round(placement.width / facts.aspect * scale), 1)
    if max(width, height) > 4 * MAX_SIDE:
        raise ArtworkError(
            f"An artwork placed {placement.width:g} mm wide is far larger than its panel: place it smaller."
        )
    image = rasterise(data, facts.kind, width, height)
    left = round(placement.x * scale)
    top = sheet.height - round(placement.y * scale) - height
    window = (max(-left, 0), max(-top, 0), min(sheet.width - left, width), min(sheet.height - top, height))
    if window[0] < window[2] and window[1] < window[3]:
        sheet.alpha_composite(image, (max(left, 0), max(top, 0)), window)
