"""Board that is pressed out of its plane."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import Polygon
from shapely.geometry.polygon import orient

from giftwrap.core.carton.blank import MET, Pressed
from giftwrap.core.mesh.flat import flat_triangles
from giftwrap.core.mesh.mesh import Mesh, together

SLOPE, LEAST_FLANK = 1.5, 0.6
"""How wide the flank of an embossing is, as a share of its height, and mm at least (common practice)."""
STEPS = 8


def flank_of(height: float) -> float:
    """Mm across the flank of an embossing."""
    return max(SLOPE * abs(height), LEAST_FLANK)


def embossed(pressed: Pressed) -> Mesh:
    """The surface of an embossing above the plane it rises from, mm; places on the blank are its uvs.

    It rises in an S from its outline inwards, by the distance from it, and is even beyond its flank.
    """
    wide = flank_of(pressed.height)
    shares = np.linspace(0.0, 1.0, STEPS + 1)
    levels = [pressed.outline, *(pressed.outline.buffer(-share * wide) for share in shares[1:])]
    found = []
    for outer, inner, before, after in zip(levels, levels[1:], shares, shares[1:], strict=False):
        for part in getattr(outer.difference(inner), "geoms", [outer.difference(inner)]):
            if isinstance(part, Polygon) and part.area > 1e-9:
                found.append(_band(orient(part), inner, pressed, float(before), float(after)))
    last = levels[-1]
    for part in getattr(last, "geoms", [last]):
        if isinstance(part, Polygon) and part.area > 1e-9:
            flat, faces = flat_triangles(orient(part))
            up = np.tile([0.0, 0.0, 1.0], (len(flat), 1))
            places = np.column_stack([flat, np.full(len(flat), pressed.height)])
            found.append(Mesh(places, up, flat, faces))
    return together(*found)


def _band(part: Polygon, inner: Polygon, pressed: Pressed, before: float, after: float) -> Mesh:
    """What lies between two distances from an embossing's outline."""
    flat, faces = flat_triangles(part)
    at, edge = shapely.points(flat), pressed.outline.exterior
    on_inner = shapely.distance(at, inner) < MET if not inner.is_empty else np.zeros(len(flat), bool)
    share = np.where(on_inner, after, before)
    slope = pressed.height / flank_of(pressed.height) * 6 * share * (1 - share)
    away = flat - shapely.get_coordinates(edge.interpolate(edge.project(at)))
    length = np.linalg.norm(away, axis=1, keepdims=True)
    inward = np.divide(away, length, out=np.zeros_like(away), where=length > MET)
    normals = np.column_stack([-slope[:, None] * inward, np.ones(len(flat))])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    heights = pressed.height * share * share * (3 - 2 * share)
    return Mesh(np.column_stack([flat, heights]), normals, flat, faces)
