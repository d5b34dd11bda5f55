"""Reading a designer's file: what it is, how large, and whether it can be trusted.

`read_artwork` and `rasterise` are what others call; the work is done in the reading process.
"""

from __future__ import annotations

from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any

from PIL import Image

from giftwrap.core.errors import ArtworkError
from giftwrap.core.reading import ARTWORK, Limits, read_apart
from giftwrap.core.reading.facts import MAX_BYTES, ArtworkFacts, Kind

__all__ = ["MAX_BYTES", "Inspection", "Written", "inspect_artwork", "rasterise", "read_artwork"]

PARSING = "giftwrap.core.reading.parsing"
"""What the reading process does."""
MAX_RASTER_PIXELS = 80_000_000
BANDS, BANDED = 2, 2_000_000
"""Drawings of so many pixels are drawn in bands at the same time; not with filters, which reach over."""


def read_artwork(source: bytes | Path, filename: str, *, known: bool = False) -> ArtworkFacts:
    """Identify and check an artwork file by what is in it, not by its name.

    source : its bytes, or where it lies
    known : whether it was read before, so that it need not be tried out again

    Raises ArtworkError for anything that is not a sound bitmap, PDF or self-contained SVG, or takes more to
    draw than a label may.
    """
    head, _ = read_apart(
        f"{PARSING}:artwork_facts",
        source,
        filename,
        limits=ARTWORK,
        refusal=ArtworkError,
        known=known,
        filename=filename,
        trial=not known,
    )
    names = ("notes", "inks", "layers")
    pages = tuple((width, height) for width, height in head["pages"])
    return ArtworkFacts(**{**head, **{name: tuple(head[name]) for name in names}, "pages": pages})


@dataclass(frozen=True)
class Written:
    """Something written in a file: mm of its type on the file's own page, and whether it is mirrored."""

    size: float
    mirrored: bool
    words: str


@dataclass(frozen=True)
class Inspection:
    """What of a page decides whether it can be read in print.

    types : what is written, the smallest first
    ink : per cent of all inks together where there is most; None where the file does not say
    """

    types: tuple[Written, ...]
    ink: float | None


def inspect_artwork(source: bytes | Path, kind: Kind, page: int = 1) -> Inspection:
    """Look at a page of artwork that was read before. Raises ArtworkError when it takes more than limits
    allow."""
    head, _ = read_apart(
        "giftwrap.core.reading.inspection:inspected",
        source,
        "The artwork",
        limits=ARTWORK,
        refusal=ArtworkError,
        known=True,
        kind=kind,
        page=page,
    )
    return Inspection(tuple(Written(*one) for one in head["types"]), head["ink"])


def rasterise(
    source: bytes | Path,
    kind: Kind,
    width_px: int,
    height_px: int,
    *,
    limits: Limits = ARTWORK,
    what: Mapping[str, Any] | None = None,
) -> Image.Image:
    """Artwork that was read before, at a size in pixels, RGBA, its alpha kept apart.

    what : is drawn of a PDF or an SVG, as `draw_pdf` and `draw_svg` take it

    Raises ArtworkError when it takes more to draw than limits allow.
    """
    if not 0 < width_px * height_px <= MAX_RASTER_PIXELS:
        raise ArtworkError(
            f"Artwork of {width_px} × {height_px} px is more than can be drawn: place it smaller."
        )

    def drawn(**rows: Any) -> bytes:
        _, body = read_apart(
            f"{PARSING}:drawn",
            source,
            "The artwork",
            limits=limits,
            refusal=ArtworkError,
            known=True,
            kind=kind,
            what={**(what or {}), **rows},
            width_px=width_px,
            height_px=height_px,
        )
        return body

    if kind == "svg" and width_px * height_px >= BANDED and not _has_filters(source):
        ends = [height_px * band // BANDS for band in range(BANDS + 1)]
        with ThreadPoolExecutor(BANDS) as pool:
            body = b"".join(pool.map(lambda rows: drawn(rows=rows), pairwise(ends)))
    else:
        body = drawn()
    return Image.frombytes("RGBA", (width_px, height_px), body)


def _has_filters(source: bytes | Path) -> bool:
    return b"filter" in (source if isinstance(source, bytes) else source.read_bytes())
