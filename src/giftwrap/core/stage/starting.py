"""A new set and a new shot that make a first picture worth sending, whatever stands there."""

from __future__ import annotations

from giftwrap.core.model import (
    Camera,
    Chosen,
    EvenSurround,
    OfHero,
    PhotoSet,
    Pose,
    Shot,
    Softbox,
    Standing,
    Sweep,
)
from giftwrap.core.model.photo_set import HERO

ARRANGED_FOR = 240.0
"""Diagonal in mm of what the lights below are placed for."""


BENCH_GREY = "#8a8a8a"


def starting_set() -> PhotoSet:
    """One key with one shadow, a crisp edge on either side, a light above, and a backdrop that falls off.

    The two edges do not touch the sweep, so that they add no shadows. All of it follows what stands.
    """
    return PhotoSet(
        background="#d3cec4",
        sweep=Sweep(width=3000, front=1500, back=620, height=1500, curve_radius=420),
        lights=[
            Softbox(name="Key", width=300, height=420, azimuth=-52, elevation=38, distance=640, power_w=3.8),
            Softbox(
                name="Edge",
                width=90,
                height=560,
                azimuth=112,
                elevation=8,
                distance=430,
                power_w=1.6,
                untouched=[Chosen(part="sweep")],
            ),
            Softbox(
                name="Second edge",
                width=60,
                height=460,
                azimuth=-118,
                elevation=8,
                distance=430,
                power_w=0.7,
                untouched=[Chosen(part="sweep")],
            ),
            Softbox(
                name="Above", width=520, height=420, azimuth=160, elevation=72, distance=560, power_w=1.9
            ),
        ],
        surround=EvenSurround(strength=0.08),
        scaled_for=ARRANGED_FOR,
    )


def bench_set(turn: float) -> PhotoSet:
    """Neutral light on grey, to judge a pack by while it is formed and wrapped. From wherever one looks at
    it, no lamp stands in the picture.

    turn : of the pack, degrees
    """
    start = starting_set()
    return start.model_copy(
        update={
            "lights": [light.model_copy(update={"hidden_from_camera": True}) for light in start.lights],
            "background": BENCH_GREY,
            "standing": [Standing(id=HERO, of=OfHero(), pose=Pose(turn=turn))],
            "surround": EvenSurround(strength=0.16),
        }
    )


def starting_shot() -> Shot:
    """A portrait lens that looks down a little on what stands, and follows it."""
    return Shot(
        camera=Camera(lens_mm=85, distance=1000, aim_height=120, height=120 + 140), framed_by_hand=False
    )
