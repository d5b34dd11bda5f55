"""What follows by itself: framing and the size of the set."""

from __future__ import annotations

import math
from itertools import product
from unittest import TestCase

import numpy as np

from giftwrap.core.model import Camera, PhotoSet, Shot, Softbox
from giftwrap.core.stage.camera import project
from giftwrap.core.stage.fitting import (
    LOWERED,
    fit_of,
    fitted_camera,
    fitted_set,
    framed,
    reach_of,
)
from giftwrap.core.stage.lights import hung, radiance_of
from giftwrap.core.stage.starting import ARRANGED_FOR, starting_set, starting_shot
from giftwrap.core.tests.samples import TALL, three_lights
from giftwrap.core.things.making import thing_of
from giftwrap.core.things.starting import starting_points
from giftwrap.core.things.thing import Extent

DROPPER = Extent((-17.0, -17.0, 0.0), (17.0, 17.0, 96.0))
RANGE = Extent((-310.0, -60.0, 0.0), (310.0, 40.0, 240.0))
FAR_ASIDE = Extent((900.0, 380.0, 0.0), (960.0, 440.0, 80.0))
ASPECTS = (0.5, 0.8, 1.0, 1.91)


def taken_in(camera: Camera, extent: Extent, aspect: float) -> np.ndarray:
    """Where the ellipses at its foot and its top come to lie, by the projection of the camera's own tests."""
    low, high = np.array(extent.low), np.array(extent.high)
    turns = np.radians(np.arange(0, 360, 2))
    flat = [(low[k] + high[k]) / 2 + (high[k] - low[k]) / 2 * f(turns) for k, f in ((0, np.cos), (1, np.sin))]
    rings = [np.stack([*flat, np.full(len(turns), z)], axis=1) for z in (low[2], high[2])]
    return project(camera, aspect, np.vstack(rings))


FULL = 0.7
"""Share of the picture that what stands fills with the margin a camera has at first."""


class FramingTests(TestCase):
    def test_it_fills_what_it_should_and_stands_a_little_low(self) -> None:
        for extent in (TALL, DROPPER, RANGE, FAR_ASIDE):
            for aspect in ASPECTS:
                for azimuth in (0.0, 35.0, -140.0):
                    with self.subTest(extent=extent, aspect=aspect, azimuth=azimuth):
                        camera = framed(Camera(lens_mm=85, azimuth=azimuth, height=260), extent, aspect)
                        seen = taken_in(camera, extent, aspect)
                        low, high = seen.min(axis=0), seen.max(axis=0)
                        share = max(high[1] - low[1], high[0] - low[0]) / FULL
                        self.assertAlmostEqual(share, 1, delta=0.02)
                        self.assertAlmostEqual((low[1] + high[1]) / 2, 0.5 + LOWERED, delta=0.004)
                        self.assertAlmostEqual(camera.azimuth, azimuth)
                        self.assertEqual(fit_of(camera, extent, aspect), "fits")

    def test_it_leaves_the_margin_it_is_told_to(self) -> None:
        for margin in (0.02, 0.1, 0.3):
            for camera in (Camera(lens_mm=85, height=260), Camera(projection="orthographic", height=260)):
                one = framed(camera.model_copy(update={"margin": margin}), TALL, 1.5)
                seen = taken_in(one, TALL, 1.5)
                self.assertAlmostEqual(np.ptp(seen, axis=0).max(), 1 - 2 * margin, delta=0.02)

    def test_it_goes_on_looking_down_as_steeply(self) -> None:
        for rise in (0.0, 140.0, 700.0):
            camera = framed(Camera(distance=1000, aim_height=100, height=100 + rise), RANGE, 1.5)
            steepness = math.atan2(camera.height - camera.aim_height, camera.distance)
            self.assertAlmostEqual(steepness, math.atan2(rise, 1000), places=4)

    def test_without_perspective_the_width_changes(self) -> None:
        flat = Camera(projection="orthographic", distance=1000, height=300, aim_height=100)
        for extent in (DROPPER, RANGE):
            seen = taken_in(framed(flat, extent, 0.8), extent, 0.8)
            spread = seen.max(axis=0) - seen.min(axis=0)
            self.assertAlmostEqual(max(spread) / FULL, 1, delta=0.02)

    def test_what_was_framed_by_hand_stays_and_says_when_it_does_not_fit(self) -> None:
        shot = Shot(camera=framed(Camera(), TALL, 0.8))
        self.assertEqual(fitted_camera(shot, DROPPER, 0.8), shot.camera)
        self.assertEqual(fit_of(shot.camera, TALL, 0.8), "fits")
        self.assertEqual(fit_of(shot.camera, DROPPER, 0.8), "small")
        self.assertEqual(fit_of(shot.camera, RANGE, 0.8), "cropped")
        self.assertEqual(fit_of(shot.camera, FAR_ASIDE, 0.8), "cropped")

    def test_every_starting_pack_is_framed_in_a_new_shot(self) -> None:
        for point in starting_points():
            with self.subTest(point.slug):
                extent = thing_of(point.pack, {}, coarse=True).extent
                camera = fitted_camera(starting_shot(), extent, 0.8)
                self.assertEqual(fit_of(camera, extent, 0.8), "fits")
                Shot(camera=Camera.model_validate(camera.model_dump()))


class FittedSetTests(TestCase):
    def test_what_stands_is_lit_alike_at_every_size(self) -> None:
        """Lights keep their directions, their radiance and the angle they take up as what stands sees it."""
        photo_set = starting_set()
        for extent in (DROPPER, TALL):
            scaled = fitted_set(photo_set, extent)
            ratio = reach_of(extent) / ARRANGED_FOR
            for before, after in zip(photo_set.lights, scaled.lights, strict=True):
                self.assertAlmostEqual(radiance_of(after) / radiance_of(before), 1)
                self.assertAlmostEqual(after.distance / before.distance, ratio)
                self.assertAlmostEqual(after.width / after.distance, before.width / before.distance)
                out = np.subtract(hung(after, extent.middle).centre, extent.middle)
                here = np.array(hung(before, (0, 0, 0)).centre)
                np.testing.assert_allclose(out / np.linalg.norm(out), here / np.linalg.norm(here), atol=1e-9)
            self.assertAlmostEqual(scaled.sweep.back, photo_set.sweep.back * ratio)
            PhotoSet.model_validate(scaled.model_dump())

    def test_a_set_arranged_by_hand_stays(self) -> None:
        self.assertEqual(fitted_set(three_lights(), DROPPER), three_lights())

    def test_nothing_grows_beyond_what_a_document_may_say(self) -> None:
        hall = Extent((-4000.0, -100.0, 0.0), (4000.0, 100.0, 300.0))
        scaled = fitted_set(starting_set(), hall)
        PhotoSet.model_validate(scaled.model_dump())
        for before, after in zip(starting_set().lights, scaled.lights, strict=True):
            self.assertAlmostEqual(radiance_of(after) / radiance_of(before), 1)

    def test_nor_whatever_a_document_may_say_before(self) -> None:
        """The least and the most of every length, on sets and in cameras."""
        least, most = 5e-324, 5000.0
        for length, scaled_for, distance in product((least, most), repeat=3):
            light = Softbox(
                name="Key",
                width=length,
                height=length,
                azimuth=0,
                elevation=90,
                distance=distance,
                power_w=10_000,
            )
            photo_set = starting_set().model_copy(update={"lights": [light], "scaled_for": scaled_for})
            for extent in (Extent((-1e-3,) * 3, (1e-3,) * 3), Extent((-5000.0,) * 3, (5000.0,) * 3)):
                PhotoSet.model_validate(fitted_set(photo_set, extent).model_dump())
        steep = product((least, most), (-most, most), (8, 1200), ("perspective", "orthographic"))
        for distance, height, lens, projection in steep:
            camera = Camera(distance=distance, height=height, lens_mm=lens, projection=projection)
            for extent in (Extent((-1e-3,) * 3, (1e-3,) * 3), Extent((-5000.0,) * 3, (5000.0,) * 3)):
                Camera.model_validate(framed(camera, extent, 0.8).model_dump())

    def test_old_documents_are_by_hand(self) -> None:
        self.assertIsNone(PhotoSet(lights=[]).scaled_for)
        self.assertTrue(Shot().framed_by_hand)
