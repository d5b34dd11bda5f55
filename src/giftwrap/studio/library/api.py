"""Artwork: dropping files in, looking at them, and the print they make on a panel."""

import io
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Query, Router, Schema
from ninja.files import UploadedFile
from PIL import Image

from giftwrap.core.errors import ArtworkError
from giftwrap.core.model import Panel
from giftwrap.core.wrap.artwork import MAX_BYTES, rasterise
from giftwrap.core.wrap.printing import print_panel
from giftwrap.studio.jobs.models import Job
from giftwrap.studio.library.files import add_artwork, artwork_of, file_path
from giftwrap.studio.library.models import Artwork

router = Router()
FOR_A_YEAR = "private, max-age=31536000, immutable"


class ArtworkOut(Schema):
    id: int
    sha256: str
    filename: str
    kind: str
    aspect: float
    width_px: int | None
    height_px: int | None
    width: float | None
    height: float | None
    notes: list[str]


@router.get("/jobs/{slug}/artwork", response=list[ArtworkOut])
def list_artwork(request: HttpRequest, slug: str) -> Any:
    return get_object_or_404(Job, slug=slug).artwork.all()


@router.post("/jobs/{slug}/artwork", response=ArtworkOut)
def upload_artwork(request: HttpRequest, slug: str, file: UploadedFile = File(...)) -> Artwork:
    job = get_object_or_404(Job, slug=slug)
    name = file.name or "artwork"
    if (file.size or 0) > MAX_BYTES:
        raise ArtworkError(
            f"{name} is {(file.size or 0) / 1e6:.0f} MB: artwork may be at most {MAX_BYTES / 1e6:.0f} MB."
        )
    return add_artwork(job, file.read(), name)


@router.get("/artwork/{artwork_id}/preview.png", include_in_schema=False)
def preview(request: HttpRequest, artwork_id: int, width: int = Query(600, ge=16, le=2400)) -> HttpResponse:
    artwork = get_object_or_404(Artwork, pk=artwork_id)
    height = max(round(width / artwork.aspect), 1)
    data = file_path(artwork.sha256).read_bytes()
    return _png(rasterise(data, artwork.kind, width, min(height, 6000)), FOR_A_YEAR)


@router.post("/panel-picture", include_in_schema=False)
def panel_picture(request: HttpRequest, panel: Panel, ppi: float = Query(200, ge=20, le=400)) -> HttpResponse:
    """What would be printed on a panel, as a PNG."""
    return _png(Image.fromarray(print_panel(panel, artwork_of(panel.artwork_uses()), ppi=ppi)), "no-store")


def _png(image: Image.Image, keep: str) -> HttpResponse:
    stream = io.BytesIO()
    image.save(stream, "PNG", compress_level=1)
    return HttpResponse(stream.getvalue(), content_type="image/png", headers={"Cache-Control": keep})
