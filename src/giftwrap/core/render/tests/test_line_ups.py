"""Line-ups of documents: a referee's scene with two packs, the same volumes, framing and lights."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.bench.library import LibraryScene
from giftwrap.core.errors import PackError
from giftwrap.core.form.tests.solids import closed_solids
from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.mesh.transform import moved
from giftwrap.core.model import Frame, OfPack, Opaque, Pose, Standing
from giftwrap.core.render.film import Film
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.render.transport import MAX_BOUNCES
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.stage.camera import project
from giftwrap.core.stage.standing import extent_of, line_up, pose_matrix
from giftwrap.core.tests.samples import cylinder, formed, portrait, three_lights, vessel_pack
from giftwrap.core.things.making import thing_of
from giftwrap.core.things.starting import starting_pack
from giftwrap.core.things.vessel import shape_vessel

SIZE, SAMPLES, BLOCK = 48, 256, 8
PAINT = Opaque(colour="#8a6f4e", gloss=0.0)


def standing(*poses: Pose, pack: str = "a") -> list[Standing]:
    return [Standing(id=f"{pack}-{n}", of=OfPack(pack=pack), pose=pose) for n, pose in enumerate(poses)]


def frame(packs: dict, placed: list[Standing]) -> Frame:
    photo_set = three_lights().model_copy(update={"standing": placed})
    one = Frame(packs=packs, photo_set=photo_set, shot=portrait())
    things = {key: thing_of(pack, {}) for key, pack in packs.items()}
    return one.model_copy(update={"shot": portrait(extent_of(line_up(one, things)))})


class RefereeTests(TestCase):
    def test_two_packs_against_the_library(self) -> None:
        """A painted tumbler standing twice, once turned and leaning, by the library's path integrator."""
        body = cylinder(36, 120).model_copy(update={"material": PAINT})
        poses = (Pose(x=-60), Pose(x=70, y=-30, z=30, turn=40, lean=25))
        one = frame({"a": vessel_pack(body=body)}, standing(*poses))
        scene = compile_scene(one, {})
        camera = one.shot.camera
        film = Film(SIZE, SIZE)
        film.add(Renderer(scene).expose(camera, (SIZE, SIZE), samples=SAMPLES, seed=1, firefly_limit=0))
        background = one.photo_set.surround.strength
        mine = film.mean_light((background,) * 3) @ LUMINANCE
        referee = LibraryScene(scene, max_depth=MAX_BOUNCES + 1)
        runs = np.array(
            [referee.render(camera, (SIZE, SIZE), samples=SAMPLES // 4, seed=seed) for seed in range(8)]
        )
        theirs = _blocks(runs.mean(axis=0) @ LUMINANCE)
        spread = np.array([_blocks(run @ LUMINANCE) for run in runs]).std(axis=0, ddof=1) / np.sqrt(8)
        apart = np.abs(_blocks(mine) - theirs) / np.sqrt(2 * spread**2 + (0.004 * theirs) ** 2)
        self.assertLess(float(np.mean(apart > 3)), 0.06)
        self.assertAlmostEqual(float(_blocks(mine).mean() / theirs.mean()), 1.0, delta=0.005)


class PlacingTests(TestCase):
    def test_volumes_are_the_same_wherever_a_pack_stands(self) -> None:
        """By trimesh, of every closed solid of a bottle with a pump, formed and placed."""
        solids = closed_solids(shape_vessel(starting_pack("pump-300"), coarse=True))
        matrix = pose_matrix(Pose(x=130, y=-40, z=3, turn=77, lean=12, nod=-8))
        for name, mesh in solids.items():
            there = moved(mesh, matrix)
            here, placed = (trimesh.Trimesh(m.positions, m.faces).volume for m in (mesh, there))
            with self.subTest(name):
                self.assertAlmostEqual(placed / here, 1.0, places=9)

    def test_a_new_line_up_is_framed_by_itself(self) -> None:
        packs = {"a": starting_pack(), "b": starting_pack("jar-50")}
        rows = standing(*(Pose(x=110.0 * n) for n in range(5))) + standing(Pose(x=300, y=-150), pack="b")
        one = frame(packs, rows)
        things = {key: thing_of(pack, {}) for key, pack in packs.items()}
        corners = extent_of(line_up(one, things)).corners
        ends = project(one.shot.camera, one.shot.aspect, corners)
        self.assertTrue(((ends > 0.02) & (ends < 0.98)).all(), ends)
        self.assertGreater(float(np.ptp(ends[:, 0])), 0.35, "and not from miles away")

    def test_lights_are_aimed_at_the_middle_of_what_stands(self) -> None:
        one = frame({"a": starting_pack()}, standing(Pose(x=400), Pose(x=600)))
        lamps = compile_scene(one, {}).lamps
        for lamp in lamps:
            way = np.array([500.0, 0.0]) - lamp.centre[:2]
            self.assertAlmostEqual(float(np.cross(way, lamp.normal[:2])), 0.0, places=6)

    def test_copies_share_their_meshes_and_looks(self) -> None:
        one = frame({"a": starting_pack()}, standing(*(Pose(x=90.0 * n) for n in range(6))))
        _, *placed = compile_scene(one, {}).instances
        self.assertEqual(len({id(i.meshes) for i in placed}), 1)
        self.assertEqual(len({id(i.surfaces) for i in placed}), 1)
        self.assertEqual(len({i.name for i in placed}), 6)

    def test_an_empty_set_is_a_picture_too(self) -> None:
        empty = frame({"a": starting_pack()}, [])
        film = Film(24, 30)
        film.add(Renderer(compile_scene(empty, {})).expose(empty.shot.camera, (24, 30), samples=4, seed=0))
        self.assertGreater(float(film.mean_light().min()), 0.0)

    def test_a_pack_that_cannot_be_built_is_named_with_its_place(self) -> None:
        broken = formed(
            starting_pack(), body=starting_pack().form.body.model_copy(update={"wall_thickness": 40})
        )
        one = Frame(
            packs={"a": starting_pack(), "thick": broken},
            photo_set=three_lights().model_copy(
                update={"standing": standing(Pose()) + standing(Pose(x=200), pack="thick")}
            ),
            shot=portrait(),
        )
        with self.assertRaises(PackError) as caught:
            compile_scene(one, {})
        self.assertTrue(caught.exception.place.startswith("packs.thick.form.body"), caught.exception.place)


def _blocks(values: np.ndarray) -> np.ndarray:
    side = SIZE // BLOCK
    return values.reshape(side, BLOCK, side, BLOCK).mean(axis=(1, 3))
