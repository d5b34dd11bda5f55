"""Walls that panels are wound around: a body's, a closure's, or the outline that film spans over both."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from shapely import Polygon, box, segmentize, union_all

from giftwrap.core.errors import PackError
from giftwrap.core.form.closures import Built
from giftwrap.core.form.formed import FormedBody
from giftwrap.core.form.sections import ROUND, Loft
from giftwrap.core.mesh.path import Array, Path, with_creases
from giftwrap.core.model import BODY

SPANS = 4.0
"""Film and strips span hollows that a ball of this radius, mm, does not reach into."""
STEP = 0.8
"""Longest piece, mm, that an outline is drawn with."""
_FAR = 1e5


@dataclass(frozen=True)
class Wall:
    """What a panel is wound around.

    path : (radius, height) in mm, rising, its solid on the left; loft : its cross-sections
    columns : (n,) float, radians from the front: where it is drawn
    foot : mm above the table that heights on it are counted from; top : where it ends
    """

    path: Path
    loft: Loft
    columns: Array
    foot: float
    top: float


def wall_of(part: str, formed: FormedBody, built: Built | None, *, place: str) -> Wall:
    """The wall of a body, or of a part of its closure.

    Raises PackError when there is no such part, or it is not turned around the axis.
    """
    if part == BODY:
        return Wall(formed.outer, formed.loft, formed.columns, 0.0, formed.rim_height)
    solids = {solid.name: solid for solid in built.solids} if built else {}
    if part not in solids:
        known = ", ".join([BODY, *solids])
        raise PackError(f"There is no “{part}” to label: choose one of {known}.", f"{place}.part")
    path = _right_side(_filled(solids[part].outlines))
    heights = path.points[:, 1]
    return Wall(path, ROUND, formed.columns, float(heights.min()), float(heights.max()))


def spanned(formed: FormedBody, built: Built | None) -> Wall:
    """What film lies on that is pulled tight around a closed pack, from its base to its top's middle."""
    outlines = [np.vstack([formed.outer.points, [[0.0, formed.rim_height]]])]
    shapes = [_filled(outlines), *(_filled(solid.outlines) for solid in (built.solids if built else ()))]
    whole = union_all(shapes).buffer(SPANS, quad_segs=32).buffer(-SPANS, quad_segs=32)
    outside = Polygon(max(getattr(whole, "geoms", [whole]), key=lambda one: one.area).exterior)
    path = _right_side(outside)
    return Wall(path, formed.loft, formed.columns, 0.0, float(path.points[:, 1].max()))


def _filled(outlines: tuple[Array, ...] | list[Array]) -> Polygon:
    """Everything within outlines, (n, 2) float, mm across and up, and their mirror images."""
    rings = [Polygon(points).buffer(0) for points in outlines]
    rings += [Polygon(points * [-1.0, 1.0]).buffer(0) for points in outlines]
    whole = union_all(rings)
    # what is open below, as a cap is, is filled from its widest part upwards by what encloses it
    parts = [Polygon(one.exterior) for one in getattr(whole, "geoms", [whole])]
    return union_all(parts)


def _right_side(shape: Polygon) -> Path:
    """The right half of an outline, from the axis below to the axis on top."""
    half = shape.intersection(box(0, -_FAR, _FAR, _FAR))
    half = max(getattr(half, "geoms", [half]), key=lambda one: one.area)
    ring = np.array(segmentize(half, STEP).exterior.coords[:-1])
    area = np.sum(ring[:, 0] * np.roll(ring[:, 1], -1) - np.roll(ring[:, 0], -1) * ring[:, 1])
    ring = ring if area > 0 else ring[::-1]
    on_axis = np.flatnonzero(ring[:, 0] < 1e-6)
    start = on_axis[np.argmin(ring[on_axis, 1])]
    ring = np.roll(ring, -int(start), axis=0)
    # the first one back on the axis is its top
    end = int(np.flatnonzero(ring[1:, 0] < 1e-6)[0]) + 1
    points = ring[: end + 1]
    steps = np.diff(points, axis=0)
    long = np.hypot(*steps.T) > 1e-6
    points = points[np.concatenate([[True], long])]
    steps = np.diff(points, axis=0)
    pieces = np.stack([steps[:, 1], -steps[:, 0]], axis=1)
    pieces /= np.linalg.norm(pieces, axis=1, keepdims=True)
    normals = np.vstack([pieces[:1], pieces[:-1] + pieces[1:], pieces[-1:]])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    return with_creases(Path(points, normals))
