"""Where the texels of a picture of everything around lie, and what they count for.

Its rows go from straight up to straight down, its columns once around from the left; what is straight behind
is in the middle.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.floating]


def down(rows: int) -> NDArray[np.float64]:
    """(rows,) angles from straight up to the middle of each row."""
    return np.asarray((np.arange(rows) + 0.5) / rows * math.pi)


def aside(rows: int) -> NDArray[np.float64]:
    """(2 rows,) angles to the right from what is straight behind to the middle of each column."""
    return np.asarray((np.arange(2 * rows) + 0.5) / rows * math.pi - math.pi)


def directions(rows: int) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """x, y and z of where each texel lies, (rows, 2 rows) each."""
    zenith, way = down(rows)[:, None], aside(rows)[None]
    return np.sin(zenith) * np.sin(way), np.sin(zenith) * np.cos(way), np.cos(zenith) + 0 * way


def solid_angles(rows: int) -> NDArray[np.float32]:
    """(rows,) of a row of texels over 2π, sr: how far down it goes."""
    edges = np.cos(np.arange(rows + 1) / rows * math.pi)
    return np.asarray(edges[:-1] - edges[1:], np.float32)


def falls_beneath(light: Floats) -> NDArray[np.float64]:
    """(3,) what falls of a picture, (rows, 2 rows, 3), on a sheet that lies beneath; π of even light of 1."""
    sine = np.sin(np.minimum(np.arange(len(light) + 1) / len(light) * math.pi, math.pi / 2))
    return np.asarray(math.pi * (np.diff(sine**2)[:, None] * light.mean(axis=1)).sum(axis=0))
