"""Shards of holographic foil and film: each leans its own way and has its own colour."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

LEAN, TINT = 2.5, 0.42
"""Degrees that shards lean, and how much of a colour they take away (by eye)."""
Values = NDArray[np.float32]


@dataclass(frozen=True)
class Shards:
    """A square that meets itself at its ends: `tint` of each place, (n, n, 3) sRGB shares, and `height`,
    (n, n), in sides of the square, by which each shard leans its own way."""

    tint: Values
    height: Values


def shards(side: int, count: int) -> Shards:
    """So many shards on `side` × `side` places; the same each time."""
    rng = np.random.default_rng(11)
    middles = rng.random((count, 2))
    around = np.vstack([middles + np.array([x, y]) for x in (-1, 0, 1) for y in (-1, 0, 1)])
    at = (np.indices((side, side)).reshape(2, -1).T + 0.5) / side
    _, nearest = cKDTree(around).query(at)
    own = nearest % count
    hue = rng.random(count)
    tints = np.stack([1 - TINT * (0.5 + 0.5 * np.cos(2 * np.pi * (hue + k / 3))) for k in range(3)], -1)
    lean = rng.normal(0.0, np.radians(LEAN), (count, 2))
    height = ((at - around[nearest]) * lean[own]).sum(axis=1)
    return Shards(
        tints[own].reshape(side, side, 3).astype(np.float32), height.reshape(side, side).astype(np.float32)
    )
