"""Large pictures are taken block by block, so that the memory one needs does not grow with its size.

A block is taken with a margin around it, which denoising looks at and which is then cut off. Finished
blocks go to a canvas on disk.
"""

from __future__ import annotations

import json
import math
import os
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.formats.whole import write_whole
from giftwrap.core.render.film import Film, Floats
from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.planning import Region

BLOCK_PIXELS = 6_000_000
"""The film of a block of this size takes about a gigabyte."""
LIGHT, PICTURE = "light.raw", "picture.raw"
MARGIN = 32
"""Pixels around a block that denoising is shown."""


@dataclass(frozen=True)
class Block:
    """A part of a picture: what it fills, and what is taken for it."""

    fills: Region
    taken: Region

    def job(self, whole: PictureJob) -> PictureJob:
        """The work on it."""
        return whole if self.taken == whole_region(whole) else replace(whole, region=self.taken)

    def cut(self, pixels: NDArray[Any]) -> NDArray[Any]:
        """What it fills of (h, w, …) pixels that were taken for it."""
        top, left = self.fills.top - self.taken.top, self.fills.left - self.taken.left
        return pixels[top : top + self.fills.height, left : left + self.fills.width]


def whole_region(job: PictureJob) -> Region:
    """All that is wanted of a picture."""
    return job.region or Region(0, 0, job.width, job.height)


def blocks_of(job: PictureJob, *, most: int = BLOCK_PIXELS) -> list[Block]:
    """Cut what is wanted of a picture into blocks of about `most` pixels, row by row; one if it fits."""
    want = whole_region(job)
    if want.width * want.height <= most:
        return [Block(want, want)]
    side = math.sqrt(most)
    across = max(math.ceil(want.width / max(side, most / want.height)), 1)
    down = max(math.ceil(want.height * want.width / across / most), 1)
    xs = [want.left + want.width * i // across for i in range(across + 1)]
    ys = [want.top + want.height * i // down for i in range(down + 1)]
    right, bottom = want.left + want.width, want.top + want.height
    found = []
    for top, foot in pairwise(ys):
        for left, end in pairwise(xs):
            outer_left, outer_top = max(left - MARGIN, want.left), max(top - MARGIN, want.top)
            taken = Region(
                outer_left,
                outer_top,
                min(end + MARGIN, right) - outer_left,
                min(foot + MARGIN, bottom) - outer_top,
            )
            found.append(Block(Region(left, top, end - left, foot - top), taken))
    return found


@dataclass(frozen=True)
class Taken:
    """How a finished block was: samples for each pixel, and the noise that was left in per cent."""

    samples: float
    noise: float | None


def taken_of(film: Film, job: PictureJob) -> Taken:
    """How a film was taken."""
    return Taken(film.samples_per_pixel, film.noise(job.grade.exposure_ev))


class Canvas:
    """A picture on disk that is filled block by block: linear light in half precision, and 16-bit sRGB.

    What has been filled is there again after the process was killed. Making one raises OSError when
    the disk has no room for it.
    """

    def __init__(self, folder: Path, wanted: Region) -> None:
        self.folder, self.wanted = folder, wanted
        folder.mkdir(parents=True, exist_ok=True)
        fresh = [self._make_room(name) for name in (LIGHT, PICTURE)]
        self.taken: dict[int, Taken] = {} if any(fresh) else self._read_taken()

    @property
    def light(self) -> Any:
        """(h, w, 3) linear, half precision, on disk."""
        return self._pixels(LIGHT, np.float16)

    @property
    def picture(self) -> Any:
        """(h, w, 3) sRGB, 16 bits, on disk."""
        return self._pixels(PICTURE, np.uint16)

    def fill(self, number: int, block: Block, light: Floats, picture: Floats, taken: Taken) -> None:
        """Put in a block: what was taken for it, as `develop` returns it. Raises DiskFull."""
        top, left = block.fills.top - self.wanted.top, block.fills.left - self.wanted.left
        rows, columns = slice(top, top + block.fills.height), slice(left, left + block.fills.width)
        for pixels, values in (
            (self.light, np.clip(block.cut(light), 0, np.finfo(np.float16).max)),
            (self.picture, np.clip(block.cut(picture), 0, 1) * 65535 + 0.5),
        ):
            pixels[rows, columns] = values
            pixels.flush()
        self.taken[number] = taken
        told = {str(n): [t.samples, t.noise] for n, t in self.taken.items()}
        write_whole(self.folder / "taken.json", json.dumps(told).encode())

    def _pixels(self, name: str, kind: type) -> Any:
        return np.memmap(self.folder / name, kind, "r+", shape=(self.wanted.height, self.wanted.width, 3))

    def _make_room(self, name: str) -> bool:
        """Take the room for pixels of two bytes a channel on the disk, unless they are there already."""
        path, size = self.folder / name, self.wanted.height * self.wanted.width * 3 * 2
        if path.exists() and path.stat().st_size == size:
            return False
        with path.open("wb") as file:
            os.posix_fallocate(file.fileno(), 0, size)  # a disk that fills later would kill the process
        return True

    def _read_taken(self) -> dict[int, Taken]:
        path = self.folder / "taken.json"
        if not path.exists():
            return {}
        return {int(n): Taken(*values) for n, values in json.loads(path.read_text()).items()}
