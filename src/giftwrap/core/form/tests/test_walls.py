"""How thick walls are."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giftwrap.core.form.formed import form_body
from giftwrap.core.form.tests.solids import walls_by_rays
from giftwrap.core.model import Oval, Rectangle, Round, SectionMark, Squircle
from giftwrap.core.tests.samples import cylinder


class WallTests(TestCase):
    def test_upright_walls_are_as_thick_as_asked(self) -> None:
        """By rays straight inwards from the outside."""
        sections = (Round(), Oval(depth_ratio=0.6), Squircle(squareness=4), Rectangle(corner=0.4))
        for section in sections:
            for wall in (0.6, 2.4):
                with self.subTest(section=section.kind, wall=wall):
                    body = cylinder(36, 150, wall=wall).model_copy(
                        update={"sections": [SectionMark(height=0, section=section)]}
                    )
                    thick = walls_by_rays(form_body(body), 40, 140)
                    np.testing.assert_allclose(thick, wall, atol=0.003)
