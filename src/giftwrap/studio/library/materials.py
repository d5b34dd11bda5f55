"""Materials by name: found, and looked at."""

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema

from giftwrap.core.errors import PackError
from giftwrap.core.materials.library import Finish, found, library, picture_of
from giftwrap.core.model.document import HexColour
from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque
from giftwrap.studio.schema import answers

router = Router()
FOR_A_DAY = "private, max-age=86400"
Words = Annotated[str, Query(max_length=120)]


class KnownOut(Schema):
    """A material of the library; `source` says where its figures come from."""

    key: str
    name: str
    family: str
    finish: Finish
    source: str
    material: Clear | Cloudy | Opaque | Metal


@router.get("/material-library", response=list[KnownOut])
def find_materials(
    request: HttpRequest,
    words: Words = "",
    family: Words = "",
    finish: Finish | None = None,
    near: HexColour | None = None,
) -> Any:
    """Materials of which every word begins one of theirs; near a colour, the nearest first."""
    return found(words, family=family, finish=finish, near=near)


@router.get("/material-library/{key}.webp", openapi_extra=answers("image/webp"))
def material_picture(request: HttpRequest, key: str) -> HttpResponse:
    """A chip of a material, lit."""
    if not any(one.key == key for one in library()):
        raise PackError(f"The library has no material “{key}”: choose one that it has.")
    return HttpResponse(
        picture_of(key).read_bytes(), content_type="image/webp", headers={"Cache-Control": FOR_A_DAY}
    )
