"""Drawings: SVG that brings everything along, drawn with the shipped fonts."""

from __future__ import annotations

import io
import re
import time
from collections.abc import Mapping
from xml.etree.ElementTree import Element, register_namespace, tostring
from xml.parsers.expat import ParserCreate

import defusedxml.ElementTree as SafeTree
import resvg_py
from defusedxml.common import DefusedXmlException
from PIL import Image

from giftwrap.core.errors import ArtworkError
from giftwrap.core.reading.facts import FONT_DIRECTORY, MM_PER_INCH, ArtworkFacts, check_aspect
from giftwrap.core.reading.limits import ARTWORK

TRIAL_SIDE, TRIAL_S = 600, 1.5
"""A drawing is tried at so many px along its longer side before it is taken in, and may take so many
seconds: a print has up to 100 times as many."""
MOST_FIELDS = 60
SHAPES = {"path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "image"}
SVG = "http://www.w3.org/2000/svg"
SHIPPED_FAMILIES = ("Fraunces", "Instrument Sans", "Spline Sans Mono")
CSS_PPI = 96.0
"""CSS pixels per inch, by definition (CSS Values and Units, level 3, section 6.2)."""
_TAG_BYTES = 4096
"""How much of a drawing is parsed at a time until its first tag is found."""
_MM_PER_UNIT = {
    "mm": 1.0,
    "cm": 10.0,
    "in": MM_PER_INCH,
    "pt": MM_PER_INCH / 72,
    "pc": MM_PER_INCH / 6,
    "px": MM_PER_INCH / CSS_PPI,
    "": MM_PER_INCH / CSS_PPI,
}


def draw_svg(
    data: bytes,
    width_px: int,
    height_px: int,
    *,
    texts: Mapping[str, str] | None = None,
    only_texts: bool = False,
    rows: tuple[int, int] | None = None,
) -> Image.Image:
    """An SVG at a size in px, RGBA, with some of its fields filled with other texts.

    only_texts : only what is written
    rows : first and end of the rows that are drawn; None for all
    """
    data = filled(data, texts) if texts else data
    data = _only_texts(data) if only_texts else data
    png = resvg_py.svg_to_bytes(
        svg_string=_filling(data, (width_px, height_px), rows or (0, height_px)),
        dpi=CSS_PPI,
        skip_system_fonts=True,
        font_dirs=[str(FONT_DIRECTORY)] if b"text" in data else [],
        font_family="Instrument Sans",
        sans_serif_family="Instrument Sans",
        serif_family="Fraunces",
        monospace_family="Spline Sans Mono",
        languages=["en"],
        shape_rendering="geometric_precision",
        text_rendering="geometric_precision",
        image_rendering="optimize_quality",
    )
    return Image.open(io.BytesIO(bytes(png))).convert("RGBA")


def filled(data: bytes, texts: Mapping[str, str]) -> bytes:
    """An SVG with other texts in its fields. What has pieces of its own, as lines have, takes a line in each:
    what is left over goes into the last, and pieces that are left over are emptied."""
    root = SafeTree.fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    for element in root.iter():
        text = texts.get(element.get("id", "")) if local_name(element.tag) in ("text", "tspan") else None
        if text is None:
            continue
        places = _pieces(element)
        for piece in element.iter():
            piece.text = None
            piece.tail = piece.tail if piece is element else None
        lines = text.split("\n")
        kept = [*lines[: len(places) - 1], " ".join(lines[len(places) - 1 :])]
        for place, line in zip(places, kept, strict=False):
            place.text = line
    register_namespace("", SVG)
    written: bytes = tostring(root, encoding="utf-8")
    return written


def _only_texts(data: bytes) -> bytes:
    """An SVG without its shapes and pictures."""
    root = SafeTree.fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    for element in root.iter():
        if local_name(element.tag) in SHAPES:
            element.set("style", "display:none")
    register_namespace("", SVG)
    written: bytes = tostring(root, encoding="utf-8")
    return written


def mm_per_unit(root: Element) -> float:
    """Mm of a unit that an SVG is drawn in."""
    box = re.findall(r"[-+0-9.eE]+", root.get("viewBox", ""))
    width, _ = _svg_size(root, "The drawing")
    return width / float(box[2]) if len(box) == 4 and float(box[2]) > 0 else _MM_PER_UNIT["px"]


def fields_of(root: Element) -> dict[str, str]:
    """The texts of an SVG that have an id, by these."""
    found: dict[str, str] = {}
    for element in root.iter():
        name = element.get("id", "").strip()
        if local_name(element.tag) in ("text", "tspan") and name and len(found) < MOST_FIELDS:
            lines = [" ".join((piece.text or "").split()) for piece in _pieces(element)]
            found[name[:120]] = "\n".join(lines)[:400]
    return found


def _pieces(element: Element) -> list[Element]:
    """What the lines of a text stand in: itself, or its pieces."""
    pieces = [piece for piece in element.iter() if piece is not element and local_name(piece.tag) == "tspan"]
    return pieces if pieces and not (element.text or "").strip() else [element, *pieces]


def _filling(data: bytes, size: tuple[int, int], rows: tuple[int, int]) -> str:
    """Some rows of an SVG inside one of exactly so many px: by itself a page is rounded to whole CSS pixels
    first."""
    begins: list[int] = []
    root = Element("svg")
    parser = ParserCreate()

    def start(_: str, attributes: dict[str, str]) -> None:
        if not begins:
            begins.append(parser.CurrentByteIndex)
            root.attrib.update(attributes)

    parser.StartElementHandler = start
    for at in range(0, len(data), _TAG_BYTES):
        parser.Parse(data[at : at + _TAG_BYTES], False)
        if begins:
            break
    width, height = (size / _MM_PER_UNIT["px"] for size in _svg_size(root, "The drawing"))
    first, end = (row / size[1] * height for row in rows)
    outside = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{size[0]}" height="{rows[1] - rows[0]}" '
        f'viewBox="0 {first!r} {width!r} {end - first!r}" preserveAspectRatio="none">'
        f'<svg width="{width!r}" height="{height!r}" overflow="visible">'
    )
    inside = data[begins[0] :].decode("utf-8")
    if "overflow" not in root.attrib:  # the page outside clips; once more would cost half the time
        inside = re.sub(r"^<[^\s/>]+", r'\g<0> overflow="visible"', inside)
    return f"{outside}{inside}</svg></svg>"


def svg_facts(data: bytes, filename: str, *, trial: bool) -> ArtworkFacts:
    """What an SVG is; `trial` draws it once. Raises ArtworkError when it is broken or needs other files."""
    try:
        root = SafeTree.fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except DefusedXmlException as error:
        raise ArtworkError(
            f"{filename} defines XML entities, which can hide other files: save it as plain SVG."
        ) from error
    except (SafeTree.ParseError, ValueError) as error:
        raise ArtworkError(f"{filename} is not well-formed SVG ({error}): export it again.") from error
    if local_name(root.tag) != "svg":
        raise ArtworkError(f"{filename} is XML but not SVG: export it as SVG.")
    _refuse_references(root, filename)
    try:
        data.decode("utf-8")
    except UnicodeDecodeError as error:
        raise ArtworkError(f"{filename} is not UTF-8 text: save it as UTF-8 SVG.") from error
    width, height = _svg_size(root, filename)
    if trial:
        _try_out(data, width, height, filename)
    notes = [
        f"Text in “{family}” is drawn in Instrument Sans: turn it into outlines to keep its letters."
        for family in sorted(_families(root))
        if family not in SHIPPED_FAMILIES
    ]
    return ArtworkFacts(
        "svg", width / height, None, None, width, height, tuple(notes), fields=fields_of(root)
    )


def _try_out(data: bytes, width: float, height: float, filename: str) -> None:
    """Draw an SVG of a size in mm once. Raises ArtworkError when that fails or takes too long."""
    try:
        scale, began = TRIAL_SIDE / max(width, height), time.process_time()
        draw_svg(data, max(round(width * scale), 1), max(round(height * scale), 1))
    except (ValueError, OSError) as error:
        raise ArtworkError(f"{filename} cannot be drawn ({error}): export it again.") from error
    if time.process_time() - began > TRIAL_S:
        raise ArtworkError(
            f"{filename} takes more than {TRIAL_S:g} s to draw at {TRIAL_SIDE} px, too long to be printed: "
            f"{ARTWORK.relief}"
        )


def local_name(tag: object) -> str:
    """The name of a tag or an attribute without its namespace."""
    return str(tag).rsplit("}", 1)[-1]


def _refuse_references(root: Element, filename: str) -> None:
    for element in root.iter():
        name = local_name(element.tag)
        if name in ("script", "foreignObject"):
            raise ArtworkError(f"{filename} contains <{name}>, which artwork may not: save it as plain SVG.")
        style = (element.text or "") if name == "style" else ""
        for key, value in [*element.attrib.items(), ("style", style)]:
            target = value.strip()
            if local_name(key) in ("href", "src") and target and not target.startswith(("#", "data:")):
                raise _external(filename, target)
            for inside in re.findall(r"url\(\s*['\"]?([^'\")]+)", value):
                if not inside.startswith(("#", "data:")):
                    raise _external(filename, inside)
            if "@import" in value:
                raise _external(filename, "@import")


def _external(filename: str, target: str) -> ArtworkError:
    return ArtworkError(
        f"{filename} refers to another file ({target[:80]}): "
        "embed its pictures and styles, then export again."
    )


def _svg_size(root: Element, filename: str) -> tuple[float, float]:
    """Width and height in mm, from the attributes or, failing them, from the viewBox."""
    box = re.findall(r"[-+0-9.eE]+", root.get("viewBox", ""))
    sizes = [_length(root.get("width")), _length(root.get("height"))]
    try:
        if len(box) == 4:
            sizes = [s or float(b) * _MM_PER_UNIT["px"] for s, b in zip(sizes, box[2:], strict=True)]
        width, height = (float(s or 0) for s in sizes)
    except ValueError:
        width = height = 0.0
    if not (0 < width < 1e5 and 0 < height < 1e5):
        raise ArtworkError(f"{filename} states no size: give the SVG a width and height, or a viewBox.")
    check_aspect(width, height, filename)
    return width, height


def _length(text: str | None) -> float | None:
    match = re.fullmatch(r"\s*([0-9.eE+-]+)\s*(mm|cm|in|pt|pc|px)?\s*", text or "")
    return float(match[1]) * _MM_PER_UNIT[match[2] or ""] if match else None


def _families(root: Element) -> set[str]:
    """First font family of every element that draws text."""
    texts = []
    for element in root.iter():
        sheet = element.text if local_name(element.tag) == "style" else ""
        texts.append(f"font-family:{element.get('font-family')};{element.get('style', '')};{sheet}")
    found = re.findall(r"font-family\s*:\s*['\"]?([^;,'\"}]+)", " ".join(texts))
    generic = {"None", "serif", "sans-serif", "monospace", "inherit"}
    return {name.strip() for name in found} - generic
