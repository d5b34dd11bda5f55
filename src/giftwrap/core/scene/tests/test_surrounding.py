"""Surrounds of a set as light meets them: light cards, skies and their suns, what is held to the camera."""

from __future__ import annotations

import math
from datetime import date
from unittest import TestCase

import numpy as np

from giftwrap.core.around import solid_angles
from giftwrap.core.errors import PackError
from giftwrap.core.grade.display import LUMINANCE, linear_colour
from giftwrap.core.model import (
    Ball,
    EvenSurround,
    PhotoSet,
    PicturedSurround,
    SkySurround,
    StudioCard,
    StudioSurround,
    SurroundBehind,
)
from giftwrap.core.reading.panoramas import packed
from giftwrap.core.scene.lamps import lamps_of
from giftwrap.core.scene.surrounding import (
    MOST_STUDIO_ROWS,
    SUN,
    TURNED,
    seen_behind,
    studio_picture,
    sun_in,
    surrounding_of,
)
from giftwrap.core.stage.standing import NOTHING_STANDS

NOON = SkySurround(latitude=48, longitude=0, day=date(2026, 6, 21), hour=12, zone=0, haze=3)


def brightest(picture: np.ndarray) -> tuple[float, float]:
    """Where the light of a picture lies on average, degrees to the right of what is behind, and up."""
    rows = len(picture)
    weights = (picture @ LUMINANCE) * solid_angles(rows)[:, None]
    down = ((np.arange(rows) + 0.5) / rows * math.pi)[:, None]
    aside = ((np.arange(2 * rows) + 0.5) / rows * math.pi - math.pi)[None]
    x, y, z = (
        (weights * np.sin(down) * np.sin(aside)).sum(),
        (weights * np.sin(down) * np.cos(aside)).sum(),
        (weights * np.cos(down)).sum(),
    )
    return math.degrees(math.atan2(x, y)), math.degrees(math.atan2(z, math.hypot(x, y)))


def card(**more: object) -> StudioCard:
    return StudioCard(
        **{"name": "Key", "azimuth": 60, "elevation": 30, "width": 40, "height": 30, "soft": 0, **more}
    )


class StudioTests(TestCase):
    def test_a_card_is_where_a_light_of_its_angles_is(self) -> None:
        """From the camera, azimuth 0, to its right: what is behind is 180° from there."""
        for azimuth, elevation in ((0, 0), (60, 30), (-120, 10), (175, -20)):
            studio = StudioSurround(base=0, cards=[card(azimuth=azimuth, elevation=elevation)])
            right, up = brightest(studio_picture(studio))
            wanted = math.radians(180 - azimuth)
            turned = math.degrees(math.atan2(math.sin(wanted), math.cos(wanted)))
            self.assertAlmostEqual((right - turned + 180) % 360 - 180, 0, delta=1)
            self.assertAlmostEqual(up, elevation, delta=1)

    def test_its_light_is_radiance_by_solid_angle(self) -> None:
        """A rectangle seen from its axis fills 4 arcsin(sin(α / 2) sin(β / 2)) sr in a frame of two arcs."""
        picture = studio_picture(StudioSurround(base=0, cards=[card(radiance=3.0)]))
        light = (
            ((picture @ LUMINANCE) * solid_angles(MOST_STUDIO_ROWS)[:, None]).sum()
            * math.pi
            / MOST_STUDIO_ROWS
        )
        across, up = (math.tan(math.radians(side / 2)) for side in (40, 30))
        solid = 4 * math.asin(across * up / math.sqrt((1 + across**2) * (1 + up**2)))
        self.assertAlmostEqual(light / (3.0 * solid), 1, delta=0.01)

    def test_between_cards_is_the_base_and_edges_fade(self) -> None:
        picture = studio_picture(StudioSurround(base=0.1, cards=[card(radiance=3.0, soft=1.0)]))
        values = picture @ LUMINANCE
        self.assertAlmostEqual(float(values.min()), 0.1, places=4)
        self.assertTrue(((values > 0.5) & (values < 2.5)).sum() > 500)
        self.assertLess(np.abs(np.diff(values, axis=1)).max(), 0.4)


class SkyTests(TestCase):
    def test_a_white_sheet_beneath_is_white_at_every_hour(self) -> None:
        for hour in (5.0, 9.0, 12.0, 18.5):
            for sun in (True, False):
                sky = NOON.model_copy(update={"hour": hour, "sun": sun})
                around = surrounding_of(sky, {})
                picture = around.picture * np.float32(around.colour)
                rows = len(picture)
                down = (np.arange(rows) + 0.5) / rows * math.pi
                weights = solid_angles(rows) * np.cos(down).clip(0)
                falls = ((picture @ LUMINANCE).mean(axis=1) * weights).sum() * 2 * math.pi
                found = sun_in(sky)
                if found is not None:
                    sine = math.sin(math.radians(found[0].elevation))
                    falls += found[0].irradiance * max(sine, TURNED)
                self.assertAlmostEqual(falls / math.pi, 1, delta=0.02)

    def test_the_sun_is_a_lamp_in_the_south_at_noon(self) -> None:
        """Behind the set is north, so that at noon it stands behind the camera."""
        light, colour = sun_in(NOON)
        self.assertAlmostEqual(light.azimuth, 0, delta=2)
        self.assertAlmostEqual(light.elevation, 65.4, delta=0.5)
        self.assertAlmostEqual(float(np.dot(colour, LUMINANCE)), 1, places=6)
        turned, _ = sun_in(NOON.model_copy(update={"turn": 90}))
        self.assertAlmostEqual(turned.azimuth, light.azimuth - 90, places=6)
        for gone in (NOON.model_copy(update={"sun": False}), NOON.model_copy(update={"hour": 0.0})):
            self.assertIsNone(sun_in(gone))

    def test_the_glow_is_about_the_sun(self) -> None:
        """The picture's brightest part and the lamp are on the same side, whichever the hour."""
        for hour, turn in ((8.0, 0.0), (16.0, 40.0)):
            sky = NOON.model_copy(update={"hour": hour, "turn": turn})
            light, around = sun_in(sky)[0], surrounding_of(sky, {})
            above = around.picture[: len(around.picture) // 2]
            column = int((above @ LUMINANCE).max(axis=0).argmax())
            right = (column + 0.5) / len(around.picture) * 180 - 180 + around.turn
            self.assertAlmostEqual((180 - light.azimuth - right + 180) % 360 - 180, 0, delta=4)

    def test_it_is_among_the_lamps_by_name(self) -> None:
        lamps, burning = lamps_of(PhotoSet(lights=[], surround=NOON), NOTHING_STANDS, {})
        self.assertEqual([lamp.name for lamp in lamps], [SUN])
        self.assertIn(SUN, burning)
        self.assertLess(max(lamps[0].radiance) / min(lamps[0].radiance), 2)

    def test_one_lamp_too_many_is_refused(self) -> None:
        ball = Ball(name="Ball", azimuth=0, elevation=0, distance=900, diameter=50, power_w=1)
        full = PhotoSet(lights=[ball] * 16, surround=NOON)
        with self.assertRaisesRegex(PackError, "17 lights burn"):
            lamps_of(full, NOTHING_STANDS, {})


class HoldingTests(TestCase):
    def test_what_is_held_to_the_camera_turns_with_it(self) -> None:
        studio = StudioSurround(cards=[card()])
        for held, turn in (("world", 10), ("camera", -20)):
            one = studio.model_copy(update={"turn": 10, "held": held})
            self.assertEqual(surrounding_of(one, {}, camera_azimuth=30).turn, turn)

    def test_strength_tint_and_turn_leave_the_picture_as_it_is(self) -> None:
        """So that moving these under the hand lays out nothing anew."""
        studio = StudioSurround(cards=[card()])
        other = studio.model_copy(update={"turn": 10, "strength": 3.0, "tint": "#ff8080"})
        one, two = surrounding_of(studio, {}), surrounding_of(other, {})
        self.assertIs(one.picture, two.picture)
        np.testing.assert_allclose(two.colour, 3 * np.array(linear_colour("#ff8080")), rtol=1e-5)


class PictureTests(TestCase):
    LIGHT = np.full((32, 64, 3), 0.5, np.float32)

    def pictured(self, **more: object) -> PicturedSurround:
        return PicturedSurround(picture="a" * 64, name="Yard", **more)

    def test_a_picture_that_is_gone_is_named(self) -> None:
        with self.assertRaisesRegex(PackError, "“Yard” is gone"):
            surrounding_of(self.pictured(), {})

    def test_it_gives_what_is_kept(self) -> None:
        around = surrounding_of(self.pictured(strength=2.0), {"a" * 64: packed(self.LIGHT)})
        np.testing.assert_allclose(around.picture * np.float32(around.colour), 1.0, rtol=1e-3)

    def test_uses_are_told_for_light_and_for_what_is_behind(self) -> None:
        behind = SurroundBehind(other=self.pictured())
        photo_set = PhotoSet(lights=[], surround=self.pictured(), behind=behind)
        self.assertEqual(
            [use.place for use in photo_set.picture_uses()], ["surround.picture", "behind.other.picture"]
        )

    def test_what_the_camera_sees(self) -> None:
        around = surrounding_of(EvenSurround(), {})
        files = {"a" * 64: packed(self.LIGHT)}

        def seen(**more: object) -> object:
            photo_set = PhotoSet(lights=[], **more)
            return seen_behind(photo_set, files, around, camera_azimuth=0, rows=512)

        self.assertIs(seen(), around)
        self.assertIsNone(seen(behind={"kind": "colour"}))
        self.assertEqual(seen(behind=SurroundBehind(other=self.pictured())).picture.shape, (32, 64, 3))
