"""What is done to areas of panels, the paper around them, and where a blank shows the sizes of its inside."""

from __future__ import annotations

import math
from typing import ClassVar
from unittest import TestCase

import numpy as np
import shapely
import trimesh

from giftwrap.core.carton.areas import FILM, GLUE, LAP
from giftwrap.core.carton.blank import SLIT_MM
from giftwrap.core.carton.dimensions import dimensions_of
from giftwrap.core.carton.folding import Faces
from giftwrap.core.carton.own import own_carton
from giftwrap.core.carton.shape import fold_carton
from giftwrap.core.carton.styles import STYLES, components_of
from giftwrap.core.errors import PackError
from giftwrap.core.form.tests.solids import out_of_order
from giftwrap.core.formats.blank_in import read_blank
from giftwrap.core.formats.blank_out import write_blank
from giftwrap.core.mesh.mesh import together
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
            ({"panel": "roof"}, "no roof on this carton", "windows.0.panel"),
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


def with_(**change: object) -> Carton:
    return Carton.model_validate({**SOAP.model_dump(), **change})


class ShapedTests(TestCase):
    def test_an_opening_has_the_outline_it_is_given(self) -> None:
        """A triangle drawn at any size is made as wide and high as is said: half of that by shapely."""
        whole = fold_carton(SOAP).blanks["carton"].area
        shape = [(0, 0), (3, 0), (1.5, 9)]
        cut = fold_carton(with_window(across=30, high=20, shape=shape)).blanks["carton"].area
        self.assertAlmostEqual(whole - cut, 300, places=6)
        with self.assertRaisesRegex(PackError, "outline of the window crosses itself"):
            fold_carton(with_window(across=30, high=20, shape=[(0, 0), (4, 4), (4, 0), (0, 4)]))


class EmbossingTests(TestCase):
    def front(self, **change: object) -> tuple[Faces, np.ndarray, np.ndarray]:
        """A carton laid flat, and which points of its outside and inside are its front's."""
        embossing = {"panel": "front", "across": 40, "high": 30, "rounding": 1.0, "height": 0.6, **change}
        folded = fold_carton(with_(embossings=[embossing], closed=0.0)).components[0].folded
        left, foot, right, top = folded.blank.by_name["front"].outline.buffer(-1).bounds
        low, high = np.array([left, foot]), np.array([right, top])
        sides = (folded.faces.outside, folded.faces.inside)
        return folded.faces, *(((one.uvs > low) & (one.uvs < high)).all(axis=1) for one in sides)

    def test_board_is_raised_by_its_height_on_both_sides(self) -> None:
        for height in (0.6, -0.6):
            faces, out, within = self.front(height=height)
            for side, front, flat in ((faces.outside, out, 0.2), (faces.inside, within, -0.2)):
                off = side.positions[front][:, 2] - flat
                self.assertAlmostEqual(float(off[np.abs(off).argmax()]), height, places=6)

    def test_it_keeps_the_board_whole_and_its_places_on_the_blank(self) -> None:
        """Closed between outside, inside and edges; what is pressed holds no other volume than the board's,
        and every place carries the print that it had flat."""
        faces, front, _ = self.front()
        mesh = together(faces.outside, faces.inside, faces.edge)
        volume = trimesh.Trimesh(mesh.positions, mesh.faces, process=False).volume
        area = fold_carton(SOAP).blanks["carton"].area
        self.assertAlmostEqual(volume / (area * SOAP.board.caliper), 1, delta=1e-4)
        self.assertLess(out_of_order(mesh), 5e-3)
        off = faces.outside.positions[front][:, :2] - faces.outside.uvs[front]
        self.assertLess(float(np.abs(off).max()), 1e-9)

    def test_its_flank_is_as_steep_as_it_is_wide(self) -> None:
        """An S of 0.9 mm for 0.6: in its middle 1.5 times as steep as from foot to top."""
        faces, front, _ = self.front()
        steepest = np.tan(np.arccos(faces.outside.normals[front][:, 2].min()))
        self.assertAlmostEqual(float(steepest), 1.5 * 0.6 / 0.9, delta=0.02)

    def test_what_cannot_be_pressed_is_refused_with_its_place(self) -> None:
        front = {"panel": "front", "across": 40, "high": 30}
        for embossings, place in (
            ([{**front, "panel": "roof"}], "embossings.0.panel"),
            ([{**front, "across": 81}], "embossings.0.across"),
            ([front, {**front, "x": 5}], "embossings.1.x"),
            ([{**front, "across": 5, "high": 5, "height": 3}], "embossings.0.height"),
        ):
            with self.assertRaises(PackError) as raised:
                fold_carton(with_(embossings=embossings))
            self.assertEqual(raised.exception.place, place)
        pillow = {"style": "pillow", "length": 90, "width": 110, "depth": 30}
        with self.assertRaisesRegex(PackError, "bent cannot be embossed"):
            fold_carton(with_(**pillow, embossings=[front]))


class PerforationTests(TestCase):
    TEAR: ClassVar = {"panel": "front", "length": 200, "y": 10, "cut": 3, "tie": 1}

    def test_it_goes_across_its_panel_and_out_in_every_format(self) -> None:
        """As long as the panel is wide; the outline stays whole, as a perforation is no cut."""
        shape = fold_carton(with_(perforations=[self.TEAR]))
        blank = shape.blanks["carton"]
        [tear] = blank.tears
        left, _, right, _ = blank.by_name["front"].outline.bounds
        self.assertAlmostEqual(tear.line.length, right - left, places=6)
        self.assertAlmostEqual(blank.area, fold_carton(SOAP).blanks["carton"].area, places=6)
        for form in ("svg", "dxf", "pdf"):
            with self.subTest(form):
                read = read_blank(write_blank(shape.blanks, form), f"x.{form}").blank  # type: ignore[arg-type]
                [back] = read.tears
                self.assertEqual((back.panel, round(back.line.length, 2)), ("front", round(right - left, 2)))
                carton = own_carton(read, SOAP.board)
                self.assertAlmostEqual(carton.perforations[0].y, 10, places=2)
                self.assertAlmostEqual(
                    fold_carton(carton).blanks["carton"].tears[0].line.length, right - left, 2
                )

    def test_three_quarters_of_it_are_cut(self) -> None:
        """3 mm cut and 1 mm left in turns: slits of the knife's width through the board."""
        plain = fold_carton(SOAP).components[0].folded.trimmed["front"].area
        torn = fold_carton(with_(perforations=[self.TEAR])).components[0].folded.trimmed["front"].area
        across = fold_carton(SOAP).blanks["carton"].by_name["front"].outline.bounds
        self.assertAlmostEqual((plain - torn) / SLIT_MM / (across[2] - across[0]), 0.75, delta=0.07)

    def test_one_that_crosses_no_panel_is_refused(self) -> None:
        for change in ({"y": 900}, {"length": 2}):
            with self.assertRaisesRegex(PackError, "does not go across") as raised:
                fold_carton(with_(perforations=[{**self.TEAR, **change}]))
            self.assertEqual(raised.exception.place, "perforations.0.length")


class PaperTests(TestCase):
    """The paper of rigid boxes."""

    def test_it_covers_the_board_and_is_turned_in(self) -> None:
        carton = Carton(
            style="lid-and-base", length=180, width=120, depth=60, board=Board(caliper=1.8, wrapped=True)
        )
        shape = fold_carton(carton)
        self.assertEqual(set(shape.sheets), {"base", "lid", "base, paper", "lid, paper"})
        for name in ("base", "lid"):
            board, paper = shape.blanks[name], shape.sheets[f"{name}, paper"]
            shown = [p for p in board.panels if p.role == "panel"]
            for panel in shown:
                self.assertLess(panel.outline.difference(paper.outline).area, 1e-6)
            flaps = [p for p in paper.panels if "turn-in" in p.name]
            # over the top of each of four walls, and around the corners from front and back
            self.assertEqual(
                sorted(p.name.split()[0] for p in flaps), sorted(["left", "right"] + 3 * ["front", "back"])
            )
            around = shape.allowances["turn-in"] + 1.8
            self.assertAlmostEqual(paper.size[0] - board.size[0], 2 * around, places=6)
            self.assertAlmostEqual(paper.area, sum(p.outline.area for p in paper.panels), places=4)

    def test_a_carton_that_is_not_covered_has_none(self) -> None:
        self.assertEqual(set(fold_carton(SOAP).sheets), {"carton"})


class OrderTests(TestCase):
    def test_the_order_of_closing_is_changed_by_hand(self) -> None:
        half = with_(closed=0.5)
        before = fold_carton(half).components[0].folded.angles["top lid"]
        after = (
            fold_carton(half.model_copy(update={"order": {"top lid": 1}}))
            .components[0]
            .folded.angles["top lid"]
        )
        self.assertLess(before, 1)
        self.assertGreater(after, 80)


class DimensionTests(TestCase):
    def test_lines_are_as_long_as_the_sizes_they_show(self) -> None:
        """From crease to crease, which lie a little further apart than the inside."""
        shown = {}
        for style in STYLES:
            carton = Carton(style=style, length=84, width=60, depth=30, board=Board(caliper=0.5))  # type: ignore[arg-type]
            found = dimensions_of(carton, components_of(carton)[0])
            shown[style] = {one.field for one in found}
            for one in found:
                with self.subTest(style, field=one.field):
                    length = math.dist(one.start, one.end)
                    self.assertAlmostEqual(length, getattr(carton, one.field), delta=3.0)
        for style in ("straight-tuck", "reverse-tuck", "sleeve", "slotted-case", "tray", "lid-and-base"):
            self.assertEqual(shown[style], {"length", "width", "depth"}, style)
