"""Colours: of brands and of the studio, brought, kept and handed on; those of the screen by their Lab."""

from typing import Annotated, Any, Literal

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Query, Router, Schema
from ninja.files import UploadedFile

from giftwrap.core.errors import PackError
from giftwrap.core.materials.colours import Found, colours_in, hex_of
from giftwrap.core.materials.exchange import MAX_BYTES, read_colours, write_colours, write_colours_csv
from giftwrap.core.model.palette import BrandColour
from giftwrap.core.reading.artwork import rasterise
from giftwrap.studio.files import attachment, bytes_of, name_of
from giftwrap.studio.library.artwork import path_of
from giftwrap.studio.library.models import Artwork, StudioColour
from giftwrap.studio.numbers import Id
from giftwrap.studio.schema import answers

router = Router()
LOOKED_AT = 600
"""px that artwork is looked at for its colours."""
MOST = 1000
"""Colours of a studio."""
Axis = Annotated[float, Query(ge=-200, le=200, allow_inf_nan=False)]


class ColourOut(Schema):
    """A colour of a brand, and its L*, a*, b* (D50, 2°)."""

    name: str
    hex: str
    spot: str
    lab: tuple[float, float, float]


class StudioColourOut(ColourOut):
    """A colour of the studio, by its number."""

    number: int


class FoundOut(Schema):
    """The nearest colour of the screen, and its ΔE₀₀ from what was asked for."""

    code: str
    off: float


@router.get("/studio-colours", response=list[StudioColourOut])
def studio_colours(request: HttpRequest) -> Any:
    """The colours that every job has at hand."""
    rows = StudioColour.objects.all()
    return [
        {"number": row.pk, "lab": BrandColour(name=row.name, hex=row.hex).lab, **_said(row)} for row in rows
    ]


@router.post("/studio-colours", response=list[StudioColourOut])
def keep_colours(request: HttpRequest, data: list[BrandColour]) -> Any:
    """Keep colours for every job, one of each name: the last that was said. All there are."""
    with transaction.atomic():
        for one in data:
            StudioColour.objects.update_or_create(name=one.name, defaults={"hex": one.hex, "spot": one.spot})
        if StudioColour.objects.count() > MOST:
            raise PackError(f"A studio keeps at most {MOST} colours: take some away first.")
    return studio_colours(request)


@router.delete("/studio-colours/{number}", response=list[StudioColourOut])
def take_away_colour(request: HttpRequest, number: Id) -> Any:
    """Take a colour away. What has it stays as it is."""
    get_object_or_404(StudioColour, pk=number).delete()
    return studio_colours(request)


def _said(row: StudioColour) -> dict[str, str]:
    return {"name": row.name, "hex": row.hex, "spot": row.spot}


@router.post("/brand-colours/file", response=list[ColourOut])
def read_brand(request: HttpRequest, file: UploadedFile = File(...)) -> Any:
    """Brand colours of a CSV or JSON file."""
    return read_colours(bytes_of(file, MAX_BYTES, "brand colours"), name_of(file))


@router.post("/brand-colours.{form}", openapi_extra=answers("text/csv", "application/json"))
def write_brand(request: HttpRequest, form: Literal["csv", "json"], data: list[BrandColour]) -> HttpResponse:
    """Brand colours as a file."""
    written = write_colours_csv(data) if form == "csv" else write_colours(data)
    return attachment(written, "text/csv" if form == "csv" else "application/json", f"brand-colours.{form}")


@router.post("/brand-colours/lab", response=list[ColourOut])
def in_lab(request: HttpRequest, data: list[BrandColour]) -> Any:
    """Brand colours with their L*, a*, b*."""
    return data


@router.get("/colour-of-lab", response=FoundOut)
def of_lab(request: HttpRequest, lightness: Axis, a: Axis, b: Axis) -> Found:
    """The colour of the screen nearest to L*, a*, b*."""
    return hex_of((lightness, a, b))


@router.get("/artwork/{artwork_id}/colours", response=list[ColourOut])
def colours_of_artwork(request: HttpRequest, artwork_id: Id) -> Any:
    """The flat colours of an artwork, the most frequent first."""
    artwork = get_object_or_404(Artwork, pk=artwork_id)
    width = LOOKED_AT if artwork.aspect >= 1 else max(round(LOOKED_AT * artwork.aspect), 1)
    picture = rasterise(path_of(artwork), artwork.kind, width, max(round(width / artwork.aspect), 1))
    return [BrandColour(name=code, hex=code) for code in colours_in(picture)]
