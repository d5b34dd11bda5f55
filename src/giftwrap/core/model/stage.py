"""The set and the shot: what lights the pack, what is behind it, and where the camera stands.

Directions are seen from the pack: azimuth 0° is the front, where the camera stands by default,
and grows to the right as the camera sees it; elevation grows upwards.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from giftwrap.core.model.document import (
    Degrees,
    Document,
    HexColour,
    Millimetres,
    Name,
    PositiveMillimetres,
)

PartName = Literal["sweep", "body", "contents", "closure", "labels"]


class Softbox(Document):
    """An evenly lit rectangle aimed at the middle of the pack.

    untouched : what it does not light
    """

    name: Name
    width: PositiveMillimetres
    height: PositiveMillimetres
    azimuth: Degrees
    elevation: Annotated[float, Field(ge=-10, le=90, allow_inf_nan=False)]
    distance: PositiveMillimetres
    power_w: Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)]
    on: bool = True
    hidden_from_camera: bool = False
    hidden_from_reflections: bool = False
    untouched: Annotated[list[PartName], Field(max_length=5)] = []


class Sweep(Document):
    """A seamless backdrop: floor, curve and wall in one sheet."""

    width: PositiveMillimetres = 4000.0
    front: PositiveMillimetres = 1500.0
    back: PositiveMillimetres = 900.0
    height: PositiveMillimetres = 2200.0
    curve_radius: PositiveMillimetres = 500.0


class Surround(Document):
    """Even, neutral light from all around; `strength` is its radiance, 1 being paper white."""

    strength: Annotated[float, Field(ge=0, le=20, allow_inf_nan=False)] = 0.25


class PhotoSet(Document):
    """A photographed scene. The background colour is the sweep's."""

    schema_version: Literal[1] = 1
    sweep: Sweep = Sweep()
    background: HexColour = "#e9e4da"
    lights: Annotated[list[Softbox], Field(max_length=16)]
    surround: Surround = Surround()


class Camera(Document):
    """A camera on a 36 × 24 mm frame, `distance` mm from the axis, aimed at `aim_height`."""

    projection: Literal["perspective", "orthographic"] = "perspective"
    lens_mm: Annotated[float, Field(ge=8, le=1200, allow_inf_nan=False)] = 85.0
    orthographic_width: PositiveMillimetres = 200.0
    distance: PositiveMillimetres = 1000.0
    height: Millimetres = 160.0
    azimuth: Degrees = 0.0
    aim_height: Millimetres = 120.0


class Grade(Document):
    """From light to screen: exposure in stops, then sRGB."""

    exposure_ev: Annotated[float, Field(ge=-10, le=10, allow_inf_nan=False)] = 0.0


class Shot(Document):
    """One picture to be taken, and how large and how clean it is wanted.

    It is done at `samples` on average for each pixel, at `noise_percent` or after `seconds` of
    rendering, whichever comes first.
    """

    schema_version: Literal[1] = 1
    camera: Camera = Camera()
    grade: Grade = Grade()
    width_px: Annotated[int, Field(ge=64, le=16_384)] = 1200
    height_px: Annotated[int, Field(ge=64, le=16_384)] = 1500
    samples: Annotated[int, Field(ge=2, le=65_536)] = 512
    noise_percent: Annotated[float, Field(gt=0, le=100, allow_inf_nan=False)] | None = 3.0
    seconds: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)] | None = None
