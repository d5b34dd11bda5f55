"""Panels: what is printed on a pack, and where."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import BeforeValidator, Field, model_validator

from giftwrap.core.errors import PackError
from giftwrap.core.model.document import (
    Degrees,
    Document,
    Fraction,
    HexColour,
    Millimetres,
    Name,
    NonNegativeMillimetres,
    PositiveMillimetres,
    Sha256,
)
from giftwrap.core.model.material import Clear, Material, Opaque, plain
from giftwrap.core.model.run import PLAIN, Bare, Cut, Layer, Run, Stock, Tooth
from giftwrap.core.model.worked import Pictures

Place = tuple[Millimetres, Millimetres]
Ring = Annotated[tuple[Place, ...], Field(min_length=3, max_length=2000)]
"""An outline, mm."""
MOST_CROPPED = 0.98
INK = "ink:"
BODY = "body"
"""What labels of a vessel lie on where nothing else is said."""
Share = Annotated[float, Field(ge=0, le=MOST_CROPPED, allow_inf_nan=False)]


Channel = Annotated[str, Field(pattern=r"^(shape|dark|light|ink:[^\x00-\x1f]{1,80})$")]
"""What of an artwork says where a layer is: all that is there, what is dark or what is light of it, or one of
its spot inks, as `ink:Foil`."""


Texts = Annotated[dict[Name, Annotated[str, Field(max_length=400)]], Field(max_length=60)]


class Crop(Document):
    """What is cut off an artwork, as shares of its width and height."""

    left: Share = 0.0
    right: Share = 0.0
    top: Share = 0.0
    bottom: Share = 0.0

    @model_validator(mode="after")
    def _leaves_something(self) -> Crop:
        if self.left + self.right > MOST_CROPPED or self.top + self.bottom > MOST_CROPPED:
            raise PackError("Nothing of the artwork is left: cut less off.", "left")
        return self


class Placement(Document):
    """One artwork on a panel. `x` and `y` place the lower left corner of its box in mm from the panel's.

    Its proportions are the file's own, so only `width` is stored, of what is left of it when it is cropped.

    turn : degrees it is turned to the right around the middle of its box
    page : of a document that has several, from 1
    without : its layers that are left out, by name
    crop : what is cut off it first
    knock_out : how far from white paper may be and is still taken out: 0 leaves it, 1 takes all
    colour : that everything of it is printed in, as dark as it was; None for its own
    invert : light for dark
    repeat : mm between its copies where it covers the panel as a pattern; None for once
    texts : that fill fields of it, by their ids, instead of what stands there
    printed : whether it is printed in ink; or else only says where other layers are
    areas : layers of the run, by name, that are where its channel says; spot inks that say so are not
        printed themselves
    """

    artwork: Sha256
    x: Millimetres = 0.0
    y: Millimetres = 0.0
    width: PositiveMillimetres
    turn: Degrees = 0.0
    page: Annotated[int, Field(ge=1, le=1000)] = 1
    without: Annotated[list[Name], Field(max_length=40)] = []
    crop: Crop | None = None
    knock_out: Fraction = 0.0
    colour: HexColour | None = None
    invert: bool = False
    repeat: Annotated[float, Field(ge=0, le=500, allow_inf_nan=False)] | None = None
    texts: Texts = {}
    printed: bool = True
    areas: Annotated[dict[Name, Channel], Field(max_length=16)] = {}

    @property
    def spots(self) -> list[str]:
        """Its spot inks that say where layers are."""
        return sorted(
            {channel.removeprefix(INK) for channel in self.areas.values() if channel.startswith(INK)}
        )


Placements = Annotated[list[Placement], Field(max_length=40)]


def refuse_twins(run: Sequence[Layer], place: str = "run") -> None:
    """Raise PackError when two layers of a run have one name: artwork says by it where they are."""
    names = [layer.name for layer in run]
    double = next((i for i, name in enumerate(names) if name in names[:i]), None)
    if double is not None:
        raise PackError(f"Two layers are called “{names[double]}”: rename one.", f"{place}.{double}.name")


def refuse_cuts(run: Sequence[Layer], what: str, place: str = "run") -> None:
    """Raise PackError when a run cuts what its layers do not cut: `what` says what is done instead."""
    cut = next((i for i, layer in enumerate(run) if isinstance(layer, Cut)), None)
    if cut is not None:
        raise PackError(f"“{run[cut].name}” has nothing to cut: {what}", f"{place}.{cut}")


class ArtworkUse(NamedTuple):
    """A file that something on a pack needs, where, and in whose words."""

    sha256: str
    place: str
    what: str


def pictures_in(value: Any, place: str = "") -> Iterator[ArtworkUse]:
    """The pictures on everything that something in a document is made of."""
    if isinstance(value, Pictures):
        for name, sha256 in value:
            if sha256:
                yield ArtworkUse(sha256, f"{place}.{name}", f"the {name} of a material")
    elif isinstance(value, Document):
        for name, inner in value:
            yield from pictures_in(inner, f"{place}.{name}" if place else name)
    elif isinstance(value, dict):
        for name, inner in value.items():
            yield from pictures_in(inner, f"{place}.{name}")
    elif isinstance(value, list) and value and isinstance(value[0], Document):
        for number, inner in enumerate(value):
            yield from pictures_in(inner, f"{place}.{number}")


class Printed(Document):
    """A sheet of `stock` with artwork on it, `width` by `height` mm.

    tooth : how the stock's face feels
    run : what is printed in which order; empty for artwork in its own colours
    registration : mm by which layers lie off each other, to be seen before it happens
    """

    name: Name = "Label"
    width: PositiveMillimetres
    height: PositiveMillimetres
    stock_thickness: Annotated[float, Field(ge=0.05, le=2, allow_inf_nan=False)] = 0.12
    stock: Stock = Opaque(colour="#fbf9f4", gloss=0.15)
    tooth: Tooth = "smooth"
    placements: Placements = []
    run: Run = []
    registration: Annotated[float, Field(ge=0, le=2, allow_inf_nan=False)] = 0.0

    @model_validator(mode="after")
    def _layers_make_sense(self) -> Printed:
        refuse_twins(self.run)
        if isinstance(self.stock, Bare):
            refuse_cuts(self.run, "the print lies on the container itself. Choose a stock, or leave it out.")
        return self

    @property
    def made_of(self) -> Material:
        """What it is printed on, said in full; what is bare is clear."""
        return Clear() if isinstance(self.stock, Bare) else plain(self.stock)

    @property
    def thickness(self) -> float:
        """Mm of its stock."""
        return 0.0 if isinstance(self.stock, Bare) else self.stock_thickness

    @property
    def pierced(self) -> bool:
        """Whether it is cut through somewhere."""
        return any(isinstance(layer, Cut) for layer in self.run)

    @property
    def layers(self) -> Sequence[Layer]:
        """Its run, or the plain one."""
        return self.run or PLAIN

    def artwork_uses(self, place: str = "") -> list[ArtworkUse]:
        """What is placed on it."""
        return [
            ArtworkUse(p.artwork, f"{place}placements.{i}.artwork", f"placement {i + 1} on “{self.name}”")
            for i, p in enumerate(self.placements)
        ]


class Stuck(Printed):
    """A label: something printed that is stuck on.

    rounding : mm of its corners; outline : what it is cut to instead, mm to the right and up from the middle
        of what it takes up lying flat
    """

    rounding: NonNegativeMillimetres = 0.0
    outline: Ring | None = None


class WrapPanel(Stuck):
    """A wrap-around label laid on a wall, `from_base` mm above its foot.

    `width` runs around it, `height` along it; `centre_angle` turns its middle from
    the front (0°) to the right. On a wall that narrows a label that is `developed` is cut as a piece of a
    ring, as wide as stated half way up; another is a rectangle that is pulled straight.

    part : whose wall it is, the body's or that of a part of its closure
    """

    kind: Literal["wrap"] = "wrap"
    from_base: NonNegativeMillimetres
    centre_angle: Degrees = 0.0
    developed: bool = False
    part: Name = BODY


class SleevePanel(Printed):
    """A tube of film around a whole pack, over its closure too where it is as tall: shrunk on, or stretched.

    `width` is once around the film before, `height` along what it covers, `from_base` mm above the table;
    `centre_angle` turns its middle from the front (0°) to the right, and its seam lies opposite.
    """

    kind: Literal["sleeve"] = "sleeve"
    stock_thickness: Annotated[float, Field(ge=0.02, le=2, allow_inf_nan=False)] = 0.05
    from_base: NonNegativeMillimetres
    centre_angle: Degrees = 0.0


class SealPanel(Stuck):
    """A strip over the top of a closed pack and down on both sides, as seals are.

    `width` across the strip, `height` along it; its foot is at `centre_angle` from the front (0°) to the
    right, and its middle `shift` mm from the top's middle, away from the foot.
    """

    kind: Literal["seal"] = "seal"
    centre_angle: Degrees = 0.0
    shift: Millimetres = 0.0


class PickedPanel(Stuck):
    """A label laid on a part where somebody picked a place.

    part : that it lies on; at : mm, where its middle lies there
    turn : degrees it is turned to the right from upright
    grow : degrees that neighbouring faces may turn by for the label to go on over them
    """

    kind: Literal["picked"] = "picked"
    part: Name
    at: tuple[Millimetres, Millimetres, Millimetres]
    turn: Degrees = 0.0
    grow: Annotated[float, Field(ge=1, le=180, allow_inf_nan=False)] = 30.0


def _wraps(data: Any) -> Any:
    """Labels that do not say their kind are of before there was another."""
    return {"kind": "wrap", **data} if isinstance(data, dict) else data


Panel = Annotated[
    Annotated[WrapPanel | SleevePanel | SealPanel | PickedPanel, Field(discriminator="kind")],
    BeforeValidator(_wraps),
]
"""What is stuck on a pack, told apart by `kind`."""
