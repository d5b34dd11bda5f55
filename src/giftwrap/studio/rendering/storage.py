"""Where films and pictures lie on disk. Every file appears whole or not at all."""

from __future__ import annotations

import logging
import shutil
from pathlib import Path
from typing import Any
from zipfile import BadZipFile

import numpy as np
from django.conf import settings
from numpy.typing import NDArray

from giftwrap.core.formats.pictures import jpeg_bytes, reduced, write_exr, write_png
from giftwrap.core.formats.whole import write_whole
from giftwrap.core.picture.passes import write_passes
from giftwrap.core.render.film import Film, Floats

log = logging.getLogger(__name__)

PAGE_SIDE = 1600
"""Longest side in px of the JPEG shown on pages."""


def folder(order_id: int) -> Path:
    """The folder of an order's files."""
    path = settings.RENDERS_DIR / str(order_id)
    path.mkdir(parents=True, exist_ok=True)
    return path


def film_file(order_id: int, block: int = 0) -> Path:
    return folder(order_id) / (f"film-{block}.npz" if block else "film.npz")


def preview_file(order_id: int) -> Path:
    return folder(order_id) / "preview.jpg"


def png_file(order_id: int) -> Path:
    return folder(order_id) / "picture.png"


def page_file(order_id: int) -> Path:
    return folder(order_id) / "picture.jpg"


def passes_file(order_id: int) -> Path:
    return folder(order_id) / "passes.exr"


def canvas_folder(order_id: int) -> Path:
    """Where the finished blocks of a large picture lie while others are on their way."""
    return folder(order_id) / "canvas"


def save_film(order_id: int, block: int, film: Film, done: set[int]) -> None:
    """Keep the sums of a block of an order and the numbers of the units in them, together."""
    numbers = np.array(sorted(done), dtype=np.int64).tobytes()
    data = len(numbers).to_bytes(8, "big") + numbers + film.to_bytes()
    write_whole(film_file(order_id, block), data)


def load_film(order_id: int, block: int, width: int, height: int) -> tuple[Film, set[int]]:
    """The sums of a block and the numbers of their units; an empty film when there are none to use."""
    path = film_file(order_id, block)
    try:
        data = path.read_bytes()
        end = 8 + int.from_bytes(data[:8], "big")
        film = Film.from_bytes(data[end:])
        if (film.width, film.height) == (width, height):
            return film, set(np.frombuffer(data[8:end], dtype=np.int64).tolist())
        log.warning("%s is of another size and is left out.", path)
    except FileNotFoundError:
        pass
    except (OSError, ValueError, KeyError, EOFError, BadZipFile) as error:
        log.warning("%s cannot be read (%r): its light is taken again.", path, error)
    return Film(width, height), set()


def save_preview(order_id: int, picture: Floats) -> None:
    """Keep the picture so far for the page."""
    write_whole(preview_file(order_id), jpeg_bytes(reduced(picture, PAGE_SIDE), quality=82))


def save_picture(order_id: int, light: NDArray[Any], picture: NDArray[Any]) -> None:
    """Keep a finished picture: 16-bit PNG, linear EXR and a JPEG for pages.

    light : (h, w, 3) linear; picture : (h, w, 3) sRGB, 0..1 or 16-bit
    """
    write_exr(folder(order_id) / "light.exr", light)
    write_png(png_file(order_id), picture)
    small = (reduced(picture, PAGE_SIDE) / (65535 if picture.dtype == np.uint16 else 1)).astype(np.float32)
    write_whole(page_file(order_id), jpeg_bytes(small, quality=92))


def drop_work(order_id: int) -> None:
    """Remove what an order needed on its way: its sums, its blocks and the picture so far."""
    for film in folder(order_id).glob("film*.npz"):
        film.unlink(missing_ok=True)
    preview_file(order_id).unlink(missing_ok=True)
    shutil.rmtree(canvas_folder(order_id), ignore_errors=True)


def save_passes(order_id: int, film: Film) -> None:
    """Keep every part of a finished picture apart."""
    write_passes(passes_file(order_id), film)
