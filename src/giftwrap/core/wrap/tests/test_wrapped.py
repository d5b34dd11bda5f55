"""Panels on the wall: their size around it, their order where they overlap, where a new one lies."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.core.errors import PackError
from giftwrap.core.model import Oval, SectionMark, WrapPanel
from giftwrap.core.tests.samples import bottle, cylinder, labelled
from giftwrap.core.things.starting import starting_vessels
from giftwrap.core.things.vessel import VesselShape, shape_vessel
from giftwrap.core.wrap.laying import Turned
from giftwrap.core.wrap.starting import starting_panel


def wearing(*panels: WrapPanel) -> VesselShape:
    """A cylinder of 72 mm with labels, stuck on in this order."""
    pack = labelled(cylinder(36), panels[0])
    return shape_vessel(pack.model_copy(update={"panels": list(panels)}))


class PanelTests(TestCase):
    def test_width_is_arc_length_on_the_printed_face(self) -> None:
        pack = labelled(cylinder(36), WrapPanel(from_base=20, width=90, height=60))
        sheet = shape_vessel(pack).sheets[0]
        turn = sheet.columns[-1] - sheet.columns[0]
        self.assertAlmostEqual(turn * (36 + 0.05 + 0.12), 90, places=3)
        self.assertEqual((sheet.across[0], sheet.across[-1]), (0, 1))
        self.assertEqual(sheet.narrows, 0)

    def test_width_on_an_oval_is_the_ellipse_s_own_arc(self) -> None:
        """Perimeter of an ellipse by Ramanujan's second approximation, good to 1e-9 here."""
        body = cylinder(36).model_copy(
            update={"sections": [SectionMark(height=0, section=Oval(depth_ratio=0.6))]}
        )
        sheet = shape_vessel(labelled(body, WrapPanel(from_base=20, width=60, height=60))).sheets[0]
        a, b = 36 + 0.17, 0.6 * 36 + 0.17  # near enough: the offset of an ellipse is no ellipse
        h = ((a - b) / (a + b)) ** 2
        around = np.pi * (a + b) * (1 + 3 * h / (10 + np.sqrt(4 - 3 * h)))
        self.assertAlmostEqual(sheet.around / around, 1, places=3)
        face = sheet.face
        foot = face.positions[np.abs(face.positions[:, 2] - 20) < 1e-6]
        foot = foot[np.argsort(foot[:, 0])]
        self.assertAlmostEqual(np.linalg.norm(np.diff(foot, axis=0), axis=1).sum(), 60, delta=0.02)

    def test_too_tall_too_high_too_wide(self) -> None:
        for panel, words, place in (
            (WrapPanel(from_base=20, width=90, height=400), "only .* of wall", "panels.0.height"),
            (WrapPanel(from_base=400, width=90, height=10), "body ends", "panels.0.from_base"),
            (WrapPanel(from_base=20, width=300, height=50), "around", "panels.0.width"),
        ):
            with self.assertRaisesRegex(PackError, words) as caught:
                shape_vessel(labelled(cylinder(36), panel))
            self.assertEqual(caught.exception.place, place)

    def test_under_the_closure(self) -> None:
        panel = WrapPanel(from_base=190, width=40, height=35)
        with self.assertRaisesRegex(PackError, "under the closure"):
            shape_vessel(labelled(bottle(), panel, capped=True))


class OverlapTests(TestCase):
    LOW = WrapPanel(from_base=20, width=90, height=60)

    def test_a_label_over_another_lies_on_top_of_it(self) -> None:
        """Held to trimesh: rays from outside meet the later label first, a glue and a paper further out."""
        shape = wearing(self.LOW, WrapPanel(from_base=40, width=30, height=20, stock_thickness=0.2))
        meshes = [
            trimesh.Trimesh(mesh.positions, mesh.faces, process=False)
            for mesh in (sheet.face for sheet in shape.sheets)
        ]
        for height, faces in ((30.0, [36.17]), (50.0, [36.17, 36.42])):
            hits = [
                -mesh.ray.intersects_location([[0.1, -200, height]], [[0, 1, 0]])[0][:, 1]
                for mesh in meshes[: len(faces)]
            ]
            for out, expected in zip(hits, faces, strict=True):
                self.assertAlmostEqual(float(out.max()), expected, delta=0.02)  # chords lie a little inside

    def test_labels_that_do_not_touch_lie_on_the_wall(self) -> None:
        apart = (
            self.LOW.model_copy(update={"from_base": 80.0, "height": 40.0}),
            self.LOW.model_copy(update={"centre_angle": 180.0}),
            self.LOW.model_copy(update={"centre_angle": -180.0}),
        )
        for other in apart:
            self.assertEqual({sheet.gap for sheet in wearing(self.LOW, other).sheets}, {0.05})

    def test_overlap_is_found_around_the_back_and_all_around(self) -> None:
        around = WrapPanel(from_base=20, width=227, height=60)
        back = self.LOW.model_copy(update={"centre_angle": 175.0})
        for low, high in ((around, back), (back, around), (back, back)):
            self.assertEqual([round(sheet.gap, 9) for sheet in wearing(low, high).sheets], [0.05, 0.22])

    def test_three_in_a_pile(self) -> None:
        sheets = wearing(self.LOW, self.LOW, self.LOW).sheets
        np.testing.assert_allclose([sheet.gap for sheet in sheets], [0.05, 0.22, 0.39])


class StartingPanelTests(TestCase):
    def test_a_second_label_finds_a_free_place_on_every_pack(self) -> None:
        for point in starting_vessels():
            with self.subTest(point.slug):
                bare = point.pack.model_copy(update={"panels": []})
                shape = shape_vessel(bare, coarse=True)
                bare_pack = Turned(shape.formed, shape.built)
                first = starting_panel(bare_pack)
                pack = bare.model_copy(update={"panels": [first]})
                second = starting_panel(bare_pack, "around", shape_vessel(pack, coarse=True).sheets)
                both = shape_vessel(pack.model_copy(update={"panels": [first, second]}), coarse=True)
                self.assertEqual({sheet.gap for sheet in both.sheets}, {0.05})

    def test_on_a_pack_labelled_all_around_it_is_small_and_on_top(self) -> None:
        shape = wearing(WrapPanel(from_base=10, width=225, height=120))
        seal = starting_panel(Turned(shape.formed, shape.built), "around", shape.sheets)
        self.assertLess(seal.width, 60)
        self.assertGreater(wearing(shape.pack.panels[0], seal).sheets[1].gap, 0.2)
