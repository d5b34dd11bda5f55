"""The pack: a revolved body, what fills it, what shuts it, and the panels on it."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator
from shapely import LineString

from giftwrap.core.errors import PackError
from giftwrap.core.model.document import (
    Degrees,
    Document,
    Millimetres,
    Name,
    PositiveMillimetres,
)
from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque

MAX_HEIGHT = 2000.0
"""Taller than any retail pack (common practice); keeps pictures and meshes within reason."""

LEAST_RADIUS = 0.2
LEAST_SPACING = 0.02
"""Corners closer than this, in mm, are one corner."""

NonNegativeMillimetres = Annotated[float, Field(ge=0, le=5000, allow_inf_nan=False)]


class Corner(Document):
    """One corner of a half-profile: `radius` from the axis, `height` above the table."""

    radius: NonNegativeMillimetres
    height: NonNegativeMillimetres
    rounding: NonNegativeMillimetres = 0.0


class Body(Document):
    """A container revolved from a half-profile, from the edge of the base up to the rim."""

    profile: Annotated[list[Corner], Field(min_length=2, max_length=64)]
    wall_thickness: Annotated[float, Field(ge=0.1, le=200, allow_inf_nan=False)] = 2.5
    base_thickness: Annotated[float, Field(ge=0.1, le=1000, allow_inf_nan=False)] = 5.0
    material: Clear | Cloudy | Opaque | Metal = Clear()

    @model_validator(mode="after")
    def _profile_can_be_revolved(self) -> Body:
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
            if math.hypot(a.radius - b.radius, a.height - b.height) < LEAST_SPACING:
                raise PackError(
                    f"Corners {index + 1} and {index + 2} are at the same place: move or remove one.",
                    f"profile.{index + 1}",
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


class Contents(Document):
    """A liquid or cream, level at `fill_height` mm above the table (the bottom of its meniscus)."""

    fill_height: NonNegativeMillimetres
    material: Clear | Cloudy = Clear(refractive_index=1.35)


class Closure(Document):
    """A plain cap that sizes itself to the rim; `height` is its whole height."""

    height: PositiveMillimetres = 18.0
    wall_thickness: PositiveMillimetres = 1.6
    clearance: PositiveMillimetres = 0.4
    rounding: NonNegativeMillimetres = 1.2
    material: Opaque | Metal | Cloudy = Opaque(colour="#23262b")


class Placement(Document):
    """One artwork on a panel. `x` and `y` place its lower left corner in mm from the panel's.

    Its proportions are the file's own, so only `width` is stored.
    """

    artwork: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$", description="SHA-256 of the file")]
    x: Millimetres = 0.0
    y: Millimetres = 0.0
    width: PositiveMillimetres


class Panel(Document):
    """A wrap-around label: a sheet of `stock` laid on the wall, `from_base` mm above the table.

    `width` runs around the pack, `height` along the wall; `centre_angle` turns its middle from
    the front (0°) to the right.
    """

    name: Name = "Label"
    kind: Literal["wrap"] = "wrap"
    from_base: NonNegativeMillimetres
    width: PositiveMillimetres
    height: PositiveMillimetres
    centre_angle: Degrees = 0.0
    stock_thickness: Annotated[float, Field(ge=0.05, le=2, allow_inf_nan=False)] = 0.12
    stock: Opaque = Opaque(colour="#fbf9f4", gloss=0.15)
    placements: Annotated[list[Placement], Field(max_length=40)] = []


class Pack(Document):
    """One packaged product."""

    schema_version: Literal[1] = 1
    body: Body
    contents: Contents | None = None
    closure: Closure | None = None
    panels: Annotated[list[Panel], Field(max_length=8)] = []
    nominal_capacity_ml: Annotated[float, Field(gt=0, le=100_000, allow_inf_nan=False)] | None = None
