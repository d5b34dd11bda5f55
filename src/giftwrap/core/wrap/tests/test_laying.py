"""Sleeves, seals, labels on closures, what labels are cut to: held to closed forms, trimesh and shapely."""

from __future__ import annotations

import re
from unittest import TestCase

import numpy as np
import shapely

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array
from giftwrap.core.model import (
    Body,
    Cap,
    Corner,
    Oval,
    Pack,
    PickedPanel,
    Rectangle,
    Round,
    SealPanel,
    SectionMark,
    SleevePanel,
    Vessel,
    WrapPanel,
)
from giftwrap.core.model.panel import Panel
from giftwrap.core.tests.models import area_of, whole
from giftwrap.core.tests.samples import bottle, cylinder, labelled
from giftwrap.core.things.facts import pack_facts
from giftwrap.core.things.starting import starting_vessels
from giftwrap.core.things.vessel import VesselShape, shape_vessel
from giftwrap.core.wrap.laid import Laid, cut_of
from giftwrap.core.wrap.laying import Turned
from giftwrap.core.wrap.sleeve import SleeveSheet
from giftwrap.core.wrap.starting import starting_panel

KINDS = ("around", "sleeve", "seal", "closure", "top")


def wearing(body: Body, *panels: Panel, capped: bool = False) -> VesselShape:
    pack = labelled(body, WrapPanel(from_base=1, width=1, height=1), capped=capped)
    return shape_vessel(pack.model_copy(update={"panels": list(panels)}))


def cone(foot: float, top: float, height: float) -> Body:
    """A cup, radii in mm."""
    return cylinder(foot, height).model_copy(
        update={"profile": [Corner(radius=foot, height=0), Corner(radius=top, height=height)]}
    )


def seen_at(sheet: Laid, places: Array) -> Array:
    """(n, 3) mm: where places on a page, mm from its lower left corner, are on the pack, by shapely."""
    face = sheet.face
    flat = face.uvs * [sheet.printed.width, sheet.printed.height]
    triangles = shapely.polygons(flat[face.faces])
    tree = shapely.STRtree(triangles)
    points = shapely.points(places)
    found = []
    for point, number in zip(points, tree.nearest(points), strict=True):
        a, b, c = flat[face.faces[number]]
        weights = np.linalg.solve(np.array([[*a, 1], [*b, 1], [*c, 1]]).T, [point.x, point.y, 1])
        found.append(weights @ face.positions[face.faces[number]])
    return np.array(found)


class SleeveTests(TestCase):
    def test_on_a_cone_it_shrinks_by_what_the_circle_is_smaller(self) -> None:
        """Closed form: at a height where the face has radius r, film of width w shrinks by 1 − 2πr/w."""
        film = SleevePanel(from_base=10, width=220, height=60, stock_thickness=0.05)
        sheet = wearing(cone(34, 24, 120), film).sheets[0]
        assert isinstance(sheet, SleeveSheet)
        radii = np.hypot(*sheet.layer(sheet.out)[0][0, :, :2].T)
        np.testing.assert_allclose(sheet.shrink, 1 - 2 * np.pi * radii / 220, atol=1e-9)
        self.assertTrue(0.03 < sheet.shrink.min() < sheet.shrink.max() < 0.2)
        # printed places keep their share of the way around and their way up the wall
        lean = np.hypot(10, 120)
        at = seen_at(sheet, np.array([[110.0, 30.0], [165.0, 30.0], [55.0, 45.0]]))
        np.testing.assert_allclose(np.arctan2(at[:, 0], -at[:, 1]), [0, np.pi / 2, -np.pi / 2], atol=2e-3)
        np.testing.assert_allclose(at[:, 2], 10 + np.array([30, 30, 45]) * 120 / lean, atol=0.05)

    def test_it_closes_and_lies_outside_of_the_pack(self) -> None:
        shape = wearing(bottle(), SleevePanel(from_base=5, width=240, height=210), capped=True)
        sheet = shape.sheets[0]
        ends = sheet.face.positions.reshape(-1, len(sheet.path.points), 3)  # type: ignore[attr-defined]
        np.testing.assert_allclose(ends[0], ends[-1], atol=1e-9)
        profile = shape.formed.outer.points
        wall = shapely.Polygon([*profile, (0.0, profile[-1, 1])])
        across = np.stack([np.hypot(*sheet.face.positions[:, :2].T), sheet.face.positions[:, 2]], axis=1)
        self.assertEqual(shapely.contains(wall, shapely.points(across)).sum(), 0)

    def test_film_spans_what_it_is_not_pulled_into(self) -> None:
        """A ball of 4 mm sinks into a groove of 3 mm between its edges by R − √(R² − 1.5²)."""
        groove = [(30, 0), (30, 50), (27, 50.5), (27, 52.5), (30, 53), (30, 100)]
        body = cylinder(30, 100).model_copy(
            update={"profile": [Corner(radius=r, height=h) for r, h in groove]}
        )
        sheet = wearing(body, SleevePanel(from_base=20, width=200, height=60)).sheets[0]
        radii = np.hypot(*sheet.face.positions[:, :2].T)
        self.assertAlmostEqual(float(np.ptp(radii)), 4 - np.sqrt(16 - 2.25), delta=0.03)

    def test_it_is_stretched_over_a_pack_that_is_wider(self) -> None:
        sheet = wearing(cylinder(30), SleevePanel(from_base=10, width=170, height=60)).sheets[0]
        self.assertAlmostEqual(sheet.stretch.worst, 2 * np.pi * 30.1 / 170 - 1, places=3)

    def test_it_goes_around_an_oval_by_its_own_length(self) -> None:
        body = cylinder(36).model_copy(
            update={"sections": [SectionMark(height=0, section=Oval(depth_ratio=0.6))]}
        )
        sheet = wearing(body, SleevePanel(from_base=20, width=185, height=60)).sheets[0]
        ring = sheet.face.positions[np.abs(sheet.face.positions[:, 2] - 20) < 1e-6]
        length = np.linalg.norm(np.diff(ring, axis=0), axis=1)
        share = np.diff(sheet.face.uvs[np.abs(sheet.face.positions[:, 2] - 20) < 1e-6][:, 0])
        np.testing.assert_allclose(length, share * length.sum(), atol=0.02)

    def test_what_film_cannot_do_is_refused(self) -> None:
        for panel, words, place in (
            (SleevePanel(from_base=10, width=1200, height=60), "shrink by .* % at", "panels.0.height"),
            (SleevePanel(from_base=10, width=90, height=60), "stretch by .* % at", "panels.0.width"),
            (SleevePanel(from_base=10, width=240, height=900), "only .* mm from where", "panels.0.height"),
            (SleevePanel(from_base=900, width=240, height=9), "pack ends at", "panels.0.from_base"),
        ):
            with self.subTest(words), self.assertRaisesRegex(PackError, words) as raised:
                wearing(cylinder(36), panel)
            self.assertEqual(raised.exception.place, place)


class SealTests(TestCase):
    def test_a_strip_keeps_its_lengths_over_the_middle(self) -> None:
        """On a can: flat over the top by Pythagoras, down its side by the circle's arc."""
        sheet = wearing(cylinder(30, 60), SealPanel(width=16, height=100)).sheets[0]
        self.assertAlmostEqual(area_of(sheet.face) / 1600, 1, delta=0.03)
        middle = seen_at(sheet, np.array([[8, 50], [8, 60], [13, 50], [3, 40]], dtype=float))
        top = 60 + 0.17
        np.testing.assert_allclose(
            middle, [[0, 0, top], [0, 10, top], [5, 0, top], [-5, -10, top]], atol=0.05
        )
        foot = seen_at(sheet, np.array([[8, 0.01], [14, 0.01], [2, 99.99]]))
        np.testing.assert_allclose(np.hypot(foot[:, 0], foot[:, 1]), 30.17, atol=0.02)
        np.testing.assert_allclose(
            (np.arctan2(foot[:, 0], -foot[:, 1]) + 1) % (2 * np.pi), [1, 1.2, np.pi + 1.2], atol=0.01
        )
        self.assertTrue(whole(sheet.face, sheet.back).is_watertight)

    def test_it_goes_over_cap_and_neck_and_turns(self) -> None:
        shape = wearing(bottle(), SealPanel(width=8, height=70, centre_angle=90, shift=5), capped=True)
        sheet = shape.sheets[0]
        points = sheet.face.positions
        self.assertAlmostEqual(float(points[:, 2].max()), shape.height + 0.17, delta=0.05)
        # its foot lies to the right, and it is shifted away from it
        right, left = seen_at(sheet, np.array([[4.0, 0.01], [4.0, 69.99]]))
        path = sheet.path  # type: ignore[attr-defined]
        reach = [np.interp(way, path.lengths(), path.points[:, 1]) for way in (30, 40)]
        np.testing.assert_allclose([right[2], left[2]], reach, atol=0.3)
        self.assertTrue(left[0] < 0 < right[0])

    def test_refused(self) -> None:
        square = cylinder(30, 60).model_copy(
            update={"sections": [SectionMark(height=0, section=Rectangle(depth_ratio=1, corner=0.1))]}
        )
        for body, panel, words, place in (
            (cylinder(30, 60), SealPanel(width=70, height=80), "only .* mm across", "panels.0.width"),
            (cylinder(30, 60), SealPanel(width=9, height=800), "longer than", "panels.0.height"),
            (cylinder(30, 60), SealPanel(width=9, height=20, shift=11), "shift it less", "panels.0.shift"),
            (square, SealPanel(width=9, height=90), "not round", "panels.0.height"),
        ):
            with self.subTest(words), self.assertRaisesRegex(PackError, words) as raised:
                wearing(body, panel)
            self.assertEqual(raised.exception.place, place)


class OnClosureTests(TestCase):
    def test_a_label_around_a_cap_goes_along_with_it(self) -> None:
        pack = labelled(bottle(), WrapPanel(part="closure", from_base=4, width=50, height=9), capped=True)
        sheet = shape_vessel(pack).sheets[0]
        shut = shape_vessel(pack).built
        assert shut is not None
        radii = np.hypot(*sheet.face.positions[:, :2].T)
        np.testing.assert_allclose(radii, shut.radius + 0.17, atol=0.02)
        closure = pack.vessel.closure
        assert isinstance(closure, Cap)
        vessel = pack.vessel.model_copy(update={"closure": closure.model_copy(update={"lift": 30.0})})
        lifted = shape_vessel(pack.model_copy(update={"form": vessel}))
        faces = {p.name: p.mesh.positions for p in lifted.pieces}
        np.testing.assert_allclose(faces["label-1"], sheet.face.positions + np.array([0, 0, 30]), atol=1e-9)

    def test_a_label_picked_on_top_lies_flat_there(self) -> None:
        panel = PickedPanel(part="closure", at=(0, 0, 240), width=14, height=10)
        shape = wearing(bottle(), panel, capped=True)
        points = shape.sheets[0].face.positions
        np.testing.assert_allclose(points[:, 2], shape.height + 0.17, atol=1e-3)
        np.testing.assert_allclose(np.ptp(points, axis=0)[:2], (14, 10), atol=1e-3)
        self.assertLess(shape.sheets[0].stretch.worst, 1e-4)

    def test_unknown_parts_are_named(self) -> None:
        for panel in (
            WrapPanel(part="lid", from_base=4, width=50, height=9),
            PickedPanel(part="lid", at=(0, 0, 9), width=9, height=9),
        ):
            with self.assertRaisesRegex(
                PackError, "no “lid” to label: choose one of body, closure"
            ) as raised:
                wearing(bottle(), panel, capped=True)
            self.assertEqual(raised.exception.place, "panels.0.part")


class CutTests(TestCase):
    def test_rounded_corners_and_outlines_by_area(self) -> None:
        """Four corners of r lose (4 − π) r²; an ellipse has π a b (textbook geometry)."""
        turn = np.linspace(0, 2 * np.pi, 400, endpoint=False)
        oval = tuple((25 * np.cos(t), 15 * np.sin(t)) for t in turn)
        for panel, area in (
            (WrapPanel(from_base=20, width=60, height=40, rounding=6), 2400 - (4 - np.pi) * 36),
            (WrapPanel(from_base=20, width=60, height=40, outline=oval), np.pi * 25 * 15),
        ):
            sheet = wearing(cylinder(36), panel).sheets[0]
            self.assertAlmostEqual(area_of(sheet.face) / area, 1, delta=0.002)
            shell = whole(sheet.face, sheet.back)
            self.assertTrue(shell.is_watertight)
            self.assertAlmostEqual(shell.volume / (area * 0.12), 1, delta=0.01)
            self.assertLess(sheet.stretch.worst, 1e-3)

    def test_of_what_is_developed_the_ring_s_own_corners_are_rounded(self) -> None:
        panel = WrapPanel(from_base=10, width=90, height=50, developed=True, rounding=5)
        sheet = wearing(cone(40, 30, 100), panel).sheets[0]
        cut = sheet.cut
        assert cut is not None
        self.assertAlmostEqual(cut.area / (90 * 50 - (4 - np.pi) * 25), 1, delta=0.005)
        self.assertAlmostEqual(area_of(sheet.face) / cut.area, 1, delta=0.002)

    def test_outlines_that_cannot_be(self) -> None:
        bow = ((-9, -9), (9, 9), (9, -9), (-9, 9))
        large = ((-40, -9), (40, -9), (0, 9))
        for change, words, place in (
            ({"outline": bow}, "crosses itself", "panels.0.outline"),
            ({"outline": large}, "goes beyond its size", "panels.0.outline"),
            ({"rounding": 30.0}, "leave nothing", "panels.0.rounding"),
        ):
            panel = WrapPanel(from_base=20, width=60, height=40).model_copy(update=change)
            with self.subTest(words), self.assertRaisesRegex(PackError, words) as raised:
                wearing(cylinder(36), panel)
            self.assertEqual(raised.exception.place, place)

    def test_a_rectangle_is_not_cut(self) -> None:
        self.assertIsNone(cut_of(WrapPanel(from_base=0, width=10, height=10)))


class OverEachOtherTests(TestCase):
    def test_a_seal_lies_over_the_label_that_it_reaches(self) -> None:
        label = WrapPanel(from_base=20, width=90, height=30)
        short, long = SealPanel(width=16, height=70), SealPanel(width=16, height=100)
        for seal, gap in ((short, 0.05), (long, 0.22)):
            sheets = wearing(cylinder(30, 60), label, seal).sheets
            self.assertAlmostEqual(sheets[1].gap, gap)


class EveryPackTests(TestCase):
    def test_every_kind_begins_on_every_pack_that_has_a_place_for_it(self) -> None:
        refused = set()
        for point in starting_vessels():
            bare = point.pack.model_copy(update={"panels": []})
            shape = shape_vessel(bare, coarse=True)
            for kind in KINDS:
                with self.subTest(pack=point.slug, kind=kind):
                    try:
                        panel = starting_panel(Turned(shape.formed, shape.built), kind)
                        pack = bare.model_copy(update={"panels": [panel]})
                        laid = shape_vessel(pack, coarse=True)
                    except PackError as error:
                        refused |= set(re.findall("no closure to label|the pack is not round", error.message))
                        continue
                    self.assertGreater(area_of(laid.sheets[0].face), 5)
                    if kind in {"around", "closure", "top"} and "tube" not in point.slug:
                        self.assertFalse([c for c in pack_facts(laid).cautions if "crease" in c])
        self.assertEqual(refused, {"no closure to label", "the pack is not round"})


class TubeTests(TestCase):
    def test_where_a_section_changes_rows_keep_their_own_middle(self) -> None:
        """From a circle to an ellipse: each row is printed by its own share of the way around."""
        body = cylinder(30, 120).model_copy(
            update={
                "sections": [
                    SectionMark(height=10, section=Oval(depth_ratio=0.3)),
                    SectionMark(height=110, section=Round()),
                ]
            }
        )
        pack = Pack(form=Vessel(body=body), panels=[WrapPanel(from_base=15, width=80, height=90)])
        sheet = shape_vessel(pack).sheets[0]
        grid = sheet.face.positions.reshape(-1, len(sheet.path.points), 3)  # type: ignore[attr-defined]
        share = sheet.across  # type: ignore[attr-defined]
        steps = np.linalg.norm(np.diff(grid, axis=0), axis=-1)
        spread = steps / steps.sum(axis=0) / np.diff(share)[:, None]
        self.assertLess(np.abs(spread[:, ::5] - 1).max(), 0.03)
