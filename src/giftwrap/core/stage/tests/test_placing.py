"""Props on a set: put down, strewn, stacked, in line, facing the camera, and what is put right."""

from __future__ import annotations

import itertools
from typing import Any
from unittest import TestCase

import numpy as np
from shapely import Point

from giftwrap.core.errors import PackError
from giftwrap.core.model import Chosen, Frame, OfProp, Pose, Standing
from giftwrap.core.model.arrangement import (
    Align,
    Apart,
    FaceCamera,
    Rest,
    Scatter,
    SpreadEvenly,
    Stack,
    StandProp,
    TakeAway,
)
from giftwrap.core.props.kinds import usual
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.stage.arranging import arranged
from giftwrap.core.stage.camera import view_of
from giftwrap.core.stage.fitting import fitted_camera
from giftwrap.core.stage.plan import plan_of
from giftwrap.core.stage.resting import gap_beneath
from giftwrap.core.stage.standing import Placed, crossings, extent_of, footprint, line_up, lowest, room_of
from giftwrap.core.stage.sweep import FLOOR_GAP
from giftwrap.core.stage.tests.test_arranging import THINGS, on_set
from giftwrap.core.things.making import things_in


def stands(frame: Frame) -> list[Placed]:
    return line_up(
        frame, things_in(frame, lambda pack: THINGS[next(k for k in frame.packs if frame.packs[k] == pack)])
    )


def after(frame: Frame, how: Any) -> Frame:
    things = {**THINGS, **{one.key: one.thing for one in stands(frame)}}
    return frame.model_copy(update={"photo_set": arranged(frame, how, things)})


def with_props(frame: Frame, *placed: tuple[str, Pose]) -> Frame:
    """A frame with props, called after themselves and their number."""
    photo_set = frame.photo_set
    props = {f"{what}-{n}": usual(what, n) for n, (what, _) in enumerate(placed)}  # type: ignore[arg-type]
    more = [
        Standing(id=f"{what}-{n}", of=OfProp(prop=f"{what}-{n}"), pose=pose)
        for n, (what, pose) in enumerate(placed)
    ]
    changed = {"props": {**photo_set.props, **props}, "standing": [*photo_set.standing, *more]}
    return frame.model_copy(update={"photo_set": photo_set.model_copy(update=changed)})


def by_id(frame: Frame) -> dict[str, Placed]:
    return {one.id: one for one in stands(frame)}


BOTTLE = on_set(("cordial-500", Pose()))


class PutDownTests(TestCase):
    def test_beside_and_on_what_is_there(self) -> None:
        frame = after(BOTTLE, StandProp(what="block"))
        block = by_id(frame)["block"]
        self.assertEqual(crossings(stands(frame)), [])
        self.assertAlmostEqual(lowest(block), 0.0, places=3)
        x, y = block.pose[:2, 3]
        frame = after(frame, StandProp(what="pebble", x=float(x), y=float(y)))
        pebble = by_id(frame)["pebble"]
        self.assertGreaterEqual(lowest(pebble), usual("block").height)
        self.assertAlmostEqual(gap_beneath(pebble, [block]), 0.0, places=2)
        self.assertEqual(crossings(stands(frame)), [])

    def test_no_two_alike(self) -> None:
        frame = after(after(BOTTLE, StandProp(what="stone")), StandProp(what="stone"))
        self.assertEqual([frame.photo_set.props[k].seed for k in ("stone", "stone-2")], [0, 1])

    def test_one_more_after_the_last_seed(self) -> None:
        frame = with_props(BOTTLE, ("stone", Pose(x=300)))
        last = frame.photo_set.props["stone-0"].model_copy(update={"seed": 9999})
        photo_set = frame.photo_set.model_copy(update={"props": {"stone-0": last}})
        frame = after(frame.model_copy(update={"photo_set": photo_set}), StandProp(what="stone"))
        self.assertEqual(frame.photo_set.props["stone"].seed, 0)

    def test_cameras_and_lights_are_for_the_packs(self) -> None:
        frame = with_props(BOTTLE, ("arch", Pose(x=400)))
        self.assertEqual(extent_of(stands(frame)), extent_of(stands(BOTTLE)))
        self.assertGreater(room_of(stands(frame)).high[0], 400)
        alone = with_props(on_set(), ("arch", Pose(x=400)))
        self.assertGreater(extent_of(stands(alone)).low[0], 300)

    def test_the_last_of_a_prop_takes_it_along(self) -> None:
        frame = with_props(BOTTLE, ("stone", Pose(x=200)), ("apple", Pose(x=-200)))
        left = after(frame, TakeAway(ids=["stone-0"])).photo_set
        self.assertEqual(list(left.props), ["apple-1"])

    def test_a_light_that_touches_the_pack_and_not_the_props(self) -> None:
        frame = with_props(BOTTLE, ("stone", Pose(x=200)))
        key = frame.photo_set.lights[0].model_copy(update={"untouched": [Chosen(part="props")]})
        lights = [key, *frame.photo_set.lights[1:]]
        frame = frame.model_copy(update={"photo_set": frame.photo_set.model_copy(update={"lights": lights})})
        scene = compile_scene(frame, {}, quick=True)
        untouched = {one.name: {s.untouched_by for s in one.surfaces} for one in scene.instances}
        self.assertEqual(untouched["stone-0"], {frozenset([key.name])})
        self.assertEqual(untouched["cordial-500-0"], {frozenset()})


class StrewnTests(TestCase):
    def test_they_lie_in_their_ellipse_and_touch_nothing(self) -> None:
        how = Scatter(what=["pebble", "laurel-leaf"], count=40, across=600, deep=400, y=-60, seed=3)
        frame = after(BOTTLE, how)
        strewn = [one for one in stands(frame) if one.is_prop]
        self.assertEqual(len(strewn), 40)
        self.assertEqual({one.key.split(":")[1].rsplit("-", 1)[0] for one in strewn} & {"pebble"}, {"pebble"})
        prints = [footprint(one) for one in stands(frame)]
        for one, other in itertools.combinations(prints, 2):
            self.assertFalse(one.intersects(other))
        for one in strewn:
            x, y = one.pose[:2, 3]
            self.assertLessEqual((x / 300) ** 2 + ((y + 60) / 200) ** 2, 1 + 1e-6)
            self.assertAlmostEqual(lowest(one), 0.0, delta=2e-3)
        self.assertEqual(len(frame.photo_set.groups), 1)
        self.assertLessEqual(len(frame.photo_set.props), 12)

    def test_the_same_seed_strews_them_alike_and_another_does_not(self) -> None:
        sets = [after(BOTTLE, Scatter(what=["pebble"], count=8, seed=seed)).photo_set for seed in (1, 1, 2)]
        self.assertEqual(sets[0], sets[1])
        self.assertNotEqual(sets[0], sets[2])

    def test_on_a_plinth_they_lie_on_it(self) -> None:
        frame = with_props(on_set(("cordial-500", Pose(x=900))), ("slab", Pose()))
        frame = after(frame, Scatter(what=["pebble"], count=12, across=200, deep=120, seed=4))
        strewn = [one for one in stands(frame) if one.id.startswith("pebble")]
        self.assertGreater(len(strewn), 3)
        for one in strewn:
            self.assertGreaterEqual(lowest(one), 18.0)
        self.assertEqual(crossings(stands(frame)), [])

    def test_sizes_and_turns_vary_by_as_much_as_is_asked(self) -> None:
        alike = after(BOTTLE, Scatter(what=["apple"], count=5, varies=0, turns=0, across=900, deep=600))
        self.assertEqual({p.height for p in alike.photo_set.props.values()}, {usual("apple").height})
        self.assertLess(max(abs(s.pose.turn) for s in alike.photo_set.standing), 0.1)
        varied = after(BOTTLE, Scatter(what=["apple"], count=5, varies=0.4, across=900, deep=600))
        factors = [p.height / usual("apple").height for p in varied.photo_set.props.values()]
        self.assertGreater(max(factors) - min(factors), 0.1)
        self.assertLess(max(abs(f - 1) for f in factors), 0.4001)

    def test_no_room_is_said(self) -> None:
        with self.assertRaisesRegex(PackError, "make it larger"):
            after(BOTTLE, Scatter(what=["rock"], count=3, across=20, deep=20))

    def test_fewer_than_asked_where_there_is_room_for_fewer(self) -> None:
        frame = after(BOTTLE, Scatter(what=["rock"], count=60, across=420, deep=420))
        self.assertLess(len(frame.photo_set.standing), 40)
        self.assertEqual(crossings(stands(frame)), [])


class PutRightTests(TestCase):
    def test_a_bottle_in_a_plinth_is_put_on_it(self) -> None:
        frame = with_props(BOTTLE, ("cylinder", Pose()))
        drawn = {s.id: s for s in plan_of(frame.photo_set, frame.shot, stands(frame)).stands}
        self.assertEqual(drawn["cordial-500-0"].crosses, ("cylinder-0",))
        frame = after(frame, Rest(ids=["cordial-500-0"]))
        self.assertAlmostEqual(lowest(by_id(frame)["cordial-500-0"]), 40 + FLOOR_GAP, places=3)
        drawn = {s.id: s for s in plan_of(frame.photo_set, frame.shot, stands(frame)).stands}
        self.assertEqual((drawn["cordial-500-0"].air, drawn["cordial-500-0"].crosses), (0.0, ()))

    def test_what_floats_and_what_is_sunk_is_told(self) -> None:
        frame = with_props(BOTTLE, ("stone", Pose(x=300, z=25)), ("apple", Pose(x=-300, z=-6)))
        drawn = {s.id: s.air for s in plan_of(frame.photo_set, frame.shot, stands(frame)).stands}
        self.assertAlmostEqual(drawn["stone-0"], 25, delta=0.1)
        self.assertAlmostEqual(drawn["apple-1"], -6, delta=0.1)
        frame = after(frame, Rest(ids=["stone-0", "apple-1"]))
        drawn = {s.id: s.air for s in plan_of(frame.photo_set, frame.shot, stands(frame)).stands}
        self.assertLess(max(abs(air) for air in drawn.values()), 0.01)

    def test_what_would_tip_over_is_said_and_stays(self) -> None:
        with self.assertRaisesRegex(PackError, "tip over"):
            after(
                with_props(on_set(("cordial-500", Pose(x=100, z=90))), ("block", Pose())),
                Rest(ids=["cordial-500-0"]),
            )

    def test_the_smaller_one_gives_way(self) -> None:
        frame = with_props(BOTTLE, ("pebble", Pose(x=20)))
        apart = after(frame, Apart())
        self.assertEqual(crossings(stands(apart)), [])
        self.assertEqual(apart.photo_set.standing[0].pose, Pose())

    def test_what_rested_on_a_plinth_rests_where_it_comes_to(self) -> None:
        frame = with_props(on_set(("cordial-500", Pose(x=500))), ("slab", Pose()))
        for x in (0.0, 30.0):
            frame = after(frame, StandProp(what="apple", x=x, y=0.0))
        high = [one for one in stands(frame) if one.id.startswith("apple")]
        self.assertGreater(lowest(high[1]), 60)  # on the first
        *first, last = frame.photo_set.standing
        down = [*first, last.model_copy(update={"pose": Pose(x=30, z=18.05)})]
        frame = frame.model_copy(update={"photo_set": frame.photo_set.model_copy(update={"standing": down})})
        frame = after(frame, Apart())
        self.assertEqual(crossings(stands(frame)), [])
        self.assertAlmostEqual(gap_beneath(by_id(frame)["apple-2"], stands(frame)), 0.0, places=2)


class InLineTests(TestCase):
    def test_stacked_by_what_they_cover(self) -> None:
        frame = with_props(on_set(("jar-50", Pose(x=300))), ("block", Pose()), ("slab", Pose(x=-400)))
        frame = after(frame, Stack(ids=["jar-50-0", "block-0", "slab-1"]))
        placed = by_id(frame)
        heights = [lowest(placed[name]) for name in ("slab-1", "block-0", "jar-50-0")]
        np.testing.assert_allclose(heights, [0, 18 + FLOOR_GAP, 78 + 2 * FLOOR_GAP], atol=1e-2)
        self.assertEqual(crossings(stands(frame)), [])

    def test_what_does_not_stay_is_not_stacked(self) -> None:
        frame = with_props(on_set(("jar-50", Pose(x=300))), ("wedge", Pose()))
        with self.assertRaisesRegex(PackError, "would not stay"):
            after(frame, Stack(ids=["wedge-0", "jar-50-0"]))

    def test_in_line(self) -> None:
        frame = on_set(
            ("cordial-500", Pose(x=-200, y=30)), ("jar-50", Pose(x=0, y=-50)), ("tube-50", Pose(x=90))
        )
        ids = [s.id for s in frame.photo_set.standing]
        ends = {
            "left": lambda e: e.low[0], "right": lambda e: e.high[0], "front": lambda e: e.low[1],
            "back": lambda e: e.high[1], "middle": lambda e: e.middle[0], "centre": lambda e: e.middle[1],
        }  # fmt: skip
        for to, end in ends.items():
            found = [end(room_of([one])) for one in stands(after(frame, Align(ids=ids, to=to)))]
            self.assertLess(max(found) - min(found), 0.6, to)

    def test_the_same_air_between_them(self) -> None:
        frame = on_set(("cordial-500", Pose(x=-300)), ("jar-50", Pose(x=-100)), ("tube-50", Pose(x=260)))
        ids = [s.id for s in frame.photo_set.standing]
        before, now = stands(frame), stands(after(frame, SpreadEvenly(ids=ids)))
        ends = [room_of([one]) for one in now]
        gaps = [b.low[0] - a.high[0] for a, b in itertools.pairwise(ends)]
        self.assertAlmostEqual(gaps[0], gaps[1], delta=0.6)
        for k in (0, 2):
            np.testing.assert_allclose(now[k].pose, before[k].pose)
        with self.assertRaisesRegex(PackError, "three"):
            after(frame, SpreadEvenly(ids=ids[:2]))

    def test_fronts_face_the_camera(self) -> None:
        frame = with_props(
            on_set(("cordial-500", Pose(x=-300, turn=40)), ("jar-50", Pose(x=200))),
            ("frame", Pose(x=500, y=90)),
        )
        frame = after(frame, FaceCamera(ids=["cordial-500-0", "jar-50-1", "frame-0"]))
        placed = stands(frame)
        camera = fitted_camera(frame.shot, extent_of(placed), frame.shot.aspect)
        eye = Point(view_of(camera, frame.shot.aspect).position[:2])
        for one in placed:
            x, y = one.pose[:2, 3]
            ahead = one.pose[:2, :2] @ np.array([0.0, -1.0])
            way = np.array([eye.x - x, eye.y - y])
            self.assertAlmostEqual(float(ahead @ way / np.linalg.norm(way)), 1.0, places=4)
