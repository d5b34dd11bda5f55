"""Preflight: each finding where it should be said, and not where it should not."""

from __future__ import annotations

import hashlib
import io
from typing import Any
from unittest import TestCase

from PIL import Image

from giftwrap.core.formats.blank_out import write_drawing
from giftwrap.core.model import Clear, Opaque, Placement, Printed
from giftwrap.core.model.run import Foil, Ink
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.tests.documents import document, rectangle
from giftwrap.core.wrap.barcodes import make_barcode
from giftwrap.core.wrap.preflight import Finding, preflight
from giftwrap.core.wrap.templates import template_of

SQUARE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="10mm" viewBox="0 0 20 10">'
    b'<rect width="20" height="10" fill="#7a1f35"/></svg>'
)


def setUpModule() -> None:
    """What reads these files is loaded once, as it is in the web process."""
    start_reading(EVERYTHING)


def found(
    data: bytes = SQUARE,
    *,
    check: dict[str, Any] | None = None,
    place: dict[str, Any] | None = None,
    **panel: Any,
) -> list[Finding]:
    """What is said of one artwork, 20 mm wide 10 mm from the left and 15 up, on a panel of 60 × 40 mm."""
    sha256 = hashlib.sha256(data).hexdigest()
    placement = Placement(artwork=sha256, **{"x": 10, "y": 15, "width": 20, **(place or {})})
    sheet = Printed(**{"width": 60, "height": 40, "placements": [placement], **panel})
    return preflight(sheet, {sha256: data}, **(check or {}))


def picture(colour: str, size: tuple[int, int] = (400, 200)) -> bytes:
    stream = io.BytesIO()
    Image.new("RGB", size, colour).save(stream, "PNG")
    return stream.getvalue()


class PreflightTests(TestCase):
    def said(self, findings: list[Finding], words: str) -> Finding:
        matching = [one for one in findings if words in one.words]
        self.assertEqual(len(matching), 1, (words, findings))
        return matching[0]

    def test_nothing_is_said_of_what_is_right(self) -> None:
        self.assertEqual(found(), [])
        self.assertEqual(found(check={"around": 200.0, "diameter": 60.0}), [])

    def test_bitmaps_that_are_too_coarse(self) -> None:
        """400 px on 20 mm are 508 ppi, on 50 mm 203."""
        self.assertEqual(found(picture("#7a1f35")), [])
        one = self.said(found(picture("#7a1f35"), place={"x": 5, "width": 50, "y": 5}), "203 ppi")
        self.assertEqual((one.level, one.placement), ("wrong", 0))

    def test_bleed_is_missing_where_artwork_reaches_the_cut(self) -> None:
        one = self.said(found(place={"x": 0}), "(left)")
        self.assertIn("goes 0.0 mm beyond it", one.words)
        self.assertEqual(found(place={"x": -3}), [])
        both = self.said(found(place={"x": -1, "width": 62, "y": 5}), "(left, right)")
        self.assertIn("goes 1.0 mm", both.words)

    def test_beside_the_panel(self) -> None:
        self.assertEqual(self.said(found(place={"x": 90}), "beside the panel").level, "wrong")

    def test_a_seam_that_nearly_meets(self) -> None:
        self.said(found(check={"around": 61.5}), "1.5 mm stay bare")
        self.assertEqual(found(check={"around": 60.0}), [])

    def test_a_layer_that_is_nowhere(self) -> None:
        one = self.said(found(run=[Ink(), Foil()]), "“Foil”")
        self.assertEqual(one.layer, 1)
        self.assertEqual(found(run=[Ink(), Foil()], place={"areas": {"Foil": "shape"}}), [])

    def test_a_white_ground_on_stock_that_is_not_white(self) -> None:
        for stock in (Opaque(colour="#b08d62"), Clear()):
            self.said(found(picture("white"), stock=stock), "Its ground is white")
        self.assertEqual(found(picture("white")), [])
        self.assertEqual(found(picture("white"), stock=Clear(), place={"knock_out": 0.1}), [])

    def test_a_template_left_in_its_artwork(self) -> None:
        data = write_drawing(template_of(Printed(width=60, height=40)), "pdf")
        at = {"x": 0, "y": 0, "width": 60}
        self.said(found(data, place=at), "layer “Cut” of the file would be printed")
        without = found(data, place={**at, "without": ["Cut", "Bleed", "Safe", "Middle"]})
        self.assertNotIn("would be printed", " ".join(one.words for one in without))

    def test_codes_are_read_and_graded_by_their_size(self) -> None:
        """An EAN-13 at 100 % is 0.33 mm a module, 37.29 mm with its quiet zones (GS1, from memory)."""
        made = make_barcode("ean-13", "200123456789", 1.0)
        at = {"x": 3, "y": 5, "width": 37.29}
        one = self.said(found(made.svg, place=at, width=80), "EAN-13 2001234567893 reads, at")
        self.assertEqual((one.level, one.placement), ("look", 0))
        self.assertRegex(one.words, r"at (9[7-9]|10[0-3]) %")
        small = found(made.svg, place={**at, "width": 0.6 * 37.29}, width=80)
        self.assertEqual(self.said(small, "80 to 200 %").level, "wrong")

    def test_codes_around_small_bottles(self) -> None:
        """31 mm of bars go 179° around a bottle of 20 mm, turned upright they do not."""
        made = make_barcode("ean-13", "200123456789", 1.0)
        at = {"x": 3, "y": 5, "width": 37.29}
        around = found(made.svg, place=at, width=80, check={"diameter": 20.0})
        self.said(around, "around the pack")
        turned = found(made.svg, place={**at, "turn": 90.0}, width=80, height=60, check={"diameter": 20.0})
        self.assertNotIn("around the pack", " ".join(one.words for one in turned))

    def test_the_worst_comes_first(self) -> None:
        findings = found(place={"x": 0}, run=[Ink(), Foil()])
        self.assertEqual([one.level for one in findings], ["wrong", "look"])

    def test_any_file_can_be_checked(self) -> None:
        data = document(f"0 0 0 1 k {rectangle(0, 0, 60, 40)} f", inks=("Foil",))
        self.assertEqual(found(data, place={"x": 5, "width": 30, "y": 5}), [])

    def test_edges_with_nothing_on_them_need_no_bleed(self) -> None:
        mark = (
            b'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
            b'<rect y="15" width="60" height="10" fill="#7a1f35"/></svg>'
        )
        whole = {"x": 0, "y": 0, "width": 60}
        self.assertIn("(left, right)", self.said(found(mark, place=whole), "reaches the cut").words)
        turned = found(mark, place={**whole, "turn": 90}, width=40, height=60)
        self.assertEqual([one for one in turned if "left" in one.words], [])

    def test_a_barcode_belongs_to_what_is_printed(self) -> None:
        code = make_barcode("ean-13", "200123456789").svg
        name, over = (hashlib.sha256(data).hexdigest() for data in (code, SQUARE))
        placements = [
            Placement(artwork=name, x=5, y=5, width=37),
            Placement(artwork=over, x=0, y=0, width=60, printed=False),
        ]
        panel = Printed(width=60, height=40, placements=placements)
        finding = self.said(preflight(panel, {name: code, over: SQUARE}), "reads")
        self.assertEqual(finding.placement, 0)

    def test_what_is_cropped_away_reaches_no_cut(self) -> None:
        mark = (
            b'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
            b'<rect width="10" height="40" fill="#7a1f35"/><rect x="30" y="15" width="10" height="9"/></svg>'
        )
        whole = {"x": 0, "y": 0, "width": 60}
        self.assertIn("(left, bottom, top)", self.said(found(mark, place=whole), "reaches the cut").words)
        cropped = {"x": 0, "y": 0, "width": 45, "crop": {"left": 0.25}}
        self.assertEqual(found(mark, place=cropped, width=45), [])
