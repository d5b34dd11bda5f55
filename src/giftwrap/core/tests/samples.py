"""Packs, artwork and pictures that several tests use."""

from __future__ import annotations

import hashlib
import io
from dataclasses import replace
from typing import Any

from PIL import Image

from giftwrap.core.model import (
    Body,
    Camera,
    Cap,
    Contents,
    Corner,
    EvenSurround,
    Frame,
    Pack,
    PhotoSet,
    Placement,
    Purpose,
    Shot,
    Softbox,
    Vessel,
    WrapPanel,
)
from giftwrap.core.render.files import shelf
from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.planning import Region
from giftwrap.core.things.thing import Extent


def profile(*corners: tuple[float, ...]) -> list[Corner]:
    """Corners from (radius, height) or (radius, height, rounding)."""
    return [Corner(radius=c[0], height=c[1], rounding=c[2] if len(c) > 2 else 0.0) for c in corners]


def cylinder(radius: float = 36, height: float = 150, *, wall: float = 2, base: float = 4) -> Body:
    """A straight tumbler with sharp corners."""
    return Body(profile=profile((radius, 0), (radius, height)), wall_thickness=wall, base_thickness=base)


def bottle() -> Body:
    """A bottle with every kind of corner: heel, shoulder, neck and a bead at the rim."""
    return Body(
        profile=profile(
            (36, 0, 7), (36, 146, 26), (14.2, 184, 18), (14.2, 221, 1.2), (16, 222.5, 1.2), (16, 230)
        ),
        wall_thickness=2.4,
        base_thickness=7,
    )


TALL = Extent((-36.0, -36.0, 0.0), (36.0, 36.0, 230.0))
"""What a bottle takes up, mm."""


def three_lights() -> PhotoSet:
    """A set lit and arranged by hand: a key from the left, a strip behind on the right, one above."""
    return PhotoSet(
        lights=[
            Softbox(
                name="Key", width=700, height=1000, azimuth=-58, elevation=22, distance=1100, power_w=9.0
            ),
            Softbox(name="Edge", width=220, height=1100, azimuth=72, elevation=12, distance=900, power_w=3.2),
            Softbox(
                name="Above", width=1000, height=700, azimuth=150, elevation=68, distance=1200, power_w=5.0
            ),
        ]
    )


def portrait(extent: Extent = TALL) -> Shot:
    """A shot framed by hand, of all that an extent holds."""
    low, high = extent.low, extent.high
    height, spread = high[2] - low[2], max(high[0] - low[0], high[1] - low[1])
    camera = Camera(
        lens_mm=85,
        distance=float(round(max(height * 4.6, spread * 5.2, 300.0))),
        height=float(round(low[2] + height * 0.72)),
        aim_height=float(round(low[2] + height * 0.47)),
        aim_x=(low[0] + high[0]) / 2,
        aim_y=(low[1] + high[1]) / 2,
    )
    return Shot(camera=camera)


def vessel_pack(**parts: Any) -> Pack:
    """A pack formed as a vessel, from what belongs to either."""
    own = {name: parts.pop(name) for name in list(parts) if name in Vessel.model_fields}
    return Pack(form=Vessel(**own), **parts)


def formed(pack: Pack, **changes: Any) -> Pack:
    """A pack with something of its vessel changed."""
    return pack.model_copy(update={"form": pack.form.model_copy(update=changes)})


def frame_of(pack: Pack, photo_set: PhotoSet | None = None, shot: Shot | None = None) -> Frame:
    """A pack alone on a set."""
    return Frame(packs={"pack": pack}, photo_set=photo_set or three_lights(), shot=shot or portrait())


def labelled(body: Body, panel: WrapPanel, *, fill: float | None = None, capped: bool = False) -> Pack:
    """A pack with one panel."""
    return vessel_pack(
        body=body,
        panels=[panel],
        contents=Contents(fill_height=fill) if fill else None,
        closure=Cap() if capped else None,
    )


def placed(
    data: bytes, *, width: float, x: float = 0.0, y: float = 0.0
) -> tuple[Placement, dict[str, bytes]]:
    """A placement of a file, and the file by its SHA-256."""
    name = hashlib.sha256(data).hexdigest()
    return Placement(artwork=name, x=x, y=y, width=width), {name: data}


def square_of(side: int) -> Purpose:
    """A square picture."""
    return Purpose(width_px=side, height_px=side)


def even_light(background: str = "#d5c8b2") -> PhotoSet:
    """One large lamp and much of a surround."""
    front = Softbox(name="Front", width=900, height=900, azimuth=-25, elevation=25, distance=1300, power_w=14)
    return PhotoSet(lights=[front], surround=EvenSurround(strength=0.5), background=background)


def picture_job(
    pack: Pack, photo_set: PhotoSet, shot: Shot, artwork: dict[str, bytes], region: Region | None = None
) -> PictureJob:
    """A pack alone on a set in the size of a shot's first purpose, its files on the shelf."""
    for data in artwork.values():
        shelf.put(data)
    frame = Frame(packs={"pack": pack}, photo_set=photo_set, shot=shot)
    job = PictureJob.of(frame, shot.purposes[0].width_px, shot.purposes[0].height_px)
    return replace(job, region=region)


def png(
    size: tuple[int, int] = (40, 20), colour: str = "#b3324c", mode: str = "RGB", kind: str = "PNG"
) -> bytes:
    """A plain picture file."""
    stream = io.BytesIO()
    Image.new(mode, size, colour).save(stream, kind)
    return stream.getvalue()
