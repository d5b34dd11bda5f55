"""The film: sums of light that can be added up in any order, and how noisy they still are."""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.grade.display import LUMINANCE, encode_srgb
from giftwrap.core.render.coverage import Coverage, ObjectName, Seen

Floats = NDArray[np.float32]
Names = tuple[str, ...]

"""Rec. ITU-R BT.709 luminance weights."""
SHADOW = 10
"""Rows of what is kept of shadows."""
TILE = 8
"""Side in px of the squares by which sampling goes where the noise is."""


@dataclass(frozen=True)
class Exposure:
    """What one work unit brings: sums over its samples for some of a picture's pixels.

    pixels : (n,) flat numbers of the pixels, row by row
    samples : samples taken of each; one number for all or one for each
    buffers : names of what the rows of `light` stand for
    objects : what the numbers in `seen` stand for
    light : (buffers, 3, n) radiance, linear Rec.709; the last buffer is the share of background
    odd : (2, n) luminance that samples of odd numbers brought, that of a catcher too, and how many there are
    guides : (9, n) albedo (3), normal (3), how many samples saw these, depth in mm, and how many
        samples met a surface at all
    shadow : (SHADOW, n) direct light as it is, with nothing in its way, the share of catcher, what is seen of
        the surround where a catcher is (3) and where there is nothing (3), and direct light on a catcher
    seen : which objects samples saw first
    """

    pixels: NDArray[np.uint32]
    samples: int | NDArray[np.uint32]
    buffers: tuple[str, ...]
    objects: tuple[ObjectName, ...]
    light: Floats
    odd: Floats
    guides: Floats
    shadow: Floats
    seen: Seen


class Film:
    """Sums over work units, per pixel; every array has one value, or column, a pixel.

    Units may come in any order, each once. The first one names what the rows stand for.
    """

    def __init__(self, width: int, height: int) -> None:
        self.width, self.height = width, height
        self.samples = np.zeros(width * height, np.float32)
        self._open((), ())

    def _open(self, buffers: Names, objects: tuple[ObjectName, ...]) -> None:
        count = self.width * self.height
        self.buffers, self.objects = buffers, objects
        self.light = np.zeros((max(len(buffers), 1), 3, count), np.float32)
        self.odd = np.zeros((2, count), np.float32)
        self.guides = np.zeros((9, count), np.float32)
        self.shadow = np.zeros((SHADOW, count), np.float32)
        self.coverage = Coverage(count)

    def add(self, exposure: Exposure) -> None:
        """Add a unit's sums. Raises ValueError when they are of another scene."""
        if not self.buffers:
            self._open(exposure.buffers, exposure.objects)
        elif (self.buffers, self.objects) != (exposure.buffers, exposure.objects):
            raise ValueError("These sums are of another scene.")
        pixels = exposure.pixels
        together = len(pixels) and int(pixels[-1]) - int(pixels[0]) == len(pixels) - 1
        where = slice(int(pixels[0]), int(pixels[-1]) + 1) if together else pixels
        self.samples[where] += exposure.samples
        for mine, its in (
            (self.light, exposure.light),
            (self.odd, exposure.odd),
            (self.guides, exposure.guides),
            (self.shadow, exposure.shadow),
        ):
            mine[..., where] += its
        self.coverage.add(where, pixels, exposure.seen)

    @property
    def samples_per_pixel(self) -> float:
        """Average samples per pixel so far."""
        return float(self.samples.mean())

    def buffer(self, name: str) -> Floats:
        """(height, width, 3) mean light of one lamp, of the surround, or the share of background."""
        return self._picture(self.light[self.buffers.index(name)] / self._divisor())

    def mean_light(self, background: tuple[float, float, float] | None = (0.0, 0.0, 0.0)) -> Floats:
        """(height, width, 3) mean light before the surround where that is seen, and else a background; black
        where nothing has arrived yet.

        background : None for light alone, without what is seen behind it
        """
        light = self.light[:-1].sum(axis=0)
        if background is not None:
            light += np.array(background, np.float32)[:, None] * self.light[-1] + self.shadow[6:9]
        return self._picture(light / self._divisor())

    def caught_light(self) -> Floats:
        """(height, width, 3) what is seen of the surround where a catcher is, without the shadows on it; or,
        of something else behind, how much of each channel would be."""
        return self._picture(self.shadow[3:6] / self._divisor())

    def alpha(self) -> Floats:
        """(height, width) share of each pixel that hides the background, shadows on a catcher among it."""
        lit, unshadowed, caught = self.shadow[:3] / self._divisor()
        passed = caught * np.minimum(lit / np.maximum(unshadowed, 1e-9), 1.0)
        seen_through = self.light[-1].mean(axis=0) / self._divisor() + passed
        alpha: Floats = np.clip(1 - seen_through, 0, 1).reshape(self.height, self.width)
        return alpha

    def caught(self) -> Floats:
        """(height, width) share of each pixel that is a surface which shows no more than its shadows."""
        share: Floats = (self.shadow[2] / self._divisor()).reshape(self.height, self.width)
        return share

    def shade(self) -> Floats:
        """(height, width) how much of the direct light on the first surface arrives, 0..1."""
        lit, unshadowed = self.shadow[:2]
        share = np.where(unshadowed > 0, lit / np.maximum(unshadowed, 1e-9), 1.0)
        return np.clip(share, 0, 1).astype(np.float32).reshape(self.height, self.width)

    def depth(self) -> Floats:
        """(height, width) mm along the camera's axis to the first surface; 0 where there is none."""
        depth: Floats = (self.guides[7] / np.maximum(self.guides[8], 1)).reshape(self.height, self.width)
        return depth

    def albedo_and_normal(self) -> tuple[Floats, Floats]:
        """Guides for the denoiser, each (height, width, 3): white and flat where nothing is seen."""
        seen = self.guides[6]
        albedo = np.where(seen > 0, self.guides[:3] / np.maximum(seen, 1), 1.0)
        normal = self.guides[3:6] / np.maximum(seen, 1)
        return self._picture(albedo), self._picture(normal)

    def share_of(self, part: str, instance: str | None = None) -> Floats:
        """(height, width) share of each pixel that a part fills, of one instance or of all.

        Raises KeyError when the scene has none.
        """
        mine = [n for n, o in enumerate(self.objects) if o.part == part and instance in (None, o.instance)]
        if not mine:
            raise KeyError(part)
        samples = np.sum([self.coverage.share_of(number) for number in mine], axis=0)
        share: Floats = (samples / self._divisor()).reshape(self.height, self.width)
        return share

    def noise(self, exposure_ev: float = 0.0) -> float | None:
        """Noise left in the picture, in per cent of the display's range; None before two samples.

        The standard error of each pixel's luminance as the display shows it, averaged over the picture
        (root mean square). It falls about as 1/√samples and does not depend on the picture's size.
        """
        if min(self.odd[1].min(), (self.samples - self.odd[1]).min()) < 1:
            return None
        return float(100 * np.sqrt(np.mean(self.sample_variance(exposure_ev) / self.samples)))

    def sample_variance(self, exposure_ev: float = 0.0) -> Floats:
        """(pixels,) variance that one sample of each pixel stands for, of the display's range squared.

        A pixel's samples of even and of odd numbers are two series that know nothing of each other, so how
        far each of their means lies from the whole tells the error of that, however evenly each of them
        lies. By itself that is rough; its mean over many pixels is not. Where the brighter series is
        whiter than white, as in highlights that few samples meet, the display cuts its distance off, so
        the darker one's counts for more. A shadow that is seen on what is behind is as noisy as the light on
        the floor that it falls on.
        """
        odd = self.odd[1]
        even = self.samples - odd
        gain = 2.0**exposure_ev
        luminance = gain * (np.tensordot(LUMINANCE, self.light[:-1].sum(axis=0), axes=1) + self.shadow[9])
        brought = gain * self.odd[0]
        means = np.stack([(luminance - brought) / np.maximum(even, 1), brought / np.maximum(odd, 1)])
        shown = encode_srgb(means)
        apart = (encode_srgb(luminance / np.maximum(self.samples, 1)) - shown) ** 2
        apart *= np.stack([even, odd]) ** 2
        brighter, darker = means.max(axis=0), means.min(axis=0)
        cut = np.clip((brighter - 1) / np.maximum(brighter - darker, 1e-9), 0, 1)
        of_odd = 0.5 + 0.5 * np.where(means[1] > means[0], -cut, cut)
        found: Floats = (apart[0] * (1 - of_odd) + apart[1] * of_odd) * (
            self.samples / np.maximum(even * odd, 1)
        )
        return found

    def to_bytes(self) -> bytes:
        """The sums as a NumPy archive."""
        stream = io.BytesIO()
        arrays: dict[str, Any] = {name: getattr(self, name) for name in _SUMS}
        arrays |= {f"coverage.{name}": values for name, values in self.coverage.arrays().items()}
        arrays["buffers"] = np.array(self.buffers, dtype=np.str_)
        arrays["objects"] = np.array(self.objects, dtype=np.str_).reshape(-1, 3)
        np.savez(stream, size=np.array([self.width, self.height]), **arrays)
        return stream.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Film:
        """Read sums written by `to_bytes`. Raises KeyError when they are not of this release."""
        with np.load(io.BytesIO(data)) as archive:
            film = cls(0, 0)
            film.width, film.height = (int(side) for side in archive["size"])
            film.buffers = tuple(map(str, archive["buffers"]))
            film.objects = tuple(ObjectName(*map(str, row)) for row in archive["objects"])
            for name in _SUMS:
                setattr(film, name, archive[name])
            if len(film.shadow) != SHADOW:
                raise KeyError("shadow")
            kept = {name: archive[f"coverage.{name}"] for name in film.coverage.arrays()}
            film.coverage = Coverage.from_arrays(kept)
        return film

    def _divisor(self) -> Floats:
        return np.maximum(self.samples, 1)

    def _picture(self, planes: Floats) -> Floats:
        """(3, pixels) as (height, width, 3)."""
        return np.ascontiguousarray(np.moveaxis(planes.reshape(3, self.height, self.width), 0, 2), np.float32)


_SUMS = ("samples", "light", "odd", "guides", "shadow")


def tiles_across(width: int, height: int) -> tuple[int, int]:
    """Columns and rows of tiles that cover a picture."""
    return -(-width // TILE), -(-height // TILE)


def spread_over_tiles(values: NDArray[np.uint32], width: int, height: int) -> NDArray[np.uint32]:
    """(pixels,) the value of each pixel's tile."""
    columns, rows = tiles_across(width, height)
    whole = values.reshape(rows, columns).repeat(TILE, axis=0).repeat(TILE, axis=1)
    return np.ascontiguousarray(whole[:height, :width]).ravel()


def tile_means(values: Floats, width: int, height: int) -> Floats:
    """(tiles,) mean over each tile of one value a pixel."""
    columns, rows = tiles_across(width, height)
    padded = np.zeros((rows * TILE, columns * TILE), np.float64)
    padded[:height, :width] = values.reshape(height, width)
    counts = np.zeros_like(padded)
    counts[:height, :width] = 1
    fold = (rows, TILE, columns, TILE)
    means = padded.reshape(fold).sum(axis=(1, 3)) / counts.reshape(fold).sum(axis=(1, 3))
    flat: Floats = means.ravel().astype(np.float32)
    return flat
