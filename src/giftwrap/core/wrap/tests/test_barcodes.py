"""Barcodes made here: beside other libraries' modules and check digits, read back, measured in mm."""

from __future__ import annotations

import re
from unittest import TestCase

import barcode
import numpy as np
import zxingcpp

from giftwrap.core.errors import ArtworkError
from giftwrap.core.reading.artwork import rasterise, read_artwork
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.wrap.barcodes import (
    LEAST,
    MOST,
    X_MM,
    BarcodeKind,
    check_digit,
    ean_modules,
    make_barcode,
)

NUMBERS: tuple[tuple[BarcodeKind, str], ...] = (
    ("ean-13", "200123456789"),
    ("ean-13", "987654321098"),
    ("ean-8", "2012345"),
    ("upc-a", "20123456789"),
)
"""Of the range that is kept for use within a company, without their last digits."""
FORMATS = {"ean-13": "EAN13", "ean-8": "EAN8", "upc-a": "UPCA", "qr": "QRCode"}


def setUpModule() -> None:
    start_reading(EVERYTHING)


def seen(svg: bytes, px_per_mm: float) -> np.ndarray:
    """A drawing as pixels."""
    facts = read_artwork(svg, "code.svg")
    assert facts.width and facts.height
    image = rasterise(svg, facts.kind, round(facts.width * px_per_mm), round(facts.height * px_per_mm))
    return np.asarray(image.convert("L"))


class RetailTests(TestCase):
    def test_modules_and_last_digits_are_those_of_another_library(self) -> None:
        """python-barcode's."""
        rng = np.random.default_rng(2)
        names = {"ean-13": ("ean13", 12), "ean-8": ("ean8", 7), "upc-a": ("upca", 11)}
        for kind, (name, count) in names.items():
            for _ in range(40):
                digits = "".join(str(d) for d in rng.integers(0, 10, count))
                other = barcode.get(name, digits)
                with self.subTest(kind, digits=digits):
                    self.assertEqual(digits + check_digit(digits), other.get_fullcode())
                    modules = ean_modules(other.get_fullcode())
                    self.assertEqual(modules, other.build()[0].replace("G", "1"))

    def test_they_are_read_back_at_every_size(self) -> None:
        """By zxing-cpp, at 12 px a mm: 300 ppi."""
        for kind, digits in NUMBERS:
            for magnification in (LEAST, 1.0, MOST):
                made = make_barcode(kind, digits, magnification)
                [found] = zxingcpp.read_barcodes(seen(made.svg, 12))
                with self.subTest(kind, magnification=magnification):
                    self.assertEqual(found.text[-len(made.text) :], made.text)

    def test_nominal_sizes(self) -> None:
        """EAN-13 and UPC-A 37.29 mm with their quiet zones, EAN-8 26.73 (GS1 General Specifications, from
        memory); everything grows with the magnification."""
        for (kind, digits), wide in zip(NUMBERS, (37.29, 37.29, 26.73, 37.29), strict=True):
            made = make_barcode(kind, digits)
            self.assertAlmostEqual(made.size[0], wide, places=2)
            self.assertAlmostEqual(make_barcode(kind, digits, 1.5).size[0], 1.5 * wide, places=2)
            facts = read_artwork(made.svg, made.filename)
            self.assertAlmostEqual(facts.width or 0, wide, places=2)
            self.assertEqual(facts.notes, ())

    def test_quiet_zones_are_white_and_bars_a_whole_number_of_modules(self) -> None:
        for kind, digits in NUMBERS:
            made = make_barcode(kind, digits)
            px = 40.0
            row = seen(made.svg, px)[int(5 * px)] < 128
            dark = np.flatnonzero(row)
            quiet = {"ean-13": (11, 7), "ean-8": (7, 7), "upc-a": (9, 9)}[kind]
            self.assertAlmostEqual(dark[0] / px / X_MM, quiet[0], delta=0.15)
            self.assertAlmostEqual((len(row) - 1 - dark[-1]) / px / X_MM, quiet[1], delta=0.2)
            edges = np.flatnonzero(np.diff(row.astype(int))) / px / X_MM
            np.testing.assert_allclose(np.diff(edges), np.round(np.diff(edges)), atol=0.15)

    def test_wrong_digits_and_sizes_are_refused_in_words(self) -> None:
        for kind, digits, magnification, words, place in (
            ("ean-13", "2001234567890", 1.0, r"last digit of 2001234567890 must be \d", "text"),
            ("ean-13", "12345", 1.0, "EAN-13 has 13 digits", "text"),
            ("ean-8", "2012a45", 1.0, "EAN-8 has 8 digits", "text"),
            ("upc-a", "٢٠١٢٣٤٥٦٧٨٩", 1.0, "UPC-A has 12 digits", "text"),
            ("ean-13", "200123456789", 0.5, "80 to 200 % of its nominal size, not at 50 %", "magnification"),
            ("qr", "  ", 1.0, "QR code of nothing", "text"),
            ("qr", "x" * 5000, 1.0, "more than a QR code holds", "text"),
            ("qr", "x", 0.1, "50 to 1000 %", "magnification"),
            ("data-matrix", "", 1.0, "Data Matrix of nothing", "text"),
            ("data-matrix", "x" * 5000, 1.0, "more than a Data Matrix holds", "text"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ArtworkError, words) as caught:
                make_barcode(kind, digits, magnification)  # type: ignore[arg-type]
            self.assertEqual(caught.exception.place, place)


class QrTests(TestCase):
    def test_what_it_says_is_read_back(self) -> None:
        for text in ("Quince cordial, batch 7", "https://orchard.example/quince?batch=7", "Äpfel & Birnen"):
            made = make_barcode("qr", text)
            [found] = zxingcpp.read_barcodes(seen(made.svg, 12))
            self.assertEqual((found.text, str(found.format)), (text, "QR Code"))

    def test_its_quiet_zone_is_four_modules(self) -> None:
        made = make_barcode("qr", "Velloway", 2.0)
        dark = np.argwhere(seen(made.svg, 20) < 128)
        np.testing.assert_allclose(dark.min(axis=0) / 20, 4.0, atol=0.06)
        self.assertTrue(re.match(r"QR code Velloway\.svg", made.filename))


class DataMatrixTests(TestCase):
    def test_what_it_says_is_read_back(self) -> None:
        for text in ("L2611-07", "01095012345678901726113010AB12", "Äpfel"):
            made = make_barcode("data-matrix", text, 1.5)
            [found] = zxingcpp.read_barcodes(seen(made.svg, 16))
            self.assertEqual((found.text, str(found.format)), (text, "Data Matrix"))

    def test_it_is_square_with_solid_edges_and_one_module_around(self) -> None:
        """ISO/IEC 16022 (from memory): the left and lower edges are solid, the others alternate."""
        made = make_barcode("data-matrix", "L2611-07")
        px = 25.0
        dark = seen(made.svg, px) < 128
        module = round(0.4 * px)
        inside = dark[module:-module, module:-module]
        self.assertFalse(dark[: module - 1].any() or dark[:, : module - 1].any())
        self.assertEqual(inside.shape[0], inside.shape[1])
        self.assertEqual((inside.shape[0] / module) % 2, 0)
        self.assertGreater(inside[:, module // 2].mean(), 0.97)
        self.assertGreater(inside[-module // 2].mean(), 0.97)
        for edge in (inside[module // 2], inside[:, -module // 2]):
            self.assertAlmostEqual(edge.mean(), 0.5, delta=0.05)
