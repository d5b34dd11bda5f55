"""Artwork as it is placed: drawn at its size, treated, cropped, turned and repeated."""

from __future__ import annotations

import math
import threading
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from cachetools import LRUCache, cached
from numpy.typing import NDArray
from PIL import Image, ImageChops, ImageColor

from giftwrap.core.errors import ArtworkError
from giftwrap.core.model import Placement
from giftwrap.core.model.panel import INK, Channel, Crop
from giftwrap.core.reading import ARTWORK
from giftwrap.core.reading.artwork import rasterise, read_artwork
from giftwrap.core.reading.facts import ArtworkFacts

STAMP_BYTES = 200_000_000
"""Artwork that is kept at the size it was printed at: moving it on its panel does not draw it anew."""
STAMP_PIXELS = 40_000_000
STAMP_SIDE = 16_000
"""Artwork is drawn at most this large; placed larger still, what shows of it is enlarged."""
MOST_COPIES = 4000
SOFT = 0.6
"""From this share of what is taken out as white, paper goes over to print."""
WHOLE = Crop()

_stamps_lock, _facts_lock = threading.Lock(), threading.Lock()
Box = tuple[int, int, int, int]
"""Left, top, right and lower end on a print, px."""


@dataclass(frozen=True, eq=False)
class Stamp:
    """What shows of a placed artwork on a print: `image` RGBA, at `box`; `plates` of its spot inks, RGBA."""

    image: Image.Image
    box: Box
    plates: Mapping[str, Image.Image]

    def area(self, channel: Channel) -> Image.Image:
        """How much of a layer is where, L."""
        if channel.startswith(INK):
            return self.plates[channel.removeprefix(INK)].getchannel("A")
        alpha = self.image.getchannel("A")
        if channel == "shape":
            return alpha
        light = self.image.convert("RGB").convert("L")
        return ImageChops.multiply(alpha, ImageChops.invert(light) if channel == "dark" else light)


def stamp_of(
    placement: Placement, data: bytes, scale: float, sheet: tuple[int, int], seconds: float
) -> Stamp | None:
    """What shows of a placed artwork; None where it lies beside the sheet.

    scale : px a mm of the print; sheet : its width and height in px

    Raises ArtworkError as `rasterise` does.
    """
    drawn = _treated(placement, data, scale, seconds)
    laid = _laid(placement, drawn, scale, sheet)
    if laid is None:
        return None
    image, box = laid
    plates = {}
    for spot in placement.spots:
        inked = _laid(placement, _plate(placement, data, scale, seconds, spot), scale, sheet)
        assert inked is not None
        plates[spot] = inked[0]
    return Stamp(image, box, plates)


def text_mask(placement: Placement, data: bytes, size: tuple[int, int], width: float) -> NDArray[np.uint8]:
    """Where an SVG that is placed upright has something written, as much as its letters cover, on a print.

    size : of the print, px; width : of its panel, mm

    Raises ArtworkError as `rasterise` does.
    """
    scale = size[0] / width
    drawn = _rastered(placement, data, scale, ARTWORK.seconds, only_texts=True)
    laid = _laid(placement, drawn, scale, size)
    mask = np.zeros(size[::-1], np.uint8)
    if laid is not None:
        image, (left, top, right, foot) = laid
        mask[top:foot, left:right] = np.asarray(image.getchannel("A"))
    return mask


def _laid(
    placement: Placement, drawn: Image.Image, scale: float, sheet: tuple[int, int]
) -> tuple[Image.Image, Box] | None:
    """A drawn artwork where it is placed, once or all over."""
    width = placement.width * scale
    height = width * drawn.height / drawn.width
    left, top = round(placement.x * scale), sheet[1] - round(placement.y * scale) - round(height)
    if placement.repeat is None:
        return _put(drawn, (left, top), width, placement.turn, sheet)
    whole = Image.new("RGBA", sheet)
    step = (width + placement.repeat * scale, height + placement.repeat * scale)
    reach = math.hypot(width, height)
    across, down = (
        range(math.floor(-(at + reach) / gap), math.ceil((size - at + reach) / gap) + 1)
        for at, gap, size in zip((left, top), step, sheet, strict=True)
    )
    if len(across) * len(down) > MOST_COPIES:
        across, down = range(1), range(1)
    for row in down:
        for column in across:
            x, y = round(left + column * step[0]), round(top + row * step[1])
            found = _put(drawn, (x, y), width, placement.turn, sheet)
            if found is not None:
                whole.alpha_composite(found[0], found[1][:2])
    return whole, (0, 0, *sheet)


def _put(
    drawn: Image.Image, at: tuple[int, int], width: float, turn: float, sheet: tuple[int, int]
) -> tuple[Image.Image, Box] | None:
    """A drawn artwork with its left and its upper end at px of a print, so many px wide, and turned."""
    left, top = at
    larger = round(width) / drawn.width
    wide, tall = drawn.width * larger, drawn.height * larger
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    across, down = abs(c) * wide + abs(s) * tall, abs(s) * wide + abs(c) * tall
    x, y = left + wide / 2, top + tall / 2
    box = (
        max(math.floor(x - across / 2 + 1e-6), 0),
        max(math.floor(y - down / 2 + 1e-6), 0),
        min(math.ceil(x + across / 2 - 1e-6), sheet[0]),
        min(math.ceil(y + down / 2 - 1e-6), sheet[1]),
    )
    if box[0] >= box[2] or box[1] >= box[3]:
        return None
    if larger == 1 and turn == 0:
        return drawn.crop((box[0] - left, box[1] - top, box[2] - left, box[3] - top)), box
    # from places of the box to those of the artwork
    shift_x, shift_y = box[0] - x, box[1] - y
    c, s = c / larger, s / larger
    across_from = (c, s, c * shift_x + s * shift_y + drawn.width / 2)
    down_from = (-s, c, c * shift_y - s * shift_x + drawn.height / 2)
    size = (box[2] - box[0], box[3] - box[1])
    image = drawn.convert("RGBa").transform(
        size, Image.Transform.AFFINE, (*across_from, *down_from), Image.Resampling.BICUBIC
    )
    return image.convert("RGBA"), box


def _drawn_key(placement: Placement, data: bytes, scale: float, seconds: float) -> tuple[object, ...]:
    crop = placement.crop.model_dump_json() if placement.crop else ""
    texts = tuple(sorted(placement.texts.items()))
    shown = placement.page, tuple(placement.without), tuple(placement.spots), texts
    return placement.artwork, placement.width, crop, scale, *shown


def _plate_key(
    placement: Placement, data: bytes, scale: float, seconds: float, spot: str
) -> tuple[object, ...]:
    return *_drawn_key(placement, data, scale, seconds), INK, spot


def _treated_key(placement: Placement, data: bytes, scale: float, seconds: float) -> tuple[object, ...]:
    treatment = placement.knock_out, placement.colour, placement.invert
    return *_drawn_key(placement, data, scale, seconds), *treatment


_stamps: LRUCache[object, Image.Image] = LRUCache(
    STAMP_BYTES, getsizeof=lambda stamp: 4 * stamp.width * stamp.height
)


@cached(_stamps, key=_drawn_key, lock=_stamps_lock)
def _drawn(placement: Placement, data: bytes, scale: float, seconds: float) -> Image.Image:
    """What is left of an artwork, at the size it is placed at, or as large as it is ever drawn."""
    return _rastered(placement, data, scale, seconds, left_out=placement.spots)


@cached(_stamps, key=_plate_key, lock=_stamps_lock)
def _plate(placement: Placement, data: bytes, scale: float, seconds: float, spot: str) -> Image.Image:
    """One of its spot inks."""
    return _rastered(placement, data, scale, seconds, ink=spot)


def _rastered(placement: Placement, data: bytes, scale: float, seconds: float, **how: Any) -> Image.Image:
    facts = facts_of(placement.artwork, data)
    strange = [spot for spot in placement.spots if spot not in facts.inks]
    if strange:
        known = f"it has {', '.join(facts.inks)}" if facts.inks else "it has none"
        raise ArtworkError(f"The artwork has no spot ink “{strange[0]}”: {known}.", "areas")
    crop = placement.crop or WHOLE
    wide = 1 - crop.left - crop.right
    width = max(placement.width * scale / wide, 1.0)
    height = max(width / facts.aspect_of(placement.page), 1.0)
    share = min(1.0, STAMP_SIDE / max(width, height), math.sqrt(STAMP_PIXELS / (width * height)))
    limits = replace(ARTWORK, seconds=min(seconds, ARTWORK.seconds))
    size = (max(round(width * share), 1), max(round(height * share), 1))
    what: dict[str, Any] = {}
    if facts.kind == "pdf":
        what = {"page": placement.page, "without": list(placement.without), **how}
    elif facts.kind == "svg":
        texts = {name: text for name, text in placement.texts.items() if name in facts.fields}
        what = {"texts": texts, "only_texts": how.get("only_texts", False)}
    image = rasterise(data, facts.kind, *size, limits=limits, what=what)
    if placement.crop is None:
        return image
    ends = (crop.left * size[0], crop.top * size[1], (1 - crop.right) * size[0], (1 - crop.bottom) * size[1])
    left, top, right, foot = (round(end) for end in ends)
    return image.crop((left, top, max(right, left + 1), max(foot, top + 1)))


@cached(_stamps, key=_treated_key, lock=_stamps_lock)
def _treated(placement: Placement, data: bytes, scale: float, seconds: float) -> Image.Image:
    image = _drawn(placement, data, scale, seconds)
    if placement.knock_out:
        image = without_white(image, placement.knock_out)
    if placement.invert:
        image = Image.merge("RGBA", [*map(ImageChops.invert, image.split()[:3]), image.getchannel("A")])
    return in_one_colour(image, placement.colour) if placement.colour else image


@cached(LRUCache(1000), key=lambda sha256, data: sha256, lock=_facts_lock)
def facts_of(sha256: str, data: bytes) -> ArtworkFacts:
    """What an artwork that was taken in is."""
    return read_artwork(data, "artwork", known=True)


def effective_aspect(aspect: float, crop: Crop | None) -> float:
    """Width over height of what is left of an artwork."""
    crop = crop or WHOLE
    return aspect * (1 - crop.left - crop.right) / (1 - crop.top - crop.bottom)


def without_white(image: Image.Image, tolerance: float) -> Image.Image:
    """An RGBA image whose white paper is taken out, and out of soft edges as much of it as shows there.

    tolerance : how far from white paper may be, from 0 to 1
    """
    pixels = np.asarray(image)
    off = 255 - pixels[..., :3].min(axis=-1)
    last = max(tolerance * 255, 1.0)
    codes = np.clip((np.arange(256) - SOFT * last) / ((1 - SOFT) * last), 0, 1)
    there = (255 * codes).astype(np.uint8)[off]
    share = np.maximum(there, 1)[..., None].astype(np.float32) / 255
    bare = np.clip(255 - (255 - pixels[..., :3].astype(np.float32)) / share, 0, 255).astype(np.uint8)
    soft = (there > 0) & (there < 255)
    colour: NDArray[np.uint8] = np.where(soft[..., None], bare, pixels[..., :3])
    alpha = (pixels[..., 3].astype(np.uint16) * there // 255).astype(np.uint8)
    return Image.fromarray(np.dstack([colour, alpha]))


def in_one_colour(image: Image.Image, colour: str) -> Image.Image:
    """An RGBA image in one colour: its darkest in full, white not at all."""
    alpha = image.getchannel("A")
    dark = ImageChops.multiply(alpha, ImageChops.invert(image.convert("RGB").convert("L")))
    darkest = dark.getextrema()[1]
    if isinstance(darkest, int) and darkest:
        dark = dark.point([min(round(255 * code / darkest), 255) for code in range(256)])
    solid = Image.new("RGB", image.size, ImageColor.getrgb(colour))
    return Image.merge("RGBA", [*solid.split(), dark])
