"""The integrator against the renderer library's own ones, which serve as referees."""

from __future__ import annotations

from unittest import TestCase

from giftwrap.core.tests.referees import REFEREE_SCENES, compare


class RefereeTests(TestCase):
    """Means over blocks of pixels agree within three standard errors, but for chance's share."""

    def test_scenes_of_every_kind_of_surface(self) -> None:
        for name, case in REFEREE_SCENES.items():
            with self.subTest(name):
                found = compare(*case())
                # 1 in 370 lies beyond three standard errors by chance; with 8 runs the referee's own
                # error is uncertain too (Student's t with 7 degrees of freedom: 1 in 50)
                self.assertLess(found.beyond(3), 0.06, found)
                self.assertLess(float(found.errors.max()), 7, found)
                self.assertLess(abs(found.whole_in_errors), 3, found)
