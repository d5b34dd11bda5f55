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
from giftwrap.core.model.light import MOST_LIGHTS, Light
from giftwrap.core.model.prop import PropName
from giftwrap.core.model.received import Received
from giftwrap.core.model.surround import EvenSurround, Surround

Ids = Annotated[list[Key], Field(min_length=1, max_length=400)]


class Stand(Document):
    """Put a pack of the job down: at a place, or beside what stands there already."""

    kind: Literal["stand"] = "stand"
    pack: Key
    x: Millimetres | None = None
    y: Millimetres | None = None


class StandProp(Document):
    """Put a prop down: at a place, on what is there, or beside what stands there already."""

    kind: Literal["stand-prop"] = "stand-prop"
    what: PropName
    x: Millimetres | None = None
    y: Millimetres | None = None


class StandModel(Document):
    """Put a received model down as a prop, beside what stands there already."""

    kind: Literal["stand-model"] = "stand-model"
    received: Received


class Scatter(Document):
    """Props strewn over an ellipse, lying on what is there, none touching another; as one group.

    count : as many as find room
    x, y : its middle, mm; across, deep : its size
    varies : by which share of its size one may be larger or smaller
    turns : degrees to both sides that one may be turned by
    """

    kind: Literal["scatter"] = "scatter"
    what: Annotated[list[PropName], Field(min_length=1, max_length=6)]
    count: Annotated[int, Field(ge=1, le=200)] = 24
    x: Millimetres = 0.0
    y: Millimetres = 0.0
    across: PositiveMillimetres = 400.0
    deep: PositiveMillimetres = 250.0
    varies: Annotated[float, Field(ge=0, le=0.8, allow_inf_nan=False)] = 0.3
    turns: Annotated[float, Field(ge=0, le=180, allow_inf_nan=False)] = 180.0
    seed: Annotated[int, Field(ge=0, lt=10_000)] = 0


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


class Stack(Document):
    """One on top of the other, what covers most of the floor lowest."""

    kind: Literal["stack"] = "stack"
    ids: Ids


class Align(Document):
    """In one line: their edges or their middles on those of all of them."""

    kind: Literal["align"] = "align"
    ids: Ids
    to: Literal["left", "middle", "right", "front", "centre", "back"]


class SpreadEvenly(Document):
    """With the same air between neighbours; the outer two stay."""

    kind: Literal["spread"] = "spread"
    ids: Ids
    along: Literal["across", "deep"] = "across"


class FaceCamera(Document):
    """Each turned so that its front faces the camera."""

    kind: Literal["face-camera"] = "face-camera"
    ids: Ids


class Apart(Document):
    """What crosses moved apart by the shortest way; what rested rests again."""

    kind: Literal["apart"] = "apart"


class Rest(Document):
    """Let down on what is beneath, or lifted out of it: packs upright, props as they come to lie."""

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


class ClearLights(Document):
    """Lights that hang inside of something, moved out of it."""

    kind: Literal["clear-lights"] = "clear-lights"


class WidenSweep(Document):
    """A sweep as large as what stands there needs."""

    kind: Literal["widen-sweep"] = "widen-sweep"


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


class HangLights(Document):
    """Other lights, that were kept, around what stands there.

    made_for : mm of what stood there then (its diagonal): they grow and shrink with what stands
    """

    kind: Literal["hang-lights"] = "hang-lights"
    lights: Annotated[list[Light], Field(max_length=MOST_LIGHTS)]
    surround: Surround = EvenSurround()
    made_for: PositiveMillimetres


class Highlight(Document):
    """A light where the camera sees its middle mirrored at a place of the picture, 0 to 1 from its left and
    its top. It keeps its distance.

    light : its number on the set, from 0
    """

    kind: Literal["highlight"] = "highlight"
    light: Annotated[int, Field(ge=0, lt=MOST_LIGHTS)]
    x: Fraction
    y: Fraction


class Rim(Document):
    """A light that reaches to what is mirrored at a place of the picture, 0 to 1 from its left and its top.

    light : its number on the set, from 0
    soft : it fades instead, and is half as bright there
    """

    kind: Literal["rim"] = "rim"
    light: Annotated[int, Field(ge=0, lt=MOST_LIGHTS)]
    x: Fraction
    y: Fraction
    soft: bool = False


Arrangement = Annotated[
    Stand
    | StandProp
    | StandModel
    | Scatter
    | Copies
    | Row
    | Arc
    | Stack
    | Align
    | SpreadEvenly
    | FaceCamera
    | Apart
    | Rest
    | TakeAway
    | Gather
    | Part
    | PutIn
    | TakeOut
    | HangLight
    | HangLights
    | Highlight
    | Rim
    | ClearLights
    | WidenSweep
    | SetUp,
    Field(discriminator="kind"),
]
