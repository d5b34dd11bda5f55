"""Where films and pictures lie on disk. Every file appears whole or not at all."""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np
from django.conf import settings

from giftwrap.core.formats.passes import write_passes
from giftwrap.core.formats.pictures import jpeg_bytes, write_exr, write_png
from giftwrap.core.render.film import Film, Floats

PAGE_SIDE = 1600
"""Longest side in px of the JPEG shown on pages."""


def folder(order_id: int) -> Path:
    """The folder of an order's files."""
    path = settings.RENDERS_DIR / str(order_id)
    path.mkdir(parents=True, exist_ok=True)
    return path


def film_file(order_id: int) -> Path:
    return folder(order_id) / "film.npz"


def preview_file(order_id: int) -> Path:
    return folder(order_id) / "preview.jpg"


def png_file(order_id: int) -> Path:
    return folder(order_id) / "picture.png"


def page_file(order_id: int) -> Path:
    return folder(order_id) / "picture.jpg"


def passes_file(order_id: int) -> Path:
    return folder(order_id) / "passes.exr"


def save_film(order_id: int, film: Film, done: set[int]) -> None:
    """Keep an order's sums and the numbers of the units in them, together."""
    numbers = np.array(sorted(done), dtype=np.int64).tobytes()
    _write_whole(film_file(order_id), len(numbers).to_bytes(8, "big") + numbers + film.to_bytes())


def load_film(order_id: int, width: int, height: int) -> tuple[Film, set[int]]:
    """An order's sums and the numbers of their units; an empty film when nothing was saved yet."""
    path = film_file(order_id)
    if not path.exists():
        return Film(width, height), set()
    data = path.read_bytes()
    end = 8 + int.from_bytes(data[:8], "big")
    return Film.from_bytes(data[end:]), set(np.frombuffer(data[8:end], dtype=np.int64).tolist())


def save_preview(order_id: int, picture: Floats) -> None:
    """Keep the picture so far for the page."""
    _write_whole(preview_file(order_id), jpeg_bytes(reduced(picture), quality=82))


def save_picture(order_id: int, light: Floats, picture: Floats) -> None:
    """Keep a finished picture: 16-bit PNG, linear EXR and a JPEG for pages. Drops the film."""
    write_exr(folder(order_id) / "light.exr", light)
    write_png(png_file(order_id), picture)
    _write_whole(page_file(order_id), jpeg_bytes(reduced(picture), quality=92))
    film_file(order_id).unlink(missing_ok=True)


def save_passes(order_id: int, film: Film) -> None:
    """Keep every part of a finished picture apart."""
    write_passes(passes_file(order_id), film)


def reduced(picture: Floats) -> Floats:
    """Every n-th pixel averaged so that the longest side fits a page."""
    step = -(-max(picture.shape[:2]) // PAGE_SIDE)
    if step <= 1:
        return picture
    height, width = (side // step * step for side in picture.shape[:2])
    blocks = picture[:height, :width].reshape(height // step, step, width // step, step, 3)
    small: Floats = blocks.mean(axis=(1, 3), dtype=np.float32)
    return small


def _write_whole(path: Path, data: bytes) -> None:
    partial = path.with_name(f".part-{path.name}-{os.getpid()}")
    partial.write_bytes(data)
    partial.replace(path)
