"""Pictures of everything around: kept, made smaller, and changed as a surround says."""

from __future__ import annotations

import io
import math
from pathlib import Path
from threading import Lock
from zipfile import BadZipFile

import numpy as np
from cachetools import LRUCache, cached
from numpy.typing import NDArray
from scipy import ndimage

from giftwrap.core.around import down, solid_angles
from giftwrap.core.errors import ArtworkError
from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.reading import PANORAMA, read_apart
from giftwrap.core.reading.panoramas import PanoramaFacts

Floats = NDArray[np.float32]
PER_BLUR = 3
"""Texels to the standard deviation of a blur."""
FEWEST_ROWS = 16
KEPT_BYTES = 300_000_000
_lock = Lock()


def read_panorama(source: bytes | Path, filename: str) -> tuple[PanoramaFacts, bytes]:
    """A picture of everything around, and what is kept of it.

    Raises ArtworkError for what is no sound one, or takes more to read than it may.
    """
    head, body = read_apart(
        "giftwrap.core.reading.panoramas:panorama",
        source,
        filename,
        limits=PANORAMA,
        refusal=ArtworkError,
        filename=filename,
    )
    return PanoramaFacts(**{**head, "notes": tuple(head["notes"])}), body


def unpacked(data: bytes) -> Floats:
    """A picture that is kept. Raises ArtworkError when it is none."""
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as kept:
            light: Floats = kept["light"].astype(np.float32) * kept["scale"]
    except (ValueError, OSError, EOFError, KeyError, TypeError, AttributeError, BadZipFile) as error:
        raise ArtworkError("What is named as a surround is none: choose it again.") from error
    if light.ndim != 3 or light.shape[2] != 3 or light.shape[1] != 2 * light.shape[0]:
        raise ArtworkError("What is named as a surround is none: choose it again.")
    return light


@cached(
    LRUCache(KEPT_BYTES, getsizeof=lambda light: light.nbytes),
    key=lambda sha256, data, rows: (sha256, rows),
    lock=_lock,
)
def kept_panorama(sha256: str, data: bytes, rows: int) -> Floats:
    """A picture that is kept, with at most so many rows."""
    light = fewer(unpacked(data), rows)
    light.setflags(write=False)
    return light


def fewer(light: Floats, rows: int) -> Floats:
    """A picture with at most so many rows, each texel the mean of what it covers."""
    if len(light) <= rows:
        return light
    weighed = light * solid_angles(len(light))[:, None, None]
    summed = _summed(_summed(weighed, rows).swapaxes(0, 1), 2 * rows).swapaxes(0, 1)
    per_texel = solid_angles(rows)[:, None, None] * np.float32(len(light) / rows)
    return np.ascontiguousarray(summed / per_texel, np.float32)


def _summed(values: NDArray[np.floating], count: int) -> NDArray[np.float64]:
    """Values along the first axis summed within so many equal shares of it."""
    sums = np.concatenate(
        [np.zeros_like(values[:1], np.float64), np.cumsum(values, axis=0, dtype=np.float64)]
    )
    edges = np.arange(count + 1) * (len(values) / count)
    low = np.minimum(edges.astype(int), len(values) - 1)
    at = sums[low] + (edges - low)[:, None, None] * (sums[low + 1] - sums[low])
    return np.diff(at, axis=0)


def changed(light: Floats, *, saturation: float, contrast: float, blur: float) -> Floats:
    """A picture with its colours, its contrast and its sharpness changed; of the same light in all, but for
    contrast, which keeps its middle.

    blur : standard deviation, degrees
    """
    if saturation != 1:
        grey = (light @ LUMINANCE)[..., None]
        light = np.maximum(grey + np.float32(saturation) * (light - grey), 0)
    if contrast != 1:
        bright = np.maximum(light @ LUMINANCE, 1e-9)
        middle = float(
            np.exp(
                np.average(
                    np.log(bright), weights=np.broadcast_to(solid_angles(len(bright))[:, None], bright.shape)
                )
            )
        )
        light = light * ((bright / middle) ** np.float32(contrast - 1))[..., None]
    return blurred(light, blur) if blur > 0 else light


def blurred(light: Floats, degrees: float) -> Floats:
    """A picture as it is seen through something that spreads directions by a standard deviation.

    With no more rows than show it; of the same light in all.
    """
    light = fewer(light, max(math.ceil(180 / degrees * PER_BLUR), FEWEST_ROWS))
    rows = len(light)
    sine, weights = np.sin(down(rows)), solid_angles(rows)[:, None, None]
    before = (light * weights).sum(axis=(0, 1))
    sigma = rows * degrees / 180
    turned = np.fft.rfft(light, axis=1)
    waves = 2 * math.pi * np.arange(turned.shape[1]) / (2 * rows)
    spread = np.exp(-0.5 * (waves[None] * np.minimum(sigma / sine, rows)[:, None]) ** 2)
    along = np.fft.irfft(turned * spread[..., None], n=2 * rows, axis=1)
    across = _over_the_poles(along, sine, sigma)
    after = (across * weights).sum(axis=(0, 1))
    found: Floats = np.maximum(across * (before / np.maximum(after, 1e-20)), 0).astype(np.float32)
    return found


def _over_the_poles(
    light: NDArray[np.floating], sine: NDArray[np.floating], sigma: float
) -> NDArray[np.floating]:
    """A picture spread along its meridians, which go on beyond the poles."""
    rows = len(light)
    opposite = np.roll(light, rows, axis=1)[::-1]
    whole = np.concatenate([opposite, light, opposite])
    weights = np.concatenate([sine, sine, sine])[:, None, None]
    summed = ndimage.gaussian_filter1d(whole * weights, sigma, axis=0, mode="wrap")
    total = ndimage.gaussian_filter1d(weights, sigma, axis=0, mode="wrap")
    spread: NDArray[np.floating] = (summed / np.maximum(total, 1e-9))[rows : 2 * rows]
    return spread
