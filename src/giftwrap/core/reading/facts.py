"""What a designer's file turned out to be."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

from giftwrap.core.errors import ArtworkError

Kind = Literal["png", "jpeg", "webp", "tiff", "svg", "pdf"]

FONT_DIRECTORY = Path(__file__).parent.parent / "fonts"
MM_PER_INCH = 25.4
MAX_BYTES = 400_000_000
MAX_ASPECT = 200.0
"""Longer side of an artwork over its shorter one: what is thinner is a mistake in its size."""


@dataclass(frozen=True)
class ArtworkFacts:
    """What a file turned out to be. `width` and `height` are its own size in mm, if it states one.

    pages : of a document, mm across and up each
    inks : its spot separations by name
    layers : that can be left out, by name
    fields : texts that may be filled with others, by their ids
    """

    kind: Kind
    aspect: float
    width_px: int | None
    height_px: int | None
    width: float | None
    height: float | None
    notes: tuple[str, ...] = ()
    pages: tuple[tuple[float, float], ...] = ()
    inks: tuple[str, ...] = ()
    layers: tuple[str, ...] = ()
    fields: Mapping[str, str] = field(default_factory=dict)

    def aspect_of(self, page: int) -> float:
        """Width over height of a page, from 1. Raises ArtworkError when there is none of that number."""
        if page == 1:
            return self.aspect
        if page > len(self.pages):
            count = max(len(self.pages), 1)
            raise ArtworkError(f"This file has no page {page}: choose one of its {count}.", "page")
        width, height = self.pages[page - 1]
        return width / height


def check_aspect(width: float, height: float, filename: str) -> None:
    """Raise ArtworkError when something is thinner than anything that is meant."""
    if max(width, height) > MAX_ASPECT * min(width, height):
        raise ArtworkError(
            f"{filename} is {width:.6g} wide and {height:.6g} high, more than {MAX_ASPECT:g} times as long "
            "as it is broad: correct its size where it was made and export it again."
        )
