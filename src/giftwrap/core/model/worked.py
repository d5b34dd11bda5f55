"""What is done to materials: grain and relief, spraying and dipping, thin films."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from giftwrap.core.errors import PackError
from giftwrap.core.model.document import Document, Fraction, HexColour, Sha256

Level = Annotated[float, Field(ge=-2000, le=5000, allow_inf_nan=False, description="mm")]
PatternName = Literal[
    "brushed",
    "cast",
    "concrete",
    "cork",
    "felt",
    "fibres",
    "flecks",
    "hammered",
    "laid",
    "leather",
    "marble",
    "orange peel",
    "terrazzo",
    "wood",
    "woven",
    "shards",
]


class Pictures(Document):
    """Pictures of a surface that repeat over it, as they are kept (`materials.pictured`).

    colour : seen colours; where it is clear, the material's own
    gloss : from dead matt to polished, instead of the material's
    relief : heights
    """

    colour: Sha256 | None = None
    gloss: Sha256 | None = None
    relief: Sha256 | None = None

    @model_validator(mode="after")
    def _has_one(self) -> Pictures:
        if not (self.colour or self.gloss or self.relief):
            raise PackError("It has neither a picture of colour, nor of gloss, nor of relief: choose one.")
        return self


class Grain(Document):
    """A pattern or pictures on something or through it, and how they lie.

    scale : mm of what repeats in it: a cell of leather, a ring of wood, a streak of brushing, pictures' width
    lies : wrapped around the part's axis, straight through it, over each side from where that faces, or as a
        received model was unwrapped by who made it
    turn : degrees, counter-clockwise seen from outside, from level
    colour : of its darker or other places, as far as `share` says
    depth : mm from its lowest to its highest place
    brushed : how much further light is spread across the grain than along it, from alike to a line
    """

    pattern: PatternName | Pictures
    scale: Annotated[float, Field(ge=0.02, le=5000, allow_inf_nan=False)] = 1.0
    lies: Literal["around", "through", "over", "unwrapped"] = "around"
    turn: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)] = 0.0
    colour: HexColour = "#000000"
    share: Fraction = 0.0
    depth: Annotated[float, Field(ge=0, le=20, allow_inf_nan=False)] = 0.0
    brushed: Fraction = 0.0

    @property
    def pictures(self) -> Pictures | None:
        """What shows it, if that is no pattern."""
        return self.pattern if isinstance(self.pattern, Pictures) else None


class Fade(Document):
    """Sprayed or dipped: a second look that sets in from one height to another, mm above the part's foot.

    begins, whole : where it begins and from where on it is all there; either may be the higher one
    colour : of the paint; what does not cover tints what is seen through it
    cover : share that hides what is behind
    gloss : of the paint; without any cover, what the surface itself becomes
    """

    begins: Level = 0.0
    whole: Level = 30.0
    colour: HexColour = "#ffffff"
    cover: Fraction = 1.0
    gloss: Fraction = 0.6


class Film(Document):
    """A clear film, so thin that light from its two faces interferes: pearl, lustre, coated glass.
    `thickness` is in nm."""

    thickness: Annotated[float, Field(ge=10, le=2000, allow_inf_nan=False)] = 300.0
    refractive_index: Annotated[float, Field(ge=1.2, le=3.0, allow_inf_nan=False)] = 2.3


class Worked(Document):
    """Something that may have a grain, a fade and a film."""

    grain: Grain | None = None
    fade: Fade | None = None
    film: Film | None = None

    @property
    def pictures(self) -> Pictures | None:
        """The pictures that its grain shows."""
        return None if self.grain is None else self.grain.pictures
