"""Writing pictures: PNG with 16 bits a channel, small JPEGs for pages, linear OpenEXR."""

from __future__ import annotations

import io
import shutil
from pathlib import Path
from typing import Any

import numpy as np
import OpenImageIO as oiio  # noqa: N813 - the library's own convention
from numpy.typing import NDArray
from PIL import Image

from giftwrap.core.errors import DiskFull, GiftwrapError
from giftwrap.core.formats.whole import whole

Floats = NDArray[np.float32]

ROWS_AT_A_TIME = 64
PNG_EFFORT = 4
"""Of 1 to 9: the usual 6 takes more than twice as long for files three per cent smaller."""
LEAST_ROOM = 1_000_000
"""With less room than this in bytes, writing fails because the disk is full."""


def write_png(path: Path, picture: NDArray[Any]) -> None:
    """Write sRGB code values, (h, w, 3), 0..1 or 16-bit, as a 16-bit PNG marked as sRGB."""
    _write(path, picture, "uint16", {"oiio:ColorSpace": "sRGB", "png:compressionLevel": PNG_EFFORT})


def write_exr(path: Path, light: NDArray[Any]) -> None:
    """Write linear Rec.709 light, (h, w, 3), as OpenEXR in half precision."""
    _write(path, light, "half", {"compression": "zip"})


def read_linear(path: Path) -> Floats:
    """Read a picture's values as stored, (h, w, channels) float."""
    source = oiio.ImageInput.open(str(path))
    if source is None:
        raise GiftwrapError(f"{path.name} cannot be opened: {oiio.geterror()}")
    pixels: Floats = np.asarray(source.read_image("float"), dtype=np.float32)
    source.close()
    return pixels


def jpeg_bytes(picture: Floats, *, quality: int = 88) -> bytes:
    """Encode sRGB code values 0..1, (h, w, 3), as a JPEG for the page."""
    stream = io.BytesIO()
    Image.fromarray(to_8_bit(picture)).save(stream, "JPEG", quality=quality, subsampling=0)
    return stream.getvalue()


def to_8_bit(picture: Floats) -> NDArray[np.uint8]:
    """sRGB code values 0..1 rounded to bytes."""
    return (np.clip(picture, 0, 1) * 255 + 0.5).astype(np.uint8)


def reduced(picture: NDArray[Any], side: int) -> NDArray[Any]:
    """Every n-th pixel averaged so that the longest side is at most `side`; works on memory-mapped
    pictures a few rows at a time.

    picture : (h, w, 3) of any kind of number; returns : (h', w', 3) float32, at least 1 px each way
    """
    height, width = picture.shape[:2]
    step = -(-max(height, width) // side)
    if step <= 1:
        return np.asarray(picture, np.float32)
    down, across = min(step, height), min(step, width)
    rows, columns = height // down, width // across
    small = np.empty((rows, columns, 3), np.float32)
    for row in range(rows):
        band = np.asarray(picture[row * down : (row + 1) * down, : columns * across], np.float32)
        small[row] = band.reshape(down, columns, across, 3).mean(axis=(0, 2))
    return small


def _write(path: Path, pixels: NDArray[Any], kind: str, attributes: dict[str, str | int]) -> None:
    """Write a few rows at a time, so that a picture kept on disk need not fit in memory.

    pixels : floats, or numbers as the file holds them
    """
    height, width, channels = pixels.shape
    spec = oiio.ImageSpec(width, height, channels, kind)
    for name, value in attributes.items():
        spec.attribute(name, value)
    with whole(path) as partial:
        target = oiio.ImageOutput.create(path.name)
        if target is None or not target.open(str(partial), spec):
            raise GiftwrapError(f"{path} cannot be written ({oiio.geterror()}): choose a .png or .exr file.")
        for top in range(0, height, ROWS_AT_A_TIME):
            rows = np.ascontiguousarray(pixels[top : top + ROWS_AT_A_TIME])
            rows = rows if rows.dtype == np.uint16 else rows.astype(np.float32, copy=False)
            if not target.write_scanlines(top, top + len(rows), 0, rows):
                raise not_written(path, target)
        if not target.close():
            raise not_written(path, target)


def not_written(path: Path, target: Any) -> GiftwrapError:
    """Why a file could not be written: the library does not say it with an error of its own."""
    if shutil.disk_usage(path.parent).free < LEAST_ROOM:
        return DiskFull()
    return GiftwrapError(f"{path.name} cannot be written: {target.geterror()}")
