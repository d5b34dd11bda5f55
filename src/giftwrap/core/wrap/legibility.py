"""Whether what is written on a panel can be read: in print, and in a shot's picture."""

from __future__ import annotations

import math
import threading
from collections.abc import Iterator, Mapping

import numpy as np
from cachetools import LRUCache, cached
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage

from giftwrap.core.model import Printed
from giftwrap.core.reading.artwork import Inspection, inspect_artwork
from giftwrap.core.reading.facts import MM_PER_INCH, Kind
from giftwrap.core.wrap.finding import Finding, Seen
from giftwrap.core.wrap.printing import effective_ppi
from giftwrap.core.wrap.stamps import facts_of, text_mask

READ_PPI = 300.0
READ_PX = READ_PPI / MM_PER_INCH
LEAST_TYPE, MM_PER_POINT = 5.0, MM_PER_INCH / 72
"""Type in points that can be read in print (common practice)."""
X_HEIGHT, LEAST_PX = 0.5, 5.0
"""Height of small letters as a share of their type, and px of it that can be read (common practice)."""
MOST_INK = 300.0
"""Per cent of all inks together that coated paper takes (common practice)."""
LEAST_CONTRAST, NO_CONTRAST = 3.0, 1.8
"""Contrast of large type (WCAG 2.2, 1.4.3, from memory), and below which nobody reads it."""
MOST_LINES = 400


def of_camera(panel: Printed, seen: Seen | None) -> Iterator[Finding]:
    """What a picture shows of it."""
    if seen is None:
        return
    if seen.width < 1:
        yield Finding("look", "The shot's camera does not see it.")
        return
    words = (
        f"The shot's camera sees {seen.width:.0f} of its {panel.width:.0f} mm, {seen.squarely:.0f} mm of "
        f"that by less than 45° from the side, at {seen.px_per_mm:.1f} px a mm."
    )
    yield Finding("look", words)


def of_type(panel: Printed, index: int, artwork: Mapping[str, bytes], seen: Seen | None) -> Iterator[Finding]:
    """Type that is too small or mirrored, and too much ink."""
    placement = panel.placements[index]
    data = artwork[placement.artwork]
    facts = facts_of(placement.artwork, data)
    found = _inspected(placement.artwork, data, facts.kind, placement.page)
    own = facts.pages[placement.page - 1][0] if facts.pages else facts.width
    crop = placement.crop
    scale = placement.width / (own * (1 - crop.left - crop.right if crop else 1)) if own else 1.0
    if found.ink is not None and found.ink > MOST_INK:
        words = f"Its inks add up to {found.ink:.0f} % in places: paper takes {MOST_INK:g} % at the most."
        yield Finding("wrong", words, index)
    turned = next((one for one in found.types if one.mirrored), None)
    if turned:
        yield Finding("wrong", f"“{turned.words}” is written mirrored.", index)
    if not found.types:
        return
    least = found.types[0]
    points = least.size * scale / MM_PER_POINT
    if points < LEAST_TYPE:
        words = f"“{least.words}” is {points:.1f} pt: below {LEAST_TYPE:g} pt type is hard to read in print."
        yield Finding("wrong", words, index)
    high = least.size * scale * X_HEIGHT * seen.px_per_mm if seen else math.inf
    if high < LEAST_PX:
        words = (
            f"“{least.words}” has letters {high:.1f} px high in the shot's picture: {LEAST_PX:g} are read."
        )
        yield Finding("look", words, index)
    ppi = effective_ppi(placement, facts.width_px)
    shown = seen.px_per_mm * MM_PER_INCH if seen else 0.0
    if ppi is not None and ppi < shown:
        words = f"The shot's picture enlarges its {ppi:.0f} ppi: it shows {shown:.0f}."
        yield Finding("look", words, index)


@cached(LRUCache(400), key=lambda sha256, data, kind, page: (sha256, page), lock=threading.Lock())
def _inspected(sha256: str, data: bytes, kind: Kind, page: int) -> Inspection:
    return inspect_artwork(data, kind, page)


def contrasts(
    panel: Printed, index: int, artwork: Mapping[str, bytes], printed: Image.Image
) -> Iterator[Finding]:
    """What is written in a colour that hardly differs from what lies around it."""
    placement = panel.placements[index]
    facts = facts_of(placement.artwork, artwork[placement.artwork])
    if facts.kind != "svg" or not placement.printed or placement.turn or placement.repeat is not None:
        return
    stamps = text_mask(placement, artwork[placement.artwork], printed.size, panel.width)
    worst = math.inf
    pixels = np.asarray(printed.convert("RGBA")).astype(float) / 255
    lines, _ = ndimage.label(ndimage.binary_dilation(stamps > 60, iterations=round(0.7 * READ_PX)))
    for number, part in enumerate(ndimage.find_objects(lines), start=1):
        if number > MOST_LINES:
            break
        own = lines[part] == number
        letters = own & (stamps[part] > 200)
        around = own & (ndimage.binary_dilation(stamps[part] > 30, iterations=2) == 0)
        around &= pixels[part][..., 3] > 0.9
        if letters.sum() < 12 or around.sum() < 12:
            continue
        ink, ground = (np.median(pixels[part][where][:, :3], axis=0) for where in (letters, around))
        worst = min(worst, contrast(ink, ground))
    if worst < LEAST_CONTRAST:
        words = (
            f"Something written stands {worst:.1f} to 1 from what lies around it: below 3 it is hard to read."
        )
        yield Finding("wrong" if worst < NO_CONTRAST else "look", words, index)


def contrast(one: NDArray[np.float64], other: NDArray[np.float64]) -> float:
    """The contrast ratio of two colours, (3,) float sRGB from 0 to 1 (WCAG 2.2, 1.4.3)."""
    light, dark = sorted((_luminance(one), _luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def _luminance(colour: NDArray[np.float64]) -> float:
    linear = np.where(colour <= 0.04045, colour / 12.92, ((colour + 0.055) / 1.055) ** 2.4)
    return float(linear @ [0.2126, 0.7152, 0.0722])
