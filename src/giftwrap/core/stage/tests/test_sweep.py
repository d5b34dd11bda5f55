"""The sweep: one sheet or two, of paper or of anything."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giftwrap.core.materials.optics import OpticsKind
from giftwrap.core.model import ColourBehind, Metal, Opaque, PhotoSet, Sweep
from giftwrap.core.model.photo_set import OtherPart
from giftwrap.core.model.worked import Grain, Pictures
from giftwrap.core.scene.compile import SWEEP, backdrop_of
from giftwrap.core.stage.fitting import fitted_set
from giftwrap.core.stage.starting import starting_set
from giftwrap.core.stage.sweep import FLOOR_GAP, sweep_meshes
from giftwrap.core.things.thing import Extent

PLAIN = Sweep()


def area(mesh: object) -> float:
    corners = mesh.positions[mesh.faces]
    return float(np.linalg.norm(np.cross(*(corners[:, i] - corners[:, 0] for i in (1, 2))), axis=1).sum() / 2)


class SheetTests(TestCase):
    def test_two_parts_are_the_whole_sheet(self) -> None:
        (whole,) = sweep_meshes(PLAIN)
        for way, at in (("up", 0.0), ("up", 120.0), ("up", 1500.0), ("across", 0.0), ("across", -700.0)):
            with self.subTest((way, at)):
                parts = sweep_meshes(PLAIN.model_copy(update={"other": OtherPart(way=way, at=at)}))
                self.assertAlmostEqual(sum(map(area, parts)) / area(whole), 1, places=4)
                axis = 2 if way == "up" else 0
                self.assertLessEqual(parts[0].positions[:, axis].max(), at + 1e-6)
                self.assertGreaterEqual(parts[1].positions[:, axis].min(), at - 1e-6)
                normals = np.vstack([part.normals for part in parts])
                np.testing.assert_allclose(np.linalg.norm(normals, axis=1), 1, atol=1e-6)

    def test_a_part_that_begins_beyond_the_sheet_is_none(self) -> None:
        for other in (OtherPart(way="up", at=2200.0), OtherPart(way="across", at=2500.0)):
            self.assertEqual(len(sweep_meshes(PLAIN.model_copy(update={"other": other}))), 1)
        below = sweep_meshes(PLAIN.model_copy(update={"other": OtherPart(way="up", at=-50.0)}))
        self.assertAlmostEqual(float(below[0].positions[:, 2].max()), 0, places=6)
        self.assertAlmostEqual(float(below[0].positions[:, 2].min()), -FLOOR_GAP, places=6)

    def test_its_lengths_grow_with_what_stands_and_nothing_else_of_it(self) -> None:
        steel = Metal(metal="chrome", gloss=1.0)
        start = starting_set()
        sweep = start.sweep.model_copy(update={"made_of": steel, "other": OtherPart(at=100.0)})
        large = Extent((-50.0, -50.0, 0.0), (50.0, 50.0, 330.0))
        fitted = fitted_set(start.model_copy(update={"sweep": sweep}), large).sweep
        ratio = fitted.width / start.sweep.width
        self.assertGreater(ratio, 1.2)
        self.assertAlmostEqual(fitted.other.at / 100, ratio, places=5)
        self.assertEqual((fitted.made_of, fitted.other.made_of), (steel, sweep.other.made_of))


class BackdropTests(TestCase):
    def backdrop(self, **more: object) -> object:
        return backdrop_of(PhotoSet(lights=[], **more), {}, {})

    def test_it_is_paper_unless_it_is_made_of_something(self) -> None:
        (paper,) = self.backdrop().surfaces
        self.assertEqual((paper.part, paper.optics.kind), (SWEEP, OpticsKind.COAT))
        sweep = Sweep(made_of=Metal(metal="chrome", gloss=1.0), other=OtherPart(at=10.0))
        mirror, wall = self.backdrop(sweep=sweep).surfaces
        self.assertEqual(mirror.optics.kind, OpticsKind.METAL)
        self.assertEqual(wall.optics.kind, OpticsKind.COAT)

    def test_apart_from_what_is_behind_it_is_its_floor(self) -> None:
        for shadow in (True, False):
            backdrop = self.backdrop(behind=ColourBehind(shadow=shadow), sweep=Sweep(other=OtherPart()))
            ((mesh,), (surface,)) = backdrop.meshes, backdrop.surfaces
            self.assertEqual((surface.catcher, surface.hidden_from_camera), (shadow, not shadow))
            self.assertAlmostEqual(float(np.ptp(mesh.positions[:, 2])), 0)
            self.assertGreater(mesh.normals[:, 2].min(), 0.99)

    def test_pictures_of_its_material_are_used(self) -> None:
        grain = Grain(lies="over", pattern=Pictures(colour="a" * 64))
        sweep = Sweep(made_of=Opaque(grain=grain))
        uses = PhotoSet(lights=[], sweep=sweep).picture_uses()
        self.assertEqual([use.sha256 for use in uses], ["a" * 64])
