"""The film: sums of light that can be added up in any order, and how noisy they still are."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]

LUMINANCE = np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)
"""Rec. ITU-R BT.709 luminance weights."""


@dataclass(frozen=True)
class Exposure:
    """What one work unit brings: means over its samples for a band of rows.

    top : first row of the band
    samples : samples per pixel
    light : (rows, width, 3) mean light, linear Rec.709
    albedo, normal : (rows, width, 3) mean guides for the denoiser over `guide_samples`, or None
    """

    top: int
    samples: int
    light: Floats
    guide_samples: int = 0
    albedo: Floats | None = None
    normal: Floats | None = None


class Film:
    """Sums over work units, per pixel.

    Noise is estimated from the spread between units: with unit means m of n samples each,
    Σ n (m − mean)² / (units − 1) is the variance of a single sample.
    """

    def __init__(self, width: int, height: int) -> None:
        self.width, self.height = width, height
        self.light = np.zeros((height, width, 3), np.float32)
        self.albedo = np.zeros((height, width, 3), np.float32)
        self.normal = np.zeros((height, width, 3), np.float32)
        self.squares = np.zeros((height, width), np.float32)
        self.samples = np.zeros(height, np.float32)
        self.guide_samples = np.zeros(height, np.float32)
        self.units = np.zeros(height, np.float32)

    def add(self, exposure: Exposure) -> None:
        """Add a unit's light. Units may come in any order, each once."""
        rows = slice(exposure.top, exposure.top + len(exposure.light))
        n = np.float32(exposure.samples)
        self.light[rows] += n * exposure.light
        self.squares[rows] += n * (exposure.light @ LUMINANCE) ** 2
        self.samples[rows] += n
        self.units[rows] += 1
        if exposure.albedo is not None and exposure.normal is not None:
            self.albedo[rows] += exposure.guide_samples * exposure.albedo
            self.normal[rows] += exposure.guide_samples * exposure.normal
            self.guide_samples[rows] += exposure.guide_samples

    @property
    def samples_per_pixel(self) -> float:
        """Average samples per pixel so far."""
        return float(self.samples.mean())

    def mean_light(self) -> Floats:
        """(height, width, 3) mean light; black where nothing has arrived yet."""
        return _mean(self.light, self.samples)

    def guides(self) -> tuple[Floats, Floats]:
        """Mean albedo and normal."""
        return _mean(self.albedo, self.guide_samples), _mean(self.normal, self.guide_samples)

    def noise(self, exposure_ev: float = 0.0) -> float | None:
        """Noise left in the picture, in per cent of the display's range; None before two units.

        The standard error of each pixel's luminance is carried through exposure and the slope of
        the sRGB transfer function, and averaged over the picture (root mean square). It falls as
        1/√samples and does not depend on the picture's size.
        """
        if self.units.min() < 2:
            return None
        n, units = self.samples[:, None], self.units[:, None]
        mean = self.mean_light() @ LUMINANCE
        variance = np.maximum(self.squares - n * mean**2, 0) / (units - 1)
        gain = np.float32(2.0**exposure_ev)
        error = np.sqrt(variance / n) * gain
        shown = np.clip(mean * gain, 0.0031308, 1.0)
        slope = 1.055 / 2.4 * shown ** (1 / 2.4 - 1)
        visible = np.where(mean * gain < 1.0, np.minimum(error * slope, 1.0), 0.0)
        return float(100 * np.sqrt(np.mean(visible**2)))

    def to_bytes(self) -> bytes:
        """The sums as a NumPy archive."""
        stream = io.BytesIO()
        np.savez(stream, **{name: getattr(self, name) for name in self._sums()})
        return stream.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Film:
        """Read sums written by `to_bytes`."""
        with np.load(io.BytesIO(data)) as archive:
            height, width = archive["squares"].shape
            film = cls(width, height)
            for name in cls._sums():
                setattr(film, name, archive[name])
        return film

    @staticmethod
    def _sums() -> tuple[str, ...]:
        return ("light", "albedo", "normal", "squares", "samples", "guide_samples", "units")


def _mean(total: Floats, samples: Floats) -> Floats:
    """Sums divided by each row's samples; zero where there are none."""
    return (total / np.maximum(samples, 1)[:, None, None]).astype(np.float32)
