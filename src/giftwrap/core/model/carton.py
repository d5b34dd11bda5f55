"""The carton: folded from board, in one of the styles that the trade knows."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from giftwrap.core.errors import PackError
from giftwrap.core.model.document import Degrees, Document, Millimetres, Name
from giftwrap.core.model.material import Clear, Fraction, Linked, Opaque
from giftwrap.core.model.panel import ArtworkUse, Placement

Side = Annotated[float, Field(ge=5, le=2000, allow_inf_nan=False)]
"""Mm of a carton's inside."""
StyleName = Literal[
    "straight-tuck",
    "reverse-tuck",
    "hanging-card",
    "sleeve",
    "slotted-case",
    "tray",
    "lid-and-base",
    "shoulder",
    "drawer",
    "book",
    "mailer",
    "own",
]
Place = tuple[Millimetres, Millimetres]
Ring = Annotated[tuple[Place, ...], Field(min_length=3, max_length=2000)]


class Board(Document):
    """What a carton is folded from.

    caliper : mm, its thickness
    outside, inside : its two sides; core : what its cut edges show
    wrapped : whether paper covers its outside and goes on around its edges, as on rigid boxes
    grain : the way its fibres run on the blank, whose tube goes round from left to right
    """

    caliper: Annotated[float, Field(ge=0.1, le=12, allow_inf_nan=False)] = 0.45
    outside: Opaque | Linked = Opaque(colour="#f7f3ea", gloss=0.15, density=0.75)
    inside: Opaque | Linked = Opaque(colour="#efe8da", gloss=0.05, density=0.75)
    core: Opaque | Linked = Opaque(colour="#ded2bb", gloss=0.0, density=0.75)
    wrapped: bool = False
    grain: Literal["around", "upright"] = "around"


class Hole(Document):
    """A hole in an insert for what stands in it: its middle from the insert's, to the right and back, mm.

    rounding : of its corners, as a share of half its shorter side: a circle or oval is 1
    """

    x: Millimetres = 0.0
    y: Millimetres = 0.0
    across: Side
    deep: Side
    rounding: Fraction = 1.0


class Window(Document):
    """An opening in a panel: its middle from the panel's, to the right and up on the blank, mm.

    panel : its name; of several blanks, after their component's: "lid front"
    rounding : of its corners, as a share of half its shorter side
    film : what is glued behind it; none leaves it open
    """

    panel: Name
    x: Millimetres = 0.0
    y: Millimetres = 0.0
    across: Annotated[float, Field(ge=2, le=2000, allow_inf_nan=False)]
    high: Annotated[float, Field(ge=2, le=2000, allow_inf_nan=False)]
    rounding: Fraction = 0.2
    film: Clear | Linked | None = Clear(refractive_index=1.46, depth=5.0, density=1.3)


class Insert(Document):
    """A deck of the same board inside of a carton, on walls of its own, its holes cut for packs.

    height : mm of its top above the inside's floor
    """

    height: Side
    holes: Annotated[list[Hole], Field(max_length=60)] = []


class OwnPanel(Document):
    """A panel of a blank that was read from a drawing, mm as it is seen from its printed side."""

    name: Name
    outline: Ring
    holes: Annotated[list[Ring], Field(max_length=100)] = []


class OwnCrease(Document):
    """Where one of its panels hangs on another; `angle` is its degrees when closed."""

    parent: Name
    child: Name
    start: Place
    end: Place
    angle: Degrees = 90.0
    step: Annotated[int, Field(ge=0, le=60)] = 0


class OwnBlank(Document):
    """A blank from elsewhere. The first panel stands in front, upright."""

    panels: Annotated[list[OwnPanel], Field(min_length=1, max_length=200)]
    creases: Annotated[list[OwnCrease], Field(max_length=199)] = []


class Carton(Document):
    """A box from the size of its inside, or from a blank of one's own.

    length : from left to right, width : from front to back, depth : from bottom to top, mm
    allowances : mm of those that differ from what is usual for the style, by name
    own : the blank of one whose style is "own"; its sizes are those of the box when it was read
    windows : openings in its panels
    insert : what stands in it to hold packs
    closed : how far it is folded, from flat (0) to closed (1)
    flaps : how far flaps are folded by hand instead, by the crease's name, in degrees
    spring : degrees by which what is only tucked in stands open
    prints : what is printed on the outside of its blanks, by component; placed from the lower left corner
        of the blank as it is seen from there
    """

    kind: Literal["carton"] = "carton"
    style: StyleName
    length: Side
    width: Side
    depth: Side
    board: Board = Board()
    allowances: Annotated[dict[Name, Millimetres], Field(max_length=60)] = {}
    own: OwnBlank | None = None
    windows: Annotated[list[Window], Field(max_length=12)] = []
    insert: Insert | None = None
    closed: Fraction = 1.0
    flaps: Annotated[dict[Name, Degrees], Field(max_length=120)] = {}
    spring: Annotated[float, Field(ge=0, le=30, allow_inf_nan=False)] = 0.0
    prints: Annotated[dict[Name, Annotated[list[Placement], Field(max_length=40)]], Field(max_length=6)] = {}

    @model_validator(mode="after")
    def _has_its_blank(self) -> Carton:
        if (self.style == "own") != (self.own is not None):
            raise PackError("A carton has a blank of its own if its style is its own: read one in.", "own")
        return self

    def artwork_uses(self) -> list[ArtworkUse]:
        """What is printed on its blanks."""
        return [
            ArtworkUse(p.artwork, f"form.prints.{name}.{i}.artwork", f"placement {i + 1} on the {name}")
            for name, placements in self.prints.items()
            for i, p in enumerate(placements)
        ]
