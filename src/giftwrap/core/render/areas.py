"""How much of all surfaces is about a place: triangles cut up into small pieces."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.mesh.triangles import areas_of
from giftwrap.core.render.irradiance import Numbers

HALVINGS = 40
REACH = 0.67
"""How far a corner may be from the middle of a triangle, in its longest edges."""


def area_points(corners: Numbers, fine: float) -> tuple[Numbers, Numbers, NDArray[np.int64]]:
    """(n, 3) the middles of pieces no longer than about `fine` mm that make up triangles; (n,) their mm²;
    (n,) which triangles they are of."""
    areas = areas_of(corners)
    steps = np.ceil(np.sqrt(2 * areas) / fine).astype(int)
    points, sizes, of = [np.zeros((0, 3))], [np.zeros(0)], [np.zeros(0, np.int64)]
    for step in np.unique(steps[areas > 0]):
        alike = (steps == step) & (areas > 0)
        own = corners[alike]
        i, j = (n.ravel() for n in np.meshgrid(np.arange(step), np.arange(step)))
        up, down = i + j < step, i + j < step - 1
        u = np.concatenate([i[up] + 1 / 3, i[down] + 2 / 3]) / step
        v = np.concatenate([j[up] + 1 / 3, j[down] + 2 / 3]) / step
        shares = np.stack([1 - u - v, u, v], axis=1)
        points.append(np.einsum("kc,ncd->nkd", shares, own).reshape(-1, 3))
        sizes.append(np.repeat(areas[alike] / step**2, step**2))
        of.append(np.repeat(np.flatnonzero(alike), step**2))
    return np.concatenate(points), np.concatenate(sizes), np.concatenate(of)


def spread_evenly(areas: Numbers, apart: float) -> tuple[NDArray[np.int64], float]:
    """(m,) of triangles of so many mm² those that stand for all, one for about each `apart` mm² in their
    order; and the mm² that each then stands for."""
    ends = np.cumsum(areas)
    count = int(np.ceil(ends[-1] / apart)) if len(areas) else 0
    if count == 0:
        return np.zeros(0, np.int64), 0.0
    whole = float(ends[-1])
    at = np.searchsorted(ends, (np.arange(count) + 0.5) / count * whole)
    return np.minimum(at, len(areas) - 1), whole / count


def near_triangles(
    corners: Numbers, small: float, near: Callable[[Numbers, Numbers], NDArray[np.bool_]]
) -> Numbers:
    """(m, 3, 3) triangles cut in halves until no edge is longer than `small` mm, of which only those are left
    that are near something.

    near : of (n, 3) middles and (n,) radii, which may be
    """
    done = [np.zeros((0, 3, 3))]
    for _ in range(HALVINGS):
        sides, longest = _sides(corners)
        here = near((corners[:, 0] + corners[:, 1] + corners[:, 2]) / 3, REACH * longest)
        corners, sides, longest = corners[here], sides[:, here], longest[here]
        long = longest > small
        done.append(corners[~long])
        if not long.any():
            break
        turn = sides[:, long].argmax(axis=0)
        rows, whole = np.arange(len(turn)), corners[long]
        a, b, c = (whole[rows, (turn + number) % 3] for number in range(3))
        half = (a + b) / 2
        corners = np.concatenate([np.stack([a, half, c], axis=1), np.stack([half, b, c], axis=1)])
    return np.concatenate(done)


def _sides(corners: Numbers) -> tuple[Numbers, Numbers]:
    """(3, n) mm² of the squares over edges from one corner to the next, and (n,) mm of the longest."""
    ways = [corners[:, (number + 1) % 3] - corners[:, number] for number in range(3)]
    squares = np.stack([np.einsum("nd,nd->n", way, way) for way in ways])
    return squares, np.sqrt(np.maximum(np.maximum(squares[0], squares[1]), squares[2]))
