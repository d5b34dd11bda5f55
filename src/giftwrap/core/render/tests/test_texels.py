"""Colour, gloss, metal, presence and relief from texels, against what is known of them in closed form."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase

import drjit as dr
import numpy as np

from giftwrap.core.grade.display import decode_srgb
from giftwrap.core.materials.optics import METALS, ROUGHEST, SMOOTHEST, Optics, OpticsKind, Texels
from giftwrap.core.render.film import Film
from giftwrap.core.tests.scenes import Solid, ahead, film_of, lamp, matt, quad, scene

SIDE = 60.0
N, K = METALS["gold"]
FRONT = lamp((-150, -450, 160), name="front", side=220, radiance=6)
RNG = np.random.default_rng(11)


def card(texels: Texels | None = None, *, name: str = "card", back: float = 0.0, **optics: object) -> Solid:
    """A square sheet that faces the camera, 60 mm wide."""
    half = SIDE / 2
    mesh = quad((0, back, 0), (half, 0, 0), (0, 0, half))
    return Solid(name, mesh, matt(**{"grey": 0.5, "texels": texels, **optics}))


def even(value: int, kind: type = np.uint8, shape: tuple[int, ...] = (4, 4)) -> np.ndarray:
    return np.full(shape, value, kind)


def seen(*solids: Solid, samples: int = 256, surround: float = 0.0, lit: bool = True, **more: int) -> Film:
    one = scene(solids, (FRONT,) if lit else (), surround)
    return film_of(one, ahead(SIDE * 0.8), size=more.get("size", 16), samples=samples)


def middle(light: np.ndarray) -> np.ndarray:
    """(3,) of the middle of a picture."""
    quarter = light.shape[0] // 4
    return light[quarter:-quarter, quarter:-quarter].mean(axis=(0, 1))


class LookTests(TestCase):
    def test_gloss_of_texels_is_the_gloss_of_a_material(self) -> None:
        """A card whose texels say 0.7 everywhere is the card whose coat is as wide as gloss 0.7 makes it."""
        gloss = round(0.7 * 255)
        alpha = ROUGHEST * (SMOOTHEST / ROUGHEST) ** (gloss / 255)
        by_texels = card(Texels(gloss=even(gloss)), alpha=0.02, coat_index=1.5)
        by_row = card(alpha=alpha, coat_index=1.5)
        plain = card(alpha=0.02, coat_index=1.5)
        mine, its, other = (seen(c).mean_light() for c in (by_texels, by_row, plain))
        np.testing.assert_allclose(mine, its, rtol=1e-4)
        self.assertGreater(float(np.abs(other - its).max()), 0.008, "a smoother one looks different")

    def test_gloss_of_nothing_has_no_coat(self) -> None:
        dull = seen(card(Texels(gloss=even(0)), alpha=0.1, coat_index=1.5)).mean_light()
        np.testing.assert_allclose(dull, seen(card()).mean_light(), rtol=1e-4)

    def test_a_place_that_is_partly_metal_is_their_mean(self) -> None:
        """Light is linear: 40 % gold and 60 % paint give 0.4 and 0.6 of each picture."""
        share = 102 / 255
        optics = {"alpha": 0.3, "n": N, "k": K}
        mixed = seen(card(Texels(metal=even(102)), **optics), samples=2048).mean_light()
        paint = seen(card(**optics), samples=1024).mean_light()
        gold_look = Optics(OpticsKind.METAL, alpha=0.3, colour=(0.5,) * 3, n=N, k=K)
        gold = seen(replace(card(), optics=gold_look), samples=1024).mean_light()
        expected = share * gold + (1 - share) * paint
        np.testing.assert_allclose(mixed.mean(axis=(0, 1)), expected.mean(axis=(0, 1)), rtol=0.02)
        self.assertGreater(float(np.abs(gold - paint).mean()), 0.05)

    def test_colour_of_texels_tints_metal(self) -> None:
        red = np.zeros((4, 4, 3), np.uint8)
        red[..., 0] = 255
        film = seen(card(Texels(colour=red, metal=even(255)), alpha=0.3, n=N, k=K))
        light = film.mean_light()
        self.assertGreater(float(light[..., 0].mean()), 0.05)
        self.assertEqual(float(light[..., 1:].max()), 0.0)

    def test_each_texture_has_what_it_has(self) -> None:
        """Two surfaces of different textures, and one of none, in one scene: each as if alone."""
        grey = np.full((2, 6, 3), 188, np.uint8)
        cards = [
            card(Texels(colour=grey), name="a"),
            card(Texels(gloss=even(200), relief=even(9, np.uint16)), name="b", coat_index=1.5),
            card(name="c"),
        ]
        apart = [replace(c, pose=np.eye(4)) for c in cards]
        alone = [seen(c, samples=64).mean_light() for c in apart]
        for number, one in enumerate(cards):
            others = [replace(c, pose=_aside(500 + 300 * n)) for n, c in enumerate(cards) if c is not one]
            film = seen(one, *others, samples=64)
            np.testing.assert_allclose(film.mean_light(), alone[number], rtol=2e-2, atol=2e-3)


class PresenceTests(TestCase):
    def test_what_is_not_there_shows_what_is_behind(self) -> None:
        share = 153 / 255
        film = seen(card(Texels(presence=even(153))), lit=False, surround=1.0, samples=1024)
        self.assertAlmostEqual(float(film.alpha().mean()), share, delta=0.01)
        np.testing.assert_allclose(film.share_of("card").mean(), share, atol=0.01)

    def test_shadow_of_a_sheet_is_as_dense_as_the_sheet(self) -> None:
        """A wall behind a large sheet of which a quarter is there loses a quarter of its direct light."""
        wall = card(name="wall", back=300.0)
        sheet = quad((-75, -75, 80), (400, 0, 0), (0, 0, 400))
        quarter = Solid("sheet", sheet, matt(0.0, texels=Texels(presence=even(64))), hidden_from_camera=True)
        shaded = seen(wall, quarter, samples=1024).buffer("front").mean()
        bare = seen(wall, samples=1024).buffer("front").mean()
        self.assertAlmostEqual(float(shaded / bare), 1 - 64 / 255, delta=0.01)

    def test_two_sheets_one_behind_the_other(self) -> None:
        """Each passes three quarters: nine sixteenths pass both, in pictures and in shadows."""
        share = 1 - 64 / 255
        wall = card(name="wall", back=300.0)
        sheets = [
            Solid(
                f"sheet {n}",
                quad((-75, -75 + 40 * n, 80), (400, 0, 0), (0, 0, 400)),
                matt(0.0, texels=Texels(presence=even(64))),
                hidden_from_camera=True,
            )
            for n in range(2)
        ]
        shaded = seen(wall, *sheets, samples=1024).buffer("front").mean()
        bare = seen(wall, samples=1024).buffer("front").mean()
        self.assertAlmostEqual(float(shaded / bare), share**2, delta=0.012)

    def test_a_hole_is_a_hole(self) -> None:
        presence = np.full((40, 40), 255, np.uint8)
        presence[10:30, 10:30] = 0
        film = seen(card(Texels(presence=presence)), lit=False, surround=1.0, samples=64, size=48)
        alpha = film.alpha()
        self.assertEqual(float(alpha[20:28, 20:28].max()), 0.0)
        self.assertEqual(float(alpha[:3].min()), 1.0)


class ThroughTests(TestCase):
    """Ink without white: light that passes is coloured, by the root of what is seen over white."""

    CODES = np.broadcast_to(np.uint8((188, 137, 99)), (4, 4, 3)).copy()
    INK = decode_srgb(np.array((188, 137, 99), np.float32) / 255)

    def film(self, **more: object) -> Texels:
        return Texels(**{"colour": self.CODES, "presence": even(0), "through": True, **more})

    def test_what_is_behind_is_seen_through_it_once(self) -> None:
        sheet = Solid("sheet", quad((0, 0, 0), (30, 0, 0), (0, 0, 30)), matt(0.0, texels=self.film()))
        background = seen(sheet, lit=False, surround=1.0, samples=256).buffer("background")
        np.testing.assert_allclose(middle(background), np.sqrt(self.INK), rtol=0.01)

    def test_its_shadow_is_coloured(self) -> None:
        wall = card(name="wall", back=300.0)
        sheet = quad((-75, -75, 80), (400, 0, 0), (0, 0, 400))
        ink = Solid("sheet", sheet, matt(0.0, texels=self.film()), hidden_from_camera=True)
        shaded = seen(wall, ink, samples=1024).buffer("front").mean(axis=(0, 1))
        bare = seen(wall, samples=1024).buffer("front").mean(axis=(0, 1))
        np.testing.assert_allclose(shaded / bare, np.sqrt(self.INK), rtol=0.02)

    def test_its_back_has_its_own_colours(self) -> None:
        front, back = (np.broadcast_to(np.uint8(c), (2, 2, 3)).copy() for c in ((200, 0, 0), (0, 0, 200)))
        sides = {"texels": Texels(colour=front), "behind": Texels(colour=back)}
        for turned, channel in ((False, 0), (True, 2)):
            half = -30 if turned else 30
            sheet = Solid("sheet", quad((0, 0, 0), (half, 0, 0), (0, 0, 30)), matt(0.5, **sides))
            light = seen(sheet, lit=False, surround=1.0, samples=64).buffer("surround").mean(axis=(0, 1))
            self.assertEqual(int(light.argmax()), channel)
            self.assertLess(float(np.sort(light)[1]), 0.02)


class ReliefTests(TestCase):
    def normal(self, relief: np.ndarray, depth: float, *, pose: np.ndarray | None = None) -> np.ndarray:
        texels = Texels(relief=relief, depth=depth, size=(SIDE, SIDE))
        sheet = card(texels) if pose is None else replace(card(texels), pose=pose)
        film = seen(sheet, lit=False, surround=1.0, samples=16)
        return film.albedo_and_normal()[1][8, 8]

    def test_a_ramp_leans_as_steep_as_it_rises(self) -> None:
        """12 mm over 60: the normal leans by atan(1/5), towards where it falls."""
        ramp = np.linspace(0, 65535, 200).astype(np.uint16)
        across = np.tile(ramp, (200, 1))
        expected = np.array([-0.2, -1.0, 0.0]) / np.hypot(1, 0.2)
        np.testing.assert_allclose(self.normal(across, 12.0), expected, atol=4e-3)
        up = across.T[::-1]  # the first row is the top
        expected = np.array([0.0, -1.0, -0.2]) / np.hypot(1, 0.2)
        np.testing.assert_allclose(self.normal(up, 12.0), expected, atol=4e-3)

    def test_relief_turns_with_what_it_is_on(self) -> None:
        ramp = np.tile(np.linspace(0, 65535, 200).astype(np.uint16), (200, 1))
        quarter = np.array([[0, 0, 1, 0], [0, 1, 0, 0], [-1, 0, 0, 0], [0, 0, 0, 1.0]])
        expected = np.array([0.0, -1.0, 0.2]) / np.hypot(1, 0.2)
        np.testing.assert_allclose(self.normal(ramp, 12.0, pose=quarter), expected, atol=4e-3)

    def test_even_relief_changes_nothing(self) -> None:
        flat = Texels(relief=even(30000, np.uint16), depth=5.0, size=(SIDE, SIDE))
        np.testing.assert_allclose(seen(card(flat)).mean_light(), seen(card()).mean_light(), rtol=1e-4)


class StoreTests(TestCase):
    def test_other_textures_compile_nothing(self) -> None:
        everything = {
            "colour": RNG.integers(0, 255, (5, 7, 3), np.uint8),
            "gloss": RNG.integers(0, 255, (5, 7), np.uint8),
            "metal": RNG.integers(0, 255, (5, 7), np.uint8),
            "presence": RNG.integers(0, 255, (5, 7), np.uint8),
            "relief": RNG.integers(0, 65535, (5, 7), np.uint16),
        }
        seen(card(Texels(**everything)), samples=2)
        seen(card(), samples=2)
        with dr.scoped_set_flag(dr.JitFlag.KernelHistory, True):
            dr.kernel_history_clear()
            for name, values in everything.items():
                seen(card(Texels(**{name: values})), samples=2)
            compiled = [k for k in dr.kernel_history() if k["type"] == dr.KernelType.JIT]
        self.assertEqual(sum(not k["cache_hit"] for k in compiled), 0)

    def test_parts_of_a_texture_are_of_one_size(self) -> None:
        with self.assertRaises(ValueError):
            _ = Texels(gloss=even(1), metal=even(1, shape=(3, 4))).shape
        with self.assertRaises(ValueError):
            _ = Texels().shape


def _aside(x: float) -> np.ndarray:
    matrix = np.eye(4)
    matrix[0, 3] = x
    return matrix
