"""Pictures on materials: brought in, kept, and laid out as kernels read them.

A picture is kept as an array in NumPy's own format, already read: what a stranger sent is parsed once, apart,
and is at hand in a fraction of a second ever after.
"""

from __future__ import annotations

import io
import threading
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from cachetools import LRUCache, cached
from numpy.typing import NDArray
from PIL import Image

from giftwrap.core.errors import ArtworkError
from giftwrap.core.materials.optics import Optics
from giftwrap.core.materials.patterns import Pattern
from giftwrap.core.materials.surfaces import Part, PictureFacts, Taken
from giftwrap.core.model.material import Material
from giftwrap.core.model.worked import Pictures
from giftwrap.core.reading import PICTURE, read_apart

MAX_BYTES = 400_000_000
"""Of a file that is sent."""
KEPT_BYTES = 700_000_000
THUMB = 96
"""px of a picture as it is shown on a page."""
KINDS: dict[Part, tuple[type, int]] = {
    "colour": (np.uint8, 3),
    "gloss": (np.uint8, 2),
    "relief": (np.uint16, 2),
}
"""Numbers and dimensions of each."""
PARTS: tuple[Part, ...] = tuple(KINDS)
_lock = threading.Lock()


def read_picture(
    source: bytes | Path, filename: str, *, part: Part | None = None, taken: Taken | None = None
) -> tuple[PictureFacts, bytes]:
    """A picture of a surface, and what is kept of it.

    part, taken : what it is, where somebody says; else told by its name and what is in it

    Raises ArtworkError for what is no sound picture, or takes more to read than it may.
    """
    head, body = read_apart(
        "giftwrap.core.materials.surfaces:surface_picture",
        source,
        filename,
        limits=PICTURE,
        refusal=ArtworkError,
        filename=filename,
        part=part,
        taken=taken,
    )
    return PictureFacts(**{**head, "notes": tuple(head["notes"])}), body


def picture_values(data: bytes, part: Part) -> NDArray[Any]:
    """The array of a picture that is kept, top row first. Raises ArtworkError when it is none of its part."""
    number, dimensions = KINDS[part]
    try:
        values: NDArray[Any] = np.load(io.BytesIO(data), allow_pickle=False)
    except (ValueError, OSError, EOFError) as error:
        raise ArtworkError(
            f"What was kept of a picture of {part} cannot be read: choose it again."
        ) from error
    if values.dtype != number or values.ndim != dimensions or (part == "colour" and values.shape[2] != 4):
        raise ArtworkError(f"What is named as a picture of {part} is none: choose it again.")
    return values


def picture_image(data: bytes, part: Part) -> Image.Image:
    """A picture that is kept, as one that can be written: RGB or RGBA, L, or 16 bits of grey."""
    values = picture_values(data, part)
    covers = part == "colour" and bool((values[..., 3] == 255).all())
    return Image.fromarray(values[..., :3] if covers else values)


def picture_thumb(data: bytes) -> bytes:
    """A kept picture of any part, small, as WebP."""
    for part in PARTS:
        try:
            values = picture_values(data, part)
        except ArtworkError:
            continue
        step = max(max(values.shape[:2]) // (4 * THUMB), 1)
        few = values[::step, ::step]
        image = Image.fromarray((few >> 8).astype(np.uint8) if part == "relief" else few)
        image.thumbnail((THUMB, THUMB))
        stream = io.BytesIO()
        image.save(stream, "WEBP", quality=85)
        return stream.getvalue()
    raise ArtworkError("This file is no picture of a surface: choose it again.")


def has_pictured_colour(material: Material) -> bool:
    """Whether it is a picture that says where a material has which colour."""
    return material.pictures is not None and material.pictures.colour is not None


def pictured(optics: Optics, files: Mapping[str, bytes]) -> Optics:
    """Optics with the pictures that their details name.

    files : contents by SHA-256

    Raises ArtworkError when one is not there or is no picture.
    """
    detail = optics.detail
    if detail is None or detail.grain is None or detail.grain.pictures is None:
        return optics
    return replace(optics, detail=replace(detail, sheet=sheet_of(detail.grain.pictures, files)))


@cached(
    LRUCache(KEPT_BYTES, getsizeof=lambda sheet: sheet.nbytes),
    key=lambda pictures, files: pictures,
    lock=_lock,
)
def sheet_of(pictures: Pictures, files: Mapping[str, bytes]) -> Pattern:
    """Pictures as a pattern, the first row lowest, of period 1 across; the same one for the same pictures.

    Raises ArtworkError when one is not there or is no picture.
    """
    given: dict[Part, NDArray[Any]] = {}
    for part in PARTS:
        sha256 = getattr(pictures, part)
        if sha256 is None:
            continue
        if sha256 not in files:
            raise ArtworkError(f"The picture of {part} of a material is not there any more: choose it again.")
        given[part] = picture_values(files[sha256], part)[::-1]
    first = max(given.values(), key=lambda values: values.shape[1])
    height, width = first.shape[:2]
    relief, gloss, colour = given.get("relief"), given.get("gloss"), given.get("colour")
    if relief is not None and gloss is not None and relief.shape != gloss.shape:
        size = relief.shape[::-1]
        gloss = np.asarray(Image.fromarray(gloss).resize(size, Image.Resampling.BILINEAR))
    shape = next((values.shape for values in (relief, gloss) if values is not None), (1, 1))
    texels: NDArray[Any] = np.full(shape, 128 << 8, np.uint32)
    if gloss is not None:
        texels = gloss.astype(np.uint32) << 8
    if relief is not None:
        texels |= relief.astype(np.uint32) << 16
    colours = None if colour is None else np.ascontiguousarray(colour).view(np.uint32)[..., 0]
    return Pattern(texels[None], (1.0, height / width, 1.0), colours=colours, glossed=gloss is not None)
