"""What a stage has in common with the one before is told by content, and by all of it."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase

import numpy as np

from giftwrap.core.mesh.mesh import flipped
from giftwrap.core.model import Camera, Clear, Cloudy, Contents, Pack
from giftwrap.core.render.geometry import Geometry
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.tests.samples import cylinder, frame_of, vessel_pack
from giftwrap.core.tests.scenes import matt, sphere, surface

CORDIAL = Clear(refractive_index=1.35, colour="#c08a3e", density=1.1)
CREAM = Cloudy(colour="#a84432")


def filled(material: Clear | Cloudy) -> Pack:
    kind = "liquid" if isinstance(material, Clear) else "gel"
    return vessel_pack(body=cylinder(), contents=Contents(kind=kind, fill_height=90, material=material))


class GeometryTests(TestCase):
    def test_faces_and_normals_belong_to_what_a_mesh_is(self) -> None:
        ball = sphere(10, steps=16)
        same = replace(ball, positions=ball.positions.copy())
        kept = Geometry([surface("a", ball, matt()).instance])
        self.assertIs(Geometry.of([surface("a", same, matt()).instance], previous=kept), kept)
        leaning = replace(ball, normals=np.roll(ball.normals, 1, axis=1))
        for other in (flipped(ball), leaning, replace(ball, uvs=ball.uvs + 0.5), sphere(10, steps=17)):
            self.assertIsNot(Geometry.of([surface("a", other, matt()).instance], previous=kept), kept)

    def test_cream_after_cordial_is_cream_from_the_start(self) -> None:
        """The same seed gives the same pixels, whatever was loaded before."""
        camera = Camera(distance=600, height=120, aim_height=75)
        scenes = [compile_scene(frame_of(filled(m)), {}) for m in (CORDIAL, CREAM, CORDIAL)]
        before = Renderer(scenes[0])
        pictures = []
        for one in scenes[1:]:
            changed, fresh = Renderer(one, previous=before), Renderer(one)
            pair = [r.expose(camera, (40, 50), samples=8, seed=5).light for r in (changed, fresh)]
            self.assertTrue(np.array_equal(*pair))
            pictures.append(pair[0])
            before = changed
        self.assertGreater(np.abs(pictures[0] - pictures[1]).max(), 0.05, "they do look different")
