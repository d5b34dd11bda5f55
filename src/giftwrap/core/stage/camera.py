"""Where the camera stands and what its lens takes in."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.mesh.path import Array
from giftwrap.core.model import Camera
from giftwrap.core.stage.sharpness import opening

FRAME_LONG, FRAME_SHORT = 36.0, 24.0
"""The frame of small-format photography in mm."""
STRAIGHT_DOWN = 1e-9
MOST_EXTENDED = 1.05
"""What is nearer than so many focal lengths no lens is focused at."""
NEAREST = 20.0
"""Nothing is told apart nearer to the lens than so many mm."""


@dataclass(frozen=True)
class View:
    """A camera on the set. `position` and `target` in mm; `vertical_angle` in degrees.

    `width` and `height` are what an orthographic camera takes in, mm; None for perspective.

    shift, rise : by which the picture is moved to the right and up, in its width and height
    roll : degrees to the right
    aperture : radius of its opening, mm; 0 where everything is sharp
    focus : mm along its axis to what is sharp
    blades : of its diaphragm; 0 for a round one
    """

    position: tuple[float, float, float]
    target: tuple[float, float, float]
    vertical_angle: float
    width: float | None
    height: float | None
    shift: float = 0.0
    rise: float = 0.0
    roll: float = 0.0
    aperture: float = 0.0
    focus: float = 1000.0
    blades: int = 0


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
    angle = angle_of_view(camera.lens_mm, frame_for(aspect)[1])
    width = camera.orthographic_width if flat else None
    aim = (camera.aim_x, camera.aim_y, camera.aim_height)
    wide, high = frame_for(aspect)
    shift, rise = camera.shift_mm / wide, camera.rise_mm / high
    target = aim
    if camera.upright:
        target = (*aim[:2], camera.height)
        tall = camera.orthographic_width / aspect if flat else 2 * camera.distance * _half(angle)
        rise += (camera.aim_height - camera.height) / tall
    sharp = aim if camera.focus is None else (camera.focus.x, camera.focus.y, camera.focus.z)
    forward = np.subtract(target, position) / np.linalg.norm(np.subtract(target, position))
    focus = max(float(np.subtract(sharp, position) @ forward), NEAREST, MOST_EXTENDED * camera.lens_mm)
    return View(
        position=position,
        target=target,
        vertical_angle=angle,
        width=width,
        height=None if width is None else width / aspect,
        shift=shift,
        rise=rise,
        roll=camera.roll,
        aperture=0.0 if camera.f_number is None else opening(camera.lens_mm, camera.f_number, focus),
        focus=focus,
        blades=camera.blades or 0,
    )


def _half(vertical_angle: float) -> float:
    """Half of what is taken in from top to bottom, a mm away."""
    return math.tan(math.radians(vertical_angle) / 2)


def px_per_mm(camera: Camera, size: tuple[int, int], points: NDArray[np.float64]) -> float:
    """How large the nearest of some points (n, 3), mm, is shown in a picture of a size in px, in px a mm."""
    view, (width, height) = view_of(camera, size[0] / size[1]), size
    if view.width is not None:
        return width / view.width
    eye = np.array(view.position)
    forward = (np.array(view.target) - eye) / np.linalg.norm(np.array(view.target) - eye)
    nearest = max(float(((points - eye) @ forward).min()), NEAREST)
    return height / (2 * nearest * _half(view.vertical_angle))


def ray_through(camera: Camera, aspect: float, x: float, y: float) -> tuple[Array, Array]:
    """(3,) where the ray through a place of the picture begins, mm, and which way it goes; places are 0..1
    from the picture's left and top."""
    view = view_of(camera, aspect)
    eye = np.array(view.position)
    forward, right, up = axes_of(view)
    x, y = x - 0.5 + view.shift, 0.5 - y + view.rise
    if view.width is not None and view.height is not None:
        return eye + x * view.width * right + y * view.height * up, forward
    half = _half(view.vertical_angle)
    way = forward + 2 * x * half * aspect * right + 2 * y * half * up
    return eye, way / np.linalg.norm(way)


def axes_of(view: View) -> tuple[Array, Array, Array]:
    """Forward, to the right and up."""
    forward = np.subtract(view.target, view.position)
    forward = forward / np.linalg.norm(forward)
    right = np.cross(forward, [0.0, 0.0, 1.0])
    right = (
        right / np.linalg.norm(right) if np.linalg.norm(right) > STRAIGHT_DOWN else np.array([1.0, 0.0, 0.0])
    )
    up, turn = np.cross(right, forward), math.radians(view.roll)
    return forward, right * math.cos(turn) - up * math.sin(turn), up * math.cos(turn) + right * math.sin(turn)


def project(camera: Camera, aspect: float, points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Where points on the set appear in the picture.

    points : (n, 3) float, mm
    returns : (n, 2) float, 0..1 from the picture's left and top
    """
    view = view_of(camera, aspect)
    eye = np.array(view.position)
    forward, right, up = axes_of(view)
    x, y, depth = ((points - eye) @ axis for axis in (right, up, forward))
    if view.width is not None and view.height is not None:
        across, high = x / view.width, y / view.height
    else:
        half = _half(view.vertical_angle)
        across, high = x / (depth * 2 * half * aspect), y / (depth * 2 * half)
    return np.stack([0.5 + across - view.shift, 0.5 - high + view.rise], axis=1)
