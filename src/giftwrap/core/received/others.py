"""OBJ, PLY, STL and 3MF by trimesh; STEP by OpenCASCADE's tessellation."""

from __future__ import annotations

import io
import re
import struct
from collections.abc import Iterator
from dataclasses import replace
from pathlib import PurePosixPath
from typing import Any

import numpy as np
import trimesh

from giftwrap.core.errors import ModelError
from giftwrap.core.grade.display import decode_srgb
from giftwrap.core.materials.others import SEEN_THROUGH, hex_of, look_of
from giftwrap.core.model.material import Clear, Material
from giftwrap.core.model.received import Up
from giftwrap.core.received.bundle import Bundle
from giftwrap.core.received.found import (
    MOST_MESHES,
    FoundMaterial,
    FoundMesh,
    FoundModel,
    checked_mesh,
    refuse_too_many,
)
from giftwrap.core.received.gltf import read_gltf
from giftwrap.core.received.looks import usable_picture

_UP: dict[str, Up] = {"obj": "+y", "ply": "+z", "stl": "+z", "3mf": "+z", "step": "+z"}
_UNITS = {
    "micron": 0.001,
    "millimeter": 1.0,
    "centimeter": 10.0,
    "inch": 25.4,
    "foot": 304.8,
    "meter": 1000.0,
}
"""Units of 3MF (Core Specification 1.3, section 3.4) in mm."""
_NAMELESS = "Open CASCADE STEP translator"
"""What the library calls solids that have no name."""
_PICTURE = rb"^\s*map_Kd\s+(?:-\S+\s+\S+\s+)*(.+?)\s*$"
ANGLE = 0.3
"""Radians between facets of a STEP model's curved surfaces at the most."""


def read_meshes(bundle: Bundle) -> FoundModel:
    """Read an OBJ, PLY, STL or 3MF file. Raises ModelError."""
    refuse_too_many(_told_triangles(bundle))
    scene = _loaded(bundle)
    meshes: list[FoundMesh] = []
    materials: list[FoundMaterial] = []
    notes: list[str] = []
    known: dict[Any, int] = {}
    for name, mesh, place in _placed(scene):
        index = None
        if bundle.kind == "obj" and getattr(mesh.visual, "material", None) is not None:
            index = _material(mesh.visual.material, known, materials, notes)
        meshes.append(checked_mesh(_found(name, mesh, place, index)))
        if len(meshes) > MOST_MESHES:
            raise ModelError(f"{bundle.name} has more than {MOST_MESHES} parts: join them where it was made.")
    if not meshes:
        raise ModelError(f"There are no surfaces in {bundle.name}: export it with its meshes.")
    notes += _not_sent(bundle)
    return FoundModel(
        tuple(meshes), tuple(materials), _unit_of(bundle, scene), _UP[bundle.kind], tuple(notes)
    )


def read_step(bundle: Bundle, chord: float) -> FoundModel:
    """Read a STEP file, its curved surfaces in facets no further than `chord` mm from them.

    Raises ModelError.
    """
    import cascadio  # 60 MB that few files need

    data = cascadio.load(
        bundle.data, "step", tol_linear=chord, tol_angular=ANGLE, use_parallel=False, merge_primitives=True
    )
    if not data:
        raise ModelError(f"{bundle.name} is no sound STEP file, or has no solids in it: export it again.")
    found = read_gltf(Bundle(bundle.name, "glb", data, {}))
    stem = PurePosixPath(bundle.name).stem
    named = [
        replace(m, name=stem if m.name.startswith(_NAMELESS) else m.name, uvs=None) for m in found.meshes
    ]
    return replace(found, meshes=tuple(named), up=_UP["step"])


def _told_triangles(bundle: Bundle) -> int:
    """How many triangles a file says it has, before anything is read; 0 where it does not say."""
    data = bundle.data
    if bundle.kind == "stl" and data[:5].lower() != b"solid" and len(data) >= 84:
        return int(struct.unpack_from("<I", data, 80)[0])
    if bundle.kind == "stl":
        return data.count(b"endfacet")
    if bundle.kind == "ply":
        told = re.search(rb"element\s+face\s+(\d+)", data[:8192])
        return int(told[1]) if told else 0
    if bundle.kind == "obj":
        return data.count(b"\nf ")
    return 0


def _loaded(bundle: Bundle) -> trimesh.Scene:
    options: dict[str, Any] = {}
    if bundle.kind == "obj":
        files = {PurePosixPath(name).name: content for name, content in bundle.beside.items()}
        options = {"resolver": _Beside(files), "split_objects": True, "group_material": True}
    try:
        return trimesh.load_scene(io.BytesIO(bundle.data), file_type=bundle.kind, process=False, **options)
    except MemoryError:
        raise
    except Exception as error:  # a library's own failure is news about the file
        reason = f"{type(error).__name__}: {error}"[:160]
        raise ModelError(
            f"{bundle.name} is no sound {bundle.kind.upper()} file ({reason}): export it again."
        ) from error


class _Beside(trimesh.resolvers.Resolver):  # type: ignore[misc]
    """What was sent along, by name, whatever folder it was looked for in."""

    def __init__(self, files: dict[str, bytes]) -> None:
        self.files = files

    def get(self, name: str) -> bytes:
        return self.files[PurePosixPath(name.replace("\\", "/")).name.lower()]

    def keys(self) -> list[str]:
        return list(self.files)

    def namespaced(self, namespace: str) -> _Beside:
        return self

    def write(self, name: str, data: bytes) -> None:
        raise NotImplementedError


def _placed(scene: trimesh.Scene) -> Iterator[tuple[str, trimesh.Trimesh, Any]]:
    for node in scene.graph.nodes_geometry:
        place, geometry = scene.graph[node]
        mesh = scene.geometry[geometry]
        if isinstance(mesh, trimesh.Trimesh) and len(mesh.faces):
            yield str(geometry if len(scene.graph.geometry_nodes[geometry]) == 1 else node)[:120], mesh, place


def _found(name: str, mesh: trimesh.Trimesh, place: Any, material: int | None) -> FoundMesh:
    positions = np.asarray(mesh.vertices, dtype=float)
    faces = np.asarray(mesh.faces, dtype=np.int64)
    refuse_too_many(len(faces))
    own = mesh._cache.cache.get("vertex_normals")  # what the file has; asking would compute others
    normals = None if own is None or not np.isfinite(own).all() else np.asarray(own, dtype=float)
    uvs = getattr(mesh.visual, "uv", None)
    uvs = np.asarray(uvs, dtype=float) if uvs is not None and len(uvs) == len(positions) else None
    if not np.array_equal(place, np.eye(4)):
        positions = positions @ place[:3, :3].T + place[:3, 3]
        normals = None if normals is None else normals @ np.linalg.pinv(place[:3, :3])
        if np.linalg.det(place[:3, :3]) < 0:
            faces = faces[:, ::-1]
    return FoundMesh(name, positions, faces, normals, uvs, material)


def _material(
    material: Any, known: dict[Any, int], materials: list[FoundMaterial], notes: list[str]
) -> int | None:
    """The number of an MTL material among those found so far."""
    name = str(getattr(material, "name", "") or "material")[:120]
    if name not in known:
        said = {str(key).lower(): value for key, value in getattr(material, "kwargs", {}).items()}
        picture = None
        if getattr(material, "image", None) is not None:
            stream = io.BytesIO()
            material.image.convert("RGB").save(stream, "PNG")
            picture, problem = usable_picture(stream.getvalue(), f"the picture on “{name}”")
            notes += [problem] if problem else []
        known[name] = len(materials)
        materials.append(FoundMaterial(name, _look(material, said, white=picture is not None), picture))
    return known[name]


def _look(material: Any, said: dict[str, Any], *, white: bool) -> Material:
    """MTL: Kd, d or Tr, Ni, Ns. Its alpha as sqrt(2 / (Ns + 2)) is common practice."""
    linear = decode_srgb(np.asarray(material.diffuse, dtype=np.float32)[:3] / np.float32(255)).tolist()
    opacity = _value(said.get("d"), 1 - _value(said.get("tr"), 0.0))
    if opacity < SEEN_THROUGH:
        index = _value(said.get("ni"), 1.5)
        return Clear(refractive_index=min(max(index, 1.0), 2.6), colour=hex_of(linear))
    shine = max(_value(getattr(material, "glossiness", None), 10.0), 0.0)
    return look_of((1.0, 1.0, 1.0) if white else linear, 0.0, (2 / (shine + 2)) ** 0.25)


def _value(given: Any, usual: float) -> float:
    try:
        value = float(np.ravel(given)[0])
    except (TypeError, ValueError, IndexError):
        return usual
    return value if np.isfinite(value) else usual


def _unit_of(bundle: Bundle, scene: trimesh.Scene) -> float | None:
    if bundle.kind != "3mf":
        return None
    told = {str(mesh.metadata.get("units", "")).lower() for mesh in scene.geometry.values()}
    return next((_UNITS[unit] for unit in told if unit in _UNITS), 1.0)


def _not_sent(bundle: Bundle) -> list[str]:
    """Files that an OBJ and its materials name and that did not come along."""
    if bundle.kind != "obj":
        return []
    libraries = _named(rb"^mtllib\s+(.+?)\s*$", bundle.data[:65536])
    said = [
        f"Its materials ({name[:60]}) did not come with it: send both together."
        for name in libraries
        if bundle.find(name) is None
    ]
    pictures = [name for library in libraries for name in _named(_PICTURE, bundle.find(library) or b"")]
    said += [
        f"A picture on it ({name[:60]}) did not come with it: that has its colour instead."
        for name in dict.fromkeys(pictures)
        if bundle.find(name) is None
    ]
    return said


def _named(pattern: bytes, text: bytes) -> list[str]:
    return [name.decode(errors="replace") for name in re.findall(pattern, text, re.MULTILINE)]
