"""What things are made of, in terms a designer can measure or see."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from giftwrap.core.model.document import Document, HexColour, PositiveMillimetres

Fraction = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]


class Clear(Document):
    """Glass, clear plastic or a liquid: light passes and is coloured by the way it travels.

    White light keeps `colour` after travelling `depth` mm through it.
    """

    refractive_index: Annotated[float, Field(ge=1.0, le=2.6, allow_inf_nan=False)] = 1.52
    colour: HexColour = "#ffffff"
    depth: PositiveMillimetres = 10.0


class Opaque(Document):
    """A painted, printed or moulded surface; `gloss` runs from dead matt (0) to polished (1)."""

    colour: HexColour = "#ffffff"
    gloss: Fraction = 0.4
