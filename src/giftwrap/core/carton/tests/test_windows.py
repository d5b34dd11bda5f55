"""Windows in panels with film behind them, and where a blank shows the sizes of its inside."""

from __future__ import annotations

import math
from unittest import TestCase

import numpy as np
import shapely

from giftwrap.core.carton.dimensions import dimensions_of
from giftwrap.core.carton.shape import fold_carton
from giftwrap.core.carton.styles import STYLES, components_of
from giftwrap.core.carton.windows import FILM, GLUE, LAP
from giftwrap.core.errors import PackError
from giftwrap.core.formats.blank_in import read_blank
from giftwrap.core.formats.blank_out import write_blank
from giftwrap.core.mesh.solids import kernel_solid
from giftwrap.core.model import Carton, Clear, Pack
from giftwrap.core.model.carton import Board, Window
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.things.carton import shape_carton

SOAP = Carton(style="reverse-tuck", length=82, width=28, depth=58, board=Board(caliper=0.4))


def setUpModule() -> None:
    start_reading(EVERYTHING)


def with_window(carton: Carton = SOAP, **change: object) -> Carton:
    window = Window.model_validate({"panel": "front", "across": 40, "high": 30, "rounding": 0, **change})
    return carton.model_copy(update={"windows": [window]})


class WindowTests(TestCase):
    def test_a_window_is_cut_out_of_the_blank(self) -> None:
        whole = fold_carton(SOAP).blanks["carton"].area
        for rounding, area in ((0.0, 1200.0), (0.5, 1200 - (4 - math.pi) * 7.5**2), (1.0, math.pi * 20 * 15)):
            cut = fold_carton(with_window(rounding=rounding)).blanks["carton"].area
            with self.subTest(rounding):
                self.assertAlmostEqual(whole - cut, area, delta=0.004 * area)

    def test_it_goes_out_and_comes_back_as_a_cut(self) -> None:
        blanks = fold_carton(with_window()).blanks
        for form in ("svg", "dxf", "pdf"):
            found = read_blank(write_blank(blanks, form), f"soap.{form}").blank  # type: ignore[arg-type]
            with self.subTest(form):
                holes = [ring for panel in found.panels for ring in panel.outline.interiors]
                self.assertEqual(len(holes), 1)
                self.assertAlmostEqual(shapely.Polygon(holes[0]).area, 1200, delta=0.5)

    def test_one_sees_through_it(self) -> None:
        """No board is left in the opening, on either side, and its edge shows all around."""
        shaped = shape_carton(Pack(form=with_window(film=None)))
        for name in ("carton", "carton, inside"):
            mesh = next(piece.mesh for piece in shaped.pieces if piece.name == name)
            middles = mesh.positions[mesh.faces].mean(axis=1)
            front = middles[np.abs(middles[:, 1] - middles[:, 1].min()) < 0.5]
            height = shaped.thing.extent.high[2] / 2
            inside = (np.abs(front[:, 0]) < 18) & (np.abs(front[:, 2] - height) < 12)
            self.assertFalse(inside.any(), name)

    def test_film_lies_behind_the_board_and_touches_nothing(self) -> None:
        shaped = shape_carton(Pack(form=with_window()))
        film = next(piece for piece in shaped.pieces if piece.name == "carton, film 1")
        self.assertIsInstance(film.material, Clear)
        solid = kernel_solid(film.mesh)
        self.assertAlmostEqual(solid.volume(), (40 + 2 * LAP) * (30 + 2 * LAP) * FILM, delta=0.05)
        board = shaped.shape.components[0]
        for name, panel in board.folded.solids().items():
            self.assertLess((solid ^ panel.transform(board.pose[:3])).volume(), 1e-3, name)
        low = film.mesh.positions[:, 1].min() - shaped.thing.bounds.low[1]
        self.assertAlmostEqual(low, 0.4 + GLUE, delta=0.06)  # the creases stand out a little

    def test_windows_that_cannot_be_are_refused_with_their_place(self) -> None:
        for change, words, place in (
            ({"across": 80.0}, "less than 2 mm of board", "windows.0.across"),
            ({"x": 30.0}, "less than 2 mm of board", "windows.0.across"),
            ({"panel": "roof"}, "no roof to cut a window in", "windows.0.panel"),
        ):
            with self.subTest(words), self.assertRaisesRegex(PackError, words) as raised:
                fold_carton(with_window(**change))
            self.assertEqual(raised.exception.place, place)
        two = with_window().model_copy(
            update={"windows": [*with_window().windows, *with_window(x=3).windows]}
        )
        with self.assertRaisesRegex(PackError, "less than 2 mm of board"):
            fold_carton(two)

    def test_of_several_blanks_the_panel_s_own_is_cut(self) -> None:
        box = Carton(style="lid-and-base", length=90, width=70, depth=30, board=Board(caliper=1.0))
        before = fold_carton(box).blanks
        cut = fold_carton(with_window(box, panel="lid floor")).blanks
        self.assertAlmostEqual(cut["base"].area, before["base"].area)
        self.assertAlmostEqual(before["lid"].area - cut["lid"].area, 1200)


class DimensionTests(TestCase):
    def test_lines_are_as_long_as_the_sizes_they_show(self) -> None:
        """From crease to crease, which lie a little further apart than the inside."""
        shown = {}
        for style in STYLES:
            carton = Carton(style=style, length=84, width=60, depth=90, board=Board(caliper=0.5))  # type: ignore[arg-type]
            found = dimensions_of(carton, components_of(carton)[0])
            shown[style] = {one.field for one in found}
            for one in found:
                with self.subTest(style, field=one.field):
                    length = math.dist(one.start, one.end)
                    self.assertAlmostEqual(length, getattr(carton, one.field), delta=3.0)
        for style in ("straight-tuck", "reverse-tuck", "sleeve", "slotted-case", "tray", "lid-and-base"):
            self.assertEqual(shown[style], {"length", "width", "depth"}, style)
