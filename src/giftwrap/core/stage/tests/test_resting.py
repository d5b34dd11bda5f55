"""Coming to rest: heights, leans and forces against statics worked by hand, and the boolean kernel for what
crosses."""

from __future__ import annotations

import math
from typing import Any
from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.core.model import MadeProp, Pose
from giftwrap.core.model.prop import PropName
from giftwrap.core.props.kinds import usual
from giftwrap.core.stage.resting import come_to_rest, gap_beneath, heights_at
from giftwrap.core.stage.standing import Placed, crossings, lowest, pose_matrix
from giftwrap.core.stage.sweep import FLOOR_GAP
from giftwrap.core.things.props import shape_prop


def prop(what: PropName, **sizes: Any) -> MadeProp:
    return usual(what).model_copy(update={"edge": 0.0, **sizes})


def there(name: str, made: MadeProp, **pose: float) -> Placed:
    return Placed(name, f"prop:{name}", shape_prop(made), pose_matrix(Pose(**pose)))


def moved(one: Placed, pose: np.ndarray) -> Placed:
    return Placed(one.id, one.key, one.thing, pose)


def block(name: str, width: float, depth: float, height: float, **pose: float) -> Placed:
    return there(name, prop("block", width=width, depth=depth, height=height), **pose)


class HeightTests(TestCase):
    def test_against_a_ray_caster(self) -> None:
        """trimesh's rays, straight down."""
        mesh = shape_prop(prop("rock", seed=5)).meshes[0]
        rng = np.random.default_rng(1)
        places = rng.uniform(-70, 70, (300, 2))
        found = heights_at(mesh.positions[mesh.faces], places)
        solid = trimesh.Trimesh(mesh.positions, mesh.faces, process=False)
        origins = np.column_stack([places, np.full(300, 500.0)])
        hits, rays, _ = solid.ray.intersects_location(origins, np.tile([0.0, 0.0, -1.0], (300, 1)))
        highest = np.full(300, -np.inf)
        np.maximum.at(highest, rays, hits[:, 2])
        self.assertGreater(int(np.isfinite(found).sum()), 100)
        np.testing.assert_allclose(found, highest, atol=1e-6)


class StaticsTests(TestCase):
    def test_a_block_falls_flat_on_the_floor(self) -> None:
        one = block("a", 60, 40, 20, z=80, turn=30)
        rest = come_to_rest(one, [])
        self.assertTrue(rest.stands)
        self.assertAlmostEqual(float(rest.pose[2, 3]), 0.0, places=3)
        self.assertLess(rest.leans, 0.05)

    def test_a_block_on_a_block(self) -> None:
        one = block("a", 60, 40, 20, z=80)
        rest = come_to_rest(one, [block("b", 100, 100, 33)])
        self.assertAlmostEqual(float(rest.pose[2, 3]), 33 + FLOOR_GAP, places=3)

    def test_what_is_sunk_in_is_lifted(self) -> None:
        one = block("a", 60, 40, 50, z=10)
        rest = come_to_rest(one, [block("b", 100, 100, 33)], upright=True)
        self.assertAlmostEqual(float(rest.pose[2, 3]), 33 + FLOOR_GAP, places=3)
        self.assertAlmostEqual(gap_beneath(one, [block("b", 100, 100, 33)]), 10 - 33 - FLOOR_GAP, places=3)
        self.assertAlmostEqual(gap_beneath(moved(one, rest.pose), [block("b", 100, 100, 33)]), 0.0, places=3)

    def test_what_is_deep_in_something_is_lifted_onto_it(self) -> None:
        one, tall = block("a", 30, 30, 50, x=10), block("b", 100, 100, 140)
        self.assertAlmostEqual(float(come_to_rest(one, [tall], upright=True).pose[2, 3]), 140.05, places=3)
        beside = block("a", 30, 30, 50, x=60)
        self.assertAlmostEqual(float(come_to_rest(beside, [tall], upright=True).pose[2, 3]), 0.0, places=3)

    def test_a_plank_over_two_blocks(self) -> None:
        """Worked by hand: it lies on the outer edge of the low one, 70 mm from its middle, and the inner edge
        of the high one, 50 mm from it; it leans by atan(20/120); moments about its middle share its weight
        50 : 70."""
        low, high = block("low", 20, 40, 30, x=-60), block("high", 20, 40, 50, x=60)
        plank = block("plank", 200, 30, 6, z=80)
        rest = come_to_rest(plank, [low, high])
        self.assertTrue(rest.stands)
        self.assertAlmostEqual(rest.leans, math.degrees(math.atan2(20, 120)), delta=0.15)
        self.assertAlmostEqual(float(rest.forces.sum()), 1.0, places=4)
        left = float(rest.forces[rest.carried[:, 0] < 0].sum())
        self.assertAlmostEqual(left, 50 / 120, delta=0.01)
        self.assertEqual(crossings([low, high, moved(plank, rest.pose)]), [])

    def test_forces_have_no_moment_about_the_centre_of_mass(self) -> None:
        """Equilibrium of what lies on three places."""
        stone = there("stone", prop("stone", seed=4), z=120, x=5)
        rest = come_to_rest(stone, [there("steps", prop("steps"), x=-30)])
        self.assertTrue(rest.stands)
        solid = trimesh.Trimesh(stone.thing.meshes[0].positions, stone.thing.meshes[0].faces)
        centre = rest.pose[:3, :3] @ solid.center_mass + rest.pose[:3, 3]
        moment = (rest.forces[:, None] * (rest.carried[:, :2] - centre[:2])).sum(axis=0)
        self.assertAlmostEqual(float(rest.forces.sum()), 1.0, places=3)
        np.testing.assert_allclose(moment, 0.0, atol=0.5)

    def test_half_over_an_edge_it_stands_and_further_it_tips(self) -> None:
        table = block("table", 100, 100, 60)
        for over, stands in ((-12, True), (12, False)):  # mm that its middle is beyond the edge
            one = block("one", 60, 60, 30, x=50 + over, z=90)
            self.assertEqual(come_to_rest(one, [table], upright=True).stands, stands, over)
        tipped = come_to_rest(block("one", 60, 60, 30, x=62, z=90), [table])
        self.assertGreater(tipped.leans, 10)

    def test_under_an_arch_and_on_top_of_it(self) -> None:
        arch = there("arch", prop("arch"))
        pebble = there("pebble", prop("pebble"))
        self.assertLess(float(come_to_rest(pebble, [arch]).pose[2, 3]), 1.0)
        self.assertGreater(float(come_to_rest(pebble, [arch], above=True).pose[2, 3]), 200)

    def test_a_ball_in_a_bowl(self) -> None:
        bowl = there("bowl", prop("bowl"))
        ball = there("ball", prop("sphere", width=30, depth=30, height=30), z=90)
        rest = come_to_rest(ball, [bowl])
        self.assertTrue(rest.stands)
        self.assertGreater(float(rest.pose[2, 3]), 3.0)
        self.assertEqual(crossings([bowl, moved(ball, rest.pose)]), [])


class FoundTests(TestCase):
    def test_nothing_that_is_found_sinks_or_crosses(self) -> None:
        beneath = [there("slab", prop("slab")), there("dish", prop("dish"), z=18.1)]
        for what in (
            "pebble",
            "stone",
            "rock",
            "apple",
            "lemon",
            "twig",
            "laurel-leaf",
            "cinnamon",
            "crystal",
        ):
            for others in ([], beneath):
                with self.subTest(what=what, on=len(others)):
                    one = there("one", prop(what, seed=2), x=4, z=140)  # type: ignore[arg-type]
                    rest = come_to_rest(one, others)
                    lies = moved(one, rest.pose)
                    self.assertAlmostEqual(gap_beneath(lies, others), 0.0, places=3)
                    self.assertGreater(lowest(lies), -1e-3)
                    self.assertFalse(any("one" in pair for pair in crossings([*others, lies])))
