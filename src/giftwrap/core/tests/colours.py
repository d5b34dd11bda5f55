"""Colours as other programs see them: CMYK through LittleCMS, and how far two colours are apart."""

from __future__ import annotations

import io

from coloraide import Color
from PIL import Image, ImageCms

from giftwrap.core.reading.press_profile import press_profile

INKS = [
    (0, 0, 0, 0),
    (255, 0, 0, 0),
    (0, 255, 0, 0),
    (0, 0, 255, 0),
    (0, 0, 0, 255),
    (40, 120, 200, 30),
    (90, 60, 10, 90),
]
"""Inks to look at: none, each alone, and some together."""


def press() -> ImageCms.ImageCmsProfile:
    return ImageCms.ImageCmsProfile(io.BytesIO(press_profile()))


def by_littlecms(inks: tuple[int, ...], profile: ImageCms.ImageCmsProfile | None = None) -> tuple[int, ...]:
    srgb = ImageCms.createProfile("sRGB")
    transform = ImageCms.buildTransform(profile or press(), srgb, "CMYK", "RGB", renderingIntent=1)
    return ImageCms.applyTransform(Image.new("CMYK", (1, 1), inks), transform).getpixel((0, 0))


def apart(one: tuple[int, ...], other: tuple[int, ...]) -> float:
    """ΔE00."""
    first, second = (Color("srgb", [v / 255 for v in colour[:3]]) for colour in (one, other))
    return float(first.delta_e(second, method="2000"))
