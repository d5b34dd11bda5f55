"""Labels on tapered walls: the development of a cone against its closed form, lengths and areas kept."""

from __future__ import annotations

import hashlib
from unittest import TestCase

import numpy as np
from shapely import Polygon

from giftwrap.core.model import Body, Corner, Pack, Placement, Vessel, WrapPanel
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.things.vessel import VesselShape, shape_vessel
from giftwrap.core.wrap.laid import GLUE_GAP
from giftwrap.core.wrap.printing import compose

FOOT, TOP, TALL = 45.0, 30.0, 120.0
OUT = GLUE_GAP + 0.12
LEAN = (FOOT - TOP) / np.hypot(FOOT - TOP, TALL)


def setUpModule() -> None:
    """What reads these files is loaded once, as it is in the web process."""
    start_reading(EVERYTHING)


def cup(*, upside_down: bool = False, **panel: object) -> VesselShape:
    """A cone-shaped cup with a label."""
    radii = (TOP, FOOT) if upside_down else (FOOT, TOP)
    profile = [Corner(radius=radii[0], height=0.0), Corner(radius=radii[1], height=TALL)]
    label = {"from_base": 20, "width": 120, "height": 60, "developed": True, **panel}
    body = Body(profile=profile, finish=None, wall_thickness=2, base_thickness=3)
    return shape_vessel(Pack(form=Vessel(body=body), panels=[WrapPanel(**label)]))


class ConeTests(TestCase):
    def test_it_is_a_piece_of_a_ring(self) -> None:
        """Radii and angle of the ring in closed form: slant heights from the apex, and the angle that keeps
        the arc (textbook descriptive geometry)."""
        for upside_down in (False, True):
            shape = cup(upside_down=upside_down)
            sheet = shape.sheets[0]
            cone = sheet.development
            assert cone is not None
            self.assertAlmostEqual(abs(cone.lean), LEAN, places=6)
            self.assertAlmostEqual(cone.stretch, 0, places=9)
            middle = abs(cone.apex - 30)
            self.assertAlmostEqual(middle * LEAN * cone.turn, 120, places=3)
            ring = Polygon(cone.outline)
            self.assertTrue(ring.is_valid)
            self.assertAlmostEqual(
                ring.area / (120 * 60), 1, places=4
            )  # a ring is as large as its middle is long
            corners = cone.flat(np.array([0.0, 1.0, 0.0, 1.0]), np.array([0.0, 0.0, 60.0, 60.0]))
            foot, top = np.linalg.norm(corners[1] - corners[0]), np.linalg.norm(corners[3] - corners[2])
            half = cone.turn * LEAN / 2
            near, far = sorted((middle - 30, middle + 30))
            expected = (2 * far * np.sin(half), 2 * near * np.sin(half))
            np.testing.assert_allclose(
                (foot, top), expected if not upside_down else expected[::-1], rtol=1e-9
            )

    def test_lengths_and_areas_on_the_pack_are_those_of_the_sheet(self) -> None:
        for upside_down in (False, True):
            shape = cup(upside_down=upside_down)
            face, sheet = shape.sheets[0].face, shape.sheets[0]
            left, foot, right, top = sheet.development.bounds
            flat = face.uvs * [right - left, top - foot]
            for a, b in ((0, 1), (1, 2), (2, 0)):
                there = np.linalg.norm(
                    face.positions[face.faces[:, a]] - face.positions[face.faces[:, b]], axis=1
                )
                laid = np.linalg.norm(flat[face.faces[:, a]] - flat[face.faces[:, b]], axis=1)
                np.testing.assert_allclose(there, laid, rtol=1e-3)
            one, two = (face.positions[face.faces[:, k]] - face.positions[face.faces[:, 0]] for k in (1, 2))
            area = np.linalg.norm(np.cross(one, two), axis=1).sum() / 2
            self.assertAlmostEqual(area / (120 * 60), 1, places=3)

    def test_every_place_is_where_the_closed_form_has_it(self) -> None:
        """Straight up from the apex, around by the angle."""
        shape = cup()
        sheet, face = shape.sheets[0], shape.sheets[0].face
        cone = sheet.development
        left, foot, right, top = cone.bounds
        places = face.uvs * [right - left, top - foot] + [left, foot]
        centre = np.array([60.0, 30.0 + cone.apex - 30.0])  # the ring's middle
        away = centre - places
        reach = np.linalg.norm(away, axis=1)
        around = np.arctan2(-away[:, 0], away[:, 1]) / LEAN
        height = 20 + (cone.apex - reach) * np.sqrt(1 - LEAN**2) + OUT * LEAN
        radius = reach * LEAN
        expected = np.column_stack([radius * np.sin(around), -radius * np.cos(around), height])
        self.assertLess(float(np.abs(face.positions - expected).max()), 0.02)

    def test_what_is_placed_stays_where_it_was(self) -> None:
        """A mark in the middle of the rectangle is printed in the middle of the ring's page."""
        size = b'width="6mm" height="6mm"'
        svg = b'<svg xmlns="http://www.w3.org/2000/svg" %s><rect width="99" height="99"/></svg>' % size
        sha256 = hashlib.sha256(svg).hexdigest()
        mark = Placement(artwork=sha256, x=57, y=27, width=6)
        sheet = cup(placements=[mark]).sheets[0]
        left, foot, _, _ = sheet.development.bounds
        self.assertLess(left, -0.5)
        pixels = compose(sheet.printed, {sha256: svg}, ppi=254).face.colour[..., 0]
        rows, columns = np.nonzero(pixels < 80)
        middle = (columns.mean() + 0.5) / 10 + left, (pixels.shape[0] - rows.mean() - 0.5) / 10 + foot
        np.testing.assert_allclose(middle, (60, 30), atol=0.1)

    def test_straight_walls_and_labels_that_are_pulled_straight_are_rectangles(self) -> None:
        pulled = cup(developed=False).sheets[0]
        self.assertTrue(pulled.tapers)
        self.assertIsNone(pulled.development)
        self.assertIs(pulled.printed, pulled.panel)
        self.assertGreater(pulled.narrows, 0.15)

    def test_a_bulging_wall_says_how_much_paper_would_have_to_give(self) -> None:
        """A wall that goes 3 mm out of the cone in its middle: 3 mm of radius there."""
        corners = [
            Corner(radius=FOOT, height=0.0, leave="arc", bulge=3.0),
            Corner(radius=TOP, height=TALL),
        ]
        body = Body(profile=corners, finish=None, wall_thickness=2, base_thickness=3)
        label = WrapPanel(from_base=10, width=100, height=100, developed=True)
        sheet = shape_vessel(Pack(form=Vessel(body=body), panels=[label])).sheets[0]
        self.assertTrue(0.02 < sheet.narrows < 0.12, sheet.narrows)
