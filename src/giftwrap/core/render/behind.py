"""What is seen behind what stands and gives no light: a colour, a gradient, a picture."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from functools import lru_cache
from threading import Lock

import numpy as np
from cachetools import LRUCache, cached
from PIL import Image
from scipy import ndimage

from giftwrap.core.grade.display import decode_srgb, linear_colour
from giftwrap.core.model import (
    Behind,
    ColourBehind,
    EvenSurround,
    Frame,
    GradientBehind,
    PictureBehind,
    Surround,
    SurroundBehind,
    SweepBehind,
)
from giftwrap.core.reading.artwork import rasterise, read_artwork
from giftwrap.core.render.film import Film, Floats
from giftwrap.core.render.planning import Region
from giftwrap.core.scene.faces import cut_to_fill

FAINTEST = 0.01
"""Shadows that take less of the light than this are not seen on what is behind."""
FINEST_PIXELS = 20_000_000
"""Of a picture that is behind, as it is drawn; larger ones are enlarged from that."""
_lock = Lock()


def seen_surround(frame: Frame) -> Surround | None:
    """The surround that the camera sees where there is nothing; None where that gives no light."""
    behind, around = frame.photo_set.behind, frame.photo_set.surround
    if isinstance(behind, SurroundBehind):
        return behind.other or around
    return around if isinstance(behind, SweepBehind) else None


def even_behind(frame: Frame) -> tuple[float, float, float]:
    """Linear light that the camera sees where there is nothing, where that is even; else none."""
    around = seen_surround(frame)
    if not isinstance(around, EvenSurround):
        return (0.0, 0.0, 0.0)
    red, green, blue = (around.strength * channel for channel in linear_colour(around.tint))
    return (red, green, blue)


def before_exposure(
    frame: Frame, artwork: Mapping[str, bytes], size: tuple[int, int], region: Region | None
) -> Floats:
    """(h, w, 3) linear light of what is behind, such that the frame's exposure shows it as it was chosen.

    artwork : file contents by SHA-256
    size, region : of the whole picture in px, and what of it is wanted
    """
    behind = frame.photo_set.behind
    part = region or Region(0, 0, *size)
    if isinstance(behind, PictureBehind):
        whole = _picture(behind.picture, artwork[behind.picture], size, behind.blur)
        shown = whole[part.top : part.top + part.height, part.left : part.left + part.width]
    else:
        shown = _painted(behind, size, part)
    return np.asarray(shown * np.float32(2.0**-frame.shot.grade.exposure_ev), np.float32)


def unshaded(film: Film, clean: Callable[[Floats], Floats]) -> Floats:
    """(h, w) how much of what is behind is not in the shadow that falls on it; 1 where none is seen.

    clean : takes the grain out of (h, w, 3) light
    """
    if not film.caught().any():
        return np.ones((film.height, film.width), np.float32)
    shade = clean(np.repeat(film.shade()[..., None], 3, axis=2)).mean(axis=2)
    passed: Floats = np.clip(1 - np.maximum(1 - shade - FAINTEST, 0) / (1 - FAINTEST), 0, 1)
    return passed


@lru_cache(maxsize=8)
def _painted(behind: Behind, size: tuple[int, int], part: Region) -> Floats:
    if isinstance(behind, ColourBehind):
        return np.broadcast_to(
            np.array(linear_colour(behind.colour), np.float32), (part.height, part.width, 3)
        )
    assert isinstance(behind, GradientBehind)
    x = (part.left + np.arange(part.width) + 0.5) / size[0] - 0.5
    y = (part.top + np.arange(part.height) + 0.5) / size[1] - 0.5
    if behind.round:
        wide, high = x * size[0], y * size[1]
        along = np.hypot(wide[None], high[:, None]) / (math.hypot(*size) / 2)
    else:
        turn = math.radians(behind.turn)
        sine, cosine = math.sin(turn), math.cos(turn)
        reach = (abs(sine) + abs(cosine)) / 2
        along = (y[:, None] * cosine - x[None] * sine) / (2 * reach) + 0.5
    first, second = (_codes(colour) for colour in (behind.first, behind.second))
    codes = first + along[..., None].astype(np.float32) * (second - first)
    return decode_srgb(np.clip(codes, 0, 1))


def _codes(colour: str) -> Floats:
    return np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)], np.float32) / np.float32(255)


@cached(LRUCache(maxsize=3), key=lambda name, data, size, blur: (name, size, blur), lock=_lock)
def _picture(name: str, data: bytes, size: tuple[int, int], blur: float) -> Floats:
    """A picture that fills one of a size in px."""
    facts = read_artwork(data, "the picture behind", known=True)
    wide = max(size[0], size[1] * facts.aspect)
    less = min(math.sqrt(FINEST_PIXELS / (wide * wide / facts.aspect)), 1.0)
    drawn = rasterise(data, facts.kind, max(round(wide * less), 1), max(round(wide / facts.aspect * less), 1))
    white = Image.new("RGBA", drawn.size, "#ffffff")
    white.alpha_composite(drawn)
    cut = white.convert("RGB").resize(size, Image.Resampling.LANCZOS, box=cut_to_fill(drawn, size))
    light = decode_srgb(np.asarray(cut, np.float32) / np.float32(255))
    if blur > 0:
        sigma = blur * size[0]
        light = ndimage.gaussian_filter(light, (sigma, sigma, 0), mode="nearest", truncate=3)
    return light
