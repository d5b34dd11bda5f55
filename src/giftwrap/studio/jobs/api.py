"""Jobs and their documents; shaping a pack and standing a camera without saving."""

from dataclasses import asdict
from datetime import datetime
from typing import Any, Generic, TypeVar

from asgiref.sync import async_to_sync
from django.conf import settings
from django.http import HttpRequest
from django.middleware.csrf import get_token
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from giftwrap.core import model as core
from giftwrap.core.form.facts import pack_facts
from giftwrap.core.form.path import Path
from giftwrap.core.form.shape import Shape, shape_pack
from giftwrap.core.model.document import Document, Name
from giftwrap.core.stage.camera import view_of
from giftwrap.studio.jobs import revisions, services
from giftwrap.studio.jobs.models import Job, Pack, PhotoSet, Shot, VersionedDocument
from giftwrap.studio.library.files import artwork_of
from giftwrap.studio.rendering.bus import announce

router = Router()
D = TypeVar("D", bound=Document)


class ErrorOut(Schema):
    """What went wrong; on a stale save, the current revision and the one that was kept aside."""

    message: str
    place: str
    current: int | None = None
    kept: int | None = None


class SessionOut(Schema):
    user: str
    demo: bool


class JobIn(Schema):
    name: Name
    client: str = Field("", max_length=120)


class JobOut(Schema):
    slug: str
    name: str
    client: str


class SavedOut(Schema, Generic[D]):
    """A document with where it stands in its history."""

    id: int
    name: str
    revision: int
    can_undo: bool
    can_redo: bool
    made: datetime
    next_made: datetime | None
    document: D


class ShotOut(SavedOut[core.Shot]):
    pack_id: int
    set_id: int


class JobDetailOut(JobOut):
    packs: list[SavedOut[core.Pack]]
    sets: list[SavedOut[core.PhotoSet]]
    shots: list[ShotOut]


class SaveIn(Schema, Generic[D]):
    base_revision: int
    document: D


class RestoreIn(Schema):
    number: int


Outline = list[tuple[float, float]]


class SheetOut(Schema):
    """A label as laid: its path in mm; where it starts and how far it turns, in radians from the front."""

    name: str
    face: Outline
    radius: float
    start: float
    turn: float
    around: float


class FactsOut(Schema):
    height: float
    diameter: float
    rim_height: float
    floor_height: float
    brimful_ml: float
    contents_ml: float | None
    headspace_ml: float | None
    nominal_fill_height: float | None
    cautions: list[str]


class ShapeOut(Schema):
    """Everything a drawing of a pack needs. Outlines are (radius, height) in mm."""

    facts: FactsOut
    outer: Outline
    glass: Outline
    liquid_wall: Outline | None
    liquid_top: Outline | None
    cap: Outline | None
    sheets: list[SheetOut]


class FillIn(Schema):
    body: core.Body
    volume_ml: float = Field(gt=0, le=100_000)


class FillOut(Schema):
    fill_height: float


class ViewIn(Schema):
    camera: core.Camera
    aspect: float = Field(gt=0.05, lt=20)


class ViewOut(Schema):
    """Where the camera stands (mm) and what it takes in (degrees; mm when orthographic)."""

    position: tuple[float, float, float]
    target: tuple[float, float, float]
    vertical_angle: float
    width: float | None
    height: float | None


@router.get("/session", response=SessionOut)
def session(request: HttpRequest) -> dict[str, Any]:
    """Who is signed in; also hands out the token that changes need."""
    get_token(request)
    return {"user": request.user.get_username(), "demo": settings.DEMO}


@router.get("/jobs", response=list[JobOut])
def list_jobs(request: HttpRequest) -> Any:
    return Job.objects.all()


@router.post("/jobs", response=JobOut)
def create_job(request: HttpRequest, data: JobIn) -> Job:
    """Start a job with a bottle, a lit set and a shot, so that no station is empty."""
    return services.start_job(data.name, data.client)


@router.get("/jobs/{slug}", response=JobDetailOut)
def read_job(request: HttpRequest, slug: str) -> dict[str, Any]:
    job = get_object_or_404(Job, slug=slug)
    return {
        "slug": job.slug,
        "name": job.name,
        "client": job.client,
        "packs": [_saved(row) for row in job.packs.all()],
        "sets": [_saved(row) for row in job.sets.all()],
        "shots": [_saved(row) for row in job.shots.all()],
    }


@router.post("/shape", response=ShapeOut)
def shape(request: HttpRequest, data: core.Pack) -> dict[str, Any]:
    """Shape a pack without saving it."""
    shaped = shape_pack(data)
    return {
        "facts": asdict(pack_facts(shaped)),
        "outer": _outline(shaped.vessel.outer),
        "glass": _outline(shaped.vessel.glass),
        "liquid_wall": _outline(shaped.liquid.wall) if shaped.liquid else None,
        "liquid_top": _outline(shaped.liquid.top) if shaped.liquid else None,
        "cap": _outline(shaped.cap.surface) if shaped.cap else None,
        "sheets": _sheets(shaped),
    }


@router.post("/fill-height", response=FillOut)
def fill_height(request: HttpRequest, data: FillIn) -> dict[str, float]:
    """The level at which a body holds a volume."""
    probe = core.Pack(body=data.body)
    return {"fill_height": shape_pack(probe).vessel.height_for(data.volume_ml)}


@router.post("/view", response=ViewOut)
def view(request: HttpRequest, data: ViewIn) -> dict[str, Any]:
    """Stand a camera without saving it."""
    return asdict(view_of(data.camera, data.aspect))


def _outline(path: Path) -> list[tuple[float, float]]:
    return [(round(float(x), 4), round(float(y), 4)) for x, y in path.points]


def _sheets(shaped: Shape) -> list[dict[str, Any]]:
    return [
        {
            "name": sheet.panel.name,
            "face": _outline(sheet.face),
            "radius": sheet.radius,
            "start": sheet.start,
            "turn": sheet.turn,
            "around": sheet.around,
        }
        for sheet in shaped.sheets
    ]


def _saved(row: VersionedDocument) -> dict[str, Any]:
    saved = {
        "id": row.pk,
        "name": row.name,
        "revision": row.revision,
        **asdict(revisions.standing(row)),
        "document": row.read(),
    }
    if isinstance(row, Shot):
        saved |= {"pack_id": row.pack_id, "set_id": row.photo_set_id}
    return saved


def _announced(row: VersionedDocument) -> dict[str, Any]:
    """The saved row, after telling every page that is open on its job."""
    event = {"type": "document", "kind": row.kind, "id": row.pk, "revision": row.revision}
    async_to_sync(announce)(row.job_id, event)
    return _saved(row)


def _check_pack(pack: core.Pack) -> None:
    shape_pack(pack)
    artwork_of(pack.panels)


def _add_document_routes(kind: type[VersionedDocument], address: str, out: Any, save_in: Any) -> None:
    """Save, undo, redo and restore for one kind of document."""
    answers = {200: out, 409: ErrorOut, 422: ErrorOut}
    name = kind.__name__.lower()

    @router.put(f"/{address}/{{row_id}}", response=answers, operation_id=f"save_{name}")
    def save(request: HttpRequest, row_id: int, data: save_in) -> dict[str, Any]:
        row = get_object_or_404(kind, pk=row_id)
        if isinstance(data.document, core.Pack):
            _check_pack(data.document)
        author = request.user.get_username()
        return _announced(revisions.save(row, data.document, base=data.base_revision, author=author))

    @router.post(f"/{address}/{{row_id}}/undo", response=answers, operation_id=f"undo_{name}")
    def undo(request: HttpRequest, row_id: int) -> dict[str, Any]:
        return _announced(revisions.undo(get_object_or_404(kind, pk=row_id)))

    @router.post(f"/{address}/{{row_id}}/redo", response=answers, operation_id=f"redo_{name}")
    def redo(request: HttpRequest, row_id: int) -> dict[str, Any]:
        return _announced(revisions.redo(get_object_or_404(kind, pk=row_id)))

    @router.post(f"/{address}/{{row_id}}/restore", response=answers, operation_id=f"restore_{name}")
    def restore(request: HttpRequest, row_id: int, data: RestoreIn) -> dict[str, Any]:
        row = get_object_or_404(kind, pk=row_id)
        return _announced(revisions.restore(row, data.number, author=request.user.get_username()))


_add_document_routes(Pack, "packs", SavedOut[core.Pack], SaveIn[core.Pack])
_add_document_routes(PhotoSet, "sets", SavedOut[core.PhotoSet], SaveIn[core.PhotoSet])
_add_document_routes(Shot, "shots", ShotOut, SaveIn[core.Shot])
