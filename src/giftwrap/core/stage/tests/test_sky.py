"""The sun's place against published worked examples, and the sky against what is published of it."""

from __future__ import annotations

import math
from datetime import date
from unittest import TestCase

import numpy as np

from giftwrap.core.grade.display import LUMINANCE
from giftwrap.core.stage.sky import ROWS, sky_picture, sun_at, sun_colour

GROUND = (0.2, 0.2, 0.2)


class SunTests(TestCase):
    def test_the_worked_example_of_a_published_algorithm(self) -> None:
        """Reda and Andreas 2004 (NREL/TP-560-34302), appendix: 17 October 2003, 12:30:30 at 39.742476 N,
        105.1786 W, seven hours behind: azimuth 194.34024°, zenith angle 50.11162° of which the air's
        refraction is 0.01628° (from memory). Within a hundredth of a degree."""
        azimuth, elevation = sun_at(39.742476, -105.1786, date(2003, 10, 17), 12 + 30.5 / 60, -7)
        self.assertAlmostEqual(azimuth, 194.34024, delta=0.01)
        self.assertAlmostEqual(elevation, 90 - 50.11162 - 0.01628, delta=0.01)

    def test_solstices_and_equinox(self) -> None:
        """At noon by the sun it stands 90° − latitude ± 23.44° high (the obliquity of the ecliptic)."""
        for day, tilt in ((date(2026, 6, 21), 23.44), (date(2026, 12, 21), -23.44), (date(2026, 3, 20), 0)):
            most = max(sun_at(48.0, 0.0, day, 12 + minutes / 60, 0)[1] for minutes in range(-20, 20))
            self.assertAlmostEqual(most, 42 + tilt, delta=0.2)

    def test_it_is_in_the_east_before_noon_and_down_at_night(self) -> None:
        self.assertLess(sun_at(48, 11, date(2026, 6, 21), 9, 1)[0], 180)
        self.assertGreater(sun_at(48, 11, date(2026, 6, 21), 16, 1)[0], 180)
        self.assertLess(sun_at(48, 11, date(2026, 6, 21), 0, 1)[1], 0)

    def test_a_low_sun_is_redder_and_weaker(self) -> None:
        low, high = sun_colour(4.0, 3.0), sun_colour(60.0, 3.0)
        self.assertGreater(low[0] / low[2], 1.5 * high[0] / high[2])
        self.assertLess(low @ LUMINANCE, 0.5 * (high @ LUMINANCE))
        self.assertEqual(float(sun_colour(-1.0, 3.0).max()), 0)

    def test_a_high_sun_in_clear_air_is_as_bright_as_measured(self) -> None:
        """Some 100 klx on what faces it (common practice)."""
        self.assertAlmostEqual(float(sun_colour(60.0, 2.5) @ LUMINANCE), 100, delta=15)


class SkyTests(TestCase):
    def test_the_zenith_is_as_the_formula_says(self) -> None:
        """Preetham, Shirley and Smits 1999: Y = (4.0453 T − 4.9710) tan χ − 0.2155 T + 2.4192 kcd/m²."""
        haze, elevation = 3.0, 40.0
        chi = (4 / 9 - haze / 120) * (math.pi - 2 * math.radians(90 - elevation))
        wanted = (4.0453 * haze - 4.9710) * math.tan(chi) - 0.2155 * haze + 2.4192
        picture, _ = sky_picture(elevation, haze, GROUND)
        self.assertAlmostEqual(float(picture[0].mean(axis=0) @ LUMINANCE) / wanted, 1, delta=0.03)

    def test_it_is_blue_above_and_brightest_about_the_sun(self) -> None:
        picture, falls = sky_picture(30.0, 3.0, GROUND)
        self.assertGreater(picture[2, :, 2].mean(), 1.5 * picture[2, :, 0].mean())
        above = (picture @ LUMINANCE)[: ROWS // 2]
        row, column = np.unravel_index(int(above.argmax()), above.shape)
        self.assertAlmostEqual(column + 0.5, ROWS, delta=2)
        self.assertAlmostEqual((row + 0.5) / ROWS * 180, 60, delta=12)
        self.assertTrue(8 < falls < 40, "a clear sky gives 10 to 30 klx (common practice)")

    def test_the_ground_gives_back_what_falls_on_it(self) -> None:
        picture, falls = sky_picture(30.0, 3.0, GROUND)
        sun = float(sun_colour(30.0, 3.0) @ LUMINANCE) * 0.5
        self.assertAlmostEqual(float(picture[-1, 0] @ LUMINANCE), 0.2 * (falls + sun) / math.pi, delta=0.05)

    def test_dusk_is_no_error(self) -> None:
        for elevation in (-30.0, -1.0, 0.0, 0.3, 90.0):
            for haze in (2.0, 10.0):
                picture, falls = sky_picture(elevation, haze, GROUND)
                self.assertTrue(np.isfinite(picture).all() and (picture >= 0).all() and falls > 0)
