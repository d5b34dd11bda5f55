"""Where patterns, fades and paint lie, in millimetres, and what they look like there."""

from __future__ import annotations

from collections.abc import Callable
from unittest import TestCase

import numpy as np

from giftwrap.core.grade.display import linear_colour
from giftwrap.core.materials.optics import Optics, Stance, material_optics
from giftwrap.core.materials.patterns import NAMES
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.material import Material
from giftwrap.core.model.worked import Fade, Film, Grain
from giftwrap.core.tests.scenes import (
    ahead,
    box,
    cylinder,
    even_light,
    film_of,
    in_even_light,
    lamp,
    scene,
    sphere,
    surface,
    together,
)


class PlaceTests(TestCase):
    """Where patterns and fades lie, in mm."""

    def test_a_fade_is_where_it_is_said(self) -> None:
        fade = Fade(begins=10, whole=30, colour="#000000", cover=1, gloss=0)
        block = box((-20, -5, 0), (20, 5, 40))
        for foot in (0.0, 7.0):
            shown = Stance(((1.0, 0, 0, 0), (0, 1.0, 0, 0), (0, 0, 1.0, -foot)), 20)
            optics = material_optics(Opaque(colour="#ffffff", gloss=0, fade=fade), stance=shown)
            light = even_light(block, optics, 40, size=80, samples=64).mean(axis=1)
            heights = 40 - (np.arange(len(light)) + 0.5) * 40 / len(light)
            t = np.clip((heights - foot - 10) / 20, 0, 1)
            np.testing.assert_allclose(light / light.max(), 1 - t * t * (3 - 2 * t), atol=0.045)

    def test_wires_are_as_far_apart_as_they_say(self) -> None:
        """Laid paper's wires, counted: one scale apart, level, or upright once turned."""
        block = box((-30, -5, -30), (30, 5, 30))
        for scale, turn in ((1.5, 0), (2.0, 0), (2.0, 90)):
            grain = Grain(pattern="laid", scale=scale, lies="over", turn=turn, colour="#000000", share=1)
            light = even_light(block, material_optics(Opaque(colour="#ffffff", gloss=0, grain=grain)), 50)
            line = light.mean(axis=1 if turn == 0 else 0)
            power = np.abs(np.fft.rfft(line - line.mean()))
            self.assertAlmostEqual(50 / int(power.argmax()), scale, delta=0.06)

    def test_wrapped_patterns_meet_themselves(self) -> None:
        """All around a cylinder there is a whole number of weaves, and the scale is kept to some per cent."""
        radius = 17.3
        grain = Grain(pattern="woven", scale=1.0, colour="#000000", share=1)
        optics = material_optics(Opaque(colour="#ffffff", gloss=0, grain=grain), stance=Stance(radius=radius))
        side = even_light(cylinder(radius, 20), optics, 8, samples=64)
        power = np.abs(np.fft.rfft((side - side.mean()).mean(axis=0)))
        girth = (
            2 * np.pi * radius / round(2 * np.pi * radius / 16) / 16
        )  # mm of a thread, seen from the front
        self.assertAlmostEqual(8 / (int(power[2:].argmax()) + 2), girth, delta=0.15)

    def test_a_block_goes_through(self) -> None:
        """Two boxes that are cut out of one marble show one picture where they meet."""
        marble = Opaque(
            colour="#ffffff",
            gloss=0,
            grain=Grain(pattern="marble", scale=8, lies="through", colour="#000000", share=1),
        )
        whole = even_light(box((-20, -5, -20), (20, 5, 20)), material_optics(marble), 30)
        upper = together(box((-20, -5, 0), (20, 5, 20)), box((-20, -5, -20), (20, 5, -0.001)))
        np.testing.assert_allclose(even_light(upper, material_optics(marble), 30), whole, atol=0.08)

    def test_it_moves_with_its_part(self) -> None:
        cork = Opaque(
            colour="#ffffff",
            gloss=0,
            grain=Grain(pattern="cork", scale=3, lies="through", colour="#000000", share=1),
        )
        here = even_light(box((-10, -5, -10), (10, 5, 10)), material_optics(cork), 16)
        back = Stance(((1.0, 0, 0, 0), (0, 1.0, 0, 20), (0, 0, 1.0, -40)))
        there = even_light(box((-10, -25, 30), (10, -15, 50)), material_optics(cork, stance=back), 16)
        np.testing.assert_allclose(there, here, atol=0.08)

    def test_every_pattern_draws(self) -> None:
        ways = [(name, lies) for name in NAMES for lies in ("around", "through", "over")]
        grains = [Grain(pattern=name, scale=2, lies=lies, share=0.8, depth=0.1) for name, lies in ways]
        paint = Opaque(colour="#ffffff", gloss=0.3)
        lights = in_even_light([made_as(paint.model_copy(update={"grain": grain})) for grain in grains])
        for way, light in zip(ways, lights, strict=True):
            self.assertTrue(np.isfinite(light).all(), way)
            self.assertTrue(0.05 < float(light.mean()) <= 1.01, (way, light.mean()))

    def test_the_ends_of_what_can_be_said(self) -> None:
        """Nothing becomes no number, and nothing shines by itself."""
        grains = [
            {"pattern": "leather", "scale": 0.02, "depth": 20, "brushed": 1, "share": 1, "turn": -360},
            {"pattern": "wood", "scale": 500, "lies": "through", "depth": 20, "share": 1, "turn": 360},
            {"pattern": "marble", "scale": 0.02, "lies": "over", "share": 1, "brushed": 1},
        ]
        tried: list[Material] = []
        for one in grains:
            for made in (Opaque(gloss=1), Metal(metal="silver", gloss=1, lacquer=1), Clear(frost=1)):
                tried.append(made.model_copy(update={"grain": Grain(**one)}))
        for thickness, index in ((10, 1.2), (10, 3.0), (2000, 1.2), (2000, 3.0)):
            film = Film(thickness=thickness, refractive_index=index)
            for made in (Opaque(), Metal(metal="gold"), Clear(refractive_index=2.6), Cloudy(wander=50)):
                tried.append(made.model_copy(update={"film": film}))
        for begins, whole in ((5, 5), (5000, -2000), (-2000, 5000)):
            fade = Fade(begins=begins, whole=whole, cover=0.5, colour="#000000", gloss=0)
            for made in (Opaque(passes=0.9, sheen=1), Clear(), Cloudy(wander=50)):
                tried.append(made.model_copy(update={"fade": fade}))
        lights = in_even_light([made_as(one) for one in tried], size=12, samples=16)
        for material, light in zip(tried, lights, strict=True):
            self.assertTrue(np.isfinite(light).all(), material)
            self.assertLess(float(light.mean()), 1.02, material)


def made_as(material: Material) -> Callable[[Stance], Optics]:
    """The optics of a material wherever its part stands."""
    return lambda stance: material_optics(material, stance=stance)


class PaintTests(TestCase):
    def test_paint_over_glass_is_paint(self) -> None:
        """Where paint covers, glass looks as what is painted does."""
        fade = Fade(begins=-60, whole=-50, colour="#996633", cover=1, gloss=0.4)
        pictures = [
            even_light(sphere(20), material_optics(m), 20, size=24, samples=256)
            for m in (
                Clear(fade=fade),
                Opaque(colour="#996633", gloss=0.4),
                Cloudy(fade=fade),
                Metal(metal="gold", fade=fade),
            )
        ]
        for other in pictures[1:]:
            np.testing.assert_allclose(other.mean(), pictures[0].mean(), rtol=0.03)

    def test_a_tint_colours_what_passes_twice(self) -> None:
        """A plate of index 1 tinted on both faces: the square of its colour."""
        glass = Clear(
            refractive_index=1.0, fade=Fade(begins=-90, whole=-80, colour="#c08040", cover=0, gloss=1)
        )
        plate = surface("plate", box((-90, -2, -90), (90, 2, 90)), material_optics(glass))
        behind = lamp((0, 300, 0), side=400, radiance=1)
        light = film_of(scene((plate,), (behind,), 0.0), ahead(40), size=8, samples=64)
        even = light.mean_light().mean(axis=(0, 1))
        np.testing.assert_allclose(even, np.array(linear_colour("#c08040")) ** 2, rtol=0.02)
