"""The film adds up in any order and tells its noise honestly; work covers a picture exactly once."""

from __future__ import annotations

import os
import subprocess
import sys
from dataclasses import replace
from pathlib import Path
from unittest import TestCase, mock

import numpy as np

from giftwrap.core.errors import RenderError
from giftwrap.core.render import denoise as denoising
from giftwrap.core.render import engine
from giftwrap.core.render.coverage import ObjectName, Seen, no_entries
from giftwrap.core.render.film import SHADOW, Exposure, Film
from giftwrap.core.render.job import PictureJob, take
from giftwrap.core.render.planning import PATHS_PER_UNIT, PILOT_SAMPLES, Limits, Plan, Region, WorkUnit
from giftwrap.core.tests.samples import frame_of
from giftwrap.core.things.starting import starting_pack

OBJECTS, BUFFERS = (ObjectName("pack", "body", "paper"),), ("key", "surround", "background")


def exposure(
    rng: np.random.Generator, samples: int, *, size: tuple[int, int] = (40, 30), first_row: int = 0
) -> Exposure:
    """A unit of a grey field whose samples spread by 0.3 around 0.4, all of it from the key light."""
    width, rows = size
    pixels = np.arange(first_row * width, (first_row + rows) * width, dtype=np.uint32)
    return exposure_of(rng, pixels, np.full(len(pixels), samples, np.uint32))


def exposure_of(rng: np.random.Generator, pixels: np.ndarray, samples: np.ndarray) -> Exposure:
    """A unit of the same grey field: some of its pixels, each with samples of its own."""
    taken = np.arange(samples.max())[:, None] < samples
    each = taken * (0.4 + rng.normal(0, 0.3, taken.shape)).astype(np.float32)
    light = np.zeros((3, 3, len(pixels)), np.float32)
    light[0] = each.sum(axis=0)
    odd = np.stack([each[1::2].sum(axis=0), samples // 2]).astype(np.float32)
    return Exposure(
        pixels=pixels,
        samples=samples,
        buffers=BUFFERS,
        objects=OBJECTS,
        light=light,
        odd=odd,
        guides=np.tile(0.5 * samples, (9, 1)).astype(np.float32),
        shadow=np.zeros((SHADOW, len(pixels)), np.float32),
        seen=Seen(np.zeros(len(pixels), np.uint32), samples.astype(np.float32), no_entries()),
    )


class FilmTests(TestCase):
    def setUp(self) -> None:
        self.rng = np.random.default_rng(7)

    def film(self, units: int, samples: int, size: tuple[int, int] = (40, 30)) -> Film:
        film = Film(*size)
        for _ in range(units):
            film.add(exposure(self.rng, samples, size=size))
        return film

    def test_order_does_not_matter(self) -> None:
        units = [exposure(self.rng, n) for n in (1, 4, 8, 3)]
        forward, backward = Film(40, 30), Film(40, 30)
        for unit in units:
            forward.add(unit)
        for unit in reversed(units):
            backward.add(unit)
        np.testing.assert_allclose(forward.mean_light(), backward.mean_light(), rtol=1e-5)
        self.assertEqual(forward.samples_per_pixel, 16)

    def test_bands_fill_their_rows(self) -> None:
        film = Film(40, 30)
        film.add(exposure(self.rng, 4, size=(40, 10), first_row=20))
        light = film.mean_light()
        self.assertEqual(float(light[:20].max()), 0.0)
        self.assertTrue((light[20:] != 0).all())

    def test_scattered_pixels_with_samples_of_their_own(self) -> None:
        some = np.array([3, 77, 1199], dtype=np.uint32)
        counts = np.array([4, 8, 2], dtype=np.uint32)
        part = exposure_of(self.rng, some, counts)
        film = Film(40, 30)
        film.add(part)
        np.testing.assert_array_equal(film.samples[some], counts)
        self.assertEqual(film.samples.sum(), 14)

    def test_sums_of_another_scene_are_refused(self) -> None:
        film = self.film(1, 2)
        with self.assertRaisesRegex(ValueError, "another scene"):
            film.add(replace(exposure(self.rng, 2), buffers=("other", "surround", "background")))

    def test_noise_matches_the_known_spread(self) -> None:
        """σ = 0.3 a sample, 64 samples: standard error 0.0375, times the slope of sRGB at 0.4."""
        slope = 1.055 / 2.4 * 0.4 ** (1 / 2.4 - 1)
        noise = self.film(16, 4, (200, 200)).noise()
        self.assertAlmostEqual(noise, 100 * 0.3 / 8 * slope, delta=0.15)

    def test_noise_halves_with_four_times_the_samples_at_any_size(self) -> None:
        few, many = self.film(16, 4, (120, 120)).noise(), self.film(64, 4, (120, 120)).noise()
        self.assertAlmostEqual(few / many, 2.0, delta=0.12)
        self.assertAlmostEqual(few / self.film(16, 4, (240, 60)).noise(), 1.0, delta=0.06)

    def test_noise_is_unknown_before_two_samples(self) -> None:
        self.assertIsNone(self.film(1, 1).noise())

    def test_sums_survive_storage(self) -> None:
        film = self.film(3, 4)
        again = Film.from_bytes(film.to_bytes())
        np.testing.assert_array_equal(again.mean_light(), film.mean_light())
        self.assertEqual((again.noise(), again.objects), (film.noise(), film.objects))


class PlanTests(TestCase):
    """Work covers a picture exactly; then it goes where the noise is."""

    def taken(self, units: list[WorkUnit], width: int, height: int) -> np.ndarray:
        counts = np.zeros(width * height)
        for unit in units:
            pixels, samples, _ = unit.work(width, height)
            counts[pixels] += samples
        return counts

    def test_whole_passes_cover_every_pixel_alike(self) -> None:
        for width, height, samples in ((640, 800, 64), (64, 64, 7), (6000, 4000, 3), (8, 16384, 2)):
            plan, film = Plan(width, height, Limits(samples, adaptive=False)), Film(width, height)
            units: list[WorkUnit] = []
            passes = 0
            while more := plan.next_pass(film):
                units += more
                passes += 1
            self.assertTrue((self.taken(units, width, height) == samples).all())
            self.assertEqual(len({u.number for u in units}), len(units))
            self.assertLessEqual(max(u.paths(width, height) for u in units), 1.1 * PATHS_PER_UNIT)
            self.assertGreaterEqual(passes, 2)

    def test_slow_light_is_cut_into_smaller_units(self) -> None:
        """At 20,000 paths a second a unit has the work of twelve seconds, so that cancelling is quick."""
        size = (600, 500)
        for speed, most in ((20_000.0, 240_000), (1.0, 100_000), (1e9, PATHS_PER_UNIT)):
            plan, film = Plan(*size, Limits(16, adaptive=False), speed=speed), Film(*size)
            units: list[WorkUnit] = []
            while more := plan.next_pass(film):
                units += more
            self.assertTrue((self.taken(units, *size) == 16).all())
            self.assertLessEqual(max(u.paths(*size) for u in units), 1.1 * most)

    def noisy_right_half(self) -> Film:
        """A film whose right half spreads ten times as much as its left."""
        rng, film = np.random.default_rng(2), Film(64, 32)
        part = exposure(rng, PILOT_SAMPLES, size=(64, 32))
        right = np.arange(64 * 32) % 64 >= 32
        half, mean = PILOT_SAMPLES // 2, part.light[0, 0] / PILOT_SAMPLES
        apart = np.where(right, 0.2, 0.02) / np.sqrt(PILOT_SAMPLES) * rng.choice([-1, 1], mean.shape)
        film.add(replace(part, odd=np.stack([half * (mean + apart), half + 0 * mean]).astype(np.float32)))
        return film

    def test_samples_go_where_the_noise_is(self) -> None:
        film = self.noisy_right_half()
        plan = Plan(64, 32, Limits(400, noise=2.0))
        plan.take_up(film)
        counts = self.taken(plan.next_pass(film), 64, 32).reshape(32, 64)
        self.assertGreater(counts[:, 32:].mean(), 4 * counts[:, :32].mean())

    def test_work_goes_on_until_the_noise_is_what_was_ordered(self) -> None:
        """Every tile lacks less than one sample, yet together they are too noisy."""
        rng, film = np.random.default_rng(4), Film(64, 64)
        film.add(exposure(rng, 16, size=(64, 64)))
        limit = 0.97 * film.noise()
        plan = Plan(64, 64, Limits(400, noise=limit))
        plan.take_up(film)
        passes = 0
        while units := plan.next_pass(film):
            counts = self.taken(units, 64, 64).astype(np.uint32)
            pixels = np.flatnonzero(counts).astype(np.uint32)
            film.add(exposure_of(rng, pixels, counts[pixels]))
            passes += 1
        self.assertLessEqual(film.noise(), limit)
        self.assertGreater(film.noise(), 0.9 * limit)
        self.assertLess(passes, 5)

    def test_a_film_on_its_way_is_waited_for(self) -> None:
        film = Film(64, 64)
        film.add(exposure(np.random.default_rng(4), 16, size=(64, 64)))
        plan = Plan(64, 64, Limits(400, noise=0.97 * film.noise()))
        plan.take_up(film)
        self.assertTrue(plan.next_pass(film))
        self.assertEqual(plan.next_pass(film), [])

    def test_units_go_on_with_one_series(self) -> None:
        film = self.noisy_right_half()
        plan = Plan(64, 32, Limits(400, noise=1.0), first_number=7)
        first = plan.next_pass(film)  # of a film that is not this plan's
        self.assertEqual([(u.number, u.seed, u.begin) for u in first], [(7, 7, 0)])
        before = self.taken(first, 64, 32)
        while (units := plan.next_pass(film)) and units[0].counts == b"":
            self.assertEqual(units[0].begin, before[0])
            before += self.taken(units, 64, 32)
        work = units[0].work(64, 32)
        np.testing.assert_array_equal(work.begin, before[work.pixels])

    def test_a_plan_that_takes_up_a_film_begins_a_series_of_its_own(self) -> None:
        film = self.noisy_right_half()
        plan = Plan(64, 32, Limits(400, noise=1.0), first_number=12)
        plan.take_up(film)
        unit = plan.next_pass(film)[0]
        self.assertEqual((unit.seed, int(np.max(unit.work(64, 32).begin))), (12, 0))

    def test_a_clean_film_needs_no_more(self) -> None:
        film = self.noisy_right_half()
        plan = Plan(64, 32, Limits(400, noise=50.0))
        plan.take_up(film)
        self.assertEqual(plan.next_pass(film), [])

    def test_what_remains_is_told_from_the_noise_from_the_start(self) -> None:
        """A field four times as noisy as wanted needs sixteen times its samples."""
        film = Film(64, 64)
        film.add(exposure(np.random.default_rng(5), 4, size=(64, 64)))
        noise = film.noise()
        plan = Plan(64, 64, Limits(4000, noise=noise / 4))
        plan.take_up(film)
        self.assertAlmostEqual(plan.remaining_paths(film) / (15 * 4 * 64 * 64), 1.0, delta=0.02)

    def test_noise_in_a_few_tiles_does_not_end_the_work(self) -> None:
        """One tile in thirty-two has nearly all the noise: more than one pass may bring, and all its own."""
        rng, film = np.random.default_rng(2), Film(64, 32)
        part = exposure(rng, PILOT_SAMPLES, size=(64, 32))
        spot = (np.arange(64 * 32) % 64 < 8) & (np.arange(64 * 32) // 64 < 8)
        half, mean = PILOT_SAMPLES // 2, part.light[0, 0] / PILOT_SAMPLES
        apart = np.where(spot, 0.3, 0.003) / np.sqrt(PILOT_SAMPLES) * rng.choice([-1, 1], mean.shape)
        film.add(replace(part, odd=np.stack([half * (mean + apart), half + 0 * mean]).astype(np.float32)))
        plan, taken = Plan(64, 32, Limits(300)), PILOT_SAMPLES
        plan.take_up(film)
        while units := plan.next_pass(film):
            taken += self.taken(units, 64, 32).astype(float).mean()
        self.assertGreater(taken, 290)

    def test_the_sample_budget_holds(self) -> None:
        film = self.noisy_right_half()
        plan = Plan(64, 32, Limits(20))
        plan.take_up(film)
        units = []
        for _ in range(20):
            units += plan.next_pass(film)
        self.assertLessEqual(self.taken(units, 64, 32).mean(), 20 - PILOT_SAMPLES + 0.001)

    def test_impossible_orders_are_refused(self) -> None:
        with self.assertRaisesRegex(RenderError, "samples"):
            Limits(1)
        with self.assertRaisesRegex(RenderError, "px"):
            PictureJob(b"", 4, 100)
        with self.assertRaisesRegex(RenderError, "px"):
            PictureJob(b"", 16385, 100)
        with self.assertRaisesRegex(RenderError, "one piece: at most 16 megapixels"):
            take(PictureJob(b"", 16000, 16000), Limits(2))
        with self.assertRaisesRegex(RenderError, "beyond the picture"):
            PictureJob(b"", 100, 100, region=Region(50, 0, 60, 10))

    def test_only_the_scene_matters_to_the_key_of_a_scene(self) -> None:
        frame = frame_of(starting_pack())
        far = frame.shot.model_copy(
            update={"camera": frame.shot.camera.model_copy(update={"distance": 5000})}
        )
        one = PictureJob.of(frame, 64, 64, print_ppi=100)
        other = PictureJob.of(frame.model_copy(update={"shot": far}), 128, 64, print_ppi=100)
        self.assertEqual(one.scene_key, other.scene_key)
        alone = frame.photo_set.model_copy(update={"standing": []})
        empty = PictureJob.of(frame.model_copy(update={"photo_set": alone}), 64, 64, print_ppi=100)
        self.assertNotEqual(one.scene_key, empty.scene_key)

    def test_labels_are_printed_by_how_large_the_picture_shows_them(self) -> None:
        frame = frame_of(starting_pack())
        self.assertNotEqual(PictureJob.of(frame, 64, 64).scene_key, PictureJob.of(frame, 640, 640).scene_key)


class EngineTests(TestCase):
    def test_old_llvm_is_refused_with_the_command(self) -> None:
        old = "/usr/lib/x86_64-linux-gnu/libLLVM-15.so.1"
        with (
            mock.patch.dict(os.environ, {"DRJIT_LIBLLVM_PATH": old}),
            mock.patch.object(Path, "exists", return_value=True),
            self.assertRaisesRegex(RenderError, "only version 15.*apt-get install libllvm19"),
        ):
            engine.find_llvm()

    def test_no_llvm_is_one_clear_sentence(self) -> None:
        with (
            mock.patch.dict(os.environ, {"DRJIT_LIBLLVM_PATH": "/nowhere/libLLVM.so"}),
            self.assertRaisesRegex(RenderError, "this machine has none. Run:"),
        ):
            engine.find_llvm()

    def test_without_llvm_a_picture_fails_in_one_sentence(self) -> None:
        """In a process of its own: nothing is loaded, nothing crashes."""
        program = (
            "from giftwrap.core.errors import RenderError\n"
            "from giftwrap.core.render.worker import warm_up\n"
            "try:\n    warm_up()\nexcept RenderError as error:\n    print(error.message)"
        )
        environment = {**os.environ, "DRJIT_LIBLLVM_PATH": "/nowhere/libLLVM-15.so"}
        ended = subprocess.run(
            [sys.executable, "-c", program], env=environment, capture_output=True, text=True, check=True
        )
        self.assertRegex(ended.stdout, "^Pictures need LLVM 16 or newer.*Run: apt-get install libllvm19\n$")
        self.assertEqual(ended.stderr, "")


class DenoiseTests(TestCase):
    def test_grain_goes_and_the_edge_stays(self) -> None:
        rng = np.random.default_rng(3)
        clean = np.full((96, 96, 3), 0.2, np.float32)
        clean[:, 48:] = 0.7
        noisy = (clean + rng.normal(0, 0.15, clean.shape)).clip(0).astype(np.float32)
        result = denoising.denoise(noisy, clean, np.zeros_like(clean))
        self.assertLess(np.abs(result - clean)[:, :40].mean(), 0.02)
        self.assertGreater(float(result[:, 52].mean() - result[:, 43].mean()), 0.4)

    def test_tiles_make_the_same_picture(self) -> None:
        import pyoidn

        rng = np.random.default_rng(4)
        light, guide = (rng.random((700, 900, 3), np.float32) for _ in range(2))
        images = {"color": light, "albedo": guide, "normal": 0 * guide}
        whole, tiled = np.empty_like(light), np.empty_like(light)
        denoising._Denoiser(pyoidn, 4000).run({**images, "output": whole}, fast=True)
        denoising._Denoiser(pyoidn, 100).run({**images, "output": tiled}, fast=True)
        np.testing.assert_allclose(tiled, whole, atol=1e-6)

    def test_without_the_library_light_passes_unchanged(self) -> None:
        light = np.random.default_rng(1).random((16, 16, 3)).astype(np.float32)
        with mock.patch.object(denoising, "_denoiser", return_value=None):
            self.assertFalse(denoising.can_denoise())
            np.testing.assert_array_equal(denoising.denoise(light, light, light), light)
