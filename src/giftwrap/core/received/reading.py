"""Reading a model: the way in, and what is done in the reading process."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from itertools import pairwise
from pathlib import Path
from typing import Annotated, Any

import numpy as np
from pydantic import Field, TypeAdapter

from giftwrap.core.errors import ModelError
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.material import Material
from giftwrap.core.model.received import Up
from giftwrap.core.reading import MODEL, read_apart
from giftwrap.core.received.bundle import Bundle, unpacked
from giftwrap.core.received.found import FoundModel
from giftwrap.core.received.gltf import read_gltf
from giftwrap.core.received.kept import BodyFacts, MeshFacts, body_facts, mesh_facts, packed
from giftwrap.core.received.mending import mended
from giftwrap.core.received.others import read_meshes, read_step
from giftwrap.core.received.report import report_of, unit_guess

MAX_BYTES = 400_000_000
CHORD = 0.02
"""Mm between a STEP model's curved surfaces and the facets that stand for them, unless somebody says else."""
LEAST_CHORD, MOST_CHORD = 0.002, 2.0
_LOOK: TypeAdapter[Material] = TypeAdapter(
    Annotated[Clear | Cloudy | Opaque | Metal, Field(discriminator="kind")]
)


@dataclass(frozen=True)
class ReadMaterial:
    """A material of the file. `picture` is the PNG or JPEG on it; `rough` one whose green is its roughness,
    `facing` one of where it faces, green up, `steep` times as steep."""

    name: str
    look: Material
    picture: bytes | None
    rough: bytes | None = None
    facing: bytes | None = None
    steep: float = 1.0


@dataclass(frozen=True)
class ReadModel:
    """What came of a model file.

    data : what is to be kept of it; `kept.kept_model` reads it
    unit_mm : as the file says, or as its size makes likely
    notes : what was found and mended
    """

    data: bytes
    meshes: tuple[MeshFacts, ...]
    bodies: tuple[BodyFacts, ...]
    materials: tuple[ReadMaterial, ...]
    unit_mm: float
    up: Up
    smooth: bool
    notes: tuple[str, ...]


def read_model(source: bytes | Path, filename: str, *, chord: float = CHORD) -> ReadModel:
    """Read and mend a model, whatever open format it has.

    source : the file's bytes or where it lies; several files come in a ZIP archive
    chord : mm that facets of a STEP model keep to its curved surfaces

    Raises ModelError when the file is not usable or costs more than it may.
    """
    head, body = read_apart(
        f"{__name__}:model_facts",
        source,
        filename,
        limits=MODEL,
        refusal=ModelError,
        filename=filename,
        chord=min(max(chord, LEAST_CHORD), MOST_CHORD),
    )
    cuts = np.cumsum([0, *head["lengths"]]).tolist()
    data, *pictures = [body[start:end] for start, end in pairwise(cuts)]
    shown = [one or None for one in pictures]
    materials = tuple(
        ReadMaterial(m["name"], _LOOK.validate_python(m["look"]), picture, rough, facing, m["steep"])
        for m, picture, rough, facing in zip(
            head["materials"], shown[::3], shown[1::3], shown[2::3], strict=True
        )
    )
    bodies = tuple(map(body_facts, head["bodies"]))
    meshes = tuple(map(mesh_facts, head["meshes"]))
    rest = {name: head[name] for name in ("unit_mm", "up", "smooth")}
    return ReadModel(data, meshes, bodies, materials, notes=tuple(head["notes"]), **rest)


def model_facts(data: bytes, filename: str, *, chord: float) -> tuple[dict[str, Any], bytes]:
    """`read_model` as it is done in the reading process: its head, and the kept model with the pictures."""
    try:
        bundle = unpacked(data, filename)
        found = _found(bundle, chord)
        model, counts = mended(found)
    except ModelError as error:
        raise error if filename in error.message else ModelError(f"{filename}: {error.message}") from None
    points = np.array([[b.low, b.high] for b in model.bodies]).reshape(-1, 3)
    size = float(np.ptp(points, axis=0).max())
    unit, guessed = unit_guess(size, found.unit_mm)
    pictures = [one or b"" for m in found.materials for one in (m.picture, m.rough, m.facing)]
    body = [packed(model), *pictures]
    head = {
        "lengths": [len(part) for part in body],
        "meshes": [asdict(mesh) for mesh in model.meshes],
        "bodies": [asdict(one) for one in model.bodies],
        "materials": [
            {"name": m.name, "look": m.look.model_dump(mode="json"), "steep": m.steep}
            for m in found.materials
        ],
        "unit_mm": unit,
        "up": found.up,
        "smooth": any(facets.normals is not None for facets in model.whole),
        "notes": report_of(bundle, found, model, counts, guess=unit if guessed else None),
    }
    return head, b"".join(body)


def _found(bundle: Bundle, chord: float) -> FoundModel:
    if bundle.kind in ("glb", "gltf"):
        return read_gltf(bundle)
    if bundle.kind == "step":
        return read_step(bundle, chord)
    return read_meshes(bundle)
