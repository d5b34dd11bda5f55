"""PDF: pages as they are printed, drawn by PDFium; separations and layers by pikepdf.

Nothing in a file is run or fetched: PDFium is built without scripts here.
"""

from __future__ import annotations

import io
import time
from collections.abc import Sequence
from typing import Any

import pikepdf
import pypdfium2
import pypdfium2.raw as pdfium
from PIL import Image, ImageChops

from giftwrap.core.errors import ArtworkError
from giftwrap.core.reading.facts import MM_PER_INCH, ArtworkFacts, check_aspect
from giftwrap.core.reading.limits import ARTWORK
from giftwrap.core.reading.separations import managed, plate, spot_inks, vanishes

MOST_PAGES = 1000
POINTS_PER_MM = 72 / MM_PER_INCH
TRIAL_SIDE, TRIAL_S = 600, 6.0
"""A page is tried at so many px along its longer side before it is taken in, and may take so many seconds."""
MOST_NAMED = 40
Box = tuple[float, float, float, float]


def pdf_facts(data: bytes, filename: str, *, trial: bool) -> ArtworkFacts:
    """What a PDF is; `trial` draws its first page. Raises ArtworkError when it cannot be printed."""
    with _opened(data, filename) as pdf:
        count = len(pdf.pages)
        if not count:
            raise ArtworkError(f"{filename} has no page: export it again.")
        if count > MOST_PAGES:
            raise ArtworkError(
                f"{filename} has {count:,} pages: {MOST_PAGES:,} are the most. Export those that are artwork."
            )
        pages = tuple(_size(_trim_of(page)) for page in pdf.pages)
        notes = []
        first = pdf.pages[0]
        if _trim_of(first) != _box(first.mediabox):
            notes.append(f"{filename} is trimmed to its trim box.")
        if count > 1:
            notes.append(f"{filename} has {count} pages: its first is placed, others can be chosen.")
        if "/OpenAction" in pdf.Root or "/AA" in pdf.Root or "/JavaScript" in pdf.Root.get("/Names", {}):
            notes.append(f"{filename} carries scripts or actions, which are not run.")
        if trial and vanishes(pdf):
            notes.append(
                f"White in {filename} is set to overprint: nothing of it is printed. Let it knock out."
            )
        inks, layers = spot_inks(pdf)[:MOST_NAMED], _layers(pdf)[:MOST_NAMED]
    width, height = pages[0]
    check_aspect(width, height, filename)
    if trial:
        scale, began = TRIAL_SIDE / max(width, height), time.process_time()
        draw_pdf(data, max(round(width * scale), 1), max(round(height * scale), 1))
        if time.process_time() - began > TRIAL_S:
            raise ArtworkError(
                f"{filename} takes more than {TRIAL_S:g} s to draw at {TRIAL_SIDE} px, too long to be "
                f"printed: {ARTWORK.relief}"
            )
    return ArtworkFacts(
        "pdf", width / height, None, None, width, height, tuple(notes), pages, tuple(inks), tuple(layers)
    )


def draw_pdf(
    data: bytes,
    width_px: int,
    height_px: int,
    *,
    page: int = 1,
    without: Sequence[str] = (),
    left_out: Sequence[str] = (),
    ink: str = "",
) -> Image.Image:
    """A page of a PDF at a size in px, RGBA: what is not printed is clear.

    page : from 1
    without : layers that are left out; left_out : spot inks that are
    ink : one spot ink, as black as there is of it

    Raises ArtworkError when there is no such page.
    """
    with _opened(data, "The artwork") as pdf:
        if page > len(pdf.pages):
            raise ArtworkError(f"This file has no page {page}: choose one of its {len(pdf.pages)}.", "page")
        trim = _trim_of(pdf.pages[page - 1])
        for number in range(len(pdf.pages), 0, -1):
            if number != page:
                del pdf.pages[number - 1]
        _switch_off(pdf, without)
        if ink:
            plate(pdf, ink)
        else:
            managed(pdf, left_out)
        changed = io.BytesIO()
        pdf.save(changed, compress_streams=False)
    paper = 0xFFFFFFFF if ink else 0x00FFFFFF
    pixels = _rendered(changed.getvalue(), trim, (width_px, height_px), paper)
    if not ink:
        return pixels
    amount = ImageChops.invert(pixels.convert("RGB").convert("L"))
    return Image.merge("RGBA", [*Image.new("RGB", pixels.size).split(), amount])


def _rendered(data: bytes, trim: Box, size: tuple[int, int], paper: int) -> Image.Image:
    try:
        document = pypdfium2.PdfDocument(data)
        shown = document[0]
        shown.set_cropbox(*trim)
        shown.set_mediabox(*trim)
        bitmap = pypdfium2.PdfBitmap.new_native(*size, pdfium.FPDFBitmap_BGRA)
        pdfium.FPDFBitmap_FillRect(bitmap, 0, 0, *size, paper)
        flags = pdfium.FPDF_ANNOT | pdfium.FPDF_PRINTING
        pdfium.FPDF_RenderPageBitmap(bitmap, shown, 0, 0, *size, 0, flags)
    except pypdfium2.PdfiumError as error:
        raise ArtworkError(f"The artwork cannot be drawn ({error}): export it again.") from error
    drawn: Image.Image = bitmap.to_pil()
    return drawn.convert("RGBA")


def _opened(data: bytes, filename: str) -> Any:
    try:
        pdf = pikepdf.open(io.BytesIO(data))
    except pikepdf.PasswordError as error:
        raise ArtworkError(f"{filename} is locked with a password: save it without one.") from error
    except (pikepdf.PdfError, ValueError, TypeError) as error:
        raise ArtworkError(
            f"{filename} starts like a PDF but is damaged or cut short: export or copy it again."
        ) from error
    return pdf


def _box(values: Any) -> Box:
    left, foot, right, top = (float(v) for v in values)
    return min(left, right), min(foot, top), max(left, right), max(foot, top)


def _trim_of(page: Any) -> Box:
    """What is left of a page when it is trimmed, in points. Raises ArtworkError when that is nothing."""
    trim = _box(page.trimbox)
    left, foot, right, top = trim
    if not (0 < right - left < 1e5 and 0 < top - foot < 1e5):
        raise ArtworkError("A page of this PDF has no size: export it again.")
    return trim


def _size(box: Box) -> tuple[float, float]:
    return (box[2] - box[0]) / POINTS_PER_MM, (box[3] - box[1]) / POINTS_PER_MM


def _groups(pdf: Any) -> list[Any]:
    return list(pdf.Root.get("/OCProperties", {}).get("/OCGs", []))


def _layers(pdf: Any) -> list[str]:
    return list(dict.fromkeys(str(group.get("/Name", "")) for group in _groups(pdf)))


def _switch_off(pdf: Any, names: Sequence[str]) -> None:
    """Hide layers by their names."""
    off = [group for group in _groups(pdf) if str(group.get("/Name", "")) in names]
    if off:
        shown = pdf.Root.OCProperties.get("/D", pikepdf.Dictionary())
        shown.OFF = pikepdf.Array([*shown.get("/OFF", []), *off])
        pdf.Root.OCProperties.D = shown
