"""Orders: what a final would take, ordering it, stopping it; and the pictures that came of it."""

from datetime import datetime
from pathlib import Path
from typing import Any, Literal

from django.db.models import OuterRef, Subquery, Value
from django.db.models.fields.json import KeyTextTransform, KeyTransform
from django.http import FileResponse, Http404, HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Schema
from pydantic import Field

from giftwrap.core.model.document import Key
from giftwrap.core.render.job import MAX_SIDE
from giftwrap.core.render.planning import MAX_SAMPLES, Limits
from giftwrap.studio.jobs.frames import frame_of, rows_of
from giftwrap.studio.jobs.models import Job, Pack, Shot
from giftwrap.studio.numbers import Id
from giftwrap.studio.rendering import storage
from giftwrap.studio.rendering.estimate import estimate_seconds
from giftwrap.studio.rendering.models import Order, Picture, Thumbnail
from giftwrap.studio.rendering.thumbnails import cells_of, kept_of, thumbnail_file
from giftwrap.studio.rendering.work import picture_job
from giftwrap.studio.schema import answers

router = Router()


class OrderIn(Schema):
    width: int = Field(ge=8, le=MAX_SIDE)
    height: int = Field(ge=8, le=MAX_SIDE)
    samples: int = Field(ge=2, le=MAX_SAMPLES)
    noise: float | None = Field(None, ge=0.01, le=100)
    seconds: float | None = Field(None, gt=0, le=1e6)
    colourway: Key | None = None

    def limits(self) -> Limits:
        return Limits(samples=self.samples, noise=self.noise, seconds=self.seconds)


class EstimateOut(Schema):
    """`seconds` is null until this shot's speed has been measured here by a proof or a final."""

    seconds: float | None


class OrderOut(Schema):
    id: int
    shot_id: int
    width: int
    height: int
    colourway: str
    state: str
    wish: str
    samples: int
    samples_done: float
    noise: float | None
    noise_limit: float | None
    seconds_limit: float | None
    seconds: float
    progress: float
    remaining_seconds: float | None
    message: str
    waiting: str


class ThumbnailOut(Schema):
    """A shot in a colourway, by their keys ("" for as it is).

    at : names the state that the thumbnail shows, "" when there is none; fresh : whether that is the
    present one; problem : why there is no picture of the present state
    """

    shot: str
    colourway: str
    at: str
    fresh: bool
    problem: str


class AnswerOut(Schema):
    """What a client said of a picture; x and y are the place meant, 0..1 from its left and top."""

    verdict: Literal["approved", "changes"]
    name: str
    remark: str
    x: float | None
    y: float | None
    created: datetime


class PictureOut(Schema):
    """A finished picture; `colourway` is its name, "" for as it is; answers in the order they came."""

    id: int
    shot: str
    shot_key: str
    colourway: str
    colourway_key: str
    pack: str
    width: int
    height: int
    samples: float
    noise: float | None
    seconds: float
    created: datetime
    has_passes: bool
    answers: list[AnswerOut]

    @staticmethod
    def resolve_has_passes(picture: Picture) -> bool:
        return storage.passes_file(picture.order_id).exists()

    @staticmethod
    def resolve_shot(picture: Picture) -> str:
        return picture.order.shot.name

    @staticmethod
    def resolve_shot_key(picture: Picture) -> str:
        return picture.order.shot.slug

    @staticmethod
    def resolve_colourway(picture: Any) -> str:
        return picture.colourway_name or picture.order.colourway

    @staticmethod
    def resolve_colourway_key(picture: Picture) -> str:
        return picture.order.colourway

    @staticmethod
    def resolve_answers(picture: Picture) -> Any:
        return picture.answers.all()

    @staticmethod
    def resolve_pack(picture: Any) -> str:
        its = picture.first_pack if picture.hero is None else picture.hero_name
        return its or picture.order.shot.job.name


@router.post("/shots/{shot_id}/estimate", response=EstimateOut)
def estimate(request: HttpRequest, shot_id: Id, data: OrderIn) -> dict[str, float | None]:
    shot = get_object_or_404(Shot, pk=shot_id)
    return {"seconds": estimate_seconds(shot, data.width, data.height, data.limits())}


@router.post("/shots/{shot_id}/orders", response=OrderOut)
def order(request: HttpRequest, shot_id: Id, data: OrderIn) -> Order:
    """Order a final. The documents are checked and copied now."""
    shot = get_object_or_404(Shot, pk=shot_id)
    frame = frame_of(shot, data.colourway)
    picture_job(frame, (data.width, data.height))
    made_of: dict[str, list[tuple[int, int]]] = {}
    for row in rows_of(shot, frame.shot, data.colourway).all():
        if not isinstance(row, Pack) or row.slug in frame.packs:
            made_of.setdefault(row.kind, []).append((row.pk, row.revision))
    return Order.objects.create(
        shot=shot,
        colourway=data.colourway or "",
        documents=frame.model_dump(mode="json"),
        made_of=made_of,
        width=data.width,
        height=data.height,
        samples=data.samples,
        noise_limit=data.noise,
        seconds_limit=data.seconds,
    )


@router.get("/jobs/{slug}/orders", response=list[OrderOut])
def open_orders(request: HttpRequest, slug: str) -> Any:
    """The orders of a job that are queued or on their way, oldest first."""
    job = get_object_or_404(Job, slug=slug)
    return Order.objects.filter(shot__job=job, state__in=Order.OPEN)


@router.get("/orders/{order_id}", response=OrderOut)
def read_order(request: HttpRequest, order_id: Id) -> Order:
    return get_object_or_404(Order, pk=order_id)


@router.post("/orders/{order_id}/stop", response=OrderOut)
def stop_order(request: HttpRequest, order_id: Id) -> Order:
    """Stop early and keep the picture as it is by then."""
    return _wish(order_id, Order.Wish.FINISH)


@router.post("/orders/{order_id}/cancel", response=OrderOut)
def cancel_order(request: HttpRequest, order_id: Id) -> Order:
    """Drop the order and what it has so far."""
    return _wish(order_id, Order.Wish.CANCEL)


@router.get("/orders/{order_id}/preview.jpg", openapi_extra=answers("image/jpeg"))
def order_preview(request: HttpRequest, order_id: Id) -> FileResponse:
    return serve_file(storage.preview_file(get_object_or_404(Order, pk=order_id).pk), "image/jpeg")


@router.get("/jobs/{slug}/thumbnails", response=list[ThumbnailOut])
def list_thumbnails(request: HttpRequest, slug: str) -> list[dict[str, Any]]:
    """What there is to see of every shot in every colourway; what is stale is made anew by itself."""
    job = get_object_or_404(Job, slug=slug)
    kept = kept_of(job)
    found = []
    for cell in cells_of(job):
        one = kept.get((cell.shot.pk, cell.colourway))
        there = one is not None and thumbnail_file(cell.shot.pk, cell.colourway).exists()
        found.append(
            {
                "shot": cell.shot.slug,
                "colourway": cell.colourway,
                "at": one.made_of if one and there else "",
                "fresh": one is not None and one.made_of == cell.made_of,
                "problem": one.problem if one else "",
            }
        )
    return found


@router.get("/shots/{shot_id}/thumbnail.jpg", openapi_extra=answers("image/jpeg"))
def shot_thumbnail(
    request: HttpRequest, shot_id: Id, colourway: str = Query("", max_length=60)
) -> FileResponse:
    """The newest thumbnail of a shot."""
    one = get_object_or_404(Thumbnail, shot_id=shot_id, colourway=colourway)
    return serve_file(thumbnail_file(shot_id, one.colourway), "image/jpeg")


@router.get("/jobs/{slug}/pictures", response=list[PictureOut])
def list_pictures(request: HttpRequest, slug: str) -> Any:
    return pictures_of(get_object_or_404(Job, slug=slug))


@router.get("/pictures/{picture_id}.png", openapi_extra=answers("image/png"))
def picture_png(request: HttpRequest, picture_id: Id) -> FileResponse:
    return serve_png(get_object_or_404(Picture, pk=picture_id))


@router.get("/pictures/{picture_id}.jpg", openapi_extra=answers("image/jpeg"))
def picture_page(request: HttpRequest, picture_id: Id) -> FileResponse:
    picture = get_object_or_404(Picture, pk=picture_id)
    return serve_file(storage.page_file(picture.order_id), "image/jpeg")


@router.get("/pictures/{picture_id}.exr", openapi_extra=answers("image/x-exr"))
def picture_passes(request: HttpRequest, picture_id: Id) -> FileResponse:
    """The picture's passes; demo pictures that were not taken here have none."""
    picture = get_object_or_404(Picture, pk=picture_id)
    return serve_file(
        storage.passes_file(picture.order_id), "image/x-exr", _file_name(picture, "-passes.exr")
    )


def pictures_of(job: Job) -> Any:
    """A job's pictures, newest first."""
    packs = job.packs.there()
    heroes = packs.filter(slug=OuterRef("hero_key")).values("name")
    ways = job.colourways.filter(slug=OuterRef("order__colourway")).values("name")
    shot = "order__shot__document"
    return (
        Picture.objects.filter(order__shot__job=job)
        .annotate(hero=KeyTransform("hero", shot), hero_key=KeyTextTransform("hero", shot))
        .annotate(hero_name=Subquery(heroes[:1]), colourway_name=Subquery(ways[:1]))
        .annotate(first_pack=Value(packs.values_list("name", flat=True).first() or ""))
        .select_related("order__shot__job")
        .prefetch_related("answers")
    )


def serve_png(picture: Picture) -> FileResponse:
    """A picture's PNG, named for the client's desk."""
    return serve_file(storage.png_file(picture.order_id), "image/png", _file_name(picture, ".png"))


def _file_name(picture: Picture, ending: str) -> str:
    shot = picture.order.shot
    return f"{shot.job.slug}-{shot.slug}-{picture.pk}{ending}"


def serve_file(path: Path, kind: str, download_as: str | None = None) -> FileResponse:
    """A file of the renders folder. Raises Http404 when it is not there."""
    if not path.exists():
        raise Http404
    response = FileResponse(path.open("rb"), content_type=kind, filename=download_as or path.name)
    response["Cache-Control"] = "private, max-age=0, must-revalidate"
    return response


def _wish(order_id: int, wish: str) -> Order:
    order = get_object_or_404(Order, pk=order_id)
    if order.is_open:
        order.wish = wish
        order.save(update_fields=["wish"])
    return order
