"""Surrounds to begin with, each for a purpose."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from giftwrap.core.model import EvenSurround, SkySurround, StudioCard, StudioSurround, Surround


@dataclass(frozen=True)
class Around:
    """A surround. `words` say what it is good for."""

    title: str
    words: str
    surround: Surround


def _card(
    name: str, at: tuple[float, float], size: tuple[float, float], radiance: float, soft: float
) -> StudioCard:
    """A card at an azimuth and an elevation, so wide and high, all in degrees."""
    return StudioCard(
        name=name,
        azimuth=at[0],
        elevation=at[1],
        width=size[0],
        height=size[1],
        radiance=radiance,
        soft=soft,
    )


_JUNE = date(2026, 6, 21)
STARTING_SURROUNDS: dict[str, Around] = {
    "even": Around(
        "An even room", "Light from everywhere, the lamps do the rest.", EvenSurround(strength=0.16)
    ),
    "strips": Around(
        "Two strips and a ceiling",
        "Long clean edges on glass and metal.",
        StudioSurround(
            base=0.06,
            cards=[
                _card("Left strip", (-72, 14), (16, 78), 12.0, 0.35),
                _card("Right strip", (68, 14), (12, 78), 8.0, 0.35),
                _card("Ceiling", (0, 78), (110, 60), 2.6, 0.6),
            ],
        ),
    ),
    "tent": Around(
        "A light tent",
        "White all around with a dark slot for the camera: for shiny things.",
        StudioSurround(
            base=1.0,
            cards=[
                _card("Camera slot", (0, 4), (22, 34), 0.02, 0.3),
                _card("Dark floor", (0, -90), (150, 150), 0.35, 0.5),
            ],
        ),
    ),
    "wall": Around(
        "One large window wall",
        "Soft light from the left that falls off across the pack.",
        StudioSurround(
            base=0.08,
            cards=[
                _card("Window wall", (-80, 22), (84, 64), 6.5, 0.25),
                _card("White wall", (95, 10), (70, 60), 0.5, 0.7),
            ],
        ),
    ),
    "morning": Around(
        "A clear morning",
        "Warm sun from the side, blue shadows.",
        SkySurround(day=_JUNE, hour=8.0, haze=3.0, turn=142),
    ),
    "noon": Around(
        "A hazy noon",
        "A high white sun in a pale sky.",
        SkySurround(day=_JUNE, hour=12.5, haze=6.0, turn=30),
    ),
    "evening": Around(
        "A low evening sun",
        "Long shadows, the whole sky warm.",
        SkySurround(day=_JUNE, hour=19.0, haze=4.0, turn=176),
    ),
    "shade": Around(
        "Open shade",
        "The sky alone, its sun behind a house: soft and cool.",
        SkySurround(day=_JUNE, hour=15.0, haze=4.0, sun=False, saturation=0.4, turn=-30),
    ),
}
