"""How much of a picture is sharp, by the thin lens (Ray, Applied Photographic Optics, from memory).

Lengths in mm; distances from the lens.
"""

from __future__ import annotations

import math

CIRCLE = math.hypot(36, 24) / 1500
"""A disc no larger than this on the frame is seen as a point: common practice."""


def opening(lens: float, f_number: float, focus: float) -> float:
    """Radius of the opening that blurs a picture as the lens does, focused at a distance.

    The frame takes in what it does at infinity; a lens that is moved out for near things shows them larger by
    s / (s − f), and blurs by as much more.
    """
    return lens / (2 * f_number) * focus / (focus - lens)


def blur(lens: float, f_number: float, focus: float, distance: float) -> float:
    """Diameter on the frame of the disc that a point at a distance is seen as: f² |d − s| / (N d (s − f))."""
    return lens**2 * abs(distance - focus) / (f_number * distance * (focus - lens))


def hyperfocal(lens: float, f_number: float, circle: float = CIRCLE) -> float:
    """The nearest focus at which everything behind it is sharp: f² / (N c) + f."""
    return lens**2 / (f_number * circle) + lens


def sharp_between(lens: float, f_number: float, focus: float, circle: float = CIRCLE) -> tuple[float, float]:
    """Nearest and farthest distance that is sharp; the latter may be infinite."""
    far_off = hyperfocal(lens, f_number, circle)
    near = focus * (far_off - lens) / (far_off + focus - 2 * lens)
    return near, focus * (far_off - lens) / (far_off - focus) if focus < far_off else math.inf
