"""Perforations: slits along the lines of artwork, with ties between them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy.ndimage import find_objects, label
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import dijkstra

THERE = 128
MOST_PIXELS = 150_000
"""Of a line: where it has more, it is followed at a coarser resolution."""
STEPS = ((0, 1), (1, 0), (1, 1), (1, -1), (1, 2), (2, 1), (1, -2), (2, -1))
"""From a pixel to those around it; ways along them are at most 2.8 % longer than straight ones."""


def slits(mask: Image.Image, slit: float, tie: float) -> Image.Image:
    """What of the lines of a mask, L, is cut where slits and ties take turns along each, px.

    A line begins with a slit at its end, for it to tear there.
    """
    lines = np.asarray(mask)
    numbers, count = label(lines >= THERE, structure=np.ones((3, 3)))
    kept = np.zeros(lines.shape, np.uint8)
    for number, part in zip(range(1, count + 1), find_objects(numbers), strict=True):
        there = numbers[part] == number
        along = _along(there)
        cut = there & (along % (slit + tie) < slit)
        kept[part][cut] = lines[part][cut]
    return Image.fromarray(kept)


def _along(there: NDArray[np.bool_]) -> NDArray[np.float64]:
    """Px from one end of a line, for each of its pixels."""
    coarse = max(int(np.ceil(np.sqrt(there.sum() / MOST_PIXELS))), 1)
    solid = Image.fromarray(there.astype(np.uint8) * 255)
    small = np.asarray(solid.reduce(coarse)) > 0 if coarse > 1 else there
    rows, columns = np.nonzero(small)
    number = np.full(small.shape, -1)
    number[rows, columns] = np.arange(len(rows))
    pairs, lengths = [], []
    for down, across in STEPS:
        r, c = rows + down, columns + across
        inside = (r < small.shape[0]) & (c >= 0) & (c < small.shape[1])
        other = np.full(len(rows), -1)
        other[inside] = number[r[inside], c[inside]]
        met = np.flatnonzero(other >= 0)
        pairs.append(np.stack([met, other[met]]))
        lengths.append(np.full(len(met), np.hypot(down, across)))
    one, two = np.concatenate(pairs, axis=1)
    graph = coo_matrix((np.concatenate(lengths), (one, two)), shape=(len(rows),) * 2).tocsr()
    first = dijkstra(graph, directed=False, indices=0)
    from_end = dijkstra(graph, directed=False, indices=int(first.argmax()))
    far = np.zeros(small.shape)
    far[rows, columns] = coarse * from_end
    whole = far.repeat(coarse, axis=0).repeat(coarse, axis=1)
    return whole[: there.shape[0], : there.shape[1]]
