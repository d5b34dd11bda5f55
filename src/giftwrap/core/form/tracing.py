"""Laying a photo behind the half-profile: upright, on its axis, to scale."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PIL import Image, ImageOps, UnidentifiedImageError

from giftwrap.core.errors import ArtworkError, PackError
from giftwrap.core.model import Tracing
from giftwrap.core.reading import PHOTO, read_apart

MAX_PIXELS = 400_000_000
MAX_UNPACKED = 200_000_000
"""Pixels that are held in memory while a photo is made smaller."""
SHOWN_SIDE = 2400
"""A photo is kept this large at its longer side: more than a screen shows."""

Point = tuple[float, float]


@dataclass(frozen=True)
class Photo:
    """A photo made ready to be traced: a JPEG and its size in px."""

    data: bytes
    width_px: int
    height_px: int


def read_photo(source: bytes | Path, name: str) -> Photo:
    """Read a photo of any size, upright as its camera held it, and make it as small as the screen needs.

    source : its bytes, or where it lies

    Raises ArtworkError when it is no picture, damaged or beyond reading.
    """
    head, body = read_apart(
        f"{__name__}:photo_answer", source, name, limits=PHOTO, refusal=ArtworkError, name=name
    )
    return Photo(body, head["width_px"], head["height_px"])


def photo_answer(data: bytes, name: str) -> tuple[dict[str, Any], bytes]:
    """`read_photo` as it is done in the reading process: its size, and a JPEG."""
    Image.MAX_IMAGE_PIXELS = None  # how many are too many is said here
    try:
        image = Image.open(io.BytesIO(data))
        width, height = image.size
        image.draft("RGB", (SHOWN_SIDE, SHOWN_SIDE))
        if width * height > MAX_PIXELS or image.width * image.height > MAX_UNPACKED:
            raise ArtworkError(
                f"{name} has {width * height / 1e6:.0f} megapixels: at most {MAX_UNPACKED / 1e6:.0f} can be "
                f"traced, of a JPEG {MAX_PIXELS / 1e6:.0f}. Save it smaller."
            )
        image.thumbnail((SHOWN_SIDE, SHOWN_SIDE))
        upright = ImageOps.exif_transpose(image) or image
        flat = Image.new("RGB", upright.size, "white")
        clear = upright.convert("RGBA")
        flat.paste(clear, mask=clear.getchannel("A"))
    except UnidentifiedImageError as error:
        raise ArtworkError(f"{name} is not a photo that can be read: save it as JPEG or PNG.") from error
    except ArtworkError:
        raise
    except (OSError, SyntaxError, ValueError) as error:
        raise ArtworkError(
            f"{name} cannot be read as a photo ({error}): save it again as JPEG or PNG."
        ) from error
    stream = io.BytesIO()
    flat.save(stream, "JPEG", quality=88)
    return {"width_px": flat.width, "height_px": flat.height}, stream.getvalue()


def calibrate(
    picture: str, size: tuple[int, int], axis: tuple[Point, Point], known: tuple[Point, Point], length: float
) -> Tracing:
    """Find how a photo lies behind the half-profile.

    picture, size : SHA-256 and px of the photo
    axis : the middle of the container at its top and at its base, px from the photo's left and top
    known, length : two points of the photo and how far apart they are in mm

    Raises PackError when points coincide or the axis is upside down or nearly level.
    """
    (top_x, top_y), (base_x, base_y) = axis
    if base_y - top_y < 4:
        raise PackError("Mark the middle at the top first, then the middle of the base under it.", "tracing")
    angle = math.degrees(math.atan2(top_x - base_x, base_y - top_y))
    if abs(angle) > 60:
        raise PackError("The axis leans by more than 60°: turn the photo upright first.", "tracing")
    span = math.dist(*known)
    if span < 4:
        raise PackError("The two ends of the known length are at the same place: mark them apart.", "tracing")
    if not 0.5 <= length <= 5000:
        raise PackError(f"A known length of {length:g} mm is not usable: give 0.5 to 5000 mm.", "tracing")
    x, y = turned_point((base_x, base_y), size, angle)
    return Tracing(
        picture=picture,
        width_px=size[0],
        height_px=size[1],
        angle=-angle,
        axis_px=x,
        base_px=y,
        mm_per_px=length / span,
    )


def turned_point(point: Point, size: tuple[int, int], angle: float) -> Point:
    """Where a point of a photo comes to lie when the photo is turned counter-clockwise about its middle.

    point, size : px from its left and top; angle : degrees
    """
    mx, my = size[0] / 2, size[1] / 2
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    x, y = point[0] - mx, point[1] - my
    return mx + c * x + s * y, my - s * x + c * y


def profile_point(tracing: Tracing, point: Point) -> Point:
    """Radius and height in mm of a point of the photo, px from its left and top."""
    x, y = turned_point(point, (tracing.width_px, tracing.height_px), -tracing.angle)
    return abs(x - tracing.axis_px) * tracing.mm_per_px, (tracing.base_px - y) * tracing.mm_per_px
