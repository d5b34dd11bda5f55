"""Packs, artwork and pictures that several tests use."""

from __future__ import annotations

import hashlib
import io
from typing import Any

from PIL import Image

from giftwrap.core.model import (
    Body,
    Cap,
    Contents,
    Corner,
    Frame,
    Pack,
    Panel,
    PhotoSet,
    Placement,
    Shot,
    Vessel,
)
from giftwrap.core.stage.starting import starting_set, starting_shot
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


def vessel_pack(**parts: Any) -> Pack:
    """A pack formed as a vessel, from what belongs to either."""
    own = {name: parts.pop(name) for name in list(parts) if name in Vessel.model_fields}
    return Pack(form=Vessel(**own), **parts)


def formed(pack: Pack, **changes: Any) -> Pack:
    """A pack with something of its vessel changed."""
    return pack.model_copy(update={"form": pack.form.model_copy(update=changes)})


def frame_of(pack: Pack, photo_set: PhotoSet | None = None, shot: Shot | None = None) -> Frame:
    """A pack alone on a set."""
    return Frame(
        packs={"pack": pack}, photo_set=photo_set or starting_set(), shot=shot or starting_shot(TALL)
    )


def labelled(body: Body, panel: Panel, *, fill: float | None = None, capped: bool = False) -> Pack:
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


def png(
    size: tuple[int, int] = (40, 20), colour: str = "#b3324c", mode: str = "RGB", kind: str = "PNG"
) -> bytes:
    """A plain picture file."""
    stream = io.BytesIO()
    Image.new(mode, size, colour).save(stream, kind)
    return stream.getvalue()
