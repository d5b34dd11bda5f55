"""Pictures of everything around as kernels read them: what shines from a direction, and how to choose one.

A place of the picture is chosen by how much brighter than its mean it is, between its texels, so that a small
sun is found as surely as it is bright; what is even about it is found by following surfaces (after Karlík et
al. 2019). How much of that falls on a surface is told by nine numbers (Ramamoorthi and Hanrahan 2001).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from threading import Lock

import drjit as dr
import numpy as np
from cachetools import LRUCache, cached
from drjit.llvm.ad import Array2f, Array3f, Array4f, Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.around import directions, down
from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.render import optics_math as om
from giftwrap.core.render.memory import aligned
from giftwrap.core.scene.surrounding import FINEST, Surrounding

Floats = NDArray[np.float32]
_STEPS = tuple(1 << bit for bit in range((2 * FINEST).bit_length() - 1, -1, -1))
"""By which a place is found among the columns of the finest picture."""
KEPT_BYTES = 600_000_000
LEAST_AIMED = 0.05
"""Of what light of the picture's mean brightness brings, for how much of it a surface aims at least."""
LEAST_CHOSEN = 0.02
"""Of the mean of a picture, by how much brighter than that a place is taken to be at least."""
DAZZLING_ROWS = 6
"""Rows of places, each some 0.3 sr large, by the brightest of which indirect light is measured."""


@dataclass(frozen=True)
class _Laid:
    """A picture laid out, loaded for kernels.

    texels : (n, 4) colour, and density over directions but for the sine
    down, across : sums of densities over rows, and over the texels of each row, from 0 to 1
    falling : (9,) what of its bright parts falls on surfaces, by the numbers of their spherical harmonics
    mean, dazzle : luminance of all of it, and of its brightest part
    """

    rows: int
    texels: Float
    down: Float
    across: Float
    falling: Floats
    mean: float
    dazzle: float


class Surroundings:
    """What the lights of a scene are in front of, and what the camera sees where there is nothing."""

    def __init__(self, around: Surrounding, seen: Surrounding | None) -> None:
        laid = _laid(_NOTHING if around.picture is None else around.picture)
        behind = laid if seen is None or seen.picture is None else _laid(seen.picture)
        # in one table, whether they are one or two: kernels are compiled by how many arrays they read
        self._texels, self._seen_first = _together(laid, behind)
        self._down, self._across = laid.down, laid.across
        self._around = _Picture.of(around, laid.rows)
        self._colour = Array3f(*(dr.opaque(Float, c) for c in around.colour))
        even = around.picture is None
        self._even = Array3f(*(dr.opaque(Float, c if even else 0.0) for c in around.colour))
        self.any_picture = dr.opaque(Bool, not even)
        bright = float(np.dot(around.colour, LUMINANCE))
        tinted = bright * (1.0 if even else laid.mean)
        self.mean = dr.opaque(Float, tinted)
        self.even_brightness = dr.opaque(Float, bright if even else 0.0)
        self._falling = [dr.opaque(Float, float(value) * bright) for value in laid.falling]
        self._least = dr.opaque(Float, math.pi * tinted * LEAST_AIMED)
        self.dazzle = bright * (1.0 if even else laid.dazzle)
        self.shows = dr.opaque(Bool, seen is not None and seen.picture is not None)
        self._seen = _Picture.of(seen or Surrounding(), behind.rows)
        self._seen_colour = Array3f(*(dr.opaque(Float, c) for c in (seen or Surrounding()).colour))

    @dr.syntax
    def radiance(self, direction: Array3f, active: Bool) -> Array3f:
        """What comes from a direction."""
        found = self._even + Array3f(direction.x * 0)
        if self.any_picture & active:
            found = self._colour * _between(self._texels, UInt32(0), self._around, direction, active)
        return found

    def seen(self, direction: Array3f, active: Bool) -> Array3f:
        """What the camera sees in a direction; only where `shows`."""
        own = _between(self._texels, self._seen_first, self._seen, direction, active)
        return self._seen_colour * own

    def falls(self, normal: Array3f) -> Float:
        """Roughly what falls on a surface that faces somewhere, of what is brighter than the mean."""
        own = self._around.turned(normal)
        x, y, z = own.x, own.y, own.z
        terms = (Float(1), y, z, x, x * y, y * z, 3 * z * z - 1, x * z, x * x - y * y)
        fallen = sum((n * term for n, term in zip(self._falling, terms, strict=True)), Float(0))
        return dr.maximum(fallen, self._least)

    def density(self, direction: Array3f, active: Bool) -> Float:
        """Density over directions with which `chosen` has one."""
        own = self._around.turned(direction)
        column, row, sine = self._around.place(own)
        at = UInt32(row) * UInt32(self._around.columns) + UInt32(column)
        quad = dr.gather(Array4f, self._texels, at, active)
        return quad.w / dr.maximum(sine, 1e-6)

    def chosen(self, sample: Array2f, active: Bool) -> Array3f:
        """A direction, by how bright it is there."""
        rows, columns = self._around.rows, self._around.columns
        row, down = _found(self._down, UInt32(0), UInt32(rows), sample.y, active)
        begin = row * (UInt32(columns) + 1)
        column, across = _found(self._across, begin, UInt32(columns), sample.x, active)
        aside = ((Float(column) + across) / columns - 0.5) * (2 * om.PI)
        zenith = (Float(row) + down) / rows * om.PI
        (sin_aside, cos_aside), (sine, cosine) = dr.sincos(aside), dr.sincos(zenith)
        return self._around.turned_back(Array3f(sine * sin_aside, sine * cos_aside, cosine))


@dataclass
class _Picture:
    """How a picture lies: its rows, its columns, and cosine and sine of its turn."""

    rows: Float
    columns: Float
    cosine: Float
    sine: Float

    @classmethod
    def of(cls, one: Surrounding, rows: int) -> _Picture:
        turn = math.radians(one.turn)
        numbers = (float(rows), 2.0 * rows, math.cos(turn), math.sin(turn))
        return cls(*(dr.opaque(Float, number) for number in numbers))

    def turned(self, way: Array3f) -> Array3f:
        """A direction as the picture has it."""
        return Array3f(
            way.x * self.cosine - way.y * self.sine, way.x * self.sine + way.y * self.cosine, way.z
        )

    def turned_back(self, way: Array3f) -> Array3f:
        return Array3f(
            way.x * self.cosine + way.y * self.sine, way.y * self.cosine - way.x * self.sine, way.z
        )

    def place(self, own: Array3f) -> tuple[Float, Float, Float]:
        """Column and row of the texel that a direction of the picture is in, and its sine from upright."""
        across, down, sine = self.between(own)
        return dr.clip(dr.floor(across), 0, self.columns - 1), dr.clip(dr.floor(down), 0, self.rows - 1), sine

    def between(self, own: Array3f) -> tuple[Float, Float, Float]:
        """As `place`, with what is left over."""
        sine = dr.sqrt(own.x * own.x + own.y * own.y)
        across = (dr.atan2(own.x, own.y) / (2 * om.PI) + 0.5) * self.columns
        return across, dr.atan2(sine, own.z) / om.PI * self.rows, sine


def _between(texels: Float, first: UInt32, picture: _Picture, direction: Array3f, active: Bool) -> Array3f:
    """A picture in a direction, between its four nearest texels; its own begin with the `first`."""
    across, down, _ = picture.between(picture.turned(direction))
    x, y = across - 0.5, dr.clip(down - 0.5, 0, picture.rows - 1)
    x = dr.select(x < 0, x + picture.columns, x)
    left, high = dr.minimum(dr.floor(x), picture.columns - 1), dr.minimum(dr.floor(y), picture.rows - 1)
    right = dr.select(left + 1 >= picture.columns, 0, left + 1)
    low = dr.minimum(high + 1, picture.rows - 1)
    columns = UInt32(picture.columns)
    corners = []
    for row in (high, low):
        for column in (left, right):
            quad = dr.gather(Array4f, texels, first + UInt32(row) * columns + UInt32(column), active)
            corners.append(Array3f(quad.x, quad.y, quad.z))
    upper, lower = (dr.lerp(corners[i], corners[i + 1], x - left) for i in (0, 2))
    return dr.lerp(upper, lower, y - high)


def _found(sums: Float, begin: UInt32, count: UInt32, sample: Float, active: Bool) -> tuple[UInt32, Float]:
    """Which of some sums, from 0 to 1 and one more than `count`, a number lies behind, and how far on from it
    to the next, as a share."""
    at = UInt32(0) + begin * 0
    for step in _STEPS:
        ahead = at + UInt32(step)
        within = ahead < count
        take = within & (dr.gather(Float, sums, begin + ahead, active & within) <= sample)
        at = dr.select(take, ahead, at)
    low = dr.gather(Float, sums, begin + at, active)
    high = dr.gather(Float, sums, begin + at + 1, active)
    return at, dr.clip((sample - low) / dr.maximum(high - low, 1e-20), 0, 0.99999)


_NOTHING = np.zeros((2, 4, 3), np.float32)


@cached(LRUCache(KEPT_BYTES, getsizeof=lambda kept: 3 * kept[0].nbytes), key=id, lock=Lock())
def _kept(picture: Floats) -> tuple[Floats, _Laid]:
    """What is kept keeps the picture, so that its number is that of no other."""
    return picture, _lay(picture)


def _laid(picture: Floats) -> _Laid:
    return _kept(picture)[1]


def _together(around: _Laid, behind: _Laid) -> tuple[Float, UInt32]:
    """The texels of two pictures in one table, and which are the first of the second."""
    if behind is around:
        return around.texels, dr.opaque(UInt32, 0)
    return _joined(around, behind), dr.opaque(UInt32, dr.width(around.texels) // 4)


@cached(LRUCache(2), key=lambda around, behind: (id(around), id(behind)), lock=Lock())
def _joined_kept(around: _Laid, behind: _Laid) -> tuple[_Laid, _Laid, Float]:
    """With both, so that their numbers are those of no others."""
    both = np.concatenate([around.texels.numpy(), behind.texels.numpy()])
    return around, behind, aligned(Float, both)


def _joined(around: _Laid, behind: _Laid) -> Float:
    return _joined_kept(around, behind)[2]


def _lay(picture: Floats) -> _Laid:
    rows, columns = picture.shape[:2]
    bright = picture @ LUMINANCE
    sine = np.sin(down(rows)).astype(np.float32)
    mean = float(np.average(bright.mean(axis=1), weights=sine))
    peaks = np.maximum(bright - np.float32(mean), np.float32(max(LEAST_CHOSEN * mean, 1e-9)))
    weights = _about(peaks) * sine[:, None]
    total = float(weights.sum(dtype=np.float64))
    over_directions = rows * columns / (2 * math.pi**2) / total
    texels = np.concatenate([picture, (weights * np.float32(over_directions))[..., None]], axis=2)
    in_rows = weights.sum(axis=1, dtype=np.float64)
    downwards = np.concatenate([[0], np.cumsum(in_rows) / in_rows.sum()])
    across = np.zeros((rows, columns + 1))
    np.cumsum(weights, axis=1, dtype=np.float64, out=across[:, 1:])
    across /= across[:, -1:]
    return _Laid(
        rows=rows,
        texels=aligned(Float, texels),
        down=aligned(Float, downwards),
        across=aligned(Float, across),
        falling=_falling(peaks, sine),
        mean=mean,
        dazzle=_dazzling(bright, sine),
    )


def _about(bright: Floats) -> Floats:
    """The mean over each texel of what lies straight between the middles of all."""
    wide = (np.roll(bright, 1, axis=1) + 6 * bright + np.roll(bright, -1, axis=1)) / 8
    high = np.concatenate([wide[:1], wide, wide[-1:]])
    mean: Floats = (high[:-2] + 6 * high[1:-1] + high[2:]) / 8
    return mean


def _falling(bright: Floats, sine: Floats) -> Floats:
    """(9,) factors of 1, y, z, x, xy, yz, 3z²−1, xz and x²−y² by which what falls on a surface is told."""
    rows = len(bright)
    solid = bright * sine[:, None] * (math.pi / rows) ** 2
    x, y, z = directions(rows)
    terms = (1 + 0 * z, y, z, x, x * y, y * z, 3 * z * z - 1, x * z, x * x - y * y)
    norms = (0.282095, *[0.488603] * 3, 1.092548, 1.092548, 0.315392, 1.092548, 0.546274)
    bands = (math.pi, *[2 * math.pi / 3] * 3, *[math.pi / 4] * 5)
    found = [
        band * norm * norm * float((solid * term).sum())
        for term, norm, band in zip(terms, norms, bands, strict=True)
    ]
    return np.array(found, np.float32)


def _dazzling(bright: Floats, sine: Floats) -> float:
    """Luminance of the brightest of places some 0.3 sr large."""
    rows, columns = bright.shape
    high, wide = max(rows // DAZZLING_ROWS, 1), max(columns // (2 * DAZZLING_ROWS), 1)
    top, side = rows // high * high, columns // wide * wide
    weighted = (
        (bright * sine[:, None])[:top, :side].reshape(top // high, high, side // wide, wide).sum(axis=(1, 3))
    )
    solid = np.repeat(sine[:, None], columns, axis=1)[:top, :side].reshape(top // high, high, -1, wide)
    return float((weighted / np.maximum(solid.sum(axis=(1, 3)), 1e-9)).max())
