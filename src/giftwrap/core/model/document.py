"""What every document has in common: strict fields, plain JSON, finite numbers."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from itertools import dropwhile
from typing import Annotated, Any, ClassVar

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError, model_validator

from giftwrap.core.errors import PackError

Millimetres = Annotated[float, Field(allow_inf_nan=False, ge=-5000, le=5000)]
PositiveMillimetres = Annotated[float, Field(allow_inf_nan=False, gt=0, le=5000)]
NonNegativeMillimetres = Annotated[float, Field(ge=0, le=5000, allow_inf_nan=False)]
Degrees = Annotated[float, Field(allow_inf_nan=False, ge=-360, le=360)]
Fraction = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
HexColour = Annotated[str, StringConstraints(pattern=r"^#[0-9a-fA-F]{6}$")]
"""An sRGB colour as it is written on paper: `#rrggbb`."""
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120)]


Key = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]{0,59}$")]
"""Names a row of a job, or something in a document, for good: others refer to it by its key."""
Sha256 = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
"""Names a file by its content."""

MOST_ID = 2**31 - 1
"""The largest number of a row or a revision."""
MOST_WORDS = 400
FORM_KINDS = ("vessel", "carton", "received")
"""What a pack can be formed as."""
PANEL_KINDS = ("wrap", "picked")
"""What can be stuck on it."""


class Document(BaseModel):
    """A strict value: unknown fields are refused, instances do not change."""

    model_config = ConfigDict(extra="forbid", frozen=True)


Upgrade = Callable[[dict[str, Any]], dict[str, Any]]


class Versioned(Document):
    """A document that is kept. One of an older version is read as what it was.

    upgrades : by version, what makes one of that version into one of the next
    """

    upgrades: ClassVar[dict[int, Upgrade]] = {}

    @model_validator(mode="before")
    @classmethod
    def _upgraded(cls, data: Any) -> Any:
        return upgraded(data, cls.upgrades) if isinstance(data, dict) else data


def upgraded(data: dict[str, Any], upgrades: Mapping[int, Upgrade]) -> dict[str, Any]:
    """A document of the present version, by every upgrade from its own; what it was is not changed.

    A document that does not say its version is of the present one. Raises PackError when it is of a
    version that is not known yet.
    """
    present = max(upgrades, default=0) + 1
    version = data.get("schema_version", present)
    if type(version) is not int:
        return data  # the field itself is refused
    if version > present:
        raise PackError(
            f"This was made by a newer release (version {version} of the document, {present} is known here): "
            "bring this one up to date.",
            "schema_version",
        )
    while version in upgrades:
        data = upgrades[version](data)
        version = data["schema_version"]
    return data


def describe_invalid(error: ValidationError, *, wrapped_in: Collection[str] = ()) -> tuple[str, str]:
    """Return `(message, place)` for the first thing wrong with a document.

    wrapped_in : names that may stand before the document's own fields and are left out
    """
    first = error.errors()[0]
    parts = dropwhile(lambda part: part in wrapped_in, _own_fields(first["loc"]))
    place = ".".join(parts)
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


def _own_fields(loc: tuple[int | str, ...]) -> list[str]:
    """A place without the kinds of form and panel, which documents do not have in theirs."""
    parts = list(map(str, loc))
    kinds = {i for i, p in enumerate(parts) if p in FORM_KINDS and parts[i - 1 : i] == ["form"]}
    kinds |= {i for i, p in enumerate(parts) if p in PANEL_KINDS and parts[i - 2 : i - 1] == ["panels"]}
    return [p for i, p in enumerate(parts) if i not in kinds]


def told_apart(name: str, taken: Collection[str], *, joint: str = " ", most: int = 120) -> str:
    """A name that is not taken, of at most so many letters: the same, or with the first number that makes it
    one."""
    found, number = name[:most], 2
    while found in taken:
        end = f"{joint}{number}"
        found, number = f"{name[: most - len(end)]}{end}", number + 1
    return found


def shortened(text: str, most: int = 120) -> str:
    """A text of at most so many letters: what a stranger sent is not echoed back at length."""
    return text if len(text) <= most else f"{text[:most]}…"
