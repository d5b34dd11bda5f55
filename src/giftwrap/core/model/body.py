"""The body of a pack: its half-profile, cross-sections, wall, finish and relief."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator
from shapely import LineString
from shapely import Polygon as Outline

from giftwrap.core.errors import PackError
from giftwrap.core.model.document import (
    Degrees,
    Document,
    Millimetres,
    Name,
    NonNegativeMillimetres,
    PositiveMillimetres,
    Sha256,
)
from giftwrap.core.model.material import Clear, Cloudy, Linked, Metal, Opaque

MAX_HEIGHT = 2000.0
"""Taller than any retail pack (common practice); keeps pictures and meshes within reason."""
LEAST_RADIUS = 0.2
LEAST_SPACING = 0.02
"""Corners closer than this, in mm, are one corner."""

ZoneName = Literal["base", "heel", "body", "shoulder", "neck", "finish"]
Ratio = Annotated[float, Field(ge=0.02, le=10, allow_inf_nan=False)]
Count = Annotated[int, Field(ge=3, le=200)]


class Corner(Document):
    """One corner of a half-profile: `radius` from the axis, `height` above the table.

    `leave` is how the line goes on to the next corner: straight, as an arc whose middle lies
    `bulge` mm outside the straight line (inside when negative), or as a smooth curve through this
    and all following corners that are left by a curve.
    """

    radius: NonNegativeMillimetres
    height: NonNegativeMillimetres
    rounding: NonNegativeMillimetres = 0.0
    leave: Literal["line", "arc", "curve"] = "line"
    bulge: Millimetres = 0.0


class Round(Document):
    """A circle."""

    kind: Literal["round"] = "round"


class Oval(Document):
    """An ellipse; `depth_ratio` is its depth over its width."""

    kind: Literal["oval"] = "oval"
    depth_ratio: Ratio = 0.6


class Squircle(Document):
    """A superellipse |x|ⁿ + |y|ⁿ = 1 with n = `squareness` (2 is an ellipse)."""

    kind: Literal["squircle"] = "squircle"
    depth_ratio: Ratio = 1.0
    squareness: Annotated[float, Field(ge=2, le=12, allow_inf_nan=False)] = 4.0


class Rectangle(Document):
    """A rectangle; `corner` is its rounding as a share of half its shorter side."""

    kind: Literal["rectangle"] = "rectangle"
    depth_ratio: Ratio = 0.6
    corner: Annotated[float, Field(ge=0.02, le=1, allow_inf_nan=False)] = 0.3


class Polygon(Document):
    """An even polygon with a side in front; `corner` is its rounding as a share of the largest."""

    kind: Literal["polygon"] = "polygon"
    sides: Annotated[int, Field(ge=3, le=24)] = 6
    corner: Annotated[float, Field(ge=0.02, le=1, allow_inf_nan=False)] = 0.2


class OwnOutline(Document):
    """An outline of one's own, seen from above with the front at the bottom; any unit.

    Only its shape counts: it is scaled to the width of the half-profile. `smooth` draws a curve
    through the points instead of straight sides.
    """

    kind: Literal["own"] = "own"
    points: Annotated[tuple[tuple[Millimetres, Millimetres], ...], Field(min_length=3, max_length=400)]
    smooth: bool = True

    @model_validator(mode="after")
    def _goes_once_around(self) -> OwnOutline:
        outline = Outline(self.points)
        if not outline.is_valid or outline.area < 1e-6:
            raise PackError("The outline crosses itself or has no area: draw it once around.", "points")
        return self


Section = Annotated[Round | Oval | Squircle | Rectangle | Polygon | OwnOutline, Field(discriminator="kind")]


class SectionMark(Document):
    """The cross-section at a height; between two marks one changes smoothly into the other."""

    height: NonNegativeMillimetres
    section: Section


class Finish(Document):
    """The threaded top of a neck, in the letters of the finish drawings.

    thread_diameter : T, over the thread
    neck_diameter : E, at the root of the thread
    bore : I, the narrowest inside
    height : H, from the top down to where the neck begins
    """

    name: Name
    thread_diameter: PositiveMillimetres
    neck_diameter: PositiveMillimetres
    bore: PositiveMillimetres
    height: PositiveMillimetres
    pitch: Annotated[float, Field(ge=0.5, le=50, allow_inf_nan=False)]
    turns: Annotated[float, Field(gt=0, le=6, allow_inf_nan=False)]

    @model_validator(mode="after")
    def _is_threaded_outside(self) -> Finish:
        if not self.bore < self.neck_diameter < self.thread_diameter:
            raise PackError(
                f"The finish {self.name} needs bore < neck < thread diameter, but has {self.bore:g}, "
                f"{self.neck_diameter:g} and {self.thread_diameter:g} mm: correct the one that is off.",
                "neck_diameter",
            )
        return self


class Ring(Document):
    """A ring around the wall: a bead where `depth` is positive, a groove where it is negative."""

    kind: Literal["ring"] = "ring"
    height: NonNegativeMillimetres
    width: PositiveMillimetres = 3.0
    depth: Millimetres = 1.0


class Ribs(Document):
    """Upright ribs between two heights, or flutes where `depth` is negative."""

    kind: Literal["ribs"] = "ribs"
    bottom: NonNegativeMillimetres
    top: NonNegativeMillimetres
    count: Count = 24
    depth: Millimetres = 0.8

    @model_validator(mode="after")
    def _has_a_height(self) -> Ribs:
        if self.top <= self.bottom:
            raise PackError(
                f"Ribs from {self.bottom:g} to {self.top:g} mm have no height: raise their top.", "top"
            )
        return self


class Emboss(Document):
    """Artwork raised out of the wall, or sunk into it where `depth` is negative.

    Dark artwork stands out; what is white or transparent stays as it is. `edge` is the width of
    its sloping edge.
    """

    kind: Literal["emboss"] = "emboss"
    artwork: Sha256
    centre_height: NonNegativeMillimetres
    centre_angle: Degrees = 0.0
    width: PositiveMillimetres
    depth: Millimetres = 0.6
    edge: Annotated[float, Field(ge=0.05, le=5, allow_inf_nan=False)] = 0.3


Relief = Annotated[Ring | Ribs | Emboss, Field(discriminator="kind")]


class Body(Document):
    """A container formed from a half-profile, from the edge of the base up to where the finish
    begins, or up to the rim where there is no finish.

    push_up : height of the middle of the base above the table
    zone_walls : wall thickness of zones that differ from `wall_thickness`
    zone_tops : where zones end, in place of where the shape says
    sections : cross-sections from low to high; none means round. The half-profile is the
        half-width seen from the front.
    rim_roll : radius of a rim rolled outwards; 0 for a plain rounded one
    """

    profile: Annotated[list[Corner], Field(min_length=2, max_length=64)]
    wall_thickness: Annotated[float, Field(ge=0.1, le=200, allow_inf_nan=False)] = 2.5
    base_thickness: Annotated[float, Field(ge=0.1, le=1000, allow_inf_nan=False)] = 5.0
    push_up: NonNegativeMillimetres = 0.0
    zone_walls: dict[ZoneName, Annotated[float, Field(ge=0.1, le=200, allow_inf_nan=False)]] = {}
    zone_tops: dict[ZoneName, NonNegativeMillimetres] = {}
    sections: Annotated[list[SectionMark], Field(max_length=12)] = []
    finish: Finish | None = None
    rim_roll: NonNegativeMillimetres = 0.0
    relief: Annotated[list[Relief], Field(max_length=24)] = []
    material: Clear | Cloudy | Opaque | Metal | Linked = Clear()

    @model_validator(mode="after")
    def _profile_can_be_formed(self) -> Body:
        corners = self.profile
        if corners[0].height != 0:
            raise PackError(
                f"The profile starts {corners[0].height:g} mm above the table: "
                "set the first corner's height to 0 so that the pack stands.",
                "profile.0.height",
            )
        for index, corner in enumerate(corners):
            if corner.radius < LEAST_RADIUS:
                raise PackError(
                    f"Corner {index + 1} touches the axis: give it a radius of at least {LEAST_RADIUS:g} mm.",
                    f"profile.{index}.radius",
                )
            if corner.height > MAX_HEIGHT:
                raise PackError(
                    f"Corner {index + 1} is {corner.height:g} mm high: packs may be at most "
                    f"{MAX_HEIGHT:g} mm tall. Check the unit.",
                    f"profile.{index}.height",
                )
        for index, (a, b) in enumerate(pairwise(corners)):
            apart = math.hypot(a.radius - b.radius, a.height - b.height)
            if apart < LEAST_SPACING:
                raise PackError(
                    f"Corners {index + 1} and {index + 2} are at the same place: move or remove one.",
                    f"profile.{index + 1}",
                )
            if a.leave == "arc" and abs(a.bulge) > apart / 2 + 1e-6:
                raise PackError(
                    f"The arc after corner {index + 1} bulges {abs(a.bulge):g} mm: at most "
                    f"{apart / 2:.1f} mm, a half circle, fits between its ends.",
                    f"profile.{index}.bulge",
                )
        rim = corners[-1].height
        if any(corner.height >= rim for corner in corners[:-1]):
            raise PackError(
                "The last corner is the rim and has to be the highest: raise it or lower the others.",
                f"profile.{len(corners) - 1}.height",
            )
        outline = [(0.0, 0.0), *((c.radius, c.height) for c in corners), (0.0, rim)]
        if not LineString(outline).is_simple:
            raise PackError(
                "The profile crosses itself: move the corners apart so that its line does not fold back.",
                "profile",
            )
        return self

    @model_validator(mode="after")
    def _sections_go_up(self) -> Body:
        for index, (low, high) in enumerate(pairwise(self.sections)):
            if high.height <= low.height:
                raise PackError(
                    f"Cross-section {index + 2} at {high.height:g} mm is not above the one before it at "
                    f"{low.height:g} mm: raise it or take one away.",
                    f"sections.{index + 1}.height",
                )
        return self
