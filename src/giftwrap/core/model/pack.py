"""The pack: a body, what fills it, what shuts it, and the panels on it."""

from __future__ import annotations

from typing import Annotated, Any, Literal, NamedTuple

from pydantic import Field, model_validator

from giftwrap.core.model.body import Body, Emboss
from giftwrap.core.model.closure import Closure
from giftwrap.core.model.document import (
    Degrees,
    Document,
    Millimetres,
    Name,
    NonNegativeMillimetres,
    PositiveMillimetres,
)
from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque


class Contents(Document):
    """What fills a body, level at `fill_height` mm above the table.

    The level of a liquid is that of its middle, below the meniscus; that of a cream, gel or
    powder is the mean of its surface. `relief` is how far that surface stands out of its mean:
    the swirl of a cream, the heap of a powder.
    """

    kind: Literal["liquid", "gel", "cream", "powder"] = "liquid"
    fill_height: NonNegativeMillimetres
    relief: Annotated[float, Field(ge=0, le=40, allow_inf_nan=False)] = 4.0
    material: Clear | Cloudy | Opaque = Clear(refractive_index=1.35, density=1.0)


class Placement(Document):
    """One artwork on a panel. `x` and `y` place its lower left corner in mm from the panel's.

    Its proportions are the file's own, so only `width` is stored.
    """

    artwork: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$", description="SHA-256 of the file")]
    x: Millimetres = 0.0
    y: Millimetres = 0.0
    width: PositiveMillimetres


class ArtworkUse(NamedTuple):
    """A file that something on a pack needs, where, and in whose words."""

    sha256: str
    place: str
    what: str


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

    def artwork_uses(self, place: str = "") -> list[ArtworkUse]:
        """What is placed on it."""
        return [
            ArtworkUse(p.artwork, f"{place}placements.{i}.artwork", f"placement {i + 1} on “{self.name}”")
            for i, p in enumerate(self.placements)
        ]


class PartState(Document):
    """What a person has decided about one part.

    lifted : mm it stands apart in an exploded view, added to what the view gives it
    """

    title: Annotated[str, Field(max_length=60)] = ""
    hidden: bool = False
    locked: bool = False
    group: Annotated[str, Field(max_length=60)] = ""


class Copy(Document):
    """Another of a part, standing or lying free beside the pack."""

    of: Name
    x: Millimetres = 0.0
    y: Millimetres = 0.0
    z: Millimetres = 0.0
    turn: Degrees = 0.0
    tilt: Degrees = 0.0
    title: Annotated[str, Field(max_length=60)] = ""
    material: Clear | Cloudy | Opaque | Metal | None = None


MOST_PX = 100_000
"""Of a picture that is traced, and of where its marks may lie."""


class Tracing(Document):
    """A picture laid behind the half-profile: turned upright, its axis and base found, to scale.

    angle : degrees the picture is turned clockwise to stand upright
    axis_px, base_px : where the axis and the table are in the turned picture, from its left and top
    mm_per_px : its scale
    """

    picture: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$", description="SHA-256 of the file")]
    width_px: Annotated[int, Field(gt=0, le=MOST_PX)]
    height_px: Annotated[int, Field(gt=0, le=MOST_PX)]
    angle: Degrees = 0.0
    axis_px: Annotated[float, Field(ge=-MOST_PX, le=MOST_PX, allow_inf_nan=False)]
    base_px: Annotated[float, Field(ge=-MOST_PX, le=MOST_PX, allow_inf_nan=False)]
    mm_per_px: Annotated[float, Field(gt=0, le=100, allow_inf_nan=False)]
    strength: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.6


class Pack(Document):
    """One packaged product.

    stands_on : the end it stands on; tubes stand on their closure
    exploded : mm between parts drawn apart
    parts : what was decided about parts, by their name
    """

    schema_version: Literal[2] = 2
    body: Body
    contents: Contents | None = None
    closure: Closure | None = None
    panels: Annotated[list[Panel], Field(max_length=8)] = []
    nominal_capacity_ml: Annotated[float, Field(gt=0, le=100_000, allow_inf_nan=False)] | None = None
    stands_on: Literal["base", "closure"] = "base"
    exploded: Annotated[float, Field(ge=0, le=500, allow_inf_nan=False)] = 0.0
    parts: Annotated[dict[Name, PartState], Field(max_length=200)] = {}
    copies: Annotated[list[Copy], Field(max_length=20)] = []
    tracing: Tracing | None = None

    def artwork_uses(self) -> list[ArtworkUse]:
        """What is printed or embossed on it."""
        uses = [use for i, panel in enumerate(self.panels) for use in panel.artwork_uses(f"panels.{i}.")]
        for i, relief in enumerate(self.body.relief):
            if isinstance(relief, Emboss):
                uses.append(ArtworkUse(relief.artwork, f"body.relief.{i}.artwork", "the embossing"))
        return uses

    @model_validator(mode="before")
    @classmethod
    def _upgrade(cls, data: Any) -> Any:
        """Version 1 knew one closure, the cap, and did not say its kind."""
        if not isinstance(data, dict) or data.get("schema_version", 2) != 1:
            return data
        closure = data.get("closure")
        if isinstance(closure, dict):
            closure = {"kind": "cap", **closure}
        return {**data, "schema_version": 2, "closure": closure}
