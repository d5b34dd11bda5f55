"""Lenses, frames and lights against textbook formulas."""

from __future__ import annotations

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
import trimesh
from pydantic import ValidationError
from shapely import Polygon

from giftwrap.core.materials.optics import OpticsKind
from giftwrap.core.mesh.transform import points_moved
from giftwrap.core.model import Camera, Cloudy, Group, OfHero, Pose, Shot, Softbox, Standing
from giftwrap.core.render.film import Film
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.stage.camera import angle_of_view, frame_for, project, view_of
from giftwrap.core.stage.lights import hung, radiance_of
from giftwrap.core.stage.plan import plan_of
from giftwrap.core.stage.standing import (
    NOTHING_STANDS,
    Placed,
    crossings,
    extent_of,
    lowest,
    pose_matrix,
    standing_matrix,
)
from giftwrap.core.tests.samples import formed, frame_of, portrait, three_lights
from giftwrap.core.things.making import thing_of
from giftwrap.core.things.starting import starting_pack


class LensTests(TestCase):
    def test_angles_of_view_on_the_36_by_24_frame(self) -> None:
        """2·atan(d/2f), e.g. S. Ray, Applied Photographic Optics; the degrees are from memory."""
        for lens, across, up in ((24, 73.7, 53.1), (50, 39.6, 27.0), (85, 23.9, 16.1), (135, 15.2, 10.2)):
            self.assertAlmostEqual(angle_of_view(lens, 36), across, delta=0.06)
            self.assertAlmostEqual(angle_of_view(lens, 24), up, delta=0.06)

    def test_frame_is_turned_and_cropped_to_the_picture(self) -> None:
        self.assertEqual(frame_for(1.5), (36, 24))
        self.assertEqual(frame_for(1.0), (24, 24))
        self.assertEqual(frame_for(2.0), (36, 18))
        np.testing.assert_allclose(frame_for(2 / 3), (24, 36))
        np.testing.assert_allclose(frame_for(0.8), (24, 30))

    def test_a_known_size_fills_the_picture(self) -> None:
        """At distance D a lens f takes in D·d/f: 85 mm, 850 mm away, 24 mm frame → 240 mm."""
        camera = Camera(lens_mm=85, distance=850, height=100, aim_height=100)
        ends = project(camera, 1.0, np.array([[-120.0, 0, 100], [120.0, 0, 100], [0, 0, 220.0]]))
        np.testing.assert_allclose(ends, [[0, 0.5], [1, 0.5], [0.5, 0]], atol=1e-9)

    def test_azimuth_turns_to_the_right(self) -> None:
        x, y, _ = view_of(Camera(azimuth=90, distance=500), 1.0).position
        np.testing.assert_allclose([x, y], [500, 0], atol=1e-9)

    def test_impossible_cameras_are_refused(self) -> None:
        for change in ({"lens_mm": 0}, {"distance": -5}, {"lens_mm": math.nan}, {"zoom": 3}):
            with self.assertRaises(ValidationError):
                Camera(**change)


class LightTests(TestCase):
    SOFTBOX = {"name": "Key", "width": 500, "height": 800, "azimuth": 0, "elevation": 30, "distance": 1000}

    def test_position(self) -> None:
        x, y, z = hung(Softbox(**self.SOFTBOX, power_w=5), (0.0, 0.0, 100.0)).centre
        np.testing.assert_allclose([x, y, z], [0, -1000 * math.cos(math.radians(30)), 600], atol=1e-9)

    def test_radiance_of_a_lambertian_panel(self) -> None:
        """Φ = π·A·L for a one-sided Lambertian emitter (any radiometry text)."""
        light = Softbox(**self.SOFTBOX, power_w=5)
        self.assertAlmostEqual(radiance_of(light) * math.pi * 0.5 * 0.8, 5)
        self.assertEqual(radiance_of(light.model_copy(update={"power_w": 0})), 0)


class StartingTests(TestCase):
    def test_a_new_set_is_never_black_and_the_pack_is_in_the_picture(self) -> None:
        frame = frame_of(starting_pack())
        film = Film(48, 60)
        renderer = Renderer(compile_scene(frame, {}))
        film.add(renderer.expose(frame.shot.camera, (48, 60), samples=8, seed=1))
        self.assertGreater(float(np.median(film.mean_light())), 0.15)
        self.assertLess(float(np.median(film.mean_light())), 1.5)
        ends = project(frame.shot.camera, 0.8, np.array([[0, 0, 0.0], [0, 0, 231.0]]))
        self.assertTrue(((ends > 0.03) & (ends < 0.97)).all())

    def test_surfaces_know_both_sides(self) -> None:
        thing = thing_of(starting_pack(), {})
        wall = next(p for p in thing.pieces if p.part == "body" and p.before == "contents")
        top = next(p for p in thing.pieces if p.part == "contents" and p.before is None)
        self.assertEqual((wall.material.refractive_index, wall.front.refractive_index), (1.52, 1.35))
        self.assertEqual((top.material.refractive_index, top.front), (1.35, None))

    def test_cream_is_the_surface_where_it_touches_glass(self) -> None:
        pack = starting_pack()
        cream = formed(pack, contents=pack.form.contents.model_copy(update={"material": Cloudy()}))
        thing, instance = thing_of(cream, {}), compile_scene(frame_of(cream), {}).instances[1]
        number = next(n for n, p in enumerate(thing.pieces) if p.before == "body")
        optics, mesh = instance.surfaces[number].optics, instance.meshes[number]
        self.assertEqual((optics.kind, optics.front.index), (OpticsKind.CLOUDY, 1.52))
        wall = mesh.positions[:, 2] > 20
        outwards = (mesh.normals[:, :2] * mesh.positions[:, :2])[wall]
        self.assertGreaterEqual(float(outwards.sum(axis=1).min()), -1e-6)

    def test_nothing_coincides(self) -> None:
        """Label shells keep clear of the wall, and the pack of the floor."""
        sweep, pack = compile_scene(frame_of(starting_pack()), {}).instances
        meshes = {p.name: p.mesh for p in thing_of(starting_pack(), {}).pieces}
        self.assertEqual(len(pack.meshes), len(meshes))
        wall = np.linalg.norm(meshes["body"].positions[:, :2], axis=1).max()
        back = np.linalg.norm(meshes["label-1-back"].positions[:, :2], axis=1).min()
        self.assertGreater(back - wall, 0.04)
        floor = sweep.meshes[0].positions[:, 2].min()
        self.assertLess(floor, meshes["body"].positions[:, 2].min() - 0.04)

    def test_shot_documents_survive_json(self) -> None:
        shot = portrait()
        self.assertEqual(Shot.model_validate_json(shot.model_dump_json()), shot)


class PlanTests(TestCase):
    def test_lights_and_camera_go_with_what_stands(self) -> None:
        """A line-up moved aside takes its lights along; the sweep's curve is a quarter circle."""
        photo_set = three_lights()
        shot = Shot(camera=Camera(distance=900, azimuth=20, aim_x=400, aim_y=100))
        here, there = (plan_of(photo_set, shot, [bottle_at(x, y)]) for x, y in ((0, 0), (400, 100)))
        moved = np.array([a.centre for a in there.lights]) - [a.centre for a in here.lights]
        np.testing.assert_allclose(moved, [[400, 100, 0]] * 3, atol=1e-6)
        np.testing.assert_allclose(there.middle[:2], (400, 100), atol=1e-6)
        across, back = here.camera[0] - 400, here.camera[1] - 100
        self.assertAlmostEqual(math.degrees(math.atan2(across, -back)), 20)
        self.assertAlmostEqual(math.hypot(across, back), 900)
        radius = photo_set.sweep.curve_radius
        curve = np.array(
            [p for p in here.sweep if p[1] < radius - 1 and p[0] > photo_set.sweep.back - radius + 1]
        )
        middle = np.array([photo_set.sweep.back - radius, radius - 0.05])
        np.testing.assert_allclose(np.linalg.norm(curve - middle, axis=1), radius, atol=0.1)

    def test_what_stands_is_drawn_with_what_is_wrong_with_it(self) -> None:
        placed = [
            bottle_at(0, 0),
            replace(bottle_at(40, 0), id="other"),
            replace(bottle_at(300, 0), id="far"),
        ]
        stands = plan_of(three_lights(), Shot(), placed).stands
        self.assertEqual([one.crosses for one in stands], [("other",), ("it",), ()])
        self.assertEqual([one.lifted for one in stands], [0, 0, 0])
        middle = Polygon(stands[2].footprint).centroid
        np.testing.assert_allclose([middle.x, middle.y], [300, 0], atol=0.3)


def bottle_at(x: float, y: float) -> Placed:
    """A starting bottle somewhere on the floor."""
    return Placed("it", "bottle", thing_of(starting_pack(), {}), pose_matrix(Pose(x=x, y=y)))


class StandingTests(TestCase):
    def place(self, pose: Pose, **more: object) -> Placed:
        return Placed("it", "bottle", thing_of(starting_pack(), {}), pose_matrix(pose))

    def test_turned_leaning_and_moved_in_that_order(self) -> None:
        matrix = pose_matrix(Pose(x=10, y=20, z=30, turn=90, lean=90))
        np.testing.assert_allclose(
            points_moved(np.array([[0.0, 0.0, 1.0]]), matrix), [[10, 21, 30]], atol=1e-9
        )

    def test_groups_carry_what_is_in_them(self) -> None:
        groups = {"a": Group(name="A", pose=Pose(x=100), group="b"), "b": Group(name="B", pose=Pose(turn=90))}
        standing = Standing(id="s", of=OfHero(), pose=Pose(x=5), group="a")
        matrix = standing_matrix(standing, groups)
        np.testing.assert_allclose(matrix[:3, 3], [0, 105, 0], atol=1e-9)

    def test_the_extent_of_a_row(self) -> None:
        row = [self.place(Pose(x=x)) for x in (0, 300)]
        extent, one = extent_of(row), extent_of(row[:1])
        self.assertAlmostEqual(extent.high[0], one.high[0] + 300)
        self.assertEqual(extent.high[2], one.high[2])
        self.assertEqual(extent_of([]), NOTHING_STANDS)

    def test_what_rests_and_what_crosses_as_another_library_says(self) -> None:
        """Against trimesh's collision manager where it is there, and its bounds."""
        for pose, rests in ((Pose(), True), (Pose(z=4), False), (Pose(turn=33), True), (Pose(nod=20), False)):
            placed = self.place(pose)
            points = np.vstack([points_moved(m.positions, placed.pose) for m in placed.thing.meshes])
            theirs = trimesh.PointCloud(points).bounds[0, 2]
            self.assertAlmostEqual(lowest(placed), theirs, places=6)
            self.assertEqual(abs(lowest(placed)) < 1e-6, rests, pose)
        manager = trimesh.collision.CollisionManager()
        outside = np.vstack([m.positions for m in self.place(Pose()).thing.meshes])
        hull = trimesh.convex.convex_hull(outside)
        for gap in (60.0, 71.0, 73.0, 90.0):
            pair = [self.place(Pose()), replace(self.place(Pose(x=gap)), id="other")]
            crossing = crossings(pair)
            manager.add_object("a", hull, transform=pair[0].pose)
            manager.add_object("b", hull, transform=pair[1].pose)
            with self.subTest(gap):
                self.assertEqual(bool(crossing), manager.in_collision_internal())
            manager.remove_object("a")
            manager.remove_object("b")
