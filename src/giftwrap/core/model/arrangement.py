"""What may be asked of the things on a set: how they are to stand. Nothing of it is kept."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from giftwrap.core.model.document import (
    Degrees,
    Document,
    Fraction,
    Key,
    Millimetres,
    Name,
    PositiveMillimetres,
)
from giftwrap.core.model.light import MOST_LIGHTS

Ids = Annotated[list[Key], Field(min_length=1, max_length=400)]


class Stand(Document):
    """Put a pack of the job down: at a place, or beside what stands there already."""

    kind: Literal["stand"] = "stand"
    pack: Key
    x: Millimetres | None = None
    y: Millimetres | None = None


class Copies(Document):
    """Copies of what is chosen, in a row to its right."""

    kind: Literal["copies"] = "copies"
    ids: Ids
    count: Annotated[int, Field(ge=1, le=60)] = 1
    gap: Millimetres = 10.0


class Row(Document):
    """In a row from left to right as they stand, so many mm between neighbours.

    turn : of the row's line; 0° is across the picture
    """

    kind: Literal["row"] = "row"
    ids: Ids
    gap: Millimetres = 10.0
    turn: Degrees = 0.0


class Arc(Document):
    """On a circle that is open to the front, so many mm between neighbours, each facing its centre.

    radius : of the circle their middles stand on, mm
    """

    kind: Literal["arc"] = "arc"
    ids: Ids
    gap: Millimetres = 10.0
    radius: PositiveMillimetres = 400.0


class Apart(Document):
    """What crosses moved apart by the shortest way."""

    kind: Literal["apart"] = "apart"


class Rest(Document):
    """Put on the floor."""

    kind: Literal["rest"] = "rest"
    ids: Ids


class TakeAway(Document):
    """Taken off the set."""

    kind: Literal["take-away"] = "take-away"
    ids: Ids


class Gather(Document):
    """Made one group, to be moved as one."""

    kind: Literal["gather"] = "gather"
    ids: Ids
    name: Name


class Part(Document):
    """Taken out of their groups; they stay where they are."""

    kind: Literal["part"] = "part"
    ids: Ids


class PutIn(Document):
    """Into a box that stands there: in free holes of its insert, or side by side on its floor."""

    kind: Literal["put-in"] = "put-in"
    ids: Ids
    box: Key


class TakeOut(Document):
    """Out of the boxes they stand in, onto the floor beside everything."""

    kind: Literal["take-out"] = "take-out"
    ids: Ids


class HangLight(Document):
    """A light more, of the size of what stands there. A strip is a narrow softbox, a flag a black card."""

    kind: Literal["hang-light"] = "hang-light"
    what: Literal["softbox", "strip", "spot", "ball", "sun", "window", "table", "card", "flag"]


SetUpName = Literal[
    "soft-three",
    "window",
    "edge-pair",
    "light-table",
    "hard-sun",
    "top-glow",
    "cosmetic-wrap",
    "dark-field",
    "bright-field",
    "bold-shadow",
    "warm-evening",
]


class SetUp(Document):
    """Other lights, of a purpose, around what stands there."""

    kind: Literal["set-up"] = "set-up"
    what: SetUpName


class Highlight(Document):
    """A light where the camera sees its middle mirrored at a place of the picture, 0 to 1 from its left and
    its top. It keeps its distance.

    light : its number on the set, from 0
    """

    kind: Literal["highlight"] = "highlight"
    light: Annotated[int, Field(ge=0, lt=MOST_LIGHTS)]
    x: Fraction
    y: Fraction


Arrangement = Annotated[
    Stand
    | Copies
    | Row
    | Arc
    | Apart
    | Rest
    | TakeAway
    | Gather
    | Part
    | PutIn
    | TakeOut
    | HangLight
    | Highlight
    | SetUp,
    Field(discriminator="kind"),
]
