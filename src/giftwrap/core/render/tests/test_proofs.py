"""Proofs pass by pass: overtaken and gone on with, and the scenes that stay loaded for them."""

from __future__ import annotations

import io
from collections.abc import Sequence
from unittest import TestCase

import numpy as np
from PIL import Image

from giftwrap.core.errors import RenderError
from giftwrap.core.model import PhotoSet
from giftwrap.core.render.film import Floats
from giftwrap.core.render.job import SCENES_KEPT, PictureJob, scene_renderer
from giftwrap.core.render.planning import Region
from giftwrap.core.render.proof import SAMPLES_IN_PASS, ProofPicture, proof_job, proof_pass
from giftwrap.core.tests.samples import frame_of, three_lights
from giftwrap.core.things.starting import starting_pack

PASSES = 6


def job(background: str = "#d5c8b2", *, quick: bool = True) -> PictureJob:
    photo_set: PhotoSet = three_lights().model_copy(update={"background": background})
    frame = frame_of(starting_pack(), photo_set)
    return proof_job(frame, 240, 300) if quick else PictureJob.of(frame, 240, 300, print_ppi=60)


class OvertakenTests(TestCase):
    def taken(self, key: str, *, overtaken: bool) -> tuple[ProofPicture, int]:
        """The last of some passes, and how often one was asked for."""
        asked = 0
        picture: ProofPicture | None = None
        for number in range(PASSES):
            picture = None
            while picture is None:
                picture = proof_pass(job(), key, number, lambda: overtaken)
                asked += 1
        assert picture is not None
        return picture, asked

    def test_a_pass_that_was_overtaken_goes_on_where_it_was(self) -> None:
        """However often it gives way, the same samples are taken once each."""
        whole, asked = self.taken("whole", overtaken=False)
        self.assertEqual(asked, PASSES)
        torn, asked = self.taken("torn", overtaken=True)
        self.assertEqual(whole.samples, sum(SAMPLES_IN_PASS[1:PASSES]))
        self.assertEqual(torn.samples, whole.samples)
        assert whole.noise and torn.noise
        self.assertAlmostEqual(torn.noise / whole.noise, 1, delta=0.02)

    def test_a_first_look_never_gives_way(self) -> None:
        for number in (0, 1):
            self.assertIsNotNone(proof_pass(job(), "first", number, lambda: True))

    def test_the_small_first_look_of_a_proof_begins_it_anew(self) -> None:
        for _ in range(2):
            self.assertIsNotNone(proof_pass(job(), "again", 0))
            self.assertIsNotNone(proof_pass(job(), "again", 1))


class PartTests(TestCase):
    """A part of a proof is what the whole shows there, at its size."""

    PART = Region(70, 100, 100, 90)

    def seen(self, region: Region | None, passes: Sequence[int]) -> Floats:
        frame = frame_of(starting_pack(), three_lights())
        one = proof_job(frame, 240, 300, region)
        picture = next(filter(None, [proof_pass(one, str(region), number) for number in passes][::-1]))
        return np.asarray(Image.open(io.BytesIO(picture.jpeg)).convert("RGB"), np.float32)

    def there(self, whole: Floats) -> Floats:
        part = self.PART
        return whole[part.top : part.top + part.height, part.left : part.left + part.width]

    def test_it_is_what_the_whole_shows_there(self) -> None:
        part, whole = self.seen(self.PART, range(8)), self.seen(None, range(8))
        self.assertEqual(part.shape, (90, 100, 3))
        self.assertLess(float(np.abs(part - self.there(whole)).mean()), 6)
        self.assertGreater(float(np.abs(part - whole[:90, :100]).mean()), 20, "and nowhere else")

    def test_so_is_the_first_rough_one(self) -> None:
        part, whole = self.seen(self.PART, [0]), self.seen(None, range(8))
        self.assertEqual(part.shape, (90, 100, 3))
        self.assertLess(float(np.abs(part - self.there(whole)).mean()), 20)

    def test_a_part_at_the_very_edge_keeps_within_the_rough_picture(self) -> None:
        frame = frame_of(starting_pack(), three_lights())
        for region in (Region(232, 292, 8, 8), Region(239, 299, 1, 1), Region(0, 292, 240, 8)):
            self.assertIsNotNone(proof_pass(proof_job(frame, 240, 300, region), f"{region}", 0))

    def test_a_part_beyond_it_is_refused(self) -> None:
        with self.assertRaisesRegex(RenderError, "reaches beyond the picture of 240 × 300 px"):
            proof_job(frame_of(starting_pack(), three_lights()), 240, 300, Region(200, 0, 41, 10))
        with self.assertRaisesRegex(RenderError, "reaches beyond"):
            proof_job(frame_of(starting_pack(), three_lights()), 240, 300, Region(20, 20, 0, -5))


class LoadedScenesTests(TestCase):
    def test_scenes_of_proofs_stay_for_the_shots_one_flicks_through(self) -> None:
        shots = [job(f"#d5c8{n:02x}") for n in range(2 * SCENES_KEPT)]
        loaded = [scene_renderer(one) for one in shots]
        self.assertTrue(all(scene_renderer(one) is kept for one, kept in zip(shots, loaded, strict=True)))

    def test_fewer_scenes_of_finals_do(self) -> None:
        shots = [job(f"#d5c9{n:02x}", quick=False) for n in range(SCENES_KEPT + 1)]
        loaded = [scene_renderer(one) for one in shots]
        kept = [scene_renderer(one) is before for one, before in zip(shots[::-1], loaded[::-1], strict=True)]
        np.testing.assert_array_equal(kept, [True] * SCENES_KEPT + [False])
