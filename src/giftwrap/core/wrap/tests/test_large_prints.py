"""Artwork placed larger than anything is printed, and panels whose prints would not fit in memory."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from giftwrap.core.errors import ArtworkError
from giftwrap.core.model import WrapPanel
from giftwrap.core.tests.samples import placed, png
from giftwrap.core.wrap import printing, stamps
from giftwrap.core.wrap.printing import FINEST_PPI, MM_PER_INCH, MOST_TEXELS, compose, finest_ppi, ppi_for

CHECKS = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 10 10">'
    b'<rect width="10" height="10" fill="#fff"/><rect width="5" height="5" fill="#b3324c"/>'
    b'<rect x="5" y="5" width="5" height="5" fill="#3c7a57"/></svg>'
)


def panel(placement: object, width: float = 60, height: float = 60) -> WrapPanel:
    return WrapPanel(from_base=10, width=width, height=height, placements=[placement])


class LargePlacementTests(TestCase):
    def test_artwork_far_larger_than_its_panel_shows_the_part_that_is_there(self) -> None:
        """At 985 mm it would be 19,390 px wide; its lower left quarter is green where y runs down."""
        placement, files = placed(CHECKS, width=985, x=-460, y=-460)
        pixels = compose(panel(placement), files, ppi=200).face.colour
        middle = 32.5 / 60 * pixels.shape[0]
        near, far = int(middle - 40), int(middle + 40)
        rows = pixels.shape[0]
        self.assertTrue(np.allclose(pixels[rows - far, near], (0xB3, 0x32, 0x4C), atol=3))
        self.assertTrue(np.allclose(pixels[rows - near, far], (0x3C, 0x7A, 0x57), atol=3))

    def test_its_edge_lies_where_it_is_placed(self) -> None:
        placement, files = placed(CHECKS, width=900, x=-430, y=-430)
        pixels = compose(panel(placement), files, ppi=254).face.colour.astype(int)
        row = pixels[-5, :, 1]  # white to green in the lowest row, at 20 mm
        edge = float(np.interp(0.5, (row.max() - row) / np.ptp(row), np.arange(len(row)) + 0.5))
        self.assertAlmostEqual(edge / 10, 20.0, delta=0.35)

    def test_every_size_that_a_document_allows_is_drawn(self) -> None:
        for width in (0.01, 300, 985, 5000):
            placement, files = placed(CHECKS, width=width)
            self.assertEqual(compose(panel(placement), files, ppi=FINEST_PPI / 2).face.colour.dtype, np.uint8)
            placement, files = placed(png((300, 200)), width=width)
            self.assertEqual(compose(panel(placement), files, ppi=FINEST_PPI / 2).face.colour.dtype, np.uint8)

    def test_artwork_that_takes_too_long_names_its_panel(self) -> None:
        placement, files = placed(CHECKS, width=50)
        late = patch.object(printing.time, "monotonic", side_effect=[0.0, 99.0])
        with late, self.assertRaisesRegex(ArtworkError, "“Label” takes more than 5 s") as caught:
            compose(panel(placement), files, ppi=100, seconds=5)
        self.assertEqual(caught.exception.place, "placements.0")


class MemoryTests(TestCase):
    def test_prints_of_many_large_panels_fit_together(self) -> None:
        panels = [WrapPanel(from_base=1, width=400, height=300) for _ in range(8)]
        ppi = finest_ppi(panels)
        texels = sum(p.width * p.height for p in panels) * (ppi / MM_PER_INCH) ** 2
        self.assertAlmostEqual(texels / MOST_TEXELS, 1.0, places=6)
        self.assertGreater(finest_ppi(panels[:1]), 400)
        self.assertEqual(finest_ppi([]), float("inf"))

    def test_prints_are_finer_than_the_picture_within_reason(self) -> None:
        for px_per_mm in (3.0, 7.2, 11.0):
            self.assertGreaterEqual(ppi_for(px_per_mm) / MM_PER_INCH, 3.99 * px_per_mm)
        self.assertEqual([ppi_for(shown) for shown in (0.0, 0.1, 1000.0)], [300, 300, 1200])
        self.assertLessEqual(len({ppi_for(shown) for shown in np.linspace(1, 20, 300)}), 5)

    def test_what_is_sent_to_the_reader_carries_its_limits(self) -> None:
        placement, files = placed(CHECKS, width=33.3)
        with patch.object(stamps, "rasterise", wraps=stamps.rasterise) as drawn:
            compose(panel(placement), files, ppi=111, seconds=4)
        self.assertLessEqual(drawn.call_args.kwargs["limits"].seconds, 4)
        self.assertEqual(
            replace(drawn.call_args.kwargs["limits"], seconds=stamps.ARTWORK.seconds), stamps.ARTWORK
        )
