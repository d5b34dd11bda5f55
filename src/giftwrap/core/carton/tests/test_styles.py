"""Cartons of every style: what they enclose, that nothing passes through anything, and their blanks."""

from __future__ import annotations

from itertools import combinations
from unittest import TestCase

import numpy as np
import trimesh
from manifold3d import Manifold

from giftwrap.core.carton.allowances import ALLOWANCES, GAP
from giftwrap.core.carton.folding import Folded
from giftwrap.core.carton.shape import CartonShape, fold_carton
from giftwrap.core.carton.styles import STYLES
from giftwrap.core.errors import PackError
from giftwrap.core.form.tests.solids import out_of_order
from giftwrap.core.mesh.mesh import together
from giftwrap.core.model.carton import Board, Carton

SIZES = (
    (60.0, 40.0, 110.0, 0.45),
    (85.0, 85.0, 30.0, 0.6),
    (210.0, 150.0, 90.0, 1.5),
    (30.0, 22.0, 70.0, 0.3),
)
HEAVY = ((300.0, 220.0, 180.0, 3.0), (150.0, 200.0, 90.0, 4.0))
FLAT = ((90.0, 120.0, 30.0, 0.4), (60.0, 40.0, 12.0, 0.3), (210.0, 150.0, 90.0, 1.5))
"""Of pillows."""


def cartons() -> list[Carton]:
    """Every style at several sizes; cases of corrugated board too."""
    found = []
    for style in STYLES:
        sizes = FLAT if style == "pillow" else SIZES + (HEAVY if style == "slotted-case" else ())
        for length, width, depth, caliper in sizes:
            board = Board(caliper=caliper)
            found.append(Carton(style=style, length=length, width=width, depth=depth, board=board))
    return found


def solids_of(shape: CartonShape) -> dict[str, Manifold]:
    """Every panel of a carton where it is, as a solid of the boolean kernel."""
    return {
        f"{one.component.name}: {name}": solid.transform(one.pose[:3])
        for one in shape.components
        for name, solid in one.folded.solids().items()
    }


def inside_of(shape: CartonShape, larger: float = 0.0) -> Manifold:
    """The box that a closed carton says it encloses, each of its sides moved out by so many mm."""
    carton, t = shape.carton, shape.carton.board.caliper
    size = np.array([carton.length, carton.width, carton.depth])
    lowest = min(solid.bounding_box()[2] for solid in solids_of(shape).values())
    floors = dict.fromkeys(("tray", "lid-and-base", "shoulder", "mailer"), t)
    floors |= {"sleeve": 0.0, "drawer": 2 * t + shape.allowances.get("lid larger", 0.0)}
    floor = floors.get(carton.style, 2 * t + GAP)
    low = np.array([-size[0] / 2, -size[1] / 2, lowest + floor])
    return Manifold.cube(size + 2 * larger).translate(low - larger)


class ClosedTests(TestCase):
    def test_nothing_passes_through_anything(self) -> None:
        """Every pair of panels, by manifold3d. Bent board meets in facets, which may share a little."""
        for carton in cartons():
            solids = solids_of(fold_carton(carton))
            for (one, first), (other, second) in combinations(solids.items(), 2):
                facets = 1e-4 * min(first.volume(), second.volume()) if carton.style == "pillow" else 0.0
                with self.subTest(carton.style, caliper=carton.board.caliper, one=one, other=other):
                    self.assertLess((first ^ second).volume(), 1e-3 + facets)

    def test_the_check_sees_board_that_is_too_thick(self) -> None:
        shape = fold_carton(cartons()[0])
        folded = shape.components[0].folded
        thick = Folded(folded.blank, folded.angles, 3 * folded.caliper).solids()
        met = [(a, b) for a, b in combinations(thick, 2) if (thick[a] ^ thick[b]).volume() > 1]
        self.assertIn(("front", "top tuck"), [tuple(sorted(pair)) for pair in met])

    def test_they_enclose_what_is_stated_and_no_more(self) -> None:
        """A box of the inside's size fits, but for tucks and hooks, which reach into it; one a tenth of a
        millimetre larger on every side meets all that is around it."""
        for carton in cartons():
            if carton.style == "pillow":
                continue
            shape = fold_carton(carton)
            reaching = ("tuck", "hook")
            solids = {
                name: solid
                for name, solid in solids_of(shape).items()
                if not any(w in name for w in reaching)
            }
            exact, larger = inside_of(shape), inside_of(shape, 0.1)
            with self.subTest(carton.style, caliper=carton.board.caliper):
                for name, solid in solids.items():
                    self.assertLess((exact ^ solid).volume(), 1e-3, name)
                touched = {
                    name.split(": ")[1] for name, solid in solids.items() if (larger ^ solid).volume() > 0.1
                }
                around = {"front", "back", "right", "glue flap"}
                if carton.style in ("tray", "lid-and-base", "drawer", "book"):
                    around = {"floor", "left", "right"}
                if carton.style == "mailer":
                    around = {"floor", "inner left", "inner right", "front", "back"}
                self.assertLessEqual(around, touched)

    def test_panels_meet_at_right_angles(self) -> None:
        for carton in cartons():
            for one in fold_carton(carton).components:
                if one.component.bending is not None:
                    continue
                for crease in one.component.blank.creases:
                    if crease.angle != 90 or crease.follows is not None:
                        continue
                    up = [one.folded.poses[name][:3, 2] for name in (crease.parent, crease.child)]
                    self.assertAlmostEqual(float(up[0] @ up[1]), 0.0, places=9)


class BlankTests(TestCase):
    def test_every_panel_hangs_on_the_first_by_creases(self) -> None:
        for carton in cartons():
            for name, blank in fold_carton(carton).blanks.items():
                with self.subTest(carton.style, blank=name):
                    tree = [crease for crease in blank.creases if not crease.closes]
                    self.assertEqual(len(tree), len(blank.panels) - 1)
                    reached = {blank.panels[0].name}
                    for _ in blank.panels:
                        reached |= {c.child for c in tree if c.parent in reached}
                    self.assertEqual(reached, set(blank.by_name))

    def test_its_area_is_that_of_its_panels_and_creases_lie_at_their_edges(self) -> None:
        """By shapely."""
        for carton in cartons():
            for blank in fold_carton(carton).blanks.values():
                whole = sum(panel.outline.area for panel in blank.panels)
                self.assertAlmostEqual(blank.area / whole, 1, places=6)
                for crease in blank.creases:
                    for name in (crease.parent, crease.child):
                        self.assertLess(
                            crease.line.hausdorff_distance(
                                blank.by_name[name].outline.exterior.intersection(crease.line.buffer(1e-4))
                            ),
                            1e-3,
                        )

    def test_a_slotted_case_against_the_rules_of_type_0201(self) -> None:
        """The fibreboard case code's regular slotted case (from memory): four panels of the inside plus
        the board's caliper in turn, all flaps of half the shorter side, the outer ones meeting."""
        carton = Carton(style="slotted-case", length=300, width=200, depth=150, board=Board(caliper=4))
        blank = fold_carton(carton).blanks["case"]
        widths = {
            p.name: p.outline.bounds[2] - p.outline.bounds[0] for p in blank.panels if p.role == "panel"
        }
        for name, plain in (("front", 300), ("right", 200), ("back", 300), ("left", 200)):
            self.assertGreaterEqual(widths[name], plain)
            self.assertLessEqual(widths[name], plain + 2 * 4 + 0.1)
        flaps = [p.outline.bounds[3] - p.outline.bounds[1] for p in blank.panels if p.role == "flap"]
        self.assertEqual(len(flaps), 8)
        np.testing.assert_allclose(flaps, (200 + 4) / 2 - 0.5)
        around = sum(widths.values())
        self.assertAlmostEqual(around, 2 * (300 + 200) + 4 * 4, delta=4)

    def test_a_tuck_carton_has_the_folding_carton_codes_layout(self) -> None:
        """Four panels side by side with the glue flap at the end, lids on panels of the length, dust flaps
        on those of the width (the folding-carton code's A group, from memory); a reverse tuck has its lids
        on different panels, a straight one on the same."""
        for style, same in (("straight-tuck", True), ("reverse-tuck", False)):
            blank = fold_carton(Carton(style=style, length=60, width=40, depth=110)).blanks["carton"]
            hangs = {crease.child: crease.parent for crease in blank.creases}
            self.assertEqual(hangs["top lid"] == hangs["bottom lid"], same)
            self.assertLessEqual({hangs["top lid"], hangs["bottom lid"]}, {"front", "back"})
            for end in ("top", "bottom"):
                self.assertEqual(
                    {hangs[f"{end} dust flap {s}"] for s in ("left", "right")}, {"left", "right"}
                )


class FoldingTests(TestCase):
    def test_flat_it_is_its_blank(self) -> None:
        """The outside of a flat carton has the blank's area, and lies on the table."""
        for style in STYLES:
            depth = 20 if style == "pillow" else 60
            shape = fold_carton(Carton(style=style, length=60, width=40, depth=depth, closed=0.0))
            for one in shape.components:
                a, b, c = (one.faces.outside.positions[one.faces.outside.faces[:, k]] for k in range(3))
                area = np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2
                places = 4 if style == "pillow" else 5  # its creases are curves, drawn in steps
                self.assertAlmostEqual(area / one.component.blank.area, 1, places=places)
                points = one.faces.outside.positions @ one.pose[:3, :3].T + one.pose[:3, 3]
                self.assertLess(float(np.ptp(points[:, 2])), 0.1)

    def test_board_keeps_its_volume_and_has_no_cracks(self) -> None:
        """Rays enter and leave in turns, and all surfaces together hold the blank's area times its caliper
        but for what creases press."""
        for closed in (0.0, 0.1, 0.2, 0.9, 1.0):
            shape = fold_carton(Carton(style="reverse-tuck", length=60, width=40, depth=110, closed=closed))
            one = shape.components[0]
            mesh = together(one.faces.outside, one.faces.inside, one.faces.edge)
            self.assertLess(out_of_order(mesh), 5e-3)  # at 0.45 mm some rays graze
            solid = trimesh.Trimesh(mesh.positions, mesh.faces, process=False)
            volume = one.component.blank.area * shape.carton.board.caliper
            self.assertAlmostEqual(solid.volume / volume, 1, delta=0.002)
            kernel = sum(piece.volume() for piece in one.folded.solids().values())
            self.assertAlmostEqual(kernel / volume, 1, delta=0.003)  # arcs without their swelling

    def test_springs_open_only_where_nothing_is_glued(self) -> None:
        shut = Carton(style="straight-tuck", length=60, width=40, depth=110)
        sprung = fold_carton(shut.model_copy(update={"spring": 4.0})).components[0].folded.angles
        self.assertAlmostEqual(sprung["top lid"], 86)
        self.assertAlmostEqual(sprung["right"], 90)

    def test_a_flap_by_hand(self) -> None:
        carton = Carton(style="reverse-tuck", length=60, width=40, depth=110, flaps={"top lid": 20.0})
        angles = fold_carton(carton).components[0].folded.angles
        self.assertEqual((angles["top lid"], angles["bottom lid"]), (20.0, 90.0))

    def test_a_lid_comes_from_beside_its_base(self) -> None:
        for closed, beside in ((0.7, True), (1.0, False)):
            shape = fold_carton(Carton(style="lid-and-base", length=90, width=70, depth=40, closed=closed))
            base, lid = (
                solid.bounding_box()
                for solid in (
                    Manifold.compose([s for n, s in solids_of(shape).items() if n.startswith(f"{name}:")])
                    for name in ("base", "lid")
                )
            )
            self.assertEqual(lid[0] > base[3], beside)


class RefusalTests(TestCase):
    def test_board_too_thick_to_fold(self) -> None:
        with self.assertRaisesRegex(PackError, "Board of 3 mm cannot be folded to 12 mm") as caught:
            fold_carton(Carton(style="tray", length=12, width=40, depth=30, board=Board(caliper=3)))
        self.assertEqual(caught.exception.place, "length")

    def test_allowances_that_leave_no_room(self) -> None:
        for name, value in (("dust flap", 40.0), ("glue flap", 0.4), ("tuck", 0.2)):
            carton = Carton(style="reverse-tuck", length=60, width=40, depth=110, allowances={name: value})
            with self.assertRaisesRegex(PackError, "cannot be folded here: from") as caught:
                fold_carton(carton)
            self.assertEqual(caught.exception.place, f"allowances.{name}")

    def test_every_size_is_folded_or_refused_with_its_field(self) -> None:
        """Seeded: sizes, calipers and allowances as wild as documents may say."""
        rng = np.random.default_rng(3)
        sides, calipers = np.log([5, 2000]), np.log([0.1, 12])
        refused = 0
        for _ in range(400):
            length, width, depth = (float(v) for v in np.exp(rng.uniform(*sides, 3)))
            wild = {str(name): float(rng.uniform(-20, 60)) for name in rng.choice(list(ALLOWANCES), 2)}
            carton = Carton(
                style=str(rng.choice(list(STYLES))),
                length=length,
                width=width,
                depth=depth,
                board=Board(caliper=float(np.exp(rng.uniform(*calipers)))),
                allowances=wild if rng.random() < 0.4 else {},
                closed=float(rng.random()),
            )
            try:
                _ = [one.faces for one in fold_carton(carton).components]
            except PackError as error:
                refused += 1
                self.assertTrue(error.place, error)
        self.assertLess(refused, 320)

    def test_every_allowance_is_used_by_some_style(self) -> None:
        used: set[str] = set()
        for carton in cartons():
            used |= set(fold_carton(carton).allowances)
        self.assertEqual(used, set(ALLOWANCES) - {"insert smaller", "turn-in"})
