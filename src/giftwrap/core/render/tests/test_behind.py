"""What is seen behind what stands: shown as it was chosen, whatever the light and the exposure."""

from __future__ import annotations

import hashlib
import io
from dataclasses import replace
from unittest import TestCase

import numpy as np
from PIL import Image

from giftwrap.core.errors import ArtworkError
from giftwrap.core.formats.pictures import to_8_bit
from giftwrap.core.grade.display import encode_srgb, linear_colour
from giftwrap.core.model import (
    Clear,
    ColourBehind,
    Contents,
    EvenSurround,
    Frame,
    Grade,
    GradientBehind,
    PhotoSet,
    PictureBehind,
    Purpose,
    Shot,
    StudioSurround,
    SurroundBehind,
)
from giftwrap.core.render.behind import before_exposure
from giftwrap.core.render.job import PictureJob, develop, light_of, take
from giftwrap.core.render.planning import Limits, Region
from giftwrap.core.tests.samples import cylinder, frame_of, picture_job, three_lights, vessel_pack

SIZE = 64
PACK = vessel_pack(body=cylinder())


def photo_set(**more: object) -> PhotoSet:
    return three_lights().model_copy(update=more)


def job_of(on_set: PhotoSet, *, ev: float = 0.0, files: dict[str, bytes] | None = None) -> PictureJob:
    frame = frame_of(PACK)
    shot = frame.shot.model_copy(
        update={"grade": Grade(exposure_ev=ev), "purposes": [Purpose(width_px=SIZE, height_px=SIZE)]}
    )
    return picture_job(PACK, on_set, shot, files or {})


def shown(job: PictureJob, samples: int = 16) -> np.ndarray:
    """(h, w, 3) bytes of the picture."""
    return to_8_bit(develop(take(job, Limits(samples)), job)[1])


class WhiteTests(TestCase):
    def test_white_is_exactly_white_at_every_exposure(self) -> None:
        for ev in (-1.3, 0.0, 0.7):
            for shadow in (True, False):
                job = job_of(photo_set(behind=ColourBehind(shadow=shadow)), ev=ev)
                pixels = shown(job, 48)
                for corner in (pixels[:4, :4], pixels[:4, -4:]):
                    self.assertEqual(int(corner.min()), 255)
                if not shadow:
                    self.assertEqual(int(pixels[-4:, :4].min()), 255)
                self.assertLess(int(pixels.min()), 200, "the pack is there")

    def test_a_shadow_falls_on_it_or_does_not(self) -> None:
        with_shadow, without = (
            shown(job_of(photo_set(behind=ColourBehind(shadow=shadow))), 64) for shadow in (True, False)
        )
        darker = without.astype(int).sum(axis=2) - with_shadow.astype(int).sum(axis=2)
        self.assertGreater(darker.max(), 60)
        rest = darker[without.min(axis=2) == 255]
        self.assertGreater((rest > 15).sum(), 40, "on what is behind, beside the pack")

    def test_a_colour_is_what_was_chosen(self) -> None:
        pixels = shown(job_of(photo_set(behind=ColourBehind(colour="#3a7f5c", shadow=False)), ev=0.5))
        self.assertEqual(pixels[2, 2].tolist(), [0x3A, 0x7F, 0x5C])


class PaintedTests(TestCase):
    def painted(self, behind: object, region: Region | None = None, ev: float = 0.0) -> np.ndarray:
        frame = frame_of(PACK, photo_set(behind=behind), Shot(grade=Grade(exposure_ev=ev)))
        light = before_exposure(frame, {}, (40, 80), region)
        return encode_srgb(light * np.float32(2.0**ev))

    def test_a_gradient_is_even_on_the_screen_and_goes_where_it_is_turned(self) -> None:
        down = self.painted(GradientBehind(first="#ffffff", second="#000000"), ev=1.0)
        np.testing.assert_allclose(down[:, 0, 0], 1 - (np.arange(80) + 0.5) / 80, atol=2e-3)
        left = self.painted(GradientBehind(first="#ffffff", second="#000000", turn=90))
        self.assertLess(left[0, 0, 0], 0.02)
        self.assertGreater(left[79, 39, 0], 0.98)
        slanted = self.painted(GradientBehind(first="#ffffff", second="#000000", turn=-45))
        self.assertGreater(slanted[0, 0, 0], 0.97)
        self.assertLess(slanted[-1, -1, 0], 0.03)

    def test_a_round_one_begins_in_the_middle(self) -> None:
        seen = self.painted(GradientBehind(first="#ffffff", second="#000000", round=True))
        self.assertGreater(seen[40, 20, 0], 0.97)
        self.assertLess(seen[0, 0, 0], 0.03)

    def test_parts_of_a_picture_fit_together(self) -> None:
        behind = GradientBehind(turn=30)
        whole, part = self.painted(behind), self.painted(behind, Region(8, 20, 16, 30))
        np.testing.assert_allclose(part, whole[20:50, 8:24], atol=1e-6)


class PictureBehindTests(TestCase):
    def drawn(self, size: tuple[int, int]) -> tuple[str, dict[str, bytes]]:
        """Red on its left half, blue on its right one."""
        picture = Image.new("RGB", size, "#c02020")
        picture.paste("#2020c0", (size[0] // 2, 0, *size))
        stream = io.BytesIO()
        picture.save(stream, "PNG")
        data = stream.getvalue()
        return hashlib.sha256(data).hexdigest(), {hashlib.sha256(data).hexdigest(): data}

    def frame(self, **more: object) -> Frame:
        return frame_of(PACK, photo_set(behind=PictureBehind(**more)))

    def test_it_fills_the_frame_and_keeps_its_middle(self) -> None:
        for size in ((300, 100), (100, 300)):
            name, files = self.drawn(size)
            light = before_exposure(self.frame(picture=name), files, (60, 60), None)
            np.testing.assert_allclose(light[30, 5], linear_colour("#c02020"), atol=0.01)
            np.testing.assert_allclose(light[30, 55], linear_colour("#2020c0"), atol=0.01)

    def test_blur_mixes_light(self) -> None:
        name, files = self.drawn((200, 200))
        light = before_exposure(self.frame(picture=name, blur=0.1), files, (60, 60), None)
        between = (np.array(linear_colour("#c02020")) + linear_colour("#2020c0")) / 2
        np.testing.assert_allclose(light[30, 29:31].mean(axis=0), between, atol=0.01)

    def test_one_that_is_lost_is_said(self) -> None:
        job = PictureJob.of(self.frame(picture="b" * 64), SIZE, SIZE)
        with self.assertRaisesRegex(ArtworkError, "the picture behind"):
            shown(job)


class EvenBehindTests(TestCase):
    def test_another_even_surround_is_seen(self) -> None:
        other = EvenSurround(strength=0.5, tint="#ff0000")
        behind = SurroundBehind(other=other, shadow=False)
        job = job_of(photo_set(behind=behind))
        np.testing.assert_allclose(job.background, (0.5, 0, 0), atol=1e-6)
        self.assertGreater(int(shown(job)[2, 2, 0]), 180)

    def test_scenes_of_other_views_differ_only_where_a_surround_goes_with_them(self) -> None:
        for held, same in (("world", True), ("camera", False)):
            on_set = photo_set(surround=StudioSurround(held=held))
            job = replace(job_of(on_set), print_ppi=200.0)
            turned = job.frame.shot.camera.model_copy(update={"azimuth": 40})
            frame = job.frame.model_copy(
                update={"shot": job.frame.shot.model_copy(update={"camera": turned})}
            )
            other = PictureJob.of(frame, SIZE, SIZE, print_ppi=200.0)
            self.assertEqual(job.scene_key == other.scene_key, same)


class SurroundBehindTests(TestCase):
    def test_a_shadow_lies_on_what_is_seen_through_the_floor(self) -> None:
        """Where nothing throws a shadow the floor is not told from what is behind; beside the pack it is."""
        glow = {"kind": "studio", "base": 0.4}
        on_set = PhotoSet.model_validate({**photo_set().model_dump(mode="json"), "surround": glow})
        behind = on_set.model_copy(update={"behind": SurroundBehind()})
        job = job_of(behind)
        film = take(job, Limits(64))
        light = light_of(film, job)
        floor, sky = film.caught() > 0.99, film.buffer("background").min(axis=2) > 0.99
        self.assertTrue(floor.sum() > 200 and sky.sum() > 200)
        np.testing.assert_allclose(light[sky], 0.4, atol=0.002)
        self.assertAlmostEqual(float(np.median(light[floor])), 0.4, delta=0.03)
        self.assertLess(float(light[floor].min()), 0.3)
        self.assertLess(float(film.alpha()[sky].max()), 0.011)


class ColouredTests(TestCase):
    def test_what_is_behind_is_seen_in_the_colour_of_what_is_before_it(self) -> None:
        """White behind a red liquid is red, and in the file as the light that comes through says."""
        red = Contents(fill_height=120, material=Clear(colour="#d02010", depth=40.0, refractive_index=1.34))
        pack = vessel_pack(body=cylinder(), contents=red)
        on_set = photo_set(behind=ColourBehind(shadow=False))
        job = picture_job(pack, on_set, frame_of(pack).shot.model_copy(update={"purposes": [Purpose()]}), {})
        job = replace(job, width=SIZE, height=SIZE)
        film = take(job, Limits(24))
        through = film.buffer("background")[36, 32]
        self.assertGreater(through[0], 3 * through[2])
        middle = light_of(film, job)[36, 32]
        self.assertGreater(middle[0], 2 * middle[2])
