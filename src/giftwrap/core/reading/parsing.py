"""Artwork as the reading process takes it in and draws it: told apart by what is in it, not by its name."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from PIL import Image

from giftwrap.core.errors import ArtworkError
from giftwrap.core.reading.bitmaps import bitmap_facts, draw_bitmap
from giftwrap.core.reading.facts import MAX_BYTES, ArtworkFacts, Kind
from giftwrap.core.reading.pdfs import draw_pdf, pdf_facts
from giftwrap.core.reading.svgs import draw_svg, svg_facts
from giftwrap.core.reading.tiffs import draw_tiff, tiff_facts

_SIGNATURES: tuple[tuple[bytes, str], ...] = (
    (b"\x89PNG\r\n\x1a\n", "PNG"),
    (b"\xff\xd8\xff", "JPEG"),
    (b"%PDF", "PDF"),
    (b"GIF8", "GIF"),
    (b"II*\x00", "TIFF"),
    (b"MM\x00*", "TIFF"),
    (b"II+\x00", "TIFF"),
    (b"MM\x00+", "TIFF"),
    (b"8BPS", "layered bitmap"),
    (b"PK\x03\x04", "ZIP archive"),
    (b"BM", "BMP"),
)
_PDF_BEGINS = 1024
"""A PDF's header may stand within so many bytes (ISO 32000-1, annex H.3)."""


def artwork_facts(data: bytes, filename: str, *, trial: bool) -> tuple[dict[str, Any], bytes]:
    """`read_artwork` as it is done in the reading process."""
    return asdict(_facts(data, filename, trial=trial)), b""


def drawn(
    data: bytes, kind: Kind, width_px: int, height_px: int, what: dict[str, Any]
) -> tuple[dict[str, Any], bytes]:
    """`rasterise` as it is done in the reading process: its pixels, or those of some `rows`, four bytes each,
    top row first."""
    if kind == "svg":
        image = draw_svg(data, width_px, height_px, **what)
    elif kind == "pdf":
        image = draw_pdf(data, width_px, height_px, **what)
    elif kind == "tiff":
        image = draw_tiff(data, width_px, height_px)
    else:
        image = draw_bitmap(data, width_px, height_px)
    first, end = what.get("rows") or (0, height_px)
    size = (width_px, end - first)
    if image.size != size:
        image = image.convert("RGBa" if image.mode == "RGBA" else "RGB")
        image = image.resize(size, Image.Resampling.LANCZOS)
    return {}, image.convert("RGBA").tobytes()


def _facts(data: bytes, filename: str, *, trial: bool) -> ArtworkFacts:
    if not data:
        raise ArtworkError(f"{filename} is empty: export it again.")
    if len(data) > MAX_BYTES:
        raise ArtworkError(
            f"{filename} is {len(data) / 1e6:.0f} MB: artwork may be at most {MAX_BYTES / 1e6:.0f} MB. "
            "Export it smaller, or as SVG."
        )
    found = next((name for signature, name in _SIGNATURES if data.startswith(signature)), None)
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        found = "WebP"
    if found in ("PNG", "JPEG", "WebP"):
        return bitmap_facts(data, filename, found, trial=trial)
    if found == "TIFF":
        return tiff_facts(data, filename, trial=trial)
    if found == "PDF" or b"%PDF-" in data[:_PDF_BEGINS]:
        return pdf_facts(data, filename, trial=trial)
    if found is None and b"<svg" in data[:4096].lower().replace(b"<svg:svg", b"<svg"):
        return svg_facts(data, filename, trial=trial)
    what = f"is really a {found} file" if found else "is not a picture that can be read"
    raise ArtworkError(f"{filename} {what}: export it as PDF, SVG, PNG, JPEG, TIFF or WebP.")
