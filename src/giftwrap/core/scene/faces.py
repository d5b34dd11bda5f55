"""What of a light's face shines: falloffs, frames, bars and pictures, as rows of texels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from giftwrap.core.grade.display import decode_srgb
from giftwrap.core.mesh.path import Array
from giftwrap.core.model import Falloff, Softbox, WindowLight

Face = NDArray[np.float32]
LONGEST = 256
"""Texels along the longer side of a face."""
FINE = 8
"""Places along a texel by which the edges of bars and frames are told."""


def face_of(light: object, picture: Image.Image | None = None) -> Face | None:
    """(rows, columns, 3) from 0 to 1, the upper left first as seen from what is lit; None for an even one."""
    if isinstance(light, WindowLight):
        return _window(light)
    if not isinstance(light, Softbox):
        return None
    columns, rows = _texels(light.width, light.height)
    across, up = _taken(light.across, columns), _taken(light.up, rows)[::-1]
    framed = _within(light.frame, light.width, columns), _within(light.frame, light.height, rows)
    plain = light.across.by == 0 and light.up.by == 0 and light.frame == 0
    if plain and picture is None:
        return None
    shares = np.outer(up * framed[1], across * framed[0])
    face = np.repeat(shares[:, :, None], 3, axis=2)
    if picture is not None:
        face = face * _shown(picture, columns, rows)
    return np.asarray(face, np.float32)


def _texels(width: float, height: float) -> tuple[int, int]:
    """Columns and rows of a face so many mm large."""
    longest = max(width, height)
    return max(round(LONGEST * width / longest), 2), max(round(LONGEST * height / longest), 2)


def _taken(falloff: Falloff, count: int) -> Array:
    """(count,) what a falloff leaves, from its start."""
    along = (np.arange(count) + 0.5) / count
    way = {
        "start": 1 - along,
        "end": along,
        "edges": np.abs(2 * along - 1),
        "middle": 1 - np.abs(2 * along - 1),
    }[falloff.towards]
    left: Array = 1 - falloff.by * way**falloff.curve
    return left


def _within(frame: float, length: float, count: int) -> Array:
    """(count,) how much of each texel is within a frame, mm."""
    at = (np.arange(count * FINE) + 0.5) / (count * FINE) * length
    inside = (at > frame) & (at < length - frame)
    shares: Array = inside.reshape(count, FINE).mean(axis=1)
    return shares


def _window(light: WindowLight) -> Face:
    columns, rows = _texels(light.width, light.height)
    open_ = [
        _panes(count, light.bar, length, texels)
        for count, length, texels in ((light.columns, light.width, columns), (light.rows, light.height, rows))
    ]
    return np.asarray(np.repeat(np.outer(open_[1], open_[0])[:, :, None], 3, axis=2), np.float32)


def _panes(count: int, bar: float, length: float, texels: int) -> Array:
    """(texels,) how much of each is open where bars divide a length into so many panes."""
    at = (np.arange(texels * FINE) + 0.5) / (texels * FINE) * length
    bars = np.arange(1, count) * length / count
    closed = (np.abs(at[:, None] - bars[None]) < bar / 2).any(axis=1)
    shares: Array = (~closed).reshape(texels, FINE).mean(axis=1)
    return shares


def _shown(picture: Image.Image, columns: int, rows: int) -> Array:
    """(rows, columns, 3) linear: a picture that fills a face, cut where it is too wide or too high."""
    box = cut_to_fill(picture, (columns, rows))
    small = picture.convert("RGBA").resize((columns, rows), Image.Resampling.BOX, box=box)
    values = np.asarray(small, np.float32) / np.float32(255)
    shown: Array = decode_srgb(values[..., :3]) * values[..., 3:]
    return shown


def cut_to_fill(picture: Image.Image, size: tuple[int, int]) -> tuple[float, float, float, float]:
    """The middle of a picture that has the sides of a size: its left, top, right and lower end in px."""
    wide = min(picture.width, picture.height * size[0] / size[1])
    high = wide * size[1] / size[0]
    left, top = (picture.width - wide) / 2, (picture.height - high) / 2
    return left, top, left + wide, top + high
