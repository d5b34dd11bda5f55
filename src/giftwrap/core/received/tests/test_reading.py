"""Reading models: every format, what is wrong in them, and what is meant to do harm."""

from __future__ import annotations

import io
import json
import math
import struct
import zipfile
from pathlib import Path
from typing import Any
from unittest import TestCase

import numpy as np
import trimesh
from PIL import Image
from trimesh.visual import TextureVisuals

from giftwrap.core.errors import ModelError
from giftwrap.core.model import Clear, Metal, Opaque
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.received.kept import kept_model
from giftwrap.core.received.reading import ReadModel, read_model
from giftwrap.core.received.report import unit_guess
from giftwrap.core.tests.models import bottle_glb, exported, made_of, zipped

STEP = Path(__file__).parent / "step"


def setUpModule() -> None:
    start_reading(EVERYTHING)


def several() -> trimesh.Scene:
    """A ball, a box that is inside out, and the box again."""
    ball = trimesh.creation.icosphere(3, 30)
    box = trimesh.creation.box((20, 30, 40))
    box.apply_translation((80, 0, 0))
    box.invert()
    return trimesh.Scene({"ball": ball, "box": box, "box again": box.copy()})


def tree_of(glb: bytes) -> tuple[dict[str, Any], bytes]:
    """A GLB file's description and its binary part."""
    size = struct.unpack_from("<I", glb, 12)[0]
    return json.loads(glb[20 : 20 + size]), glb[28 + size :]


def glb_of(tree: dict[str, Any], binary: bytes) -> bytes:
    """A GLB file."""
    text = json.dumps(tree).encode()
    text += b" " * (-len(text) % 4)
    binary += b"\0" * (-len(binary) % 4)
    parts = [
        struct.pack("<I4s", len(text), b"JSON"),
        text,
        struct.pack("<I4s", len(binary), b"BIN\0"),
        binary,
    ]
    body = b"".join(parts)
    return struct.pack("<4sII", b"glTF", 2, 12 + len(body)) + body


class FormatTests(TestCase):
    def test_every_format_gives_the_same_solids(self) -> None:
        """Volumes against trimesh; formats without parts join what lies together."""
        for kind in ("glb", "obj", "ply", "stl", "3mf"):
            with self.subTest(kind):
                read = read_model(exported(several(), kind), f"several.{kind}")
                volumes = sorted(round(body.volume, 1) for body in read.bodies if body.copy_of is None)
                ball = trimesh.creation.icosphere(3, 30).volume
                self.assertEqual(volumes, sorted([24000.0, round(ball, 1)]))
                self.assertFalse(any(body.holes for body in read.bodies))

    def test_what_is_wrong_is_mended_and_said(self) -> None:
        notes = " ".join(read_model(exported(several(), "glb"), "several.glb").notes)
        self.assertIn("3 parts in 3 pieces, 1,304 triangles", notes)
        self.assertIn("1 piece lay exactly on another and was left out", notes)
        self.assertIn("2 pieces faced inwards and were turned round", notes)

    def test_faces_against_their_neighbours_are_turned(self) -> None:
        ball = trimesh.creation.icosphere(3, 30)
        faces = np.array(ball.faces)
        faces[:40] = faces[:40, ::-1]
        doubled = np.vstack([faces, faces[100:110]])
        flat = np.array([[5, 5, 9]])
        wild = trimesh.Trimesh(ball.vertices, np.vstack([doubled, flat]), process=False)
        read = read_model(exported(wild, "ply"), "wild.ply")
        notes = " ".join(read.notes)
        self.assertIn("40 faces faced against their neighbours", notes)
        self.assertIn("10 faces lay on another", notes)
        self.assertIn("1 face without area", notes)
        self.assertAlmostEqual(read.bodies[0].volume, ball.volume, delta=1e-3 * ball.volume)

    def test_a_hollow_faces_into_itself(self) -> None:
        """A shell in a ball bounds the ball's material from within, however the file has it turned."""
        outer, inner = trimesh.creation.icosphere(3, 30), trimesh.creation.icosphere(3, 20)
        for inverted in (False, True):
            if inverted:
                inner.invert()
            shell = trimesh.util.concatenate([outer, inner])
            read = read_model(exported(shell, "stl"), "shell.stl")
            with self.subTest(inverted):
                self.assertAlmostEqual(
                    sum(b.volume for b in read.bodies), outer.volume - abs(inner.volume), delta=1.0
                )

    def test_step_solids_of_known_volume(self) -> None:
        """Written by OpenCASCADE 8.0: a cube of 40 mm, a cylinder 40 × 60, a torus of 30 and 8."""
        exact = {"cube": 64_000.0, "cylinder": math.pi * 20**2 * 60, "torus": 2 * math.pi**2 * 30 * 8**2}
        for name, volume in exact.items():
            read = read_model((STEP / f"{name}.step").read_bytes(), f"{name}.step", chord=0.01)
            found = sum(body.volume for body in read.bodies) * read.unit_mm**3
            with self.subTest(name):
                self.assertAlmostEqual(found / volume, 1, delta=0.0015)
                self.assertEqual([mesh.name for mesh in read.meshes], [name])
                self.assertEqual(read.up, "+z")
                self.assertEqual(len(read.bodies), 1)

    def test_a_finer_chord_lies_nearer_to_a_step_surface(self) -> None:
        data = (STEP / "cylinder.step").read_bytes()
        for chord in (0.2, 0.02, 0.005):
            read = read_model(data, "cylinder.step", chord=chord)
            facets = kept_model(f"{chord}", read.data).whole[0]
            middles = facets.positions[facets.faces].mean(axis=1) * read.unit_mm
            sides = np.hypot(middles[:, 0], middles[:, 1])[
                np.ptp(facets.positions[facets.faces][..., 2], axis=1) > 1e-6
            ]
            with self.subTest(chord):
                self.assertLess(20 - float(sides.min()), chord * 1.01)

    def test_units_are_said_or_guessed(self) -> None:
        ball = trimesh.creation.icosphere(2, 0.05)
        self.assertEqual(read_model(exported(ball, "glb"), "a.glb").unit_mm, 1000.0)
        self.assertEqual(unit_guess(95.0, None), (1.0, True))
        self.assertEqual(unit_guess(9.5, None), (10.0, True))
        self.assertEqual(unit_guess(0.2, None), (1000.0, True))
        self.assertEqual(unit_guess(195.0, 1000.0), (1.0, True))  # glTF in mm, as some write it
        self.assertEqual(unit_guess(0.195, 1000.0), (1000.0, False))

    def test_3mf_says_its_unit(self) -> None:
        data = exported(trimesh.creation.box((2, 3, 4)), "3mf")
        files = {}
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            for entry in archive.namelist():
                files[entry] = archive.read(entry).replace(b'unit="millimeter"', b'unit="inch"')
        self.assertEqual(read_model(zipped(files), "box.3mf").unit_mm, 25.4)


class MaterialTests(TestCase):
    def test_a_bottle_s_materials_have_a_meaning_here(self) -> None:
        read = read_model(bottle_glb(), "bottle.glb")
        found = {material.name: material.look for material in read.materials}
        self.assertIsInstance(found["green glass"], Clear)
        self.assertIsInstance(found["juice"], Clear)
        self.assertIsInstance(found["paper"], Opaque)
        brass = found["brass"]
        assert isinstance(brass, Metal)
        self.assertEqual(brass.metal, "gold")
        picture = next(m.picture for m in read.materials if m.name == "paper")
        assert picture is not None
        self.assertTrue(picture.startswith(b"\x89PNG"))

    def test_a_picture_s_sheet_is_as_large_as_it_lies(self) -> None:
        """The label's sheet is 2.2 radians of a radius of 34.2 mm by 65 mm."""
        read = read_model(bottle_glb(), "bottle.glb")
        sheet = next(mesh.sheet for mesh in read.meshes if mesh.sheet)
        assert sheet is not None
        self.assertAlmostEqual(sheet[0] * 1000, 2.2 * 34.2, delta=0.02)
        self.assertAlmostEqual(sheet[1] * 1000, 65, delta=0.01)

    def test_transmission_and_volume_are_read(self) -> None:
        """By KHR_materials_transmission, _ior and _volume."""
        tree, binary = tree_of(
            exported(made_of(trimesh.creation.icosphere(2, 0.05), "g", (9, 9, 9, 255)), "glb")
        )
        tree["materials"][0]["extensions"] = {
            "KHR_materials_transmission": {"transmissionFactor": 1},
            "KHR_materials_ior": {"ior": 1.33},
            "KHR_materials_volume": {"attenuationDistance": 0.02, "attenuationColor": [1, 0.5, 0.25]},
        }
        look = read_model(glb_of(tree, binary), "g.glb").materials[0].look
        assert isinstance(look, Clear)
        self.assertEqual((look.refractive_index, look.depth, look.colour), (1.33, 20.0, "#ffbc89"))

    def test_an_obj_with_its_materials_in_one_archive(self) -> None:
        obj = b"mtllib looks.mtl\no Cube\nv 0 0 0\nv 30 0 0\nv 0 30 0\nv 0 0 30\nusemtl red\n"
        obj += b"f 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n"
        mtl = b"newmtl red\nKd 0.8 0.1 0.1\nNs 200\nmap_Kd missing.png\n"
        read = read_model(zipped({"model/cube.obj": obj, "model/looks.mtl": mtl}), "cube.zip")
        red = read.materials[0].look
        assert isinstance(red, Opaque)
        self.assertEqual(red.colour, "#cc1a1a")
        self.assertIn("missing.png", " ".join(read.notes))
        alone = read_model(obj, "cube.obj")
        self.assertIn("looks.mtl", " ".join(alone.notes))
        self.assertAlmostEqual(alone.bodies[0].volume, 30**3 / 6, places=1)

    def test_a_gltf_with_its_files_beside(self) -> None:
        tree, binary = tree_of(exported(trimesh.creation.icosphere(2, 0.05), "glb"))
        tree["buffers"][0]["uri"] = "../shared/ball.bin"
        text = json.dumps(tree).encode()
        read = read_model(zipped({"ball.gltf": text, "ball.bin": binary}), "ball.zip")
        self.assertEqual(read.bodies[0].triangles, 320)
        with self.assertRaisesRegex(ModelError, "needs “../shared/ball.bin”.*send both together"):
            read_model(text, "ball.gltf")


class LargeTests(TestCase):
    def test_pages_get_a_reduced_mesh_and_finals_the_whole(self) -> None:
        ball = trimesh.creation.icosphere(7, 50)
        read = read_model(exported(ball, "stl"), "ball.stl")
        kept = kept_model("ball", read.data)
        self.assertEqual(len(kept.whole[0].faces), 327_680)
        self.assertLessEqual(len(kept.few[0].faces), 40_000)
        off = np.abs(np.linalg.norm(kept.few[0].positions, axis=1) - 50).max()
        self.assertLess(off, 0.1)
        self.assertIn("Pages draw it with", " ".join(read.notes))

    def test_reduced_pictures_lie_where_they_lay(self) -> None:
        ball = trimesh.creation.uv_sphere(50, count=[300, 300])
        uvs = np.stack(
            [np.clip(ball.vertices[:, 0] / 100 + 0.5, 0, 1), np.clip(ball.vertices[:, 2] / 100 + 0.5, 0, 1)],
            1,
        )
        ball.visual = TextureVisuals(uv=uvs, image=Image.new("RGB", (16, 16), "red"))
        facets = kept_model("uv", read_model(exported(ball, "glb"), "uv.glb").data).few[0]
        assert facets.uvs is not None
        self.assertLessEqual(len(facets.faces), 40_000)
        # glTF's v runs down: trimesh turns it when it writes, and it is turned back when it is read
        np.testing.assert_allclose(facets.uvs[:, 0], facets.positions[:, 0] / 100 + 0.5, atol=0.01)
        np.testing.assert_allclose(facets.uvs[:, 1], facets.positions[:, 2] / 100 + 0.5, atol=0.01)


class HostileTests(TestCase):
    """Truncated, lying and malicious files: words, and nothing else happens."""

    def refused(self, data: bytes, name: str, words: str) -> None:
        with self.subTest(name), self.assertRaisesRegex(ModelError, words):
            read_model(data, name)

    def changed(self, change: Any) -> bytes:
        tree, binary = tree_of(exported(trimesh.creation.icosphere(1, 0.05), "glb"))
        change(tree)
        return glb_of(tree, binary)

    def test_files_that_are_cut_short(self) -> None:
        glb = exported(trimesh.creation.icosphere(2, 0.05), "glb")
        self.refused(b"", "nothing.glb", "is empty")
        self.refused(glb[:-100], "short.glb", "only .* came: it was cut short")
        self.refused(glb[:19], "shorter.glb", "cut short")
        stl = exported(trimesh.creation.icosphere(2, 5), "stl")
        self.refused(stl[:-33], "short.stl", "says it has 320 triangles")
        self.refused(exported(trimesh.creation.box(), "ply")[:-7], "short.ply", "no sound PLY file")
        self.refused(b'{"asset": {"version": "2.0"', "short.gltf", "ends or breaks off")
        step = (STEP / "cube.step").read_bytes()
        self.refused(step[:3000], "short.step", "no sound STEP file|cannot be read to its end")
        self.refused(b"hello", "notes.txt", "no model that can be read here")

    def test_numbers_that_cannot_be_true(self) -> None:
        def nan(tree: dict[str, Any]) -> None:
            tree["nodes"].append({"mesh": 0, "translation": [0, float("nan"), 0]})
            tree["scenes"][0]["nodes"] = [len(tree["nodes"]) - 1]

        self.refused(self.changed(nan), "nan.glb", "placed with what are no numbers")
        for index, value in ((4, float("nan")), (4, float("inf"))):
            tree, binary = tree_of(exported(trimesh.creation.icosphere(1, 0.05), "glb"))
            position = tree["accessors"][tree["meshes"][0]["primitives"][0]["attributes"]["POSITION"]]
            at = tree["bufferViews"][position["bufferView"]].get("byteOffset", 0) + 4 * index
            broken = binary[:at] + struct.pack("<f", value) + binary[at + 4 :]
            self.refused(glb_of(tree, broken), f"{value}.glb", "no numbers .1, the first at vertex 1")
        self.refused(b"o a\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 900\n", "range.obj", "no sound OBJ|names vertex")

    def test_descriptions_that_lie(self) -> None:
        def far(tree: dict[str, Any]) -> None:
            tree["accessors"][0]["count"] = 900_000

        def huge(tree: dict[str, Any]) -> None:
            tree["accessors"][0]["count"] = 10_000_000_000

        def ring(tree: dict[str, Any]) -> None:
            tree["nodes"] = [{"children": [1]}, {"children": [0], "mesh": 0}]
            tree["scenes"] = [{"nodes": [0]}]

        def nowhere(tree: dict[str, Any]) -> None:
            tree["meshes"][0]["primitives"][0]["attributes"]["POSITION"] = 77

        def packed(tree: dict[str, Any]) -> None:
            tree["extensionsRequired"] = tree["extensionsUsed"] = ["KHR_draco_mesh_compression"]

        def strange(tree: dict[str, Any]) -> None:
            tree["extensionsRequired"] = ["VENDOR_nobody_knows"]

        def older(tree: dict[str, Any]) -> None:
            tree["asset"]["version"] = "1.0"

        self.refused(self.changed(far), "far.glb", "reaches past the data")
        self.refused(self.changed(huge), "huge.glb", "million triangles")
        self.refused(self.changed(ring), "ring.glb", "goes in circles")
        self.refused(self.changed(nowhere), "nowhere.glb", "names accessor 77, but has")
        self.refused(self.changed(packed), "packed.glb", "compressed with KHR_draco_mesh_compression")
        self.refused(self.changed(strange), "strange.glb", "needs VENDOR_nobody_knows")
        self.refused(self.changed(older), "old.glb", "export it as glTF 2.0")

    def test_ten_million_triangles_are_refused_before_they_are_read(self) -> None:
        head = b"\0" * 80 + struct.pack("<I", 10_000_000)
        self.refused(
            head + b"\0" * 500_000_000, "ten million.stl", "10.0 million triangles; 3 million is the most"
        )
        ply = b"ply\nformat ascii 1.0\nelement vertex 3\nelement face 10000000\nend_header\n"
        self.refused(ply, "ten million.ply", "10.0 million triangles")

    def test_archives_that_are_traps(self) -> None:
        obj = b"o a\nv 0 0 0\nv 9 0 0\nv 0 9 0\nf 1 2 3\n"
        self.refused(zipped({"../../etc/cron.d/x.obj": obj}), "up.zip", "points out of it")
        self.refused(zipped({"/etc/x.obj": obj}), "root.zip", "points out of it")
        self.refused(zipped({"readme.txt": b"hello"}), "none.zip", "no model in none.zip")
        self.refused(zipped({"a.obj": obj, "b.stl": obj}), "two.zip", "several models")
        self.refused(zipped({f"{i}.png": b"" for i in range(500)}), "many.zip", "500 files")
        self.refused(b"PK\x03\x04" + b"\0" * 90, "broken.zip", "no sound archive")
        bomb = io.BytesIO()
        with (
            zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive,
            archive.open("a.obj", "w") as stream,
        ):
            for _ in range(1000):
                stream.write(b"\0" * 1_000_000)
        self.refused(bomb.getvalue(), "bomb.zip", "unpacks to 1.0 GB")
        data = bytearray(bomb.getvalue())
        place = data.rindex(b"PK\x01\x02")
        struct.pack_into("<I", data, place + 24, 1000)  # what the archive says of its size is a lie
        self.refused(bytes(data), "lying.zip", "no sound archive|more than it says|no model")

    def test_entities_of_xml_are_refused(self) -> None:
        data = exported(trimesh.creation.box((20, 30, 40)), "3mf")
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            files = {entry: archive.read(entry) for entry in archive.namelist()}
        model = next(name for name in files if name.endswith(".model"))
        files[model] = files[model].replace(
            b"?>", b'?><!DOCTYPE m [<!ENTITY a SYSTEM "file:///etc/passwd">]>', 1
        )
        self.refused(zipped(files), "entities.3mf", "defines entities")

    def test_deep_nesting_ends(self) -> None:
        deep = b'{"asset": {"version": "2.0"}, "extras": ' + b"[" * 200_000 + b"]" * 200_000 + b"}"
        self.refused(deep, "deep.gltf", "ends or breaks off|cannot be read")

    def test_lines_and_points_are_no_surfaces(self) -> None:
        def points(tree: dict[str, Any]) -> None:
            tree["meshes"][0]["primitives"][0]["mode"] = 0

        self.refused(self.changed(points), "points.glb", "no surfaces")
        ball = trimesh.Trimesh([[0, 0, 0]] * 3, [[0, 1, 2]], process=False)
        self.refused(exported(ball, "ply"), "nothing.ply", "no size")

    def test_pieces_without_end_stay_together(self) -> None:
        grains = trimesh.util.concatenate(
            [trimesh.creation.box((1, 1, 1)).apply_translation((2 * i, 0, 0)) for i in range(400)]
        )
        read = read_model(exported(grains, "stl"), "grains.stl")
        self.assertEqual(len(read.bodies), 1)
        self.assertIn("stayed together", " ".join(read.notes))

    def test_seeded_damage_never_breaks_the_reader(self) -> None:
        """Bytes changed at random in files of every kind: read, or refused in words."""
        wild = np.random.default_rng(11)
        kept: list[ReadModel] = []
        sources = {kind: exported(several(), kind) for kind in ("glb", "obj", "ply", "stl", "3mf")}
        sources["step"] = (STEP / "cylinder.step").read_bytes()
        for number in range(60):
            kind = list(sources)[number % len(sources)]
            data = bytearray(sources[kind])
            for place in wild.integers(0, min(len(data), 3000), 8):
                data[place] = int(wild.integers(0, 256))
            try:
                kept.append(read_model(bytes(data), f"{number}.{kind}"))
            except ModelError as error:
                self.assertGreater(len(error.message), 20)
        self.assertGreater(len(kept), 5)
