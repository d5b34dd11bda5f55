"""Half-profiles written and read back, drawings by others, and broken ones."""

from __future__ import annotations

import io
import math
from unittest import TestCase

import ezdxf
import numpy as np
import svgelements

from giftwrap.core.errors import PackError
from giftwrap.core.form.profile import outer_profile
from giftwrap.core.formats.profiles import read_outline, read_profile, write_dxf, write_svg
from giftwrap.core.model import Body, Corner
from giftwrap.core.tests.samples import bottle

SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100">{}</svg>'


def arched() -> Body:
    return Body(
        profile=[
            Corner(radius=30, height=0, rounding=5),
            Corner(radius=34, height=80, leave="arc", bulge=-4),
            Corner(radius=20, height=110, rounding=6),
            Corner(radius=12, height=120),
            Corner(radius=12, height=140),
        ],
        wall_thickness=1.5,
        base_thickness=3,
    )


STEPPED = [(30, 0), (30, 60), (10, 80), (10, 90)]


class RoundTripTests(TestCase):
    def test_corners_come_back(self) -> None:
        for body in (bottle(), arched().model_copy(update={"profile": bottle().profile})):
            for name, text in (("a.svg", write_svg(body)), ("a.dxf", write_dxf(body))):
                found = read_profile(text.encode(), name)
                with self.subTest(name):
                    self.assertEqual(len(found.corners), len(body.profile))
                    for a, b in zip(found.corners, body.profile, strict=True):
                        self.assertAlmostEqual(a.radius, b.radius, places=2)
                        self.assertAlmostEqual(a.height, b.height, places=2)
                        self.assertAlmostEqual(a.rounding, b.rounding, places=2)

    def test_arcs_keep_their_line(self) -> None:
        body = arched()
        before = outer_profile(body).path.points
        for name, text in (("a.svg", write_svg(body)), ("a.dxf", write_dxf(body))):
            corners = read_profile(text.encode(), name).corners
            after = outer_profile(body.model_copy(update={"profile": corners})).path.points
            for height in (20, 60, 90, 95, 100, 115, 130):
                radius = [float(_at(points, height)) for points in (before, after)]
                with self.subTest(name, height=height):
                    self.assertAlmostEqual(*radius, delta=0.05)

    def test_others_read_what_was_written(self) -> None:
        """svgelements and ezdxf as referees: true size in mm, one line for the profile, one for the axis."""
        drawing = svgelements.SVG.parse(io.BytesIO(write_svg(bottle()).encode()))
        shapes = {s.id: s for s in drawing.elements() if isinstance(s, svgelements.Path)}
        low, high = shapes["profile"].bbox()[1], shapes["profile"].bbox()[3]
        self.assertAlmostEqual((high - low) * 25.4 / 96, 230, places=2)
        dxf = ezdxf.read(io.StringIO(write_dxf(bottle())))
        self.assertEqual(dxf.header["$INSUNITS"], 4)
        self.assertEqual({e.dxf.layer for e in dxf.modelspace()}, {"PROFILE", "AXIS"})


def _at(points: object, height: float) -> float:
    return float(np.interp(height, np.maximum.accumulate(points[:, 1]), points[:, 0]))


class ForeignTests(TestCase):
    def test_whole_outline_is_halved_at_its_middle(self) -> None:
        data = SVG.format('<path d="M20 100 L80 100 L80 40 L60 20 L60 10 L40 10 L40 20 L20 40 Z"/>').encode()
        found = read_profile(data, "bottle.svg")
        self.assertEqual([(c.radius, c.height) for c in found.corners], STEPPED)
        self.assertIn("its middle", found.notes[0])

    def test_a_half_to_the_left_of_its_axis_is_mirrored(self) -> None:
        data = SVG.format('<path id="axis" d="M50 0V100"/><path d="M20 100 V40 L40 20 V10"/>').encode()
        found = read_profile(data, "left.svg")
        self.assertEqual([(c.radius, c.height) for c in found.corners], STEPPED)

    def test_inches_lines_and_arcs_of_a_dxf_are_joined(self) -> None:
        drawing = ezdxf.new("R2010", units=1)
        space = drawing.modelspace()
        space.add_line((1, 3), (1, 0))
        space.add_arc((1, 4), 1, 180 + 90, 0)  # tangent to nothing: stays an arc
        space.add_line((2, 4), (2, 5))
        space.add_line((0, -1), (0, 6), dxfattribs={"layer": "AXIS"})
        stream = io.StringIO()
        drawing.write(stream)
        corners = read_profile(stream.getvalue().encode(), "inch.dxf").corners
        self.assertAlmostEqual(corners[0].radius, 25.4, places=3)
        self.assertAlmostEqual(corners[-1].height, 5 * 25.4, places=2)
        arc = next(c for c in corners if c.leave == "arc")
        chord = math.hypot(25.4, 25.4)
        self.assertAlmostEqual(abs(arc.bulge), 25.4 - math.sqrt(25.4**2 - chord**2 / 4), places=2)

    def test_outline_for_a_cross_section(self) -> None:
        points = read_outline(SVG.format('<rect x="10" y="20" width="40" height="30"/>').encode(), "o.svg")
        self.assertEqual(len(points), 4)
        with self.assertRaisesRegex(PackError, "open"):
            read_outline(SVG.format('<path d="M0 0L10 0L10 10"/>').encode(), "o.svg")


class BrokenTests(TestCase):
    def test_each_says_what_and_where(self) -> None:
        for data, name, words in (
            (b"<svg><path d='M0 0", "cut.svg", "cut.svg is broken: .*line 1"),
            (SVG.format("<text>hello</text>").encode(), "words.svg", "no line"),
            (b"  0\nSECTION\n  2\nENTIT", "cut.dxf", "cut.dxf is broken"),
            (b"\x00\x01\x02" * 50, "noise.dxf", "noise.dxf is broken"),
            (b"anything", "profile.pdf", "neither an SVG nor a DXF"),
        ):
            with self.subTest(name), self.assertRaisesRegex(PackError, words):
                read_profile(data, name)

    def test_too_many_corners(self) -> None:
        steps = "".join(f"L{30 + i % 2} {90 - i}" for i in range(80))
        with self.assertRaisesRegex(PackError, "at most 64"):
            read_profile(SVG.format(f'<path d="M0 95L30 95{steps}"/>').encode(), "stairs.svg")
