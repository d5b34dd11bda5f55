"""Profiles, walls, contents and closures that cannot be, and what is read off those that can."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from pydantic import ValidationError

from giftwrap.core.errors import PackError
from giftwrap.core.form.formed import form_body
from giftwrap.core.form.profile import outer_profile
from giftwrap.core.form.tests.packs import TWELVE, shouldered
from giftwrap.core.mesh.fillet import rounded_path, rounding_limits
from giftwrap.core.mesh.path import bulging, straight
from giftwrap.core.model import Body, Cap, Contents, Corner, Dropper, OwnOutline, Pack, Pump, Ribs, Ring
from giftwrap.core.model.document import describe_invalid
from giftwrap.core.tests.samples import bottle, cylinder, profile, vessel_pack
from giftwrap.core.things.vessel import shape_vessel


class ImpossibleTests(TestCase):
    def assert_refused(self, words: str, place: str, **body: object) -> None:
        values = {"wall_thickness": 2.0, "base_thickness": 4.0, **body}
        try:
            shape_vessel(vessel_pack(body=Body(**values)))
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

    def test_arc_beyond_a_half_circle(self) -> None:
        corners = [Corner(radius=30, height=0, leave="arc", bulge=60), Corner(radius=30, height=90)]
        self.assert_refused("half circle", "profile.0.bulge", profile=corners)

    def test_curve_through_the_axis(self) -> None:
        corners = [
            Corner(radius=30, height=0, leave="curve"),
            Corner(radius=0.5, height=40, leave="curve"),
            Corner(radius=0.5, height=46, leave="curve"),
            Corner(radius=30, height=90),
        ]
        self.assert_refused("axis", "profile", profile=corners, wall_thickness=0.5, base_thickness=0.5)

    def test_wall_thicker_than_the_neck(self) -> None:
        corners = profile((30, 0), (30, 90), (8, 110), (8, 140))
        self.assert_refused(
            "only 8.0 mm", "wall_thickness", profile=corners, wall_thickness=9.0, base_thickness=9.0
        )

    def test_base_fills_everything(self) -> None:
        self.assert_refused("base", "base_thickness", profile=profile((30, 0), (30, 9)), base_thickness=12.0)

    def test_base_thinner_than_wall(self) -> None:
        self.assert_refused(
            "thinner than the wall", "base_thickness", profile=profile((30, 0), (30, 90)), base_thickness=1.0
        )

    def test_push_up_beyond_a_half_ball(self) -> None:
        self.assert_refused("half ball", "push_up", profile=profile((30, 0), (30, 90)), push_up=40.0)

    def test_zone_ends_out_of_order(self) -> None:
        corners = profile((36, 0, 6), (36, 140, 20), (13, 172, 12), (13, 200))
        tops = {"body": 150.0, "shoulder": 120.0}
        self.assert_refused("below where it begins", "zone_tops.shoulder", profile=corners, zone_tops=tops)

    def test_relief_through_the_wall_and_over_the_rim(self) -> None:
        corners = profile((30, 0), (30, 90))
        deep, high = Ring(height=40, depth=-1.9), Ribs(bottom=80, top=120)
        self.assert_refused("break through", "relief.0.depth", profile=corners, relief=[deep])
        self.assert_refused("above the rim", "relief.0.top", profile=corners, relief=[high])

    def test_outline_that_folds_back(self) -> None:
        with self.assertRaisesRegex(ValidationError, "crosses itself"):
            OwnOutline(points=[(0, 0), (10, 10), (10, 0), (0, 10)])
        hook = OwnOutline(
            points=[(0, -10), (12, -10), (12, 12), (-12, 12), (-12, 9), (9, 9), (9, -7), (0, -7)],
            smooth=False,
        )
        corners = profile((30, 0), (30, 90))
        section = [{"height": 0, "section": hook}]
        self.assert_refused("seen", "points", profile=corners, sections=section)

    def test_fill_above_the_brim_and_below_the_floor(self) -> None:
        for fill, words in ((231.0, "above the brim"), (3.0, "below the inside floor")):
            with self.assertRaisesRegex(PackError, words) as caught:
                shape_vessel(vessel_pack(body=bottle(), contents=Contents(fill_height=fill)))
            self.assertEqual(caught.exception.place, "form.contents.fill_height")

    def test_closures_that_do_not_fit(self) -> None:
        for closure, words, place in (
            (Cap(height=80), r"at most \d+", "form.closure.height"),
            (Cap(height=1), "no skirt", "form.closure.height"),
            (Dropper(pipette_diameter=30), "does not go through", "form.closure.pipette_diameter"),
            (Pump(tube_diameter=30), "does not go through", "form.closure.tube_diameter"),
            (Cap(height=14, tilt=20), "lift it", "form.closure.tilt"),
        ):
            with self.subTest(closure.kind), self.assertRaisesRegex(PackError, words) as caught:
                shape_vessel(vessel_pack(body=shouldered(), closure=closure))
            self.assertEqual(caught.exception.place, place)

    def test_screw_cap_on_an_oval_mouth(self) -> None:
        with self.assertRaisesRegex(PackError, "not round") as caught:
            shape_vessel(vessel_pack(body=TWELVE["own outline"], closure=Cap()))
        self.assertEqual(caught.exception.place, "form.body.sections")

    def test_wrong_types_are_named(self) -> None:
        with self.assertRaises(ValidationError) as caught:
            Pack.model_validate({"form": {"kind": "vessel", "body": {"profile": "round"}}})
        message, place = describe_invalid(caught.exception)
        self.assertEqual(place, "form.body.profile")
        self.assertIn("list", message)


class PathTests(TestCase):
    def test_arcs_are_tangent_and_round(self) -> None:
        path = rounded_path(np.array([[0, 0, 0], [30, 0, 8], [30, 60, 0]], dtype=float))
        arc = path.points[1:-1]
        np.testing.assert_allclose(np.linalg.norm(arc - [22, 8], axis=1), 8, atol=1e-9)
        np.testing.assert_allclose(path.normals[1], [0, -1], atol=1e-9)
        np.testing.assert_allclose(path.normals[-2], [1, 0], atol=1e-9)

    def test_limit_of_a_right_angle_is_its_shorter_side(self) -> None:
        legs = [straight([0, 0], [30, 0]), straight([30, 0], [30, 20])]
        self.assertAlmostEqual(rounding_limits(legs, np.zeros(3))[1], 20)

    def test_bulge_is_the_sagitta(self) -> None:
        """Radius from chord and sagitta: (c²/4 + s²) / 2s, as in any handbook of geometry."""
        arc = bulging([10, 0], [10, 40], 6)
        radius = (40**2 / 4 + 36) / 12
        centre = np.array([10 + 6 - radius, 20])
        np.testing.assert_allclose(np.linalg.norm(arc.points - centre, axis=1), radius, atol=1e-9)
        self.assertAlmostEqual(arc.points[:, 0].max(), 16, delta=0.01)

    def test_rounding_between_an_arc_and_a_line_touches_both(self) -> None:
        legs = [bulging([30, 0], [30, 60], 5), straight([30, 60], [10, 80])]
        limit = rounding_limits(legs, np.zeros(3))[1]
        self.assertGreater(limit, 5)
        body = Body(
            profile=[
                Corner(radius=30, height=0, leave="arc", bulge=5),
                Corner(radius=30, height=60, rounding=4),
                Corner(radius=10, height=80),
            ],
            wall_thickness=1,
            base_thickness=2,
        )
        path = outer_profile(body).path
        turn = np.diff(np.unwrap(np.arctan2(path.normals[:, 1], path.normals[:, 0])))
        near = np.abs(path.points[1:, 1] - 60) < 8
        self.assertLess(np.abs(turn[near]).max(), 0.2, "no sharp turn is left")

    def test_smooth_curve_goes_through_its_corners_and_joins_its_line(self) -> None:
        profile_ = outer_profile(TWELVE["curved"])
        for radius, height in ((38, 50), (24, 95)):
            near = np.linalg.norm(profile_.path.points - [radius, height], axis=1).min()
            self.assertLess(near, 1e-6)
        self.assertTrue(np.isinf(profile_.limits[1]), "a smooth joint has no corner to round")


class ZoneTests(TestCase):
    def test_zones_of_a_bottle(self) -> None:
        zones = {z.name: z for z in outer_profile(shouldered()).zones}
        self.assertAlmostEqual(zones["heel"].top, 6, places=3)
        self.assertTrue(130 < zones["body"].top < 145)
        self.assertTrue(160 < zones["neck"].bottom < 176)
        self.assertAlmostEqual(zones["finish"].bottom, 190)
        self.assertAlmostEqual(zones["finish"].top, 200.1)

    def test_walls_follow_their_zones(self) -> None:
        body = shouldered(zone_walls={"heel": 5.0})
        thick = form_body(body.model_copy(update={"base_thickness": 6.0}))
        even = form_body(shouldered(base_thickness=6.0))
        lines = [v.inside_line() for v in (thick, even)]
        low, high = (np.interp([8.0, 100], line[:, 1], line[:, 0]) for line in lines)
        self.assertLess(low[0], high[0] - 0.5)
        self.assertAlmostEqual(low[1], high[1], places=3)

    def test_plain_cylinder_has_no_zones_but_heel_and_body(self) -> None:
        named = [z.name for z in outer_profile(cylinder()).zones if z.top - z.bottom > 0.01]
        self.assertEqual(named, ["body"])
