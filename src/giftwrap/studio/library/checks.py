"""What becomes of prints: preflight, how they are stretched where they lie, artwork that takes that back."""

import io
from dataclasses import asdict
from typing import Any, Literal

import numpy as np
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from giftwrap.core.errors import PackError
from giftwrap.core.stage.fitting import fitted_camera
from giftwrap.core.stage.seen import seen_from
from giftwrap.core.stage.standing import extent_of, line_up
from giftwrap.core.things.carton import CartonPack
from giftwrap.core.things.making import shape_pack
from giftwrap.core.things.received import ReceivedPack
from giftwrap.core.things.vessel import VesselShape
from giftwrap.core.wrap.distortion import compensated, distortion_of
from giftwrap.core.wrap.finding import Seen
from giftwrap.core.wrap.laid import Laid
from giftwrap.core.wrap.preflight import preflight
from giftwrap.core.wrap.printing import compose
from giftwrap.studio.files import artwork_of, attachment
from giftwrap.studio.jobs.forming import ShapeIn
from giftwrap.studio.jobs.frames import Unsaved, frame_of
from giftwrap.studio.jobs.models import Shot
from giftwrap.studio.jobs.shapes import things_of
from giftwrap.studio.schema import answers

router = Router()
PREVIEW_PPI, PRINT_PPI = 100.0, 300.0


class PrintIn(ShapeIn):
    """A pack, and which of what is printed on it, by its number among its surfaces' panels."""

    panel: int = Field(ge=0, lt=200)


class PreflightIn(PrintIn):
    """And the shot, by its id, whose picture it is looked at in too."""

    shot: int | None = Field(None, ge=0, lt=2**31)


class FindingOut(Schema):
    """Something to mend or to look at, and the artwork or the layer it is about, by their numbers."""

    level: Literal["wrong", "look"]
    words: str
    placement: int | None
    layer: int | None


class MapOut(Schema):
    """How long a mm of a page is on the pack, across and up, in cells from its lower left corner, row by row;
    none where it is cut away."""

    across: list[list[float | None]]
    up: list[list[float | None]]
    mean: float
    worst: float


@router.post("/preflight", response=list[FindingOut])
def check_print(request: HttpRequest, data: PreflightIn) -> Any:
    """What would go wrong with a panel in print, and in a shot's picture."""
    pack = data.dressed()
    files = artwork_of(pack.artwork_uses())
    shape = shape_pack(pack, files, coarse=True)
    if data.panel >= len(shape.panels):
        raise PackError("There is no such panel on this pack: choose one of its labels.", "panel")
    number = data.panel - shape.first_label
    sheet = shape.sheets[number] if 0 <= number < len(shape.sheets) else None
    around, diameter = (sheet.around, sheet.diameter) if sheet else (None, None)
    seen = _seen(data, shape) if data.shot is not None else None
    found = preflight(shape.panels[data.panel], files, around=around, diameter=diameter, seen=seen)
    return [asdict(one) for one in found]


def _seen(data: PreflightIn, shape: VesselShape | CartonPack | ReceivedPack) -> Seen:
    """What a shot's picture shows of a panel; nothing where the pack does not stand."""
    row = get_object_or_404(Shot, pk=data.shot)
    frame = frame_of(row, unsaved=Unsaved(packs={data.key: data.pack}, palette=data.palette))
    stands = line_up(frame, things_of(frame))
    placed = next((one for one in stands if one.key == data.key), None)
    piece = next((one for one in shape.thing.pieces if one.panel == data.panel), None)
    if placed is None or piece is None:
        return Seen(0.0, 0.0, 0.0, 0.0)
    purpose = frame.shot.purposes[0]
    camera = fitted_camera(frame.shot, extent_of(stands), purpose.aspect)
    size = (purpose.width_px, purpose.height_px)
    return seen_from(piece.mesh, placed.pose, shape.panels[data.panel], camera, size)


@router.post("/distortion", response=MapOut)
def map_distortion(request: HttpRequest, data: PrintIn) -> Any:
    """How a label is stretched where it lies."""
    sheet, _ = _sheet(data)
    found = distortion_of(sheet)
    return {**asdict(sheet.stretch), "across": _rows(found.across), "up": _rows(found.up)}


@router.post("/compensated.png", openapi_extra=answers("image/png"))
def draw_compensated(request: HttpRequest, data: PrintIn, preview: bool = False) -> HttpResponse:
    """What is printed on a label drawn so that it comes out as meant, at 300 ppi, or to be looked at."""
    sheet, files = _sheet(data)
    ppi = PREVIEW_PPI if preview else PRINT_PPI
    image = compensated(sheet, compose(sheet.printed, files, ppi=ppi).picture)
    stream = io.BytesIO()
    image.save(stream, "PNG", dpi=(ppi, ppi))
    return attachment(stream.getvalue(), "image/png", "compensated.png")


def _sheet(data: PrintIn) -> tuple[Laid, dict[str, bytes]]:
    """A label as it lies, and the files on the pack. Raises PackError when there is none of that number."""
    pack = data.dressed()
    files = artwork_of(pack.artwork_uses())
    shape = shape_pack(pack, files, coarse=True)
    number = data.panel - shape.first_label
    if not 0 <= number < len(shape.sheets):
        raise PackError("There is no such label on this pack: choose one of its labels.", "panel")
    return shape.sheets[number], files


def _rows(cells: Any) -> list[list[float | None]]:
    return [[round(float(v), 5) if np.isfinite(v) else None for v in row] for row in cells]
