"""TIFF of any depth, by OpenImageIO: read in strips, so that large ones need little memory."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from typing import Any

import numpy as np
import OpenImageIO as oiio  # noqa: N813 - the library's own convention
from numpy.typing import NDArray
from PIL import Image

from giftwrap.core.errors import ArtworkError
from giftwrap.core.reading.bitmaps import LEAST_PPI, damaged
from giftwrap.core.reading.colours import colour_notes, seen
from giftwrap.core.reading.facts import MM_PER_INCH, ArtworkFacts, check_aspect

MAX_PIXELS = 420_000_000
STRIP_BYTES = 64_000_000


@contextlib.contextmanager
def _opened(data: bytes) -> Iterator[Any]:
    """A TIFF's first picture as it is, without a file of its own."""
    oiio.attribute("threads", 2)
    handle = os.memfd_create("artwork.tif")
    try:
        _written(handle, data)
        config = oiio.ImageSpec()
        config["oiio:RawColor"] = 1
        config["oiio:UnassociatedAlpha"] = 0
        image = oiio.ImageInput.open(f"/proc/self/fd/{handle}", config)
        if image is None:
            raise OSError(oiio.geterror())
        yield image
        image.close()
    finally:
        os.close(handle)


def _written(handle: int, data: bytes) -> None:
    left = memoryview(data)
    while left:
        left = left[os.write(handle, left) :]


def tiff_facts(data: bytes, filename: str, *, trial: bool) -> ArtworkFacts:
    """What a TIFF is; `trial` reads it to its end. Raises ArtworkError when it is damaged or too large."""
    try:
        with _opened(data) as image:
            spec = image.spec()
            width, height = spec.width, spec.height
            _refuse_large(width, height, filename)
            mode, extra = _mode(spec)
            profile = _profile(spec)
            if trial:
                for _ in _strips(image, spec, 1):
                    pass
    except OSError as error:
        raise damaged(filename, "TIFF") from error
    check_aspect(width, height, filename)
    notes = colour_notes(mode, profile, filename)
    if extra:
        notes.append(f"{extra} more channels of {filename} were left out.")
    if not filename.lower().endswith((".tif", ".tiff")):
        notes.insert(0, f"{filename} is really a TIFF and was read as one.")
    ppi = float(spec.getattribute("XResolution") or 0.0)
    if spec.getattribute("ResolutionUnit") == "cm":
        ppi *= MM_PER_INCH / 10
    stated = ppi > LEAST_PPI
    return ArtworkFacts(
        kind="tiff",
        aspect=width / height,
        width_px=width,
        height_px=height,
        width=width / ppi * MM_PER_INCH if stated else None,
        height=height / ppi * MM_PER_INCH if stated else None,
        notes=tuple(notes),
    )


def draw_tiff(data: bytes, width_px: int, height_px: int) -> Image.Image:
    """A TIFF at a size in px or larger, sRGB, RGB or RGBA."""
    with _opened(data) as image:
        spec = image.spec()
        step = max(min(spec.width // width_px, spec.height // height_px), 1)
        rows = np.concatenate(list(_strips(image, spec, step)))
        mode, _ = _mode(spec)
        drawn = Image.fromarray(rows[..., 0] if rows.shape[2] == 1 else rows, mode)
        return seen(drawn.convert("RGBA") if mode == "RGBa" else drawn, _profile(spec))


def _refuse_large(width: int, height: int, filename: str) -> None:
    if width * height > MAX_PIXELS:
        raise ArtworkError(
            f"{filename} is {width:,} × {height:,} px ({width * height / 1e6:.0f} megapixels): at most "
            f"{MAX_PIXELS / 1e6:.0f} megapixels. Reduce it: a 300 mm label needs 4,700 px at 400 ppi."
        )


def _mode(spec: Any) -> tuple[str, int]:
    """How a TIFF's channels are understood, and how many are left over."""
    inks = spec.getattribute("tiff:PhotometricInterpretation") == 5 or spec.channelnames[:1] == ("C",)
    if spec.nchannels >= 4 and (inks or spec.getattribute("tiff:ColorSpace") == "CMYK"):
        return "CMYK", spec.nchannels - 4
    if spec.nchannels >= 4 and spec.alpha_channel == 3:
        return "RGBa", spec.nchannels - 4
    if spec.nchannels >= 3:
        return "RGB", spec.nchannels - 3
    return "L", spec.nchannels - 1


def _profile(spec: Any) -> bytes | None:
    found = spec.getattribute("ICCProfile")
    return None if found is None else bytes(np.asarray(found, np.uint8))


def _strips(image: Any, spec: Any, step: int) -> Iterator[NDArray[np.uint8]]:
    """(rows, columns, channels) of a picture from its top, each the mean of `step` × `step` pixels.

    Raises OSError when it breaks off.
    """
    mode, _ = _mode(spec)
    channels = len(mode)
    wide = spec.width // step * step
    tall = spec.tile_height or 1
    rows = max(STRIP_BYTES // (spec.width * spec.nchannels) // (step * tall), 1) * step * tall
    for top in range(0, spec.height, rows):
        foot = min(top + rows, spec.height)
        if spec.tile_width:
            right = -(-spec.width // spec.tile_width) * spec.tile_width
            below = -(-foot // tall) * tall
            read = image.read_tiles(0, right, top, below, 0, 1, 0, channels, oiio.UINT8)
            if read is not None:
                read = read.reshape(below - top, right, channels)[: foot - top, : spec.width]
        else:
            read = image.read_scanlines(top, foot, 0, 0, channels, oiio.UINT8)
        if read is None:
            raise OSError(image.geterror())
        whole = (foot - top) // step * step
        if whole:
            blocks = read[:whole, :wide].reshape(whole // step, step, wide // step, step, channels)
            small = blocks[:, 0, :, 0] if step == 1 else blocks.mean(axis=(1, 3), dtype=np.float32)
            yield np.asarray(small, np.uint8)
