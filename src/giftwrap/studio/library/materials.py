"""Materials by name: found, looked at, saved; brand colours brought and handed on."""

import re
from dataclasses import asdict
from typing import Annotated, Any, Literal

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Query, Router, Schema
from ninja.files import UploadedFile

from giftwrap.core.errors import PackError
from giftwrap.core.formats.archives import BEGINS
from giftwrap.core.materials.colours import Found, colours_in, hex_of
from giftwrap.core.materials.exchange import (
    MAX_BYTES,
    NamedMaterial,
    read_colours,
    write_colours,
    write_colours_csv,
)
from giftwrap.core.materials.library import Finish, found, library, picture_of
from giftwrap.core.materials.pictured import MAX_BYTES as PICTURES_MAX_BYTES
from giftwrap.core.materials.pictured import picture_thumb, read_picture
from giftwrap.core.materials.surfaces import Part, Taken
from giftwrap.core.model.document import HexColour, Sha256
from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.palette import BrandColour
from giftwrap.core.reading.artwork import rasterise
from giftwrap.studio.files import attachment, contents_of, name_of, read_file, store
from giftwrap.studio.library.artwork import path_of
from giftwrap.studio.library.models import Artwork, OwnMaterial
from giftwrap.studio.library.own_materials import (
    bring,
    handed_on,
    keep,
    own_material,
    own_materials,
    picture_file,
)
from giftwrap.studio.numbers import Id
from giftwrap.studio.schema import answers

router = Router()
FOR_A_DAY = "private, max-age=86400"
OWN_KEY = re.compile(r"own-[0-9]{1,15}")
LOOKED_AT = 600
"""px that artwork is looked at for its colours."""
Words = Annotated[str, Query(max_length=120)]
Axis = Annotated[float, Query(ge=-200, le=200, allow_inf_nan=False)]


class KnownOut(Schema):
    """A material of the library or the studio's own; `source` says where its figures come from."""

    key: str
    name: str
    family: str
    finish: Finish
    source: str
    own: bool
    material: Clear | Cloudy | Opaque | Metal


class ColourOut(Schema):
    """A colour of a brand, and its L*, a*, b* (D50, 2°)."""

    name: str
    hex: str
    spot: str
    lab: tuple[float, float, float]


class SurfacePictureOut(Schema):
    """A picture of a surface as it is kept; `depth` is the range of heights that come of directions, as a
    share of the picture's width, else 0."""

    sha256: str
    part: Part
    taken: Taken
    width_px: int
    height_px: int
    depth: float
    notes: list[str]


class FoundOut(Schema):
    """The nearest colour of the screen, and its ΔE₀₀ from what was asked for."""

    code: str
    off: float


@router.get("/material-library", response=list[KnownOut])
def find_materials(
    request: HttpRequest,
    words: Words = "",
    family: Words = "",
    finish: Finish | None = None,
    near: HexColour | None = None,
) -> Any:
    """Materials of which every word begins one of theirs; near a colour, the nearest first."""
    return found(words, family=family, finish=finish, near=near, own=own_materials())


@router.get("/material-library/{key}.webp", openapi_extra=answers("image/webp"))
def material_picture(request: HttpRequest, key: str) -> HttpResponse:
    """A chip of a material, lit. One that has just been saved has none for a moment: 404."""
    if OWN_KEY.fullmatch(key):
        own = own_material(get_object_or_404(OwnMaterial, pk=int(key[4:])))
        path = picture_file(own) if own else None
    elif any(one.key == key for one in library()):
        path = picture_of(key)
    else:
        raise PackError(f"The library has no material “{key}”: choose one that it has.")
    if path is None or not path.exists():
        raise Http404("This picture is not drawn yet: look again in a moment.")
    return HttpResponse(path.read_bytes(), content_type="image/webp", headers={"Cache-Control": FOR_A_DAY})


@router.post("/own-materials", response=list[KnownOut])
def save_material(request: HttpRequest, data: NamedMaterial) -> Any:
    """Save a material for every job of the studio, under a name of its own; all there are."""
    keep([data])
    return own_materials()


@router.delete("/own-materials/{number}", response=list[KnownOut])
def take_away_material(request: HttpRequest, number: Id) -> Any:
    """Take a material away. What is made of it keeps its copy."""
    get_object_or_404(OwnMaterial, pk=number).delete()
    return own_materials()


@router.get("/own-materials-file", openapi_extra=answers("application/json", "application/zip"))
def export_materials(request: HttpRequest) -> HttpResponse:
    """The studio's own as a file: JSON, or an archive of that and their pictures."""
    data = handed_on()
    if data.startswith(BEGINS):
        return attachment(data, "application/zip", "materials.zip")
    return attachment(data, "application/json", "materials.json")


@router.post("/own-materials-file", response=list[KnownOut])
def import_materials(request: HttpRequest, file: UploadedFile = File(...)) -> Any:
    """Save all materials of a file, or none; all there are."""
    bring(_bytes(file, "materials", PICTURES_MAX_BYTES), name_of(file))
    return own_materials()


@router.post("/surface-pictures", response=SurfacePictureOut)
def keep_surface_picture(
    request: HttpRequest,
    file: UploadedFile = File(...),
    part: Part | None = None,
    taken: Taken | None = None,
) -> Any:
    """Read a picture of a surface and keep it, for materials to name.

    part, taken : what it is, where somebody says; else told by its name and what is in it
    """
    source = contents_of(file, PICTURES_MAX_BYTES, "a picture of a surface", "Reduce it.")
    facts, kept = read_picture(source, name_of(file), part=part, taken=taken)
    return {"sha256": store(kept), **asdict(facts)}


@router.get("/surface-pictures/{sha256}.webp", openapi_extra=answers("image/webp"))
def surface_picture(request: HttpRequest, sha256: Sha256) -> HttpResponse:
    """A picture of a surface, small."""
    data = read_file(sha256)
    if data is None:
        raise Http404("This picture is not here any more: choose it again.")
    return HttpResponse(picture_thumb(data), content_type="image/webp", headers={"Cache-Control": FOR_A_DAY})


@router.post("/brand-colours/file", response=list[ColourOut])
def read_brand(request: HttpRequest, file: UploadedFile = File(...)) -> Any:
    """Brand colours of a CSV or JSON file."""
    return read_colours(_bytes(file, "brand colours"), name_of(file))


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


def _bytes(file: UploadedFile, what: str, most: int = MAX_BYTES) -> bytes:
    source = contents_of(file, most, what, "Leave out what is not needed.")
    return source if isinstance(source, bytes) else source.read_bytes()
