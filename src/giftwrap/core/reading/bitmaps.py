"""Bitmaps: PNG, JPEG and WebP."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image, UnidentifiedImageError

from giftwrap.core.errors import ArtworkError
from giftwrap.core.reading.colours import colour_notes, seen, white_edge
from giftwrap.core.reading.facts import MM_PER_INCH, ArtworkFacts, Kind, check_aspect

MAX_PIXELS = 120_000_000
_KINDS: dict[str, tuple[Kind, tuple[str, ...]]] = {
    "PNG": ("png", (".png",)),
    "JPEG": ("jpeg", (".jpg", ".jpeg", ".jpe")),
    "WebP": ("webp", (".webp",)),
}
EDGE_PX = 128
ALL_WHITE = 0.9
"""So much of an edge that is white is a white ground."""
LEAST_PPI = 20.0
"""Below that a file's own resolution is a mistake of the program that wrote it."""


def bitmap_facts(data: bytes, filename: str, found: str, *, trial: bool) -> ArtworkFacts:
    """What a bitmap is; `trial` reads it to its end. Raises ArtworkError when it is damaged or too large."""
    try:
        image = Image.open(io.BytesIO(data))
        width_px, height_px = image.size
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        raise damaged(filename, found) from error
    except Image.DecompressionBombError as error:
        raise ArtworkError(
            f"{filename} has far too many pixels to be a label: reduce it and export again."
        ) from error
    if width_px * height_px > MAX_PIXELS:
        raise ArtworkError(
            f"{filename} is {width_px:,} × {height_px:,} px ({width_px * height_px / 1e6:.0f} megapixels): "
            f"at most {MAX_PIXELS / 1e6:.0f} megapixels. Reduce it: a 300 mm label needs 4,700 px at 400 ppi."
        )
    try:
        if trial:
            image.load()
    except (OSError, SyntaxError, ValueError) as error:
        raise damaged(filename, found) from error
    check_aspect(width_px, height_px, filename)
    kind, endings = _KINDS[found]
    notes = colour_notes(image.mode, image.info.get("icc_profile"), filename)
    if not filename.lower().endswith(endings):
        notes.insert(0, f"{filename} is really a {found} and was read as one.")
    if trial and _on_white(image):
        notes.append(f"{filename} has a white ground: knock the white out where the stock is to show.")
    ppi = image.info.get("dpi")
    ppi_x = float(ppi[0]) if ppi and float(ppi[0]) > LEAST_PPI else None
    return ArtworkFacts(
        kind=kind,
        aspect=width_px / height_px,
        width_px=width_px,
        height_px=height_px,
        width=width_px / ppi_x * MM_PER_INCH if ppi_x else None,
        height=height_px / ppi_x * MM_PER_INCH if ppi_x else None,
        notes=tuple(notes),
    )


def _on_white(image: Image.Image) -> bool:
    """Whether a bitmap's edges are white paper."""
    if image.mode.startswith("I") or image.mode == "F":
        return False
    small = image.resize((EDGE_PX, EDGE_PX), Image.Resampling.BOX if image.mode not in "1P" else None)
    pixels = np.asarray((small.convert("RGB") if small.mode == "CMYK" else small).convert("RGBA"))
    return white_edge(pixels) > ALL_WHITE


def draw_bitmap(data: bytes, width_px: int, height_px: int) -> Image.Image:
    """A bitmap at a size in px or larger, sRGB, RGB or RGBA."""
    image: Image.Image = Image.open(io.BytesIO(data))
    image.draft(None, (width_px, height_px))  # large photographs are not unpacked whole
    profile = image.info.get("icc_profile")
    if image.mode.startswith("I"):  # 16 bits of grey
        image = Image.fromarray((np.asarray(image).astype(np.uint32) // 257).astype(np.uint8))
    if image.mode in ("P", "PA", "1") or (image.has_transparency_data and image.mode not in ("RGBA", "LA")):
        image = image.convert("RGBA" if image.has_transparency_data else "RGB")
    if image.width * image.height > width_px * height_px:
        mode = image.mode
        image = image.convert({"RGBA": "RGBa", "LA": "La"}.get(mode, mode))
        image = image.resize((width_px, height_px), Image.Resampling.LANCZOS).convert(mode)
    return seen(image, profile)


def damaged(filename: str, found: str) -> ArtworkError:
    """What to say of a file that begins well and cannot be read."""
    return ArtworkError(
        f"{filename} starts like a {found} but is damaged or cut short: export or copy it again."
    )
