"""The lights of a set: lamps, and cards that give back light or take it.

Directions are seen from what a light is aimed at: azimuth 0° is the front, where the camera stands by
default, and grows to the right as the camera sees it; elevation grows upwards.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from giftwrap.core.model.document import (
    Degrees,
    Document,
    Fraction,
    HexColour,
    Key,
    Millimetres,
    Name,
    NonNegativeMillimetres,
    PositiveMillimetres,
    Sha256,
)

MOST_LIGHTS = 16
PartName = Literal["sweep", "body", "contents", "closure", "labels", "props"]
Elevation = Annotated[float, Field(ge=-90, le=90, allow_inf_nan=False)]
Watts = Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)]
Kelvin = Annotated[float, Field(ge=1667, le=25_000, allow_inf_nan=False)]
"""Where the formulas for the colour of hot bodies hold."""


class Chosen(Document):
    """Things on a set: those of one standing, or everything; of these, one kind of part, or all of it."""

    standing: Key | None = None
    part: PartName | None = None


class Point(Document):
    """A place on the set, mm: to the right, back and up."""

    x: Millimetres = 0.0
    y: Millimetres = 0.0
    z: Millimetres = 0.0


class Falloff(Document):
    """How a face darkens along one of its directions.

    towards : where it is darkest: at its start (left or bottom, seen from what it lights), its end, both
        edges, or the middle between them
    by : what is taken there; 1 leaves it black
    curve : power of the way at which it does: 1 evenly, more keeps to the edge
    """

    towards: Literal["start", "end", "edges", "middle"] = "end"
    by: Fraction = 0.0
    curve: Annotated[float, Field(ge=0.2, le=8, allow_inf_nan=False)] = 1.0


class _OnSet(Document):
    """What hangs on the set.

    untouched : what it does not light; unreflected : what does not mirror it, nor shines with it
    """

    name: Name
    on: bool = True
    hidden_from_camera: bool = False
    untouched: Annotated[list[Chosen], Field(max_length=500)] = []
    unreflected: Annotated[list[Chosen], Field(max_length=500)] = []


class _Aimed(_OnSet):
    """What hangs somewhere and is aimed at something.

    aim : what at; None for the middle of what stands
    distance : from there, mm
    roll : about the way it is aimed, to the right as seen from what it lights
    """

    azimuth: Degrees
    elevation: Elevation
    distance: PositiveMillimetres
    roll: Degrees = 0.0
    aim: Point | None = None


class _Coloured(Document):
    """What gives light of some colour; of the brightness that its power says, whichever it is.

    temperature_k : of a hot body, from 5000 K on of daylight; None for neutral
    gel : colour of a film before it
    """

    temperature_k: Kelvin | None = None
    gel: HexColour | None = None


class _Panel(_Aimed, _Coloured):
    """A lit rectangle. Both falloffs, frame and picture only take light away."""

    width: PositiveMillimetres
    height: PositiveMillimetres
    power_w: Watts


class Softbox(_Panel):
    """A rectangle that shines evenly or fades, with a dark frame so many mm wide.

    picture : a file by its SHA-256 that is the light's face
    """

    kind: Literal["softbox"] = "softbox"
    across: Falloff = Falloff()
    up: Falloff = Falloff()
    frame: NonNegativeMillimetres = 0.0
    picture: Sha256 | None = None


class WindowLight(_Panel):
    """Panes between bars so many mm wide."""

    kind: Literal["window"] = "window"
    columns: Annotated[int, Field(ge=1, le=20)] = 2
    rows: Annotated[int, Field(ge=1, le=20)] = 3
    bar: NonNegativeMillimetres = 40.0


class LightTable(_OnSet, _Coloured):
    """A lit rectangle that lies on the floor and shines upwards.

    at : its middle; None for beneath the middle of what stands
    """

    kind: Literal["table"] = "table"
    width: PositiveMillimetres
    height: PositiveMillimetres
    power_w: Watts
    at: Point | None = None
    turn: Degrees = 0.0


class Spot(_Aimed, _Coloured):
    """A round lamp with a beam.

    beam : degrees across, to where nothing is lit; rim : share of its radius that is soft
    """

    kind: Literal["spot"] = "spot"
    diameter: PositiveMillimetres
    power_w: Watts
    beam: Annotated[float, Field(ge=1, le=170, allow_inf_nan=False)] = 40.0
    rim: Fraction = 0.3


class Ball(_Aimed, _Coloured):
    """A globe that shines everywhere alike."""

    kind: Literal["ball"] = "ball"
    diameter: PositiveMillimetres
    power_w: Watts


class Sun(_OnSet, _Coloured):
    """Light from far away.

    diameter : degrees; haze makes the sun's half degree larger
    irradiance : W on each m² that faces it
    """

    kind: Literal["sun"] = "sun"
    azimuth: Degrees
    elevation: Elevation
    diameter: Annotated[float, Field(ge=0.1, le=60, allow_inf_nan=False)] = 0.53
    irradiance: Annotated[float, Field(ge=0, le=1000, allow_inf_nan=False)]


class Card(_Aimed):
    """A matt sheet without light of its own: white gives back light, black takes it."""

    kind: Literal["card"] = "card"
    width: PositiveMillimetres
    height: PositiveMillimetres
    colour: HexColour = "#ffffff"


Light = Annotated[Softbox | WindowLight | LightTable | Spot | Ball | Sun | Card, Field(discriminator="kind")]
