"""What is found in a model file, in the file's own units and axes, before anything is mended."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from giftwrap.core.errors import ModelError
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.model.material import Material, Opaque
from giftwrap.core.model.received import Up

MOST_TRIANGLES = 3_000_000
MOST_MESHES = 4_000
FARTHEST = 1e9
"""In the file's own units: what lies further out is a mistake."""


@dataclass(frozen=True)
class FoundMesh:
    """Triangles as they lie in the file, where its nodes put them.

    positions : (v, 3) float; normals : (v, 3) float; uvs : (v, 2) float, v up; faces : (f, 3) int
    material : index into the model's materials
    """

    name: str
    positions: Array
    faces: Indices
    normals: Array | None = None
    uvs: Array | None = None
    material: int | None = None


@dataclass(frozen=True)
class FoundMaterial:
    """What something is made of, as near as it can be said here, and the picture on it (PNG or JPEG).

    rough : a picture whose green is its roughness
    facing : one of the directions in which it faces, green up, `steep` times as steep
    """

    name: str
    look: Material = field(default_factory=Opaque)
    picture: bytes | None = None
    rough: bytes | None = None
    facing: bytes | None = None
    steep: float = 1.0


@dataclass(frozen=True)
class FoundModel:
    """A file's content. `unit_mm` is None where the kind of file does not say its unit."""

    meshes: tuple[FoundMesh, ...]
    materials: tuple[FoundMaterial, ...] = ()
    unit_mm: float | None = None
    up: Up = "+z"
    notes: tuple[str, ...] = ()


def checked_mesh(mesh: FoundMesh) -> FoundMesh:
    """The same mesh. Raises ModelError, naming it, when its numbers cannot be true."""
    positions, faces = mesh.positions, mesh.faces
    bad = ~np.isfinite(positions).all(axis=1)
    if bad.any():
        raise ModelError(
            f"“{mesh.name}” has places that are no numbers ({int(bad.sum())}, the first at vertex "
            f"{int(np.argmax(bad))}): export the model again."
        )
    if len(faces) and (faces.min() < 0 or faces.max() >= len(positions)):
        wrong = int(faces.max() if faces.max() >= len(positions) else faces.min())
        raise ModelError(
            f"“{mesh.name}” names vertex {wrong}, but has only {len(positions)}: the file is damaged, export "
            "it again."
        )
    if len(positions) and np.abs(positions).max() > FARTHEST:
        raise ModelError(
            f"“{mesh.name}” reaches more than {FARTHEST:g} units out: export it at its own size."
        )
    return mesh


def refuse_too_many(triangles: int) -> None:
    """Raise ModelError when a file has more triangles than can be worked with."""
    if triangles > MOST_TRIANGLES:
        raise ModelError(
            f"The model has {triangles / 1e6:.1f} million triangles; {MOST_TRIANGLES / 1e6:g} million is the "
            "most that is read here: reduce it where it was made, or export it with coarser facets."
        )
