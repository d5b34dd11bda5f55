"""Received models on the table: size, way up, lids, walls and contents, against solids of known volume."""

from __future__ import annotations

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import flipped
from giftwrap.core.mesh.topology import volume_of
from giftwrap.core.model import Received, ReceivedPart
from giftwrap.core.received.found import FoundMesh, FoundModel
from giftwrap.core.received.hollow import hollowed
from giftwrap.core.received.kept import KeptModel, kept_model, packed
from giftwrap.core.received.mending import mended
from giftwrap.core.received.parts import part_mesh, placement_of
from giftwrap.core.received.pouring import poured
from giftwrap.core.tests.models import INNER, OUTER, area_of, as_mesh, lathed, whole

MODEL = "a" * 64


def kept(*solids: trimesh.Trimesh) -> KeptModel:
    meshes = [
        FoundMesh(f"{i}", np.asarray(s.vertices, dtype=float), np.asarray(s.faces))
        for i, s in enumerate(solids)
    ]
    return mended(FoundModel(tuple(meshes)))[0]


def received(model: KeptModel, **change: object) -> Received:
    parts = [ReceivedPart(name=f"part {i}", bodies=(i,)) for i in range(len(model.bodies))]
    return Received.model_validate({"model": MODEL, "parts": parts, **change})


class PlacementTests(TestCase):
    def setUp(self) -> None:
        box = trimesh.creation.box((20, 30, 50))
        box.apply_translation((100, -40, 7))
        self.model = kept(box)

    def mesh(self, **change: object):  # type: ignore[no-untyped-def]
        one = received(self.model, **change)
        place = placement_of(one, self.model.bodies)
        return part_mesh(one.parts[0], one, self.model, place, coarse=False)

    def test_it_rests_on_the_table_over_its_middle(self) -> None:
        for up in ("+x", "-x", "+y", "-y", "+z", "-z"):
            for turn in (0.0, 30.0):
                mesh = self.mesh(up=up, turn=turn)
                with self.subTest(up=up, turn=turn):
                    low, high = mesh.positions.min(axis=0), mesh.positions.max(axis=0)
                    self.assertAlmostEqual(low[2], 0, places=6)
                    np.testing.assert_allclose((low + high)[:2], 0, atol=1e-9)
                    self.assertAlmostEqual(high[2], {"x": 20, "y": 30, "z": 50}[up[1]], places=6)
                    self.assertAlmostEqual(volume_of(mesh.positions, mesh.faces), 30_000, places=3)

    def test_the_way_up_shows_the_front_that_formats_have(self) -> None:
        """glTF's front is +z with y up (Khronos, 3.4): it comes to face −y here."""
        wedge = trimesh.convex.convex_hull([[0, 0, 0], [10, 0, 0], [0, 10, 0], [10, 10, 0], [5, 5, 9]])
        one = received(model := kept(wedge), up="+y")
        mesh = part_mesh(one.parts[0], one, model, placement_of(one, model.bodies), coarse=False)
        tip = mesh.positions[np.argmin(mesh.positions[:, 1])]
        np.testing.assert_allclose(tip[[0, 2]], [0, 5], atol=1e-6)

    def test_units_make_it_larger(self) -> None:
        self.assertAlmostEqual(float(self.mesh(unit_mm=25.4).positions[:, 2].max()), 50 * 25.4, places=3)
        with self.assertRaisesRegex(
            PackError, "5e\\+04 mm along its longest side: choose another unit"
        ) as raised:
            self.mesh(unit_mm=1000)
        self.assertEqual(raised.exception.place, "unit_mm")

    def test_pieces_that_are_not_there_are_refused(self) -> None:
        one = received(self.model, parts=[ReceivedPart(name="a", bodies=(0, 3))])
        with self.assertRaisesRegex(PackError, "names piece 3, but the model has 1"):
            placement_of(one, self.model.bodies)
        with self.assertRaisesRegex(PackError, "All of the model is left out"):
            placement_of(
                received(self.model, parts=[ReceivedPart(name="a", bodies=(0,), role="left out")]),
                self.model.bodies,
            )

    def test_faces_are_turned_round(self) -> None:
        one = received(self.model, parts=[ReceivedPart(name="a", bodies=(0,), turned=True)])
        mesh = part_mesh(one.parts[0], one, self.model, placement_of(one, self.model.bodies), coarse=False)
        self.assertAlmostEqual(volume_of(mesh.positions, mesh.faces), -30_000, places=3)

    def test_two_parts_have_nothing_twice(self) -> None:
        for parts, words in (
            ([("a", (0,)), ("a", (1,))], "Two parts are called “a”"),
            ([("a", (0, 1)), ("b", (1,))], "is in two parts"),
            ([("a", (0, 0))], "is in two parts"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ValueError, words):
                Received(model=MODEL, parts=[ReceivedPart(name=n, bodies=b) for n, b in parts])
        with self.assertRaisesRegex(ValueError, "Two parts are said to be the container"):
            Received(
                model=MODEL,
                parts=[ReceivedPart(name=n, bodies=(i,), role="container") for i, n in enumerate("ab")],
            )

    def test_what_is_kept_comes_back_as_it_was(self) -> None:
        again = kept_model("round trip", packed(self.model))
        np.testing.assert_allclose(again.whole[0].positions, self.model.whole[0].positions, atol=1e-5)
        np.testing.assert_array_equal(again.whole[0].faces, self.model.whole[0].faces)
        self.assertEqual(again.bodies, self.model.bodies)
        self.assertEqual(again.meshes, self.model.meshes)


class LidTests(TestCase):
    def test_holes_are_closed_on_request(self) -> None:
        """A cylinder without lids, and a ball without a cap: closed, both hold what they hold."""
        tube = trimesh.creation.cylinder(10, 30, sections=48)
        ball = trimesh.creation.icosphere(3, 20)
        for solid, gone in (
            (tube, np.abs(tube.face_normals[:, 2]) > 0.5),
            (ball, ball.triangles_center[:, 2] > 15),
        ):
            model = kept(trimesh.Trimesh(solid.vertices, solid.faces[~gone], process=False))
            one = received(model, parts=[ReceivedPart(name="a", bodies=(0,), closed=True)])
            mesh = part_mesh(one.parts[0], one, model, placement_of(one, model.bodies), coarse=False)
            closed = whole(mesh)
            with self.subTest(len(solid.faces)):
                self.assertTrue(closed.is_watertight)
                self.assertTrue(closed.is_winding_consistent)
                self.assertGreater(closed.volume, 0.9 * solid.volume)
                self.assertLessEqual(closed.volume, solid.volume * 1.0001)


class WallTests(TestCase):
    """A solid of known volume given an inside: what is left is what the smaller solid leaves."""

    def test_walls_are_as_thick_as_they_are_told_to_be(self) -> None:
        tube = trimesh.creation.cylinder(30, 100, sections=96).subdivide_to_size(8)
        box = trimesh.creation.box((60, 60, 90)).subdivide_to_size(9)
        ball = trimesh.creation.icosphere(4, 40)
        circle = 96 / 2 * math.sin(2 * math.pi / 96)  # of a polygon of 96 sides in a circle of 1
        for solid, inside, share in (
            (tube, circle * (30 - 3 / math.cos(math.pi / 96)) ** 2 * 94, 0.001),
            (box, 54 * 54 * 84, 1e-9),
            (ball, 4 / 3 * math.pi * 37**3, 0.005),
        ):
            mesh = hollowed(as_mesh(solid), 3.0, 35, "it")
            hollow = abs(volume_of(solid.vertices, solid.faces)) - volume_of(mesh.positions, mesh.faces)
            with self.subTest(len(solid.faces)):
                self.assertAlmostEqual(hollow / inside, 1, delta=share)
                self.assertTrue(whole(mesh).is_watertight)

    def test_nothing_is_thinner_by_rays(self) -> None:
        """From inside points of a bottle straight to its outside, by trimesh's nearest points."""
        solid = lathed((0, 0), (34, 0), (34, 120), (14, 150), (14, 180), (0, 180)).subdivide_to_size(6)
        mesh = hollowed(as_mesh(solid), 2.0, 35, "it")
        inside = mesh.positions[len(as_mesh(solid).positions) :]
        _, apart, _ = trimesh.proximity.closest_point(solid, inside)
        self.assertGreater(float(apart.min()), 1.99)
        self.assertLess(float(np.percentile(apart, 99)), 2.01)

    def test_an_open_mouth_stays_open(self) -> None:
        solid = trimesh.creation.cylinder(30, 100, sections=64).subdivide_to_size(10)
        open_top = solid.faces[~(solid.triangles_center[:, 2] > 49.9)]
        mesh = hollowed(as_mesh(trimesh.Trimesh(solid.vertices, open_top, process=False)), 2.0, 35, "it")
        shell = whole(mesh)
        self.assertTrue(shell.is_watertight)
        ring = 64 / 2 * math.sin(2 * math.pi / 64)
        inner = 30 - 2 / math.cos(math.pi / 64)
        self.assertAlmostEqual(shell.volume / (ring * (30**2 * 100 - inner**2 * 98)), 1, delta=0.002)
        self.assertAlmostEqual(float(shell.vertices[:, 2].max()), 50, places=6)

    def test_a_wall_without_room_is_refused(self) -> None:
        with self.assertRaisesRegex(PackError, "has no room in “vial”") as raised:
            hollowed(
                as_mesh(trimesh.creation.cylinder(4, 60, sections=48).subdivide_to_size(3)), 5.0, 35, "“vial”"
            )
        self.assertEqual(raised.exception.place, "wall")


class PouringTests(TestCase):
    def setUp(self) -> None:
        self.glass = as_mesh(lathed(*OUTER, *INNER, sections=128))

    def inside_to(self, level: float) -> float:
        """Of the inner half-profile, revolved in 128 facets: frusta up to a level."""
        radii, heights = zip(*INNER[3::-1], strict=True)
        steps = np.linspace(5, level, 20_001)
        shown = np.interp(steps, heights, radii)
        return float(np.trapezoid(128 / 2 * math.sin(2 * math.pi / 128) * shown**2, steps))

    def test_contents_meet_the_wall_exactly(self) -> None:
        for level in (20.0, 100.0, 130.0, 149.5, 170.0):
            found = poured(self.glass, level, "it")
            with self.subTest(level):
                self.assertAlmostEqual(found.volume / self.inside_to(level), 1, delta=1e-4)
                both = whole(flipped(found.wet), found.top)
                self.assertTrue(both.is_watertight)
                self.assertAlmostEqual(both.volume / found.volume, 1, places=6)
                self.assertAlmostEqual(
                    area_of(found.dry) + area_of(found.wet), area_of(self.glass), delta=0.01
                )
                self.assertTrue(whole(found.dry, found.wet).is_watertight)
                np.testing.assert_allclose(found.top.positions[:, 2], level, atol=1e-9)

    def test_normals_stay_the_wall_s(self) -> None:
        found = poured(self.glass, 100.0, "it")
        for mesh in (found.dry, found.wet):
            a, b, c = (mesh.positions[mesh.faces[:, k]] for k in range(3))
            facing = (np.cross(b - a, c - a) * mesh.normals[mesh.faces[:, 0]]).sum(axis=1)
            self.assertGreater(float((facing > -1e-6).mean()), 0.999)

    def test_what_holds_nothing_is_refused(self) -> None:
        solid = as_mesh(trimesh.creation.cylinder(30, 100, sections=48))
        with self.assertRaisesRegex(PackError, "holds nothing up to 20.0 mm"):
            poured(solid, 20.0, "“jar”")
        cut = replace(self.glass, faces=self.glass.faces[5:])
        with self.assertRaisesRegex(PackError, "not closed around its wall"):
            poured(cut, 100.0, "“jar”")
        with self.assertRaisesRegex(PackError, "inside out"):
            poured(flipped(self.glass), 100.0, "“jar”")

    def test_below_the_floor_there_is_nothing(self) -> None:
        with self.assertRaisesRegex(PackError, "holds nothing up to 3.0 mm"):
            poured(self.glass, 3.0, "“jar”")
