"""Reading a designer's file: what it is, how large, and whether it can be trusted.

`read_artwork` and `rasterise` are what others call; the work is done in the reading process.
"""

from __future__ import annotations

import io
import re
import time
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Literal
from xml.etree.ElementTree import Element
from xml.parsers.expat import ParserCreate

import defusedxml.ElementTree as SafeTree
import resvg_py
from defusedxml.common import DefusedXmlException
from PIL import Image, UnidentifiedImageError

from giftwrap.core.errors import ArtworkError
from giftwrap.core.reading import ARTWORK, Limits, read_apart

Kind = Literal["png", "jpeg", "svg"]

MAX_BYTES = 64 * 1024 * 1024
MAX_PIXELS = 120_000_000
MAX_ASPECT = 200.0
"""Longer side of an artwork over its shorter one: what is thinner is a mistake in its size."""
MAX_RASTER_PIXELS = 80_000_000
TRIAL_SIDE, TRIAL_S = 600, 1.5
"""A drawing is tried at so many px along its longer side before it is taken in, and may take so many
seconds: a print has up to 100 times as many."""
FONT_DIRECTORY = Path(__file__).parent.parent / "fonts"
SHIPPED_FAMILIES = ("Fraunces", "Instrument Sans", "Spline Sans Mono")
MM_PER_INCH = 25.4
CSS_PPI = 96.0
_TAG_BYTES = 4096
"""How much of a drawing is parsed at a time until its first tag is found."""
"""CSS pixels per inch, by definition (CSS Values and Units, level 3, section 6.2)."""

_SIGNATURES: tuple[tuple[bytes, str], ...] = (
    (b"\x89PNG\r\n\x1a\n", "PNG"),
    (b"\xff\xd8\xff", "JPEG"),
    (b"%PDF", "PDF"),
    (b"GIF8", "GIF"),
    (b"II*\x00", "TIFF"),
    (b"MM\x00*", "TIFF"),
    (b"8BPS", "layered bitmap"),
    (b"RIFF", "WebP or RIFF"),
    (b"PK\x03\x04", "ZIP archive"),
    (b"BM", "BMP"),
)
_MM_PER_UNIT = {
    "mm": 1.0,
    "cm": 10.0,
    "in": MM_PER_INCH,
    "pt": MM_PER_INCH / 72,
    "pc": MM_PER_INCH / 6,
    "px": MM_PER_INCH / CSS_PPI,
    "": MM_PER_INCH / CSS_PPI,
}


@dataclass(frozen=True)
class ArtworkFacts:
    """What a file turned out to be. `width` and `height` are its own size in mm, if it states one."""

    kind: Kind
    aspect: float
    width_px: int | None
    height_px: int | None
    width: float | None
    height: float | None
    notes: tuple[str, ...] = ()


def read_artwork(source: bytes | Path, filename: str, *, known: bool = False) -> ArtworkFacts:
    """Identify and check an artwork file by what is in it, not by its name.

    source : its bytes, or where it lies
    known : whether it was read before, so that it need not be tried out again

    Raises ArtworkError for anything that is not a sound PNG, JPEG or self-contained SVG, or takes
    more to draw than a label may.
    """
    head, _ = read_apart(
        f"{__name__}:artwork_facts",
        source,
        filename,
        limits=ARTWORK,
        refusal=ArtworkError,
        known=known,
        filename=filename,
        trial=not known,
    )
    return ArtworkFacts(**{**head, "notes": tuple(head["notes"])})


def rasterise(
    source: bytes | Path, kind: Kind, width_px: int, height_px: int, *, limits: Limits = ARTWORK
) -> Image.Image:
    """Artwork that was read before, at a size in pixels, RGBA, its alpha kept apart.

    Raises ArtworkError when it takes more to draw than limits allow.
    """
    if not 0 < width_px * height_px <= MAX_RASTER_PIXELS:
        raise ArtworkError(
            f"Artwork of {width_px} × {height_px} px is more than can be drawn: place it smaller."
        )
    call, size = f"{__name__}:drawn", {"width_px": width_px, "height_px": height_px}
    _, body = read_apart(
        call, source, "The artwork", limits=limits, refusal=ArtworkError, known=True, kind=kind, **size
    )
    return Image.frombytes("RGBA", (width_px, height_px), body)


def artwork_facts(data: bytes, filename: str, *, trial: bool) -> tuple[dict[str, Any], bytes]:
    """`read_artwork` as it is done in the reading process."""
    return asdict(_facts(data, filename, trial=trial)), b""


def drawn(data: bytes, kind: Kind, width_px: int, height_px: int) -> tuple[dict[str, Any], bytes]:
    """`rasterise` as it is done in the reading process: its pixels, four bytes each, top row first."""
    return {}, _draw(data, kind, width_px, height_px).tobytes()


def _facts(data: bytes, filename: str, *, trial: bool) -> ArtworkFacts:
    if not data:
        raise ArtworkError(f"{filename} is empty: export it again.")
    if len(data) > MAX_BYTES:
        raise ArtworkError(
            f"{filename} is {len(data) / 1e6:.0f} MB: artwork may be at most {MAX_BYTES / 1e6:.0f} MB. "
            "Export it smaller, or as SVG."
        )
    found = next((name for signature, name in _SIGNATURES if data.startswith(signature)), None)
    if found in ("PNG", "JPEG"):
        return _read_bitmap(data, filename, found, trial=trial)
    if found is None and b"<svg" in data[:4096].lower().replace(b"<svg:svg", b"<svg"):
        return _read_svg(data, filename, trial=trial)
    what = f"is really a {found} file" if found else "is not a picture that can be read"
    raise ArtworkError(f"{filename} {what}: export it as PNG, JPEG or SVG.")


def _draw(data: bytes, kind: Kind, width_px: int, height_px: int) -> Image.Image:
    if kind == "svg":
        png = resvg_py.svg_to_bytes(
            svg_string=_filling(data, width_px, height_px),
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
        image = Image.open(io.BytesIO(bytes(png))).convert("RGBA")
    else:
        image = Image.open(io.BytesIO(data))
        image.draft(None, (width_px, height_px))  # large photographs are not unpacked whole
        clear = image.has_transparency_data
        image = image.convert("RGBA" if clear else "RGB")
    if image.size != (width_px, height_px):
        image = image.convert("RGBa" if image.mode == "RGBA" else "RGB")
        image = image.resize((width_px, height_px), Image.Resampling.LANCZOS)
    return image.convert("RGBA")


def _filling(data: bytes, width_px: int, height_px: int) -> str:
    """An SVG inside one of exactly so many px: by itself a page is rounded to whole CSS pixels first."""
    begins: list[int] = []
    root = Element("svg")
    parser = ParserCreate()

    def start(_: str, attributes: dict[str, str]) -> None:
        if not begins:
            begins.append(parser.CurrentByteIndex)
            root.attrib.update(attributes)

    parser.StartElementHandler = start
    for first in range(0, len(data), _TAG_BYTES):
        parser.Parse(data[first : first + _TAG_BYTES], False)
        if begins:
            break
    width, height = (size / _MM_PER_UNIT["px"] for size in _svg_size(root, "The drawing"))
    outside = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width_px}" height="{height_px}" '
        f'viewBox="0 0 {width!r} {height!r}" preserveAspectRatio="none">'
    )
    return f"{outside}{data[begins[0] :].decode('utf-8')}</svg>"


def _read_bitmap(data: bytes, filename: str, found: str, *, trial: bool) -> ArtworkFacts:
    try:
        image = Image.open(io.BytesIO(data))
        width_px, height_px = image.size
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        raise _damaged(filename, found) from error
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
        raise _damaged(filename, found) from error
    _check_aspect(width_px, height_px, filename)
    notes = []
    if not filename.lower().endswith((".png",) if found == "PNG" else (".jpg", ".jpeg", ".jpe")):
        notes.append(f"{filename} is really a {found} and was read as one.")
    if image.mode == "CMYK":
        notes.append("CMYK was converted to RGB without an ink profile: colours are approximate.")
    ppi = image.info.get("dpi")
    ppi_x = float(ppi[0]) if ppi and float(ppi[0]) > 20 else None
    return ArtworkFacts(
        kind="png" if found == "PNG" else "jpeg",
        aspect=width_px / height_px,
        width_px=width_px,
        height_px=height_px,
        width=width_px / ppi_x * MM_PER_INCH if ppi_x else None,
        height=height_px / ppi_x * MM_PER_INCH if ppi_x else None,
        notes=tuple(notes),
    )


def _damaged(filename: str, found: str) -> ArtworkError:
    return ArtworkError(
        f"{filename} starts like a {found} but is damaged or cut short: export or copy it again."
    )


def _read_svg(data: bytes, filename: str, *, trial: bool) -> ArtworkFacts:
    try:
        root = SafeTree.fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except DefusedXmlException as error:
        raise ArtworkError(
            f"{filename} defines XML entities, which can hide other files: save it as plain SVG."
        ) from error
    except (SafeTree.ParseError, ValueError) as error:
        raise ArtworkError(f"{filename} is not well-formed SVG ({error}): export it again.") from error
    if _local(root.tag) != "svg":
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
    return ArtworkFacts("svg", width / height, None, None, width, height, tuple(notes))


def _try_out(data: bytes, width: float, height: float, filename: str) -> None:
    """Draw an SVG of a size in mm once. Raises ArtworkError when that fails or takes too long."""
    try:
        scale, began = TRIAL_SIDE / max(width, height), time.process_time()
        _draw(data, "svg", max(round(width * scale), 1), max(round(height * scale), 1))
    except (ValueError, OSError) as error:
        raise ArtworkError(f"{filename} cannot be drawn ({error}): export it again.") from error
    if time.process_time() - began > TRIAL_S:
        raise ArtworkError(
            f"{filename} takes more than {TRIAL_S:g} s to draw at {TRIAL_SIDE} px, too long to be printed: "
            f"{ARTWORK.relief}"
        )


def _local(tag: object) -> str:
    return str(tag).rsplit("}", 1)[-1]


def _refuse_references(root: Element, filename: str) -> None:
    for element in root.iter():
        name = _local(element.tag)
        if name in ("script", "foreignObject"):
            raise ArtworkError(f"{filename} contains <{name}>, which artwork may not: save it as plain SVG.")
        style = (element.text or "") if name == "style" else ""
        for key, value in [*element.attrib.items(), ("style", style)]:
            target = value.strip()
            if _local(key) in ("href", "src") and target and not target.startswith(("#", "data:")):
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
    _check_aspect(width, height, filename)
    return width, height


def _check_aspect(width: float, height: float, filename: str) -> None:
    if max(width, height) > MAX_ASPECT * min(width, height):
        raise ArtworkError(
            f"{filename} is {width:.6g} wide and {height:.6g} high, more than {MAX_ASPECT:g} times as long "
            "as it is broad: correct its size where it was made and export it again."
        )


def _length(text: str | None) -> float | None:
    match = re.fullmatch(r"\s*([0-9.eE+-]+)\s*(mm|cm|in|pt|pc|px)?\s*", text or "")
    return float(match[1]) * _MM_PER_UNIT[match[2] or ""] if match else None


def _families(root: Element) -> set[str]:
    """First font family of every element that draws text."""
    texts = []
    for element in root.iter():
        sheet = element.text if _local(element.tag) == "style" else ""
        texts.append(f"font-family:{element.get('font-family')};{element.get('style', '')};{sheet}")
    found = re.findall(r"font-family\s*:\s*['\"]?([^;,'\"}]+)", " ".join(texts))
    generic = {"None", "serif", "sans-serif", "monospace", "inherit"}
    return {name.strip() for name in found} - generic
