"""Artwork files: good ones, bad ones, dangerous ones."""

from __future__ import annotations

import io
import zlib
from unittest import TestCase
from unittest.mock import patch

import numpy as np
from PIL import Image

from giftwrap.core.errors import ArtworkError
from giftwrap.core.model import WrapPanel
from giftwrap.core.reading.artwork import rasterise, read_artwork
from giftwrap.core.tests.samples import placed, png
from giftwrap.core.wrap import stamps
from giftwrap.core.wrap.printing import effective_ppi, print_panel

SVG = '<svg xmlns="http://www.w3.org/2000/svg" {}>{}</svg>'


def svg(inside: str = '<rect width="10" height="10"/>', size: str = 'width="30mm" height="20mm"') -> bytes:
    return SVG.format(size, inside).encode()


class GoodArtworkTests(TestCase):
    def test_png_and_jpeg(self) -> None:
        for kind, name in (("PNG", "png"), ("JPEG", "jpeg")):
            facts = read_artwork(png(kind=kind), f"label.{name[:3] if name == 'png' else 'jpg'}")
            self.assertEqual((facts.kind, facts.width_px, facts.height_px), (name, 40, 20))
            self.assertEqual(facts.notes, ())

    def test_resolution_gives_its_own_size(self) -> None:
        stream = io.BytesIO()
        Image.new("RGB", (600, 300)).save(stream, "PNG", dpi=(300, 300))
        facts = read_artwork(stream.getvalue(), "label.png")
        self.assertAlmostEqual(facts.width, 50.8, delta=0.01)
        placement, _ = placed(stream.getvalue(), width=25.4)
        self.assertAlmostEqual(effective_ppi(placement, facts.width_px), 600)

    def test_svg_sizes(self) -> None:
        for size, width in (
            ('width="30mm" height="20mm"', 30),
            ('width="3cm" height="2cm"', 30),
            ('viewBox="0 0 96 48"', 25.4),  # 96 CSS px are an inch
            ('width="72pt" height="36pt"', 25.4),
        ):
            self.assertAlmostEqual(read_artwork(svg(size=size), "a.svg").width, width, places=3)

    def test_a_jpeg_named_png_is_read_and_said(self) -> None:
        facts = read_artwork(png(kind="JPEG"), "label.png")
        self.assertEqual(facts.kind, "jpeg")
        self.assertIn("really a JPEG", facts.notes[0])

    def test_a_missing_typeface_is_said(self) -> None:
        text = '<text font-family="Nosuchface" x="1" y="9">Quince</text>'
        self.assertIn("outlines", read_artwork(svg(text), "a.svg").notes[0])


class BadArtworkTests(TestCase):
    def assert_refused(self, data: bytes, name: str, *words: str) -> None:
        with self.assertRaises(ArtworkError) as caught:
            read_artwork(data, name)
        for word in (name, *words):
            self.assertIn(word, caught.exception.message)

    def test_cut_short(self) -> None:
        noise = Image.effect_noise((400, 400), 90)
        stream = io.BytesIO()
        noise.save(stream, "PNG")
        self.assert_refused(stream.getvalue()[:3000], "label.png", "damaged", "again")

    def test_renamed(self) -> None:
        self.assert_refused(b"GIF89a ...", "label.png", "really a GIF", "PDF, SVG, PNG, JPEG, TIFF or WebP")
        self.assert_refused(b"%PDF-1.7 ...", "label.png", "PDF", "damaged")
        self.assert_refused(b"just words", "label.jpg", "not a picture")
        self.assert_refused(b"", "label.png", "empty")

    def test_thirty_thousand_square(self) -> None:
        """A valid header of 30,000 × 30,000 px must be refused before anything is decoded."""
        row = zlib.compress(b"\x00" * 30001, 9)
        header = (30000).to_bytes(4, "big") * 2 + b"\x08\x00\x00\x00\x00"
        data = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", row) + chunk(b"IEND", b"")
        self.assert_refused(data, "huge.png", "pixel")

    def test_svg_that_reaches_out(self) -> None:
        link = '<image xlink:href="{}" xmlns:xlink="http://www.w3.org/1999/xlink"/>'
        self.assert_refused(svg(link.format("file:///etc/passwd")), "a.svg", "/etc/passwd", "embed")
        self.assert_refused(svg(link.format("http://example.com/x.png")), "a.svg", "embed")
        self.assert_refused(svg('<rect style="fill:url(http://example.com/p)"/>'), "a.svg", "embed")
        self.assert_refused(svg("<style>@import 'x.css';</style>"), "a.svg", "embed")
        self.assert_refused(svg("<script>alert(1)</script>"), "a.svg", "script")

    def test_svg_with_entities(self) -> None:
        bomb = b'<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]>' + svg("<text>&b;</text>")
        self.assert_refused(bomb, "a.svg", "entities")
        outside = b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>' + svg("<text>&x;</text>")
        self.assert_refused(outside, "a.svg", "entities")

    def test_svg_that_is_broken_or_has_no_size(self) -> None:
        self.assert_refused(b"<svg><g></svg>", "a.svg", "well-formed")
        self.assert_refused(svg(size=""), "a.svg", "size")


def chunk(kind: bytes, data: bytes) -> bytes:
    return len(data).to_bytes(4, "big") + kind + data + zlib.crc32(kind + data).to_bytes(4, "big")


class PrintingTests(TestCase):
    def test_placed_in_mm_from_the_lower_left(self) -> None:
        placement, files = placed(png((40, 20)), width=20, x=10, y=5)
        panel = WrapPanel(from_base=10, width=60, height=40, placements=[placement])
        picture = print_panel(panel, files, ppi=254).face.colour  # 10 px per mm
        self.assertEqual(picture.shape, (400, 600, 3))
        red = (picture[..., 0] > 150) & (picture[..., 1] < 100)
        rows, columns = np.nonzero(red)
        self.assertEqual((columns.min(), columns.max() + 1), (100, 300))
        self.assertEqual((400 - rows.max() - 1, 400 - rows.min()), (50, 150))

    def test_drawings_are_as_wide_as_they_say(self) -> None:
        """The right edge of a bar, 5 mm from that of a page whose width is no whole number of pixels."""
        for width, height, ppi in ((220.0, 90.0, 300), (149.9, 90.0, 300), (30.0, 20.0, 600)):
            for units in (f'width="{width}mm" height="{height}mm" ', ""):
                inside = f'<rect x="{width - 10}" y="2" width="5" height="{height - 4}"/>'
                size = f'{units}viewBox="0 0 {width} {height}"'
                wide, high = (round(side / 25.4 * ppi) for side in (width, height))
                row = np.asarray(rasterise(svg(inside, size), "svg", wide, high))[high // 2, :, 3] / 255
                inked = np.flatnonzero(row > 0)
                right = inked[-1] + row[inked[-1]]
                self.assertAlmostEqual(right * width / wide, width - 5, delta=0.006)

    def test_stops_at_the_edge_and_lets_stock_show_through(self) -> None:
        data = png((40, 20), "#00000000", "RGBA")
        placement, files = placed(data, width=500, x=-100, y=-100)
        panel = WrapPanel(from_base=10, width=60, height=40, placements=[placement])
        self.assertTrue((print_panel(panel, files, ppi=50).face.colour == [0xFB, 0xF9, 0xF4]).all())

    def test_moving_artwork_does_not_draw_it_anew(self) -> None:
        data = png((36, 18), "#1f7a3d")
        with patch.object(stamps, "rasterise", wraps=stamps.rasterise) as drawn:
            for x in (0, 7, 12):
                placement, files = placed(data, width=20, x=x)
                panel = WrapPanel(from_base=10, width=60, height=40, placements=[placement])
                green = print_panel(panel, files, ppi=254).face.colour[390, :, 0] < 100
                self.assertEqual(int(np.flatnonzero(green)[0]), 10 * x)
        self.assertEqual(drawn.call_count, 1)

    def test_missing_file_is_named(self) -> None:
        placement, _ = placed(png(), width=20)
        panel = WrapPanel(name="Front", from_base=10, width=60, height=40, placements=[placement])
        with self.assertRaisesRegex(ArtworkError, "Front"):
            print_panel(panel, {}, ppi=100)
