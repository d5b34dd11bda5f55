"""The noise a film tells is the noise there is between pictures taken again."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giftwrap.core.grade.display import LUMINANCE, encode_srgb
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import PictureJob, expose_unit, take
from giftwrap.core.render.planning import Limits, WorkUnit
from giftwrap.core.tests.samples import frame_of
from giftwrap.core.things.starting import starting_point

SIZE = (96, 120)
TAKEN = 12


def between(films: list[Film]) -> float:
    """Noise in per cent of the display's range, from how pictures of the same differ."""
    shown = [encode_srgb(film.mean_light() @ LUMINANCE) for film in films]
    return float(100 * np.sqrt(np.var(shown, axis=0, ddof=1).mean()))


class HighlightTests(TestCase):
    """Light that few samples meet, and that is whiter than white in the mean of any number of them."""

    def test_told_as_the_display_shows_it(self) -> None:
        """By chance: each sample of 200,000 pixels meets a highlight of 40 with a probability; what is
        shown is white or a dark grey, so the variance is known: p (1 − p) of their distance."""
        rng = np.random.default_rng(7)
        for samples, probability in ((8, 0.004), (8, 0.02), (16, 0.01)):
            met = rng.random((samples, 200, 1000)) < probability
            light = np.where(met, 40.0, 0.2).astype(np.float32).reshape(samples, -1)
            film = Film(1000, 200)
            film.samples[:] = samples
            film.light = np.stack([np.tile(light.sum(axis=0), (3, 1)), np.zeros((3, light.shape[1]))])
            film.odd = np.stack([light[1::2].sum(axis=0), np.full(light.shape[1], samples // 2)])
            white = 1 - (1 - probability) ** samples
            real = 100 * (1 - encode_srgb(np.array(0.2))) * np.sqrt(white * (1 - white))
            with self.subTest(samples=samples, probability=probability):
                self.assertAlmostEqual(film.noise() / real, 1, delta=0.06)


class NoiseTests(TestCase):
    """The error of a variance from twelve pictures of 11,520 pixels is below a per cent."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.job = PictureJob.of(frame_of(starting_point().pack), *SIZE)

    def check(self, films: list[Film], least: float, most: float) -> None:
        told = np.array([film.noise() for film in films])
        ratio = told / between(films)
        self.assertGreater(ratio.min(), least, ratio)
        self.assertLess(ratio.max(), most, ratio)

    def test_samples_everywhere_alike(self) -> None:
        for samples in (8, 64):
            films = [Film(*SIZE) for _ in range(TAKEN)]
            for number, film in enumerate(films):
                unit = WorkUnit(0, 1000 * samples + number, 0, samples, first=0, last=SIZE[0] * SIZE[1])
                film.add(expose_unit(self.job, unit))
            with self.subTest(samples=samples):
                self.check(films, 0.95, 1.1)

    def test_samples_where_the_noise_is(self) -> None:
        """Finals as they are ordered, whose samples follow what their own pilots found."""
        films = []
        for number in range(TAKEN):
            films.append(take(self.job, Limits(200, noise=3.0), first_number=100_000 * number))
        self.check(films, 0.95, 1.1)
