"""Client links: making one, and what it opens."""

from typing import Any

from django.http import FileResponse, HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from giftwrap.studio.jobs.models import Job
from giftwrap.studio.numbers import Id
from giftwrap.studio.rendering import storage
from giftwrap.studio.rendering.api import PictureOut, pictures_of, serve_file, serve_png
from giftwrap.studio.rendering.models import Picture
from giftwrap.studio.review.models import ClientLink
from giftwrap.studio.schema import answers

router = Router()
client_router = Router()


class ClientLinkOut(Schema):
    token: str


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


def _picture(token: str, picture_id: int) -> Picture:
    link = get_object_or_404(ClientLink, token=token)
    return get_object_or_404(pictures_of(link.job), pk=picture_id)
