"""What of a file decides whether it can be read in print: how large its type is, whether it is mirrored, and
how much ink lies at one place at the most."""

from __future__ import annotations

import ctypes
import io
import math
import re
from collections.abc import Iterator
from typing import Any
from xml.etree.ElementTree import Element

import defusedxml.ElementTree as SafeTree
import numpy as np
import pikepdf
import pypdfium2
import pypdfium2.raw as pdfium
from PIL import Image

from giftwrap.core.reading.facts import MM_PER_INCH, Kind
from giftwrap.core.reading.svgs import local_name, mm_per_unit

MOST_CHARACTERS = 20_000
MOST_PIXELS = 4_000_000
"""Of a picture that is looked at for its ink: larger ones are looked at in every so manieth pixel."""
MOST_DEEP = 12
Matrix = tuple[float, float, float, float]
_TRANSFORM = re.compile(r"(matrix|scale|rotate|translate|skewX|skewY)\s*\(([^)]*)\)")


def inspected(data: bytes, kind: Kind, page: int) -> tuple[dict[str, Any], bytes]:
    """As the reading process does it: `types`, the size in mm of what is written and whether it is mirrored,
    the smallest first; `ink`, per cent of all inks together where there is most, None where a file does not
    say."""
    found: list[tuple[float, bool, str]] = []
    ink: float | None = None
    if kind == "svg":
        root = SafeTree.fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
        found = list(_svg_types(root))
    elif kind == "pdf":
        found = _pdf_types(data, page)
        ink = _pdf_ink(data, page)
    else:
        ink = _bitmap_ink(data)
    smallest: dict[tuple[float, bool], str] = {}
    for size, mirrored, words in found:
        smallest.setdefault((round(size, 3), mirrored), words[:40])
    types = [[size, mirrored, words] for (size, mirrored), words in sorted(smallest.items())]
    return {"types": types[:40], "ink": ink}, b""


def _svg_types(root: Element) -> Iterator[tuple[float, bool, str]]:
    """Of an SVG, in mm of its own page."""
    classes = _classes(root)
    unit = mm_per_unit(root)

    def walk(element: Element, size: float, matrix: Matrix, deep: int) -> Iterator[tuple[float, bool, str]]:
        if deep > MOST_DEEP * 4:
            return
        style = {
            **classes.get(element.get("class", "").split(" ")[0], {}),
            **_style(element.get("style", "")),
        }
        own = style.get("font-size", element.get("font-size"))
        size = _size(own, size) if own else size
        matrix = _times(matrix, _matrix(element.get("transform", "")))
        a, b, c, d = matrix
        if local_name(element.tag) in ("text", "tspan") and (element.text or "").strip():
            area = a * d - b * c
            yield size * math.sqrt(abs(area)) * unit, area < 0, " ".join((element.text or "").split())
        for child in element:
            yield from walk(child, size, matrix, deep + 1)

    yield from walk(root, 16.0, (1.0, 0.0, 0.0, 1.0), 0)


def _style(text: str) -> dict[str, str]:
    pairs = (one.split(":", 1) for one in text.split(";") if ":" in one)
    return {name.strip(): value.strip() for name, value in pairs}


def _classes(root: Element) -> dict[str, dict[str, str]]:
    """What style sheets say of classes."""
    found: dict[str, dict[str, str]] = {}
    for element in root.iter():
        if local_name(element.tag) == "style":
            for name, body in re.findall(r"\.([\w-]+)[^{}]*\{([^}]*)\}", element.text or ""):
                found.setdefault(name, {}).update(_style(body))
    return found


def _size(text: str, inherited: float) -> float:
    match = re.match(r"\s*([0-9.]+)\s*(px|pt|mm|em|%)?", text)
    if not match:
        return inherited
    per = {"pt": 4 / 3, "mm": 96 / MM_PER_INCH, "em": inherited, "%": inherited / 100}
    return float(match[1]) * per.get(match[2] or "px", 1.0)


def _matrix(text: str) -> Matrix:
    whole: Matrix = (1.0, 0.0, 0.0, 1.0)
    for name, inside in _TRANSFORM.findall(text):
        values = [float(v) for v in re.findall(r"[-+0-9.eE]+", inside)]
        if name == "matrix" and len(values) == 6:
            one: Matrix = (values[0], values[1], values[2], values[3])
        elif name == "scale" and values:
            one = (values[0], 0.0, 0.0, values[-1])
        elif name == "rotate" and values:
            c, s = math.cos(math.radians(values[0])), math.sin(math.radians(values[0]))
            one = (c, s, -s, c)
        else:
            continue
        whole = _times(whole, one)
    return whole


def _times(one: Matrix, other: Matrix) -> Matrix:
    a, b, c, d = one
    e, f, g, h = other
    return a * e + c * f, b * e + d * f, a * g + c * h, b * g + d * h


def _pdf_types(data: bytes, page: int) -> list[tuple[float, bool, str]]:
    """Of a page of a PDF, in mm."""
    found = []
    with pypdfium2.PdfDocument(data) as document:
        text = document[page - 1].get_textpage()
        for index in range(min(text.count_chars(), MOST_CHARACTERS)):
            letter = text.get_text_range(index, 1)
            if not letter.strip():
                continue
            size = pdfium.FPDFText_GetFontSize(text, index)
            matrix = pdfium.FS_MATRIX()
            if not pdfium.FPDFText_GetMatrix(text, index, ctypes.byref(matrix)):
                continue
            area = matrix.a * matrix.d - matrix.b * matrix.c
            found.append((size * math.sqrt(abs(area)) * MM_PER_INCH / 72, area < 0, letter))
    return found


def _pdf_ink(data: bytes, page: int) -> float | None:
    """The most ink that a page of a PDF asks for at one place, by its fills, strokes and pictures."""
    with pikepdf.open(io.BytesIO(data)) as pdf:
        most = list(_inks_in(pdf.pages[page - 1], 0))
    return max(most) if most else None


def _inks_in(thing: Any, deep: int) -> Iterator[float]:
    if deep > MOST_DEEP:
        return
    for one in pikepdf.parse_content_stream(thing):
        if str(one.operator) in ("k", "K") and len(one.operands) == 4:
            yield 100 * sum(float(v) for v in one.operands)
    resources = thing.get("/Resources", {})
    for one in dict(resources.get("/XObject", {})).values():
        if one.get("/Subtype") == "/Form":
            yield from _inks_in(one, deep + 1)
        elif one.get("/Subtype") == "/Image" and one.get("/ColorSpace") == "/DeviceCMYK":
            try:
                picture = pikepdf.PdfImage(one).as_pil_image()
            except (pikepdf.PdfError, NotImplementedError, ValueError, OSError):
                continue
            if picture.mode == "CMYK":
                yield _most_ink(picture)


def _bitmap_ink(data: bytes) -> float | None:
    try:
        with Image.open(io.BytesIO(data)) as picture:
            if picture.mode != "CMYK":
                return None
            picture.draft("CMYK", (1600, 1600))
            return _most_ink(picture)
    except (OSError, ValueError, Image.DecompressionBombError):
        return None


def _most_ink(picture: Image.Image) -> float:
    """Per cent where there is most; single pixels do not count."""
    step = max(math.ceil(math.sqrt(picture.width * picture.height / MOST_PIXELS)), 1)
    codes = np.asarray(picture)[::step, ::step].astype(np.uint16).sum(axis=-1)
    return float(np.quantile(codes, 0.999) / 255 * 100)
