"""What every document has in common: strict fields, plain JSON, finite numbers."""

from __future__ import annotations

from collections.abc import Collection
from itertools import dropwhile
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError

Millimetres = Annotated[float, Field(allow_inf_nan=False, ge=-5000, le=5000)]
PositiveMillimetres = Annotated[float, Field(allow_inf_nan=False, gt=0, le=5000)]
NonNegativeMillimetres = Annotated[float, Field(ge=0, le=5000, allow_inf_nan=False)]
Degrees = Annotated[float, Field(allow_inf_nan=False, ge=-360, le=360)]
HexColour = Annotated[str, StringConstraints(pattern=r"^#[0-9a-fA-F]{6}$")]
"""An sRGB colour as it is written on paper: `#rrggbb`."""
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120)]


MOST_ID = 2**31 - 1
"""The largest number of a row or a revision."""
MOST_WORDS = 400


class Document(BaseModel):
    """A strict value: unknown fields are refused, instances do not change."""

    model_config = ConfigDict(extra="forbid", frozen=True)


def describe_invalid(error: ValidationError, *, wrapped_in: Collection[str] = ()) -> tuple[str, str]:
    """Return `(message, place)` for the first thing wrong with a document.

    wrapped_in : names that may stand before the document's own fields and are left out
    """
    first = error.errors()[0]
    place = ".".join(dropwhile(lambda part: part in wrapped_in, map(str, first["loc"])))
    context: dict[str, Any] = first.get("ctx") or {}
    if isinstance(context.get("error"), ValueError):
        reason = shortened(str(context["error"]), MOST_WORDS)
        inner = getattr(context["error"], "place", "")
        return reason, shortened(".".join(part for part in (place, inner) if part))
    subject = place.replace(".", " → ").replace("_", " ") or "The document"
    given = first.get("input")
    hidden = isinstance(given, dict | list) or first["type"] == "missing"
    shown = "" if hidden else f" (got {shortened(repr(given), 60)})"
    message = f"{shortened(subject)}: {first['msg'][0].lower()}{first['msg'][1:]}"
    return f"{shortened(message, MOST_WORDS)}{shown}.", shortened(place)


def shortened(text: str, most: int = 120) -> str:
    """A text of at most so many letters: what a stranger sent is not echoed back at length."""
    return text if len(text) <= most else f"{text[:most]}…"
