"""Templates: measured by other libraries, and artwork that comes back on them in its place."""

from __future__ import annotations

import io
from unittest import TestCase

import ezdxf
import numpy as np
import pikepdf
import pypdfium2
from shapely import Polygon

from giftwrap.core.errors import PackError
from giftwrap.core.formats.blank_lines import MARGIN
from giftwrap.core.formats.blank_out import POINTS_PER_MM, write_drawing
from giftwrap.core.model import PickedPanel, Printed
from giftwrap.core.reading.artwork import rasterise, read_artwork
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.wrap.templates import template_of

PANEL = Printed(name="Front", width=80, height=50)


def setUpModule() -> None:
    """What reads these files is loaded once, as it is in the web process."""
    start_reading(EVERYTHING)


class TemplateTests(TestCase):
    def test_cut_bleed_and_safe_are_where_they_should_be(self) -> None:
        drawing = template_of(PANEL, bleed=3, safe=4)
        areas = {line.kind: Polygon(line.points) for line in drawing.lines if line.closed}
        self.assertAlmostEqual(areas["cut"].area, 80 * 50)
        self.assertAlmostEqual(areas["bleed"].area, 86 * 56)
        self.assertAlmostEqual(areas["safe"].area, 72 * 42)
        self.assertEqual(drawing.size, (80 + 26, 50 + 26))
        self.assertIn("Front, 80 x 50 mm, bleed 3 mm", [name for name, _ in drawing.names])

    def test_other_outlines_follow_their_own(self) -> None:
        turn = np.linspace(0, 2 * np.pi, 90, endpoint=False)
        oval = tuple((20 * float(np.cos(a)), 15 * float(np.sin(a))) for a in turn)
        drawing = template_of(PickedPanel(part="a", at=(0, 0, 0), width=40, height=30, outline=oval))
        areas = {line.kind: Polygon(line.points).area for line in drawing.lines if line.closed}
        self.assertAlmostEqual(areas["cut"] / (np.pi * 20 * 15), 1, delta=0.002)
        self.assertAlmostEqual(areas["safe"] / (np.pi * 17 * 12), 1, delta=0.01)

    def test_a_cones_is_a_piece_of_a_ring(self) -> None:
        angle = np.linspace(-0.3, 0.3, 40)
        arcs = [*((150, a) for a in angle), *((100, a) for a in angle[::-1])]
        ring = [(40 + r * np.sin(a), r * np.cos(a) - 100) for r, a in arcs]
        drawing = template_of(PANEL, outline=[(float(x), float(y)) for x, y in ring])
        cut = next(Polygon(line.points) for line in drawing.lines if line.kind == "cut")
        self.assertAlmostEqual(cut.area / (0.3 * (150**2 - 100**2)), 1, delta=0.001)
        left, foot, right, top = cut.bounds
        np.testing.assert_allclose((left, foot), MARGIN + 3)
        np.testing.assert_allclose(drawing.size, (right + left, top + foot))
        with self.assertRaisesRegex(PackError, "crosses itself"):
            template_of(PANEL, outline=[(0, 0), (9, 9), (9, 0), (0, 9)])

    def test_pdf_is_trimmed_to_the_panel_and_its_inks_are_named(self) -> None:
        data = write_drawing(template_of(PANEL), "pdf")
        with pikepdf.open(io.BytesIO(data)) as pdf:
            page = pdf.pages[0]
            trim, bleed = (
                np.array([float(v) for v in box]) / POINTS_PER_MM for box in (page.trimbox, page.BleedBox)
            )
            np.testing.assert_allclose((trim[2] - trim[0], trim[3] - trim[1]), (80, 50), atol=1e-3)
            np.testing.assert_allclose((bleed[2] - bleed[0], bleed[3] - bleed[1]), (86, 56), atol=1e-3)
            inks = {str(space[1]) for space in page.Resources.ColorSpace.values()}
            self.assertEqual(inks, {"/Cut", "/Bleed", "/Safe", "/Middle"})
        size = pypdfium2.PdfDocument(data)[0].get_mediabox()
        np.testing.assert_allclose(np.array(size[2:]) / POINTS_PER_MM, (106, 76), atol=1e-3)
        facts = read_artwork(data, "template.pdf")
        self.assertAlmostEqual(facts.width, 80, places=3)
        self.assertEqual(set(facts.layers), {"Cut", "Bleed", "Safe", "Middle"})

    def test_dxf_has_a_layer_for_each(self) -> None:
        document = ezdxf.read(io.StringIO(write_drawing(template_of(PANEL), "dxf").decode()))
        self.assertFalse(document.audit().errors)
        self.assertEqual(
            {e.dxf.layer for e in document.modelspace()}, {"CUT", "BLEED", "SAFE", "MIDDLE", "NAMES"}
        )

    def test_drawn_on_it_a_mark_comes_back_where_it_was_put(self) -> None:
        """A square 10 mm from the left and 5 up, put on the SVG and drawn again."""
        text = write_drawing(template_of(PANEL), "svg").decode()
        off = MARGIN + 3
        square = f'<rect x="{off + 10}" y="{off + 50 - 5 - 8}" width="8" height="8" fill="#ff0000"/></svg>'
        data = text.replace("</svg>", square).encode()
        facts = read_artwork(data, "mine.svg")
        self.assertAlmostEqual(facts.width, 106, places=3)
        pixels = np.asarray(rasterise(data, "svg", 1060, 760)).astype(int)
        red = np.argwhere((pixels[..., 0] > 200) & (pixels[..., 1] < 60) & (pixels[..., 3] > 200))
        top, left = red.min(axis=0)
        np.testing.assert_allclose((left / 10 - off, 76 - top / 10 - off), (10, 13), atol=0.15)

    def test_what_cannot_be_is_refused(self) -> None:
        for how, place in (({"safe": 30.0}, "safe"), ({"bleed": 90.0}, "bleed")):
            with self.assertRaises(PackError) as caught:
                template_of(PANEL, **how)
            self.assertEqual(caught.exception.place, place)
