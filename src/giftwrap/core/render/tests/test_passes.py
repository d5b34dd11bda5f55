"""What is kept apart: lights, masks, depth, alpha and shadows; what lights and camera do not see."""

from __future__ import annotations

import json
import struct
import tempfile
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

import numpy as np
import OpenImageIO as oiio  # noqa: N813 - the library's own convention

from giftwrap.core.materials.optics import METALS, Optics, OpticsKind
from giftwrap.core.model import Camera
from giftwrap.core.picture.passes import matte_id, write_passes
from giftwrap.core.render.film import Film
from giftwrap.core.render.planning import Region
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.scene.surrounding import Surrounding
from giftwrap.core.tests.scenes import (
    GLASS,
    ahead,
    box,
    clear,
    error2_of,
    film_of,
    lamp,
    matt,
    quad,
    scene,
    sphere,
    surface,
)

KEY = lamp((-250, -200, 250), name="key", side=200, radiance=6)
EDGE = lamp((300, -50, 80), name="edge", side=80, radiance=14)
FLOOR = surface("floor", quad((0, 0, -40.1), (500, 0, 0), (0, 500, 0)), matt(0.6))
BALL = surface("ball", sphere(40), matt(0.7))
GLASS_BALL = surface("glass", sphere(40), clear(GLASS))
STEEL = Optics(OpticsKind.METAL, alpha=0.05, n=METALS["chrome"][0], k=METALS["chrome"][1])
CAMERA = Camera(lens_mm=60, distance=500, height=120, aim_height=-10)
DARK = (0.0, 0.0, 0.0)


class LightBufferTests(TestCase):
    def test_each_light_is_as_if_the_others_were_off(self) -> None:
        stage = scene(
            (FLOOR, GLASS_BALL, surface("box", box((50, -20, -40), (90, 20, 0)), matt(0.4))), (KEY, EDGE), 0.4
        )
        every = film_of(stage, CAMERA, size=40, samples=600)
        alone = {
            "key": replace(stage, lamps=(KEY, replace(EDGE, radiance=DARK)), around=Surrounding.even(0.0)),
            "edge": replace(stage, lamps=(replace(KEY, radiance=DARK), EDGE), around=Surrounding.even(0.0)),
            "surround": replace(stage, lamps=(replace(KEY, radiance=DARK), replace(EDGE, radiance=DARK))),
        }
        for name, one in alone.items():
            with self.subTest(name):
                film = film_of(one, CAMERA, size=40, samples=600, first_seed=50)
                mine, its = every.buffer(name).mean(axis=2), film.buffer(name).mean(axis=2)
                error = np.sqrt(2 * np.mean(error2_of(film)) / mine.size)
                self.assertAlmostEqual(
                    float(mine.mean()), float(its.mean()), delta=3.5 * float(error) + 0.003 * mine.mean()
                )

    def test_buffers_sum_to_the_picture(self) -> None:
        film = film_of(scene((FLOOR, BALL), (KEY, EDGE), 0.4), CAMERA, size=24, samples=16)
        together = sum(film.buffer(name) for name in ("key", "edge", "surround"))
        np.testing.assert_allclose(film.mean_light(), together, rtol=1e-5, atol=1e-6)

    def test_nine_lights_have_nine_buffers(self) -> None:
        ring = tuple(
            lamp((300 * np.sin(a), -300 * np.cos(a), 200), name=f"lamp {i}", side=60, radiance=4)
            for i, a in enumerate(np.linspace(0, 6, 9))
        )
        film = film_of(scene((FLOOR, BALL), ring, 0.1), CAMERA, size=16, samples=64)
        self.assertEqual(len(film.buffers), 11)
        self.assertTrue(all(film.buffer(one.name).max() > 0 for one in ring))


class SeriesTests(TestCase):
    def test_a_series_goes_on_where_it_stopped_however_it_is_cut(self) -> None:
        renderer, size = Renderer(scene((FLOOR, GLASS_BALL), (KEY, EDGE), 0.4)), (24, 24)
        whole = renderer.expose(CAMERA, size, samples=16, seed=3)
        film = Film(*size)
        for begin, samples in ((5, 11), (0, 2), (2, 3)):
            film.add(renderer.expose(CAMERA, size, samples=samples, seed=3, begin=begin))
        np.testing.assert_allclose(film.light, whole.light, rtol=1e-4, atol=1e-5)

    def test_samples_of_a_series_lie_evenly(self) -> None:
        """Passes of one series miss what many samples give by less than independent passes do."""
        renderer, size = Renderer(scene((FLOOR, BALL), (KEY, EDGE), 0.2)), (32, 32)

        def taken(seeds: list[int], begins: list[int], each: int) -> np.ndarray:
            film = Film(*size)
            for seed, begin in zip(seeds, begins, strict=True):
                film.add(renderer.expose(CAMERA, size, samples=each, seed=seed, begin=begin, firefly_limit=0))
            return film.mean_light()

        true = taken([99], [0], 1024)
        one = taken([1] * 4, [0, 4, 8, 12], 4) - true
        several = taken([1, 2, 3, 4], [0] * 4, 4) - true
        by_chance = taken(list(range(100, 116)), [0] * 16, 1) - true
        spread = [float(np.sqrt(np.mean(miss**2))) for miss in (one, several, by_chance)]
        self.assertLess(spread[0], 0.85 * spread[2])
        self.assertLess(spread[0], spread[1])


class TouchTests(TestCase):
    def test_a_light_leaves_out_what_it_does_not_touch(self) -> None:
        shy = replace(BALL, untouched_by=frozenset({"edge"}))
        film = film_of(scene((FLOOR, shy), (KEY, EDGE), 0.0), CAMERA, size=48, samples=128)
        plain = film_of(scene((FLOOR, BALL), (KEY, EDGE), 0.0), CAMERA, size=48, samples=128)
        ball = film.share_of("ball") > 0.999
        floor = film.share_of("floor") > 0.999
        lit = plain.buffer("edge").mean(axis=2) > 0.15
        self.assertGreater(int((ball & lit).sum()), 20)
        # what still reaches the ball has bounced off the floor first
        self.assertLess(
            float(film.buffer("edge")[ball & lit].mean()),
            0.2 * float(plain.buffer("edge")[ball & lit].mean()),
        )
        np.testing.assert_allclose(
            film.buffer("edge")[floor].mean(), plain.buffer("edge")[floor].mean(), rtol=0.1
        )
        np.testing.assert_allclose(
            film.buffer("key")[ball].mean(), plain.buffer("key")[ball].mean(), rtol=0.02
        )

    def test_a_lamp_hidden_from_the_camera_still_lights(self) -> None:
        behind = lamp((0, 250, 20), name="behind", side=120, radiance=5)
        shown = film_of(scene((FLOOR, BALL), (behind,), 0.0), ahead(300), size=48, samples=64)
        hidden = film_of(
            scene((FLOOR, BALL), (replace(behind, hidden_from_camera=True),), 0.0),
            ahead(300),
            size=48,
            samples=64,
        )
        self.assertAlmostEqual(float(shown.mean_light().max()), 5.0, places=3)
        self.assertLess(float(hidden.mean_light().max()), 4.0)
        ball = shown.share_of("ball") > 0.999
        np.testing.assert_allclose(
            hidden.mean_light()[ball].mean(), shown.mean_light()[ball].mean(), rtol=0.1
        )

    def test_a_lamp_hidden_from_reflections_lights_what_is_matt_only(self) -> None:
        mirror = surface("mirror", sphere(40), STEEL)
        front = lamp((0, -450, 200), name="front", side=150, radiance=8)
        shy = replace(mirror, unreflecting=frozenset({"front"}))
        bright = film_of(scene((FLOOR, mirror), (front,), 0.0), CAMERA, size=48, samples=64)
        dull = film_of(scene((FLOOR, shy), (front,), 0.0), CAMERA, size=48, samples=64)
        self.assertGreater(float(bright.mean_light().max()), 2.5)
        self.assertLess(float(dull.mean_light().max()), 1.5)
        floor = bright.share_of("floor") > 0.999
        np.testing.assert_allclose(
            dull.mean_light()[floor].mean(), bright.mean_light()[floor].mean(), rtol=0.05
        )

    def test_glossy_paint_under_a_lamp_hidden_from_reflections_loses_its_highlight_alone(self) -> None:
        """What is left is the matt share of the same paint, however its highlight is sampled."""
        paint = Optics(OpticsKind.COAT, alpha=0.2, coat_index=1.5, colour=(0.4,) * 3)
        front = lamp((0, -450, 120), name="front", side=200, radiance=6)
        shy = frozenset({"front"})
        card = surface("card", quad((0, 0, 0), (30, 0, 0), (0, 0, 30)), paint)
        far = replace(card, optics=replace(paint, alpha=0.01))  # its highlight is elsewhere
        hidden = film_of(
            scene((replace(card, unreflecting=shy),), (front,), 0.0), ahead(20), size=16, samples=512
        )
        matt_only = film_of(
            scene((replace(far, unreflecting=shy),), (front,), 0.0), ahead(20), size=16, samples=512
        )
        shown = film_of(scene((card,), (front,), 0.0), ahead(20), size=16, samples=512)
        np.testing.assert_allclose(hidden.mean_light().mean(), matt_only.mean_light().mean(), rtol=0.02)
        self.assertGreater(float(shown.mean_light().mean()), 1.05 * float(hidden.mean_light().mean()))

    def test_a_thing_hidden_from_the_camera_still_shades(self) -> None:
        ghost = replace(BALL, hidden_from_camera=True)
        film = film_of(scene((FLOOR, ghost), (KEY,), 0.0), CAMERA, size=48, samples=64)
        bare = film_of(scene((FLOOR,), (KEY,), 0.0), CAMERA, size=48, samples=64)
        self.assertEqual(float(film.share_of("ball").max()), 0.0)
        self.assertLess(float((film.mean_light() - bare.mean_light()).min()), -0.1)


class BackgroundTests(TestCase):
    def test_background_is_apart_from_the_surround(self) -> None:
        film = film_of(scene((BALL,), (), 0.8), ahead(160), size=48, samples=64)
        corner = film.mean_light((0.1, 0.2, 0.3))[2, 2]
        np.testing.assert_allclose(corner, (0.1, 0.2, 0.3), atol=1e-6)
        middle = film.mean_light((0.1, 0.2, 0.3))[24, 24]
        np.testing.assert_allclose(middle, 0.7 * 0.8, rtol=0.05)
        self.assertEqual(float(film.alpha()[2, 2]), 0.0)
        self.assertEqual(float(film.alpha()[24, 24]), 1.0)

    def test_glass_lets_the_background_through(self) -> None:
        film = film_of(scene((GLASS_BALL,), (), 0.5), ahead(160), size=48, samples=256)
        self.assertAlmostEqual(float(film.alpha()[20:28, 20:28].mean()), 1 - 0.96**2, delta=0.015)

    def test_a_catcher_shows_shadow_and_reflection_alone(self) -> None:
        catcher = replace(FLOOR, catcher=True)
        film = film_of(scene((catcher, BALL), (KEY,), 0.0), CAMERA, size=64, samples=128)
        plain = film_of(scene((FLOOR, BALL), (KEY,), 0.0), CAMERA, size=64, samples=128)
        floor = film.share_of("floor") > 0.999
        shaded = floor & (plain.shade() < 0.1)
        clear_floor = floor & (plain.shade() > 0.98)
        self.assertGreater(int(shaded.sum()), 20)
        self.assertGreater(float(film.alpha()[shaded].min()), 0.8)
        self.assertLess(float(film.alpha()[clear_floor].max()), 0.1)
        self.assertEqual(float(film.mean_light()[floor].max()), 0.0)


class GuideTests(TestCase):
    def test_depth_and_normal(self) -> None:
        film = film_of(scene((BALL,), (), 1.0), ahead(100, distance=500), size=50, samples=16)
        self.assertAlmostEqual(float(film.depth()[25, 25]), 460.0, delta=0.2)
        _, normal = film.albedo_and_normal()
        np.testing.assert_allclose(normal[25, 25], (0, -1, 0), atol=0.06)
        self.assertEqual(float(film.depth()[0, 0]), 0.0)

    def test_guides_look_through_clear_glass(self) -> None:
        card = surface("card", quad((0, 60, 0), (80, 0, 0), (0, 0, 80)), matt(0.25))
        film = film_of(scene((GLASS_BALL, card), (), 1.0), ahead(100), size=32, samples=32)
        albedo, _ = film.albedo_and_normal()
        np.testing.assert_allclose(albedo[16, 16], 0.25, atol=1e-3)
        self.assertEqual(float(film.share_of("glass")[16, 16]), 1.0)


class WorkTests(TestCase):
    def test_samples_do_not_depend_on_how_work_is_cut(self) -> None:
        stage = scene((FLOOR, GLASS_BALL), (KEY,), 0.2)
        renderer = Renderer(stage)
        whole = renderer.expose(CAMERA, (32, 24), samples=8, seed=3)
        pixels = np.arange(200, 500, dtype=np.uint32)
        part = renderer.expose(CAMERA, (32, 24), samples=8, seed=3, pixels=pixels)
        np.testing.assert_allclose(part.light, whole.light[..., 200:500], rtol=1e-5, atol=1e-6)

    def test_a_region_is_a_part_of_the_picture(self) -> None:
        renderer = Renderer(scene((FLOOR, BALL), (KEY,), 0.3))
        whole, part = Film(64, 48), Film(20, 16)
        whole.add(renderer.expose(CAMERA, (64, 48), samples=256, seed=0))
        part.add(renderer.expose(CAMERA, (64, 48), samples=256, seed=9, region=Region(30, 10, 20, 16)))
        np.testing.assert_allclose(part.mean_light(), whole.mean_light()[10:26, 30:50], atol=0.12)
        self.assertLess(float(np.median(np.abs(part.depth() - whole.depth()[10:26, 30:50]))), 0.5)

    def test_fireflies_are_dimmed_but_no_highlight_is(self) -> None:
        stage = scene((FLOOR, surface("mirror", sphere(40), STEEL)), (KEY,), 0.0)
        free = film_of(stage, CAMERA, size=48, samples=64)
        tamed = film_of(stage, CAMERA, size=48, samples=64, firefly_limit=1.0)
        self.assertAlmostEqual(float(tamed.mean_light().max()), float(free.mean_light().max()), places=4)
        self.assertLessEqual(float(tamed.mean_light().sum()), float(free.mean_light().sum()) + 1e-3)
        self.assertGreater(float(tamed.mean_light().sum()), 0.97 * float(free.mean_light().sum()))


class MatteTests(TestCase):
    """Read back as the Cryptomatte specification (1.2.0) says, without our own writer's help."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "passes.exr"
        stage = scene((FLOOR, BALL, surface("box", box((50, -20, -40), (90, 20, 0)), matt(0.4))), (KEY,), 0.3)
        self.film = film_of(
            stage, Camera(lens_mm=85, distance=420, height=200, aim_height=-20), size=64, samples=64
        )
        write_passes(self.path, self.film)

    def layer(self, name: str) -> tuple[np.ndarray, dict[str, str], tuple[str, ...]]:
        source = oiio.ImageInput.open(str(self.path))
        number = 0
        while source.seek_subimage(number, 0):
            if source.spec().get_string_attribute("oiio:subimagename") == name:
                break
            number += 1
        spec = source.spec()
        pixels = source.read_image(number, 0, 0, spec.nchannels, "float")
        return pixels, {a.name: a.value for a in spec.extra_attribs}, spec.channelnames

    def test_masks_sum_to_one_and_are_told_by_the_manifest(self) -> None:
        pixels, metadata, channels = self.layer("CryptoObject")
        key = next(k for k in metadata if k.startswith("cryptomatte/") and k.endswith("/name"))
        self.assertRegex(key, "^cryptomatte/[0-9a-f]{7}/name$")
        self.assertEqual(metadata[key], "CryptoObject")
        self.assertEqual(metadata[key.replace("/name", "/hash")], "MurmurHash3_32")
        self.assertEqual(metadata[key.replace("/name", "/conversion")], "uint32_to_float32")
        manifest = json.loads(metadata[key.replace("/name", "/manifest")])
        self.assertEqual(set(manifest), {"floor/floor", "ball/ball", "box/box"})
        self.assertEqual(channels[:4], tuple(f"CryptoObject00.{c}" for c in "RGBA"))
        ids, shares = pixels[..., 0::2], pixels[..., 1::2]
        np.testing.assert_allclose(shares.sum(axis=2), 1.0, atol=1e-5)
        for name in ("floor", "ball", "box"):
            wanted = struct.unpack("<f", struct.pack("<I", int(manifest[f"{name}/{name}"], 16)))[0]
            mask = np.where(ids == np.float32(wanted), shares, 0).sum(axis=2)
            np.testing.assert_allclose(mask, self.film.share_of(name), atol=1e-6)
        self.assertTrue((np.diff(shares, axis=2) <= 1e-6).all(), "ranks fall")

    def test_the_hash_is_the_published_one(self) -> None:
        """MurmurHash3_x86_32 of "hello" with seed 0 is 0x248bfa47 (its reference code; from memory)."""
        self.assertEqual(struct.pack("<f", matte_id("hello")), struct.pack("<I", 0x248BFA47))

    def test_lights_and_depth_lie_in_the_file(self) -> None:
        key, _, _ = self.layer("light.key")
        np.testing.assert_allclose(key, self.film.buffer("key"), rtol=2e-3, atol=1e-4)
        depth, _, _ = self.layer("depth")
        np.testing.assert_allclose(depth[..., 0], self.film.depth(), rtol=1e-5)
