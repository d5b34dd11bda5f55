"""Colours of files as they are seen: through the profile that they bring, or else the press."""

from __future__ import annotations

import io
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms

from giftwrap.core.reading.press_profile import NAME, press_profile

RELATIVE = ImageCms.Intent.RELATIVE_COLORIMETRIC
"""Paper is white: what it is printed on has a colour of its own."""
PAPER_WHITE = 235
"""From this code on paper is white."""
_SPACES = {"CMYK": "CMYK", "RGB": "RGB", "L": "GRAY", "LAB": "Lab"}


@cache
def _srgb() -> Any:
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB"))


def seen(image: Image.Image, profile: bytes | None) -> Image.Image:
    """An image in sRGB, RGB or RGBA, by its profile where that suits it."""
    alpha = image.getchannel("A") if image.mode in ("RGBA", "LA") else None
    if alpha is not None:
        image = image.convert("RGB" if image.mode == "RGBA" else "L")
    if image.mode not in _SPACES:
        image = image.convert("RGB")
    source = _suiting(image.mode, profile)
    if source is not None:
        transform = ImageCms.buildTransform(source, _srgb(), image.mode, "RGB", renderingIntent=RELATIVE)
        converted = ImageCms.applyTransform(image, transform)
        image = image.convert("RGB") if converted is None else converted
    image = image.convert("RGB")
    if alpha is not None:
        image.putalpha(alpha)
    return image


def _suiting(mode: str, profile: bytes | None) -> Any:
    """The profile of an image of a mode: its own if it is for that, or what such images are without one."""
    if profile:
        try:
            own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        except OSError:
            own = None
        if own is not None and own.profile.xcolor_space.strip() == _SPACES[mode]:
            return own
    if mode == "CMYK":
        return ImageCms.ImageCmsProfile(io.BytesIO(press_profile()))
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB")) if mode == "LAB" else None


def colour_notes(mode: str, profile: bytes | None, filename: str) -> list[str]:
    """What a designer should know of how an image's colours were understood."""
    if profile:
        try:
            own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            name = ImageCms.getProfileDescription(own).strip() or "a profile without a name"
            fits = own.profile.xcolor_space.strip() == _SPACES.get(mode, "RGB")
        except (OSError, ImageCms.PyCMSError):
            name, fits = "", False
        if not fits:
            return [f"{filename} brings a colour profile that does not suit it, which was left out."]
        return [f"CMYK was seen through its own profile, {name}."] if mode == "CMYK" else []
    return [f"CMYK without a profile was seen as on “{NAME}”."] if mode == "CMYK" else []


def white_edge(pixels: NDArray[np.uint8]) -> float:
    """Share of the edge of RGBA pixels that is white paper."""
    edge = np.concatenate([pixels[0], pixels[-1], pixels[:, 0], pixels[:, -1]])
    return float(((edge[:, 3] > PAPER_WHITE) & (edge[:, :3].min(axis=1) > PAPER_WHITE)).mean())
