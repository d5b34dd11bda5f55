"""Embossing as shape: heights in mm, and shadows as long as the light's elevation makes them."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.model import Frame, Opaque, Pack, Placement, Printed, WrapPanel
from giftwrap.core.model.run import Embossed, Ink
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.scene.relief import pressed
from giftwrap.core.tests.samples import cylinder, labelled, placed, portrait, three_lights
from giftwrap.core.wrap.press import PrintedSheet
from giftwrap.core.wrap.printing import compose

SQUARE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
    b'<rect x="20" y="10" width="20" height="20"/></svg>'
)
RUN = {"areas": {"Emboss": "shape"}, "printed": False}


def setUpModule() -> None:
    start_reading(EVERYTHING)


def embossed(mm: float, **more: object) -> tuple[Printed, dict[str, bytes]]:
    """A sheet of 60 × 40 mm with a square of 20 mm in its middle."""
    placement, files = placed(SQUARE, width=60)
    placement = Placement(**{**placement.model_dump(), **RUN})
    run = [Ink(), Embossed(height=mm, flank=0.2)]
    return Printed(width=60, height=40, placements=[placement], run=run, **more), files  # type: ignore[arg-type]


def sheet(mm: float, **more: object) -> PrintedSheet:
    panel, files = embossed(mm, **more)
    return compose(panel, files, ppi=508)


FLAT = Mesh(
    np.array([[0, 0, 0], [60, 0, 0], [60, 40, 0], [0, 40, 0]], dtype=float),
    np.tile([0.0, 0.0, 1.0], (4, 1)),
    np.array([[0, 0], [1, 0], [1, 1], [0, 1]], dtype=float),
    np.array([[0, 1, 2], [0, 2, 3]]),
)


class ReliefTests(TestCase):
    def height(self, mesh: Mesh, x: float, y: float) -> float:
        solid = trimesh.Trimesh(mesh.positions, mesh.faces, process=False)
        hits, _, _ = solid.ray.intersects_location([[x, y, 50.0]], [[0.0, 0.0, -1.0]])
        return float(hits[:, 2].max())

    def test_it_stands_out_by_its_height(self) -> None:
        for mm in (1.0, 0.25, -0.3):
            mesh = pressed(FLAT, sheet(mm), 1.0)
            self.assertAlmostEqual(self.height(mesh, 30.1, 20.1), mm, delta=0.01)
            for place in ((5, 5), (17, 20), (30, 33)):
                self.assertAlmostEqual(self.height(mesh, *place), 0.0, delta=0.005)

    def test_stock_is_pressed_in_no_further_than_it_is_thick(self) -> None:
        mesh = pressed(FLAT, sheet(-1.0), 0.1)
        self.assertAlmostEqual(float(mesh.positions[:, 2].min()), -0.1, places=6)

    def test_its_shadow_is_as_long_as_the_light_is_low(self) -> None:
        """At an elevation of e a step of h keeps light off h / tan e of what lies behind it (textbook), less
        the flank and a cell, over which it rises."""
        mesh = pressed(FLAT, sheet(1.0), 1.0)
        solid = trimesh.Trimesh(mesh.positions, mesh.faces, process=False)
        for elevation in (30.0, 45.0):
            c, s = np.cos(np.radians(elevation)), np.sin(np.radians(elevation))
            from_left = np.array([-c, 0.0, s])
            x = np.arange(40.2, 44.0, 0.05)
            places = np.stack([x, np.full_like(x, 20.0), np.full_like(x, 0.02)], axis=1)
            lit = ~solid.ray.intersects_any(places, np.tile(from_left, (len(x), 1)))
            edge = x[np.flatnonzero(lit)[0]]
            self.assertAlmostEqual(edge - 39.8, 1.0 / np.tan(np.radians(elevation)), delta=0.12)

    def test_what_is_fine_or_flat_stays_as_it_is_drawn(self) -> None:
        self.assertIs(pressed(FLAT, sheet(0.04), 1.0), FLAT)
        tooth, files = embossed(0.3, tooth="felt")
        plain = tooth.model_copy(update={"run": []})
        self.assertIs(pressed(FLAT, compose(plain, files, ppi=508), 1.0), FLAT)

    def test_only_what_is_embossed_is_drawn_finely(self) -> None:
        mesh = pressed(FLAT, sheet(0.5), 1.0)
        self.assertLess(len(mesh.faces), 120_000)
        middles = mesh.positions[mesh.faces].mean(axis=1)
        far = (np.abs(middles[:, 0] - 30) > 15) & (np.abs(middles[:, 1] - 20) > 15)
        self.assertLess(far.sum(), 0.1 * len(mesh.faces))

    def test_finals_have_it_and_proofs_lean_only(self) -> None:
        panel, files = embossed(0.5)
        label = WrapPanel(**{**panel.model_dump(), "from_base": 40, "stock": Opaque()})
        pack: Pack = labelled(cylinder(36, 150), label)
        frame = Frame(packs={"pack": pack}, photo_set=three_lights(), shot=portrait())
        counts = []
        for quick in (False, True):
            scene = compile_scene(frame, files, print_ppi=300, quick=quick)
            counts.append(sum(len(mesh.faces) for mesh in scene.instances[1].meshes))
        self.assertGreater(counts[0], counts[1] + 20_000)
