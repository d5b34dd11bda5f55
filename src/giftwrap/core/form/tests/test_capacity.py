"""Capacities against closed forms and a general-purpose mesh library.

Closed forms: cylinder πr²h; conical frustum πh(R² + Rr + r²)/3; spherical zone and Pappus's theorem
as in any table of solids, e.g. the CRC Standard Mathematical Tables, "Mensuration formulas".
"""

from __future__ import annotations

import math
from itertools import pairwise
from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.core.errors import PackError
from giftwrap.core.form.facts import pack_facts
from giftwrap.core.form.mesh import revolve
from giftwrap.core.form.path import reversed_path
from giftwrap.core.form.shape import shape_pack
from giftwrap.core.form.vessel import Vessel, build_vessel
from giftwrap.core.model import Body, Contents, Pack
from giftwrap.core.tests.samples import bottle, cylinder, profile


def mesh_volume_ml(vessel: Vessel) -> float:
    """Volume of the cavity, closed with a flat lid at the rim, by trimesh's divergence integral."""
    mesh = revolve(reversed_path(vessel.inner), segments=720)
    solid = trimesh.Trimesh(mesh.positions, mesh.faces, process=False)
    solid.merge_vertices(merge_tex=True, merge_norm=True)
    edge = vessel.inner.points[0]
    lid_turns = np.linspace(0, 2 * math.pi, 721)[:-1]
    ring = np.stack([edge[0] * np.sin(lid_turns), -edge[0] * np.cos(lid_turns), np.full(720, edge[1])], 1)
    points = np.vstack([ring, [[0, 0, edge[1]]]])
    fan = [[i, (i + 1) % 720, 720] for i in range(720)]
    lid = trimesh.Trimesh(points, fan, process=False)
    whole = trimesh.util.concatenate([solid, lid])
    return abs(float(whole.volume)) / 1000


class CapacityTests(TestCase):
    def assert_agrees(self, vessel: Vessel) -> None:
        mesh = mesh_volume_ml(vessel)
        self.assertAlmostEqual(vessel.brimful_ml / mesh, 1.0, delta=0.001)

    def test_demo_bottle_agrees_with_mesh_library(self) -> None:
        self.assert_agrees(build_vessel(bottle()))

    def test_cylinder_is_base_times_height(self) -> None:
        vessel = build_vessel(cylinder(36, 150, wall=2, base=4))
        fillet = 2.0  # the floor's fillet is as large as the wall is thick when the heel is sharp
        corner = (
            2
            * math.pi
            * (1 - math.pi / 4)
            * fillet**2
            * (34 - fillet * (10 - 3 * math.pi) / (12 - 3 * math.pi))
        )
        exact = (math.pi * 34**2 * 146 - corner) / 1000
        self.assertAlmostEqual(vessel.brimful_ml, exact, delta=0.0005 * exact)
        self.assert_agrees(vessel)

    def test_frustum(self) -> None:
        wall, base = 1.0, 1.0
        vessel = build_vessel(
            Body(profile=profile((20, 0), (40, 100)), wall_thickness=wall, base_thickness=base)
        )
        across = wall * math.hypot(20, 100) / 100  # thickness of the slanted wall measured level
        inner = lambda z: 20 + z / 5 - across  # noqa: E731
        low, high, height = inner(base), inner(100), 100 - base
        exact = math.pi * height * (high**2 + high * low + low**2) / 3 / 1000
        self.assertAlmostEqual(vessel.brimful_ml, exact, delta=0.001 * exact)
        self.assert_agrees(vessel)

    def test_waisted_flask_with_tight_corners_agrees_with_mesh_library(self) -> None:
        body = Body(
            profile=profile((30, 0, 1), (38, 40, 12), (22, 80, 9), (34, 120, 0), (12, 150, 2), (12, 175)),
            wall_thickness=3,
            base_thickness=5,
        )
        self.assert_agrees(build_vessel(body))

    def test_wall_is_an_exact_offset(self) -> None:
        vessel = build_vessel(bottle())
        self.assertGreater(len(vessel.inner.points), 40)
        for (x, z), (nx, nz) in zip(vessel.inner.points, vessel.inner.normals, strict=True):
            if z > 25 and z < 218:
                back = np.array([x - 2.4 * nx, z - 2.4 * nz])
                nearest = np.min(np.linalg.norm(_dense(vessel.outer.points) - back, axis=1))
                self.assertLess(nearest, 0.03)

    def test_millilitres_to_height_and_back(self) -> None:
        vessel = build_vessel(bottle())
        for volume in (10, 123.4, 350, 500, 570):
            self.assertAlmostEqual(vessel.volume_at(vessel.height_for(volume)), volume, delta=0.01)

    def test_more_than_brimful_is_refused(self) -> None:
        with self.assertRaisesRegex(PackError, "more than the pack holds to the brim"):
            build_vessel(bottle()).height_for(5000)

    def test_facts_read_off_a_bottle(self) -> None:
        pack = Pack(body=bottle(), contents=Contents(fill_height=148), nominal_capacity_ml=500)
        facts = pack_facts(shape_pack(pack))
        self.assertAlmostEqual(facts.headspace_ml, facts.brimful_ml - facts.contents_ml)
        self.assertEqual((facts.rim_height, facts.floor_height, facts.diameter), (230, 7, 72))
        self.assertAlmostEqual(facts.nominal_fill_height, 148.4, delta=0.1)
        too_much = pack_facts(shape_pack(pack.model_copy(update={"nominal_capacity_ml": 900})))
        self.assertIsNone(too_much.nominal_fill_height)
        self.assertIn("less than the nominal 900 ml", too_much.cautions[0])


def _dense(points: np.ndarray) -> np.ndarray:
    steps = np.linspace(0, 1, 400)[:, None]
    return np.vstack([a + steps * (b - a) for a, b in pairwise(points)])
