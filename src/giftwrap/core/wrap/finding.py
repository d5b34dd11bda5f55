"""What preflight finds, and what it is told of a picture."""

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


@dataclass(frozen=True)
class Seen:
    """What a picture shows of a panel.

    width : mm of its width that are turned to the camera somewhere; squarely : by less than 45°
    share : of its area; px_per_mm : how large its middle is, along the way it is larger
    """

    width: float
    squarely: float
    share: float
    px_per_mm: float
