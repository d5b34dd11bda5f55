"""The job's palette, and the colourways that replace what is in it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal, TypeVar

from coloraide import Color
from pydantic import Field, ValidationError, model_validator

from giftwrap.core.errors import PackError
from giftwrap.core.model.document import (
    Document,
    HexColour,
    Key,
    Name,
    NonNegativeMillimetres,
    Sha256,
    Versioned,
)
from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.pack import Pack
from giftwrap.core.model.panel import Texts
from giftwrap.core.model.vessel import Contents, Vessel

Entries = Annotated[
    dict[Name, Annotated[Clear | Cloudy | Opaque | Metal, Field(discriminator="kind")]],
    Field(max_length=200),
]


class ArtworkVersions(Document):
    """The files that an artwork has been, in the order in which they came, and which of them is printed."""

    files: Annotated[list[Sha256], Field(min_length=1, max_length=100)]
    shown: Sha256

    @model_validator(mode="after")
    def _shows_one(self) -> ArtworkVersions:
        if self.shown not in self.files:
            raise PackError("An artwork shows one of its versions: choose it again.", "shown")
        return self


class BrandColour(Document):
    """A colour of a brand; `spot` is the name of its ink, as it was typed."""

    name: Name
    hex: HexColour
    spot: Annotated[str, Field(max_length=120)] = ""

    @property
    def lab(self) -> tuple[float, float, float]:
        """CIE L*, a*, b* (D50, 2°)."""
        lightness, a, b = Color(self.hex).convert("lab").coords()
        return float(lightness), float(a), float(b)


class Palette(Versioned):
    """Materials of a job by name. Parts refer to them, so that what should match does.

    colours : of the brand
    versions : of artwork, by the file that documents name: everything placed follows
    """

    schema_version: Literal[1] = 1
    entries: Entries = {}
    colours: Annotated[list[BrandColour], Field(max_length=1000)] = []
    versions: Annotated[dict[Sha256, ArtworkVersions], Field(max_length=400)] = {}

    def printed(self, colourway: Colourway) -> Mapping[str, str]:
        """The files that are printed instead of those that documents name, in a colourway."""
        shown = {name: versions.shown for name, versions in self.versions.items()}
        return shown | {name: shown.get(other, other) for name, other in colourway.artwork.items()}


class Colourway(Versioned):
    """What is different in one version of the job from how it is.

    entries : of the palette
    artwork : one file in place of another, by their SHA-256
    texts : that fill fields of artwork, by their ids, wherever it has them
    contents : of packs, by their keys; fill : levels in mm above the table
    """

    schema_version: Literal[1] = 1
    entries: Entries = {}
    artwork: Annotated[dict[Sha256, Sha256], Field(max_length=400)] = {}
    texts: Texts = {}
    contents: Annotated[dict[Key, Contents], Field(max_length=100)] = {}
    fill: Annotated[dict[Key, NonNegativeMillimetres], Field(max_length=100)] = {}


AS_IT_IS = Colourway()
D = TypeVar("D", bound=Document)


def dressed(key: str, pack: Pack, palette: Palette, colourway: Colourway = AS_IT_IS) -> Pack:
    """A pack as a colourway has it, every material said in full.

    key : the pack's in its job

    Raises PackError, with the place in the pack or the colourway, when an entry is missing or is not
    what a part can be made of.
    """
    strange = [name for name in colourway.entries if name not in palette.entries]
    if strange:
        raise PackError(
            f"The colourway replaces “{strange[0]}”, which the job's palette does not have: take it out of "
            "the colourway, or add it to the palette.",
            f"entries.{strange[0]}",
        )
    contents = pack.form.contents if isinstance(pack.form, Vessel) else None
    if contents:
        other = colourway.contents.get(key, contents)
        if key in colourway.fill:
            other = other.model_copy(update={"fill_height": colourway.fill[key]})
        if other is not contents:
            pack = pack.model_copy(update={"form": pack.form.model_copy(update={"contents": other})})
    return said_in_full(pack, palette, colourway)


def said_in_full(document: D, palette: Palette, colourway: Colourway = AS_IT_IS) -> D:
    """A document in which no material is linked and artwork is the colourway's.

    Raises PackError, with the place in the document, when an entry is missing or cannot stand there.
    """
    known = {**palette.entries, **colourway.entries}
    links: dict[str, str] = {}
    printed = palette.printed(colourway)
    data = _replaced(document.model_dump(mode="json"), "", known, printed, links)
    if colourway.texts:
        _fill(data, colourway.texts)
    if not links and not printed and not colourway.texts:
        return document
    try:
        return type(document).model_validate(data)
    except ValidationError as error:
        raise _unsuitable(error, links) from None


def _replaced(
    value: Any, place: str, known: dict[str, Any], artwork: Mapping[str, str], links: dict[str, str]
) -> Any:
    """A document's value with links said in full and artwork replaced; `links` gets where which were."""
    if isinstance(value, list):
        return [_replaced(v, f"{place}.{i}", known, artwork, links) for i, v in enumerate(value)]
    if not isinstance(value, dict):
        return artwork.get(value, value) if place.endswith(".artwork") else value
    if value.get("kind") == "linked":
        entry = value["entry"]
        if entry not in known:
            raise PackError(
                f"It is made of “{entry}”, which the job's palette does not have: add it there, or choose "
                "what it is made of.",
                place.removeprefix("."),
            )
        links[place.removeprefix(".")] = entry
        return known[entry].model_dump(mode="json")
    return {name: _replaced(v, f"{place}.{name}", known, artwork, links) for name, v in value.items()}


def _fill(value: Any, texts: Mapping[str, str]) -> None:
    """Put a colourway's texts into all placements of a document's value."""
    for inner in value.values() if isinstance(value, dict) else value if isinstance(value, list) else ():
        _fill(inner, texts)
    if isinstance(value, dict) and "artwork" in value and isinstance(value.get("texts"), dict):
        value["texts"] = {**value["texts"], **texts}


def _unsuitable(error: ValidationError, links: dict[str, str]) -> PackError:
    """What to say when an entry of the palette cannot stand where it is linked."""
    first = ".".join(map(str, error.errors()[0]["loc"]))
    for place, entry in links.items():
        inner = place.split(".")
        if all(part in first.split(".") for part in inner):
            return PackError(f"It cannot be made of “{entry}”: choose another entry of the palette.", place)
    return PackError("The colourway does not suit this pack: take out what it replaces.", first)
