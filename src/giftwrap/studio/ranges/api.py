"""The rows of a job: adding, naming, ordering, taking away and fetching back what it has several of."""

from pathlib import Path
from typing import Any, Literal

from asgiref.sync import async_to_sync
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from giftwrap.core import model as core
from giftwrap.core.carton.fitting import carton_for
from giftwrap.core.model.document import MOST_ID, Document, Key, Name
from giftwrap.core.stage.starting import starting_set, starting_shot
from giftwrap.core.things.silhouette import silhouette_svg
from giftwrap.core.things.starting import StartingPoint, starting_point
from giftwrap.studio.files import artwork_of
from giftwrap.studio.jobs import services
from giftwrap.studio.jobs.models import Job, Pack, VersionedDocument
from giftwrap.studio.jobs.shapes import shape_for_page
from giftwrap.studio.library.artwork import share_artwork
from giftwrap.studio.numbers import Id
from giftwrap.studio.pages import announce
from giftwrap.studio.schema import answers

router = Router()
NAME_LENGTH = 120
Rows = Literal["packs", "sets", "shots", "colourways"]


class RowIn(Schema):
    """What something new begins as: a pack as one to start from; a copy, of a pack of any job; a carton that
    a pack of this job goes into; or a model that was read."""

    start: str | None = Field(None, max_length=60)
    copy_of: int | None = Field(None, ge=1, le=MOST_ID)
    carton_for: int | None = Field(None, ge=1, le=MOST_ID)
    received: core.Received | None = None
    name: Name | None = None


class StartIn(Schema):
    start: str = Field(max_length=60)


class RowOut(Schema):
    id: int
    key: str
    name: str


class NameIn(Schema):
    name: Name


class OrderedIn(Schema):
    keys: list[Key] = Field(max_length=400)


@router.post("/jobs/{slug}/add/{rows}", response=RowOut)
def add_row(request: HttpRequest, slug: str, rows: Rows, data: RowIn) -> dict[str, Any]:
    """Add a pack, a set, a shot or a colourway, named after what it started from."""
    job = get_object_or_404(Job, slug=slug)
    name, document = _beginning(job, rows, data)
    return _told(services.add_row(services.ADDRESSES[rows], job, data.name or name, document))


@router.put("/packs/{row_id}/started-from", response=RowOut)
def started_from(request: HttpRequest, row_id: Id, data: StartIn) -> dict[str, Any]:
    """Say what a pack was started from anew: it is called after that until somebody names it."""
    row = get_object_or_404(Pack, pk=row_id)
    services.name_after(row, _starting_point(data.start).title)
    return _told(row)


@router.put("/{rows}/{row_id}/name", response=RowOut)
def rename(request: HttpRequest, rows: Rows, row_id: Id, data: NameIn) -> dict[str, Any]:
    row = _row(rows, row_id)
    services.rename(row, data.name)
    return _told(row)


@router.post("/{rows}/{row_id}/remove", response=RowOut)
def remove(request: HttpRequest, rows: Rows, row_id: Id) -> dict[str, Any]:
    """Take it out of the job. It can be fetched back."""
    row = _row(rows, row_id)
    services.remove(row)
    return _told(row)


@router.post("/{rows}/{row_id}/fetch-back", response=RowOut)
def fetch_back(request: HttpRequest, rows: Rows, row_id: Id) -> dict[str, Any]:
    row = _row(rows, row_id)
    services.fetch_back(row)
    return _told(row)


@router.put("/jobs/{slug}/{rows}/order", response=list[RowOut])
def put_in_order(request: HttpRequest, slug: str, rows: Rows, data: OrderedIn) -> list[dict[str, Any]]:
    """Put them in an order, by their keys."""
    job = get_object_or_404(Job, slug=slug)
    kind = services.ADDRESSES[rows]
    services.put_in_order(kind, job, data.keys)
    _tell(job.pk, kind)
    return [_out(row) for row in kind.objects.filter(job=job).there()]


@router.get("/packs/{row_id}/picture.svg", openapi_extra=answers("image/svg+xml"))
def pack_picture(request: HttpRequest, row_id: Id) -> HttpResponse:
    """A small drawing of a pack as it was saved last."""
    row = get_object_or_404(Pack, pk=row_id)
    palette = services.palette_of(row.job).read()
    pack = row.read()
    if not isinstance(pack, core.Pack) or not isinstance(palette, core.Palette):
        raise Http404
    svg = silhouette_svg(core.dressed(row.slug, pack, palette), artwork_of(pack.artwork_uses()))
    return HttpResponse(svg, content_type="image/svg+xml", headers={"Cache-Control": "no-cache"})


def _beginning(job: Job, rows: Rows, data: RowIn) -> tuple[str, Document]:
    """Name and document of something new."""
    if rows == "packs":
        return _new_pack(job, data)
    kind = services.ADDRESSES[rows]
    if data.copy_of is not None:
        row = get_object_or_404(kind, pk=data.copy_of, job=job)
        return row.name, row.read()
    fresh: dict[Rows, tuple[str, Document]] = {
        "sets": ("Set", starting_set()),
        "shots": ("Shot", starting_shot()),
        "colourways": ("Colourway", core.Colourway()),
    }
    return fresh[rows]


def _new_pack(job: Job, data: RowIn) -> tuple[str, core.Pack]:
    """Name and document of a new pack; artwork of another job comes along."""
    if data.copy_of is not None:
        row = get_object_or_404(Pack, pk=data.copy_of)
        document = row.read()
        assert isinstance(document, core.Pack)
        if row.job_id != job.pk:
            palette = services.palette_of(row.job).read()
            assert isinstance(palette, core.Palette)
            document = core.dressed(row.slug, document, palette)  # its palette stays where it is
            share_artwork(row.job, job, {use.sha256 for use in document.artwork_uses()})
        return row.name, document
    if data.carton_for is not None:
        row = get_object_or_404(Pack, pk=data.carton_for, job=job)
        return f"Carton of {row.name}"[:NAME_LENGTH], core.Pack(form=_carton_for(row))
    if data.received is not None:
        pack = core.Pack(form=data.received)
        palette = services.palette_of(job).read()
        assert isinstance(palette, core.Palette)
        shape_for_page(core.dressed("", pack, palette))
        return Path(data.received.file).stem or "Model", pack
    point = _starting_point(data.start or "")
    return point.title, point.pack


def _carton_for(row: Pack) -> core.Carton:
    """A carton that a pack goes into as it was saved last. Raises GiftwrapError when it cannot be built."""
    pack, palette = row.read(), services.palette_of(row.job).read()
    assert isinstance(pack, core.Pack) and isinstance(palette, core.Palette)
    extent = shape_for_page(core.dressed(row.slug, pack, palette)).thing.extent
    across, deep, high = (top - low for low, top in zip(extent.low, extent.high, strict=True))
    return carton_for((across, deep, high))


def _starting_point(slug: str) -> StartingPoint:
    try:
        return starting_point(slug)
    except KeyError:
        raise Http404 from None


def _row(rows: str, row_id: int) -> VersionedDocument:
    return get_object_or_404(services.ADDRESSES[rows], pk=row_id)


def _out(row: VersionedDocument) -> dict[str, Any]:
    return {"id": row.pk, "key": row.slug, "name": row.name}


def _told(row: VersionedDocument) -> dict[str, Any]:
    """The row, after telling every page that is open on its job."""
    _tell(row.job_id, type(row))
    return _out(row)


def _tell(job_id: int, kind: type[VersionedDocument]) -> None:
    async_to_sync(announce)(job_id, {"type": "rows", "kind": kind.kind})
