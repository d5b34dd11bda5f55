"""Volumes of revolved regions, by Pappus's second theorem: V = 2π · area · centroid radius."""

from __future__ import annotations

import math

from shapely import Polygon, clip_by_rect

MM3_PER_ML = 1000.0


def revolved_volume_ml(section: Polygon) -> float:
    """Volume in ml of a half-section (radius, height in mm) turned once around the axis."""
    if section.is_empty:
        return 0.0
    return float(2 * math.pi * section.area * section.centroid.x / MM3_PER_ML)


def volume_below_ml(section: Polygon, height: float) -> float:
    """Volume in ml of the part of a revolved half-section below a height in mm."""
    left, bottom, right, _ = section.bounds
    if height <= bottom:
        return 0.0
    return revolved_volume_ml(clip_by_rect(section, left - 1, bottom - 1, right + 1, height))


def height_of_volume(section: Polygon, volume_ml: float) -> float:
    """Height in mm up to which a revolved half-section holds a volume; its top if it holds less."""
    low, high = section.bounds[1], section.bounds[3]
    for _ in range(50):
        middle = (low + high) / 2
        if volume_below_ml(section, middle) < volume_ml:
            low = middle
        else:
            high = middle
    return float(high)
