"""Stocks: how their faces feel, and those to begin with."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from giftwrap.core.materials.shards import Shards, shards
from giftwrap.core.model import Bare, Clear, Metal, Opaque
from giftwrap.core.model.run import Embossed, Foil, Ink, Layer, Stock, Tooth, Varnish, White

TILE_MM = 36.0
"""Faces of stocks repeat after so much."""
SHARD_MM = 0.9
"""How wide the shards of holographic foil are (by eye)."""
LAID_MM, LAID_DEEP = 0.9, 0.016
"""Between the ribs of laid paper, and how deep they are, mm (common practice)."""
FELT_MM, FELT_DEEP = 0.5, 0.03
"""Size and depth of the hollows of felt-marked paper, mm (common practice)."""
FIBRE_MM, FIBRE_WIDE = 1.4, 0.05
"""Length and width of kraft's fibres, mm (common practice)."""
FIBRE_DEEP, FIBRE_SHADE = 0.008, 0.045
FIBRE_WAYS = 7
Field = NDArray[np.float32]


@dataclass(frozen=True)
class Face:
    """One tile of a stock's face: `height` in mm and `shade` around 0, as shares of its colour."""

    height: Field
    shade: Field | None = None


@cache
def face_of(tooth: Tooth, scale: float) -> Face | None:
    """The face of a stock at so many px a mm; it meets itself at its ends. None where it is smooth."""
    side = max(round(TILE_MM * scale), 8)
    rng = np.random.default_rng(7)
    if tooth == "laid":
        ribs = round(TILE_MM / LAID_MM)
        phase = 2 * np.pi * ribs * np.arange(side, dtype=np.float32) / side
        return Face(np.tile((LAID_DEEP / 2 * np.cos(phase))[:, None], (1, side)).astype(np.float32))
    noise = rng.standard_normal((side, side), dtype=np.float32)
    if tooth == "felt":
        soft = gaussian_filter(noise, FELT_MM * scale / 2, mode="wrap")
        return Face((FELT_DEEP / 4 * soft / soft.std()).astype(np.float32))
    if tooth == "kraft":
        fibres = _fibres(noise, scale)
        return Face((FIBRE_DEEP * fibres).astype(np.float32), (FIBRE_SHADE * fibres).astype(np.float32))
    return None


@cache
def shards_at(scale: float) -> Shards:
    """The shards of holographic foil at so many px a mm, on a tile; heights in mm."""
    found = shards(max(round(TILE_MM * scale), 8), round((TILE_MM / SHARD_MM) ** 2))
    return replace(found, height=found.height * np.float32(TILE_MM))


def _fibres(noise: Field, scale: float) -> Field:
    """Fibres in all directions, more of them along the web: noise drawn out along some ways. Around 0, of a
    spread of one."""
    down, across = (np.fft.fftfreq(side) for side in noise.shape)
    total = np.zeros_like(noise)
    rng = np.random.default_rng(3)
    for number in range(FIBRE_WAYS):
        way = np.pi * (number + 0.3) / FIBRE_WAYS
        along = np.cos(way) * across[None] + np.sin(way) * down[:, None]
        aside = -np.sin(way) * across[None] + np.cos(way) * down[:, None]
        long, wide = FIBRE_MM * scale / 3, max(FIBRE_WIDE * scale, 0.3)
        drawn_out = np.exp(-2 * np.pi**2 * ((along * long) ** 2 + (aside * wide) ** 2))
        own = np.fft.ifft2(np.fft.fft2(rng.permutation(noise)) * drawn_out).real
        total += (own / own.std()).astype(np.float32) * (1 + 0.5 * abs(np.cos(way)))
    return np.asarray(total / total.std(), np.float32)


def spread(tile: Field, size: tuple[int, int]) -> Field:
    """A tile repeated over a sheet of so many px across and down."""
    rows, columns = -(-size[1] // tile.shape[0]), -(-size[0] // tile.shape[1])
    return np.tile(tile, (rows, columns, *[1] * (tile.ndim - 2)))[: size[1], : size[0]]


@dataclass(frozen=True)
class StartingRun:
    """A way of printing by name: its stock, how that feels and how thick it is in mm, and its layers.

    says : what it is good for
    """

    says: str
    stock: Stock
    thickness: float
    tooth: Tooth = "smooth"
    run: tuple[Layer, ...] = ()


WOOL_WHITE, KRAFT = Opaque(colour="#f6f2e8", gloss=0.05), Opaque(colour="#b08d62", gloss=0.08)
STARTING_RUNS: Mapping[str, StartingRun] = {
    "Four colours on coated paper": StartingRun(
        "Sharp and bright; what most labels are.", Opaque(colour="#fbf9f4", gloss=0.35), 0.1
    ),
    "Foil crest on cotton": StartingRun(
        "Soft uncoated paper, one hot foil pressed in, the crest raised.",
        WOOL_WHITE,
        0.22,
        "felt",
        (Ink(hiding=0.15), Foil(), Embossed(height=0.25, flank=0.5)),
    ),
    "Kraft and white": StartingRun(
        "Brown paper that shows through its ink; white first where colours must stay.",
        KRAFT,
        0.16,
        "kraft",
        (White(covers="placed"), Ink(hiding=0.1)),
    ),
    "No-label look": StartingRun(
        "Clear film that is not seen; white under the ink keeps it from the liquid's colour.",
        Clear(refractive_index=1.5),
        0.06,
        "smooth",
        (White(), Ink(hiding=0.2), Varnish(gloss=0.9, covers="ink")),
    ),
    "Stained glass": StartingRun(
        "Clear film without white: ink colours the light that comes through.",
        Clear(refractive_index=1.5),
        0.06,
        "smooth",
        (Ink(hiding=0.0),),
    ),
    "Screen print, two colours": StartingRun(
        "Straight onto the container, thick and opaque.",
        Bare(),
        0.05,
        "smooth",
        (
            Ink(name="First colour", material=Opaque(colour="#f4efe4", gloss=0.5)),
            Ink(name="Second colour", material=Opaque(colour="#b3324c", gloss=0.5)),
        ),
    ),
    "Inks on silver film": StartingRun(
        "Metallised film: ink without white shines like metal.",
        Metal(metal="aluminium", gloss=0.75),
        0.06,
        "smooth",
        (White(covers="placed"), Ink(hiding=0.05)),
    ),
    "Black with spot gloss": StartingRun(
        "Matt all over, gloss where it matters.",
        Opaque(colour="#1d1c1f", gloss=0.12),
        0.14,
        "smooth",
        (Ink(), Varnish(gloss=1.0, height=0.03)),
    ),
    "Laid with copper foil": StartingRun(
        "Ribbed paper and a warm cold foil.",
        Opaque(colour="#f1ebdc", gloss=0.06),
        0.18,
        "laid",
        (Ink(hiding=0.1), Foil(material=Metal(metal="copper", gloss=0.7), hot=False)),
    ),
}
"""Runs to begin with."""
