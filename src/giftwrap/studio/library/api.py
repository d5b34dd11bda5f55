"""Artwork: dropping files in, looking at them, and the print they make on a panel."""

import io
from typing import Annotated, Any, Literal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Query, Router, Schema
from ninja.files import UploadedFile
from PIL import Image
from pydantic import Field

from giftwrap.core.formats.blank_out import MEDIA_TYPES, write_drawing
from giftwrap.core.model import Colourway, Palette, Panel, Printed, said_in_full
from giftwrap.core.model.panel import Ring
from giftwrap.core.model.run import Run, Stock, Tooth
from giftwrap.core.reading.artwork import MAX_BYTES, rasterise
from giftwrap.core.reading.facts import MM_PER_INCH
from giftwrap.core.wrap.barcodes import BarcodeKind, make_barcode
from giftwrap.core.wrap.printing import print_panel
from giftwrap.core.wrap.stocks import STARTING_RUNS
from giftwrap.core.wrap.templates import template_of
from giftwrap.studio.files import artwork_of, attachment, contents_of, name_of
from giftwrap.studio.jobs.models import Job
from giftwrap.studio.library.artwork import add_artwork, path_of
from giftwrap.studio.library.models import Artwork
from giftwrap.studio.numbers import Id
from giftwrap.studio.schema import answers

router = Router()
PREVIEW_HEIGHT = 3000
"""px that a preview is high at the most."""
WAIT_S = 10.0
"""The artwork of a panel may take this long to draw while somebody waits."""
TEMPLATE_PPI = 300.0
Mm = Annotated[float, Query(ge=0, le=100, allow_inf_nan=False)]
FOR_A_YEAR = "private, max-age=31536000, immutable"


class PanelIn(Schema):
    """A panel as it is on the page, the palette its stock may be linked to, and a colourway."""

    panel: Panel | Printed
    palette: Palette = Palette()
    colourway: Colourway = Colourway()


class TemplateIn(PanelIn):
    """A panel, and what it is cut to where it is developed, mm from its lower left corner."""

    outline: Ring | None = None


class StartingRunOut(Schema):
    """A way of printing by name, and what it is good for; its thickness is mm of its stock."""

    name: str
    says: str
    stock: Stock
    thickness: float
    tooth: Tooth
    run: Run


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
    pages: list[list[float]]
    inks: list[str]
    layers: list[str]
    fields: dict[str, str]


@router.post(
    "/template.{form}",
    openapi_extra=answers("image/svg+xml", "image/vnd.dxf", "application/pdf", "image/png"),
)
def write_template(
    request: HttpRequest,
    form: Literal["svg", "dxf", "pdf", "png"],
    data: TemplateIn,
    bleed: Mm = 3.0,
    safe: Mm = 3.0,
) -> HttpResponse:
    """A panel's template at 1:1 mm, as PNG at 300 ppi."""
    drawing = template_of(data.panel, bleed=bleed, safe=safe, outline=data.outline)
    if form != "png":
        return attachment(write_drawing(drawing, form), MEDIA_TYPES[form], f"template.{form}")
    size = (round(side / MM_PER_INCH * TEMPLATE_PPI) for side in drawing.size)
    stream = io.BytesIO()
    image = rasterise(write_drawing(drawing, "svg"), "svg", *size)
    image.save(stream, "PNG", dpi=(TEMPLATE_PPI, TEMPLATE_PPI))
    return attachment(stream.getvalue(), "image/png", "template.png")


@router.get("/starting-runs", response=list[StartingRunOut])
def list_starting_runs(request: HttpRequest) -> Any:
    """Runs to begin with."""
    return [{"name": name, **vars(start)} for name, start in STARTING_RUNS.items()]


@router.get("/jobs/{slug}/artwork", response=list[ArtworkOut])
def list_artwork(request: HttpRequest, slug: str) -> Any:
    return get_object_or_404(Job, slug=slug).artwork.all()


@router.post("/jobs/{slug}/artwork", response=ArtworkOut)
def upload_artwork(request: HttpRequest, slug: str, file: UploadedFile = File(...)) -> Artwork:
    job = get_object_or_404(Job, slug=slug)
    source = contents_of(file, MAX_BYTES, "artwork", "Export it smaller, or as SVG.")
    return add_artwork(job, source, name_of(file))


class BarcodeIn(Schema):
    """What a barcode is to say, and its size over the nominal one."""

    kind: BarcodeKind
    text: str = Field(max_length=5000)
    magnification: float = Field(1.0, gt=0, le=100, allow_inf_nan=False)


@router.post("/jobs/{slug}/barcodes", response=ArtworkOut)
def add_barcode(request: HttpRequest, slug: str, data: BarcodeIn) -> Artwork:
    """Draw a barcode and list it with the job's artwork."""
    job = get_object_or_404(Job, slug=slug)
    made = make_barcode(data.kind, data.text, data.magnification)
    return add_artwork(job, made.svg, made.filename)


@router.get("/artwork/{artwork_id}/preview.png", openapi_extra=answers("image/png"))
def preview(request: HttpRequest, artwork_id: Id, width: int = Query(600, ge=16, le=2400)) -> HttpResponse:
    artwork = get_object_or_404(Artwork, pk=artwork_id)
    scale = min(width, PREVIEW_HEIGHT * artwork.aspect)
    size = max(round(scale), 1), max(round(scale / artwork.aspect), 1)
    return _png(rasterise(path_of(artwork), artwork.kind, *size), FOR_A_YEAR)


@router.post("/panel-picture", openapi_extra=answers("image/png"))
def panel_picture(
    request: HttpRequest, data: PanelIn, ppi: float = Query(200, ge=20, le=400), looks: bool = False
) -> HttpResponse:
    """What would be printed on a panel, as a PNG; its `looks` are how rough it is in green and how much of it
    is metal in blue."""
    panel = said_in_full(data.panel, data.palette, data.colourway)
    printed = print_panel(panel, artwork_of(panel.artwork_uses()), ppi=ppi, seconds=WAIT_S)
    return _png(printed.looks if looks else printed.picture, "no-store")


def _png(image: Image.Image, keep: str) -> HttpResponse:
    stream = io.BytesIO()
    image.save(stream, "PNG", compress_level=1)
    return HttpResponse(stream.getvalue(), content_type="image/png", headers={"Cache-Control": keep})
