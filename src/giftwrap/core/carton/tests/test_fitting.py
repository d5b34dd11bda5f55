"""A carton for what goes into it: it is in there, and nothing is in its way."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from manifold3d import Manifold

from giftwrap.core.carton.fitting import CLEARANCE, carton_for
from giftwrap.core.carton.shape import fold_carton
from giftwrap.core.carton.tests.test_styles import solids_of
from giftwrap.core.things.making import thing_of
from giftwrap.core.things.starting import starting_pack


class FittingTests(TestCase):
    def test_packs_to_start_from_stand_in_their_cartons(self) -> None:
        """Their extents as boxes, with the stated clearance, meet no board (manifold3d)."""
        for slug in ("cordial-500", "dropper-50", "jar-120", "pump-300"):
            extent = thing_of(starting_pack(slug), {}, coarse=True).extent
            size = np.subtract(extent.high, extent.low)
            for style in ("reverse-tuck", "straight-tuck", "lid-and-base"):
                with self.subTest(slug, style=style):
                    carton = carton_for(tuple(size), style)
                    solids = solids_of(fold_carton(carton))
                    inside = max(b.bounding_box()[5] for b in solids.values()) / 2
                    for grown, free in ((1.9 * CLEARANCE, True), (4 * CLEARANCE, False)):
                        box = Manifold.cube(size + grown, True).translate((0, 0, inside))
                        if style == "straight-tuck":  # its one tuck takes its room from the front
                            box = box.translate((0, (carton.width - size[1]) / 2 - CLEARANCE, 0))
                        met = sum((box ^ solid).volume() for solid in solids.values())
                        self.assertEqual(met < 1, free)
