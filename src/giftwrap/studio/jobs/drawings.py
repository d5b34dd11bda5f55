"""Drawings and photos of half-profiles: reading them in, writing them out, laying photos behind."""

from dataclasses import asdict
from typing import Annotated, Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from giftwrap.core import model as core
from giftwrap.core.carton.component import sheets_of
from giftwrap.core.carton.own import own_carton
from giftwrap.core.carton.styles import components_of
from giftwrap.core.form.tracing import calibrate, read_photo
from giftwrap.core.formats.blank_in import closed_outline, folded_lines, read_lines
from giftwrap.core.formats.blank_out import MEDIA_TYPES, BlankFormat, write_blank
from giftwrap.core.formats.profiles import read_outline, read_profile, write_dxf, write_svg
from giftwrap.core.model.panel import Ring
from giftwrap.core.model.vessel import MOST_PX
from giftwrap.studio.files import attachment, contents_of, file_path, name_of, store
from giftwrap.studio.jobs.models import Job
from giftwrap.studio.schema import answers

router = Router()
MAX_PHOTO_BYTES = 400_000_000
Place = Annotated[float, Field(ge=-MOST_PX, le=MOST_PX, allow_inf_nan=False)]
Mark = tuple[Place, Place]


class ProfileOut(Schema):
    profile: list[core.Corner]
    notes: list[str]


class OutlineOut(Schema):
    points: list[tuple[float, float]]


class PhotoOut(Schema):
    picture: str
    width_px: int
    height_px: int


class LineGroupOut(Schema):
    """Lines of a drawing that are drawn alike, and what they were taken for."""

    called: str
    colour: str
    dashed: bool
    kind: str | None
    lines: int


class ReadBlankOut(Schema):
    carton: core.Carton
    groups: list[LineGroupOut]
    notes: list[str]


class CalibrationIn(Schema):
    """Points in px of the photo as it was read."""

    picture: str = Field(pattern=r"^[0-9a-f]{64}$")
    width_px: int = Field(gt=0, le=MOST_PX)
    height_px: int = Field(gt=0, le=MOST_PX)
    axis_top: Mark
    axis_base: Mark
    known_from: Mark
    known_to: Mark
    length: float = Field(allow_inf_nan=False)


@router.post("/profile/read", response=ProfileOut)
def read_drawing(request: HttpRequest, file: UploadedFile = File(...)) -> Any:
    """A half-profile out of an SVG or DXF drawing."""
    found = read_profile(file.read(), name_of(file))
    return {"profile": found.corners, "notes": found.notes}


@router.post("/outline/read", response=OutlineOut)
def read_section(request: HttpRequest, file: UploadedFile = File(...)) -> Any:
    """An outline for a cross-section out of an SVG or DXF drawing."""
    return {"points": read_outline(file.read(), name_of(file))}


@router.post("/profile.svg", openapi_extra=answers("image/svg+xml"))
def write_profile_svg(request: HttpRequest, data: core.Body) -> HttpResponse:
    return attachment(write_svg(data).encode(), "image/svg+xml", "half-profile.svg")


@router.post("/profile.dxf", openapi_extra=answers("image/vnd.dxf"))
def write_profile_dxf(request: HttpRequest, data: core.Body) -> HttpResponse:
    return attachment(write_dxf(data).encode(), "image/vnd.dxf", "half-profile.dxf")


@router.post("/blank.{form}", openapi_extra=answers("image/svg+xml", "image/vnd.dxf", "application/pdf"))
def write_blanks(request: HttpRequest, form: BlankFormat, data: core.Carton) -> HttpResponse:
    """Everything that is cut for a carton at 1:1 mm, cut and crease told apart."""
    written = write_blank(sheets_of(components_of(data)[0]), form)
    return attachment(written, MEDIA_TYPES[form], f"blank.{form}")


@router.post("/blank/read", response=ReadBlankOut)
def read_blank_drawing(request: HttpRequest, file: UploadedFile = File(...), kinds: str = "") -> Any:
    """A carton out of a blank drawn elsewhere.

    kinds : what the drawing's groups of lines are, in their order, where they were taken for others:
        cut, crease or none, with commas between
    """
    said = [None if kind == "none" else kind for kind in kinds.split(",")] if kinds else []
    lines = read_lines(file.read(), name_of(file))
    found = folded_lines(lines, dict(enumerate(said)))
    groups = [
        {**asdict(group), "kind": said[i] if i < len(said) else group.kind, "lines": len(group.lines)}
        for i, group in enumerate(lines.groups)
    ]
    return {"carton": own_carton(found.blank, core.Board()), "groups": groups, "notes": found.notes}


class AreaShapeOut(Schema):
    """A shape read from a drawing, and mm it takes up there."""

    shape: Ring
    across: float
    high: float


@router.post("/blank/outline", response=AreaShapeOut)
def read_shape(request: HttpRequest, file: UploadedFile = File(...)) -> Any:
    """The largest closed outline of a drawing, to cut or press a part of a panel to."""
    found = closed_outline(file.read(), name_of(file))
    left, foot, right, top = found.bounds
    shape = [(round(x - left, 4), round(y - foot, 4)) for x, y in found.exterior.coords[:-1]]
    return {"shape": shape, "across": round(right - left, 2), "high": round(top - foot, 2)}


@router.post("/jobs/{slug}/photos", response=PhotoOut)
def upload_photo(request: HttpRequest, slug: str, file: UploadedFile = File(...)) -> Any:
    """Keep a photo to trace over, made as small as the screen needs."""
    get_object_or_404(Job, slug=slug)
    source = contents_of(file, MAX_PHOTO_BYTES, "a photo", "Save it smaller.")
    photo = read_photo(source, name_of(file))
    return {"picture": store(photo.data), "width_px": photo.width_px, "height_px": photo.height_px}


@router.get("/photos/{sha}.jpg", openapi_extra=answers("image/jpeg"))
def photo(request: HttpRequest, sha: str) -> HttpResponse:
    """A photo to trace over."""
    path = file_path(sha) if len(sha) == 64 and sha.isalnum() else None
    if path is None or not path.exists():
        raise Http404
    return HttpResponse(
        path.read_bytes(), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=31536000"}
    )


@router.post("/tracing", response=core.Tracing)
def lay_photo(request: HttpRequest, data: CalibrationIn) -> core.Tracing:
    """Lay a photo behind the half-profile from the points marked on it."""
    return calibrate(
        data.picture,
        (data.width_px, data.height_px),
        (data.axis_top, data.axis_base),
        (data.known_from, data.known_to),
        data.length,
    )
