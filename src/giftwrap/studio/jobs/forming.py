"""Forming packs without saving: shaping, filling, starting points, finishes, tracing, drawings in and out."""

import base64
from collections.abc import Mapping
from dataclasses import asdict
from typing import Annotated, Any

import numpy as np
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from giftwrap.core import model as core
from giftwrap.core.errors import PackError
from giftwrap.core.form.closures.starting import starting_closure
from giftwrap.core.form.drawing import draw
from giftwrap.core.form.facts import DENSITIES, PackFacts, pack_facts
from giftwrap.core.form.finishes import FINISHES
from giftwrap.core.form.mesh import Mesh
from giftwrap.core.form.path import Array
from giftwrap.core.form.shape import Shape, shape_pack
from giftwrap.core.form.silhouette import silhouette_svg
from giftwrap.core.form.starting import StartingPoint, starting_points
from giftwrap.core.form.tracing import calibrate, read_photo
from giftwrap.core.form.vessel import build_vessel
from giftwrap.core.formats.profiles import read_outline, read_profile, write_dxf, write_svg
from giftwrap.core.model.closure import ClosureKind
from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.pack import MOST_PX
from giftwrap.studio.jobs.models import Job
from giftwrap.studio.library.files import artwork_of, contents_of, file_path, name_of, store
from giftwrap.studio.schema import answers

router = Router()
Outline = list[tuple[float, float]]
MAX_PHOTO_BYTES = 400_000_000


Place = Annotated[float, Field(ge=-MOST_PX, le=MOST_PX, allow_inf_nan=False)]
Mark = tuple[Place, Place]


class MeshOut(Schema):
    """Triangles in base64: 32-bit floats, signed bytes (127 is 1), unsigned 16- or, if wide, 32-bit."""

    positions: str
    normals: str
    uvs: str | None
    faces: str
    wide: bool


class SurfaceOut(Schema):
    """One surface to draw. `panel` is the index of the panel whose print it carries."""

    name: str
    part: str
    group: str
    panel: int | None
    material: Clear | Cloudy | Opaque | Metal
    wetted: bool
    mesh: MeshOut


class SheetOut(Schema):
    """A label as laid: the wall behind it, and mm around the pack there."""

    name: str
    wall: Outline
    around: float


class ZoneOut(Schema):
    name: str
    bottom: float
    top: float
    wall: float


class FactsOut(Schema):
    height: float
    diameter: float
    depth: float
    rim_height: float
    floor_height: float
    least_fill: float
    brimful_ml: float
    outer_ml: float
    contents_ml: float | None
    headspace_ml: float | None
    nominal_fill_height: float | None
    body_g: float
    closure_g: float
    contents_g: float
    empty_g: float
    filled_g: float
    triangles: int
    cautions: list[str]


class PartOutline(Schema):
    part: str
    points: Outline


class RingOut(Schema):
    """A cross-section seen from above, the front at the bottom."""

    height: float
    outer: Outline
    inner: Outline | None


class DrawingOut(Schema):
    """Lines in mm from the axis and up; `limits` is the largest rounding of each corner."""

    outer: Outline
    inner: Outline
    contents: Outline | None
    closure: list[PartOutline]
    rings: list[RingOut]
    limits: list[float | None]


class ShapeOut(Schema):
    """Everything a page needs to show a pack."""

    facts: FactsOut
    drawing: DrawingOut
    zones: list[ZoneOut]
    sheets: list[SheetOut]
    surfaces: list[SurfaceOut]
    parts: list[str]


class FillIn(Schema):
    body: core.Body
    volume_ml: float = Field(gt=0, le=100_000)


class FillOut(Schema):
    fill_height: float


class ClosureIn(Schema):
    body: core.Body
    kind: ClosureKind


class ClosureOut(Schema):
    closure: core.Closure


class StartingPointOut(Schema):
    slug: str
    title: str
    kind: str
    volume_ml: float
    pack: core.Pack


class ProfileOut(Schema):
    profile: list[core.Corner]
    notes: list[str]


class OutlineOut(Schema):
    points: Outline


class PhotoOut(Schema):
    picture: str
    width_px: int
    height_px: int


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


@router.post("/shape", response=ShapeOut)
def shape(request: HttpRequest, data: core.Pack) -> HttpResponse:
    """Shape a pack without saving it."""
    answer = shape_answer(data, artwork_of(data.artwork_uses()))
    return HttpResponse(answer, content_type="application/json")


def shape_answer(data: core.Pack, artwork: Mapping[str, bytes]) -> bytes:
    """A `ShapeOut` as JSON. Raises PackError when the pack cannot be built."""
    return ShapeOut.model_validate(_shape_fields(data, artwork)).model_dump_json().encode()


def _shape_fields(data: core.Pack, artwork: Mapping[str, bytes]) -> dict[str, Any]:
    shaped = shape_pack(data, artwork, coarse=True)
    zones = shaped.vessel.profile.zones
    walls = {zone.name: data.body.zone_walls.get(zone.name, data.body.wall_thickness) for zone in zones}
    drawing = draw(shaped)
    return {
        "facts": _facts(pack_facts(shaped)),
        "drawing": {
            "outer": _outline(drawing.outer),
            "inner": _outline(drawing.inner),
            "contents": None if drawing.contents is None else _outline(drawing.contents),
            "closure": [{"part": o.part, "points": _outline(o.points)} for o in drawing.closure],
            "rings": [
                {
                    "height": ring.height,
                    "outer": _outline(ring.outer),
                    "inner": None if ring.inner is None else _outline(ring.inner),
                }
                for ring in drawing.rings
            ],
            "limits": drawing.limits,
        },
        "zones": [{**asdict(zone), "wall": walls[zone.name]} for zone in zones],
        "sheets": [
            {"name": sheet.panel.name, "wall": _outline(sheet.wall.points), "around": sheet.around}
            for sheet in shaped.sheets
        ],
        "surfaces": _surfaces(shaped),
        "parts": part_names(shaped),
    }


def part_names(shaped: Shape) -> list[str]:
    """Every part of a pack, the hidden ones too, from the body outwards."""
    names = ["body"]
    if shaped.pack.contents:
        names.append("contents")
    if shaped.built:
        names += [solid.name for solid in shaped.built.solids]
        names += [shaped.built.tube.name] if shaped.built.tube else []
    names += [f"label-{i + 1}" for i in range(len(shaped.sheets))]
    return names


@router.post("/fill-height", response=FillOut)
def fill_height(request: HttpRequest, data: FillIn) -> dict[str, float]:
    """The level at which a body holds a volume."""
    return {"fill_height": build_vessel(data.body, coarse=True).height_for(data.volume_ml)}


@router.post("/closure", response=ClosureOut)
def closure(request: HttpRequest, data: ClosureIn) -> Any:
    """A closure of a kind, sized to a body's finish."""
    return {"closure": starting_closure(data.kind, data.body)}


@router.get("/finishes", response=list[core.Finish])
def finishes(request: HttpRequest) -> Any:
    """Common finishes to choose from."""
    return FINISHES


@router.get("/densities", response=dict[str, float])
def densities(request: HttpRequest) -> Any:
    """g/cm³ of common materials."""
    return DENSITIES


@router.get("/starting-points", response=list[StartingPointOut])
def list_starting_points(request: HttpRequest) -> Any:
    """Packs to start from, with everything that is needed to take one up."""
    return starting_points()


@router.get("/starting-points/{slug}.svg", openapi_extra=answers("image/svg+xml"))
def starting_picture(request: HttpRequest, slug: str) -> HttpResponse:
    """A drawing of a pack to start from."""
    point = _starting_point(slug)
    svg = silhouette_svg(point.pack)
    return HttpResponse(
        svg, content_type="image/svg+xml", headers={"Cache-Control": "private, max-age=86400"}
    )


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
    return _download(write_svg(data).encode(), "image/svg+xml", "half-profile.svg")


@router.post("/profile.dxf", openapi_extra=answers("image/vnd.dxf"))
def write_profile_dxf(request: HttpRequest, data: core.Body) -> HttpResponse:
    return _download(write_dxf(data).encode(), "image/vnd.dxf", "half-profile.dxf")


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


def _starting_point(slug: str) -> StartingPoint:
    for point in starting_points():
        if point.slug == slug:
            return point
    raise PackError(f"There is no pack to start from called “{slug}”.")


def _download(data: bytes, kind: str, name: str) -> HttpResponse:
    return HttpResponse(
        data, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


def _facts(facts: PackFacts) -> dict[str, Any]:
    return {**asdict(facts), "empty_g": facts.empty_g, "filled_g": facts.filled_g}


def _outline(points: Array) -> Outline:
    rounded: Outline = np.round(points, 3).tolist()
    return rounded


def _surfaces(shaped: Shape) -> list[dict[str, Any]]:
    return [
        {
            "name": piece.name,
            "part": piece.part,
            "group": piece.group,
            "panel": piece.panel,
            "material": piece.material,
            "wetted": piece.front is not None,
            "mesh": _mesh(piece.mesh, with_uvs=piece.panel is not None),
        }
        for piece in shaped.pieces
    ]


def _mesh(mesh: Mesh, *, with_uvs: bool) -> dict[str, Any]:
    wide = len(mesh.positions) > 65_535
    return {
        "positions": _text(mesh.positions.astype("<f4")),
        "normals": _text(np.round(mesh.normals * 127).astype(np.int8)),
        "uvs": _text(mesh.uvs.astype("<f4")) if with_uvs else None,
        "faces": _text(mesh.faces.astype("<u4" if wide else "<u2")),
        "wide": wide,
    }


def _text(values: Any) -> str:
    return base64.b64encode(np.ascontiguousarray(values).tobytes()).decode("ascii")
