"""The files of an upload: one, or several in a ZIP archive, which never touch the disk."""

from __future__ import annotations

import io
import json
import re
import zipfile
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Literal

from giftwrap.core.errors import ModelError

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
MOST_ENTRIES = 400
MOST_UNPACKED = 800_000_000
"""Bytes that an archive may hold."""
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
    if not data.startswith(b"PK\x03\x04"):
        return Bundle(name, _kind_of(data, name), data, {})
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        files = _contents(archive, name)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, zipfile.zlib.error) as error:  # type: ignore[attr-defined]
        raise ModelError(f"{name} is no sound archive ({error}): pack it again.") from None
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


def _contents(archive: zipfile.ZipFile, name: str) -> dict[str, bytes]:
    """Every file of an archive by its name there."""
    entries = [entry for entry in archive.infolist() if not entry.is_dir()]
    entries = [entry for entry in entries if not entry.filename.startswith("__MACOSX/")]
    if len(entries) > MOST_ENTRIES:
        raise ModelError(
            f"{name} holds {len(entries)} files; {MOST_ENTRIES} is the most: pack only the model."
        )
    for entry in entries:
        path = PurePosixPath(entry.filename.replace("\\", "/"))
        if path.is_absolute() or ".." in path.parts or re.match(r"[A-Za-z]:", entry.filename):
            raise ModelError(
                f"{name} has a file that points out of it (“{entry.filename[:60]}”): pack the folder itself."
            )
    total = sum(entry.file_size for entry in entries)
    if total > MOST_UNPACKED:
        raise ModelError(
            f"{name} unpacks to {total / 1e9:.1f} GB; {MOST_UNPACKED / 1e9:.1f} GB is the most: send smaller "
            "pictures, or the model without them."
        )
    found, left = {}, MOST_UNPACKED
    for entry in entries:
        with archive.open(entry) as stream:
            content = stream.read(left + 1)  # sizes that are told may be lies
        left -= len(content)
        if left < 0:
            raise ModelError(f"{name} unpacks to more than it says: it is damaged or a trap.")
        found[entry.filename] = content
    return found


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
