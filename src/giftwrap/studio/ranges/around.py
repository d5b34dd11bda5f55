"""What is all around a set: pictures of it are brought in, and every surround is shown as a flat map."""

from __future__ import annotations

import base64
import io
from dataclasses import asdict
from functools import lru_cache
from typing import Any

import numpy as np
from django.http import HttpRequest
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from PIL import Image

from giftwrap.core import model as core
from giftwrap.core.formats.pictures import to_8_bit
from giftwrap.core.grade.display import encode_srgb
from giftwrap.core.scene.panorama import fewer, read_panorama
from giftwrap.core.scene.surrounding import sun_of, surrounding_of
from giftwrap.core.stage.surrounds import STARTING_SURROUNDS
from giftwrap.studio.files import contents_of, name_of, read_file, store

router = Router()
MAX_BYTES = 800_000_000
MAP_ROWS = 128
SMALL_ROWS = 48


class PanoramaOut(Schema):
    """A picture of everything around as it is kept.

    lying : luminance of a white sheet that lies beneath it; contrast : its brightest place over its mean
    """

    sha256: str
    name: str
    width_px: int
    height_px: int
    lying: float
    contrast: float
    notes: list[str]


class SunOut(Schema):
    """Where the sun stands: degrees from north to the east, and up."""

    azimuth: float
    elevation: float


class AroundIn(Schema):
    surround: core.Surround


class AroundMapOut(Schema):
    """A surround as a flat map before its turn, once around with what is straight behind in the middle;
    `picture` is an address that holds it."""

    picture: str
    sun: SunOut | None


class StartingSurroundOut(Schema):
    key: str
    title: str
    words: str
    picture: str
    surround: core.Surround


@router.post("/panoramas", response=PanoramaOut)
def keep_panorama(request: HttpRequest, file: UploadedFile = File(...)) -> Any:
    """Read a picture of everything around, HDR or EXR, and keep it, for surrounds to name."""
    source = contents_of(
        file, MAX_BYTES, "a surround", "4,096 × 2,048 px is as fine as it is kept: reduce it."
    )
    name = name_of(file)
    facts, kept = read_panorama(source, name)
    return {"sha256": store(kept), "name": name.rsplit(".", 1)[0] or name, **asdict(facts)}


@router.post("/surround-map", response=AroundMapOut)
def surround_map(request: HttpRequest, data: AroundIn) -> Any:
    """A surround as a flat map, and where its sun is."""
    surround, sun = data.surround, None
    if not isinstance(surround, core.EvenSurround):
        surround = surround.model_copy(update={"turn": 0.0, "held": "world"})
    if isinstance(surround, core.SkySurround):
        azimuth, elevation = sun_of(surround)
        sun = {"azimuth": azimuth, "elevation": elevation}
    return {"picture": _address(surround, MAP_ROWS), "sun": sun}


@router.get("/starting-surrounds", response=list[StartingSurroundOut])
def starting_surrounds(request: HttpRequest) -> list[dict[str, Any]]:
    """Surrounds to begin with."""
    return [
        {"key": key, "title": one.title, "words": one.words, "surround": one.surround, "picture": _small(key)}
        for key, one in STARTING_SURROUNDS.items()
    ]


@lru_cache
def _small(key: str) -> str:
    return _address(STARTING_SURROUNDS[key].surround, SMALL_ROWS)


def _address(surround: core.Surround, rows: int) -> str:
    """An image address that holds a map; what is as bright as paper is shown as middle grey."""
    files = {}
    if isinstance(surround, core.PicturedSurround):
        data = read_file(surround.picture)
        files = {} if data is None else {surround.picture: data}
    around = surrounding_of(surround, files, rows=2 * rows)
    if around.picture is None:
        light = np.broadcast_to(np.array(around.colour, np.float32), (rows, 2 * rows, 3))
    else:
        picture = np.roll(around.picture, round(around.turn / 360 * around.picture.shape[1]), axis=1)
        light = fewer(picture, rows) * np.array(around.colour, np.float32)
    stream = io.BytesIO()
    Image.fromarray(to_8_bit(encode_srgb(light / (1 + light)))).save(stream, "WEBP", quality=80)
    return f"data:image/webp;base64,{base64.b64encode(stream.getvalue()).decode()}"
