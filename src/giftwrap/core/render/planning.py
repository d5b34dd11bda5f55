"""Cutting a picture into work: whole passes first, then samples where the noise is."""

from __future__ import annotations

import zlib
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.errors import RenderError
from giftwrap.core.render.coverage import MOST_COUNTED
from giftwrap.core.render.film import TILE, Film, Floats, spread_over_tiles, tile_means, tiles_across

PIXELS_PER_UNIT = 600_000
PATHS_PER_UNIT = 8_000_000
"""Keep a unit at a few seconds and its memory bounded whatever the picture's size."""
LEAST_PATHS_PER_UNIT = 100_000
UNIT_S = 12.0
"""A unit takes about this long at the most: whoever cancels need not wait for more."""
PILOT_SAMPLES = 6
"""Samples of every pixel, however little noise is left: by fewer, edges and small type are rough. Then
the noise is trusted to say where more are needed."""
LARGEST_PASS = 32
"""Samples of a pixel in one pass, unless it has more than these already."""
MAX_SAMPLES = 65_536
EAGERNESS = 0.9
"""Share of what seems to be missing that a pass takes, as the estimate is itself uncertain."""
LEAST_PASS = 0.02
"""A pass that would add less than this share of what is planned is not worth taking."""


@dataclass(frozen=True)
class Region:
    """A part of a picture, in px from its left and top."""

    left: int
    top: int
    width: int
    height: int


@dataclass(frozen=True)
class Limits:
    """When a final is done, whichever comes first.

    samples : average samples per pixel
    noise : per cent of the display's range (see `Film.noise`); None for no such end
    seconds : of rendering; None for no such end
    adaptive : whether samples go where the noise is, or everywhere alike
    """

    samples: int
    noise: float | None = None
    seconds: float | None = None
    adaptive: bool = True

    def __post_init__(self) -> None:
        if not 2 <= self.samples <= MAX_SAMPLES:
            raise RenderError(f"A picture takes 2 to {MAX_SAMPLES} samples, not {self.samples}.", "samples")


class Work(NamedTuple):
    """Flat numbers of pixels, how many samples of each (or of all), and how many they had before."""

    pixels: NDArray[np.uint32]
    samples: int | NDArray[np.uint32]
    begin: int | NDArray[np.uint32]


@dataclass(frozen=True)
class WorkUnit:
    """A share of a picture: samples that nobody else takes.

    number : its own among the units of a picture
    seed : of the series of samples that it goes on with
    begin : how many samples of the series its pixels had before
    samples : of each pixel from `first` to before `last`
    counts, begins : `samples` and `begin` of each tile from `first` to before `last` instead, uint16
        and uint32, compressed
    """

    number: int
    seed: int
    begin: int = 0
    samples: int = 0
    first: int = 0
    last: int = 0
    counts: bytes = b""
    begins: bytes = b""

    def work(self, width: int, height: int) -> Work:
        """What it does to a picture of a size in px."""
        if not self.counts:
            pixels = np.arange(self.first, self.last, dtype=np.uint32)
            return Work(pixels, self.samples, self.begin)
        counts, begins = np.zeros((2, int(np.prod(tiles_across(width, height)))), np.uint32)
        counts[self.first : self.last] = np.frombuffer(zlib.decompress(self.counts), np.uint16)
        begins[self.first : self.last] = np.frombuffer(zlib.decompress(self.begins), np.uint32)
        samples = spread_over_tiles(counts, width, height)
        begin = spread_over_tiles(begins, width, height)
        pixels = np.flatnonzero(samples).astype(np.uint32)
        return Work(pixels, samples[pixels], begin[pixels])

    def paths(self, width: int, height: int) -> int:
        """Paths it follows."""
        work = self.work(width, height)
        return int(np.sum(np.broadcast_to(work.samples, work.pixels.shape)))


class Plan:
    """What is still to be done to a picture. Units that were planned count as done.

    All its units go on with one series of samples, so that those of a pixel lie evenly however many
    it gets. `first_number` names the first unit and the series: above all of an earlier plan's.
    `speed` is how many paths a second were followed here before, if that is known: where light
    wanders long in cloudy bodies, units are cut smaller.
    """

    def __init__(
        self, width: int, height: int, limits: Limits, *, first_number: int = 0, speed: float | None = None
    ) -> None:
        self.width, self.height, self.limits = width, height, limits
        self._paths_per_unit = _paths_in(UNIT_S, speed)
        self._pixels_per_unit = min(PIXELS_PER_UNIT, self._paths_per_unit)
        self._seed = self._number = first_number
        self._planned = np.zeros(int(np.prod(tiles_across(width, height))), np.float64)
        self._before = self._planned  # samples of each tile that are not of this series

    def take_up(self, film: Film) -> None:
        """Go on from a film: what it holds counts as done."""
        self._before = self._planned = tile_means(film.samples, self.width, self.height).astype(np.float64)

    def next_pass(self, film: Film, exposure_ev: float = 0.0) -> list[WorkUnit]:
        """The units of one more pass over the picture, or over its noisy parts; none when it is done."""
        noise, low = film.noise(exposure_ev), float(self._planned.min())
        clean = self.limits.noise is not None and noise is not None and noise <= self.limits.noise
        if clean and low >= min(PILOT_SAMPLES, self.limits.samples):
            return []
        if low < PILOT_SAMPLES or not self.limits.adaptive:
            return self._whole_pass(low)
        spread = np.sqrt(tile_means(film.sample_variance(exposure_ev), self.width, self.height))
        wanted = self._wanted(spread)
        return self._tile_pass(EAGERNESS * (wanted - self._planned)) or self._last_pass(film, noise, wanted)

    def remaining_paths(self, film: Film, exposure_ev: float = 0.0) -> float:
        """Paths that are still to be planned, as far as can be told now."""
        pixels = self.width * self.height
        everywhere = max(self.limits.samples - float(self._planned.mean()), 0) * pixels
        noise = film.noise(exposure_ev)
        if self.limits.noise is None or noise is None:
            return everywhere
        if not self.limits.adaptive or film.samples_per_pixel < PILOT_SAMPLES:
            ratio = (noise / self.limits.noise) ** 2 - 1
            return min(everywhere, max(ratio, 0) * film.samples_per_pixel * pixels)
        spread = np.sqrt(tile_means(film.sample_variance(exposure_ev), self.width, self.height))
        missing = np.maximum(self._wanted(spread) - self._planned, 0)
        return float(missing.mean()) * pixels

    def _whole_pass(self, done: float) -> list[WorkUnit]:
        """Every pixel, in bands; small passes first so that the whole picture grows early."""
        left = self.limits.samples - done
        if left < 1:
            return []
        most = max(self._paths_per_unit // min(self.width * self.height, self._pixels_per_unit), 1)
        wanted = int(min(max(2, done), LARGEST_PASS, left, most))
        if done < PILOT_SAMPLES:
            wanted = int(min(wanted, PILOT_SAMPLES - done, max(1, self.limits.samples // 2)))
        units, total = [], self.width * self.height
        begin = int((self._planned - self._before).min())
        bands = -(-total // self._pixels_per_unit)
        rows = -(-self.height // bands)
        for top in range(0, self.height, rows):
            last = min(top + rows, self.height) * self.width
            units.append(self._unit(begin=begin, samples=wanted, first=top * self.width, last=last))
        self._planned = self._planned + wanted
        return units

    def _wanted(self, spread: Floats) -> NDArray[np.float64]:
        """Samples each tile should have in the end.

        For a sum of errors σ²/n to be smallest for a number of samples, n has to grow as σ.
        """
        floor = 0.05 * float(spread.mean()) + 1e-9
        wanted = np.maximum(spread, floor).astype(np.float64)
        share = wanted / wanted.mean()
        most = share * self.limits.samples
        if self.limits.noise is not None:
            goal = self.limits.noise / 100
            most = np.minimum(most, wanted * wanted.mean() / goal**2)
        enough: NDArray[np.float64] = np.maximum(most, PILOT_SAMPLES)
        return enough

    def _last_pass(self, film: Film, noise: float | None, wanted: NDArray[np.float64]) -> list[WorkUnit]:
        """What a film still lacks that has all it was planned and is noisier than it may be."""
        taken = tile_means(film.samples, self.width, self.height).sum()
        if self.limits.noise is None or noise is None or taken < self._planned.sum() - 0.5:
            return []
        share = max((noise / self.limits.noise) ** 2 - 1, 2 * LEAST_PASS)
        return self._tile_pass(wanted * (share * self._planned.sum() / wanted.sum()))

    def _tile_pass(self, missing: NDArray[np.float64]) -> list[WorkUnit]:
        """What tiles miss, in units of about equal work; nothing when it is hardly anything."""
        budget = max(self.limits.samples * len(missing) - self._planned.sum(), 0.0)
        missing = np.maximum(missing, 0)
        missing = missing * min(budget / max(missing.sum(), 1e-9), 1.0)
        counts = _in_whole(np.minimum(missing, np.clip(self._planned, LARGEST_PASS, MOST_COUNTED // 4)))
        if missing.sum() < min(LEAST_PASS * self._planned.sum(), 0.999 * budget) or not counts.any():
            return []
        begins = np.rint(self._planned - self._before).astype(np.uint32)
        self._planned = self._planned + counts
        share = np.cumsum(counts) * TILE**2 / self._paths_per_unit
        units = []
        for number in range(int(share[-1]) + 1):
            first, last = (int(n) for n in np.searchsorted(share, (number, number + 1), "right"))
            mine = counts[first:last].astype(np.uint16)
            if mine.any():
                packed = (zlib.compress(mine.tobytes()), zlib.compress(begins[first:last].tobytes()))
                units.append(self._unit(first=first, last=last, counts=packed[0], begins=packed[1]))
        return units

    def _unit(self, **work: Any) -> WorkUnit:
        self._number += 1
        return WorkUnit(self._number - 1, self._seed, **work)


def _paths_in(seconds: float, speed: float | None) -> int:
    """Paths that a unit may have, so that it takes no longer than so many seconds."""
    if not speed:
        return PATHS_PER_UNIT
    return int(min(max(seconds * speed, LEAST_PATHS_PER_UNIT), PATHS_PER_UNIT))


def _in_whole(counts: NDArray[np.float64]) -> NDArray[np.float64]:
    """Counts in whole numbers; what is rounded off one is made up at the next."""
    return np.diff(np.floor(np.cumsum(counts)), prepend=0.0)
