"""What is wrong with where lights, camera and things are, and what mends it; distances worked by hand."""

from __future__ import annotations

from unittest import TestCase

from giftwrap.bench.demo_job import demo_frame
from giftwrap.core.errors import PackError
from giftwrap.core.model import (
    Camera,
    ColourBehind,
    Frame,
    MadeProp,
    Palette,
    PhotoSet,
    Point,
    Pose,
    Shot,
    Softbox,
    Standing,
    Sun,
    Sweep,
    said_in_full,
)
from giftwrap.core.model.arrangement import ClearLights, WidenSweep
from giftwrap.core.model.photo_set import OfProp
from giftwrap.core.model.prop import PropName
from giftwrap.core.props.kinds import usual
from giftwrap.core.stage.arranging import arranged
from giftwrap.core.stage.camera import view_of
from giftwrap.core.stage.faults import faults_of
from giftwrap.core.stage.lights import hung
from giftwrap.core.stage.plan import plan_of
from giftwrap.core.stage.standing import extent_of, line_up
from giftwrap.core.things.making import thing_of, thing_of_prop, things_in
from giftwrap.story import demo_story

SWEEP = Sweep(width=1000, front=400, back=600, height=800, curve_radius=200)
LAMP = Softbox(
    name="Key", width=60, height=60, power_w=50, distance=500, azimuth=90, elevation=0, aim=Point(z=50)
)


def prop(what: PropName, **sizes: float) -> MadeProp:
    return usual(what).model_copy(update={"edge": 0.0, **sizes})


BLOCK = prop("block", width=100, depth=100, height=100)


def with_props(props: dict[str, tuple[MadeProp, Pose]], **changes: object) -> Frame:
    """A set of props, by name."""
    standing = [Standing(id=name, of=OfProp(prop=name), pose=pose) for name, (_, pose) in props.items()]
    photo_set = PhotoSet.model_validate(
        {
            "standing": [one.model_dump() for one in standing],
            "props": {name: made.model_dump() for name, (made, _) in props.items()},
            "lights": [],
            "sweep": SWEEP.model_dump(),
            "scaled_for": None,
            **changes,
        }
    )
    return Frame(packs={}, photo_set=photo_set, shot=Shot(), palette=Palette())


def things_of(frame: Frame) -> dict:
    return {f"prop:{name}": thing_of_prop(made) for name, made in frame.photo_set.props.items()}


def found(frame: Frame, camera: Camera | None = None) -> list[tuple]:
    view = view_of(camera or Camera(), 1.5)
    placed = line_up(frame, things_of(frame))
    return [(one.what, one.thing, one.light, one.by) for one in faults_of(frame.photo_set, view, placed)]


class SweepTests(TestCase):
    def test_all_is_well(self) -> None:
        self.assertEqual(found(with_props({"a": (BLOCK, Pose())}, lights=[LAMP.model_dump()])), [])

    def test_beyond_its_edges(self) -> None:
        for pose, by in ((Pose(x=470), 20), (Pose(x=-480), 30), (Pose(y=-360), 10), (Pose(y=590), 40)):
            frame = with_props({"a": (BLOCK, pose), "b": (BLOCK, Pose(x=200))})
            self.assertEqual(found(frame), [("beyond", "a", None, by)], pose)

    def test_in_its_curve(self) -> None:
        """Of radius 200 from 400 on: 100 further back it is 200 − √(200² − 100²) = 26.8 high."""
        self.assertEqual(found(with_props({"a": (BLOCK, Pose(y=450))})), [("curve", "a", None, 0.0)])
        self.assertEqual(found(with_props({"a": (BLOCK, Pose(y=450, z=25.7))})), [("curve", "a", None, 0.0)])
        self.assertEqual(found(with_props({"a": (BLOCK, Pose(y=450, z=26))})), [])
        no_wall = ColourBehind().model_dump()
        self.assertEqual(found(with_props({"a": (BLOCK, Pose(y=450))}, behind=no_wall)), [])

    def test_a_prop_larger_than_the_sweep_is_carried_by_a_wider_one(self) -> None:
        frame = with_props({"a": (prop("block", width=1400, depth=1000, height=20), Pose())})
        self.assertEqual([what for what, *_ in found(frame)], ["beyond"])
        wider = arranged(frame, WidenSweep(), things_of(frame))
        self.assertEqual(found(frame.model_copy(update={"photo_set": wider})), [])
        self.assertEqual(wider.sweep.width, 1400 * 1.05)
        self.assertEqual(wider.sweep.front, 500 * 1.05)

    def test_no_sweep_is_that_large(self) -> None:
        frame = with_props({"a": (BLOCK, Pose(x=4000))})
        with self.assertRaisesRegex(PackError, "at most 5000 mm.*8505 mm"):
            arranged(frame, WidenSweep(), things_of(frame))


class InsideTests(TestCase):
    def lit(self, *lights: object, **props: tuple[MadeProp, Pose]) -> Frame:
        there = props or {"a": (BLOCK, Pose())}
        return with_props(there, lights=[one.model_dump() for one in lights])  # type: ignore[attr-defined]

    def test_a_light_inside_is_moved_out(self) -> None:
        """Its face stands upright 30 to the right of the middle, and the block ends at 50."""
        inside = LAMP.model_copy(update={"distance": 30.0})
        frame = self.lit(LAMP, inside)
        self.assertEqual(found(frame), [("light", "a", 1, 0.0)])
        mended = arranged(frame, ClearLights(), things_of(frame))
        self.assertEqual(found(frame.model_copy(update={"photo_set": mended})), [])
        self.assertEqual(mended.lights[0], LAMP)
        self.assertGreater(mended.lights[1].distance, 50)  # type: ignore[union-attr]
        self.assertLess(mended.lights[1].distance, 50 * 1.08)  # type: ignore[union-attr]

    def test_a_corner_is_enough_and_what_is_off_is_no_fault(self) -> None:
        edge = LAMP.model_copy(update={"distance": 30.0, "aim": Point(y=70, z=50)})
        self.assertEqual([what for what, *_ in found(self.lit(edge))], ["light"])
        off = edge.model_copy(update={"on": False})
        self.assertEqual(found(self.lit(off, Sun(name="Sun", azimuth=0, elevation=30, irradiance=5))), [])

    def test_light_through_an_arch_is_not_inside(self) -> None:
        arch = prop("arch")
        through = LAMP.model_copy(update={"distance": 1.0, "width": 10.0, "height": 10.0, "azimuth": 0.0})
        frame = self.lit(through, a=(arch, Pose()))
        placed = line_up(frame, things_of(frame))
        self.assertEqual(hung(through, extent_of(placed).middle).centre[1], -1.0)
        self.assertEqual(found(frame), [])

    def test_what_cannot_be_moved_out(self) -> None:
        far = prop("block", width=1900, depth=900, height=200)
        rows = {f"r{n}": (far, Pose(x=n * 1900.0)) for n in range(-2, 3)}
        frame = self.lit(LAMP, **rows)
        with self.assertRaisesRegex(PackError, "“Key” is inside of something"):
            arranged(frame, ClearLights(), things_of(frame))

    def test_a_camera_inside(self) -> None:
        frame = with_props({"a": (BLOCK, Pose())})
        self.assertEqual(found(frame, Camera(distance=40, height=60)), [("camera", "a", None, 0.0)])
        self.assertEqual(found(frame, Camera(distance=60, height=60)), [])

    def test_a_camera_in_the_air_of_a_bottle(self) -> None:
        """The demo's bottle is 500 ml: 40 mm from its axis is in its glass or without it, 20 mm within."""
        frame, artwork = demo_frame()
        packs = {
            key: thing_of(said_in_full(pack, frame.palette), artwork) for key, pack in frame.packs.items()
        }
        placed = line_up(frame, packs)
        middle = placed[0].pose[:3, 3]
        near = Camera(distance=20, height=100, aim_x=float(middle[0]), aim_y=float(middle[1]))
        shot = frame.shot.model_copy(update={"camera": near, "framed_by_hand": True})
        faults = plan_of(frame.photo_set, shot, placed).faults
        self.assertIn(("camera", placed[0].id), [(one.what, one.thing) for one in faults])


class DemoTests(TestCase):
    def test_nothing_is_wrong_with_the_demo(self) -> None:
        story, _ = demo_story()
        for row in story["shots"]:
            frame, artwork = demo_frame(row["name"].lower().replace(" ", "-"))
            things = things_in(frame, lambda pack, artwork=artwork: thing_of(pack, artwork, coarse=True))
            plan = plan_of(frame.photo_set, frame.shot, line_up(frame, things))
            self.assertEqual(plan.faults, (), row["name"])
            self.assertTrue(all(abs(one.air) < 0.5 and not one.crosses for one in plan.stands), row["name"])
