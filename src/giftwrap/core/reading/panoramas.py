"""Pictures of everything around as the reading process takes them in: Radiance HDR and OpenEXR with latitude
and longitude, of linear light."""

from __future__ import annotations

import io
import math
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.around import falls_beneath
from giftwrap.core.errors import ArtworkError
from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.reading.bitmaps import damaged
from giftwrap.core.reading.floating import EXR, made_smaller, opened

Floats = NDArray[np.float32]

MOST_ROWS = 2048
"""That are kept."""
MOST_PIXELS = 16_384 * 8_192
BEGINNINGS = {EXR: "OpenEXR", b"#?RADIANCE": "Radiance HDR", b"#?RGBE": "Radiance HDR"}
FEWEST_ROWS = 4
OTHERS = {
    (1, 1): "a mirror ball or an angular map",
    (4, 3): "a cube laid out as a cross",
    (3, 4): "a cube laid out as a cross",
    (6, 1): "the sides of a cube in a row",
    (1, 6): "the sides of a cube in a column",
}
"""What pictures of other aspects usually are (common practice)."""


@dataclass(frozen=True)
class PanoramaFacts:
    """What a picture of everything around turned out to be.

    width_px, height_px : as it is kept
    lying : luminance of a white sheet that lies beneath it
    contrast : its brightest place over its mean, by luminance
    """

    width_px: int
    height_px: int
    lying: float
    contrast: float
    notes: tuple[str, ...]


def panorama(data: bytes, filename: str) -> tuple[dict[str, Any], bytes]:
    """Facts, and the picture as it is kept (`packed`).

    Raises ArtworkError for what is no sound picture of everything around.
    """
    if not data:
        raise ArtworkError(f"{filename} is empty: export it again.")
    kind = next((kind for begin, kind in BEGINNINGS.items() if data.startswith(begin)), None)
    if kind is None:
        raise ArtworkError(
            f"{filename} is neither Radiance HDR nor OpenEXR: a surround must hold light as it is, without "
            "the limits of a screen. Export it as .hdr or .exr."
        )
    notes: list[str] = []
    light = _sound(_read(data, filename, kind, notes), filename, notes)
    bright = light @ LUMINANCE
    if float(bright.max()) <= 0:
        raise ArtworkError(f"{filename} is black everywhere: choose another picture.")
    rows, columns = bright.shape
    facts = PanoramaFacts(
        columns,
        rows,
        float(falls_beneath(light) @ LUMINANCE) / math.pi,
        float(bright.max() / bright.mean()),
        tuple(notes),
    )
    return asdict(facts), packed(light)


def _read(data: bytes, filename: str, kind: str, notes: list[str]) -> Floats:
    """(rows, 2 rows, 3), no larger than is kept."""
    with opened(data, filename, kind) as source:
        spec = source.spec()
        refuse_other_shapes(filename, spec.width, spec.height)
        factor = -(-spec.height // MOST_ROWS)
        rows, channels = spec.height // factor, 3 if spec.nchannels >= 3 else 1
        light = np.empty((rows, 2 * rows, 3), np.float32)
        for row in range(rows):
            band = source.read_scanlines(row * factor, (row + 1) * factor, 0, 0, channels, "float")
            if band is None:
                raise damaged(filename, kind)
            band = np.asarray(band, np.float32).reshape(factor, spec.width, channels)
            blocks = band[:, : 2 * rows * factor].reshape(factor, 2 * rows, factor, channels)
            light[row] = blocks.mean(axis=(0, 2), dtype=np.float32)
    if factor > 1:
        notes.append(made_smaller(filename, (spec.width, spec.height), (2 * rows, rows)))
    return light


def refuse_other_shapes(filename: str, width: int, height: int) -> None:
    """Raise ArtworkError for a picture of so many px that is too large, or has no latitude and longitude."""
    if width * height > MOST_PIXELS:
        raise ArtworkError(
            f"{filename} is {width:,} × {height:,} px: at most 16,384 × 8,192. Reduce it; "
            f"{2 * MOST_ROWS:,} × {MOST_ROWS:,} is as fine as it is kept."
        )
    if width == 2 * height and height >= FEWEST_ROWS:
        return
    if width == 2 * height:
        raise ArtworkError(f"{filename} is only {width} × {height} px: choose a larger picture.")
    other = next((words for (a, b), words in OTHERS.items() if width * b == height * a), None)
    is_like = f", as {other} is" if other else ""
    raise ArtworkError(
        f"{filename} is {width:,} × {height:,} px{is_like}: a surround has latitude and longitude and is "
        "twice as wide as high. Convert it to that (equirectangular)."
    )


def _sound(light: Floats, filename: str, notes: list[str]) -> Floats:
    """Light that can be: what is infinite becomes the brightest that is not, what is none or less is dark."""
    none = np.isnan(light)
    endless = np.isinf(light) & (light > 0)
    less = (light < 0) | none
    if endless.all(axis=2).mean() > 0.5 or none.any(axis=2).mean() > 0.5:
        raise ArtworkError(f"Most pixels of {filename} are no numbers (NaN or infinite): export it again.")
    finite = np.where(endless | less, 0, light)
    for broken, words in (
        (endless, "are infinitely bright: they are as bright as the brightest of the others"),
        (none, "are no numbers: they are dark"),
        (less & ~none, "are darker than black: they are black"),
    ):
        count = int(broken.any(axis=2).sum())
        if count:
            row, column = (int(n) for n in np.argwhere(broken.any(axis=2))[0])
            notes.append(
                f"{count:,} pixels of {filename}, the first in row {row + 1}, column {column + 1}, {words}."
            )
    finite[endless] = float(finite.max())
    return np.asarray(finite, np.float32)


def packed(light: Floats) -> bytes:
    """A picture of linear light, (rows, 2 rows, 3), as it is kept: halves, its brightest at 60,000."""
    scale = max(float(light.max()) / 60_000, 1e-12)
    stream = io.BytesIO()
    np.savez(stream, light=(light / scale).astype(np.float16), scale=np.float32(scale))
    return stream.getvalue()
