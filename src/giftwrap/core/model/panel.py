"""Panels: what is printed on a pack, and where."""

from __future__ import annotations

from typing import Annotated, Any, Literal, NamedTuple

from pydantic import BeforeValidator, Field

from giftwrap.core.model.document import (
    Degrees,
    Document,
    Millimetres,
    Name,
    NonNegativeMillimetres,
    PositiveMillimetres,
    Sha256,
)
from giftwrap.core.model.material import Linked, Opaque

Place = tuple[Millimetres, Millimetres]
Ring = Annotated[tuple[Place, ...], Field(min_length=3, max_length=2000)]
"""An outline, mm."""


class Placement(Document):
    """One artwork on a panel. `x` and `y` place its lower left corner in mm from the panel's.

    Its proportions are the file's own, so only `width` is stored.
    """

    artwork: Sha256
    x: Millimetres = 0.0
    y: Millimetres = 0.0
    width: PositiveMillimetres


class ArtworkUse(NamedTuple):
    """A file that something on a pack needs, where, and in whose words."""

    sha256: str
    place: str
    what: str


class Printed(Document):
    """A sheet of `stock` with artwork on it, `width` by `height` mm."""

    name: Name = "Label"
    width: PositiveMillimetres
    height: PositiveMillimetres
    stock_thickness: Annotated[float, Field(ge=0.05, le=2, allow_inf_nan=False)] = 0.12
    stock: Opaque | Linked = Opaque(colour="#fbf9f4", gloss=0.15)
    placements: Annotated[list[Placement], Field(max_length=40)] = []

    def artwork_uses(self, place: str = "") -> list[ArtworkUse]:
        """What is placed on it."""
        return [
            ArtworkUse(p.artwork, f"{place}placements.{i}.artwork", f"placement {i + 1} on “{self.name}”")
            for i, p in enumerate(self.placements)
        ]


class WrapPanel(Printed):
    """A wrap-around label laid on the wall of a vessel, `from_base` mm above the table.

    `width` runs around the pack, `height` along the wall; `centre_angle` turns its middle from
    the front (0°) to the right.
    """

    kind: Literal["wrap"] = "wrap"
    from_base: NonNegativeMillimetres
    centre_angle: Degrees = 0.0


class PickedPanel(Printed):
    """A label laid on a received model where somebody picked it.

    part : that it lies on; at : mm, where its middle lies there
    turn : degrees it is turned to the right from upright
    grow : degrees that neighbouring faces may turn by for the label to go on over them
    outline : what it is cut to where it is no rectangle, mm to the right and up from its middle
    """

    kind: Literal["picked"] = "picked"
    part: Name
    at: tuple[Millimetres, Millimetres, Millimetres]
    turn: Degrees = 0.0
    grow: Annotated[float, Field(ge=1, le=180, allow_inf_nan=False)] = 30.0
    outline: Ring | None = None


def _wraps(data: Any) -> Any:
    """Labels that do not say their kind are of before there was another."""
    return {"kind": "wrap", **data} if isinstance(data, dict) else data


Panel = Annotated[Annotated[WrapPanel | PickedPanel, Field(discriminator="kind")], BeforeValidator(_wraps)]
"""What is stuck on a pack, told apart by `kind`."""
