"""What is kept of a model: its bodies in the file's units, mended, whole and reduced, in one file."""

from __future__ import annotations

import io
import json
import threading
import zipfile
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from cachetools import LRUCache, cached

from giftwrap.core.errors import ModelError
from giftwrap.core.mesh.path import Array, Indices

KEPT_BYTES = 400_000_000
"""Of models that are at hand."""
_lock = threading.Lock()


@dataclass(frozen=True, eq=False)
class Facets:
    """Triangles of a body.

    positions : (v, 3) float, file units; normals : (v, 3) float or None; uvs : (v, 2) float or None
    faces : (f, 3) int; points : (v,) int, vertices with the same number lie at one place
    """

    positions: Array
    faces: Indices
    points: Indices
    normals: Array | None = None
    uvs: Array | None = None

    @property
    def nbytes(self) -> int:
        """In memory."""
        return sum(
            v.nbytes
            for v in (self.positions, self.faces, self.points, self.normals, self.uvs)
            if v is not None
        )


@dataclass(frozen=True)
class BodyFacts:
    """What a body is. `mesh` is the number of the file's mesh that it was a piece of.

    volume : in the file's unit, cubed; holes : rings along which it is open
    copy_of : the body that it lies on exactly
    """

    mesh: int
    triangles: int
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    volume: float
    holes: int = 0
    copy_of: int | None = None


@dataclass(frozen=True)
class MeshFacts:
    """One of the file's meshes: what it is called there and its material's number.

    sheet : how long the coordinates of its picture are from 0 to 1 on it, across and up, in the file's unit
    repeats : they go beyond that
    """

    name: str
    material: int | None = None
    sheet: tuple[float, float] | None = None
    repeats: bool = False


@dataclass(frozen=True, eq=False)
class KeptModel:
    """A model's bodies. `few` are for drawing on pages and for proofs, `whole` for finals."""

    meshes: tuple[MeshFacts, ...]
    bodies: tuple[BodyFacts, ...]
    whole: tuple[Facets, ...]
    few: tuple[Facets, ...]

    @property
    def nbytes(self) -> int:
        """In memory."""
        return sum(facets.nbytes for facets in (*self.whole, *self.few))


def packed(model: KeptModel) -> bytes:
    """A model as a file: NumPy's archive of arrays."""
    arrays: dict[str, Array] = {}
    for name, group in (("whole", model.whole), ("few", model.few)):
        for index, facets in enumerate(group):
            if name == "few" and facets is model.whole[index]:
                continue
            for what, values in vars(facets).items():
                if values is not None:
                    kind = np.float32 if values.dtype.kind == "f" else np.int32
                    arrays[f"{name}/{index}/{what}"] = values.astype(kind)
    about = {"meshes": [asdict(m) for m in model.meshes], "bodies": [asdict(b) for b in model.bodies]}
    arrays["about"] = np.frombuffer(json.dumps(about).encode(), dtype=np.uint8)
    stream = io.BytesIO()
    np.savez(stream, **arrays)  # type: ignore[arg-type]
    return stream.getvalue()


@cached(
    LRUCache(KEPT_BYTES, getsizeof=lambda model: model.nbytes), key=lambda sha256, data: sha256, lock=_lock
)
def kept_model(sha256: str, data: bytes) -> KeptModel:
    """A model from its file; the same one for the same file. Raises ModelError when it is none."""
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as archive:
            about = json.loads(archive["about"].tobytes())
            arrays = {name: archive[name] for name in archive.files}
        meshes = tuple(mesh_facts(mesh) for mesh in about["meshes"])
        bodies = tuple(body_facts(body) for body in about["bodies"])
        whole = tuple(_facets(arrays, f"whole/{i}") for i in range(len(bodies)))
        few = tuple(
            _facets(arrays, f"few/{i}") if f"few/{i}/faces" in arrays else whole[i]
            for i in range(len(bodies))
        )
    except (KeyError, ValueError, TypeError, OSError, EOFError, zipfile.BadZipFile) as error:
        raise ModelError(
            "What was kept of the model cannot be read: send the model again.", "model"
        ) from error
    return KeptModel(meshes, bodies, whole, few)


def mesh_facts(said: dict[str, Any]) -> MeshFacts:
    """As JSON has them."""
    return MeshFacts(**{**said, "sheet": tuple(said["sheet"]) if said["sheet"] else None})


def body_facts(said: dict[str, Any]) -> BodyFacts:
    """As JSON has them."""
    return BodyFacts(**{**said, "low": tuple(said["low"]), "high": tuple(said["high"])})


def _facets(arrays: dict[str, Array], at: str) -> Facets:
    def values(what: str, kind: type) -> Array | None:
        found = arrays.get(f"{at}/{what}")
        return None if found is None else found.astype(kind)

    positions, faces, points = (
        values("positions", float),
        values("faces", np.int64),
        values("points", np.int64),
    )
    if positions is None or faces is None or points is None:
        raise KeyError(at)
    return Facets(positions, faces, points, values("normals", float), values("uvs", float))  # type: ignore[arg-type]
