"""Pictures on other people's models: as PNG or JPEG, or why not."""

from __future__ import annotations

import io

from PIL import Image, UnidentifiedImageError

MOST_PICTURE_PX = 60_000_000
_TAKEN = ("PNG", "JPEG", "WEBP", "BMP", "TIFF", "TGA", "GIF")


def usable_picture(data: bytes | None, what: str) -> tuple[bytes | None, str]:
    """A picture as PNG or JPEG, and, where there is none, why."""
    if data is None:
        return None, f"{_capital(what)} did not come with the model: it has its colour instead."
    try:
        with Image.open(io.BytesIO(data), formats=_TAKEN) as picture:
            if picture.width * picture.height > MOST_PICTURE_PX:
                return None, f"{_capital(what)} is too large ({picture.width} × {picture.height} px)."
            if picture.format in ("PNG", "JPEG") and picture.mode in ("RGB", "RGBA", "L", "P"):
                picture.load()
                return data, ""
            stream = io.BytesIO()
            picture.convert("RGBA" if "A" in picture.mode else "RGB").save(stream, "PNG")
            return stream.getvalue(), ""
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return None, f"{_capital(what)} cannot be read: it has its colour instead."


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]
