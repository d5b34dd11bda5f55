"""Packs, artwork and pictures that several tests use."""

from __future__ import annotations

import hashlib
import io

from PIL import Image

from giftwrap.core.model import Body, Cap, Contents, Corner, Pack, Panel, Placement


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


def labelled(body: Body, panel: Panel, *, fill: float | None = None, capped: bool = False) -> Pack:
    """A pack with one panel."""
    return Pack(
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
