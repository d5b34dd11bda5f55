"""Materials by name: found, looked at, saved, handed on; pictures of surfaces."""

import re
from dataclasses import asdict
from typing import Annotated, Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Query, Router, Schema
from ninja.files import UploadedFile

from giftwrap.core.errors import PackError
from giftwrap.core.formats.archives import BEGINS
from giftwrap.core.materials.exchange import NamedMaterial
from giftwrap.core.materials.library import Finish, found, library, picture_of
from giftwrap.core.materials.pictured import MAX_BYTES as PICTURES_MAX_BYTES
from giftwrap.core.materials.pictured import picture_thumb, read_picture
from giftwrap.core.materials.surfaces import Part, Taken
from giftwrap.core.model.document import HexColour, Sha256
from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque
from giftwrap.studio.files import attachment, bytes_of, contents_of, name_of, read_file, store
from giftwrap.studio.library.models import OwnMaterial
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
Words = Annotated[str, Query(max_length=120)]


class KnownOut(Schema):
    """A material of the library or the studio's own; `source` says where its figures come from."""

    key: str
    name: str
    family: str
    finish: Finish
    source: str
    own: bool
    material: Clear | Cloudy | Opaque | Metal


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
    bring(bytes_of(file, PICTURES_MAX_BYTES, "materials"), name_of(file))
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
