"""Patterns that things have on or through them: leather, wood, marble, brushing. Made here, from noise.

A pattern repeats without a seam. It is either a sheet, which is laid over a surface, or a block, which goes
through a solid, so that its edges and ends show what they would.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from typing import Any, get_args

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw
from scipy import ndimage
from scipy.spatial import cKDTree

from giftwrap.core.materials.shards import shards
from giftwrap.core.model.worked import PatternName

Values = NDArray[np.float32]
NAMES: tuple[PatternName, ...] = get_args(PatternName)
SHEET, BLOCK = 512, 80
"""Texels along the sides of a sheet and of a block."""
VEIN_RANGE = 16.0
"""Texels across that are told of how far it is to a vein."""
EDGE_RANGE = 20.0
"""Distances to edges are told up to half of a period's share of this."""


@dataclass(frozen=True, eq=False)
class Pattern:
    """One period.

    texels : (nz, ny, nx) uint32. The lowest 8 bits are its tone, from the material's colour to that of the
        pattern; the next 8 its gloss, how much glossier (above a half) or duller a place is, or of wood, how
        its rings wander; the upper 16 its height, from the lowest to the highest place
    period : what it takes up across, up and deep in multiples of its scale
    rings : it has rings about its grain, one to each step of its scale
    edges : where it is not 0 there is no relief. More than 0: its tone is that of gloss where height is
        over a half, with an edge so steep. Less: where height is a half runs a vein, gloss its strength
    colours : (ny, nx) uint32, of a period: red, green, blue and opacity from the lowest 8 bits, sRGB
    glossed : gloss is the surface's own, from dead matt to polished, not how it differs
    """

    texels: NDArray[np.uint32]
    period: tuple[float, float, float]
    rings: bool = False
    edges: float = 0.0
    colours: NDArray[np.uint32] | None = None
    glossed: bool = False

    @property
    def solid(self) -> bool:
        """Whether it goes through a body rather than lying on it."""
        return len(self.texels) > 1

    @property
    def nbytes(self) -> int:
        """What it takes up."""
        return self.texels.nbytes + (0 if self.colours is None else self.colours.nbytes)


@cache
def pattern(name: PatternName) -> Pattern:
    """A pattern by its name, the same each time. Made when it is first asked for, in up to a second."""
    return _MADE[name](np.random.default_rng(NAMES.index(name)))


def _noise(rng: np.random.Generator, shape: tuple[int, ...], blur: tuple[float, ...] | float) -> Values:
    """Periodic noise, evenly spread over 0..1; `blur` in texels along each side."""
    return _spread(_blurred(rng, shape, blur))


def _blurred(rng: np.random.Generator, shape: tuple[int, ...], blur: tuple[float, ...] | float) -> Values:
    """Periodic noise of a width; wide noise is made at half the size."""
    if np.min(blur) >= 3:
        half = _blurred(rng, tuple(n // 2 for n in shape), tuple(np.broadcast_to(blur, len(shape)) / 2))
        return np.asarray(ndimage.zoom(half, 2, order=1, mode="grid-wrap", grid_mode=True))
    rough = rng.standard_normal(shape).astype(np.float32)
    return np.asarray(ndimage.gaussian_filter(rough, blur, mode="wrap"))


def _spread(values: Values) -> Values:
    """The same order of values, as if normally spread, as ranks between 0 and 1."""
    deviation = (values - values.mean()) / max(float(values.std()), 1e-9)
    return np.asarray(0.5 * (1 + np.tanh(0.8 * deviation)), np.float32)


def _whole(values: Any) -> Values:
    """Stretched to run from 0 to 1."""
    low, high = float(np.min(values)), float(np.max(values))
    return np.asarray((values - low) / max(high - low, 1e-9), np.float32)


def _step(low: float, high: float, values: Any) -> Values:
    """0 below, 1 above, smooth between."""
    t = np.clip((values - low) / (high - low), 0, 1)
    return np.asarray(t * t * (3 - 2 * t), np.float32)


def _cells(
    rng: np.random.Generator, shape: tuple[int, ...], count: int, nearest: int = 2, *, stretch: float = 1.0
) -> tuple[Values, NDArray[np.int64]]:
    """(…, nearest) distances to the nearest of so many scattered points of a periodic block of side 1, and
    their numbers (Worley 1996). The points keep apart, as cells do.

    stretch : cells are so much longer along the last side
    """
    sides = np.array([*([1.0] * (len(shape) - 1)), 1.0 / stretch])
    points = _apart(rng, count, sides)
    places = np.stack(
        np.meshgrid(
            *((np.arange(n) + 0.5) / n * s for n, s in zip(shape, sides, strict=True)), indexing="ij"
        ),
        axis=-1,
    )
    distances, numbers = cKDTree(points, boxsize=sides).query(places, k=nearest, workers=2)
    return distances.astype(np.float32), numbers


def _apart(rng: np.random.Generator, count: int, sides: NDArray[np.float64]) -> NDArray[np.float64]:
    """(count, d) points that keep apart: the best of a few each (Mitchell 1991)."""
    points = rng.random((1, len(sides))) * sides
    while len(points) < count:
        step = max(1, len(points) // 3)
        tries = rng.random((step * 8, len(sides))) * sides
        distance, _ = cKDTree(points, boxsize=sides).query(tries)
        points = np.vstack([points, tries[np.argsort(distance)[-step:]]])
    return points[:count]


def _packed(tone: Any, gloss: Any, height: Any, shape: tuple[int, int, int]) -> NDArray[np.uint32]:
    """Texels of values between 0 and 1."""
    word = np.zeros(shape, np.uint32)
    for values, most, shift in ((tone, 255, 0), (gloss, 255, 8), (height, 65535, 16)):
        word |= np.round(most * np.clip(values, 0, 1)).astype(np.uint32) << shift
    word.setflags(write=False)
    return word


def _sheet(tone: Any, gloss: Any, height: Any, period: tuple[float, float]) -> Pattern:
    return Pattern(_packed(tone, gloss, height, (1, SHEET, SHEET)), (*period, 1.0))


def _block(tone: Any, gloss: Any, height: Any, period: float, *, rings: bool = False) -> Pattern:
    return Pattern(_packed(tone, gloss, height, (BLOCK,) * 3), (period, period, period), rings)


def _edged(inside: Any, period: float, shade: Any) -> Pattern:
    """A block of what has sharp edges: the distance to them, in shares of the period, positive inside."""
    texels = _packed(0.0, shade, 0.5 + inside * EDGE_RANGE, (BLOCK,) * 3)
    return Pattern(texels, (period, period, period), edges=2 * BLOCK / EDGE_RANGE)


def _brushed(rng: np.random.Generator) -> Pattern:
    streaks = 0.65 * _noise(rng, (SHEET, SHEET), (0.7, 60)) + 0.35 * _noise(rng, (SHEET, SHEET), (2.5, 90))
    return _sheet(_whole(streaks), 0.5 + 0.35 * (_whole(streaks) - 0.5), _whole(streaks), (256.0, 128.0))


def _cast(rng: np.random.Generator) -> Pattern:
    size = (SHEET, SHEET)
    rough = 0.5 * _noise(rng, size, 5) + 0.35 * _noise(rng, size, 2) + 0.15 * _noise(rng, size, 12)
    pits = _step(0.86, 0.97, _noise(rng, size, 3))
    return _sheet(_whole(rough), 0.5 - 0.25 * pits, _whole(rough - 0.5 * pits), (40.0, 40.0))


def _concrete(rng: np.random.Generator) -> Pattern:
    size = (BLOCK,) * 3
    cloud, fine = _noise(rng, size, 9), _noise(rng, size, 0.8)
    distance, numbers = _cells(rng, size, 900, 1)
    radius = (0.1 + 0.9 * rng.random(900) ** 3)[numbers] * 0.03
    pore = 1 - _step(0.8, 1.1, distance / radius)
    tone = np.clip(0.55 * cloud + 0.3 * fine + 0.5 * pore, 0, 1)
    return _block(tone, 0.5 - 0.3 * pore, np.clip(0.9 - 0.12 * fine - 0.8 * pore, 0, 1), 10.0)


def _cork(rng: np.random.Generator) -> Pattern:
    size = (BLOCK,) * 3
    distance, numbers = _cells(rng, size, 1600, 2)
    own = rng.random(1600).astype(np.float32)[numbers[..., 0]]
    gap = 1 - _step(0.0, 0.02, distance[..., 1] - distance[..., 0])
    dark = _step(0.8, 0.95, _noise(rng, size, (3.5, 3.5, 1.5)))
    tone = np.clip(0.12 + 0.45 * own**1.5 + 0.3 * gap + 0.75 * dark, 0, 1)
    return _block(tone, 0.5, np.clip(0.85 - 0.3 * gap - 0.65 * dark - 0.15 * own, 0, 1), 11.7)


def _felt(rng: np.random.Generator) -> Pattern:
    size = (SHEET, SHEET)
    marks = 0.6 * _noise(rng, size, 9) + 0.4 * _noise(rng, size, (5, 14))
    fine = _noise(rng, size, 1.2)
    return _sheet(0.25 * fine, 0.5, _whole(marks + 0.2 * fine), (18.0, 18.0))


def _fibres(rng: np.random.Generator) -> Pattern:
    """Short curved fibres in all directions, light and dark, one over the other."""
    twice = Image.new("L", (SHEET * 2, SHEET * 2), 128)
    pen = ImageDraw.Draw(twice)
    around = np.array(np.meshgrid([-1, 0, 1], [-1, 0, 1])).reshape(2, -1).T * SHEET * 2
    for _ in range(4000):
        middle, turn = rng.random(2) * SHEET * 2, rng.random() * np.pi
        bend, length = rng.normal(0, 0.5), rng.gamma(4.0, 9.0) * 2
        along = np.linspace(-0.5, 0.5, 7)
        turned = turn + bend * along
        line = np.column_stack([np.cos(turned), np.sin(turned)]) * (along * length)[:, None]
        shade = int(np.clip(128 + rng.normal(0, 46), 0, 255))
        inside = (middle > length).all() and (middle < SHEET * 2 - length).all()
        width = int(rng.integers(1, 4))
        for shift in around[4:5] if inside else around:
            pen.line((middle + line + shift).ravel().tolist(), fill=shade, width=width)
    drawn = np.asarray(twice.resize((SHEET, SHEET), Image.Resampling.BOX), np.float32) / 255
    cloud = _noise(rng, (SHEET, SHEET), 14)
    tone = np.clip(0.5 + 2.2 * (drawn - 0.5) + 0.3 * (cloud - 0.5), 0, 1)
    return _sheet(tone, 0.5, _whole(ndimage.gaussian_filter(drawn, 0.7, mode="wrap")), (16.0, 16.0))


def _flecks(rng: np.random.Generator) -> Pattern:
    size, count = (BLOCK,) * 3, 1500
    distance, numbers = _cells(rng, size, count, 1)
    radius = (0.15 + 0.85 * rng.random(count) ** 4)[numbers] * 0.035
    return _edged(radius - distance, 20.0, (0.5 + 0.5 * rng.random(count))[numbers])


def _hammered(rng: np.random.Generator) -> Pattern:
    distance, _ = _cells(rng, (SHEET, SHEET), 144, 2)
    dent = np.minimum(distance[..., 0] * 12, 1.2) ** 2
    ridge = _step(0.0, 0.02, distance[..., 1] - distance[..., 0])
    return _sheet(
        0.0, 0.5, _whole(ndimage.gaussian_filter(dent + 0.1 * ridge, 2.5, mode="wrap")), (12.0, 12.0)
    )


def _laid(rng: np.random.Generator) -> Pattern:
    """Wires one scale apart, chains twenty-five, and the clouds of the pulp between them."""
    y, x = np.indices((SHEET, SHEET), np.float32) / SHEET
    wander = 0.25 * (_noise(rng, (SHEET, SHEET), (4, 24)) - 0.5)
    wires = 0.5 + 0.5 * np.cos(2 * np.pi * (25 * y + wander))
    chains = np.exp(-((np.minimum(x, 1 - x) * 90) ** 2))
    fine = _noise(rng, (SHEET, SHEET), 1.3)
    height = 0.6 * wires - 0.35 * chains + 0.3 * fine
    return _sheet(0.35 * wires + 0.5 * chains + 0.2 * fine, 0.5, _whole(height), (25.0, 25.0))


def _leather(rng: np.random.Generator) -> Pattern:
    size = (SHEET, SHEET)
    y, x = np.indices(size, np.float32)
    sway = [18 * (_noise(rng, size, 16) - 0.5) for _ in range(2)]
    distance, numbers = _cells(rng, size, 520, 2)
    gap = distance[..., 1] - distance[..., 0]
    own = rng.random(520).astype(np.float32)[numbers[..., 0]]
    swayed = [
        ndimage.map_coordinates(v, [y + sway[0], x + sway[1]], order=1, mode="grid-wrap") for v in (gap, own)
    ]
    pebble = _step(0.0, 0.022, swayed[0]) ** 0.7
    fine = _noise(rng, size, 1.4)
    height = ndimage.gaussian_filter(pebble * (0.8 + 0.2 * swayed[1]), 1.0, mode="wrap") + 0.06 * fine
    return _sheet(0.9 * (1 - pebble) + 0.1 * swayed[1], 0.35 + 0.25 * pebble, _whole(height), (22.8, 22.8))


def _marble(rng: np.random.Generator) -> Pattern:
    """Veins where swaying noise crosses its middle, of every strength; finer and softer ones between them."""
    size = (BLOCK,) * 3
    places = np.indices(size, np.float32)
    sway = [14 * (_noise(rng, size, 9) - 0.5) + 5 * (_noise(rng, size, 3) - 0.5) for _ in range(3)]

    def away(blur: float) -> Values:
        """Texels to the middle of the nearest vein, on one side less than 0."""
        noise = _blurred(rng, size, blur)
        ridge = ndimage.map_coordinates(noise, places + np.stack(sway), order=1, mode="grid-wrap")
        steep = np.sqrt(sum(slope**2 for slope in np.gradient(ridge)))
        return np.asarray(ridge / (steep + 0.03 * float(ridge.std())), np.float32)

    def strong() -> Values:
        return _step(0.25, 0.9, _noise(rng, size, 7))

    main, fine = away(9.0), away(5.0)
    strength = 0.15 + 0.85 * strong()
    tone = 0.16 * _noise(rng, size, 11) + 0.3 * np.exp(-((main / 4) ** 2)) * strength
    tone = tone + 0.35 * np.exp(-((fine / 1.2) ** 2)) * strong()
    texels = _packed(tone, 0.75 * strength, 0.5 + main / VEIN_RANGE, size)
    return Pattern(texels, (3.0, 3.0, 3.0), edges=-VEIN_RANGE / 1.1)


def _orange_peel(rng: np.random.Generator) -> Pattern:
    rough = rng.standard_normal((SHEET, SHEET)).astype(np.float32)
    band = ndimage.gaussian_filter(rough, 6, mode="wrap") - ndimage.gaussian_filter(rough, 12, mode="wrap")
    return _sheet(0.0, 0.5, _spread(band), (24.0, 24.0))


def _shards(rng: np.random.Generator) -> Pattern:
    """Of holographic film: facets that lean their own ways, in colours of their own."""
    period = 24
    found = shards(SHEET, period**2)
    codes = np.dstack([np.round(255 * found.tint), np.full((SHEET, SHEET), 255)]).astype(np.uint8)
    colours = np.ascontiguousarray(codes).view(np.uint32)[..., 0]
    texels = _packed(0.0, 0.5, _whole(found.height)[None], (1, SHEET, SHEET))
    return Pattern(texels, (period, period, 1.0), colours=colours)


def _terrazzo(rng: np.random.Generator) -> Pattern:
    """Chips with flat sides in a fine matrix, of three shades and many sizes."""
    size, count = (BLOCK,) * 3, 420
    distance, numbers = _cells(rng, size, count, 2)
    least = np.where(rng.random(count) < 0.3, 1.0, 0.01 + 0.045 * rng.random(count) ** 2)[numbers[..., 0]]
    shade = rng.choice([0.4, 0.7, 1.0], count)[numbers[..., 0]]
    return _edged(distance[..., 1] - distance[..., 0] - least, 6.0, shade)


def _wood(rng: np.random.Generator) -> Pattern:
    """Pores and streaks along the grain; rings are told from how far a place is from the heart."""
    size = (BLOCK,) * 3
    pores = _step(0.84, 0.97, _noise(rng, size, (0.8, 0.8, 9)))
    streaks = _noise(rng, size, (1.2, 1.2, 24))
    wander = _noise(rng, size, (12, 12, 26))
    return _block(np.clip(0.35 * streaks + 0.6 * pores, 0, 1), wander, 0.85 - 0.7 * pores, 14.0, rings=True)


def _woven(rng: np.random.Generator) -> Pattern:
    """Plain weave: threads one scale apart, over and under in turn, no two quite alike."""
    threads = 16
    y, x = np.indices((SHEET, SHEET), np.float32) * (threads / SHEET)
    sway = [0.22 * (_noise(rng, (SHEET, SHEET), blur) - 0.5) for blur in ((5, 30), (30, 5))]
    y, x = y + sway[0], x + sway[1]
    row, column = np.floor(y), np.floor(x)
    weft = np.sin(np.pi * (y - row)) ** 0.6 * (0.62 + 0.38 * np.cos(np.pi * (x - 0.5 - row)))
    warp = np.sin(np.pi * (x - column)) ** 0.6 * (0.62 - 0.38 * np.cos(np.pi * (y - 0.5 - column)))
    shades = rng.random((2, threads)).astype(np.float32)
    own = np.where(weft > warp, shades[0][row.astype(int) % threads], shades[1][column.astype(int) % threads])
    fine = np.where(weft > warp, _noise(rng, (SHEET, SHEET), (0.7, 5)), _noise(rng, (SHEET, SHEET), (5, 0.7)))
    height = np.maximum(weft, warp)
    tone = np.clip(0.45 * own + 0.3 * fine + 0.5 * (1 - _whole(height)), 0, 1)
    return _sheet(tone, 0.5, _whole(height + 0.12 * fine), (threads, threads))


_MADE: dict[PatternName, Callable[[np.random.Generator], Pattern]] = {
    "brushed": _brushed,
    "cast": _cast,
    "concrete": _concrete,
    "cork": _cork,
    "felt": _felt,
    "fibres": _fibres,
    "flecks": _flecks,
    "hammered": _hammered,
    "laid": _laid,
    "leather": _leather,
    "marble": _marble,
    "orange peel": _orange_peel,
    "shards": _shards,
    "terrazzo": _terrazzo,
    "wood": _wood,
    "woven": _woven,
}
