"""Client links: making one, what it opens, and what clients answer there."""

from typing import Annotated, Any, Literal

from asgiref.sync import async_to_sync
from django.http import FileResponse, HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field, StringConstraints, model_validator

from giftwrap.core.errors import GiftwrapError, PackError
from giftwrap.core.model.document import MOST_ID
from giftwrap.studio.jobs.api import ErrorOut
from giftwrap.studio.jobs.models import Job
from giftwrap.studio.numbers import Id
from giftwrap.studio.pages import announce
from giftwrap.studio.rendering import storage
from giftwrap.studio.rendering.api import AnswerOut, PictureOut, pictures_of, serve_file, serve_png
from giftwrap.studio.rendering.models import Picture
from giftwrap.studio.review.models import Answer, ClientLink, Replaced
from giftwrap.studio.schema import answers

MOST_ANSWERS = 200
"""Of one picture."""

router = Router()
client_router = Router()


class ClientLinkOut(Schema):
    token: str


class AnswerIn(Schema):
    """What a client says of a picture.

    x, y : the place meant, 0..1 from its left and top
    newest : the newest picture of the page when it was loaded
    """

    verdict: Literal["approved", "changes"]
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
    remark: Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000)] = ""
    x: float | None = Field(None, ge=0, le=1)
    y: float | None = Field(None, ge=0, le=1)
    newest: int = Field(0, ge=0, le=MOST_ID)

    @model_validator(mode="after")
    def _says_what_to_change(self) -> "AnswerIn":
        if self.verdict == "changes" and not self.remark:
            raise PackError("Say what should change: a few words are enough.", "remark")
        if (self.x is None) != (self.y is None):
            raise PackError("A place in the picture has two numbers.", "x")
        return self


class ClientPageOut(Schema):
    """Everything a client sees."""

    job: str
    client: str
    pictures: list[PictureOut]


@router.post("/jobs/{slug}/client-link", response=ClientLinkOut)
def make_link(request: HttpRequest, slug: str) -> ClientLink:
    """The job's client link, made if there is none."""
    link, _ = ClientLink.objects.get_or_create(job=get_object_or_404(Job, slug=slug))
    return link


@router.post("/jobs/{slug}/client-link/renew", response=ClientLinkOut)
def renew_link(request: HttpRequest, slug: str) -> ClientLink:
    """Replace the client link; the old address stops working."""
    job = get_object_or_404(Job, slug=slug)
    ClientLink.objects.filter(job=job).delete()
    return ClientLink.objects.create(job=job)


@client_router.get("/{token}", response=ClientPageOut)
def client_page(request: HttpRequest, token: str) -> dict[str, Any]:
    job = get_object_or_404(ClientLink, token=token).job
    return {"job": job.name, "client": job.client, "pictures": pictures_of(job)}


@client_router.get("/{token}/pictures/{picture_id}.png", openapi_extra=answers("image/png"))
def client_png(request: HttpRequest, token: str, picture_id: Id) -> FileResponse:
    return serve_png(_picture(token, picture_id))


@client_router.get("/{token}/pictures/{picture_id}.jpg", openapi_extra=answers("image/jpeg"))
def client_jpeg(request: HttpRequest, token: str, picture_id: Id) -> FileResponse:
    return serve_file(storage.page_file(_picture(token, picture_id).order_id), "image/jpeg")


@client_router.post("/{token}/pictures/{picture_id}/answers", response={200: AnswerOut, 409: ErrorOut})
def answer_picture(request: HttpRequest, token: str, picture_id: Id, data: AnswerIn) -> Answer:
    """Approve a picture, or say what to change. The studio hears of it at once.

    A picture that has been replaced since the client looked is not answered for: 409, in words.
    """
    picture = _picture(token, picture_id)
    if _has_newer(picture, data.newest):
        raise Replaced(
            "A newer version of this picture has come while you looked. Your words are still here: look at "
            "the new one, then send them."
        )
    if picture.answers.count() >= MOST_ANSWERS:
        raise GiftwrapError(f"This picture has {MOST_ANSWERS} answers already: write to the studio instead.")
    pin = data.model_dump(include={"verdict", "name", "remark", "x", "y"})
    answer = Answer.objects.create(picture=picture, **pin)
    event = {"type": "answer", "picture": picture.pk}
    async_to_sync(announce)(picture.order.shot.job_id, event)
    return answer


def _has_newer(picture: Picture, newest_seen: int) -> bool:
    """Whether there is a picture of the same shot and colourway that the client has not seen."""
    order = picture.order
    same = Picture.objects.filter(order__shot=order.shot, order__colourway=order.colourway)
    return same.filter(pk__gt=max(newest_seen, picture.pk)).exists()


def _picture(token: str, picture_id: int) -> Picture:
    link = get_object_or_404(ClientLink, token=token)
    return get_object_or_404(pictures_of(link.job), pk=picture_id)
