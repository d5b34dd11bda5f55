"""glTF as the specification has it: every way to say triangles, and what materials become."""

from __future__ import annotations

import base64
import io
import json
import struct
from typing import Any
from unittest import TestCase

import numpy as np
from PIL import Image

from giftwrap.core.errors import ModelError
from giftwrap.core.materials.others import frost_of, gloss_of, hex_of, look_of
from giftwrap.core.model import Clear, Metal, Opaque
from giftwrap.core.received.bundle import Bundle
from giftwrap.core.received.found import FoundModel
from giftwrap.core.received.gltf import read_gltf
from giftwrap.core.received.looks import usable_picture

SQUARE = np.array([[0, 0, 0], [2, 0, 0], [0, 2, 0], [2, 2, 0]], dtype="<f4")


class _Made:
    """A glTF file being put together."""

    def __init__(self) -> None:
        self.data = b""
        self.tree: dict[str, Any] = {
            "asset": {"version": "2.0"},
            "scenes": [{"nodes": [0]}],
            "nodes": [{"mesh": 0, "name": "Thing"}],
            "meshes": [{"primitives": [{"attributes": {}}]}],
            "accessors": [],
            "bufferViews": [],
        }

    @property
    def primitive(self) -> dict[str, Any]:
        found: dict[str, Any] = self.tree["meshes"][0]["primitives"][0]
        return found

    def view(self, values: np.ndarray, **more: Any) -> int:
        self.tree["bufferViews"].append(
            {"buffer": 0, "byteOffset": len(self.data), "byteLength": values.nbytes, **more}
        )
        self.data += values.tobytes()
        self.data += b"\0" * (-len(self.data) % 4)
        return len(self.tree["bufferViews"]) - 1

    def accessor(self, values: np.ndarray, kind: str, number: int = 5126, **more: Any) -> int:
        item = {"bufferView": self.view(values), "componentType": number, "count": len(values), "type": kind}
        self.tree["accessors"].append({**item, **more})
        return len(self.tree["accessors"]) - 1

    def read(self) -> FoundModel:
        uri = "data:application/octet-stream;base64," + base64.b64encode(self.data).decode()
        self.tree["buffers"] = [{"byteLength": len(self.data), "uri": uri}]
        return read_gltf(Bundle("made.gltf", "gltf", json.dumps(self.tree).encode(), {}))


def square() -> _Made:
    made = _Made()
    made.primitive["attributes"]["POSITION"] = made.accessor(SQUARE, "VEC3")
    return made


def area(model: FoundModel) -> float:
    total = 0.0
    for mesh in model.meshes:
        a, b, c = (mesh.positions[mesh.faces[:, k]] for k in range(3))
        total += float(np.cross(b - a, c - a)[:, 2].sum() / 2)
    return total


class TrianglesTests(TestCase):
    """Topologies by glTF 2.0, 3.7.2.1: a square of 2 × 2, seen from above."""

    def test_lists_strips_and_fans_are_the_same_square(self) -> None:
        for mode, order in ((4, [0, 1, 2, 2, 1, 3]), (5, [0, 1, 2, 3]), (6, [0, 1, 3, 2])):
            for number, kind in ((5121, "u1"), (5123, "<u2"), (5125, "<u4")):
                made = square()
                made.primitive["mode"] = mode
                made.primitive["indices"] = made.accessor(np.array(order, dtype=kind), "SCALAR", number)
                with self.subTest(mode=mode, kind=kind):
                    self.assertAlmostEqual(area(made.read()), 4.0)

    def test_without_indices_points_come_in_their_order(self) -> None:
        made = _Made()
        made.primitive["attributes"]["POSITION"] = made.accessor(SQUARE[[0, 1, 2, 2, 1, 3]].copy(), "VEC3")
        self.assertAlmostEqual(area(made.read()), 4.0)

    def test_interleaved_values_are_told_apart(self) -> None:
        made = _Made()
        both = np.hstack([SQUARE, np.tile(np.array([0, 0, 1], dtype="<f4"), (4, 1))])
        view = made.view(np.ascontiguousarray(both), byteStride=24)
        for offset in (0, 12):
            made.tree["accessors"].append(
                {"bufferView": view, "byteOffset": offset, "componentType": 5126, "count": 4, "type": "VEC3"}
            )
        made.primitive["attributes"] = {"POSITION": 0, "NORMAL": 1}
        made.primitive["indices"] = made.accessor(np.array([0, 1, 2, 2, 1, 3], dtype="<u2"), "SCALAR", 5123)
        found = made.read()
        self.assertAlmostEqual(area(found), 4.0)
        np.testing.assert_allclose(found.meshes[0].normals, np.tile([0, 0, 1], (4, 1)))

    def test_sparse_values_replace_some(self) -> None:
        made = square()
        made.primitive["indices"] = made.accessor(np.array([0, 1, 2, 2, 1, 3], dtype="<u2"), "SCALAR", 5123)
        made.tree["accessors"][0]["sparse"] = {
            "count": 1,
            "indices": {"bufferView": made.view(np.array([3], dtype="<u2")), "componentType": 5123},
            "values": {"bufferView": made.view(np.array([[4, 4, 0]], dtype="<f4"))},
        }
        np.testing.assert_allclose(made.read().meshes[0].positions[3], [4, 4, 0])
        made.tree["accessors"][0]["sparse"]["indices"]["bufferView"] = made.view(np.array([9], dtype="<u2"))
        with self.assertRaisesRegex(ModelError, "changes a value it does not have"):
            made.read()

    def test_quantised_places_are_numbers_again(self) -> None:
        """KHR_mesh_quantization: whole numbers, normalised or not."""
        for normalized, scale in ((False, 1.0), (True, 1 / 32767)):
            made = _Made()
            made.tree["extensionsRequired"] = ["KHR_mesh_quantization"]
            places = (SQUARE * 1000).astype("<i2")
            made.primitive["attributes"]["POSITION"] = made.accessor(
                places, "VEC3", 5122, normalized=normalized
            )
            made.primitive["mode"] = 5
            with self.subTest(normalized):
                self.assertAlmostEqual(area(made.read()), 4e6 * scale**2, delta=1e-6)

    def test_nodes_turn_scale_and_mirror(self) -> None:
        made = square()
        made.primitive["mode"] = 5
        half = np.sqrt(0.5)
        made.tree["nodes"] = [
            {"children": [1], "scale": [-1, 1, 1]},
            {"mesh": 0, "rotation": [0, 0, half, half], "translation": [5, 0, 0]},
        ]
        found = made.read()
        self.assertAlmostEqual(area(found), 4.0)  # mirrored, and turned round again for it
        np.testing.assert_allclose(found.meshes[0].positions[1], [-5, 2, 0], atol=1e-6)

    def test_points_lines_and_movement_are_left_out_and_said(self) -> None:
        made = square()
        made.primitive["mode"] = 5
        made.tree["meshes"][0]["primitives"].append({"attributes": {"POSITION": 0}, "mode": 1})
        made.tree["animations"] = [{}]
        made.tree["skins"] = [{}]
        notes = " ".join(made.read().notes)
        for words in ("points and lines", "animation", "skeleton"):
            self.assertIn(words, notes)

    def test_pictures_are_moved_as_their_transform_says(self) -> None:
        """KHR_texture_transform, and v that runs down."""
        made = square()
        made.primitive["mode"] = 5
        uvs = np.array([[0, 0], [1, 0], [0, 1], [1, 1]], dtype="<f4")
        made.primitive["attributes"]["TEXCOORD_0"] = made.accessor(uvs, "VEC2")
        made.primitive["material"] = 0
        moved = {"KHR_texture_transform": {"offset": [0.25, 0.5], "scale": [0.5, 0.25]}}
        information = {"index": 0, "extensions": moved}
        made.tree["materials"] = [{"pbrMetallicRoughness": {"baseColorTexture": information}}]
        found = made.read().meshes[0].uvs
        np.testing.assert_allclose(found, [[0.25, 0.5], [0.75, 0.5], [0.25, 0.25], [0.75, 0.25]], atol=1e-6)


class LookTests(TestCase):
    def material(self, **said: Any) -> Any:
        made = square()
        made.primitive.update({"mode": 5, "material": 0})
        made.tree["materials"] = [said]
        return made.read().materials[0]

    def test_kinds_of_material(self) -> None:
        plain = self.material(
            pbrMetallicRoughness={"metallicFactor": 0, "baseColorFactor": [1, 0, 0, 1]}
        ).look
        self.assertEqual((type(plain), plain.colour), (Opaque, "#ff0000"))
        self.assertIsInstance(
            self.material().look, Metal
        )  # by the specification metal is 1 unless it is said
        blend = {"metallicFactor": 0, "baseColorFactor": [1, 1, 1, 0.3]}
        self.assertIsInstance(self.material(alphaMode="BLEND", pbrMetallicRoughness=blend).look, Clear)
        self.assertIsInstance(self.material(alphaMode="OPAQUE", pbrMetallicRoughness=blend).look, Opaque)
        older = {
            "KHR_materials_pbrSpecularGlossiness": {"diffuseFactor": [0, 1, 0, 1], "glossinessFactor": 0.2}
        }
        green = self.material(extensions=older).look
        self.assertEqual((type(green), green.colour), (Opaque, "#00ff00"))

    def test_metals_are_the_nearest_or_tinted(self) -> None:
        self.assertEqual(look_of((0.96, 0.64, 0.54), 1.0, 0.3).metal, "copper")  # type: ignore[union-attr]
        blue = look_of((0.1, 0.1, 0.8), 1.0, 0.3)
        self.assertEqual((blue.metal, blue.tint), ("aluminium", hex_of((0.1, 0.1, 0.8))))  # type: ignore[union-attr]

    def test_roughness_becomes_gloss_and_frost(self) -> None:
        self.assertEqual((gloss_of(0.0), gloss_of(1.0)), (1.0, 0.0))
        self.assertEqual((frost_of(0.0), frost_of(1.0)), (0.0, 1.0))
        gloss = [gloss_of(r) for r in np.linspace(0, 1, 9)]
        self.assertEqual(gloss, sorted(gloss, reverse=True))

    def test_pictures_of_gloss_and_relief(self) -> None:
        """Metallic-roughness and normal textures (glTF 2.0, 3.9.2 and 3.9.3), found by their textures."""
        made = square()
        made.primitive.update({"mode": 5, "material": 0})
        files = []
        for colour in ("red", "green"):
            stream = io.BytesIO()
            Image.new("RGB", (8, 4), colour).save(stream, "PNG")
            files.append(stream.getvalue())
        made.tree["images"] = [
            {"uri": "data:image/png;base64," + base64.b64encode(data).decode()} for data in files
        ]
        made.tree["textures"] = [{"source": 1}, {"source": 0}]
        made.tree["materials"] = [
            {
                "pbrMetallicRoughness": {"metallicRoughnessTexture": {"index": 1}},
                "normalTexture": {"index": 0, "scale": 0.5},
            }
        ]
        found = made.read()
        (own,) = found.materials
        self.assertEqual((own.picture, own.rough, own.facing, own.steep), (None, *files, 0.5))
        made.tree["materials"][0]["normalTexture"]["index"] = 7
        self.assertIsNone(made.read().materials[0].facing)
        made.tree["images"][1]["uri"] = "data:image/png;base64,AAAA"
        made.tree["materials"][0]["normalTexture"]["index"] = 0
        broken = made.read()
        self.assertIsNone(broken.materials[0].facing)
        self.assertTrue(any("picture of relief on “material 1” cannot be read" in n for n in broken.notes))

    def test_pictures_of_other_kinds_become_png(self) -> None:
        stream = io.BytesIO()
        Image.new("RGB", (8, 4), "red").save(stream, "WEBP")
        data, problem = usable_picture(stream.getvalue(), "the picture")
        assert data is not None
        self.assertEqual((data[:4], problem), (b"\x89PNG", ""))
        self.assertIn("did not come", usable_picture(None, "the picture")[1])
        self.assertIn("cannot be read", usable_picture(b"nothing", "the picture")[1])
        cut = stream.getvalue()[:30]
        self.assertIn("cannot be read", usable_picture(cut, "the picture")[1])

    def test_a_glb_keeps_its_binary_part(self) -> None:
        made = square()
        made.primitive["mode"] = 5
        made.tree["buffers"] = [{"byteLength": len(made.data)}]
        text = json.dumps(made.tree).encode()
        text += b" " * (-len(text) % 4)
        body = struct.pack("<I4s", len(text), b"JSON") + text
        body += struct.pack("<I4s", len(made.data), b"BIN\0") + made.data
        glb = struct.pack("<4sII", b"glTF", 2, 12 + len(body)) + body
        self.assertAlmostEqual(area(read_gltf(Bundle("a.glb", "glb", glb, {}))), 4.0)
