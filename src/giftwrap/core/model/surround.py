"""What light comes from all around a set, and what is seen behind what stands there."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from giftwrap.core.model.document import (
    Degrees,
    Document,
    Fraction,
    HexColour,
    Name,
    Sha256,
)
from giftwrap.core.model.light import Elevation, Kelvin

MOST_CARDS = 24
STRONGEST = 100.0
Strength = Annotated[float, Field(ge=0, le=STRONGEST, allow_inf_nan=False)]
Blur = Annotated[float, Field(ge=0, le=90, allow_inf_nan=False)]
"""Degrees."""


class _AllAround(Document):
    """strength : its radiance as a multiple of what it has by itself; tint : seen through a film"""

    strength: Strength = 1.0
    tint: HexColour = "#ffffff"


class EvenSurround(_AllAround):
    """Even light from all around; `strength` is its radiance, 1 being paper white."""

    kind: Literal["even"] = "even"
    strength: Strength = 0.25


class _Uneven(_AllAround):
    """What differs from direction to direction.

    turn : to the right, seen from above
    saturation : 0 is grey, 1 as it is; contrast : power of its brightness about its middle
    blur : standard deviation, degrees
    held : to the world, or to the direction that the camera looks in
    """

    turn: Degrees = 0.0
    saturation: Annotated[float, Field(ge=0, le=3, allow_inf_nan=False)] = 1.0
    contrast: Annotated[float, Field(ge=0.2, le=3, allow_inf_nan=False)] = 1.0
    blur: Blur = 0.0
    held: Literal["world", "camera"] = "world"


class PicturedSurround(_Uneven):
    """A picture of everything around, of linear light: `picture` is its file as it is kept."""

    kind: Literal["picture"] = "picture"
    picture: Sha256
    name: Name


class StudioCard(Document):
    """A lit card far away, seen from the middle of the set. Angles and sides are in degrees; azimuth and
    elevation are of its middle, as those of lights.

    radiance : 1 being paper white; soft : share of half of each side over which it fades out
    """

    name: Name
    azimuth: Degrees
    elevation: Elevation
    width: Annotated[float, Field(gt=0, le=170, allow_inf_nan=False)]
    height: Annotated[float, Field(gt=0, le=170, allow_inf_nan=False)]
    radiance: Strength = 4.0
    soft: Fraction = 0.2
    temperature_k: Kelvin | None = None


class StudioSurround(_Uneven):
    """Light cards around the set; `base` is the radiance of what is between them."""

    kind: Literal["studio"] = "studio"
    base: Strength = 0.05
    cards: Annotated[list[StudioCard], Field(max_length=MOST_CARDS)] = []


class SkySurround(_Uneven):
    """A clear or hazy sky at a place and time, with its sun. At strength 1 a white sheet in it is paper
    white, whatever the hour.

    latitude, longitude : degrees to the north and to the east; behind the set is north
    day, hour, zone : on the clock there, which is so many hours ahead of universal time
    haze : turbidity, 2 for the clearest air
    sun : whether it is there, or behind something
    """

    kind: Literal["sky"] = "sky"
    latitude: Annotated[float, Field(ge=-90, le=90, allow_inf_nan=False)] = 48.0
    longitude: Annotated[float, Field(ge=-180, le=180, allow_inf_nan=False)] = 11.0
    day: date = date(2026, 6, 21)
    hour: Annotated[float, Field(ge=0, le=24, allow_inf_nan=False)] = 9.0
    zone: Annotated[float, Field(ge=-12, le=14, allow_inf_nan=False)] = 1.0
    haze: Annotated[float, Field(ge=2, le=10, allow_inf_nan=False)] = 3.0
    sun: bool = True
    ground: HexColour = "#8d8a84"


Surround = Annotated[
    EvenSurround | PicturedSurround | StudioSurround | SkySurround, Field(discriminator="kind")
]


class SweepBehind(Document):
    """The sweep is what is seen, and past it the surround."""

    kind: Literal["sweep"] = "sweep"


class _Apart(Document):
    """Something that gives no light, shown as it is whatever the exposure.

    shadow : whether the shadow on the sweep is seen on it
    """

    shadow: bool = True


class ColourBehind(_Apart):
    """One colour; #ffffff is exactly white in the file."""

    kind: Literal["colour"] = "colour"
    colour: HexColour = "#ffffff"


class GradientBehind(_Apart):
    """From one colour to another: across the picture, or from its middle outwards.

    turn : of the way from the first to the second, 0 being downwards and 90 to the left
    """

    kind: Literal["gradient"] = "gradient"
    first: HexColour = "#ffffff"
    second: HexColour = "#b9b5ae"
    turn: Degrees = 0.0
    round: bool = False


class PictureBehind(_Apart):
    """A picture that fills the frame, cut where it is too wide or too high.

    blur : standard deviation as a share of the picture's width
    """

    kind: Literal["picture"] = "picture"
    picture: Sha256
    blur: Annotated[float, Field(ge=0, le=0.2, allow_inf_nan=False)] = 0.0


class SurroundBehind(_Apart):
    """What is around: the surround that gives light, or another one.

    blur : degrees more than the surround's own
    """

    kind: Literal["surround"] = "surround"
    other: Surround | None = None
    blur: Blur = 0.0


Behind = Annotated[
    SweepBehind | ColourBehind | GradientBehind | PictureBehind | SurroundBehind,
    Field(discriminator="kind"),
]
