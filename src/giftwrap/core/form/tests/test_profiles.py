"""Profiles, walls, contents and closures that cannot be, and meshes that must be sound."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from giftwrap.core.errors import PackError
from giftwrap.core.form.mesh import revolve
from giftwrap.core.form.path import rounded_path, rounding_limits
from giftwrap.core.form.shape import shape_pack
from giftwrap.core.form.vessel import build_vessel, pour
from giftwrap.core.model import Body, Closure, Contents, Pack
from giftwrap.core.model.document import describe_invalid
from giftwrap.core.tests.samples import bottle, cylinder, profile


class ImpossibleTests(TestCase):
    def assert_refused(self, words: str, place: str, **body: object) -> None:
        values = {"wall_thickness": 2.0, "base_thickness": 4.0, **body}
        try:
            shape_pack(Pack(body=Body(**values)))
        except ValidationError as error:
            message, where = describe_invalid(error)
        except PackError as error:
            message, where = error.message, error.place
        else:
            self.fail("accepted")
        self.assertIn(words, message)
        self.assertTrue(where.endswith(place), where)

    def test_crossing_profile(self) -> None:
        corners = profile((30, 0), (40, 100), (40, 20), (20, 90), (10, 120))
        self.assert_refused("crosses itself", "profile", profile=corners)

    def test_touching_the_axis(self) -> None:
        self.assert_refused("axis", "profile.1.radius", profile=profile((30, 0), (0, 50), (20, 100)))

    def test_floating_above_the_table(self) -> None:
        self.assert_refused("above the table", "profile.0.height", profile=profile((30, 5), (30, 90)))

    def test_rim_below_another_corner(self) -> None:
        self.assert_refused("rim", "profile.2.height", profile=profile((30, 0), (30, 90), (10, 80)))

    def test_corners_at_one_place(self) -> None:
        self.assert_refused("same place", "profile.2", profile=profile((30, 0), (30, 50), (30, 50), (9, 90)))

    def test_five_metres_tall(self) -> None:
        self.assert_refused("Check the unit", "profile.1.height", profile=profile((30, 0), (30, 5000)))

    def test_rounding_that_does_not_fit_names_its_limit(self) -> None:
        corners = profile((30, 0, 0), (30, 50, 40), (10, 60, 0), (10, 90))
        self.assert_refused("at most", "profile.1.rounding", profile=corners)

    def test_wall_thicker_than_the_neck(self) -> None:
        corners = profile((30, 0), (30, 90), (8, 110), (8, 140))
        self.assert_refused(
            "radius is only 8.0 mm", "wall_thickness", profile=corners, wall_thickness=9.0, base_thickness=9.0
        )

    def test_base_fills_everything(self) -> None:
        self.assert_refused("base", "base_thickness", profile=profile((30, 0), (30, 9)), base_thickness=12.0)

    def test_base_thinner_than_wall(self) -> None:
        self.assert_refused(
            "thinner than the wall", "base_thickness", profile=profile((30, 0), (30, 90)), base_thickness=1.0
        )

    def test_fill_above_the_brim_and_below_the_floor(self) -> None:
        for fill, words in ((231.0, "above the brim"), (3.0, "below the inside floor")):
            with self.assertRaisesRegex(PackError, words) as caught:
                shape_pack(Pack(body=bottle(), contents=Contents(fill_height=fill)))
            self.assertEqual(caught.exception.place, "contents.fill_height")

    def test_skirt_into_the_shoulder(self) -> None:
        with self.assertRaisesRegex(PackError, r"at most \d+"):
            shape_pack(Pack(body=bottle(), closure=Closure(height=80)))

    def test_wrong_types_are_named(self) -> None:
        with self.assertRaises(ValidationError) as caught:
            Pack.model_validate({"body": {"profile": "round"}})
        message, place = describe_invalid(caught.exception)
        self.assertEqual(place, "body.profile")
        self.assertIn("list", message)

    @settings(max_examples=150, deadline=None)
    @given(
        st.lists(st.tuples(st.floats(0, 200), st.floats(0, 400), st.floats(0, 60)), min_size=2, max_size=7),
        st.floats(0.05, 30),
        st.floats(0.05, 30),
    )
    def test_anything_works_or_is_refused(self, corners: list, wall: float, base: float) -> None:
        corners[0] = (corners[0][0], 0.0, corners[0][2])
        try:
            body = Body(profile=profile(*corners), wall_thickness=wall, base_thickness=base)
            vessel = build_vessel(body)
        except (ValidationError, PackError):
            return
        self.assertGreater(vessel.brimful_ml, 0)
        self.assertTrue(np.isfinite(vessel.glass.points).all())
        self.assertLess(vessel.cavity.area, vessel.solid.area)


class SurfaceTests(TestCase):
    def test_glass_is_watertight_and_outward(self) -> None:
        for body in (bottle(), cylinder()):
            mesh = revolve(build_vessel(body).glass)
            solid = trimesh.Trimesh(mesh.positions, mesh.faces)
            solid.merge_vertices(merge_tex=True, merge_norm=True)
            self.assertTrue(solid.is_watertight)
            self.assertGreater(solid.volume, 0)

    def test_normals_agree_with_faces(self) -> None:
        mesh = revolve(build_vessel(bottle()).glass)
        a, b, c = (mesh.positions[mesh.faces[:, k]] for k in range(3))
        flat = np.cross(b - a, c - a)
        flat /= np.linalg.norm(flat, axis=1, keepdims=True)
        agreement = (flat[:, None] * mesh.normals[mesh.faces]).sum(axis=2)
        self.assertGreater(agreement.min(), 0.9)

    def test_liquid_and_dry_glass_share_the_liquid_line(self) -> None:
        liquid = pour(build_vessel(bottle()), Contents(fill_height=150))
        np.testing.assert_allclose(liquid.dry.points[-1], liquid.wall.points[0], atol=1e-9)
        np.testing.assert_allclose(liquid.top.points[0], liquid.wall.points[0], atol=1e-9)
        self.assertAlmostEqual(liquid.top.points[-1, 1], 150, places=6)
        self.assertGreater(liquid.top.points[0, 1], 151)

    def test_arcs_are_tangent_and_round(self) -> None:
        path = rounded_path(np.array([[0, 0, 0], [30, 0, 8], [30, 60, 0]], dtype=float))
        arc = path.points[1:-1]
        np.testing.assert_allclose(np.linalg.norm(arc - [22, 8], axis=1), 8, atol=1e-9)
        np.testing.assert_allclose(path.normals[1], [0, -1], atol=1e-9)
        np.testing.assert_allclose(path.normals[-2], [1, 0], atol=1e-9)

    def test_limit_of_a_right_angle_is_its_shorter_side(self) -> None:
        corners = np.array([[0, 0, 0], [30, 0, 0], [30, 20, 0]], dtype=float)
        self.assertAlmostEqual(rounding_limits(corners)[1], 20)
