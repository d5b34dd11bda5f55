"""How much of a panel a camera sees, by closed forms."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giftwrap.core.model import Camera, WrapPanel
from giftwrap.core.stage.seen import seen_from
from giftwrap.core.tests.samples import cylinder, labelled
from giftwrap.core.things.vessel import shape_vessel
from giftwrap.core.wrap.finding import Seen


class SeenTests(TestCase):
    def seen(self, panel: WrapPanel, camera: Camera) -> Seen:
        sheet = shape_vessel(labelled(cylinder(36, 150), panel)).sheets[0]
        return seen_from(sheet.face, np.eye(4), sheet.printed, camera, (1000, 1000))

    def test_from_far_away_half_a_cylinder_is_seen_and_a_quarter_squarely(self) -> None:
        """πR of the way around faces a camera that is far away, and πR / 2 of it by less than 45°."""
        camera = Camera(
            projection="orthographic", orthographic_width=200, distance=5000, height=70, aim_height=70
        )
        seen = self.seen(WrapPanel(from_base=40, width=226, height=60), camera)
        self.assertAlmostEqual(seen.width / (np.pi * 36.17), 1, delta=0.06)
        self.assertAlmostEqual(seen.squarely / (np.pi * 36.17 / 2), 1, delta=0.06)
        self.assertAlmostEqual(seen.px_per_mm, 5.0, delta=0.1)
        self.assertAlmostEqual(seen.share, 0.5, delta=0.03)

    def test_what_lies_at_the_back_is_not_seen(self) -> None:
        camera = Camera(distance=900, height=70, aim_height=70)
        back = self.seen(WrapPanel(from_base=40, width=50, height=60, centre_angle=180), camera)
        self.assertEqual((back.width, back.share), (0.0, 0.0))
