"""Blanks of one's own: drawn by anybody, kept in the document, folded like any other."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from pydantic import ValidationError
from shapely import LineString

from giftwrap.core.carton.linework import blank_from_lines
from giftwrap.core.carton.own import own_carton
from giftwrap.core.carton.shape import fold_carton
from giftwrap.core.errors import PackError
from giftwrap.core.model.carton import Board, Carton
from giftwrap.core.model.document import describe_invalid

WIDE, DEEP, TALL = 60.0, 40.0, 30.0


def cross() -> Carton:
    """An open box drawn as a cross: a floor and four walls."""
    x, y, h = WIDE, DEEP, TALL
    corners = [
        (h, 0), (h + x, 0), (h + x, h), (2 * h + x, h), (2 * h + x, h + y), (h + x, h + y),
        (h + x, 2 * h + y), (h, 2 * h + y), (h, h + y), (0, h + y), (0, h), (h, h), (h, 0),
    ]  # fmt: skip
    floor = [(h, h), (h + x, h), (h + x, h + y), (h, h + y), (h, h)]
    creases = [LineString(floor[k : k + 2]) for k in range(4)]
    names = [("floor", (h + x / 2, h + y / 2)), ("hind wall", (h + x / 2, 2 * h + y - 5))]
    return own_carton(blank_from_lines([LineString(corners)], creases, names=names).blank, Board(caliper=0.4))


class OwnTests(TestCase):
    def test_a_cross_folds_to_an_open_box(self) -> None:
        carton = cross()
        self.assertEqual([len(carton.own.panels), len(carton.own.creases)], [5, 4])
        self.assertIn("hind wall", {panel.name for panel in carton.own.panels})
        shape = fold_carton(carton)
        points = np.vstack(
            [
                mesh.positions @ one.pose[:3, :3].T + one.pose[:3, 3]
                for one in shape.components
                for mesh in (one.faces.outside, one.faces.inside)
            ]
        )
        # its largest panel stands in front, upright
        np.testing.assert_allclose(np.ptp(points, axis=0), (WIDE, TALL, DEEP), atol=1.0)
        np.testing.assert_allclose((points.min(axis=0) + points.max(axis=0))[:2], 0, atol=1e-6)
        self.assertAlmostEqual(points[:, 2].min(), 0)

    def test_it_is_the_same_after_being_kept(self) -> None:
        carton = cross()
        again = Carton.model_validate_json(carton.model_dump_json())
        self.assertEqual(again, carton)
        one, other = (fold_carton(c).components[0].faces.outside for c in (carton, again))
        np.testing.assert_array_equal(one.positions, other.positions)

    def test_angles_by_hand(self) -> None:
        carton = cross().model_copy(update={"flaps": {"hind wall": 30.0}})
        self.assertEqual(fold_carton(carton).components[0].folded.angles["hind wall"], 30)

    def test_what_does_not_hang_together_is_refused(self) -> None:
        own = cross().own
        for change, words, place in (
            ({"creases": own.creases[1:]}, "hangs on nothing", "own.creases"),
            ({"creases": [*own.creases, own.creases[0]]}, "as a tree", "own.creases.4"),
            (
                {"panels": [own.panels[0].model_copy(update={"outline": ((0, 0), (9, 9), (9, 0), (0, 9))})]},
                "crosses itself",
                "own.panels.0",
            ),
        ):
            carton = cross().model_copy(update={"own": own.model_copy(update=change)})
            with self.subTest(words), self.assertRaisesRegex(PackError, words) as caught:
                fold_carton(carton)
            self.assertEqual(caught.exception.place, place)

    def test_style_and_blank_go_together(self) -> None:
        data = cross().model_dump(mode="json")
        for change in ({"style": "tray"}, {"own": None}):
            with self.assertRaises(ValidationError) as caught:
                Carton.model_validate(data | change)
            self.assertEqual(describe_invalid(caught.exception)[1], "own")
