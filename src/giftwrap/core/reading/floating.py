"""Files of floating-point numbers, as the reading process opens them."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from giftwrap.core.reading.bitmaps import damaged

EXR = b"\x76\x2f\x31\x01"


@contextmanager
def opened(data: bytes, filename: str, kind: str) -> Iterator[Any]:
    """A file as the library reads it. Raises ArtworkError when it cannot be."""
    import OpenImageIO as oiio  # noqa: N813 - only these files need it

    with os.fdopen(os.memfd_create("picture"), "wb") as stream:
        stream.write(data)
        stream.flush()
        source = oiio.ImageInput.open(f"/proc/self/fd/{stream.fileno()}")
        if source is None:
            oiio.geterror()
            raise damaged(filename, kind)
        yield source
        source.close()


def made_smaller(filename: str, size: tuple[int, int], to: tuple[int, int]) -> str:
    """What is said of a picture, width and height in px, that is kept smaller."""
    return f"{filename} is {size[0]:,} × {size[1]:,} px: it is kept with {to[0]:,} × {to[1]:,}."
