"""A carton for what goes into it: it is in there, and nothing is in its way."""

from __future__ import annotations

from itertools import combinations
from unittest import TestCase

import numpy as np
from manifold3d import Manifold
from shapely import Polygon

from giftwrap.core.carton.fitting import CLEARANCE, carton_for, packed
from giftwrap.core.carton.shape import fold_carton
from giftwrap.core.carton.tests.test_styles import solids_of
from giftwrap.core.errors import PackError
from giftwrap.core.model.carton import Board, Carton, Hole, Insert
from giftwrap.core.things.making import thing_of
from giftwrap.core.things.starting import starting_pack


class FittingTests(TestCase):
    def test_packs_to_start_from_stand_in_their_cartons(self) -> None:
        """Their extents as boxes, with the stated clearance, meet no board (manifold3d)."""
        for slug in ("cordial-500", "dropper-50", "jar-120", "pump-300"):
            extent = thing_of(starting_pack(slug), {}, coarse=True).extent
            size = np.subtract(extent.high, extent.low)
            for style in ("reverse-tuck", "straight-tuck", "lid-and-base"):
                with self.subTest(slug, style=style):
                    carton = carton_for(tuple(size), style)
                    solids = solids_of(fold_carton(carton))
                    inside = max(b.bounding_box()[5] for b in solids.values()) / 2
                    for grown, free in ((1.9 * CLEARANCE, True), (4 * CLEARANCE, False)):
                        box = Manifold.cube(size + grown, True).translate((0, 0, inside))
                        if style == "straight-tuck":  # its one tuck takes its room from the front
                            box = box.translate((0, (carton.width - size[1]) / 2 - CLEARANCE, 0))
                        met = sum((box ^ solid).volume() for solid in solids.values())
                        self.assertEqual(met < 1, free)


class PackedTests(TestCase):
    def test_as_many_as_stand_in_rows(self) -> None:
        """Counted by hand: 310 × 230 × 260 holds 4 × 3 of 76 mm, one high; turned where that is more."""
        twelve = packed((76, 76, 216), (310, 230, 260))
        self.assertEqual((twelve.across, twelve.deep, twelve.high, twelve.count), (4, 3, 1, 12))
        np.testing.assert_allclose(twelve.left, (6, 2, 44))
        turned = packed((120, 50, 40), (150, 240, 90))
        self.assertEqual((turned.count, turned.turned), (3 * 2 * 2, True))
        self.assertEqual(packed((76, 76, 300), (310, 230, 260)).count, 0)
        self.assertEqual(packed((100, 100, 100), (300, 200, 100)).count, 6)  # exactly


class InsertTests(TestCase):
    BOX = Carton(style="lid-and-base", length=170, width=90, depth=120, board=Board(caliper=0.8))

    def test_two_bottles_stand_in_a_box_through_its_deck(self) -> None:
        """Their extents as cylinders meet neither deck nor box, with the lid on (manifold3d)."""
        holes = [Hole(x=x, across=73, deep=73) for x in (-41.0, 41.0)]
        carton = self.BOX.model_copy(update={"insert": Insert(height=60, holes=holes)})
        shape = fold_carton(carton)
        solids = solids_of(shape)
        self.assertEqual([one.component.name for one in shape.components], ["base", "insert", "lid"])
        floor = solids["base: floor"].bounding_box()[5]
        for hole in holes:
            bottle = Manifold.cylinder(119, 36, circular_segments=96).translate((hole.x, 0, floor + 0.1))
            for name, solid in solids.items():
                self.assertLess((bottle ^ solid).volume(), 1e-3, name)
        deck = solids["insert: deck"].bounding_box()
        self.assertAlmostEqual(deck[5] - floor, 60, delta=0.01)
        for (one, first), (other, second) in combinations(solids.items(), 2):
            self.assertLess((first ^ second).volume(), 1e-3, (one, other))

    def test_it_goes_with_its_tray(self) -> None:
        drawer = self.BOX.model_copy(update={"style": "drawer", "insert": Insert(height=40), "closed": 0.9})
        solids = solids_of(fold_carton(drawer))
        deck, floor = (solids[name].bounding_box() for name in ("insert: deck", "tray: floor"))
        self.assertAlmostEqual(deck[0] + deck[3], floor[0] + floor[3], places=6)

    def test_holes_without_room_are_refused_by_their_number(self) -> None:
        for holes, place in (
            ([Hole(across=100, deep=100)], "insert.holes.0"),
            ([Hole(x=-20, across=40, deep=40), Hole(x=19, across=40, deep=40)], "insert.holes.1"),
            ([Hole(x=70, across=40, deep=20, rounding=0)], "insert.holes.0"),
        ):
            carton = self.BOX.model_copy(update={"insert": Insert(height=60, holes=holes)})
            with self.subTest(place=place), self.assertRaises(PackError) as caught:
                fold_carton(carton)
            self.assertEqual(caught.exception.place, place)
        with self.assertRaisesRegex(PackError, "does not stand in 120 mm"):
            fold_carton(self.BOX.model_copy(update={"insert": Insert(height=200)}))

    def test_the_area_of_a_hole_is_what_it_says(self) -> None:
        round_, square = Hole(across=60, deep=40), Hole(across=60, deep=40, rounding=0.5)
        for hole, area in ((round_, np.pi * 30 * 20), (square, 60 * 40 - (4 - np.pi) * 10**2)):
            carton = self.BOX.model_copy(update={"insert": Insert(height=60, holes=[hole])})
            deck = fold_carton(carton).blanks["insert"].by_name["deck"].outline
            self.assertAlmostEqual(Polygon(deck.interiors[0]).area / area, 1, delta=0.003)
