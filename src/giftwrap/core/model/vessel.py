"""The vessel: a body, what fills it and what shuts it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from giftwrap.core.model.body import Body, Emboss
from giftwrap.core.model.closure import Closure
from giftwrap.core.model.document import Degrees, Document, NonNegativeMillimetres, Sha256
from giftwrap.core.model.material import Clear, Cloudy, Linked, Opaque
from giftwrap.core.model.panel import ArtworkUse

MOST_PX = 100_000
"""Of a picture that is traced, and of where its marks may lie."""


class Contents(Document):
    """What fills a body, level at `fill_height` mm above the table.

    The level of a liquid is that of its middle, below the meniscus; that of a cream, gel or
    powder is the mean of its surface. `relief` is how far that surface stands out of its mean:
    the swirl of a cream, the heap of a powder.
    """

    kind: Literal["liquid", "gel", "cream", "powder"] = "liquid"
    fill_height: NonNegativeMillimetres
    relief: Annotated[float, Field(ge=0, le=40, allow_inf_nan=False)] = 4.0
    material: Clear | Cloudy | Opaque | Linked = Clear(refractive_index=1.35, density=1.0)


class Tracing(Document):
    """A picture laid behind the half-profile: turned upright, its axis and base found, to scale.

    angle : degrees the picture is turned clockwise to stand upright
    axis_px, base_px : where the axis and the table are in the turned picture, from its left and top
    mm_per_px : its scale
    """

    picture: Sha256
    width_px: Annotated[int, Field(gt=0, le=MOST_PX)]
    height_px: Annotated[int, Field(gt=0, le=MOST_PX)]
    angle: Degrees = 0.0
    axis_px: Annotated[float, Field(ge=-MOST_PX, le=MOST_PX, allow_inf_nan=False)]
    base_px: Annotated[float, Field(ge=-MOST_PX, le=MOST_PX, allow_inf_nan=False)]
    mm_per_px: Annotated[float, Field(gt=0, le=100, allow_inf_nan=False)]
    strength: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.6


class Vessel(Document):
    """A bottle, jar, tin or tube.

    stands_on : the end it stands on; tubes stand on their closure
    """

    kind: Literal["vessel"] = "vessel"
    body: Body
    contents: Contents | None = None
    closure: Closure | None = None
    nominal_capacity_ml: Annotated[float, Field(gt=0, le=100_000, allow_inf_nan=False)] | None = None
    stands_on: Literal["base", "closure"] = "base"
    tracing: Tracing | None = None

    def artwork_uses(self) -> list[ArtworkUse]:
        """What is embossed on it."""
        return [
            ArtworkUse(relief.artwork, f"form.body.relief.{i}.artwork", "the embossing")
            for i, relief in enumerate(self.body.relief)
            if isinstance(relief, Emboss)
        ]
