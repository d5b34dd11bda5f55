"""The received model: a file somebody sent, and what was decided about its parts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from giftwrap.core.errors import PackError
from giftwrap.core.model.document import (
    Degrees,
    Document,
    Name,
    NonNegativeMillimetres,
    PositiveMillimetres,
    Sha256,
)
from giftwrap.core.model.material import Clear, Cloudy, Linked, Metal, Opaque
from giftwrap.core.model.panel import ArtworkUse, Placements, refuse_cuts
from giftwrap.core.model.run import Run

Up = Literal["+x", "-x", "+y", "-y", "+z", "-z"]
Role = Literal["part", "container", "contents", "closure", "label", "left out"]
MOST_PARTS = 200
MOST_BODIES = 2_000
WALL = (0.2, 20.0)
"""Least and greatest mm of a wall that is given to a container."""


class ReceivedPart(Document):
    """Some of a model's bodies, taken together.

    name : as it is called among the pack's parts
    source : what the file calls it: by this a newer file's parts are found
    bodies : by their numbers in the model
    role : what it is of the pack; of contents only the material and the level are kept, as they reach the
        container's wall exactly
    turned : whether its faces are turned round
    closed : whether its holes are closed
    wall : mm of wall that a container without an inside is given
    sheet : mm across and up of the picture that the file's own coordinates lay on it
    prints, run : what is printed on it, laid by those, or where a label has none, flat; and in which layers
    """

    name: Name
    source: Annotated[str, Field(max_length=120)] = ""
    bodies: Annotated[tuple[Annotated[int, Field(ge=0, lt=MOST_BODIES)], ...], Field(min_length=1)]
    material: Clear | Cloudy | Opaque | Metal | Linked = Opaque()
    role: Role = "part"
    turned: bool = False
    closed: bool = False
    wall: Annotated[float, Field(ge=WALL[0], le=WALL[1], allow_inf_nan=False)] | None = None
    sheet: tuple[PositiveMillimetres, PositiveMillimetres] | None = None
    prints: Placements = []
    run: Run = []

    @model_validator(mode="after")
    def _is_not_cut(self) -> ReceivedPart:
        refuse_cuts(self.run, "this is the model's own. Lay a label on it and cut that.")
        return self


class Received(Document):
    """A model that was sent, standing on the table.

    model : what is kept of it, by SHA-256; file : what it was called
    unit_mm : how many mm one of the file's units is
    up : which of the file's axes points up; turn : degrees it is then turned to the right
    smooth : degrees that two faces may meet at and be shaded as one; None as the file has it
    parts : of which something is made; together they have no body twice
    fill_height : mm above the table to which a container is filled instead of its contents' own level
    notes : what was found and mended when it was read
    """

    kind: Literal["received"] = "received"
    model: Sha256
    file: Annotated[str, Field(max_length=120)] = ""
    unit_mm: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)] = 1.0
    up: Up = "+z"
    turn: Degrees = 0.0
    smooth: Annotated[float, Field(ge=0, le=180, allow_inf_nan=False)] | None = 35.0
    parts: Annotated[list[ReceivedPart], Field(min_length=1, max_length=MOST_PARTS)]
    fill_height: NonNegativeMillimetres | None = None
    notes: Annotated[list[Annotated[str, Field(max_length=400)]], Field(max_length=60)] = []

    @model_validator(mode="after")
    def _each_once(self) -> Received:
        names = [part.name for part in self.parts]
        double = next((i for i, name in enumerate(names) if name in names[:i]), None)
        if double is not None:
            raise PackError(
                f"Two parts are called “{names[double]}”: give one another name.", f"parts.{double}.name"
            )
        seen: set[int] = set()
        for i, part in enumerate(self.parts):
            if seen & set(part.bodies) or len(set(part.bodies)) < len(part.bodies):
                raise PackError(
                    f"Something of “{part.name}” is in two parts: split them anew.", f"parts.{i}.bodies"
                )
            seen |= set(part.bodies)
        for role in ("container", "contents"):
            those = [i for i, part in enumerate(self.parts) if part.role == role]
            if len(those) > 1:
                raise PackError(
                    f"Two parts are said to be the {role}: merge them, or choose one.",
                    f"parts.{those[1]}.role",
                )
        return self

    def artwork_uses(self, place: str = "form.") -> list[ArtworkUse]:
        """The model itself, and what is printed on its parts."""
        uses = [ArtworkUse(self.model, f"{place}model", f"the model {self.file}".rstrip())]
        return uses + [
            ArtworkUse(p.artwork, f"{place}parts.{i}.prints.{k}.artwork", f"placement {k + 1} on {part.name}")
            for i, part in enumerate(self.parts)
            for k, p in enumerate(part.prints)
        ]
