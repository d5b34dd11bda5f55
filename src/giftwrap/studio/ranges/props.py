"""Props: the kinds there are, with pictures, and what one looks like."""

from __future__ import annotations

from typing import Any, Literal

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from giftwrap.core import model as core
from giftwrap.core.model.prop import PropName
from giftwrap.core.props.kinds import KINDS, picture_of, usual
from giftwrap.core.things.making import thing_of_prop
from giftwrap.core.things.thing import Thing
from giftwrap.studio.jobs.shapes import shape_for_page, surfaces_for_page
from giftwrap.studio.jobs.told import SurfaceOut
from giftwrap.studio.schema import answers

router = Router()
A_DAY = "max-age=86400"


class PropKindOut(Schema):
    """A kind of prop.

    varies : no two are alike; edged : the radius of its edges may be chosen; usual : one as it usually is
    """

    what: PropName
    title: str
    category: str
    varies: bool
    edged: bool
    usual: core.MadeProp


class PropShapeIn(Schema):
    """A prop, and the palette that a received model's parts may be linked to."""

    prop: core.Prop
    palette: core.Palette = core.Palette()


class PropShapeFacts(Schema):
    """Mm across, deep and high."""

    size: tuple[float, float, float]


class PropShapeOut(Schema):
    """A prop as a page draws it."""

    kind: Literal["prop"] = "prop"
    facts: PropShapeFacts
    surfaces: list[SurfaceOut]


@router.get("/props", response=list[PropKindOut])
def kinds(request: HttpRequest) -> list[dict[str, Any]]:
    """Every kind of prop that can be made, category by category."""
    return [
        {
            "what": what,
            "title": kind.title,
            "category": kind.category,
            "varies": kind.varies,
            "edged": kind.edge is not None,
            "usual": usual(what),
        }
        for what, kind in KINDS.items()
    ]


@router.get("/props/{what}.webp", openapi_extra=answers("image/webp"), operation_id="prop_picture")
def picture(request: HttpRequest, what: PropName) -> HttpResponse:
    """What a kind of prop looks like."""
    data = picture_of(what).read_bytes()
    return HttpResponse(data, content_type="image/webp", headers={"Cache-Control": A_DAY})


@router.post("/prop-shape", response=PropShapeOut)
def shape(request: HttpRequest, data: PropShapeIn) -> dict[str, Any]:
    """What a prop looks like. Nothing is saved."""
    thing = _thing(data)
    size = [round(b - a, 3) for a, b in zip(thing.extent.low, thing.extent.high, strict=True)]
    return {"facts": {"size": size}, "surfaces": surfaces_for_page(thing.pieces)}


def _thing(data: PropShapeIn) -> Thing:
    if isinstance(data.prop, core.MadeProp):
        return thing_of_prop(data.prop, coarse=True)
    pack = core.said_in_full(core.Pack(form=data.prop.received), data.palette)
    return shape_for_page(pack).thing
