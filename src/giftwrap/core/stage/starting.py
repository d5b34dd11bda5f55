"""A new set and a new shot that are never black: three softboxes, a sweep and a portrait lens."""

from __future__ import annotations

from giftwrap.core.model import Camera, PhotoSet, Shot, Softbox
from giftwrap.core.things.thing import Extent


def starting_set() -> PhotoSet:
    """Key from the left, a strip behind on the right for one crisp edge, a softer light above."""
    return PhotoSet(
        lights=[
            Softbox(
                name="Key", width=700, height=1000, azimuth=-58, elevation=22, distance=1100, power_w=9.0
            ),
            Softbox(name="Edge", width=220, height=1100, azimuth=72, elevation=12, distance=900, power_w=3.2),
            Softbox(
                name="Above", width=1000, height=700, azimuth=150, elevation=68, distance=1200, power_w=5.0
            ),
        ]
    )


def starting_shot(extent: Extent) -> Shot:
    """A portrait lens far enough away to hold what stands with air around it.

    extent : of all that stands, mm
    """
    return Shot(camera=framed(Camera(lens_mm=85), extent))


def framed(camera: Camera, extent: Extent) -> Camera:
    """A camera aimed at what stands, from so far away that it fills the picture with air around it.

    Its lens and its direction stay as they are.
    """
    low, high = extent.low, extent.high
    height = high[2] - low[2]
    spread = max(high[0] - low[0], high[1] - low[1])
    reach = max(height * 4.6, spread * 5.2, 300.0) * camera.lens_mm / 85
    return camera.model_copy(
        update={
            "distance": float(round(reach)),
            "height": float(round(low[2] + height * 0.72)),
            "aim_height": float(round(low[2] + height * 0.47)),
            "aim_x": (low[0] + high[0]) / 2,
            "aim_y": (low[1] + high[1]) / 2,
        }
    )
