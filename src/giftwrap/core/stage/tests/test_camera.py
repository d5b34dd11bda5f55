"""Lenses, frames and lights against textbook formulas."""

from __future__ import annotations

import math
from unittest import TestCase

import numpy as np
from pydantic import ValidationError

from giftwrap.core.form.starting import starting_pack
from giftwrap.core.materials.optics import OpticsKind
from giftwrap.core.model import Camera, Cloudy, Shot, Softbox
from giftwrap.core.render.film import Film
from giftwrap.core.render.interfaces import compile_stage
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.stage.camera import angle_of_view, frame_for, project, view_of
from giftwrap.core.stage.lights import softbox_position, softbox_radiance
from giftwrap.core.stage.starting import starting_set, starting_shot


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
        x, y, z = softbox_position(Softbox(**self.SOFTBOX, power_w=5), 100)
        np.testing.assert_allclose([x, y, z], [0, -1000 * math.cos(math.radians(30)), 600], atol=1e-9)

    def test_radiance_of_a_lambertian_panel(self) -> None:
        """Φ = π·A·L for a one-sided Lambertian emitter (any radiometry text)."""
        light = Softbox(**self.SOFTBOX, power_w=5)
        self.assertAlmostEqual(softbox_radiance(light) * math.pi * 0.5 * 0.8, 5)
        self.assertEqual(softbox_radiance(light.model_copy(update={"on": False})), 0)


class StartingTests(TestCase):
    def test_a_new_set_is_never_black_and_the_pack_is_in_the_picture(self) -> None:
        pack, shot = starting_pack(), starting_shot(230)
        stage = compile_stage(pack, starting_set(), {})
        film = Film(48, 60)
        film.add(Renderer(stage).expose(shot.camera, (48, 60), samples=8, seed=1))
        self.assertGreater(float(np.median(film.mean_light())), 0.15)
        self.assertLess(float(np.median(film.mean_light())), 1.5)
        ends = project(shot.camera, 0.8, np.array([[0, 0, 0.0], [0, 0, 231.0]]))
        self.assertTrue(((ends > 0.03) & (ends < 0.97)).all())

    def test_surfaces_know_both_sides(self) -> None:
        stage = compile_stage(starting_pack(), starting_set(), {})
        optics = {s.name: s.optics for s in stage.surfaces}
        wall, top = optics["wetted-body"], optics["contents-top"]
        self.assertEqual((wall.back.index, wall.front.index), (1.52, 1.35))
        self.assertEqual((top.back.index, top.front.index), (1.35, 1.0))

    def test_cream_is_the_surface_where_it_touches_glass(self) -> None:
        pack = starting_pack()
        cream = pack.contents.model_copy(update={"material": Cloudy()})
        stage = compile_stage(pack.model_copy(update={"contents": cream}), starting_set(), {})
        touching = next(s for s in stage.surfaces if s.name == "filled-body")
        self.assertEqual((touching.optics.kind, touching.optics.front.index), (OpticsKind.CLOUDY, 1.52))
        wall = touching.mesh.positions[:, 2] > 20
        outwards = (touching.mesh.normals[:, :2] * touching.mesh.positions[:, :2])[wall]
        self.assertGreaterEqual(float(outwards.sum(axis=1).min()), -1e-6)

    def test_nothing_coincides(self) -> None:
        """Label shells keep clear of the wall, and the pack of the floor."""
        stage = compile_stage(starting_pack(), starting_set(), {})
        meshes = {s.name: s.mesh for s in stage.surfaces}
        wall = np.linalg.norm(meshes["body"].positions[:, :2], axis=1).max()
        back = np.linalg.norm(meshes["label-1-back"].positions[:, :2], axis=1).min()
        self.assertGreater(back - wall, 0.04)
        floor = meshes["sweep"].positions[:, 2].min()
        self.assertLess(floor, meshes["body"].positions[:, 2].min() - 0.04)

    def test_shot_documents_survive_json(self) -> None:
        shot = starting_shot(230)
        self.assertEqual(Shot.model_validate_json(shot.model_dump_json()), shot)
