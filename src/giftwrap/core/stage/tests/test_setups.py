"""Set-ups fit whatever stands: never black nor burnt out, nothing deep in the floor or behind the wall."""

from __future__ import annotations

from typing import get_args
from unittest import TestCase

import numpy as np

from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.model import Card, Frame, LightTable, PhotoSet, Sun
from giftwrap.core.model.arrangement import SetUp
from giftwrap.core.render.film import Film
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.stage.arranging import arranged
from giftwrap.core.stage.fitting import fitted_camera, fitted_set
from giftwrap.core.stage.lights import hung
from giftwrap.core.stage.setups import SETUPS
from giftwrap.core.stage.standing import extent_of, line_up
from giftwrap.core.stage.starting import starting_set, starting_shot
from giftwrap.core.tests.samples import bottle, cylinder, three_lights, vessel_pack
from giftwrap.core.things.making import thing_of

JAR, BOTTLE = vessel_pack(body=cylinder(radius=28, height=45)), vessel_pack(body=bottle())


def set_up(pack: object, what: str, photo_set: PhotoSet) -> tuple[Frame, list]:
    frame = Frame(packs={"pack": pack}, photo_set=photo_set, shot=starting_shot())  # type: ignore[dict-item]
    things = {"pack": thing_of(pack, {}, coarse=True)}  # type: ignore[arg-type]
    lit = arranged(frame, SetUp(what=what), things)  # type: ignore[arg-type]
    frame = frame.model_copy(update={"photo_set": lit})
    return frame, line_up(frame, things)


class SetupTests(TestCase):
    def test_all_that_can_be_asked_for_are_there(self) -> None:
        self.assertEqual(set(get_args(SetUp.model_fields["what"].annotation)), set(SETUPS))
        self.assertFalse(SETUPS["warm-evening"].neutral)
        self.assertTrue(SETUPS["soft-three"].neutral)

    def test_nothing_hangs_in_the_floor_or_behind_the_wall(self) -> None:
        for what in SETUPS.keys() - {"soft-three"}:  # whose strips go through the table
            for pack in (JAR, BOTTLE):
                frame, placed = set_up(pack, what, starting_set())
                extent = extent_of(placed)
                fitted = fitted_set(frame.photo_set, extent)
                for light in fitted.lights:
                    if isinstance(light, (Sun, LightTable)):
                        continue
                    own = hung(light, extent.middle)
                    corners = [
                        np.array(own.centre) + x * np.array(own.across) + y * np.array(own.up)
                        for x in (-1, 1)
                        for y in (-1, 1)
                    ]
                    with self.subTest(what=what, light=light.name):
                        if not isinstance(light, Card):
                            self.assertGreater(min(c[2] for c in corners), -0.5 * extent.high[2])
                        self.assertLess(own.centre[1], fitted.sweep.back)

    def test_none_is_black_and_none_is_burnt_out(self) -> None:
        renderer = None
        for what in SETUPS:
            frame, placed = set_up(BOTTLE, what, starting_set())
            scene = compile_scene(frame, {}, quick=True)
            renderer = Renderer(scene, previous=renderer)
            film = Film(32, 40)
            camera = fitted_camera(frame.shot, extent_of(placed), 0.8)
            film.add(renderer.expose(camera, (32, 40), samples=24, seed=3))
            light = film.mean_light() @ LUMINANCE
            with self.subTest(what):
                self.assertGreater(float(np.quantile(light, 0.98)), 0.15)
                self.assertLess(float(np.median(light)), 1.6)

    def test_a_set_that_follows_goes_on_so(self) -> None:
        frame, placed = set_up(JAR, "window", starting_set())
        self.assertIsNotNone(frame.photo_set.scaled_for)
        by_hand, _ = set_up(JAR, "window", three_lights())
        self.assertIsNone(by_hand.photo_set.scaled_for)
        follows = fitted_set(frame.photo_set, extent_of(placed)).lights[0]
        self.assertAlmostEqual(follows.distance, by_hand.photo_set.lights[0].distance, delta=0.1)
