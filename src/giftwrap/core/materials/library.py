"""Materials by name, in families: what a designer picks first and then nudges."""

from __future__ import annotations

import json
import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Annotated, Any, Literal

from coloraide import Color
from pydantic import Field, TypeAdapter

from giftwrap.core.materials.starting import drawn_colour
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.material import Material

Finish = Literal["clear", "frosted", "matt", "satin", "gloss"]
"""How a surface shines; of what is clear, whether it is frosted."""
SATIN, GLOSS, FROSTED = 0.2, 0.6, 0.05
"""From this gloss on a surface is satin, and from this glossy; from this frost on it is frosted."""
SOURCES = {
    "glass": "index and density of handbooks of glass, from memory; colour by eye",
    "plastics": "index and density of handbooks of plastics, from memory; colour and gloss by eye",
    "metals": "n and k measured (see `optics.METALS`), density of a handbook, from memory; gloss by eye",
    "boards": "density of common practice; colour and gloss by eye",
    "sugar": "index of sugar solutions by ICUMSA, density of handbooks, both from memory; colour by eye",
    "chemistry": "index and density of a handbook of chemistry and physics, from memory; colour by eye",
    "films": "index of titania on mica, thickness by its colour, from memory; gloss by eye",
    "by eye": "all by eye, density of common practice",
}
"""Where the figures of a material come from."""
_FILE = Path(__file__).with_name("library.json")
_PICTURES = _FILE.with_name("swatches")
_MATERIAL: TypeAdapter[Material] = TypeAdapter(
    Annotated[Clear | Cloudy | Opaque | Metal, Field(discriminator="kind")]
)


@dataclass(frozen=True)
class Known:
    """A material of the library.

    words : that it is looked for by, beside its name and its family
    source : where its figures come from
    own : it is the studio's, not the library's
    """

    key: str
    name: str
    family: str
    words: str
    source: str
    material: Material
    own: bool = False

    @property
    def finish(self) -> Finish:
        """How it shines."""
        if isinstance(self.material, Clear):
            return "frosted" if self.material.frost >= FROSTED else "clear"
        gloss = self.material.gloss
        return "gloss" if gloss >= GLOSS else "satin" if gloss >= SATIN else "matt"


@cache
def library() -> tuple[Known, ...]:
    """All of them, family by family."""
    families: list[dict[str, Any]] = json.loads(_FILE.read_text())
    return tuple(
        Known(
            key=re.sub(r"[^a-z0-9]+", "-", one["name"].lower()).strip("-"),
            name=one["name"],
            family=family["family"],
            words=one["words"],
            source=SOURCES[one["source"]],
            material=_MATERIAL.validate_python(one["material"]),
        )
        for family in families
        for one in family["materials"]
    )


def found(
    words: str = "",
    *,
    family: str = "",
    finish: Finish | None = None,
    near: str | None = None,
    own: Sequence[Known] = (),
) -> list[Known]:
    """Materials of which every word begins one of theirs, of a family and a finish where these are named.

    own : materials beside the library's, which come first
    near : a `#rrggbb` by which they are ordered, the nearest first (ΔE00); else as the library has them
    """
    sought = words.lower().split()
    some = [
        one
        for one in (*own, *library())
        if (not family or one.family == family)
        and (finish is None or one.finish == finish)
        and all(any(word.startswith(part) for word in _said_of(one)) for part in sought)
    ]
    if near is None:
        return some
    wanted = Color(near)
    return sorted(some, key=lambda one: wanted.delta_e(_seen(one), method="2000"))


def picture_of(key: str) -> Path:
    """Where the picture of a material of the library is kept."""
    return _PICTURES / f"{key}.webp"


def _said_of(one: Known) -> list[str]:
    return re.findall(r"[\w%]+", f"{one.name} {one.family} {one.words} {one.finish}".lower())


@cache
def _seen(one: Known) -> Color:
    return Color(drawn_colour(one.material))
