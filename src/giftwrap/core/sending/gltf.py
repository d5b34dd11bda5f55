"""Packs and sets as GLB (glTF 2.0, Khronos): materials, printed artwork, the camera, a turntable."""

from __future__ import annotations

import io
import json
import struct
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np

from giftwrap.core.grade.display import linear_colour
from giftwrap.core.materials.optics import FUZZ, frost_width, gloss_width, surface_optics
from giftwrap.core.materials.starting import drawn_colour
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.model import Clear, Metal, Opaque
from giftwrap.core.model.material import Material
from giftwrap.core.stage.camera import View
from giftwrap.core.stage.standing import Placed
from giftwrap.core.things.thing import Piece, Thing
from giftwrap.core.wrap.printing import finest_ppi, print_panel

PRINT_PPI = 300.0
TURN_S = 8.0
"""Seconds in which the turntable goes round once."""
TO_METRES = np.array([[0.001, 0, 0, 0], [0, 0, 0.001, 0], [0, -0.001, 0, 0], [0, 0, 0, 1]])
"""From mm with z up to metres with y up."""
NEAR, FAR = 0.01, 100.0
_ARRAY, _ELEMENTS = 34962, 34963
_NUMBERS = {"f": 5126, "u": 5125}


@dataclass
class _Writer:
    """A glTF file as it grows."""

    tree: dict[str, Any] = field(default_factory=dict)
    data: bytearray = field(default_factory=bytearray)
    known: dict[str, int] = field(default_factory=dict)

    def put(self, what: str, item: dict[str, Any]) -> int:
        """Add something; returns its number."""
        items: list[dict[str, Any]] = self.tree.setdefault(what, [])
        items.append(item)
        return len(items) - 1

    def view(self, raw: bytes, target: int | None = None) -> int:
        """Add bytes."""
        self.data += b"\0" * (-len(self.data) % 4)
        item: dict[str, Any] = {"buffer": 0, "byteOffset": len(self.data), "byteLength": len(raw)}
        if target is not None:
            item["target"] = target
        self.data += raw
        return self.put("bufferViews", item)

    def numbers(self, values: Array, kind: str, target: int | None = None, *, ends: bool = False) -> int:
        """Add an accessor of (n, width) numbers."""
        rows = np.ascontiguousarray(values, dtype=np.float32 if values.dtype.kind == "f" else np.uint32)
        item: dict[str, Any] = {
            "bufferView": self.view(rows.tobytes(), target),
            "componentType": _NUMBERS[rows.dtype.kind],
            "count": len(rows),
            "type": kind,
        }
        if ends:
            item["min"] = np.atleast_1d(rows.min(axis=0)).tolist()
            item["max"] = np.atleast_1d(rows.max(axis=0)).tolist()
        return self.put("accessors", item)

    def use(self, extension: str) -> None:
        """Say that an extension is used."""
        used = self.tree.setdefault("extensionsUsed", [])
        if extension not in used:
            used.append(extension)

    def bytes(self) -> bytes:
        """The file."""
        self.data += b"\0" * (-len(self.data) % 4)
        self.tree["buffers"] = [{"byteLength": len(self.data)}]
        text = json.dumps(self.tree, separators=(",", ":")).encode()
        text += b" " * (-len(text) % 4)
        size = 12 + 8 + len(text) + 8 + len(self.data)
        head = struct.pack("<4sII", b"glTF", 2, size)
        return b"".join(
            [
                head,
                struct.pack("<I4s", len(text), b"JSON"),
                text,
                struct.pack("<I4s", len(self.data), b"BIN\0"),
                bytes(self.data),
            ]
        )


def write_glb(
    placed: Sequence[Placed],
    files: Mapping[str, bytes],
    *,
    view: View | None = None,
    aspect: float = 1.0,
    turntable: bool = True,
) -> bytes:
    """What stands somewhere as a GLB file; equal things are in it once.

    files : artwork by SHA-256; view : of a camera, for pictures of an aspect (width / height)
    turntable : whether it goes round once as an animation

    Raises ArtworkError when what is printed cannot be drawn.
    """
    out = _Writer({"asset": {"version": "2.0", "generator": "Giftwrap"}})
    meshes: dict[int, int] = {}
    nodes = []
    for one in placed:
        if id(one.thing) not in meshes:
            meshes[id(one.thing)] = _mesh(out, one.thing, files)
        place = TO_METRES @ one.pose
        nodes.append(
            out.put(
                "nodes",
                {"name": one.id, "mesh": meshes[id(one.thing)], "matrix": place.T.reshape(-1).tolist()},
            )
        )
    table = out.put("nodes", {"name": "turntable", "children": nodes})
    roots = [table]
    if view is not None:
        roots.append(_camera(out, view, aspect))
    out.put("scenes", {"nodes": roots})
    out.tree["scene"] = 0
    if turntable:
        _turn(out, table)
    return out.bytes()


def _mesh(out: _Writer, thing: Thing, files: Mapping[str, bytes]) -> int:
    primitives = []
    ppi = min(PRINT_PPI, finest_ppi(thing.panels))
    for piece in thing.pieces:
        if not len(piece.mesh.faces):
            continue
        printed = piece.panel is not None
        texture = _print(out, thing, piece, files, ppi) if printed else None
        primitives.append(_primitive(out, piece.mesh, _material(out, piece, texture), textured=printed))
    return out.put("meshes", {"primitives": primitives})


def _primitive(out: _Writer, mesh: Mesh, material: int, *, textured: bool) -> dict[str, Any]:
    lengths = np.linalg.norm(mesh.normals, axis=1, keepdims=True)
    normals = np.where(lengths > 1e-6, mesh.normals / np.maximum(lengths, 1e-6), [0.0, 0.0, 1.0])
    attributes = {
        "POSITION": out.numbers(mesh.positions, "VEC3", _ARRAY, ends=True),
        "NORMAL": out.numbers(normals, "VEC3", _ARRAY),
    }
    if textured:
        flipped = np.stack([mesh.uvs[:, 0], 1 - mesh.uvs[:, 1]], axis=1)
        attributes["TEXCOORD_0"] = out.numbers(flipped, "VEC2", _ARRAY)
    return {
        "attributes": attributes,
        "indices": out.numbers(mesh.faces.reshape(-1).astype(np.uint32), "SCALAR", _ELEMENTS),
        "material": material,
    }


def _print(out: _Writer, thing: Thing, piece: Piece, files: Mapping[str, bytes], ppi: float) -> int:
    assert piece.panel is not None
    panel = thing.panels[piece.panel]
    key = f"print {panel.model_dump_json()}"
    if key not in out.known:
        stream = io.BytesIO()
        print_panel(panel, files, ppi=ppi).picture.save(stream, "PNG")
        image = out.put("images", {"bufferView": out.view(stream.getvalue()), "mimeType": "image/png"})
        if "samplers" not in out.tree:
            out.put("samplers", {"magFilter": 9729, "minFilter": 9987, "wrapS": 33071, "wrapT": 33071})
        out.known[key] = out.put("textures", {"source": image, "sampler": 0})
    return out.known[key]


def _material(out: _Writer, piece: Piece, texture: int | None) -> int:
    key = f"{piece.material.model_dump_json()} {texture}"
    if key not in out.known:
        item = _look(out, piece.material)
        _done(out, piece.material, item)
        item["name"] = piece.part
        if texture is not None:
            item["pbrMetallicRoughness"]["baseColorTexture"] = {"index": texture}
            item["pbrMetallicRoughness"]["baseColorFactor"] = [1.0, 1.0, 1.0, 1.0]
        out.known[key] = out.put("materials", item)
    return out.known[key]


def _look(out: _Writer, material: Material) -> dict[str, Any]:
    """A material by glTF's terms; its roughness squared is what is alpha here (Burley, 2012)."""
    if isinstance(material, Clear):
        for extension in ("transmission", "volume", "ior"):
            out.use(f"KHR_materials_{extension}")
        alpha = frost_width(material.frost)
        return {
            "pbrMetallicRoughness": {"metallicFactor": 0.0, "roughnessFactor": float(np.sqrt(alpha))},
            "extensions": {
                "KHR_materials_transmission": {"transmissionFactor": 1.0},
                "KHR_materials_ior": {"ior": material.refractive_index},
                "KHR_materials_volume": {
                    "thicknessFactor": 0.002,
                    "attenuationColor": list(linear_colour(material.colour)),
                    "attenuationDistance": material.depth / 1000,
                },
            },
        }
    alpha = surface_optics(material).alpha
    return {
        "pbrMetallicRoughness": {
            "baseColorFactor": [*linear_colour(drawn_colour(material)), 1.0],
            "metallicFactor": 1.0 if isinstance(material, Metal) else 0.0,
            "roughnessFactor": float(np.sqrt(alpha)),
        },
        "doubleSided": True,
    }


def _done(out: _Writer, material: Material, item: dict[str, Any]) -> None:
    """What is done to a material, as far as glTF has terms for it: sheen, lacquer and film."""
    found: dict[str, dict[str, Any]] = {}
    if isinstance(material, Opaque) and material.sheen:
        fuzz = [material.sheen * value**0.5 for value in linear_colour(material.colour)]
        found["sheen"] = {"sheenColorFactor": fuzz, "sheenRoughnessFactor": FUZZ**0.5}
    if isinstance(material, Metal) and material.lacquer:
        width = gloss_width(material.lacquer)
        found["clearcoat"] = {"clearcoatFactor": 1.0, "clearcoatRoughnessFactor": width**0.5}
    if material.film:
        found["iridescence"] = {
            "iridescenceFactor": 1.0,
            "iridescenceIor": material.film.refractive_index,
            "iridescenceThicknessMaximum": material.film.thickness,
        }
    for name, values in found.items():
        out.use(f"KHR_materials_{name}")
        item.setdefault("extensions", {})[f"KHR_materials_{name}"] = values


def _camera(out: _Writer, view: View, aspect: float) -> int:
    kind: Literal["perspective", "orthographic"] = "perspective" if view.width is None else "orthographic"
    if view.width is None or view.height is None:
        lens = {
            "yfov": float(np.radians(view.vertical_angle)),
            "aspectRatio": aspect,
            "znear": NEAR,
            "zfar": FAR,
        }
    else:
        lens = {"xmag": view.width / 2000, "ymag": view.height / 2000, "znear": NEAR, "zfar": FAR}
    camera = out.put("cameras", {"type": kind, kind: lens})
    turned = TO_METRES[:3, :3] * 1000
    eye, target = turned @ np.array(view.position) / 1000, turned @ np.array(view.target) / 1000
    back = (eye - target) / np.linalg.norm(eye - target)
    right = np.cross([0.0, 1.0, 0.0], back)
    right /= np.linalg.norm(right)
    matrix = np.eye(4)
    matrix[:3, :3] = np.stack([right, np.cross(back, right), back], axis=1)
    matrix[:3, 3] = eye
    return out.put("nodes", {"name": "camera", "camera": camera, "matrix": matrix.T.reshape(-1).tolist()})


def _turn(out: _Writer, node: int) -> None:
    """One turn about the upright axis, in quarters."""
    angles = np.linspace(0.0, 2 * np.pi, 5)
    turns = np.stack([0 * angles, np.sin(angles / 2), 0 * angles, np.cos(angles / 2)], axis=1)
    times = out.numbers(np.linspace(0.0, TURN_S, 5), "SCALAR", ends=True)
    sampler = {"input": times, "output": out.numbers(turns, "VEC4"), "interpolation": "LINEAR"}
    channel = {"sampler": 0, "target": {"node": node, "path": "rotation"}}
    out.put("animations", {"name": "turntable", "samplers": [sampler], "channels": [channel]})
