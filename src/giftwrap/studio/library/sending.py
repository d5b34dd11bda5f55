"""Packs and sets for use elsewhere: as GLB, and as solids for printing a sample."""

from __future__ import annotations

from typing import Literal

import numpy as np
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Query, Router

from giftwrap.core.sending.gltf import write_glb
from giftwrap.core.sending.solids import write_solids
from giftwrap.core.stage.camera import view_of
from giftwrap.core.stage.fitting import fitted_camera
from giftwrap.core.stage.standing import Placed, extent_of, line_up
from giftwrap.core.things.making import shape_pack, thing_of, things_in
from giftwrap.studio.files import artwork_of, attachment
from giftwrap.studio.jobs.forming import ShapeIn
from giftwrap.studio.jobs.frames import frame_of
from giftwrap.studio.jobs.models import Shot
from giftwrap.studio.numbers import Id
from giftwrap.studio.schema import answers

router = Router()
GLB = "model/gltf-binary"
SCENE_ASPECT = 4 / 5
"""Width over height of the pictures that a camera is sent for."""


@router.post(
    "/pack.{form}",
    openapi_extra=answers("model/gltf-binary", "model/stl", "model/3mf"),
    operation_id="write_pack",
)
def write_pack(request: HttpRequest, form: Literal["glb", "stl", "3mf"], data: ShapeIn) -> HttpResponse:
    """A pack for use elsewhere: GLB with its materials and prints, or its solids for printing a sample."""
    pack = data.dressed()
    files = artwork_of(pack.artwork_uses())
    if form != "glb":
        return attachment(write_solids(shape_pack(pack, files), form), f"model/{form}", f"pack.{form}")
    thing = thing_of(pack, files)
    return attachment(write_glb([Placed(data.key or "pack", "", thing, np.eye(4))], files), GLB, "pack.glb")


@router.get("/shots/{shot_id}/scene.glb", openapi_extra=answers("model/gltf-binary"))
def write_scene(
    request: HttpRequest, shot_id: Id, colourway: str = Query("", max_length=60), turntable: bool = True
) -> HttpResponse:
    """What stands in a shot as it was saved last, with its camera, as GLB."""
    shot = get_object_or_404(Shot, pk=shot_id)
    frame = frame_of(shot, colourway=colourway or None)
    files = artwork_of(frame.artwork_uses())
    placed = line_up(frame, things_in(frame, lambda pack: thing_of(pack, files)))
    camera = fitted_camera(frame.shot, extent_of(placed), SCENE_ASPECT)
    view = view_of(camera, SCENE_ASPECT)
    glb = write_glb(placed, files, view=view, aspect=SCENE_ASPECT, turntable=turntable)
    return attachment(glb, GLB, f"{shot.slug}.glb")
