"""Hanging lights: new ones, and by where the picture shows them mirrored."""

from __future__ import annotations

import math
from unittest import TestCase

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.model import (
    Ball,
    Board,
    Camera,
    Card,
    Carton,
    EvenSurround,
    Frame,
    Light,
    Opaque,
    Oval,
    Pack,
    PhotoSet,
    SectionMark,
    Softbox,
    Spot,
    Sun,
    Sweep,
)
from giftwrap.core.model.arrangement import HangLight, Highlight, Rim
from giftwrap.core.render.film import Film
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.stage.arranging import arranged
from giftwrap.core.stage.camera import project, ray_through
from giftwrap.core.stage.fitting import fitted_camera, fitted_set, reach_of
from giftwrap.core.stage.lights import hung
from giftwrap.core.stage.standing import extent_of, line_up
from giftwrap.core.stage.starting import starting_set, starting_shot
from giftwrap.core.stage.touching import first_touched
from giftwrap.core.tests.samples import bottle, cylinder, formed, portrait, three_lights, vessel_pack
from giftwrap.core.things.making import thing_of

GLOSSY = Opaque(colour="#101010", gloss=1.0)
SMALL = Spot(name="Dot", diameter=6, azimuth=0, elevation=30, distance=500, power_w=0.05, beam=120)
DARK = PhotoSet(
    lights=[SMALL], surround=EvenSurround(strength=0.0), background="#000000", sweep=Sweep(back=2000)
)


def glossy(pack: Pack) -> Pack:
    return formed(pack, body=pack.form.body.model_copy(update={"material": GLOSSY}))


def oval_flask() -> Pack:
    body = bottle().model_copy(update={"sections": [SectionMark(height=0, section=Oval(depth_ratio=0.55))]})
    return glossy(vessel_pack(body=body))


def carton() -> Pack:
    board = Board(outside=GLOSSY)
    return Pack(form=Carton(style="straight-tuck", length=80, width=50, depth=160, board=board))


def frame_with(pack: Pack, photo_set: PhotoSet = DARK, camera: Camera | None = None) -> Frame:
    shot = portrait() if camera is None else portrait().model_copy(update={"camera": camera})
    return Frame(packs={"pack": pack}, photo_set=photo_set, shot=shot)


def things(frame: Frame) -> dict:
    return {key: thing_of(pack, {}) for key, pack in frame.packs.items()}


def on_pack(frame: Frame, placed: list, x: float, y: float) -> np.ndarray:
    """The place on a pack that is seen at a place of the picture."""
    touch = first_touched(placed, *ray_through(frame.shot.camera, frame.shot.aspect, x, y))
    assert touch is not None
    return touch.place


class HighlightTests(TestCase):
    def test_it_is_where_it_was_pointed_at(self) -> None:
        """The brightest of the picture is within 2 mm of the place on a bottle, a flask and a carton."""
        turned = Camera(lens_mm=85, distance=1050, height=190, aim_height=90, azimuth=24)
        for name, pack, camera, x, y in (
            ("bottle", glossy(vessel_pack(body=bottle())), None, 0.46, 0.55),
            ("oval flask", oval_flask(), None, 0.55, 0.6),
            ("carton", carton(), turned, 0.47, 0.5),
        ):
            with self.subTest(name):
                frame = frame_with(pack, camera=camera)
                own = things(frame)
                lit = arranged(frame, Highlight(light=0, x=x, y=y), own)
                self.assertAlmostEqual(lit.lights[0].distance, 500)
                frame = frame.model_copy(update={"photo_set": lit})
                size = (320, 400)
                film = Film(*size)
                scene = compile_scene(frame, {})
                film.add(Renderer(scene).expose(frame.shot.camera, size, samples=16, seed=1))
                light = film.mean_light().mean(axis=2)
                rows, columns = np.nonzero(light > 0.3 * light.max())
                found = (columns.mean() + 0.5) / size[0], (rows.mean() + 0.5) / size[1]
                placed = line_up(frame, own)
                wanted = on_pack(frame, placed, x, y)
                apart = np.linalg.norm(on_pack(frame, placed, *found) - wanted)
                self.assertLess(float(apart), 2.0)

    def test_what_cannot_be_is_said(self) -> None:
        pack = glossy(vessel_pack(body=bottle()))
        far = SMALL.model_copy(update={"distance": 3000})
        aside = float(project(portrait().camera, 0.8, np.array([[31.0, -18.0, 90.0]]))[0, 0])
        for words, x, y, photo_set in (
            ("Nothing stands there", 0.02, 0.02, DARK),
            ("in the floor", 0.5, 0.7, DARK.model_copy(update={"lights": [far]})),
            ("behind the backdrop", aside, 0.55, DARK.model_copy(update={"sweep": Sweep(back=200)})),
        ):
            with self.subTest(words):
                frame = frame_with(pack, photo_set)
                with self.assertRaises(PackError) as caught:
                    arranged(frame, Highlight(light=0, x=x, y=y), things(frame))
                self.assertIn(words, caught.exception.message)
        with self.assertRaises(PackError):
            arranged(frame_with(pack), Highlight(light=3, x=0.5, y=0.5), things(frame_with(pack)))

    def test_a_large_light_is_lifted_off_the_floor(self) -> None:
        """A camera that looks down sees low things in an upright wall: of a tall strip, its lower end."""
        strip = Softbox(name="S", width=60, height=620, azimuth=0, elevation=0, distance=450, power_w=1)
        frame = frame_with(glossy(vessel_pack(body=bottle())), DARK.model_copy(update={"lights": [strip]}))
        lit = arranged(frame, Highlight(light=0, x=0.46, y=0.6), things(frame)).lights[0]
        own = hung(lit, (0, 0, 0))
        self.assertAlmostEqual(own.centre[2] - abs(own.up[2]), 1.0, delta=0.1)
        self.assertGreater(own.target[2], 200)

    def test_a_sun_is_turned(self) -> None:
        sun = Sun(name="Sun", azimuth=0, elevation=80, irradiance=3)
        frame = frame_with(glossy(vessel_pack(body=bottle())), DARK.model_copy(update={"lights": [sun]}))
        lit = arranged(frame, Highlight(light=0, x=0.47, y=0.33), things(frame)).lights[0]
        self.assertLess(lit.azimuth, 0, "left of the middle mirrors what is on the left")


class RimTests(TestCase):
    BOX = Softbox(name="Box", width=40, height=90, azimuth=0, elevation=20, distance=500, power_w=2)

    def lit(self, light: Light) -> tuple[Frame, dict]:
        """A bottle that mirrors a light in its middle."""
        frame = frame_with(glossy(vessel_pack(body=bottle())), DARK.model_copy(update={"lights": [light]}))
        own = things(frame)
        hung_there = arranged(frame, Highlight(light=0, x=0.48, y=0.5), own)
        return frame.model_copy(update={"photo_set": hung_there}), own

    def rimmed(self, frame: Frame, own: dict, x: float, y: float, **more: bool) -> Light:
        return arranged(frame, Rim(light=0, x=x, y=y, **more), own).lights[0]

    def test_a_highlight_reaches_to_where_it_is_dragged(self) -> None:
        """In the render it ends within 3 mm of the place, to the side and upwards, where polish spreads its
        edge over some 8 mm; its power stays."""
        frame, own = self.lit(self.BOX)
        for x, y, changed in ((0.462, 0.5, "width"), (0.48, 0.41, "height")):
            with self.subTest(changed):
                light = self.rimmed(frame, own, x, y)
                same = {"width", "height"} - {changed}
                self.assertEqual(
                    [getattr(light, one) for one in same], [getattr(self.BOX, one) for one in same]
                )
                self.assertGreater(getattr(light, changed), getattr(self.BOX, changed))
                self.assertEqual(light.power_w, self.BOX.power_w)
                shown = frame.model_copy(
                    update={"photo_set": frame.photo_set.model_copy(update={"lights": [light]})}
                )
                size, film = (480, 600), Film(480, 600)
                film.add(
                    Renderer(compile_scene(shown, {})).expose(shown.shot.camera, size, samples=12, seed=1)
                )
                bright = film.mean_light().mean(axis=2)
                row, column = round(0.5 * 600), round(0.48 * 480)
                along = bright[row] if changed == "width" else bright[:, column]
                at = column if changed == "width" else row
                dark = np.flatnonzero(along[:at] < 0.5 * along[at])
                found = (dark[-1] + 1) / size[0 if changed == "width" else 1]
                ends = (found, y) if changed == "width" else (x, found)
                placed = line_up(shown, own)
                apart = on_pack(shown, placed, *ends) - on_pack(shown, placed, x, y)
                self.assertLess(float(np.linalg.norm(apart)), 3.0)

    def test_once_more_changes_nothing(self) -> None:
        for light in (
            self.BOX,
            SMALL,
            Ball(name="B", diameter=20, azimuth=0, elevation=20, distance=500, power_w=1),
        ):
            frame, own = self.lit(light)
            once = self.rimmed(frame, own, 0.465, 0.5)
            again = frame.model_copy(
                update={"photo_set": frame.photo_set.model_copy(update={"lights": [once]})}
            )
            twice = self.rimmed(again, own, 0.465, 0.5)
            for name in ("width", "height", "diameter"):
                if hasattr(once, name):
                    self.assertAlmostEqual(getattr(twice, name), getattr(once, name), delta=0.05)

    def test_a_soft_rim_is_half_as_bright_there(self) -> None:
        frame, own = self.lit(self.BOX.model_copy(update={"width": 200.0}))
        light = self.rimmed(frame, own, 0.472, 0.5, soft=True)
        wide = self.rimmed(frame, own, 0.472, 0.5).width / 200
        self.assertEqual((light.width, light.across.towards), (200, "edges"))
        self.assertAlmostEqual(1 - light.across.by * wide**light.across.curve, 0.5, delta=0.01)
        spot, own = self.lit(SMALL.model_copy(update={"diameter": 160.0, "distance": 300.0}))
        self.assertGreater(self.rimmed(spot, own, 0.472, 0.5, soft=True).rim, 0.3)

    def test_what_cannot_be_is_said(self) -> None:
        sun = Sun(name="Sun", azimuth=0, elevation=80, irradiance=3)
        card = Card(name="Card", width=100, height=100, azimuth=0, elevation=20, distance=300)
        for words, light, x, soft in (
            ("its diameter in degrees", sun, 0.47, False),
            ("no rim that could be soft", card, 0.47, True),
            ("larger than 10 m", self.BOX.model_copy(update={"distance": 9000.0}), 0.45, False),
            ("Nothing stands there", self.BOX, 0.02, False),
        ):
            with self.subTest(words):
                frame, own = self.lit(self.BOX)
                frame = frame.model_copy(
                    update={"photo_set": frame.photo_set.model_copy(update={"lights": [light]})}
                )
                with self.assertRaises(PackError) as caught:
                    self.rimmed(frame, own, x, 0.5, soft=soft)
                self.assertIn(words, caught.exception.message)


class FollowingTests(TestCase):
    def test_a_set_that_follows_stays_as_it_was_then(self) -> None:
        frame = Frame(
            packs={"pack": glossy(vessel_pack(body=bottle()))}, photo_set=starting_set(), shot=starting_shot()
        )
        own = things(frame)
        extent = extent_of(line_up(frame, own))
        lit = arranged(frame, Highlight(light=0, x=0.47, y=0.4), own)
        self.assertIsNone(lit.scaled_for)
        self.assertEqual(lit.lights[1:], fitted_set(starting_set(), extent).lights[1:])


class NewLightTests(TestCase):
    def test_each_kind_is_of_the_size_of_what_stands(self) -> None:
        for height in (40.0, 400.0):
            frame = frame_with(vessel_pack(body=cylinder(height=height)), three_lights())
            reach = reach_of(extent_of(line_up(frame, things(frame))))
            for what in ("softbox", "strip", "spot", "ball", "window", "card", "flag"):
                lights = arranged(frame, HangLight(what=what), things(frame)).lights
                self.assertEqual(len(lights), 4)
                with self.subTest(what=what, height=height):
                    self.assertGreater(lights[3].distance, 0.7 * reach)
                    self.assertLess(lights[3].distance, 4 * reach)

    def test_names_are_told_apart_and_there_is_an_end_to_it(self) -> None:
        frame = frame_with(vessel_pack(body=cylinder()), three_lights())
        for _ in range(13):
            frame = frame.model_copy(
                update={"photo_set": arranged(frame, HangLight(what="strip"), things(frame))}
            )
        self.assertEqual(len({light.name for light in frame.photo_set.lights}), 16)
        with self.assertRaises(PackError):
            arranged(frame, HangLight(what="sun"), things(frame))


class PlaceTests(TestCase):
    def test_a_ray_goes_through_its_place(self) -> None:
        for camera in (portrait().camera, Camera(projection="orthographic", azimuth=30)):
            for x, y in ((0.5, 0.5), (0.1, 0.8), (0.9, 0.3)):
                begin, way = ray_through(camera, 0.8, x, y)
                np.testing.assert_allclose(
                    project(camera, 0.8, (begin + 700 * way)[None])[0], (x, y), atol=1e-9
                )

    def test_a_card_and_a_light_hang_alike(self) -> None:
        own = {"name": "A", "width": 100, "height": 200, "azimuth": 30, "elevation": 20, "distance": 400}
        card, box = Card(**own), Softbox(**own, power_w=1)
        self.assertEqual(hung(card, (0, 0, 50)), hung(box, (0, 0, 50)))

    def test_roll_turns_to_the_right_as_seen_from_what_is_lit(self) -> None:
        """A lamp in front of the set, seen from the pack: its upper edge goes to the pack's own left, −x seen
        from the camera is its right."""
        box = Softbox(name="A", width=1, height=2, azimuth=0, elevation=0, distance=400, power_w=1, roll=90)
        up = np.array(hung(box, (0, 0, 0)).up)
        np.testing.assert_allclose(up / np.linalg.norm(up), (-1, 0, 0), atol=1e-12)
        self.assertAlmostEqual(float(np.linalg.norm(up)), 1.0)
        self.assertEqual(math.copysign(1, hung(box.model_copy(update={"roll": 0}), (0, 0, 0)).up[2]), 1)

    def test_the_camera_of_a_shot_that_follows_is_asked(self) -> None:
        frame = Frame(packs={"pack": vessel_pack(body=bottle())}, photo_set=DARK, shot=starting_shot())
        placed = line_up(frame, things(frame))
        camera = fitted_camera(frame.shot, extent_of(placed), frame.shot.aspect)
        touch = first_touched(placed, *ray_through(camera, frame.shot.aspect, 0.5, 0.5))
        assert touch is not None
        self.assertEqual((touch.standing, touch.part), ("hero", "body"))
        self.assertLess(touch.normal[1], -0.9)
