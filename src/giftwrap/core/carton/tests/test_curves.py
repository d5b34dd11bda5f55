"""Curved creases: the tube that a drawn blank is bent to, and drawings that no tube has."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase

import numpy as np
from pydantic import ValidationError
from shapely import LineString

from giftwrap.core.carton.bending import Bent
from giftwrap.core.carton.blank import Blank
from giftwrap.core.carton.curves import bending_of, proposed, settled, upright
from giftwrap.core.carton.linework import FoundBlank, blank_from_lines
from giftwrap.core.carton.own import own_carton
from giftwrap.core.carton.shape import fold_carton
from giftwrap.core.carton.styles import components_of
from giftwrap.core.errors import PackError
from giftwrap.core.model.carton import Board, Carton

PILLOW = Carton(style="pillow", length=90, width=110, depth=30, board=Board(caliper=0.4))
WIDE, TALL = 80.0, 100.0
Line = list[tuple[float, float]]


def arc(start: float, level: float, dip: float) -> Line:
    """A circle's arc over a panel's width, dipping by so many mm in its middle."""
    radius = (WIDE * WIDE / 4 + dip * dip) / (2 * abs(dip))
    half = np.arcsin(WIDE / 2 / radius)
    lean = np.linspace(-half, half, 41)
    bulge = np.sign(dip) * radius * (np.cos(lean) - np.cos(half))
    return [(start + WIDE / 2 + radius * np.sin(a), level - b) for a, b in zip(lean, bulge, strict=True)]


def drawn(
    dip: float = 12.0, turned: float = 0.0, fold: float | None = None, curve: Line | None = None
) -> FoundBlank:
    """A pillow as somebody draws it who takes arcs of circles: two panels and four flaps, no glue flap."""
    cuts, creases, names = [], [[(WIDE, 0.0), (WIDE, TALL)]], []
    if fold is not None:
        names.append((f"{fold:g}°", (WIDE, TALL / 2)))
    past = 30.0 if curve else 0.0
    cuts += [[(x, -past), (x, TALL + past)] for x in (0.0, 2 * WIDE)]
    if curve:
        cuts += [[(WIDE, -past), (WIDE, 0.0)], [(WIDE, TALL), (WIDE, TALL + past)]]
    for name, start in (("one", 0.0), ("two", WIDE)):
        names.append((name, (start + WIDE / 2, TALL / 2)))
        for level, way in ((TALL, 1), (0.0, -1)):
            inner = curve or arc(start, level, way * dip)
            if curve:
                inner = [(start + x, level - way * y) for x, y in curve]
            creases.append(inner)
            out = [(start, level + way * past), (start + WIDE, level + way * past)]
            cuts.append(out if curve else arc(start, level, -way * 0.8 * dip))
    c, s = np.cos(np.radians(turned)), np.sin(np.radians(turned))

    def lines(found: list[Line]) -> list[LineString]:
        return [LineString([(c * x - s * y, s * x + c * y) for x, y in line]) for line in found]

    places = [(word, (c * x - s * y, s * x + c * y)) for word, (x, y) in names]
    return blank_from_lines(lines(cuts), lines(creases), names=places)


def tube_of(blank: Blank) -> Bent:
    bending = bending_of(blank)
    assert bending is not None
    return Bent(blank, {crease.name: crease.angle for crease in blank.creases}, 0.4, bending)


class BendingTests(TestCase):
    def test_a_pillows_lines_say_how_it_is_bent(self) -> None:
        made = components_of(PILLOW)[0][0]
        found = bending_of(made.blank)
        assert found is not None and made.bending is not None
        self.assertAlmostEqual(found.held, made.bending.held)
        for one, other in zip(found.bends, made.bending.bends, strict=True):
            np.testing.assert_allclose(
                (one.start, one.end, one.crease), (other.start, other.end, other.crease), atol=1e-6
            )
            # the glue flap's radius is the tube's less what lies between, which is no whole circle's
            self.assertAlmostEqual(one.turn, other.turn, delta=1e-5 if one.start >= 0 else 0.02)
        ends = {end.panel: end for end in made.bending.ends}
        self.assertEqual({end.panel for end in found.ends}, set(ends))
        for end in found.ends:
            other = ends[end.panel]
            self.assertEqual((end.of, end.way), (other.of, other.way))
            np.testing.assert_allclose((end.level, *end.chord), (other.level, *other.chord), atol=1e-5)

    def test_straight_creases_bend_nothing(self) -> None:
        straight = components_of(Carton(style="sleeve", length=60, width=40, depth=70))[0][0].blank
        self.assertIsNone(bending_of(straight))
        self.assertIs(upright(straight), straight)

    def test_arcs_are_taken_for_the_curve_beside_them_and_said(self) -> None:
        found = drawn()
        self.assertRegex(found.notes[-1], r"Curved creases were moved by up to 0\.\d\d mm")
        self.assertEqual({"one", "two"} - set(found.blank.by_name), set())
        again, off = settled(found.blank, bending_of(found.blank))
        self.assertLess(off, 1e-3)
        self.assertAlmostEqual(again.area, found.blank.area, places=2)

    def test_nothing_is_stretched_and_panels_meet_at_their_creases(self) -> None:
        blank = drawn().blank
        tube = tube_of(blank)
        rng = np.random.default_rng(2)
        for crease in blank.creases:
            if crease.curve:
                one, other = (
                    tube.mapped(name, np.array(crease.curve))[0] for name in (crease.parent, crease.child)
                )
                np.testing.assert_allclose(one, other, atol=1e-6)
        for wall in ("one", "two"):
            left, foot, right, top = blank.by_name[wall].outline.buffer(-3).bounds
            at = rng.uniform((left, foot + 12), (right, top - 12), (300, 2))
            for way in ((1e-3, 0.0), (0.0, 1e-3)):
                apart = np.linalg.norm(tube.mapped(wall, at + way)[0] - tube.mapped(wall, at)[0], axis=1)
                np.testing.assert_allclose(apart, 1e-3, rtol=1e-6)

    def test_unless_said_otherwise_it_is_folded_until_it_closes(self) -> None:
        """Two arcs that turn by 2a each meet at both seams where they are folded by 180° - 2a."""
        tube = tube_of(drawn().blank)
        ends = [
            tube.mapped(name, np.array([[x, TALL / 2]]))[0] for name, x in (("one", 0.0), ("two", 2 * WIDE))
        ]
        np.testing.assert_allclose(*ends, atol=1e-3)
        self.assertIn(120.0, [crease.angle for crease in drawn(fold=120.0).blank.creases])

    def test_however_it_lies_on_its_sheet(self) -> None:
        straight = own_carton(drawn().blank, Board(caliper=0.4))
        for turned in (90.0, 33.0, 180.0):
            other = own_carton(drawn(turned=turned).blank, Board(caliper=0.4))
            with self.subTest(turned):
                np.testing.assert_allclose(
                    sorted((other.length, other.width, other.depth)),
                    sorted((straight.length, straight.width, straight.depth)),
                    atol=0.11,
                )

    def test_flaps_come_after_the_tube_the_inner_ones_first(self) -> None:
        made = components_of(PILLOW)[0][0].blank
        loose = replace(made, creases=tuple(replace(k, step=0) for k in made.creases))
        steps = {crease.child: crease.step for crease in proposed(loose).creases}
        self.assertEqual([steps[f"{end} flap front"] for end in ("top", "bottom")], [1, 1])
        self.assertEqual([steps[f"{end} flap back"] for end in ("top", "bottom")], [2, 2])

    def test_kept_in_the_document_it_opens_shuts_and_is_the_same_again(self) -> None:
        carton = own_carton(drawn().blank, Board(caliper=0.4))
        again = Carton.model_validate_json(carton.model_dump_json())
        self.assertEqual(again, carton)
        for closed in (0.0, 0.4, 1.0):
            shape = fold_carton(carton.model_copy(update={"closed": closed}))
            folded = shape.components[0].folded
            self.assertIsInstance(folded, Bent)
            self.assertTrue(np.isfinite(folded.faces.outside.positions).all())
        bulge = 2 * 12 + 2 * 0.4
        self.assertAlmostEqual(min(carton.length, carton.width, carton.depth), bulge, delta=1.5)


class RefusedTests(TestCase):
    def test_curves_that_no_tube_has(self) -> None:
        wave = [
            (float(x), 6.0 * np.sin(np.pi * x / WIDE) + 4 * np.sin(3 * np.pi * x / WIDE)) for x in range(81)
        ]
        outwards = [(x, -12.0 * np.sin(np.pi * x / WIDE)) for x in np.linspace(0, WIDE, 41)]
        for curve in (wave, outwards):
            with self.assertRaisesRegex(PackError, r"lies \d+\.\d mm beside the nearest .* 1 mm is the most"):
                drawn(curve=curve)

    def test_a_fold_across_a_bent_panel(self) -> None:
        outline = LineString([(0, 0), (2 * WIDE, 0), (2 * WIDE, 40), (0, 40), (0, 0)])
        lid = arc(0.0, 40.0, 10.0)
        with self.assertRaisesRegex(PackError, "cannot be folded across them"):
            blank_from_lines(
                [outline, LineString([(WIDE, 40), (WIDE, 20)])],
                [LineString(lid), LineString([(WIDE, 0), (WIDE, 20)]), LineString([(0, 15), (WIDE, 15)])],
            )

    def test_what_hangs_on_what_is_pressed_in(self) -> None:
        made = components_of(PILLOW)[0][0].blank
        flap = made.by_name["top flap front"]
        left, _, right, top = flap.outline.bounds
        wrong = [replace(k, parent="top flap front") if k.child == "glue flap" else k for k in made.creases]
        with self.assertRaisesRegex(PackError, "glue flap hangs on the top flap front, which is pressed in"):
            bending_of(replace(made, creases=tuple(wrong)))
        self.assertGreater(right - left, top - flap.outline.centroid.y)

    def test_nothing_to_fold_it_by(self) -> None:
        with self.assertRaisesRegex(PackError, "needs a straight one to be folded by"):
            drawn(fold=0.0)

    def test_only_by_right_angles(self) -> None:
        data = own_carton(drawn().blank, Board(caliper=0.4)).model_dump(mode="json")
        curved = next(k for k in data["own"]["creases"] if k["curve"])
        curved["angle"] = 30.0
        with self.assertRaisesRegex(ValidationError, "pressed in by 90°"):
            Carton.model_validate(data)
