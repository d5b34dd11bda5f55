"""Capacities and outer volumes against closed forms and a general-purpose mesh library.

Closed forms: cylinder πr²h; conical frustum πh(R² + Rr + r²)/3; spherical cap πh²(3R − h)/3; ellipse πab;
Pappus's theorem, as in any table of solids, e.g. the CRC Standard Mathematical Tables,
"Mensuration formulas"; superellipse 4ab Γ(1 + 1/n)²/Γ(1 + 2/n), e.g. the NIST Digital Library of
Mathematical Functions, 5.12 with the substitution t = xⁿ.
"""

from __future__ import annotations

import math
from unittest import TestCase

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.form.formed import form_body, rim_of, rim_start
from giftwrap.core.form.sections import loft_of
from giftwrap.core.form.skin import lofted, skins_mesh
from giftwrap.core.form.tests.packs import TWELVE, shouldered
from giftwrap.core.form.tests.solids import cavity_mesh, library_mesh
from giftwrap.core.form.volume import mesh_ml
from giftwrap.core.model import Body, Cap, Clear, Contents, Oval, Rectangle, SectionMark, Squircle
from giftwrap.core.tests.samples import bottle, cylinder, formed, profile, vessel_pack
from giftwrap.core.things.facts import DENSITIES, pack_facts
from giftwrap.core.things.vessel import shape_vessel

FILLET = 2.0
"""A floor's fillet is as large as the wall is thick when the heel is sharp."""


def fillet_ml(radius: float, fillet: float) -> float:
    """What a round fillet takes from a cylinder's bottom edge, by Pappus: the square's corner outside a
    quarter circle has area (1 − π/4) q² and its centroid (10 − 3π)/(12 − 3π) q from the corner.
    """
    centroid = radius - fillet * (10 - 3 * math.pi) / (12 - 3 * math.pi)
    return 2 * math.pi * (1 - math.pi / 4) * fillet**2 * centroid / 1000


class RefereeTests(TestCase):
    """Twelve packs against trimesh's divergence integral over the same surfaces, to 0.1 %."""

    def test_capacities(self) -> None:
        for name, body in TWELVE.items():
            with self.subTest(name):
                formed = form_body(body)
                referee = library_mesh(cavity_mesh(formed))
                self.assertTrue(referee.is_watertight)
                self.assertAlmostEqual(formed.brimful_ml / (referee.volume / 1000), 1, delta=0.001)

    def test_capacities_above_floors_pushed_far_up(self) -> None:
        """Where the floor is no round one, its lowest places lie at heights of their own."""
        for section in (Squircle(depth_ratio=0.55, squareness=6), Rectangle(depth_ratio=0.55, corner=0.3)):
            for push_up in (2.0, 8.0, 12.0):
                with self.subTest(section=section.kind, push_up=push_up):
                    formed = form_body(
                        Body(
                            profile=profile((34.6, 0, 5), (34.6, 76.5)),
                            sections=[SectionMark(height=0, section=section)],
                            wall_thickness=0.65,
                            base_thickness=1.05,
                            push_up=push_up,
                        )
                    )
                    referee = library_mesh(cavity_mesh(formed))
                    self.assertAlmostEqual(formed.brimful_ml / (referee.volume / 1000), 1, delta=0.0006)

    def test_outer_volumes(self) -> None:
        """The outside closed by a level lid at the rim: the glass and the cavity together."""
        for name, body in TWELVE.items():
            with self.subTest(name):
                formed = form_body(body.model_copy(update={"finish": None}))
                path, drop = rim_start(formed)
                outside = lofted(path, formed.loft, formed.columns)
                rim, inside = rim_of(formed, outside.positions[:, -1], drop)
                glass = library_mesh(skins_mesh([outside, rim, inside.reversed()]))
                self.assertTrue(glass.is_watertight)
                cavity = library_mesh(cavity_mesh(formed)).volume / 1000
                self.assertAlmostEqual(formed.outer_ml / (glass.volume / 1000 + cavity), 1, delta=0.001)


class KeptTests(TestCase):
    def test_a_body_that_says_the_same_is_not_formed_again(self) -> None:
        body = TWELVE["bottle"]
        again = Body.model_validate_json(body.model_dump_json())
        self.assertIs(form_body(again, coarse=True), form_body(body, coarse=True))
        self.assertIsNot(form_body(body), form_body(body, coarse=True))

    def test_any_change_forms_it_anew(self) -> None:
        body = TWELVE["bottle"]
        thicker = body.model_copy(update={"wall_thickness": body.wall_thickness + 0.5})
        self.assertLess(form_body(thicker).brimful_ml, form_body(body).brimful_ml)

    def test_what_was_refused_is_refused_again(self) -> None:
        body = TWELVE["bottle"].model_copy(update={"base_thickness": 0.3})
        for _ in range(2):
            with self.assertRaises(PackError) as refused:
                form_body(body)
            self.assertEqual(refused.exception.place, "body.base_thickness")


class ClosedFormTests(TestCase):
    def test_cylinder(self) -> None:
        formed = form_body(cylinder(36, 150, wall=2, base=4))
        exact = math.pi * 34**2 * 146 / 1000 - fillet_ml(34, FILLET)
        self.assertAlmostEqual(formed.brimful_ml, exact, delta=0.0002 * exact)
        self.assertAlmostEqual(formed.outer_ml, math.pi * 36**2 * 150 / 1000, places=2)

    def test_frustum(self) -> None:
        formed = form_body(Body(profile=profile((20, 0), (40, 100)), wall_thickness=1, base_thickness=1))
        across = math.hypot(20, 100) / 100  # thickness of the slanted wall measured level
        inner = lambda z: 20 + z / 5 - across  # noqa: E731
        low, high, height = inner(1), inner(100), 99
        exact = math.pi * height * (high**2 + high * low + low**2) / 3 / 1000
        self.assertAlmostEqual(formed.brimful_ml, exact, delta=0.001 * exact)
        self.assertAlmostEqual(formed.outer_ml, math.pi * 100 * (40**2 + 40 * 20 + 20**2) / 3000, places=2)

    def test_push_up_takes_a_spherical_cap(self) -> None:
        plain, pushed = (form_body(cylinder_pushed(rise)) for rise in (0.0, 10.0))
        reach = 0.9 * 36
        ball = (reach**2 + 100) / 20
        cap = math.pi * 100 * (3 * ball - 10) / 3 / 1000
        self.assertAlmostEqual(plain.outer_ml - pushed.outer_ml, cap, delta=0.02 * cap)  # its edge is rounded

    def test_oval_and_superellipse(self) -> None:
        for section, area in (
            (Oval(depth_ratio=0.6), math.pi * 0.6),
            (Squircle(depth_ratio=0.8, squareness=4), 4 * 0.8 * math.gamma(1.25) ** 2 / math.gamma(1.5)),
        ):
            body = Body(
                profile=profile((40, 0), (40, 100)),
                sections=[SectionMark(height=0, section=section)],
                wall_thickness=2,
                base_thickness=4,
            )
            formed = form_body(body)
            self.assertAlmostEqual(loft_of(body).areas(np.array([50.0]))[0], area, delta=2e-5)
            self.assertAlmostEqual(formed.outer_ml, area * 40**2 * 100 / 1000, delta=0.01)

    def test_offset_of_an_ellipse_by_steiner(self) -> None:
        """The area inside an even wall: A − w P + π w² (Steiner's formula for convex outlines), with the
        perimeter from Ramanujan's second approximation.
        """
        a, b, wall = 40.0, 26.0, 3.0
        body = Body(
            profile=profile((a, 0), (a, 200)),
            sections=[SectionMark(height=0, section=Oval(depth_ratio=b / a))],
            wall_thickness=wall,
            base_thickness=4,
        )
        formed = form_body(body)
        h = ((a - b) / (a + b)) ** 2
        around = math.pi * (a + b) * (1 + 3 * h / (10 + math.sqrt(4 - 3 * h)))
        area = math.pi * a * b - wall * around + math.pi * wall**2
        slab = formed.volume_at(150) - formed.volume_at(50)
        self.assertAlmostEqual(slab, area * 100 / 1000, delta=2e-4 * slab)


def cylinder_pushed(rise: float) -> Body:
    return cylinder(36, 150).model_copy(update={"push_up": rise})


class OffsetTests(TestCase):
    def test_walls_are_as_thick_as_they_say(self) -> None:
        """Distance of every inside point from the outside by trimesh; where one cross-section becomes
        another it is good to 0.05 mm.
        """
        for name, loose in (("bottle", 0.0), ("square", 0.05), ("oval", 0.05), ("squircle jar", 0.0)):
            with self.subTest(name):
                formed = form_body(TWELVE[name])
                outside = rim_start(formed)[0]
                referee = library_mesh(skins_mesh([lofted(outside, formed.loft, formed.columns)]))
                wall = formed.body.wall_thickness
                rows = formed.inner.positions[::8, formed.cavity.wall_row - 1 :]
                inner = ((rows[:, 1:] + rows[:, :-1]) / 2).reshape(-1, 3)
                inner = inner[inner[:, 2] < formed.rim_height - wall]
                self.assertGreater(len(inner), 15, name)
                distance = np.abs(referee.nearest.on_surface(inner)[1])
                self.assertGreater(distance.min(), wall - 0.015 - loose)
                self.assertLess(np.median(np.abs(distance - wall)), 0.02)

    def test_tight_corners_do_not_fold(self) -> None:
        """A square with corners tighter than its wall: the inside is a plain square."""
        body = Body(
            profile=profile((30, 0), (30, 80)),
            sections=[SectionMark(height=0, section=Oval(depth_ratio=0.1))],
            wall_thickness=2.0,
            base_thickness=4,
        )
        formed = form_body(body)
        self.assertTrue(library_mesh(cavity_mesh(formed)).is_watertight)
        ring = formed.inner.positions[:, -1, :2]
        angle = np.unwrap(np.arctan2(ring[:, 0], -ring[:, 1]))
        self.assertGreater(np.diff(angle).min(), -1e-9)


class FillTests(TestCase):
    def test_millilitres_to_height_and_back(self) -> None:
        for name, body in TWELVE.items():
            formed = form_body(body)
            for share in (0.15, 0.4, 0.77, 0.99):
                volume = share * formed.brimful_ml
                with self.subTest(name, share=share):
                    self.assertAlmostEqual(formed.volume_at(formed.height_for(volume)), volume, delta=0.01)

    def test_more_than_brimful_is_refused(self) -> None:
        with self.assertRaisesRegex(PackError, "more than the pack holds to the brim"):
            form_body(bottle()).height_for(5000)

    def test_facts_read_off_a_bottle(self) -> None:
        pack = vessel_pack(body=bottle(), contents=Contents(fill_height=148), nominal_capacity_ml=500)
        facts = pack_facts(shape_vessel(pack))
        self.assertAlmostEqual(facts.headspace_ml, facts.brimful_ml - facts.contents_ml)
        self.assertEqual((facts.rim_height, facts.floor_height, facts.diameter), (230, 7, 72))
        self.assertAlmostEqual(facts.nominal_fill_height, 148.6, delta=0.1)
        too_much = pack_facts(shape_vessel(formed(pack, nominal_capacity_ml=900)))
        self.assertIsNone(too_much.nominal_fill_height)
        self.assertIn("less than the nominal 900 ml", too_much.cautions[0])


class WeightTests(TestCase):
    """Densities as in handbooks (from memory): soda-lime glass 2.5, water 0.998 g/cm³."""

    def test_glass_and_water(self) -> None:
        body = cylinder(36, 150, wall=2, base=4).model_copy(update={"material": Clear(density=2.5)})
        water = Clear(refractive_index=1.333, density=DENSITIES["water"])
        facts = pack_facts(
            shape_vessel(vessel_pack(body=body, contents=Contents(fill_height=100, material=water)))
        )
        wall = math.pi * (36**2 - 34**2) * 146 + math.pi * 36**2 * 4
        self.assertAlmostEqual(facts.body_g, (wall / 1000 + fillet_ml(34, FILLET)) * 2.5, delta=0.2)
        self.assertAlmostEqual(facts.contents_g, facts.contents_ml * 0.998, places=6)
        self.assertAlmostEqual(facts.filled_g, facts.empty_g + facts.contents_g)

    def test_a_cap_weighs_what_its_solid_holds(self) -> None:
        shape = shape_vessel(vessel_pack(body=shouldered(), closure=Cap(height=14)))
        solid = shape.built.solids[0]
        self.assertAlmostEqual(pack_facts(shape).closure_g, mesh_ml(solid.mesh) * 0.95, places=6)
        self.assertAlmostEqual(library_mesh(solid.mesh).volume / 1000, mesh_ml(solid.mesh), places=3)
