"""glTF 2.0 and GLB, by the Khronos specification: geometry where its nodes put it, and materials.

Animation, skins, lights and cameras have no meaning here and are said to have been left out.
"""

from __future__ import annotations

import base64
import binascii
import json
import struct
from collections.abc import Iterator
from typing import Any, cast

import numpy as np

from giftwrap.core.errors import ModelError
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.received.bundle import Bundle
from giftwrap.core.received.found import FoundMesh, FoundModel, checked_mesh, refuse_too_many
from giftwrap.core.received.gltf_materials import MM_PER_METRE, materials_of

_NUMBERS = {5120: "i1", 5121: "u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
_WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}
_UNDERSTOOD = (
    "KHR_mesh_quantization",
    "KHR_texture_transform",
    "KHR_lights_punctual",
    "EXT_texture_webp",
    "KHR_xmp_json_ld",
    "MSFT_lod",
)
_PACKED = ("KHR_draco_mesh_compression", "EXT_meshopt_compression", "KHR_meshopt_compression")
_ONE = {"meshes": "mesh", "bufferViews": "buffer view"}
_JSON, _BIN = 0x4E4F534A, 0x004E4942
_TRIANGLES, _STRIP, _FAN = 4, 5, 6
MOST_NODES = 50_000


def read_gltf(bundle: Bundle) -> FoundModel:
    """Read a glTF or GLB file. Raises ModelError, naming what is wrong in it."""
    return _Reader(bundle).read()


class _Reader:
    def __init__(self, bundle: Bundle) -> None:
        self.bundle = bundle
        self.name = bundle.name
        self.binary: bytes | None = None
        self.tree = self._tree()
        self._buffers: dict[int, bytes] = {}
        self.notes: list[str] = []

    def read(self) -> FoundModel:
        self._refuse_unknown()
        found: list[FoundMesh] = []
        triangles = 0
        for node, place in self._placed():
            if node.get("mesh") is None:
                continue
            for mesh in self._mesh(node, place):
                triangles += len(mesh.faces)
                refuse_too_many(triangles)
                found.append(checked_mesh(mesh))
        if not found:
            raise ModelError(f"There are no surfaces in {self.name}: export it with its meshes.")
        for what, words in (
            ("animations", "Its animation"),
            ("skins", "Its skeleton"),
            ("cameras", "Its camera"),
        ):
            if self.tree.get(what):
                self.notes.append(f"{words} was left out.")
        materials, notes = materials_of(self.tree, self._image)
        return FoundModel(tuple(found), materials, MM_PER_METRE, "+y", (*self.notes, *notes))

    def _tree(self) -> dict[str, Any]:
        data = self.bundle.data
        if self.bundle.kind == "glb":
            data = self._chunks(data)
        try:
            tree = json.loads(data)
        except (ValueError, RecursionError) as error:
            raise ModelError(f"{self.name} is damaged, its description cannot be read ({error}).") from None
        version = str(tree.get("asset", {}).get("version", "")) if isinstance(tree, dict) else ""
        if not version.startswith("2"):
            raise ModelError(f"{self.name} is glTF {version or 'of no version'}: export it as glTF 2.0.")
        return cast(dict[str, Any], tree)

    def _chunks(self, data: bytes) -> bytes:
        """The description in a GLB file; keeps its binary part."""
        if len(data) < 20:
            raise ModelError(f"{self.name} is cut short: send it again.")
        _, version, length = struct.unpack_from("<4sII", data)
        if version != 2:
            raise ModelError(f"{self.name} is GLB version {version}: export it as glTF 2.0.")
        if length > len(data):
            raise ModelError(
                f"{self.name} says it has {length} bytes, but only {len(data)} came: it was cut short on its "
                "way, send it again."
            )
        at, text = 12, b""
        while at + 8 <= length:
            size, kind = struct.unpack_from("<II", data, at)
            if at + 8 + size > length:
                raise ModelError(f"{self.name} is damaged: a part of it reaches past its end.")
            chunk = data[at + 8 : at + 8 + size]
            if kind == _JSON and not text:
                text = chunk
            elif kind == _BIN and self.binary is None:
                self.binary = chunk
            at += 8 + size + (-size % 4)
        return text

    def _refuse_unknown(self) -> None:
        used, required = self._list("extensionsUsed"), self._list("extensionsRequired")
        for extension in _PACKED:
            if extension in required or (extension in used and not self._plain_too(extension)):
                raise ModelError(
                    f"{self.name} is compressed with {extension}, which cannot be read here: export it "
                    "without compression."
                )
        for extension in required:
            if extension not in (*_UNDERSTOOD, *_PACKED) and not str(extension).startswith("KHR_materials_"):
                raise ModelError(
                    f"{self.name} needs {str(extension)[:60]}, which cannot be read here: export it without."
                )

    def _plain_too(self, extension: str) -> bool:
        """Whether what is compressed is also there as it is."""
        items = [
            *self._list("bufferViews"),
            *(p for m in self._list("meshes") for p in m.get("primitives", [])),
        ]
        packed = [item for item in items if extension in item.get("extensions", {})]
        return not packed and not any(
            "bufferView" not in a and "sparse" not in a for a in self._list("accessors")
        )

    def _list(self, name: str) -> list[Any]:
        found = self.tree.get(name, [])
        return found if isinstance(found, list) else []

    def _item(self, what: str, index: Any) -> dict[str, Any]:
        items = self._list(what)
        if type(index) is not int or not 0 <= index < len(items) or not isinstance(items[index], dict):
            one = _ONE.get(what, what.rstrip("s"))
            raise ModelError(
                f"{self.name} names {one} {index}, but has {len(items)}: it is damaged, export it again."
            )
        return cast(dict[str, Any], items[index])

    def _placed(self) -> Iterator[tuple[dict[str, Any], Array]]:
        """Every node of the scene with its (4, 4) transform to the file's axes."""
        nodes, scenes = self._list("nodes"), self._list("scenes")
        if scenes:
            roots = self._item("scenes", self.tree.get("scene", 0)).get("nodes", [])
        else:
            children = {child for node in nodes for child in node.get("children", [])}
            roots = [i for i in range(len(nodes)) if i not in children]
        waiting: list[tuple[Any, Array]] = [(root, np.eye(4)) for root in reversed(roots)]
        seen: set[int] = set()
        while waiting:
            index, above = waiting.pop()
            node = self._item("nodes", index)
            if index in seen:
                raise ModelError(
                    f"Node {index} of {self.name} hangs on itself or on two others: its tree goes in "
                    "circles. Export it again."
                )
            seen.add(index)
            if len(seen) > MOST_NODES:
                raise ModelError(
                    f"{self.name} has more than {MOST_NODES} nodes: join them where it was made."
                )
            place = above @ _transform(node, f"Node {index} of {self.name}")
            yield node, place
            waiting += [(child, place) for child in reversed(node.get("children", []))]

    def _mesh(self, node: dict[str, Any], place: Array) -> Iterator[FoundMesh]:
        mesh = self._item("meshes", node["mesh"])
        name = str(node.get("name") or mesh.get("name") or f"mesh {node['mesh'] + 1}")[:120]
        primitives = [p for p in mesh.get("primitives", []) if p.get("mode", _TRIANGLES) >= _TRIANGLES]
        if len(primitives) < len(mesh.get("primitives", [])):
            self._note("Its points and lines were left out.")
        for primitive in primitives:
            if primitive.get("targets"):
                self._note("Its shapes between which it changes were left out.")
            yield self._primitive(primitive, name, place)

    def _note(self, words: str) -> None:
        if words not in self.notes:
            self.notes.append(words)

    def _primitive(self, primitive: dict[str, Any], name: str, place: Array) -> FoundMesh:
        attributes = primitive.get("attributes", {})
        if "POSITION" not in attributes:
            raise ModelError(f"“{name}” in {self.name} has no places: export it again.")
        positions = self._accessor(attributes["POSITION"], "VEC3").astype(float)
        count = len(positions)
        if "indices" in primitive:
            order = self._accessor(primitive["indices"], "SCALAR").reshape(-1).astype(np.int64)
        else:
            order = np.arange(count)
        faces = _triangles(order, primitive.get("mode", _TRIANGLES))
        normals = self._optional(attributes, "NORMAL", "VEC3", count)
        linear = place[:3, :3]
        with np.errstate(all="ignore"):
            positions = positions @ linear.T + place[:3, 3]
            if normals is not None:
                normals = normals @ np.linalg.pinv(linear)
        if np.linalg.det(linear) < 0:
            faces = faces[:, ::-1]
        uvs = self._uvs(primitive, attributes, count)
        return FoundMesh(name, positions, faces, normals, uvs, primitive.get("material"))

    def _uvs(self, primitive: dict[str, Any], attributes: dict[str, Any], count: int) -> Array | None:
        """Where the picture of its colour lies on it, v up."""
        information: dict[str, Any] = {}
        if primitive.get("material") is not None:
            material = self._item("materials", primitive["material"])
            plain = material.get("pbrMetallicRoughness", {})
            shown = (plain.get("baseColorTexture"), plain.get("metallicRoughnessTexture"))
            information = next(filter(None, (*shown, material.get("normalTexture"))), {})
        moved = information.get("extensions", {}).get("KHR_texture_transform", {})
        channel = moved.get("texCoord", information.get("texCoord", 0))
        uvs = self._optional(attributes, f"TEXCOORD_{channel}", "VEC2", count)
        if uvs is None:
            return None
        angle, scale = (
            float(moved.get("rotation", 0.0)),
            np.array(moved.get("scale", (1.0, 1.0)), dtype=float),
        )
        turned = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        uvs = (uvs * scale) @ turned.T + np.array(moved.get("offset", (0.0, 0.0)), dtype=float)
        return np.asarray(np.stack([uvs[:, 0], 1 - uvs[:, 1]], axis=1))

    def _optional(self, attributes: dict[str, Any], name: str, kind: str, count: int) -> Array | None:
        if name not in attributes:
            return None
        values = self._accessor(attributes[name], kind).astype(float)
        return values if len(values) == count and np.isfinite(values).all() else None

    def _accessor(self, index: Any, kind: str) -> Array:
        """(n, width) of the numbers an accessor stands for."""
        accessor = self._item("accessors", index)
        number, count = accessor.get("componentType"), accessor.get("count", 0)
        if accessor.get("type") != kind or number not in _NUMBERS or type(count) is not int or count < 0:
            raise ModelError(f"Accessor {index} of {self.name} is not what it is used for: export it again.")
        dtype, width = np.dtype(_NUMBERS[number]), _WIDTHS[kind]
        refuse_too_many(count // 3)
        if "bufferView" in accessor:
            values = self._view(accessor, dtype, width, count, f"Accessor {index} of {self.name}")
        else:
            values = np.zeros((count, width), dtype)
        if "sparse" in accessor:
            values = self._sparse(values.copy(), accessor["sparse"], dtype, width, index)
        if accessor.get("normalized") and dtype.kind in "iu":
            return np.maximum(values.astype(float) / np.iinfo(dtype).max, -1.0)
        return values

    def _sparse(self, values: Array, sparse: dict[str, Any], dtype: Any, width: int, index: Any) -> Array:
        count, where = sparse.get("count", 0), f"Accessor {index} of {self.name}"
        places = np.dtype(_NUMBERS.get(sparse.get("indices", {}).get("componentType"), "<u4"))
        at = self._view(sparse["indices"], places, 1, count, where).reshape(-1)
        if len(at) and at.max() >= len(values):
            raise ModelError(f"{where} changes a value it does not have: the file is damaged.")
        values[at] = self._view(sparse["values"], dtype, width, count, where)
        return values

    def _view(self, source: dict[str, Any], dtype: Any, width: int, count: int, where: str) -> Array:
        view = self._item("bufferViews", source.get("bufferView"))
        data = self._buffer(view.get("buffer"))
        start, length = int(view.get("byteOffset", 0)), int(view.get("byteLength", 0))
        offset, size = int(source.get("byteOffset", 0)), dtype.itemsize * width
        stride = int(view.get("byteStride") or size)
        last = offset + stride * (count - 1) + size if count else 0
        if min(start, length, offset) < 0 or start + length > len(data) or last > length or stride < size:
            raise ModelError(
                f"{where} reaches past the data that came with it: the file is cut short or damaged."
            )
        if not count:
            return np.zeros((0, width), dtype)
        raw = np.ndarray((count, width), dtype, data, start + offset, (stride, dtype.itemsize))
        return np.ascontiguousarray(raw)

    def _buffer(self, index: Any) -> bytes:
        if index not in self._buffers:
            buffer = self._item("buffers", index)
            uri = buffer.get("uri")
            if uri is None and index == 0 and self.binary is not None:
                self._buffers[index] = self.binary
            else:
                self._buffers[index] = self._bytes(uri, f"buffer {index}")
        return self._buffers[index]

    def _bytes(self, uri: Any, what: str) -> bytes:
        """What an address stands for. Raises ModelError when it was not sent along."""
        if isinstance(uri, str) and uri.startswith("data:"):
            try:
                return base64.b64decode(uri.partition(",")[2], validate=True)
            except (ValueError, binascii.Error):
                raise ModelError(f"The {what} of {self.name} is damaged.") from None
        found = self.bundle.find(uri) if isinstance(uri, str) else None
        if found is None:
            raise ModelError(
                f"{self.name} needs “{str(uri)[:60]}” ({what}), which did not come with it: send both "
                "together, or export one GLB."
            )
        return found

    def _image(self, index: Any) -> bytes | None:
        """A picture of the file; None when it did not come along."""
        image = self._item("images", index)
        if "bufferView" in image:
            view = self._item("bufferViews", image["bufferView"])
            return bytes(
                self._view(
                    {"bufferView": image["bufferView"]}, np.dtype("u1"), 1, view["byteLength"], "A picture"
                )
            )
        try:
            return self._bytes(image.get("uri"), "a picture")
        except ModelError:
            return None


def _triangles(order: Indices, mode: int) -> Indices:
    """(f, 3) int: an index list as triangles."""
    if mode == _TRIANGLES:
        return order[: len(order) // 3 * 3].reshape(-1, 3)
    count = max(len(order) - 2, 0)
    i = np.arange(count)
    if mode == _FAN:
        return np.stack([np.full(count, order[0]) if count else order[:0], order[1:-1], order[2:]], axis=1)
    odd = i % 2 == 1
    first, second = order[i], order[i + 1]
    return np.stack([np.where(odd, second, first), np.where(odd, first, second), order[i + 2]], axis=1)


def _transform(node: dict[str, Any], where: str) -> Array:
    """(4, 4): a node's own transform."""
    try:
        if "matrix" in node:
            matrix = np.array(node["matrix"], dtype=float).reshape(4, 4).T
        else:
            x, y, z, w = (float(v) for v in node.get("rotation", (0, 0, 0, 1)))
            matrix = np.eye(4)
            matrix[:3, :3] = [
                [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
                [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
                [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
            ]
            matrix[:3, :3] *= np.array(node.get("scale", (1, 1, 1)), dtype=float)
            matrix[:3, 3] = node.get("translation", (0, 0, 0))
    except (TypeError, ValueError):
        raise ModelError(f"{where} is not placed with numbers: export it again.") from None
    if not np.isfinite(matrix).all():
        raise ModelError(f"{where} is placed with what are no numbers: export it again.")
    return matrix
