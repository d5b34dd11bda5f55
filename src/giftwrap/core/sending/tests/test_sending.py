"""Packs for use elsewhere: valid by Khronos's own validator, and read back as they were."""

from __future__ import annotations

import hashlib
import io
import json
import struct
import subprocess
from pathlib import Path
from typing import Any
from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.core.errors import PackError
from giftwrap.core.model import Metal, Opaque, Pack, Placement
from giftwrap.core.model.worked import Film
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.received.reading import read_model
from giftwrap.core.sending.gltf import TURN_S, write_glb
from giftwrap.core.sending.solids import solids_of, write_solids
from giftwrap.core.stage.camera import View, project, view_of
from giftwrap.core.stage.standing import Placed
from giftwrap.core.tests.samples import png, portrait
from giftwrap.core.things.facts import pack_facts
from giftwrap.core.things.making import shape_pack, thing_of
from giftwrap.core.things.starting import starting_pack
from giftwrap.core.things.vessel import VesselShape

WEB = Path(__file__).resolve().parents[5] / "web"
VALIDATE = """
const validator = require('gltf-validator')
const bytes = new Uint8Array(require('fs').readFileSync(0))
validator.validateBytes(bytes).then((report) => console.log(JSON.stringify(report.issues)))
"""
VIEW = View((0.0, -600.0, 200.0), (0.0, 0.0, 100.0), 30.0, None, None)


def setUpModule() -> None:
    start_reading(EVERYTHING)


def validated(glb: bytes) -> dict[str, Any]:
    """What the Khronos glTF validator (npm: gltf-validator 2.0.0-dev.3.10) says of a file."""
    done = subprocess.run(["node", "-e", VALIDATE], input=glb, capture_output=True, cwd=WEB, check=True)
    found: dict[str, Any] = json.loads(done.stdout)
    return found


def tree_of(glb: bytes) -> dict[str, Any]:
    size = struct.unpack_from("<I", glb, 12)[0]
    found: dict[str, Any] = json.loads(glb[20 : 20 + size])
    return found


def printed() -> tuple[Pack, dict[str, bytes]]:
    """A bottle with a label that has something on it."""
    pack = starting_pack("cordial-500")
    artwork = png(colour="#2a7d4f")
    name = hashlib.sha256(artwork).hexdigest()
    label = pack.panels[0].model_copy(update={"placements": [Placement(artwork=name, width=40)]})
    return pack.model_copy(update={"panels": [label]}), {name: artwork}


class GlbTests(TestCase):
    def glb(self, slug: str) -> bytes:
        thing = thing_of(starting_pack(slug), {}, coarse=True)
        return write_glb([Placed(slug, slug, thing, np.eye(4))], {}, view=VIEW, aspect=0.8)

    def test_the_validator_finds_no_error(self) -> None:
        for slug in ("cordial-500", "soap-carton", "pump-300", "jar-50", "gift-box", "tin-60"):
            with self.subTest(slug):
                issues = validated(self.glb(slug))
                self.assertEqual((issues["numErrors"], issues["numWarnings"]), (0, 0), issues["messages"][:5])

    def test_it_is_in_metres_with_y_up(self) -> None:
        scene = trimesh.load_scene(io.BytesIO(self.glb("cordial-500")), file_type="glb")
        bounds = thing_of(starting_pack("cordial-500"), {}, coarse=True).bounds
        self.assertAlmostEqual(float(scene.bounds[1][1]) * 1000, bounds.high[2], places=2)
        self.assertAlmostEqual(float(scene.bounds[0][1]) * 1000, bounds.low[2], places=2)

    def test_what_goes_out_comes_back_as_large(self) -> None:
        thing = thing_of(starting_pack("jar-50"), {}, coarse=True)
        read = read_model(write_glb([Placed("jar", "", thing, np.eye(4))], {}), "jar.glb")
        self.assertEqual(read.unit_mm, 1000.0)
        sizes = np.array([[b.low, b.high] for b in read.bodies]).reshape(-1, 3)
        span = np.ptp(sizes, axis=0) * 1000
        low, high = np.array(thing.bounds.low), np.array(thing.bounds.high)
        np.testing.assert_allclose(span[[0, 2, 1]], high - low, atol=1e-3)

    def test_artwork_is_baked_in_and_equal_things_are_there_once(self) -> None:
        pack, files = printed()
        thing = thing_of(pack, files, coarse=True)
        aside = np.eye(4)
        aside[0, 3] = 120
        glb = write_glb([Placed("a", "", thing, np.eye(4)), Placed("b", "", thing, aside)], files)
        tree = tree_of(glb)
        self.assertEqual((len(tree["meshes"]), len(tree["images"])), (1, 1))
        self.assertEqual(validated(glb)["numErrors"], 0)
        textured = [m for m in tree["materials"] if "baseColorTexture" in m["pbrMetallicRoughness"]]
        self.assertEqual(len(textured), 1)
        read = read_model(glb, "pair.glb")
        self.assertIn(b"\x89PNG", b"".join(m.picture or b"" for m in read.materials)[:8])

    def test_glass_passes_light_and_metal_is_metal(self) -> None:
        tree = tree_of(self.glb("cordial-500"))
        glass = next(m for m in tree["materials"] if m["name"] == "body")
        self.assertEqual(glass["extensions"]["KHR_materials_transmission"], {"transmissionFactor": 1.0})
        self.assertAlmostEqual(glass["extensions"]["KHR_materials_ior"]["ior"], 1.52)
        self.assertLess(
            set(tree["extensionsUsed"]),
            {f"KHR_materials_{e}" for e in ("ior", "transmission", "volume", "x")},
        )

    def test_what_is_done_to_materials_goes_along(self) -> None:
        """As the ratified extensions of glTF say it; the validator finds nothing wrong with them."""
        pack = starting_pack("jar-50")
        lid = Metal(metal="gold", lacquer=0.9, film=Film(thickness=350, refractive_index=2.1))
        closure = pack.form.closure.model_copy(update={"material": lid})
        body = pack.form.body.model_copy(update={"material": Opaque(colour="#808080", sheen=0.5)})
        form = pack.form.model_copy(update={"closure": closure, "body": body})
        thing = thing_of(pack.model_copy(update={"form": form}), {}, coarse=True)
        glb = write_glb([Placed("jar", "jar", thing, np.eye(4))], {})
        issues = validated(glb)
        self.assertEqual((issues["numErrors"], issues["numWarnings"]), (0, 0), issues["messages"][:5])
        said = {m["name"]: m.get("extensions", {}) for m in tree_of(glb)["materials"]}
        self.assertEqual(said["closure"]["KHR_materials_clearcoat"]["clearcoatFactor"], 1.0)
        self.assertEqual(said["closure"]["KHR_materials_iridescence"]["iridescenceThicknessMaximum"], 350)
        self.assertAlmostEqual(
            said["body"]["KHR_materials_sheen"]["sheenColorFactor"][0], 0.5 * 0.2158605**0.5, places=5
        )

    def test_its_camera_sees_what_the_studio_s_sees(self) -> None:
        """By glTF's own camera model: what the file's node and angle project to, against the studio's."""
        shot = portrait()
        view = view_of(shot.camera, 0.8)
        thing = thing_of(starting_pack("jar-50"), {}, coarse=True)
        tree = tree_of(write_glb([Placed("jar", "", thing, np.eye(4))], {}, view=view, aspect=0.8))
        node = next(n for n in tree["nodes"] if "camera" in n)
        lens = tree["cameras"][0]["perspective"]
        place = np.array(node["matrix"]).reshape(4, 4).T
        points = np.array([[0.0, 0, 0], [30, -20, 60], [-25, 10, 120]])
        metres = np.c_[points[:, 0], points[:, 2], -points[:, 1]] / 1000
        seen = np.c_[metres, np.ones(3)] @ np.linalg.inv(place).T
        half = np.tan(lens["yfov"] / 2)
        x, y = seen[:, 0] / (-seen[:, 2] * half * lens["aspectRatio"]), seen[:, 1] / (-seen[:, 2] * half)
        np.testing.assert_allclose(
            np.c_[0.5 + x / 2, 0.5 - y / 2], project(shot.camera, 0.8, points), atol=1e-6
        )

    def test_the_turntable_goes_round_once(self) -> None:
        tree = tree_of(self.glb("jar-50"))
        animation = tree["animations"][0]
        times = tree["accessors"][animation["samplers"][0]["input"]]
        self.assertEqual((times["min"], times["max"]), ([0.0], [TURN_S]))
        self.assertEqual(tree["nodes"][animation["channels"][0]["target"]["node"]]["name"], "turntable")


class SolidTests(TestCase):
    def test_solids_hold_what_the_facts_say(self) -> None:
        """Volumes of the printed sample against the pack's weights, by trimesh."""
        for slug in ("cordial-500", "jar-50", "tin-60"):
            shaped = shape_pack(starting_pack(slug))
            assert isinstance(shaped, VesselShape)
            facts = pack_facts(shaped)
            body = solids_of(shaped)["body"]
            density = shaped.pieces[0].material.density
            volume = trimesh.Trimesh(body.positions, body.faces, process=False).volume / 1000
            with self.subTest(slug):
                self.assertAlmostEqual(volume * density / facts.body_g, 1, delta=0.003)

    def test_files_are_closed_and_in_mm(self) -> None:
        shaped = shape_pack(starting_pack("cordial-500"), coarse=True)
        for form in ("stl", "3mf"):
            scene = trimesh.load_scene(io.BytesIO(write_solids(shaped, form)), file_type=form)  # type: ignore[arg-type]
            with self.subTest(form):
                self.assertTrue(all(mesh.is_watertight for mesh in scene.geometry.values()))
                self.assertAlmostEqual(float(scene.extents[2]), shaped.thing.bounds.high[2], places=2)
        parts = trimesh.load_scene(io.BytesIO(write_solids(shaped, "3mf")), file_type="3mf")
        self.assertEqual(set(parts.geometry), {"body", "closure"})
        self.assertEqual({m.metadata["units"] for m in parts.geometry.values()}, {"millimeter"})

    def test_cartons_are_cut_not_printed(self) -> None:
        with self.assertRaisesRegex(PackError, "save its blank"):
            write_solids(shape_pack(starting_pack("soap-carton")), "stl")

    def test_contents_and_labels_are_not_solid(self) -> None:
        pack, files = printed()
        self.assertEqual(set(solids_of(shape_pack(pack, files, coarse=True))), {"body", "closure"})  # type: ignore[arg-type]
