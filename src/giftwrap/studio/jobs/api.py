"""Jobs and their documents."""

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
from giftwrap.core.model.document import MOST_ID, Document, Name
from giftwrap.studio.jobs import revisions, services
from giftwrap.studio.jobs.models import Colourway, Job, Pack, Palette, PhotoSet, Shot, VersionedDocument
from giftwrap.studio.jobs.shapes import shape_for_page
from giftwrap.studio.numbers import Id
from giftwrap.studio.pages import announce
from giftwrap.studio.room import room

router = Router()
D = TypeVar("D", bound=Document)


class ErrorOut(Schema):
    """What went wrong; on a stale save, the current revision and the one that was kept aside."""

    message: str
    place: str
    current: int | None = None
    kept: int | None = None


class SessionOut(Schema):
    """Who is signed in; `room` says when there is little on the disk."""

    user: str
    demo: bool
    room: str


class JobIn(Schema):
    name: Name
    client: str = Field("", max_length=120)


class JobOut(Schema):
    slug: str
    name: str
    client: str


class SavedOut(Schema, Generic[D]):
    """A document with where it stands in its history; others refer to it by its key."""

    id: int
    key: str
    name: str
    revision: int
    can_undo: bool
    can_redo: bool
    made: datetime
    next_made: datetime | None
    document: D


class RemovedOut(Schema):
    """Something that was taken out of the job and can be fetched back."""

    kind: str
    id: int
    name: str


class JobDetailOut(JobOut):
    packs: list[SavedOut[core.Pack]]
    sets: list[SavedOut[core.PhotoSet]]
    shots: list[SavedOut[core.Shot]]
    palette: SavedOut[core.Palette]
    colourways: list[SavedOut[core.Colourway]]
    removed: list[RemovedOut]


class SaveIn(Schema, Generic[D]):
    base_revision: int = Field(ge=1, le=MOST_ID)
    document: D


class RestoreIn(Schema):
    number: int = Field(ge=1, le=MOST_ID)


@router.get("/session", response=SessionOut)
def session(request: HttpRequest) -> dict[str, Any]:
    """Who is signed in; also hands out the token that changes need."""
    get_token(request)
    return {"user": request.user.get_username(), "demo": settings.DEMO, "room": room().words}


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
        "packs": [_saved(row) for row in job.packs.there()],
        "sets": [_saved(row) for row in job.sets.there()],
        "shots": [_saved(row) for row in job.shots.there()],
        "palette": _saved(services.palette_of(job)),
        "removed": services.removed_rows(job),
        "colourways": [_saved(row) for row in job.colourways.there()],
    }


def _saved(row: VersionedDocument) -> dict[str, Any]:
    return {
        "id": row.pk,
        "key": row.slug,
        "name": row.name,
        "revision": row.revision,
        **asdict(revisions.standing(row)),
        "document": row.read(),
    }


def _announced(row: VersionedDocument) -> dict[str, Any]:
    """The saved row, after telling every page that is open on its job."""
    event = {"type": "document", "kind": row.kind, "id": row.pk, "revision": row.revision}
    async_to_sync(announce)(row.job_id, event)
    return _saved(row)


def _check(row: VersionedDocument, document: Document) -> None:
    """Refuse what cannot be built. Raises GiftwrapError."""
    if isinstance(document, core.Pack):
        palette = services.palette_of(row.job).read()
        assert isinstance(palette, core.Palette)
        shape_for_page(core.dressed(row.slug, document, palette))


def _add_document_routes(kind: type[VersionedDocument], address: str, out: Any, save_in: Any) -> None:
    """Save, undo, redo and restore for one kind of document."""
    answers = {200: out, 409: ErrorOut, 422: ErrorOut}
    name = kind.__name__.lower()

    @router.put(f"/{address}/{{row_id}}", response=answers, operation_id=f"save_{name}")
    def save(request: HttpRequest, row_id: Id, data: save_in) -> dict[str, Any]:
        row = get_object_or_404(kind, pk=row_id)
        _check(row, data.document)
        author = request.user.get_username()
        return _announced(revisions.save(row, data.document, base=data.base_revision, author=author))

    @router.post(f"/{address}/{{row_id}}/undo", response=answers, operation_id=f"undo_{name}")
    def undo(request: HttpRequest, row_id: Id) -> dict[str, Any]:
        return _announced(revisions.undo(get_object_or_404(kind, pk=row_id)))

    @router.post(f"/{address}/{{row_id}}/redo", response=answers, operation_id=f"redo_{name}")
    def redo(request: HttpRequest, row_id: Id) -> dict[str, Any]:
        return _announced(revisions.redo(get_object_or_404(kind, pk=row_id)))

    @router.post(f"/{address}/{{row_id}}/restore", response=answers, operation_id=f"restore_{name}")
    def restore(request: HttpRequest, row_id: Id, data: RestoreIn) -> dict[str, Any]:
        row = get_object_or_404(kind, pk=row_id)
        return _announced(revisions.restore(row, data.number, author=request.user.get_username()))


_add_document_routes(Pack, "packs", SavedOut[core.Pack], SaveIn[core.Pack])
_add_document_routes(PhotoSet, "sets", SavedOut[core.PhotoSet], SaveIn[core.PhotoSet])
_add_document_routes(Shot, "shots", SavedOut[core.Shot], SaveIn[core.Shot])
_add_document_routes(Palette, "palettes", SavedOut[core.Palette], SaveIn[core.Palette])
_add_document_routes(Colourway, "colourways", SavedOut[core.Colourway], SaveIn[core.Colourway])
