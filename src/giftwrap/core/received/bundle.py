"""The files of an upload: one, or several in a ZIP archive, which never touch the disk."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Literal

from giftwrap.core.errors import ModelError
from giftwrap.core.formats.archives import BEGINS, unpack_files

ModelKind = Literal["glb", "gltf", "obj", "ply", "stl", "3mf", "step"]
KINDS = {
    "glb": "glb",
    "gltf": "gltf",
    "obj": "obj",
    "ply": "ply",
    "stl": "stl",
    "3mf": "3mf",
    "step": "step",
    "stp": "step",
}
WORDS = "GLB, glTF, OBJ, PLY, STL, 3MF or STEP"
_HEAD = 4096


@dataclass(frozen=True)
class Bundle:
    """A model file and what was sent with it, by name without folders, in lower case."""

    name: str
    kind: ModelKind
    data: bytes
    beside: dict[str, bytes]

    def find(self, name: str) -> bytes | None:
        """A file that was sent along, wherever in the archive it lay; None when there is none."""
        return self.beside.get(PurePosixPath(name.replace("\\", "/")).name.lower())


def unpacked(data: bytes, name: str) -> Bundle:
    """What was sent. Raises ModelError when there is no model in it, or when it is a trap."""
    if not data:
        raise ModelError(f"{name} is empty: export it again.")
    if not data.startswith(BEGINS):
        return Bundle(name, _kind_of(data, name), data, {})
    files = unpack_files(
        data, name, refusal=ModelError, relief="send the model without what it does not need"
    )
    if any(entry.lower().endswith("3d/3dmodel.model") for entry in files):
        _refuse_entities(files, name)
        return Bundle(name, "3mf", data, {})
    models = [entry for entry in files if _suffix(entry) in KINDS and _suffix(entry) != "3mf"]
    if not models:
        raise ModelError(f"There is no model in {name}: it takes {WORDS} with the pictures they use.")
    if len(models) > 1:
        raise ModelError(
            f"There are several models in {name} ({_listed(models)}): send them one at a time, so that each "
            "can be named and placed."
        )
    main = models[0]
    beside = {PurePosixPath(entry).name.lower(): content for entry, content in files.items() if entry != main}
    return Bundle(PurePosixPath(main).name, _kind_of(files[main], main), files[main], beside)


def _refuse_entities(files: dict[str, bytes], name: str) -> None:
    """3MF is XML, and has no use for entities."""
    for entry, content in files.items():
        if b"<!DOCTYPE" in content or b"<!ENTITY" in content:
            raise ModelError(
                f"{name} defines entities in {entry[:60]}, which 3MF has none of: export it again."
            )


def _kind_of(data: bytes, name: str) -> ModelKind:
    """What a model file is, by what is in it. Raises ModelError when it is none."""
    head, start = data[:_HEAD], data[:_HEAD].lstrip()
    if head.startswith(b"glTF"):
        return "glb"
    if start.startswith(b"ISO-10303-21"):
        return "step"
    if start.startswith(b"ply"):
        return "ply"
    if start.startswith(b"{"):
        return _json_kind(data, name)
    triangles = int.from_bytes(data[80:84], "little") if len(data) >= 84 else -1
    if len(data) == 84 + 50 * triangles or (start[:5].lower() == b"solid" and b"facet" in data[: 8 * _HEAD]):
        return "stl"
    if re.search(rb"^\s*(v|f|vn|vt|o|g|mtllib) ", data[: 64 * _HEAD], re.MULTILINE) and b"\x00" not in head:
        return "obj"
    if _suffix(name) == "stl":
        raise ModelError(
            f"{name} says it has {max(triangles, 0)} triangles, but is {len(data)} bytes long: it is cut "
            "short or damaged, export it again."
        )
    raise ModelError(f"{name} is no model that can be read here: send {WORDS}.")


def _json_kind(data: bytes, name: str) -> ModelKind:
    try:
        asset = json.loads(data).get("asset")
    except (ValueError, AttributeError, RecursionError):
        raise ModelError(f"{name} is damaged: its text ends or breaks off. Export it again.") from None
    if not isinstance(asset, dict):
        raise ModelError(f"{name} is no model that can be read here: send {WORDS}.")
    return "gltf"


def _suffix(name: str) -> str:
    return PurePosixPath(name).suffix.lower().lstrip(".")


def _listed(names: list[str]) -> str:
    shown = ", ".join(PurePosixPath(name).name[:40] for name in names[:3])
    return f"{shown} …" if len(names) > 3 else shown
