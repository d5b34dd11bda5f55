"""Every kind of prop: one closed solid or several, exactly as large as it is said to be, and its own by its
seed. Volumes of what is built against closed forms."""

from __future__ import annotations

import math
from unittest import TestCase

import numpy as np
import trimesh
from manifold3d import Error

from giftwrap.core.mesh.mesh import Mesh, together
from giftwrap.core.mesh.solids import kernel_solid
from giftwrap.core.model import Linked, MadeProp, PhotoSet, Standing
from giftwrap.core.model.material import Material
from giftwrap.core.model.photo_set import OfProp
from giftwrap.core.model.prop import PropName
from giftwrap.core.props.kinds import KINDS, meshes_of, usual
from giftwrap.core.tests.samples import three_lights


def extent(meshes: list[Mesh]) -> tuple[np.ndarray, np.ndarray]:
    whole = together(*meshes)
    return whole.positions.min(axis=0), whole.positions.max(axis=0)


def volume(what: PropName, **sizes: float) -> float:
    """Mm³ by the boolean kernel."""
    return sum(kernel_solid(mesh).volume() for mesh in meshes_of(usual(what).model_copy(update=sizes)))


class KindTests(TestCase):
    def test_there_are_dozens(self) -> None:
        self.assertGreaterEqual(len(KINDS), 40)
        self.assertGreaterEqual(len({kind.category for kind in KINDS.values()}), 7)

    def test_all_are_closed_exact_and_shaded_to_the_outside(self) -> None:
        for what in KINDS:
            for seed in (0, 77):
                with self.subTest(what=what, seed=seed):
                    prop = usual(what, seed)
                    meshes = meshes_of(prop)
                    low, high = extent(meshes)
                    size = (prop.width, prop.depth, prop.height)
                    np.testing.assert_allclose(high - low, size, atol=1e-3)
                    np.testing.assert_allclose(low, [-prop.width / 2, -prop.depth / 2, 0.0], atol=1e-3)
                    for mesh in meshes:
                        solid = kernel_solid(mesh)
                        self.assertEqual(solid.status(), Error.NoError)
                        self.assertGreater(solid.volume(), 0)
                        corners = mesh.positions[mesh.faces]
                        out = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
                        facing = np.einsum("nd,nd->n", out, mesh.normals[mesh.faces].sum(axis=1))
                        self.assertLess(float(np.mean(facing < -1e-9)), 0.002)
                        np.testing.assert_allclose(np.linalg.norm(mesh.normals, axis=1), 1.0, atol=1e-6)

    def test_awkward_sizes(self) -> None:
        for what in KINDS:
            for size in ((3.0, 400.0, 5.0), (0.5, 0.5, 0.5), (5000.0, 0.5, 2000.0), (0.5, 5000.0, 0.5)):
                with self.subTest(what=what, size=size):
                    width, depth, height = size
                    prop = usual(what).model_copy(
                        update={"width": width, "depth": depth, "height": height, "edge": 30.0}
                    )
                    low, high = extent(meshes_of(prop))
                    np.testing.assert_allclose(high - low, size, rtol=1e-6, atol=1e-6)

    def test_seeds_tell_them_apart(self) -> None:
        for what, kind in KINDS.items():
            with self.subTest(what=what):
                one, again, other = (meshes_of(usual(what, seed))[0].digest for seed in (3, 3, 4))
                self.assertEqual(one, again)
                self.assertEqual(one == other, not kind.varies)

    def test_volumes_of_what_is_built(self) -> None:
        """Closed forms; edges are as sharp as they get."""
        sharp = {"edge": 0.0}
        cases: list[tuple[PropName, dict[str, float], float]] = [
            ("block", {"width": 80, "depth": 50, "height": 30}, 80 * 50 * 30),
            ("cylinder", {"width": 90, "depth": 90, "height": 40}, math.pi * 45**2 * 40),
            ("sphere", {"width": 60, "depth": 60, "height": 60}, math.pi / 6 * 60**3),
            ("sphere", {"width": 60, "depth": 40, "height": 30}, math.pi / 6 * 60 * 40 * 30),
            ("dome", {"width": 80, "depth": 80, "height": 40}, 2 / 3 * math.pi * 40**3),
            ("half-cylinder", {"width": 100, "depth": 60, "height": 50}, math.pi / 2 * 50**2 * 60),
            ("wedge", {"width": 90, "depth": 70, "height": 40}, 90 * 70 * 40 / 2),
            (
                "steps",
                {"width": 90, "depth": 60, "height": 60, "steps": 3},
                90 * (20 * 20 + 20 * 40 + 20 * 60),
            ),
            # two piers and half a ring
            (
                "arch",
                {"width": 80, "depth": 30, "height": 100},
                30 * (2 * 20 * 60 + math.pi / 2 * (40**2 - 20**2)),
            ),
            ("frame", {"width": 100, "depth": 10, "height": 120}, 10 * (100 * 120 - 80 * 100)),
        ]
        for what, sizes, wanted in cases:
            with self.subTest(what=what):
                self.assertAlmostEqual(volume(what, **sizes, **sharp) / wanted, 1.0, delta=0.01)

    def test_an_edge_is_rounded_by_its_radius(self) -> None:
        """A block's edge takes (1 − π/4) r² of each mm of it, a corner (1 − π/6) r³."""
        sharp = volume("slab", width=400.0, depth=400.0, height=40.0, edge=0.0)
        rounded = volume("slab", width=400.0, depth=400.0, height=40.0, edge=8.0)
        along = 8 * (400 - 16) + 4 * (40 - 16)
        corners = 8 * (1 - math.pi / 6) * 8**3
        taken = (1 - math.pi / 4) * 64 * along + corners
        self.assertAlmostEqual((sharp - rounded) / taken, 1.0, delta=0.04)

    def test_a_frame_has_a_hole_and_a_hoop_too(self) -> None:
        for what in ("frame", "ring", "arch"):
            mesh = meshes_of(usual(what))[0]
            solid = trimesh.Trimesh(mesh.positions, mesh.faces)
            solid.merge_vertices(merge_norm=True, merge_tex=True)
            self.assertEqual(solid.euler_number, 2 if what == "arch" else 0, what)

    def test_usual_ones_are_made_of_what_is_in_the_library(self) -> None:
        for what in KINDS:
            prop = usual(what)
            self.assertIsInstance(prop.made_of, Material.__args__)  # type: ignore[attr-defined]
            self.assertEqual(prop.second is not None, len(meshes_of(prop)) == 2, what)


class DocumentTests(TestCase):
    def test_a_prop_that_is_not_there_is_refused(self) -> None:
        photo_set = three_lights()
        with self.assertRaisesRegex(ValueError, "take\\s+it away"):
            PhotoSet.model_validate(
                {
                    **photo_set.model_dump(),
                    "standing": [Standing(id="stone", of=OfProp(prop="stone")).model_dump()],
                }
            )

    def test_sizes_that_cannot_be_seen_are_refused(self) -> None:
        for size in (0.0, 5e-324, -3.0, 0.4, 5001.0, float("nan")):
            with self.assertRaises(ValueError):
                MadeProp.model_validate({**usual("log").model_dump(), "height": size})

    def test_props_are_not_linked_to_the_palette(self) -> None:
        with self.assertRaises(ValueError):
            MadeProp.model_validate(
                {**usual("block").model_dump(), "made_of": Linked(entry="Cap").model_dump()}
            )
