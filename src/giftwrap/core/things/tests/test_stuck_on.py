"""Labels on cartons: along with the board as it folds, and over gaps while it is shut."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.core.errors import PackError
from giftwrap.core.model import Carton, Pack, PickedPanel
from giftwrap.core.things.carton import CartonPack, shape_carton
from giftwrap.core.things.picking import loop_on, moved_to, picked_on
from giftwrap.core.things.stuck_on import CLOSED
from giftwrap.core.wrap.laid import Label

SIZE = {"length": 70.0, "width": 50.0, "depth": 110.0}


def carton(*panels: Label, style: str = "straight-tuck", **more: object) -> CartonPack:
    form = Carton(style=style, **{**SIZE, **more})  # type: ignore[arg-type]
    return shape_carton(Pack(form=form, panels=list(panels)))


def front_of(shaped: CartonPack, height: float = 60.0, x: float = 5.0) -> tuple[float, float, float]:
    """A place on the front, mm."""
    solid = trimesh.util.concatenate(
        [
            trimesh.Trimesh(p.mesh.positions, p.mesh.faces, process=False)
            for p in shaped.pieces
            if p.group != "labels"
        ]
    )
    hits, _, _ = solid.ray.intersects_location([[x, -500.0, height]], [[0.0, 1.0, 0.0]])
    return tuple(hits[hits[:, 1].argmin()])


class BlankTests(TestCase):
    def test_a_label_lies_on_the_board_that_was_picked(self) -> None:
        bare = carton(closed=0.99)
        at = front_of(bare)
        panel = picked_on(bare, "carton", at)
        self.assertEqual((panel.part, panel.at[2]), ("carton", 0.0))
        width, height = bare.shape.components[0].component.blank.size
        self.assertTrue(0 < panel.at[0] < width and 0 < panel.at[1] < height)
        shaped = carton(panel.model_copy(update={"width": 30.0, "height": 20.0}), closed=0.99)
        face = next(piece for piece in shaped.pieces if piece.part == "label-1")
        self.assertEqual((face.panel, shaped.first_label), (1, 1))
        low, high = face.mesh.positions.min(axis=0), face.mesh.positions.max(axis=0)
        np.testing.assert_allclose((low + high) / 2, at, atol=0.25)  # and its stock's thickness
        np.testing.assert_allclose(np.ptp(face.mesh.positions, axis=0)[[0, 2]], [30.0, 20.0], atol=0.05)
        self.assertLess(face.mesh.positions[:, 1].max(), at[1])  # before the board
        self.assertIn("label-1", shaped.parts)

    def test_it_goes_along_when_the_board_is_folded(self) -> None:
        """On the lid's top, from closed to flat: on the same place of the board."""
        shut = carton(closed=0.999)
        top = max(shut.pieces[0].mesh.positions[:, 2])
        panel = picked_on(shut, "carton", (3.0, 0.0, top)).model_copy(update={"width": 20.0, "height": 12.0})
        middles = []
        for closed in (0.999, 0.6, 0.0):
            sheet = carton(panel, closed=closed).sheets[0]
            self.assertLess(sheet.stretch.worst, 1e-6)
            middles.append(sheet.face.positions.mean(axis=0))
        self.assertAlmostEqual(middles[0][2], top, delta=0.5)
        self.assertGreater(float(np.linalg.norm(middles[2] - middles[0])), 30.0)

    def test_across_a_crease_it_bends_around_it(self) -> None:
        """Half on the front and half on the side: from the front it is half as wide, and not stretched."""
        bare = carton(closed=0.99)
        x = float(bare.pieces[0].mesh.positions[:, 0].max())
        panel = picked_on(bare, "carton", front_of(bare, x=x - 1.2))
        wide = panel.model_copy(update={"width": 24.0, "height": 12.0, "grow": 60.0})
        sheet = carton(wide, closed=0.99).sheets[0]
        across, deep, _ = np.ptp(sheet.face.positions, axis=0)
        self.assertTrue(10.0 < across < 15.0 and 9.0 < deep < 14.0, (across, deep))
        self.assertLess(sheet.stretch.mean, 0.02)


class ShutTests(TestCase):
    def seal(self, **changes: object) -> PickedPanel:
        """Over the front's upper edge onto the top, where the lid is tucked in."""
        shut = carton()
        at = front_of(shut, height=float(shut.pieces[0].mesh.positions[:, 2].max()) - 4.0)
        panel = picked_on(shut, "carton", at)
        return panel.model_copy(update={"width": 20.0, "height": 24.0, **changes})

    def test_a_seal_holds_a_closed_carton_over_its_gap(self) -> None:
        panel = self.seal()
        self.assertEqual(panel.part, CLOSED)
        sheet = carton(panel).sheets[0]
        up = np.ptp(sheet.face.positions, axis=0)
        self.assertAlmostEqual(float(up[0]), 20.0, delta=0.1)
        self.assertTrue(up[1] > 6.0 and up[2] > 14.0, up)
        self.assertLess(sheet.stretch.worst, 0.02)

    def test_it_cannot_be_opened_with_it(self) -> None:
        for opened in ({"closed": 0.5}, {"flaps": {"top lid": 20.0}}, {"spring": 4.0}):
            with self.subTest(opened), self.assertRaisesRegex(PackError, "holds the carton shut: close it"):
                carton(self.seal(), **opened)

    def test_where_it_would_stand_off_it_is_refused(self) -> None:
        """The hollow between the arms of a gable top is no board."""
        shut = carton(style="gable")
        high = float(shut.pieces[0].mesh.positions[:, 2].max())
        panel = PickedPanel(part=CLOSED, at=(0.0, 0.0, high), width=60.0, height=60.0, grow=120.0)
        with self.assertRaisesRegex(PackError, "mm off the board"):
            carton(panel, style="gable")

    def test_it_may_lie_on_one_part_instead(self) -> None:
        """Where it is: the place on the blank is found for it."""
        bare = carton()
        panel = picked_on(bare, "carton", front_of(bare)).model_copy(update={"width": 20.0, "height": 10.0})
        self.assertEqual(panel.part, CLOSED)
        shaped = carton(panel)
        own = moved_to(shaped, 0, "carton")
        self.assertEqual(own.part, "carton")
        again = carton(own).sheets[0].face.positions
        np.testing.assert_allclose(again.mean(axis=0), shaped.sheets[0].face.positions.mean(axis=0), atol=0.3)
        back = moved_to(carton(own), 0, CLOSED)
        np.testing.assert_allclose(back.at, panel.at, atol=0.3)

    def test_a_loop_is_drawn_on_it(self) -> None:
        bare = carton()
        x, y, z = front_of(bare)
        turn = np.linspace(0, 2 * np.pi, 40, endpoint=False)
        loop = np.stack([x + 9 * np.cos(turn), np.full(40, y), z + 6 * np.sin(turn)], axis=1)
        panel = picked_on(bare, "carton", (x, y, z))
        cut = loop_on(bare, panel, "carton", loop)
        self.assertAlmostEqual(cut.width, 18.0, delta=0.5)
        self.assertAlmostEqual(cut.height, 12.0, delta=0.5)
        self.assertLess(carton(cut).sheets[0].stretch.worst, 1e-6)

    def test_what_is_no_part_is_refused_with_those_there_are(self) -> None:
        bare = carton(style="lid-and-base")
        with self.assertRaisesRegex(PackError, "choose a place on one of closed carton, .*base"):
            picked_on(bare, "film", (0.0, 0.0, 0.0))
        self.assertTrue(picked_on(bare, "lid", front_of(bare, height=100.0)).at)
