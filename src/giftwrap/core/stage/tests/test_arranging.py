"""Arranging what stands: spacing in mm, rest, what crosses, groups, keys."""

from __future__ import annotations

import itertools
from typing import Any
from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.transform import points_moved
from giftwrap.core.model import Camera, Frame, LineUp, OfPack, PhotoSet, Pose, Shot, Standing
from giftwrap.core.model.arrangement import (
    Apart,
    Arc,
    Copies,
    Gather,
    Part,
    Rest,
    Row,
    Stand,
    TakeAway,
)
from giftwrap.core.stage.arranging import arranged
from giftwrap.core.stage.camera import project
from giftwrap.core.stage.standing import Placed, crossings, line_up, lowest, standing_matrix
from giftwrap.core.tests.samples import three_lights
from giftwrap.core.things.making import thing_of
from giftwrap.core.things.starting import starting_pack

PACKS = {name: starting_pack(name) for name in ("cordial-500", "dropper-30", "jar-50", "tube-50")}
THINGS = {name: thing_of(pack, {}, coarse=True) for name, pack in PACKS.items()}


def on_set(*placed: tuple[str, Pose], **more: Any) -> Frame:
    """Packs standing on a set, called after themselves and their number."""
    standing = [
        Standing(id=f"{pack}-{n}", of=OfPack(pack=pack), pose=pose)
        for n, (pose, pack) in enumerate((pose, pack) for pack, pose in placed)
    ]
    photo_set = three_lights().model_copy(update={"standing": standing, **more})
    return Frame(packs=PACKS, photo_set=photo_set, shot=Shot())


def after(frame: Frame, how: Any) -> Frame:
    """The frame with its set arranged."""
    return frame.model_copy(update={"photo_set": arranged(frame, how, THINGS)})


def placed_in(frame: Frame) -> dict[str, Placed]:
    """What stands, by id."""
    return {one.id: one for one in line_up(frame, THINGS)}


def spans(frame: Frame, axis: int = 0) -> list[tuple[float, float]]:
    """Least and greatest x (or y) of everything that stands, from the vertices of its meshes."""
    found = []
    for one in line_up(frame, THINGS):
        points = np.vstack([points_moved(mesh.positions, one.pose) for mesh in one.thing.meshes])
        found.append((float(points[:, axis].min()), float(points[:, axis].max())))
    return sorted(found)


FOUR = [
    ("cordial-500", Pose(x=-200)),
    ("jar-50", Pose(x=-20, y=40)),
    ("dropper-30", Pose(x=10)),
    ("tube-50", Pose(x=90)),
]


class RowTests(TestCase):
    def test_a_row_has_its_spacing(self) -> None:
        """In mm as the vertices say, and seen in an orthographic picture to 0.3 mm."""
        for gap in (0.0, 12.5, 40.0):
            frame = on_set(*FOUR)
            ids = [one.id for one in frame.photo_set.standing]
            row = after(frame, Row(ids=ids, gap=gap))
            across = spans(row)
            found = [b[0] - a[1] for a, b in itertools.pairwise(across)]
            np.testing.assert_allclose(found, [gap] * 3, atol=0.01)
            flat = Camera(
                projection="orthographic", orthographic_width=800, distance=1500, height=100, aim_height=100
            )
            ends = [project(flat, 2.0, np.array([[x, 0.0, 50.0] for x in span]))[:, 0] for span in across]
            seen = [800 * (b[0] - a[1]) for a, b in itertools.pairwise(ends)]
            np.testing.assert_allclose(seen, [gap] * 3, atol=0.3)
            self.assertEqual(len({round(one.pose[1, 3], 2) for one in placed_in(row).values()}), 1)
            order = sorted(placed_in(row).values(), key=lambda one: one.pose[0, 3])
            self.assertEqual([one.key for one in order], ["cordial-500", "jar-50", "dropper-30", "tube-50"])

    def test_a_row_may_run_into_the_picture(self) -> None:
        frame = on_set(*FOUR)
        row = after(frame, Row(ids=[one.id for one in frame.photo_set.standing], gap=20, turn=90))
        deep = spans(row, axis=1)
        np.testing.assert_allclose([b[0] - a[1] for a, b in itertools.pairwise(deep)], [20] * 3, atol=0.01)

    def test_an_arc_has_its_radius_spacing_and_faces_its_middle(self) -> None:
        frame = on_set(*[("jar-50", Pose(x=100.0 * n)) for n in range(5)])
        arc = after(frame, Arc(ids=[one.id for one in frame.photo_set.standing], gap=30, radius=300))
        places = np.array([one.pose[:2, 3] for one in placed_in(arc).values()])
        width = THINGS["jar-50"].hull[:, 0].max() - THINGS["jar-50"].hull[:, 0].min()
        chords = np.linalg.norm(np.diff(places, axis=0), axis=1)
        np.testing.assert_allclose(chords, [width + 30] * 4, atol=0.3)
        centre = _centre_of_circle(places[0], places[2], places[4])
        np.testing.assert_allclose(np.linalg.norm(places - centre, axis=1), [300] * 5, atol=0.05)
        self.assertLess(centre[1], places[:, 1].min())
        for one, place in zip(placed_in(arc).values(), places, strict=True):
            front = one.pose[:2, :2] @ [0.0, -1.0]
            towards = (centre - place) / np.linalg.norm(centre - place)
            np.testing.assert_allclose(front, towards, atol=1e-3)

    def test_an_arc_too_small_is_refused(self) -> None:
        frame = on_set(*[("cordial-500", Pose(x=90.0 * n)) for n in range(9)])
        with self.assertRaises(PackError) as caught:
            after(frame, Arc(ids=[one.id for one in frame.photo_set.standing], radius=60))
        self.assertEqual(caught.exception.place, "radius")


class StandTests(TestCase):
    def test_put_down_beside_the_others_on_the_floor(self) -> None:
        frame = on_set(("cordial-500", Pose()))
        for pack in ("jar-50", "tube-50", "jar-50"):
            frame = after(frame, Stand(pack=pack))
        placed = placed_in(frame)
        self.assertEqual(list(placed), ["cordial-500-0", "jar-50", "tube-50", "jar-50-2"])
        self.assertEqual(crossings(list(placed.values())), [])
        for one in placed.values():
            self.assertAlmostEqual(lowest(one), 0, places=3)

    def test_put_down_at_a_place(self) -> None:
        frame = after(on_set(), Stand(pack="jar-50", x=120, y=-40))
        np.testing.assert_allclose(placed_in(frame)["jar-50"].pose[:3, 3], [120, -40, 0], atol=1e-3)

    def test_it_joins_the_line_up_of_the_shot(self) -> None:
        frame = on_set(
            ("cordial-500", Pose()), line_ups={"one": LineUp(name="One", standing=["cordial-500-0"])}
        )
        frame = frame.model_copy(
            update={
                "photo_set": PhotoSet.model_validate(frame.photo_set.model_dump()),
                "shot": Shot(line_up="one"),
            }
        )
        self.assertEqual(list(placed_in(after(frame, Stand(pack="jar-50")))), ["cordial-500-0", "jar-50"])

    def test_copies_stand_in_a_row_at_their_spacing(self) -> None:
        frame = after(on_set(("jar-50", Pose(turn=30))), Copies(ids=["jar-50-0"], count=3, gap=15))
        across = spans(frame)
        self.assertEqual(len(across), 4)
        width = THINGS["jar-50"].extent.high[0] - THINGS["jar-50"].extent.low[0]
        starts = np.diff([span[0] for span in across])
        np.testing.assert_allclose(starts, [width + 15] * 3, atol=1.5)
        self.assertEqual({round(one.pose.turn) for one in frame.photo_set.standing}, {30})

    def test_what_floats_or_sinks_is_put_on_the_floor(self) -> None:
        frame = on_set(
            ("jar-50", Pose(z=14)), ("tube-50", Pose(x=90, z=-6)), ("dropper-30", Pose(x=200, lean=35))
        )
        rested = after(frame, Rest(ids=[one.id for one in frame.photo_set.standing]))
        for one in placed_in(rested).values():
            points = np.vstack([points_moved(m.positions, one.pose) for m in one.thing.meshes])
            self.assertAlmostEqual(float(trimesh.PointCloud(points).bounds[0, 2]), 0, places=2)

    def test_taken_away_it_is_gone_from_line_ups_and_groups(self) -> None:
        frame = after(on_set(*FOUR), Gather(ids=["jar-50-1", "tube-50-3"], name="Pair"))
        left = after(frame, TakeAway(ids=["jar-50-1", "tube-50-3"])).photo_set
        self.assertEqual([one.id for one in left.standing], ["cordial-500-0", "dropper-30-2"])
        self.assertEqual(left.groups, {})

    def test_what_is_not_there_is_named(self) -> None:
        with self.assertRaises(PackError) as caught:
            after(on_set(*FOUR), Rest(ids=["spoon"]))
        self.assertIn("spoon", caught.exception.message)
        with self.assertRaises(PackError):
            after(on_set(*FOUR), Stand(pack="spoon"))

    def test_an_empty_set_can_be_arranged(self) -> None:
        self.assertEqual(after(on_set(), Apart()).photo_set.standing, [])


class ApartTests(TestCase):
    def test_what_crosses_is_moved_apart_and_nothing_else(self) -> None:
        """By trimesh's collision manager, on the convex hulls of what stands."""
        frame = on_set(
            ("cordial-500", Pose()),
            ("jar-50", Pose(x=20, y=5)),
            ("tube-50", Pose(x=-25)),
            ("dropper-30", Pose(x=400)),
        )
        self.assertTrue(_collide(frame))
        parted = after(frame, Apart())
        self.assertFalse(_collide(parted))
        places = [one.pose for one in parted.photo_set.standing]
        self.assertEqual((places[0], places[3]), (Pose(), Pose(x=400)))
        self.assertLess(abs(places[1].x) + abs(places[1].y), 90)

    def test_a_heap_of_a_dozen_comes_apart(self) -> None:
        frame = on_set(*[("jar-50", Pose(x=3.0 * n, y=2.0 * (n % 3))) for n in range(12)])
        self.assertFalse(_collide(after(frame, Apart())))


class GroupTests(TestCase):
    def test_a_group_is_one_in_a_row_and_stays_as_it_is_inside(self) -> None:
        frame = after(on_set(*FOUR), Gather(ids=["jar-50-1", "dropper-30-2"], name="Pair"))
        before = placed_in(frame)
        row = after(frame, Row(ids=[one.id for one in frame.photo_set.standing], gap=25))
        now = placed_in(row)
        for name in ("jar-50-1", "dropper-30-2"):
            by = now[name].pose[:3, 3] - before[name].pose[:3, 3]
            np.testing.assert_allclose(
                by, now["jar-50-1"].pose[:3, 3] - before["jar-50-1"].pose[:3, 3], atol=0.01
            )

    def test_parted_they_stay_where_they_are(self) -> None:
        frame = after(on_set(*FOUR), Gather(ids=["jar-50-1", "tube-50-3"], name="Pair"))
        groups = dict(frame.photo_set.groups)
        key = next(iter(groups))
        groups[key] = groups[key].model_copy(update={"pose": Pose(x=30, y=12, turn=40)})
        frame = frame.model_copy(update={"photo_set": frame.photo_set.model_copy(update={"groups": groups})})
        alone = after(frame, Part(ids=["jar-50-1", "tube-50-3"]))
        self.assertEqual(alone.photo_set.groups, {})
        for name, one in placed_in(frame).items():
            np.testing.assert_allclose(placed_in(alone)[name].pose, one.pose, atol=2e-3)
        standing = {one.id: one for one in alone.photo_set.standing}
        self.assertIsNone(standing["jar-50-1"].group)
        np.testing.assert_allclose(standing_matrix(standing["tube-50-3"], {})[2, 3], 0, atol=1e-6)


def _collide(frame: Frame) -> bool:
    manager = trimesh.collision.CollisionManager()
    for one in placed_in(frame).values():
        manager.add_object(one.id, trimesh.convex.convex_hull(one.thing.hull), transform=one.pose)
    return bool(manager.in_collision_internal())


def _centre_of_circle(a: Any, b: Any, c: Any) -> Any:
    """By the perpendicular bisectors of two chords."""
    lines = np.array([b - a, c - b])
    return np.linalg.solve(lines, np.sum(lines * [(a + b) / 2, (b + c) / 2], axis=1))
