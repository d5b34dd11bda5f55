"""Which objects each pixel sees, and how much of it each fills: sums over any cut of the work.

A pixel sees few of a scene's objects, however many there are. What it saw first is kept in two rows of
numbers, whatever else it sees in a list.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]
Ids = NDArray[np.uint32]

NOTHING = np.uint32(0xFFFFFFFF)
"""Stands where a pixel has seen no object yet."""
COUNT_BITS = 12
MOST_COUNTED = (1 << COUNT_BITS) - 1
"""Samples of a pixel that one exposure can tell objects apart in."""
MOST_OBJECTS = (1 << (32 - COUNT_BITS)) - 1
SLOTS = 8
"""Objects that one exposure tells apart in a pixel; a pixel of an exposure seldom sees three."""


class ObjectName(NamedTuple):
    """What masks call an object: the instance it is a part of, the part, and what that is made of."""

    instance: str
    part: str
    material: str


class Entries(NamedTuple):
    """(n,) each: pixels, the objects seen in them, and in how many samples; sorted, no pair twice."""

    pixels: Ids
    ids: Ids
    weights: Floats


@dataclass(frozen=True)
class Seen:
    """What the pixels of one exposure saw.

    first, weight : (pixels,) an object of each pixel, or NOTHING, and its samples
    more : whatever else they saw
    """

    first: Ids
    weight: Floats
    more: Entries

    @classmethod
    def of_slots(cls, slots: NDArray[np.uint32]) -> Seen:
        """(SLOTS, pixels) of object number + 1 above and samples in the lowest COUNT_BITS bits, or 0."""
        ids = (slots >> COUNT_BITS) - np.uint32(1)  # 0 becomes NOTHING
        counts = (slots & MOST_COUNTED).astype(np.float32)
        several = np.flatnonzero(slots[1])  # slots are filled in their order
        which, rows = np.nonzero(slots[1:, several].T)
        rows, pixels = rows + 1, several[which]
        more = Entries(pixels.astype(np.uint32), ids[rows, pixels].astype(np.uint32), counts[rows, pixels])
        return cls(ids[0], counts[0], more)


class Coverage:
    """Sums of what was seen, for every pixel of a film."""

    def __init__(self, pixels: int) -> None:
        self.first = np.full(pixels, NOTHING, np.uint32)
        self.weight = np.zeros(pixels, np.float32)
        self.more = no_entries()
        self._fresh: list[Entries] = []

    def add(self, where: slice | NDArray[np.uint32], pixels: NDArray[np.uint32], seen: Seen) -> None:
        """Add what an exposure saw in some pixels.

        where : the same pixels, as a slice if they lie together
        """
        first = self.first[where]
        empty = first == NOTHING
        if empty.any():
            first = np.where(empty, seen.first, first)
            self.first[where] = first
        same = (first == seen.first) & (seen.first != NOTHING)
        self.weight[where] += np.where(same, seen.weight, np.float32(0))
        other = np.flatnonzero(~same & (seen.first != NOTHING))
        self._fresh.append(Entries(pixels[other], seen.first[other], seen.weight[other]))
        self._add_more(Entries(pixels[seen.more.pixels], seen.more.ids, seen.more.weights))

    def entries(self) -> Entries:
        """Everything that was seen."""
        self._settle()
        pixels = np.flatnonzero(self.first != NOTHING).astype(np.uint32)
        first = Entries(pixels, self.first[pixels], self.weight[pixels])
        return summed([first, self.more])

    def share_of(self, number: int) -> Floats:
        """(pixels,) samples that saw an object."""
        self._settle()
        found: Floats = np.where(self.first == number, self.weight, np.float32(0))
        mine = self.more.ids == number
        found[self.more.pixels[mine]] += self.more.weights[mine]
        return found

    def arrays(self) -> dict[str, NDArray[np.generic]]:
        """Everything as arrays by name, for keeping."""
        self._settle()
        return {"first": self.first, "weight": self.weight, **self.more._asdict()}

    @classmethod
    def from_arrays(cls, arrays: dict[str, NDArray[np.generic]]) -> Coverage:
        """What `arrays` gave."""
        made = cls(0)
        made.first, made.weight = arrays["first"].astype(np.uint32), arrays["weight"].astype(np.float32)
        made.more = Entries(
            arrays["pixels"].astype(np.uint32),
            arrays["ids"].astype(np.uint32),
            arrays["weights"].astype(np.float32),
        )
        return made

    def _add_more(self, entries: Entries) -> None:
        """Entries of pixels whose first object is told apart from them or the same."""
        mine = self.first[entries.pixels] == entries.ids
        self.weight[entries.pixels[mine]] += entries.weights[mine]
        self._fresh.append(Entries(*(values[~mine] for values in entries)))
        if sum(len(fresh.pixels) for fresh in self._fresh) > max(len(self.more.pixels), len(self.first)):
            self._settle()

    def _settle(self) -> None:
        if self._fresh:
            self.more = summed([self.more, *self._fresh])
            self._fresh = []


def no_entries() -> Entries:
    """Nothing seen."""
    return Entries(np.empty(0, np.uint32), np.empty(0, np.uint32), np.empty(0, np.float32))


def summed(parts: list[Entries]) -> Entries:
    """Entries of which no two are of the same pixel and object."""
    pixels, ids, weights = (np.concatenate(column) for column in zip(*parts, strict=True))
    key = pixels.astype(np.uint64) << np.uint64(32) | ids
    order = np.argsort(key, kind="stable")
    if not len(key):
        return no_entries()
    key = key[order]
    starts = np.flatnonzero(np.diff(key, prepend=key[:1] + np.uint64(1)))
    sums = np.add.reduceat(weights[order], starts)
    return Entries(pixels[order][starts], ids[order][starts], sums.astype(np.float32))
