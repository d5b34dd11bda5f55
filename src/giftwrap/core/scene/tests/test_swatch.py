"""The chip that materials are shown on: closed, as large as it is said to be, on a striped card."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
import trimesh
from scipy.integrate import quad

from giftwrap.core.materials.optics import OpticsKind
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque
from giftwrap.core.scene.swatch import (
    CARD,
    CORNER,
    EDGE,
    HALF,
    LENS_HIGH,
    LENS_RADIUS,
    THICK,
    chip_mesh,
    swatch_scene,
)


class ChipTests(TestCase):
    def solid(self) -> trimesh.Trimesh:
        mesh = chip_mesh()
        return trimesh.Trimesh(mesh.positions, mesh.faces, process=True, merge_norm=True, merge_tex=True)

    def test_it_is_closed_and_holds_what_its_sizes_say(self) -> None:
        """A plate whose outline draws in by the round of its edge, and the cap of a sphere (closed forms)."""

        def area(height: float) -> float:
            level = min(height, THICK - height, EDGE)
            inset = EDGE - np.sqrt(EDGE**2 - (EDGE - level) ** 2)
            across, deep, corner = HALF[0] - inset, HALF[1] - inset, CORNER - inset
            return 4 * across * deep - (4 - np.pi) * corner**2

        plate, _ = quad(area, 0, THICK)
        cap = np.pi * LENS_HIGH * (3 * LENS_RADIUS**2 + LENS_HIGH**2) / 6
        solid = self.solid()
        self.assertTrue(solid.is_watertight)
        self.assertAlmostEqual(solid.volume / (plate + cap), 1.0, delta=0.003)

    def test_normals_look_out_of_it(self) -> None:
        mesh = chip_mesh()
        a, b, c = (mesh.positions[mesh.faces[:, k]] for k in range(3))
        facing = np.cross(b - a, c - a)
        own = mesh.normals[mesh.faces].sum(axis=1)
        sound = np.linalg.norm(facing, axis=1) > 1e-9
        self.assertTrue(((facing * own).sum(axis=1)[sound] > 0).all())
        np.testing.assert_allclose(np.linalg.norm(mesh.normals, axis=1), 1.0, atol=1e-9)

    def test_every_kind_of_material_is_shown_on_the_same_card(self) -> None:
        kinds = {
            OpticsKind.CLEAR: Clear(),
            OpticsKind.CLOUDY: Cloudy(),
            OpticsKind.COAT: Opaque(),
            OpticsKind.METAL: Metal(metal="gold"),
        }
        for kind, material in kinds.items():
            scene = swatch_scene(material)
            _, card, chip = scene.instances
            self.assertEqual(chip.surfaces[0].optics.kind, kind)
            self.assertGreater(chip.pose[2, 3], card.pose[2, 3])
            texels = card.surfaces[0].optics.texels
            assert texels is not None and texels.colour is not None
            self.assertEqual(texels.size, CARD)
            dark = (texels.colour.mean(axis=2) < 100).mean()
            self.assertAlmostEqual(float(dark), 0.5, delta=0.05)
            self.assertEqual(len(scene.lamps), 3)
