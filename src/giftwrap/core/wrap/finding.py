"""What preflight finds."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Level = Literal["wrong", "look"]


@dataclass(frozen=True)
class Finding:
    """Something to mend (`wrong`) or to look at.

    placement : the artwork it is about, by its number on the panel
    layer : the layer of the run it is about
    """

    level: Level
    words: str
    placement: int | None = None
    layer: int | None = None
