"""Writing pictures: PNG with 16 bits a channel, small JPEGs for pages, linear OpenEXR."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import OpenImageIO as oiio  # noqa: N813 - the library's own convention
from numpy.typing import NDArray
from PIL import Image

from giftwrap.core.errors import GiftwrapError

Floats = NDArray[np.float32]


def write_png(path: Path, picture: Floats) -> None:
    """Write sRGB code values 0..1, (h, w, 3), as a 16-bit PNG marked as sRGB."""
    _write(path, picture, "uint16", {"oiio:ColorSpace": "sRGB"})


def write_exr(path: Path, light: Floats) -> None:
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


def _write(path: Path, pixels: Floats, kind: str, attributes: dict[str, str]) -> None:
    """Write beside the target and move into place, so that no half picture is ever seen."""
    height, width, channels = pixels.shape
    spec = oiio.ImageSpec(width, height, channels, kind)
    for name, value in attributes.items():
        spec.attribute(name, value)
    partial = path.with_name(f".part-{path.name}")
    target = oiio.ImageOutput.create(str(partial))
    if target is None or not target.open(str(partial), spec):
        raise GiftwrapError(f"{path} cannot be written ({oiio.geterror()}): choose a .png or .exr file.")
    target.write_image(np.ascontiguousarray(pixels, dtype=np.float32))
    target.close()
    partial.replace(path)
