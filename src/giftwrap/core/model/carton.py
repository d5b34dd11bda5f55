"""The carton: folded from board, in one of the styles that the trade knows."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from giftwrap.core.errors import PackError
from giftwrap.core.model.document import Degrees, Document, Fraction, Millimetres, Name
from giftwrap.core.model.material import Clear, Linked, Opaque
from giftwrap.core.model.panel import ArtworkUse, Place, Placements, Ring, refuse_cuts
from giftwrap.core.model.run import Run

Side = Annotated[float, Field(ge=5, le=2000, allow_inf_nan=False)]
"""Mm of a carton's inside."""
StyleName = Literal[
    "straight-tuck",
    "reverse-tuck",
    "crash-lock",
    "hanging-card",
    "sleeve",
    "slotted-case",
    "tray",
    "lid-and-base",
    "shoulder",
    "drawer",
    "book",
    "mailer",
    "gable",
    "pillow",
    "own",
]


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


Extent = Annotated[float, Field(ge=2, le=2000, allow_inf_nan=False)]


class Area(Document):
    """A part of a panel: its middle from the panel's, to the right and up on the blank, mm.

    panel : its name; of several blanks, after their component's: "lid front"
    rounding : of its corners, as a share of half its shorter side
    shape : its outline where it is neither rectangle nor oval; it is made as wide and high as is said
    """

    panel: Name
    x: Millimetres = 0.0
    y: Millimetres = 0.0
    across: Extent
    high: Extent
    rounding: Fraction = 0.2
    shape: Ring | None = None


class Window(Area):
    """An opening in a panel; `film` is what is glued behind it, and none leaves it open."""

    film: Clear | Linked | None = Clear(refractive_index=1.46, depth=5.0, density=1.3)


class Embossing(Area):
    """Board pressed out of a panel's plane by so many mm, or in where negative."""

    height: Annotated[float, Field(ge=-3, le=3, allow_inf_nan=False)] = 0.4


class Perforation(Document):
    """A line along which a panel tears: its middle from the panel's, mm; 0° goes to the right on the blank.

    cut, tie : mm that are cut through and that are left, in turns
    """

    panel: Name
    x: Millimetres = 0.0
    y: Millimetres = 0.0
    length: Extent
    angle: Degrees = 0.0
    cut: Annotated[float, Field(ge=0.3, le=50, allow_inf_nan=False)] = 3.0
    tie: Annotated[float, Field(ge=0.3, le=50, allow_inf_nan=False)] = 1.0


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
    """Where one of its panels hangs on another; `angle` is its degrees when closed, and it `closes` a circle
    where both hang on others already. `curve` is its points where it is no straight line; what hangs on it is
    pressed in by 90°."""

    parent: Name
    child: Name
    start: Place
    end: Place
    angle: Degrees = 90.0
    step: Annotated[int, Field(ge=0, le=60)] = 0
    closes: bool = False
    curve: Annotated[tuple[Place, ...], Field(max_length=2000)] = ()

    @model_validator(mode="after")
    def _pressed_in(self) -> OwnCrease:
        if self.curve and self.angle != 90.0:
            raise ValueError("what hangs on a curved crease is pressed in by 90°")
        return self


class OwnBlank(Document):
    """A blank from elsewhere. The first panel stands in front, upright."""

    panels: Annotated[list[OwnPanel], Field(min_length=1, max_length=200)]
    creases: Annotated[list[OwnCrease], Field(max_length=199)] = []


class Carton(Document):
    """A box from the size of its inside, or from a blank of one's own.

    length : from left to right, width : from front to back, depth : from bottom to top, mm
    allowances : mm of those that differ from what is usual for the style, by name
    own : the blank of one whose style is "own"; its sizes are those of the box when it was read
    windows, embossings, perforations : openings in its panels, board pressed out of them, and lines along
        which they tear
    insert : what stands in it to hold packs
    closed : how far it is folded, from flat (0) to closed (1)
    flaps : how far flaps are folded by hand instead, by the crease's name, in degrees
    order : in which step creases fold where that was changed, by name, from 0
    spring : degrees by which what is only tucked in stands open
    prints : what is printed on the outside of its blanks, by component; placed from the lower left corner
        of the blank as it is seen from there
    faces : what the outside of single panels is made of instead of the board's, as windows call them
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
    embossings: Annotated[list[Embossing], Field(max_length=12)] = []
    perforations: Annotated[list[Perforation], Field(max_length=24)] = []
    insert: Insert | None = None
    closed: Fraction = 1.0
    flaps: Annotated[dict[Name, Degrees], Field(max_length=120)] = {}
    order: Annotated[dict[Name, Annotated[int, Field(ge=0, le=60)]], Field(max_length=120)] = {}
    spring: Annotated[float, Field(ge=0, le=30, allow_inf_nan=False)] = 0.0
    prints: Annotated[dict[Name, Placements], Field(max_length=6)] = {}
    runs: Annotated[dict[Name, Run], Field(max_length=6)] = {}
    faces: Annotated[dict[Name, Opaque | Linked], Field(max_length=60)] = {}

    @model_validator(mode="after")
    def _has_its_blank(self) -> Carton:
        if (self.style == "own") != (self.own is not None):
            raise PackError("A carton has a blank of its own if its style is its own: read one in.", "own")
        for name, run in self.runs.items():
            what = "board is cut at Form, by windows and perforations."
            refuse_cuts(run, what, f"runs.{name}")
        return self

    @property
    def shut(self) -> bool:
        """Whether all of it is closed, and nothing springs or was bent open."""
        return self.closed >= 1 and not self.flaps and not self.spring

    def artwork_uses(self) -> list[ArtworkUse]:
        """What is printed on its blanks."""
        return [
            ArtworkUse(p.artwork, f"form.prints.{name}.{i}.artwork", f"placement {i + 1} on the {name}")
            for name, placements in self.prints.items()
            for i, p in enumerate(placements)
        ]
