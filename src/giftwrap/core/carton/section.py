"""How a blank is bent to a tube: its pieces, the section they make, and where curved creases lie."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from giftwrap.core.carton.blank import MET
from giftwrap.core.mesh.path import Array


@dataclass(frozen=True)
class Bend:
    """A piece of the tube as it is closed: `start` to `end` across the blank, mm, turning to the right by
    `turn` degrees over its length, after a crease of `crease` degrees at its start."""

    start: float
    end: float
    turn: float
    crease: float = 0.0


@dataclass(frozen=True)
class End:
    """A flap at an end of a bent panel: `way` is 1 at the upper end and -1 at the lower one.

    level : mm up the blank where the tube would end if it were flat; the crease lies below by how far the
        tube bulges out there
    chord : the ends of the panel across the blank, between which it bulges
    """

    panel: str
    of: str
    way: int
    level: float
    chord: tuple[float, float]


@dataclass(frozen=True)
class Bending:
    """How a blank is bent: its pieces from left to right, where its middle is held, and its ends."""

    bends: tuple[Bend, ...]
    held: float
    ends: tuple[End, ...]


class Section:
    """The section of a blank that is bent so far, without rounding and with it.

    share : from flat (0) to closed (1)
    """

    def __init__(self, bends: Sequence[Bend], held: float, share: float, radius: float) -> None:
        self.bends, self.share, self.radius = bends, share, radius
        self._starts, self._headings = [np.zeros(2)], [0.0]
        for bend in bends:
            heading = self._headings[-1] - np.radians(bend.crease) * share
            self._headings[-1] = heading
            self._starts.append(self._within(len(self._starts) - 1, np.array([bend.end]))[0][0])
            self._headings.append(heading - np.radians(bend.turn) * share)
        at, heading = self._sharp(np.array([held]))
        c, s = np.cos(-heading[0]), np.sin(-heading[0])
        self._turn, self._shift = np.array([[c, -s], [s, c]]), at[0]
        self._heading, self._held = heading[0], held

    def _within(self, index: int, across: Array) -> tuple[Array, Array]:
        bend, start, first = self.bends[index], self._starts[index], self._headings[index]
        run = across - bend.start
        rate = np.radians(bend.turn) * self.share / (bend.end - bend.start)
        half = rate * run / 2
        chord = run * np.sinc(half / np.pi)
        way = first - half
        at = start + chord[:, None] * np.stack([np.cos(way), np.sin(way)], axis=1)
        return at, first - rate * run

    def _sharp(self, across: Array) -> tuple[Array, Array]:
        edges = [bend.end for bend in self.bends[:-1]]
        which = np.searchsorted(edges, across, side="right")
        at, heading = np.zeros((len(across), 2)), np.zeros(len(across))
        for index in range(len(self.bends)):
            mine = which == index
            at[mine], heading[mine] = self._within(index, across[mine])
        return at, heading

    def sharp(self, across: Array) -> tuple[Array, Array]:
        """(n, 2) and (n,) float: where places across the blank are, and how they head, radians; creases
        are sharp."""
        at, heading = self._sharp(across)
        return (at - self._shift) @ self._turn.T + [self._held, 0.0], heading - self._heading

    def cut(self, bend: Bend) -> float:
        """Mm on either side of a crease that its rounding takes."""
        return self.radius * float(np.tan(np.radians(bend.crease) * self.share / 2))

    def at(self, across: Array) -> tuple[Array, Array]:
        """The same with creases rounded."""
        places, heading = self.sharp(across)
        for bend in self.bends[1:]:
            cut, turn = self.cut(bend), np.radians(bend.crease) * self.share
            mine = np.abs(across - bend.start) < cut
            if cut < MET or not mine.any():
                continue
            (first, last), (before, _) = self.sharp(np.array([bend.start - cut, bend.start + cut]))
            share = (across[mine] - bend.start + cut) / (2 * cut)
            lean = before - turn * share
            inwards = np.array([np.sin(before), -np.cos(before)])
            spoke = np.stack([-np.sin(lean), np.cos(lean)], axis=1)
            arc = first + self.radius * inwards + self.radius * spoke
            ends = first + self.radius * (inwards + np.array([-np.sin(before - turn), np.cos(before - turn)]))
            places[mine] = arc + share[:, None] * (last - ends)  # the tube is bent beside the crease too
            heading[mine] = lean
        return places, heading


def crease_level(closed: Section, end: End, across: Array) -> Array:
    """(n,) float: how far up the blank a curved crease lies, mm, at places across it."""
    places, _ = closed.sharp(across)
    first, last = closed.sharp(np.array(end.chord))[0]
    chord = (last - first) / np.linalg.norm(last - first)
    bulge = np.abs((places - first) @ [-chord[1], chord[0]])
    return np.asarray(end.level - end.way * bulge)
