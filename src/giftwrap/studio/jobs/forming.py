"""Forming packs without saving: shaping, filling, closing, and what to start from."""

from dataclasses import asdict
from typing import Any

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from giftwrap.core import model as core
from giftwrap.core.carton.fitting import packed
from giftwrap.core.errors import PackError
from giftwrap.core.form.closures.starting import starting_closure
from giftwrap.core.form.finishes import FINISHES
from giftwrap.core.form.formed import form_body
from giftwrap.core.materials.optics import METALS
from giftwrap.core.materials.starting import starting_grains, starting_materials
from giftwrap.core.model.carton import Side
from giftwrap.core.model.closure import ClosureKind
from giftwrap.core.model.document import Millimetres
from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.worked import Grain
from giftwrap.core.things.facts import DENSITIES
from giftwrap.core.things.picking import loop_on, moved_to, picked_on
from giftwrap.core.things.silhouette import silhouette_svg
from giftwrap.core.things.starting import StartingPoint, starting_points
from giftwrap.core.things.vessel import VesselShape
from giftwrap.core.wrap.laying import Turned
from giftwrap.core.wrap.starting import LabelKind, starting_panel
from giftwrap.studio.jobs.shapes import shape_answer, shape_for_page
from giftwrap.studio.jobs.told import CartonOut, ReceivedOut, VesselOut
from giftwrap.studio.schema import answers

router = Router()


class ShapeIn(Schema):
    """A pack as it is on the page, its key, the palette its materials may be linked to and a colourway."""

    pack: core.Pack
    key: str = Field("", max_length=60)
    palette: core.Palette = core.Palette()
    colourway: core.Colourway = core.Colourway()

    def dressed(self) -> core.Pack:
        """The pack in its colours."""
        return core.dressed(self.key, self.pack, self.palette, self.colourway)


class FillIn(Schema):
    body: core.Body
    volume_ml: float = Field(gt=0, le=100_000)


class FillOut(Schema):
    fill_height: float


class PackedIn(Schema):
    """A pack, and the inside of a carton it is to stand in: mm across, deep and high."""

    shape: ShapeIn
    inside: tuple[Side, Side, Side]


class PackedOut(Schema):
    across: int
    deep: int
    high: int
    count: int
    turned: bool
    left: tuple[float, float, float]


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


class MaterialsOut(Schema):
    """What a part is made of when somebody chooses a kind; the metals there are; what patterns begin as."""

    clear: Clear
    cloudy: Cloudy
    opaque: Opaque
    metal: Metal
    metals: list[str]
    grains: list[Grain]


@router.post("/shape", response=VesselOut | CartonOut | ReceivedOut)
def shape(request: HttpRequest, data: ShapeIn) -> HttpResponse:
    """Shape a pack without saving it."""
    answer = shape_answer(data.dressed())
    return HttpResponse(answer, content_type="application/json")


@router.post("/starting-panel", response=core.Panel)
def new_panel(request: HttpRequest, data: ShapeIn, kind: LabelKind = "around") -> Any:
    """A label of a kind, of a size that suits a pack."""
    shape = shape_for_page(data.dressed())
    if not isinstance(shape, VesselShape):
        raise PackError(
            "Cartons and received models are labelled where one picks a place: begin there.",
            "panels",
        )
    return starting_panel(Turned(shape.formed, shape.built), kind, shape.sheets)


class PickedIn(ShapeIn):
    """A pack, and a place on a part of it as it stands, mm."""

    part: str = Field(max_length=120)
    at: tuple[Millimetres, Millimetres, Millimetres]


@router.post("/picked-panel", response=core.PickedPanel)
def panel_picked(request: HttpRequest, data: PickedIn) -> core.PickedPanel:
    """A new label on a place that was picked."""
    return picked_on(shape_for_page(data.dressed()), data.part, data.at)


class MovedIn(ShapeIn):
    """A label of a pack, by its number, and a place on a part, mm as it stands; or the part alone, for it to
    lie on that where it is."""

    panel: int = Field(ge=0, le=200)
    part: str = Field(max_length=120)
    at: tuple[Millimetres, Millimetres, Millimetres] | None = None


@router.post("/moved-panel", response=core.Panel)
def panel_moved(request: HttpRequest, data: MovedIn) -> Any:
    """A label moved to another place."""
    return moved_to(shape_for_page(data.dressed()), data.panel, data.part, data.at)


class LassoIn(ShapeIn):
    """A picked label of a pack, by its number, and a loop drawn on a part of it: mm as it stands."""

    panel: int = Field(ge=0, le=200)
    part: str = Field(max_length=120)
    loop: list[tuple[Millimetres, Millimetres, Millimetres]] = Field(min_length=3, max_length=2000)


@router.post("/lasso", response=core.PickedPanel)
def lasso_label(request: HttpRequest, data: LassoIn) -> core.PickedPanel:
    """A label cut to a loop that was drawn around its place."""
    panels = data.pack.panels
    panel = panels[data.panel] if data.panel < len(panels) else None
    if not isinstance(panel, core.PickedPanel):
        raise PackError("There is no such label on a picked place: pick one first.", "panel")
    return loop_on(shape_for_page(data.dressed()), panel, data.part, np.array(data.loop))


@router.get("/materials", response=MaterialsOut)
def materials(request: HttpRequest) -> Any:
    """What kinds of material begin as."""
    return {**starting_materials(), "metals": list(METALS), "grains": list(starting_grains().values())}


@router.post("/fill-height", response=FillOut)
def fill_height(request: HttpRequest, data: FillIn) -> dict[str, float]:
    """The level at which a body holds a volume."""
    return {"fill_height": form_body(data.body, coarse=True).height_for(data.volume_ml)}


@router.post("/packed", response=PackedOut)
def how_many_fit(request: HttpRequest, data: PackedIn) -> Any:
    """How many of a pack stand upright in a carton."""
    extent = shape_for_page(data.shape.dressed()).thing.extent
    across, deep, high = (top - low for low, top in zip(extent.low, extent.high, strict=True))
    found = packed((across, deep, high), data.inside)
    return {**asdict(found), "count": found.count}


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


def _starting_point(slug: str) -> StartingPoint:
    for point in starting_points():
        if point.slug == slug:
            return point
    raise PackError(f"There is no pack to start from called “{slug}”.")
