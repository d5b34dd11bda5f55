"""Type, ink, contrast and what a camera sees: held to closed forms or to what a file was written with."""

from __future__ import annotations

import hashlib
import io
from unittest import TestCase

import numpy as np
from pikepdf import Dictionary, Name
from PIL import Image

from giftwrap.core.model import Placement, Printed
from giftwrap.core.reading.artwork import inspect_artwork
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.tests.documents import document, rectangle
from giftwrap.core.wrap.finding import Finding, Seen
from giftwrap.core.wrap.legibility import contrast
from giftwrap.core.wrap.preflight import preflight

MM_PER_PT = 25.4 / 72


def setUpModule() -> None:
    start_reading(EVERYTHING)


def svg(*parts: str, ground: str = "#ffffff") -> bytes:
    """A drawing of 60 × 40 mm."""
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
        f'<rect width="60" height="40" fill="{ground}"/>{"".join(parts)}</svg>'
    ).encode()


def page(content: str) -> bytes:
    """A PDF of a page, its type /F1 Helvetica."""
    font = Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica)
    return document(content, resources={"Font": Dictionary(F1=font)})


def said(data: bytes, *, width: float = 60.0, seen: Seen | None = None) -> list[Finding]:
    sha256 = hashlib.sha256(data).hexdigest()
    panel = Printed(width=60, height=40, placements=[Placement(artwork=sha256, width=width)])
    return preflight(panel, {sha256: data}, bleed=0, seen=seen)


def words(found: list[Finding]) -> str:
    return " | ".join(one.words for one in found)


class TypeTests(TestCase):
    def test_sizes_in_a_drawing_follow_its_groups_styles_and_sheets(self) -> None:
        data = svg(
            '<style>.fine{font-size:2px}</style><text font-size="6">A</text>',
            '<g font-size="3" transform="translate(5 5) scale(0.5)"><text>B</text></g>',
            '<text class="fine">C</text><text style="font-size:4px">D<tspan font-size="5">E</tspan></text>',
        )
        found = inspect_artwork(data, "svg")
        self.assertEqual(
            [(one.words, round(one.size, 3)) for one in found.types],
            [("B", 1.5), ("C", 2.0), ("D", 4.0), ("E", 5.0), ("A", 6.0)],
        )

    def test_sizes_in_a_pdf_are_those_it_was_set_in(self) -> None:
        content = "BT /F1 9 Tf 10 50 Td (Nine) Tj ET 0.5 0 0 0.5 0 0 cm BT /F1 9 Tf 10 50 Td (half) Tj ET"
        found = inspect_artwork(page(content), "pdf")
        self.assertEqual([round(one.size / MM_PER_PT, 2) for one in found.types], [4.5, 9.0])

    def test_small_type_is_pointed_out_at_the_size_it_is_placed_at(self) -> None:
        data = svg('<text x="10" y="20" font-size="2.4">Quince</text>')
        self.assertEqual(words(said(data)), "")
        self.assertIn("“Quince” is 3.4 pt", words(said(data, width=30)))

    def test_mirrored_type(self) -> None:
        mirrored = svg('<g transform="scale(-1 1)"><text x="-40" y="20" font-size="6">Pear</text></g>')
        self.assertIn("“Pear” is written mirrored", words(said(mirrored)))

        turned = page("1 0 0 -1 0 100 cm BT /F1 9 Tf 10 50 Td (P) Tj ET")
        self.assertTrue(inspect_artwork(turned, "pdf").types[0].mirrored)

    def test_type_that_a_picture_shows_too_small(self) -> None:
        data = svg('<text x="10" y="20" font-size="2.4">Quince</text>')
        self.assertIn("letters 3.6 px high", words(said(data, seen=Seen(60, 40, 1.0, 3.0))))
        self.assertNotIn("px high", words(said(data, seen=Seen(60, 40, 1.0, 9.0))))


class InkTests(TestCase):
    def test_inks_are_added_up(self) -> None:
        data = page(f"0.9 0.8 0.7 0.95 k {rectangle(0, 0, 30, 30)} f")
        self.assertAlmostEqual(inspect_artwork(data, "pdf").ink or 0, 335, places=3)
        self.assertIn("add up to 335 % in places", words(said(data)))

    def test_of_pictures_in_cmyk(self) -> None:
        stream = io.BytesIO()
        picture = Image.new("CMYK", (200, 100), (20, 20, 20, 20))
        picture.paste((255, 230, 204, 153), (0, 0, 100, 100))
        picture.save(stream, "TIFF")
        self.assertAlmostEqual(inspect_artwork(stream.getvalue(), "tiff").ink or 0, 842 / 2.55, delta=0.5)
        stream = io.BytesIO()
        Image.new("RGB", (20, 20)).save(stream, "PNG")
        self.assertIsNone(inspect_artwork(stream.getvalue(), "png").ink)


class ContrastTests(TestCase):
    def test_ratios_are_the_guideline_s(self) -> None:
        """WCAG 2.2 (from memory): black on white is 21 to 1, #767676 on white 4.54 to 1."""
        white = np.ones(3)
        self.assertAlmostEqual(contrast(np.zeros(3), white), 21.0, places=6)
        self.assertAlmostEqual(contrast(np.full(3, 0x76 / 255), white), 4.54, delta=0.01)

    def test_pale_type_is_pointed_out_and_dark_type_is_not(self) -> None:
        for colour, level in (("#2b2a26", None), ("#9a9a9a", "look"), ("#e8e4da", "wrong")):
            data = svg(f'<text x="10" y="20" font-size="7" font-weight="700" fill="{colour}">Pear</text>')
            found = [one for one in said(data) if "stands" in one.words]
            self.assertEqual([one.level for one in found], [level] if level else [], colour)


class SaidTests(TestCase):
    def test_it_is_said(self) -> None:
        data = svg()
        self.assertIn("sees 41 of its 60 mm, 30 mm of that", words(said(data, seen=Seen(41.2, 30, 0.6, 8.0))))
        self.assertIn("does not see it", words(said(data, seen=Seen(0, 0, 0, 0))))
