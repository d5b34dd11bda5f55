"""Packs to start from: invented shapes that ship as documents, each filled to what it is sold as."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from giftwrap.core.model import Pack, Vessel

_FOLDER = Path(__file__).parent / "packs"
FIRST = "cordial-500"


@dataclass(frozen=True)
class StartingPoint:
    """A pack to start from, as it is looked for: by name, kind and volume in ml."""

    slug: str
    title: str
    kind: str
    volume_ml: float
    pack: Pack


@lru_cache(maxsize=1)
def starting_points() -> tuple[StartingPoint, ...]:
    """Every pack to start from, grouped by kind."""
    found = []
    for path in sorted(_FOLDER.glob("*.json")):
        data = json.loads(path.read_text(encoding="utf-8"))
        pack = Pack.model_validate(data["pack"])
        volume = pack.form.nominal_capacity_ml or 0.0 if isinstance(pack.form, Vessel) else 0.0
        found.append(StartingPoint(path.stem.split("_", 1)[1], data["title"], data["kind"], volume, pack))
    return tuple(found)


def starting_vessels() -> tuple[StartingPoint, ...]:
    """Those that are bottles, jars, tins and tubes."""
    return tuple(point for point in starting_points() if isinstance(point.pack.form, Vessel))


def starting_point(slug: str = FIRST) -> StartingPoint:
    """A pack to start from. Raises KeyError when there is none of that name."""
    return {point.slug: point for point in starting_points()}[slug]


def starting_pack(slug: str = FIRST) -> Pack:
    """A pack to start from. Raises KeyError when there is none of that name."""
    return starting_point(slug).pack
