"""The film adds up in any order and tells its noise honestly; work covers a picture exactly once."""

from __future__ import annotations

import os
from pathlib import Path
from unittest import TestCase, mock

import numpy as np

from giftwrap.core.errors import RenderError
from giftwrap.core.model import Grade
from giftwrap.core.render import denoise as denoising
from giftwrap.core.render import engine
from giftwrap.core.render.film import Exposure, Film
from giftwrap.core.render.job import PATHS_PER_UNIT, PictureJob, develop, plan_units


def exposure(
    rng: np.random.Generator, samples: int, *, size: tuple[int, int] = (40, 30), top: int = 0
) -> Exposure:
    """A unit of a grey field whose samples spread by 0.3 around 0.4."""
    light = 0.4 + rng.normal(0, 0.3 / np.sqrt(samples), (size[1], size[0], 1)).astype(np.float32)
    guides = np.full((size[1], size[0], 3), 0.5, np.float32)
    return Exposure(top, samples, np.repeat(light, 3, axis=2), 2, guides, guides)


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
        film.add(exposure(self.rng, 4, size=(40, 10), top=20))
        light = film.mean_light()
        self.assertEqual(float(light[:20].max()), 0.0)
        self.assertTrue((light[20:] != 0).all())

    def test_noise_matches_the_known_spread(self) -> None:
        """σ = 0.3 a sample, 64 samples: standard error 0.0375, times the slope of sRGB at 0.4."""
        slope = 1.055 / 2.4 * 0.4 ** (1 / 2.4 - 1)
        noise = self.film(16, 4, (200, 200)).noise()
        self.assertAlmostEqual(noise, 100 * 0.3 / 8 * slope, delta=0.15)

    def test_noise_halves_with_four_times_the_samples_at_any_size(self) -> None:
        few, many = self.film(16, 4, (120, 120)).noise(), self.film(64, 4, (120, 120)).noise()
        self.assertAlmostEqual(few / many, 2.0, delta=0.12)
        self.assertAlmostEqual(few / self.film(16, 4, (240, 60)).noise(), 1.0, delta=0.06)

    def test_noise_is_unknown_before_two_units(self) -> None:
        self.assertIsNone(self.film(1, 8).noise())

    def test_sums_survive_storage(self) -> None:
        film = self.film(3, 4)
        again = Film.from_bytes(film.to_bytes())
        np.testing.assert_array_equal(again.mean_light(), film.mean_light())
        self.assertEqual(again.noise(), film.noise())


class WorkTests(TestCase):
    def test_units_cover_every_row_and_sample_once(self) -> None:
        for width, height, samples in ((640, 800, 64), (64, 64, 7), (6000, 4000, 3), (8, 16384, 2)):
            units = list(plan_units(width, height, samples))
            taken = np.zeros(height)
            for unit in units:
                taken[unit.top : unit.bottom] += unit.samples
            self.assertTrue((taken == samples).all())
            self.assertEqual(len({u.seed for u in units}), len(units))
            self.assertLessEqual(max((u.bottom - u.top) * width * u.samples for u in units), PATHS_PER_UNIT)
            passes = {u.top for u in units}
            self.assertGreaterEqual(len(units) // len(passes), 2)

    def test_impossible_orders_are_refused(self) -> None:
        with self.assertRaisesRegex(RenderError, "samples"):
            list(plan_units(64, 64, 1))
        with self.assertRaisesRegex(RenderError, "px"):
            PictureJob("", "", "", (), 4, 100)

    def test_only_stage_matters_to_the_stage_key(self) -> None:
        one = PictureJob("p", "s", "near", (), 64, 64)
        other = PictureJob("p", "s", "far", (), 128, 64)
        self.assertEqual(one.stage_key, other.stage_key)
        self.assertNotEqual(one.stage_key, PictureJob("q", "s", "near", (), 64, 64).stage_key)


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


class DenoiseTests(TestCase):
    def test_grain_goes_and_the_edge_stays(self) -> None:
        rng = np.random.default_rng(3)
        clean = np.full((96, 96, 3), 0.2, np.float32)
        clean[:, 48:] = 0.7
        noisy = (clean + rng.normal(0, 0.15, clean.shape)).clip(0).astype(np.float32)
        result = denoising.denoise(noisy, clean, np.zeros_like(clean))
        self.assertLess(np.abs(result - clean)[:, :40].mean(), 0.02)
        self.assertGreater(float(result[:, 52].mean() - result[:, 43].mean()), 0.4)

    def test_without_the_library_light_passes_unchanged(self) -> None:
        film = Film(16, 16)
        film.add(exposure(np.random.default_rng(1), 4, size=(16, 16)))
        with mock.patch.object(denoising, "_library", return_value=None):
            self.assertFalse(denoising.can_denoise())
            light, _ = develop(film, Grade())
        np.testing.assert_array_equal(light, film.mean_light())
