"""The run: what is printed on a panel, in the order of the press, and on what."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from giftwrap.core.model.document import Document, Fraction, Name
from giftwrap.core.model.material import Clear, Linked, Metal, Opaque

Covers = Literal["whole", "ink", "placed"]
"""Where a layer is: everywhere, wherever artwork is printed in ink, or where artwork is placed for it."""


class Bare(Document):
    """No stock: printed on the container itself."""

    kind: Literal["bare"] = "bare"


Stock = Annotated[Opaque | Metal | Clear | Bare | Linked, Field(discriminator="kind")]
"""What is printed on: paper and opaque film, metallised film, clear film, or nothing but the container."""

Tooth = Literal["smooth", "laid", "felt", "kraft"]
"""How a stock's face feels: coated paper and films; ribbed, or soft, as its mould left it; full of fibres."""


class White(Document):
    """A ground of white, by default under all ink. `hiding` is the share of what lies under it that it
    covers."""

    kind: Literal["white"] = "white"
    name: Name = "White"
    covers: Covers = "ink"
    hiding: Fraction = 0.95


class Ink(Document):
    """Ink: artwork in its own colours, or one colour.

    material : of which the colour and the gloss count; None for artwork in its own colours
    hiding : share of what lies under it that it covers: about 0 for offset and digital inks, which take
        the ground's colour on, 1 for opaque screen inks
    """

    kind: Literal["ink"] = "ink"
    name: Name = "Ink"
    covers: Covers = "placed"
    material: Opaque | Linked | None = None
    hiding: Fraction = 1.0


class Foil(Document):
    """Metal foil, stamped hot into the stock or glued on cold; plain, or broken into shards that flash in
    colours of their own."""

    kind: Literal["foil"] = "foil"
    name: Name = "Foil"
    covers: Covers = "placed"
    material: Metal | Linked = Metal(metal="gold", gloss=0.85)
    hot: bool = True
    holographic: bool = False


class Varnish(Document):
    """Clear varnish: changes the gloss, and where it is raised, the height in mm."""

    kind: Literal["varnish"] = "varnish"
    name: Name = "Varnish"
    covers: Covers = "placed"
    gloss: Fraction = 1.0
    height: Annotated[float, Field(ge=0, le=0.5, allow_inf_nan=False)] = 0.0


class Embossed(Document):
    """Stock pressed out by so many mm, or in where negative; `flank` is how many mm its slope is wide."""

    kind: Literal["emboss"] = "emboss"
    name: Name = "Emboss"
    covers: Covers = "placed"
    height: Annotated[float, Field(ge=-1.5, le=1.5, allow_inf_nan=False)] = 0.25
    flank: Annotated[float, Field(ge=0.05, le=5, allow_inf_nan=False)] = 0.4


class Cut(Document):
    """Stock cut through: all that artwork says, or, perforated, slits along its lines.

    slit : mm of each slit; None where all is cut out
    tie : mm of stock that is left between slits
    """

    kind: Literal["cut"] = "cut"
    name: Name = "Die-cut"
    covers: Literal["placed"] = "placed"
    slit: Annotated[float, Field(ge=0.1, le=50, allow_inf_nan=False)] | None = None
    tie: Annotated[float, Field(ge=0.1, le=50, allow_inf_nan=False)] = 0.8


Layer = Annotated[White | Ink | Foil | Varnish | Embossed | Cut, Field(discriminator="kind")]
Run = Annotated[list[Layer], Field(max_length=16)]
PLAIN: tuple[Layer, ...] = (Ink(),)
"""The run of a panel that has none: artwork in its own colours."""
