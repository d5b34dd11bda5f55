"""A new set and a new shot that are never black: three softboxes, a sweep and a portrait lens."""

from __future__ import annotations

from giftwrap.core.model import Camera, Grade, PhotoSet, Shot, Softbox


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


def starting_shot(pack_height: float) -> Shot:
    """An 85 mm lens far enough away to hold a pack of this height (mm) with air around it."""
    distance = max(pack_height * 4.6, 300.0)
    camera = Camera(
        lens_mm=85,
        distance=round(distance),
        height=round(pack_height * 0.72),
        aim_height=round(pack_height * 0.47),
    )
    return Shot(camera=camera, grade=Grade())
