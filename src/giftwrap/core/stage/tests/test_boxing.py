"""Things in boxes on the set: where they stand, what moves with what, and what is refused."""

from __future__ import annotations

from typing import Any
from unittest import TestCase

import numpy as np
from pydantic import ValidationError

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.transform import points_moved
from giftwrap.core.model import Carton, Frame, OfPack, Pack, PhotoSet, Pose, Shot, Standing
from giftwrap.core.model.arrangement import Copies, PutIn, Rest, Row, TakeAway, TakeOut
from giftwrap.core.model.carton import Board, Hole, Insert
from giftwrap.core.stage.arranging import arranged
from giftwrap.core.stage.standing import crossings, line_up, lowest
from giftwrap.core.tests.samples import three_lights
from giftwrap.core.things.making import thing_of
from giftwrap.core.things.starting import starting_pack


def box(style: str, **change: Any) -> Pack:
    form = {"style": style, "length": 150, "width": 80, "depth": 130, "board": Board(caliper=0.8), **change}
    return Pack(form=Carton.model_validate(form))


HOLES = [Hole(x=-36, across=42, deep=42), Hole(x=36, across=42, deep=42)]
PACKS = {
    "drops": starting_pack("dropper-30"),
    "tray": box("tray"),
    "tuck": box("reverse-tuck"),
    "lock": box("crash-lock"),
    "gift": box("lid-and-base", insert=Insert(height=30, holes=HOLES), closed=0.9),
    "drawer": box("drawer", depth=70, closed=0.9),
    "pillow": box("pillow", depth=40),
}
THINGS = {name: thing_of(pack, {}, coarse=True) for name, pack in PACKS.items()}


def frame_of(*standing: Standing) -> Frame:
    photo_set = three_lights().model_copy(update={"standing": list(standing)})
    return Frame(packs=PACKS, photo_set=photo_set, shot=Shot(hero="drops"))


def stood(name: str, pack: str | None = None, **more: Any) -> Standing:
    return Standing(id=name, of=OfPack(pack=pack or name), **more)


def after(frame: Frame, how: Any) -> Frame:
    return frame.model_copy(update={"photo_set": arranged(frame, how, THINGS)})


def on(frame: Frame) -> dict[str, Standing]:
    return {one.id: one for one in frame.photo_set.standing}


class PutInTests(TestCase):
    def test_a_pack_stands_on_the_floor_of_whatever_box_it_is_put_into(self) -> None:
        """Wherever the box is turned to; nothing crosses, and next to nothing is under it."""
        for name in ("tray", "tuck", "lock", "gift"):
            pose = Pose(x=300, y=-50, turn=30)
            frame = frame_of(stood(name, pose=pose), stood("drops", pose=Pose(x=-200)))
            frame = after(frame, PutIn(ids=["drops"], box=name))
            placed = {one.id: one for one in line_up(frame, THINGS)}
            with self.subTest(name):
                self.assertEqual(on(frame)["drops"].inside, name)
                self.assertEqual(crossings(list(placed.values())), [])
                own = placed["drops"]
                low = points_moved(own.thing.hull, own.pose)[:, 2].min()
                self.assertGreater(low, 0.79)
                self.assertLess(low, 5.0)
                away = own.pose[:2, 3] - placed[name].pose[:2, 3]
                x = HOLES[0].x if name == "gift" else 0.0
                np.testing.assert_allclose(away, [x * np.cos(np.pi / 6), x * np.sin(np.pi / 6)], atol=1.0)

    def test_it_goes_with_the_tray_of_a_drawer_that_is_opened(self) -> None:
        found = []
        for closed in (0.9, 1.0):
            packs = {**PACKS, "drawer": box("drawer", depth=70, closed=closed)}
            things = {**THINGS, "drawer": thing_of(packs["drawer"], {}, coarse=True)}
            frame = frame_of(stood("drawer"), stood("drops", inside="drawer"))
            placed = {one.id: one for one in line_up(frame.model_copy(update={"packs": packs}), things)}
            found.append(float(placed["drops"].pose[0, 3]))
        self.assertGreater(found[0] - found[1], 40)

    def test_holes_are_filled_one_after_the_other(self) -> None:
        bottles = [stood(f"drops-{n}", "drops", pose=Pose(x=-100 * n)) for n in (1, 2, 3)]
        frame = after(frame_of(stood("gift"), *bottles), PutIn(ids=["drops-1"], box="gift"))
        frame = after(frame, PutIn(ids=["drops-2"], box="gift"))
        self.assertEqual([on(frame)[f"drops-{n}"].pose.x for n in (1, 2)], [-36, 36])
        with self.assertRaisesRegex(PackError, "0 of the insert's 2 are free") as caught:
            after(frame, PutIn(ids=["drops-3"], box="gift"))
        self.assertEqual(caught.exception.place, "ids")

    def test_what_does_not_fit_side_by_side_is_refused_with_its_size(self) -> None:
        bottles = [stood(f"drops-{n}", "drops") for n in range(6)]
        with self.assertRaisesRegex(PackError, r"They take up .* mm side by side, and the box is 150 × 80"):
            after(frame_of(stood("tray"), *bottles), PutIn(ids=[one.id for one in bottles], box="tray"))

    def test_only_boxes_take_things(self) -> None:
        frame = frame_of(stood("drops"), stood("other", "drops"), stood("tray"))
        with self.assertRaisesRegex(PackError, "is no box that stands here"):
            after(frame, PutIn(ids=["drops"], box="other"))
        with self.assertRaisesRegex(PackError, "Nothing that is chosen"):
            after(frame, PutIn(ids=["tray"], box="tray"))


class MovingTests(TestCase):
    def filled(self) -> Frame:
        frame = frame_of(
            stood("gift", pose=Pose(x=50)), stood("drops"), stood("other", "drops", pose=Pose(x=-300))
        )
        return after(frame, PutIn(ids=["drops"], box="gift"))

    def test_a_row_takes_what_is_in_a_box_along(self) -> None:
        frame = after(self.filled(), Row(ids=["gift", "other", "drops"], gap=20))
        self.assertEqual(on(frame)["drops"].pose, on(self.filled())["drops"].pose)
        placed = {one.id: one for one in line_up(frame, THINGS)}
        away = placed["drops"].pose[:3, 3] - placed["gift"].pose[:3, 3]
        self.assertAlmostEqual(float(away[0]), -36, places=3)

    def test_resting_leaves_it_on_its_floor(self) -> None:
        frame = after(self.filled(), Rest(ids=["drops", "gift"]))
        self.assertEqual(on(frame)["drops"].pose, on(self.filled())["drops"].pose)

    def test_a_box_is_copied_with_what_is_in_it(self) -> None:
        frame = after(self.filled(), Copies(ids=["gift"], count=2))
        inside = [(one.id, one.inside) for one in frame.photo_set.standing if one.inside]
        self.assertEqual(inside, [("drops", "gift"), ("drops-2", "gift-2"), ("drops-3", "gift-3")])
        self.assertEqual(crossings(line_up(frame, THINGS)), [])

    def test_a_copy_of_what_is_in_a_box_stands_in_its_next_hole(self) -> None:
        frame = after(self.filled(), Copies(ids=["drops"], count=1))
        self.assertEqual((on(frame)["drops-2"].inside, on(frame)["drops-2"].pose.x), ("gift", 36))

    def test_taken_out_it_stands_beside_everything(self) -> None:
        frame = after(self.filled(), TakeOut(ids=["drops"]))
        self.assertIsNone(on(frame)["drops"].inside)
        placed = line_up(frame, THINGS)
        self.assertEqual(crossings(placed), [])
        self.assertAlmostEqual(lowest(next(one for one in placed if one.id == "drops")), 0, places=3)

    def test_of_a_box_that_is_taken_away_the_rest_stays(self) -> None:
        before = {one.id: one.pose for one in line_up(self.filled(), THINGS)}
        frame = after(self.filled(), TakeAway(ids=["gift"]))
        [own] = [one for one in line_up(frame, THINGS) if one.id == "drops"]
        np.testing.assert_allclose(own.pose[:2, 3], before["drops"][:2, 3], atol=1e-3)
        self.assertAlmostEqual(lowest(own), 0, places=3)


class DocumentTests(TestCase):
    def test_circles_strangers_and_groups_are_refused_with_their_place(self) -> None:
        base = three_lights().model_dump()
        tray = {"id": "tray", "of": {"kind": "pack", "pack": "tray"}}
        others = [{**tray, "id": "b", "inside": "c"}, {**tray, "id": "c", "inside": "b"}]
        base["groups"] = {"row": {"name": "Row"}}
        for standing, words in (
            ([{**tray, "inside": "b", "group": "row"}, {**tray, "id": "b"}], "moves with its box"),
            ([{**tray, "inside": "gone"}], "is not on this set"),
            ([{**tray, "inside": "tray"}], "cannot stand in what stands in it"),
            ([{**tray, "inside": "b"}, *others], "cannot stand in"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ValidationError, words) as caught:
                PhotoSet.model_validate({**base, "standing": standing})
            error = caught.exception.errors()[0]["ctx"]["error"]
            self.assertEqual(error.place, "standing.0.inside")

    def test_a_box_that_is_none_any_more_leaves_its_contents_where_it_stands(self) -> None:
        frame = frame_of(stood("a", "drops", pose=Pose(x=70)), stood("b", "drops", inside="a"))
        placed = {one.id: one for one in line_up(frame, THINGS)}
        np.testing.assert_allclose(placed["b"].pose, placed["a"].pose)
