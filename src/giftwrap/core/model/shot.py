"""The shot: a camera on a set, what stands there, and what its pictures are for."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from giftwrap.core.model.document import (
    Degrees,
    Document,
    Fraction,
    Key,
    Millimetres,
    Name,
    PositiveMillimetres,
    Sha256,
    Upgrade,
    Versioned,
)
from giftwrap.core.model.light import Point


class Camera(Document):
    """A camera on a 36 × 24 mm frame, `distance` mm from an upright axis, aimed at `aim_height` on it.

    aim_x, aim_y : where that axis stands, mm to the right and back
    upright : its axis is level, and the frame is moved instead, so that what is upright stays so
    rise_mm, shift_mm : by which the frame is moved up and to the right
    roll : degrees to the right about its axis
    f_number : how far it is opened; None for a picture that is sharp everywhere
    focus : what is sharp; None for what it is aimed at
    blades : of its diaphragm; None for a round one
    margin : share of the picture's width and height that is left free on each side when it frames by itself
    """

    projection: Literal["perspective", "orthographic"] = "perspective"
    lens_mm: Annotated[float, Field(ge=8, le=1200, allow_inf_nan=False)] = 85.0
    orthographic_width: PositiveMillimetres = 200.0
    distance: PositiveMillimetres = 1000.0
    height: Millimetres = 160.0
    azimuth: Degrees = 0.0
    aim_height: Millimetres = 120.0
    aim_x: Millimetres = 0.0
    aim_y: Millimetres = 0.0
    upright: bool = False
    rise_mm: Annotated[float, Field(ge=-50, le=50, allow_inf_nan=False)] = 0.0
    shift_mm: Annotated[float, Field(ge=-50, le=50, allow_inf_nan=False)] = 0.0
    roll: Degrees = 0.0
    f_number: Annotated[float, Field(ge=0.7, le=128, allow_inf_nan=False)] | None = None
    focus: Point | None = None
    blades: Annotated[int, Field(ge=5, le=15)] | None = None
    margin: Annotated[float, Field(ge=0.02, le=0.45, allow_inf_nan=False)] = 0.15


class NamedView(Document):
    """A way to look at the set that can be come back to."""

    name: Name
    camera: Camera
    framed_by_hand: bool = True


class Grade(Document):
    """From light to screen: exposure in stops, then sRGB."""

    exposure_ev: Annotated[float, Field(ge=-10, le=10, allow_inf_nan=False)] = 0.0


class Purpose(Document):
    """What a picture is for: how large and how clean it is wanted.

    It is done at `samples` on average for each pixel, at `noise_percent` or after `seconds` of
    rendering, whichever comes first.
    """

    name: Name = "Picture"
    width_px: Annotated[int, Field(ge=64, le=16_384)] = 1200
    height_px: Annotated[int, Field(ge=64, le=16_384)] = 1500
    samples: Annotated[int, Field(ge=2, le=65_536)] = 512
    noise_percent: Annotated[float, Field(gt=0, le=100, allow_inf_nan=False)] | None = 3.0
    seconds: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)] | None = None

    @property
    def aspect(self) -> float:
        """Width over height."""
        return self.width_px / self.height_px


def _with_purposes(data: dict[str, Any]) -> dict[str, Any]:
    """Version 1 had one purpose, and one pack on one set by its place in the job."""
    own = {name: data[name] for name in Purpose.model_fields if name in data and name != "name"}
    rest = {name: value for name, value in data.items() if name not in own}
    return {**rest, "schema_version": 2, "purposes": [own]}


class Reference(Document):
    """A picture to work towards, pinned where the shot is worked on; no picture shows it.

    lies : beside what the camera sees, over or under it by `strength`, or over its left as far as a wipe says
    """

    picture: Sha256
    name: Name
    lies: Literal["beside", "over", "under", "wipe"] = "beside"
    strength: Fraction = 0.5


class Shot(Versioned):
    """One picture to be taken.

    photo_set : key of the set; None for the job's first
    line_up : of that set; None for everything that stands there
    hero : key of the pack it is of; None for the job's first
    framed_by_hand : whether somebody stood the camera; otherwise it follows what stands, and keeps only
        its lens and the direction it looks in
    purposes : its pictures are framed for the first
    views : cameras that were kept by name
    references : pictures to work towards
    """

    upgrades: ClassVar[dict[int, Upgrade]] = {1: _with_purposes}

    schema_version: Literal[2] = 2
    photo_set: Key | None = None
    line_up: Key | None = None
    hero: Key | None = None
    camera: Camera = Camera()
    framed_by_hand: bool = True
    grade: Grade = Grade()
    purposes: Annotated[list[Purpose], Field(min_length=1, max_length=20)] = [Purpose()]
    views: Annotated[list[NamedView], Field(max_length=40)] = []
    references: Annotated[list[Reference], Field(max_length=12)] = []

    @property
    def aspect(self) -> float:
        """Width over height of its pictures."""
        return self.purposes[0].aspect
