"""Pictures of surfaces as the reading process takes them in: colours, gloss, heights, and the directions in
which a surface faces ("normal maps"), which become heights.

Colours are sRGB with their opacity, gloss runs from dead matt to polished, heights from the lowest to the
highest place. None is kept larger than `MOST_SIDE`.
"""

from __future__ import annotations

import io
import re
from dataclasses import asdict, dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError
from scipy import fft, ndimage

from giftwrap.core.errors import ArtworkError
from giftwrap.core.grade.display import encode_srgb
from giftwrap.core.materials.optics import gloss_of_width
from giftwrap.core.reading.bitmaps import damaged
from giftwrap.core.reading.colours import seen
from giftwrap.core.reading.floating import EXR, made_smaller, opened

Part = Literal["colour", "gloss", "relief"]
Taken = Literal[
    "colours", "gloss", "roughness", "roughness in green", "heights", "normals up", "normals down"
]
"""What the numbers of a file are; normals' green points up the picture, or down it."""
Values = NDArray[np.floating[Any]]

MOST_SIDE = 4096
MOST_PIXELS = 300_000_000
MOST_FLOATS = 70_000_000
"""Pixels of a file of floating-point numbers."""
MOST_ASPECT = 16
STEEPEST = 8.0
"""Slope that a direction of a surface may have."""
CLEARLY = 0.8
"""Share of the other's curl from which on one hand of directions is told from the other."""
LOOKED_AT = 1024
"""Texels along each side by which that is told."""
TERRACES = 0.9
"""Texels by which heights of 256 steps are smoothed."""
WORDS: dict[str, tuple[Part, Taken | None]] = {
    **dict.fromkeys(("normal", "normals", "nrm", "norm", "nor", "nml"), ("relief", None)),
    **dict.fromkeys(("height", "heights", "disp", "displacement", "bump", "relief"), ("relief", "heights")),
    **dict.fromkeys(("rough", "roughness", "rgh"), ("gloss", "roughness")),
    **dict.fromkeys(("gloss", "glossiness", "smoothness"), ("gloss", "gloss")),
    **dict.fromkeys(("color", "colour", "albedo", "diffuse", "diff", "basecolor"), ("colour", "colours")),
}
"""What files are called by what is in them (common practice)."""


@dataclass(frozen=True)
class PictureFacts:
    """What a picture of a surface turned out to be.

    depth : of heights that come of directions, their range as a share of the picture's width; else 0
    """

    part: Part
    taken: Taken
    width_px: int
    height_px: int
    depth: float
    notes: tuple[str, ...]


def surface_picture(
    data: bytes, filename: str, *, part: Part | None, taken: Taken | None
) -> tuple[dict[str, Any], bytes]:
    """Facts and NumPy's file of the values: (h, w, 4) uint8 of colours, (h, w) uint8 of gloss, (h, w) uint16
    of heights.

    part, taken : what the file is, where somebody says; else told by its name and what is in it

    Raises ArtworkError for what is no sound picture.
    """
    notes: list[str] = []
    told_part, told_taken = told_by_name(filename)
    image = _opened(data, filename, notes)
    part = part or told_part or ("relief" if _normals(image) else "colour")
    if taken is None:
        taken = told_taken if told_part == part else None
    depth = 0.0
    values: NDArray[Any]
    if part == "colour":
        taken, values = "colours", _colours(image)
    elif part == "gloss":
        rough = taken in ("roughness", "roughness in green")
        taken = taken if taken and rough else "gloss"
        values = _gloss(_grey(_green(image) if taken == "roughness in green" else image)[0], rough=rough)
    else:
        taken, values, depth = _relief(image, taken, filename, notes)
    stream = io.BytesIO()
    np.save(stream, np.ascontiguousarray(values), allow_pickle=False)
    height, width = values.shape[:2]
    return asdict(PictureFacts(part, taken, width, height, depth, tuple(notes))), stream.getvalue()


def told_by_name(filename: str) -> tuple[Part | None, Taken | None]:
    """What a file is by what it is called, where that says it."""
    spread = re.sub(r"([a-z])([A-Z])", r"\1 \2", filename.rsplit(".", 1)[0])
    words = [word for word in re.split(r"[^a-z]+", spread.lower()) if word]
    return next((WORDS[word] for word in reversed(words) if word in WORDS), (None, None))


def _opened(data: bytes, filename: str, notes: list[str]) -> Image.Image | Values:
    """The picture, or its numbers where they are floating-point ones, no larger than is kept."""
    if not data:
        raise ArtworkError(f"{filename} is empty: export it again.")
    found = _exr(data, filename) if data.startswith(EXR) else _bitmap(data, filename, notes)
    if isinstance(found, Image.Image) and found.mode == "F":
        found = np.asarray(found, np.float32)[..., None].copy()
    if isinstance(found, np.ndarray):
        found = _smaller(_filled(found, filename, notes), filename, notes)
    height, width = found.shape[:2] if isinstance(found, np.ndarray) else found.size[::-1]
    if max(width, height) > MOST_ASPECT * min(width, height):
        raise ArtworkError(
            f"{filename} is {width} × {height} px, more than {MOST_ASPECT} times as long as it is broad: "
            "cut a piece of it that repeats."
        )
    return found


def _bitmap(data: bytes, filename: str, notes: list[str]) -> Image.Image:
    Image.MAX_IMAGE_PIXELS = None  # how many are too many is said here
    try:
        image: Image.Image = Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "WEBP", "TIFF"))
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        raise ArtworkError(
            f"{filename} is not a picture that can be read: export it as PNG, JPEG, TIFF, WebP or EXR."
        ) from error
    width, height = image.size
    if width * height > MOST_PIXELS:
        raise ArtworkError(
            f"{filename} is {width:,} × {height:,} px: at most {MOST_PIXELS / 1e6:.0f} megapixels. "
            f"Reduce it: {MOST_SIDE:,} px across is as fine as it is kept."
        )
    factor = 1 if image.mode == "F" else -(-max(width, height) // MOST_SIDE)
    kind = image.format or "picture"
    try:
        image.draft(None, (width // factor, height // factor))  # large photographs are not unpacked whole
        image.load()
    except (OSError, SyntaxError, ValueError) as error:
        raise damaged(filename, kind) from error
    if image.mode in ("P", "PA", "1") or (image.has_transparency_data and image.mode not in ("RGBA", "LA")):
        image = image.convert("RGBA" if image.has_transparency_data else "RGB")
    if factor > 1:
        image = _reduced(image, -(-max(image.size) // MOST_SIDE))
        notes.append(made_smaller(filename, (width, height), image.size))
    return image


def _reduced(image: Image.Image, factor: int) -> Image.Image:
    """Every few pixels as one."""
    if factor == 1:
        return image
    if image.mode.startswith("I"):
        return Image.fromarray(np.round(_fewer(np.asarray(image, np.float32), factor)).astype(np.int32))
    profile, mode = image.info.get("icc_profile"), image.mode
    smaller = image.convert({"RGBA": "RGBa", "LA": "La"}.get(mode, mode)).reduce(factor).convert(mode)
    smaller.info["icc_profile"] = profile
    return smaller


def _fewer(values: Values, factor: int) -> Values:
    height, width = (n // factor * factor for n in values.shape[:2])
    blocks = values[:height, :width].reshape(height // factor, factor, width // factor, factor, -1)
    return np.asarray(blocks.mean(axis=(1, 3)).squeeze(), np.float32)


def _exr(data: bytes, filename: str) -> Values:
    """(h, w, c) of an OpenEXR file."""
    with opened(data, filename, "OpenEXR") as source:
        spec = source.spec()
        if spec.width * spec.height > MOST_FLOATS:
            raise ArtworkError(
                f"{filename} is {spec.width:,} × {spec.height:,} px: OpenEXR is read up to "
                f"{MOST_FLOATS / 1e6:.0f} megapixels. Reduce it."
            )
        pixels = source.read_image(0, 0, 0, min(spec.nchannels, 4), "float")
    if pixels is None:
        raise damaged(filename, "OpenEXR")
    return np.asarray(pixels, np.float32)


def _smaller(values: Values, filename: str, notes: list[str]) -> Values:
    factor = -(-max(values.shape[:2]) // MOST_SIDE)
    if factor > 1:
        height, width = values.shape[:2]
        values = np.atleast_3d(_fewer(values, factor))
        notes.append(made_smaller(filename, (width, height), values.shape[1::-1]))
    return values


def _filled(values: Values, filename: str, notes: list[str]) -> Values:
    """Numbers in place of what is none: each channel's middle."""
    broken = ~np.isfinite(values)
    if not broken.any():
        return values
    count = int(broken.any(axis=2).sum())
    row, column = (int(n) for n in np.argwhere(broken.any(axis=2))[0])
    if count > values.shape[0] * values.shape[1] // 2:
        raise ArtworkError(
            f"Most pixels of {filename} are no numbers (NaN or infinite), the first in row {row + 1}, column "
            f"{column + 1}: export it again."
        )
    for channel in range(values.shape[2]):
        own = values[..., channel]
        own[broken[..., channel]] = np.median(own[~broken[..., channel]])
    notes.append(
        f"{count:,} pixels of {filename} are no numbers, the first in row {row + 1}, column {column + 1}: "
        "they were filled."
    )
    return values


def _colours(image: Image.Image | Values) -> NDArray[np.uint8]:
    """(h, w, 4) sRGB and opacity; numbers of EXR are linear."""
    if isinstance(image, np.ndarray):
        light = image[..., :3] if image.shape[2] >= 3 else np.repeat(image[..., :1], 3, axis=2)
        opacity = image[..., 3:] if image.shape[2] == 4 else np.ones_like(image[..., :1])
        codes = np.concatenate([encode_srgb(np.clip(light, 0, 1)), np.clip(opacity, 0, 1)], axis=2)
        return np.round(255 * codes).astype(np.uint8)
    if image.mode.startswith("I"):
        image = Image.fromarray(np.round(255 * _grey(image)[0]).astype(np.uint8))
    return np.asarray(seen(image, image.info.get("icc_profile")).convert("RGBA"))


def _grey(image: Image.Image | Values) -> tuple[Values, bool]:
    """(h, w) numbers as the file has them, 0 to 1 where it has whole ones; whether these are of 256 steps."""
    if isinstance(image, np.ndarray):
        return np.asarray(image[..., :3].mean(axis=2), np.float32), False
    if image.mode.startswith("I"):
        values = np.asarray(image, np.float32)
        return np.clip(values / 65535, 0, 1), False
    return np.asarray(image.convert("L"), np.float32) / 255, True


def _green(image: Image.Image | Values) -> Image.Image | Values:
    """What glTF keeps roughness in (2.0, 5.22): a picture without colours is that itself."""
    if isinstance(image, np.ndarray):
        return image[..., 1:2] if image.shape[2] >= 3 else image
    return image.convert("RGB").getchannel("G") if image.mode in ("RGB", "RGBA") else image


def _gloss(values: Values, *, rough: bool) -> NDArray[np.uint8]:
    """Roughness is the square root of GGX's width (glTF 2.0, 3.9.3)."""
    values = np.clip(values, 0, 1)
    gloss = gloss_of_width(values * values) if rough else values
    return np.round(255 * np.clip(gloss, 0, 1)).astype(np.uint8)


def _normals(image: Image.Image | Values) -> bool:
    """Whether a picture is of directions: nearly all of length 1, and outwards."""
    if isinstance(image, Image.Image):
        if image.mode not in ("RGB", "RGBA"):
            return False
        small = image.convert("RGB").resize((256, 256), Image.Resampling.NEAREST)
        vectors: Values = 2 * np.asarray(small, np.float32) / 255 - 1
    elif image.shape[2] >= 3:
        vectors = _directions(image[:: -(-image.shape[0] // 256), :: -(-image.shape[1] // 256), :3])
    else:
        return False
    length = np.linalg.norm(vectors, axis=2)
    return bool(np.mean((abs(length - 1) < 0.12) & (vectors[..., 2] > 0)) > 0.9)


def _directions(values: Values) -> Values:
    """(h, w, 3) from −1 to 1, of numbers that run from 0 or from −1."""
    return values if values[..., :2].min() < 0 else 2 * values - 1


def _relief(
    image: Image.Image | Values, taken: Taken | None, filename: str, notes: list[str]
) -> tuple[Taken, NDArray[np.uint16], float]:
    if taken not in ("heights", "normals up", "normals down"):
        taken = None if _normals(image) else "heights"
    if taken == "heights":
        values, coarse = _grey(image)
        if coarse:
            values = np.asarray(ndimage.gaussian_filter(values, TERRACES, mode="wrap"))
        heights, _ = _stretched(values, filename, notes)
        return taken, heights, 0.0
    if isinstance(image, Image.Image):
        vectors: Values = 2 * np.asarray(image.convert("RGB"), np.float32) / 255 - 1
    elif image.shape[2] >= 3:
        vectors = _directions(image[..., :3])
    else:
        raise ArtworkError(f"{filename} has no three channels, so it is no normal map: take it as heights.")
    steep = np.maximum(vectors[..., 2], 1e-3)
    across = np.clip(-vectors[..., 0] / steep, -STEEPEST, STEEPEST)
    up = np.clip(-vectors[..., 1] / steep, -STEEPEST, STEEPEST)
    if taken is None:
        taken, sure = _hand(across, up)
        if not sure:
            notes.append(
                f"Whether green in {filename} is up or down cannot be told: look at it, and turn it."
            )
    values = heights_of(across, -up if taken == "normals up" else up)
    heights, rise = _stretched(values, filename, notes)
    return taken, heights, rise / heights.shape[1]


def _hand(across: Values, up: Values) -> tuple[Taken, bool]:
    """Which way green points, as slopes of a surface have no curl; and whether a piece of it tells."""
    across, up = across[:LOOKED_AT, :LOOKED_AT], up[:LOOKED_AT, :LOOKED_AT]

    def curl(down: Values) -> float:
        left = across[2:, 1:-1] - across[:-2, 1:-1] - down[1:-1, 2:] + down[1:-1, :-2]
        return float(np.mean(np.square(left)))

    if_up, if_down = curl(-up), curl(up)
    taken: Taken = "normals down" if if_down < CLEARLY * if_up else "normals up"
    return taken, min(if_up, if_down) < CLEARLY * max(if_up, if_down)


def heights_of(across: Values, down: Values) -> Values:
    """(h, w) heights in texels, of slopes along rows and down columns: the surface, repeating, whose slopes
    are nearest to them (Frankot and Chellappa 1988)."""
    height, width = across.shape
    right = 2j * np.pi * fft.rfftfreq(width)[None].astype(np.float32)
    below = 2j * np.pi * fft.fftfreq(height)[:, None].astype(np.float32)
    square = np.abs(right) ** 2 + np.abs(below) ** 2
    square[0, 0] = 1
    waves = np.conj(right) * fft.rfft2(across) + np.conj(below) * fft.rfft2(down)
    waves /= square
    waves[0, 0] = 0
    return np.asarray(fft.irfft2(waves, s=(height, width)), np.float32)


def _stretched(values: Values, filename: str, notes: list[str]) -> tuple[NDArray[np.uint16], float]:
    """Heights of 65,536 steps, and how far apart the lowest and the highest are."""
    low, high = float(values.min()), float(values.max())
    if high - low < 1e-6:
        notes.append(f"{filename} is flat: it has no relief.")
        return np.zeros(values.shape, np.uint16), 0.0
    return np.round((values - low) * (65535 / (high - low))).astype(np.uint16), high - low
