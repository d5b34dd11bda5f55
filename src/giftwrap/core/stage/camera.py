"""Where the camera stands and what its lens takes in."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.mesh.path import Array
from giftwrap.core.model import Camera

FRAME_LONG, FRAME_SHORT = 36.0, 24.0
"""The frame of small-format photography in mm."""
NEAREST = 20.0
"""Nothing is told apart nearer to the lens than so many mm."""


@dataclass(frozen=True)
class View:
    """A camera on the set. `position` and `target` in mm; `vertical_angle` in degrees.

    `width` and `height` are what an orthographic camera takes in, mm; None for perspective.
    """

    position: tuple[float, float, float]
    target: tuple[float, float, float]
    vertical_angle: float
    width: float | None
    height: float | None


def frame_for(aspect: float) -> tuple[float, float]:
    """Width and height in mm of the largest part of the frame with an aspect (width / height).

    The camera is turned upright for pictures taller than wide.
    """
    long, short = (FRAME_LONG, FRAME_SHORT) if aspect >= 1 else (FRAME_SHORT, FRAME_LONG)
    return (short * aspect, short) if aspect <= long / short else (long, long / aspect)


def angle_of_view(lens_mm: float, frame_mm: float) -> float:
    """Degrees taken in along a frame side, focused at infinity: 2·atan(d / 2f)."""
    return math.degrees(2 * math.atan(frame_mm / (2 * lens_mm)))


def lens_for(vertical_angle: float, aspect: float) -> float:
    """Focal length in mm that takes in an angle in degrees from top to bottom, in pictures of an aspect."""
    return frame_for(aspect)[1] / (2 * math.tan(math.radians(vertical_angle) / 2))


def view_of(camera: Camera, aspect: float) -> View:
    """Stand the camera on the set for pictures of an aspect (width / height)."""
    azimuth = math.radians(camera.azimuth)
    position = (
        camera.aim_x + camera.distance * math.sin(azimuth),
        camera.aim_y - camera.distance * math.cos(azimuth),
        camera.height,
    )
    flat = camera.projection == "orthographic"
    return View(
        position=position,
        target=(camera.aim_x, camera.aim_y, camera.aim_height),
        vertical_angle=angle_of_view(camera.lens_mm, frame_for(aspect)[1]),
        width=camera.orthographic_width if flat else None,
        height=camera.orthographic_width / aspect if flat else None,
    )


def px_per_mm(camera: Camera, size: tuple[int, int], points: NDArray[np.float64]) -> float:
    """How large the nearest of some points (n, 3), mm, is shown in a picture of a size in px, in px a mm."""
    view, (width, height) = view_of(camera, size[0] / size[1]), size
    if view.width is not None:
        return width / view.width
    eye = np.array(view.position)
    forward = (np.array(view.target) - eye) / np.linalg.norm(np.array(view.target) - eye)
    nearest = max(float(((points - eye) @ forward).min()), NEAREST)
    return height / (2 * nearest * math.tan(math.radians(view.vertical_angle) / 2))


def ray_through(camera: Camera, aspect: float, x: float, y: float) -> tuple[Array, Array]:
    """(3,) where the ray through a place of the picture begins, mm, and which way it goes; places are 0..1
    from the picture's left and top."""
    view = view_of(camera, aspect)
    eye = np.array(view.position)
    forward, right, up = _axes(view)
    if view.width is not None and view.height is not None:
        return eye + (x - 0.5) * view.width * right + (0.5 - y) * view.height * up, forward
    half = math.tan(math.radians(view.vertical_angle) / 2)
    way = forward + (2 * x - 1) * half * aspect * right + (1 - 2 * y) * half * up
    return eye, way / np.linalg.norm(way)


def _axes(view: View) -> tuple[Array, Array, Array]:
    """Forward, to the right and up."""
    forward = np.array(view.target) - view.position
    forward /= np.linalg.norm(forward)
    right = np.cross(forward, [0.0, 0.0, 1.0])
    right /= np.linalg.norm(right)
    return forward, right, np.cross(right, forward)


def project(camera: Camera, aspect: float, points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Where points on the set appear in the picture.

    points : (n, 3) float, mm
    returns : (n, 2) float, 0..1 from the picture's left and top
    """
    view = view_of(camera, aspect)
    eye = np.array(view.position)
    forward, right, up = _axes(view)
    x, y, depth = ((points - eye) @ axis for axis in (right, up, forward))
    if view.width is not None and view.height is not None:
        return np.stack([0.5 + x / view.width, 0.5 - y / view.height], axis=1)
    half = math.tan(math.radians(view.vertical_angle) / 2)
    return np.stack([0.5 + x / (depth * 2 * half * aspect), 0.5 - y / (depth * 2 * half)], axis=1)
