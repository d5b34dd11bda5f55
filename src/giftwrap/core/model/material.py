"""What things are made of, in terms a designer can measure or see."""

from __future__ import annotations

from typing import Annotated, Literal, TypeVar

from pydantic import Field

from giftwrap.core.errors import PackError
from giftwrap.core.model.document import Document, Fraction, HexColour, Name, PositiveMillimetres
from giftwrap.core.model.worked import Worked

Density = Annotated[float, Field(gt=0, le=25, allow_inf_nan=False, description="g/cm³")]


class Clear(Worked):
    """Glass, clear plastic or a liquid: light passes and is coloured by the way it travels.

    White light keeps `colour` after travelling `depth` mm through it. `frost` runs from polished
    (0) to ground (1), outside or inside or on both.
    """

    kind: Literal["clear"] = "clear"
    refractive_index: Annotated[float, Field(ge=1.0, le=2.6, allow_inf_nan=False)] = 1.52
    colour: HexColour = "#ffffff"
    depth: PositiveMillimetres = 10.0
    frost: Fraction = 0.0
    frosted: Literal["both", "outside", "inside"] = "both"
    density: Density = 2.5


class Opaque(Worked):
    """A painted, printed or moulded surface; `gloss` runs from dead matt (0) to polished (1).

    sheen : of fuzz or soft touch, light at grazing angles
    passes : share of light that a thin sheet lets through, spread in all directions
    """

    kind: Literal["opaque"] = "opaque"
    colour: HexColour = "#ffffff"
    gloss: Fraction = 0.4
    sheen: Fraction = 0.0
    passes: Annotated[float, Field(ge=0, le=0.9, allow_inf_nan=False)] = 0.0
    density: Density = 0.95


class Metal(Worked):
    """Bare or tinted metal; `gloss` runs from blasted (0) to polished (1). `lacquer` is the gloss of a clear
    coat over it, 0 for none."""

    kind: Literal["metal"] = "metal"
    metal: Literal["aluminium", "silver", "gold", "copper", "chrome"]
    tint: HexColour = "#ffffff"
    gloss: Fraction = 0.6
    lacquer: Fraction = 0.0
    density: Density = 2.7


class Cloudy(Worked):
    """A cream, wax or translucent plastic: light enters, wanders and comes out beside.

    A thick piece looks `colour`; light goes `wander` mm from one scattering to the next.
    """

    kind: Literal["cloudy"] = "cloudy"
    colour: HexColour = "#f4efe6"
    wander: Annotated[float, Field(ge=0.02, le=50, allow_inf_nan=False)] = 0.5
    gloss: Fraction = 0.4
    refractive_index: Annotated[float, Field(ge=1.0, le=2.6, allow_inf_nan=False)] = 1.45
    density: Density = 0.95


class Linked(Document):
    """Whatever the job's palette has under a name: parts that name the same entry are linked."""

    kind: Literal["linked"] = "linked"
    entry: Name


Material = Clear | Cloudy | Opaque | Metal
"""What something is made of, said in full."""
M = TypeVar("M", bound=Material)


def plain(material: M | Linked) -> M:
    """A material said in full.

    Raises PackError for a link: documents are dressed (`model.colourway`) before they are built.
    """
    if isinstance(material, Linked):
        raise PackError(f"“{material.entry}” is an entry of a palette, and no palette was given.")
    return material
