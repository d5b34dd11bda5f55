"""Parts that look, in their light, like a colour that was seen."""

from __future__ import annotations

from unittest import TestCase

from giftwrap.core.errors import PackError
from giftwrap.core.materials.colours import apart
from giftwrap.core.model import Camera, Clear, Cloudy, Frame, Metal, Opaque, Shot
from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.matching import GOOD, match_seen
from giftwrap.core.stage.starting import bench_set
from giftwrap.core.things.starting import starting_pack

SIZE = (96, 144)


def seen_from(azimuth: float) -> PictureJob:
    camera = Camera(azimuth=azimuth, distance=700, height=160, aim_height=110)
    frame = Frame(packs={"one": starting_pack()}, photo_set=bench_set(0.0), shot=Shot(camera=camera))
    return PictureJob.of(frame, *SIZE, print_ppi=60, quick=True)


class MatchTests(TestCase):
    def test_a_cap_that_looks_like_the_liquid(self) -> None:
        """Within ΔE₀₀ 1, for paints, metals and what light wanders in; its own colour is another."""
        job = seen_from(20)
        for material, target in (
            (Opaque(gloss=0.4), "#a8703a"),
            (Opaque(gloss=0.0), "#5b6d4e"),
            (Metal(metal="aluminium", gloss=0.4), "#8a6f3c"),
        ):
            found = match_seen(job, "closure", material, target)
            self.assertLess(found.off, GOOD, found)
            self.assertAlmostEqual(apart(found.seen, target), found.off, delta=0.2)
            self.assertEqual(found.why, "")
            self.assertEqual(found.material.kind, material.kind)
            self.assertEqual(found, match_seen(job, "closure", material, target), "the same each time")

    def test_what_cannot_be_says_why(self) -> None:
        light = match_seen(seen_from(20), "closure", Opaque(gloss=0.0), "#ffffff")
        self.assertGreater(light.off, GOOD)
        self.assertIn("more light", light.why)
        dark = match_seen(seen_from(20), "closure", Opaque(gloss=0.1), "#000000")
        self.assertGreater(dark.off, GOOD)
        self.assertIn("lighter than that", dark.why)
        pure = match_seen(seen_from(20), "closure", Opaque(gloss=0.4), "#a8702a")
        self.assertGreater(pure.off, GOOD)
        self.assertIn("less glossy", pure.why)

    def test_what_cannot_be_asked(self) -> None:
        job = seen_from(20)
        for part, material, words in (
            ("body", Clear(), "behind it"),
            ("bulb", Opaque(), "no “bulb”"),
            ("contents-nothing", Cloudy(), "no “contents-nothing”"),
        ):
            with self.assertRaises(PackError) as caught:
                match_seen(job, part, material, "#808080")
            self.assertIn(words, caught.exception.message)
