"""Light on cloudy bodies behind glass, gathered once: the same picture with less noise."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase
from unittest.mock import patch

import numpy as np
from drjit.llvm.ad import Array3f, Bool, UInt32

from giftwrap.core.materials.optics import Medium, surface_optics
from giftwrap.core.model import Cloudy
from giftwrap.core.render.areas import area_points
from giftwrap.core.render.film import Film
from giftwrap.core.render.irradiance import GRIDS, OF_BODIES, SMALLEST, Grid, KeptLight, Layer
from giftwrap.core.render.job import PictureJob, scene_renderer
from giftwrap.core.render.keeping import body_of, places_on
from giftwrap.core.render.landing import Stage
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.render.surroundings import Surroundings
from giftwrap.core.render.targets import MOST_BOXES, Boxes, rays_around, rays_from
from giftwrap.core.scene.lamp import Lamp
from giftwrap.core.scene.scene import Instance, Scene, Surface
from giftwrap.core.scene.surrounding import Surrounding
from giftwrap.core.stage.lights import FAR_AWAY
from giftwrap.core.stage.starting import starting_set
from giftwrap.core.tests.samples import frame_of
from giftwrap.core.tests.scenes import GLASS, ahead, clear, lamp, matt, quad, scene, sphere, surface
from giftwrap.core.things.starting import starting_pack

RNG = np.random.default_rng(11)
BROWN = Cloudy(colour="#8a5a32", wander=0.6)
FLOOR = surface("floor", quad((0, 0, -40.2), (300, 0, 0), (0, 300, 0)), matt(0.6))
KEY = lamp((-200, -250, 220), name="key", side=120, radiance=20)


def balm(
    material: Cloudy = BROWN, *, glass: Medium = GLASS, centre: float = 0.0, untouched: tuple[str, ...] = ()
) -> Instance:
    """A ball of 20 mm of something cloudy in a ball of 26 mm of glass."""
    inner = Surface("contents", surface_optics(material, front=glass), untouched_by=frozenset(untouched))
    outer = Surface("body", clear(glass), untouched_by=frozenset(untouched))
    meshes = (sphere(26, (centre, 0, 0), 64), sphere(20, (centre, 0, 0), 64))
    return Instance(f"balm {centre}", meshes, (outer, inner))


def stage(*balms: Instance, lamps: tuple = (KEY,), surround: float = 0.2) -> Scene:
    return Scene((*balms, FLOOR.instance), lamps, Surrounding.even(surround))


def exposed(one: Scene, *, kept: bool, samples: int, size: int = 32, seed: int = 0) -> tuple[Film, Renderer]:
    renderer, film = Renderer(one), Film(size, size)
    if kept:
        renderer.keep_light(seed=seed)
    film.add(renderer.expose(ahead(60), (size, size), samples=samples, seed=seed, firefly_limit=0))
    return film, renderer


class GridTests(TestCase):
    def test_cubes_have_numbers_of_their_own(self) -> None:
        points = RNG.uniform(-30, 30, (500, 3))
        grid = Grid.about(points, 2.0)
        numbers = grid.numbers(points)
        self.assertTrue((numbers >= 0).all())
        same = (numbers[:, None] == numbers[None]) & ~np.eye(500, dtype=bool)
        apart = np.abs(points[:, None] - points[None]).max(axis=2)
        self.assertLess(apart[same].max(initial=0), 2.0)
        self.assertEqual(grid.numbers(np.array([[99.0, 0, 0], [0, 0, -99.0]])).tolist(), [-1, -1])

    def test_numbers_say_where_cubes_are(self) -> None:
        grid = Grid.about(RNG.uniform(-30, 30, (50, 3)), 2.0)
        at = RNG.integers(0, 8 * np.array(grid.blocks), (200, 3))
        numbers = grid.numbered(at)
        np.testing.assert_array_equal(grid.at(numbers), at)
        steps = np.array([[0, 0, 0], [1, 0, -1]])
        np.testing.assert_array_equal(grid.about_each(numbers, steps)[:, 1], grid.numbered(at + steps[1]))
        self.assertEqual(grid.about_each(np.array([-1]), steps).tolist(), [[-1, -1]])

    def test_it_never_outgrows_memory(self) -> None:
        with patch("giftwrap.core.render.irradiance.MOST_BLOCKS", 100):
            grid = Grid.about(np.array([[0.0, 0, 0], [100, 100, 100]]), 0.5)
        self.assertLess(np.prod(grid.blocks), 300)

    def test_what_kernels_read(self) -> None:
        """Each series its own; nothing where nothing is known, nor outside."""
        grid = Grid.about(np.array([[0.0, 0, 0], [10, 10, 10]]), 1.0)
        cells = np.unique(grid.numbers(np.array([[2.5, 2.5, 2.5], [7.5, 7.5, 7.5]])))
        light = RNG.random((2, 2, 5, 3)).astype(np.float32)
        kept = KeptLight([Layer(grid, cells, light)])
        places = Array3f([2.4, 7.4, 5.0, -50.0, 900.0], [2.4, 7.4, 5.0, 2.0, 2.0], [2.4, 7.4, 5.0, 2.0, 2.0])
        up = Array3f(0, 0, 1)
        rows = kept.row(UInt32(OF_BODIES), places, up, Array3f(0.5), Bool(True))
        self.assertEqual(rows.numpy().tolist(), [1, 2, 0, 0, 0])
        for series in range(2):
            found = kept.light(rows, UInt32(series), 3, 5, rows > 0).numpy().T
            np.testing.assert_array_equal(found[:2], light[:, series, 3])
        nothing = KeptLight()
        self.assertFalse(nothing.bodies.numpy()[0] or nothing.fallen.numpy()[0])

    def test_which_grid_is_asked(self) -> None:
        """For what is matt one says in which of the others its light is, to the side that is looked at."""
        regions = Grid.about(np.array([[0.0, 0, 0], [40, 40, 40]]), 8.0)
        fine = Grid.about(np.array([[0.0, 0, 0], [10, 10, 10]]), 1.0)
        here = np.array([[4.0, 4, 4]])
        which = Layer(regions, regions.numbers(here), shift=0.1, numbers=np.array([SMALLEST], dtype=np.int64))
        light = np.ones((1, 2, 5, 3), np.float32)
        kept = KeptLight(
            [None, which, Layer(fine, fine.numbers(here + np.array([0, 0, 1])), light, shift=1.0)]
        )
        places, up = Array3f([4.0, 4.0, 39.0, 900.0], 4.0, 4.0), Array3f(0, 0, [1.0, -1.0, 1.0, 1.0])
        inside, grid = kept.grid_at(places, up, Bool(True))
        self.assertEqual(inside.numpy().tolist(), [True, True, True, False])
        self.assertEqual(grid.numpy().tolist(), [SMALLEST, SMALLEST, GRIDS - 1, 0])
        rows = kept.row(grid, places, up, Array3f(0.5), grid > 0)
        self.assertEqual(rows.numpy().tolist(), [1, 0, 0, 0], "on its upper side alone")


class BodyTests(TestCase):
    def media(self, one: Scene) -> dict[Medium, int]:
        return Renderer(one)._appearance.media

    def test_only_what_is_behind_glass(self) -> None:
        one = stage(balm())
        body = body_of(one.instances, self.media(one))
        assert body is not None
        self.assertAlmostEqual(body.areas.sum() / (4 * np.pi * 20**2), 1, delta=0.01)
        self.assertEqual(body.wander, 0.6)
        soap = scene((surface("soap", sphere(20), surface_optics(BROWN)), FLOOR), (KEY,), 0.2)
        self.assertIsNone(body_of(soap.instances, self.media(soap)))
        self.assertFalse(exposed(soap, kept=True, samples=2)[1]._kept.bodies.numpy()[0])

    def test_places_lie_evenly(self) -> None:
        one = stage(balm())
        body = body_of(one.instances, self.media(one))
        assert body is not None
        places = places_on(body, 4000, np.random.default_rng(1))
        np.testing.assert_allclose(np.linalg.norm(places.points, axis=1), 20, atol=0.05)
        outwards = np.einsum("nk,nk->n", places.points, places.normals) / 20
        self.assertGreater(outwards.min(), 0.99)
        share = (
            places.points[:, 2] > 10
        ).mean()  # a cap's share of a ball is that of its height (Archimedes)
        self.assertAlmostEqual(share, 0.25, delta=0.02)
        points, sizes, of = area_points(body.corners, 0.5)
        np.testing.assert_allclose(np.bincount(of, sizes), body.areas, rtol=1e-6)
        self.assertAlmostEqual(sizes.sum(), body.areas.sum(), delta=1e-6 * sizes.sum())
        self.assertAlmostEqual(sizes[points[:, 2] > 10].sum() / sizes.sum(), 0.25, delta=0.003)
        self.assertLess(sizes.max(), 0.5)


def boxes(*pairs: tuple[tuple[float, ...], tuple[float, ...]]) -> Boxes:
    return Boxes(np.array([low for low, _ in pairs]), np.array([high for _, high in pairs]))


CUBE = ((-50.0, -50, -50), (50.0, 50, 50))


class CastTests(TestCase):
    def test_one_box_for_each_thing_that_is_clear(self) -> None:
        one = stage(balm(), balm(centre=100.0))
        found = Boxes.about_clear(one.instances)
        np.testing.assert_allclose(found.low[:, 0], [-26, 74], atol=0.2)
        np.testing.assert_allclose(found.high[:, 2], 26, atol=0.2)
        self.assertEqual(len(Boxes.about_clear([FLOOR.instance])), 0)

    def test_many_are_cast_at_together(self) -> None:
        """Few boxes hold them all; those that are close to each other are put together first."""
        corners = [
            (np.array([40.0 * i + 100 * (i // 4), 0, 0]), np.array([40.0 * i + 100 * (i // 4) + 30, 9, 9]))
            for i in range(12)
        ]
        few = Boxes.few(corners)
        self.assertEqual(len(few), MOST_BOXES)
        for low, high in corners:
            self.assertTrue(((few.low <= low) & (few.high >= high)).all(axis=1).any())
        self.assertLess((few.high - few.low).max(), 300)

    def test_as_much_leaves_a_lamp_as_a_box_sees_of_it(self) -> None:
        """A small Lambertian source straight ahead sends L A A' / d² to a small area A' that faces it, and as
        much through a box behind that; what two boxes share is counted once."""
        far = lamp((0, 0, 3050), target=(0, 0, 0), side=2, radiance=7)
        expected = 7 * 4 * 100**2 / 3000**2
        for some in ([CUBE], [CUBE, CUBE], [CUBE, ((-20.0, -20, -20), (20.0, 20, 20))]):
            rays = rays_from(far, boxes(*some), 4096, 3)
            self.assertAlmostEqual(rays.flux[:, 1].sum() / expected, 1, delta=0.01)
            at = rays.origins + rays.directions * ((50 - rays.origins[:, 2:]) / rays.directions[:, 2:])
            self.assertLess(np.abs(at[:, :2]).max(), 50.1)

    def test_aslant(self) -> None:
        """From the direction of a corner a cube hides √3 of a face's area."""
        far = lamp((3000, 3000, 3000), target=(0, 0, 0), side=2, radiance=7)
        rays = rays_from(far, boxes(CUBE), 16_384, 3)
        expected = 7 * 4 * np.sqrt(3) * 100**2 / (3 * 3000**2)
        self.assertAlmostEqual(rays.flux[:, 1].sum() / expected, 1, delta=0.01)

    def test_as_much_leaves_a_ball_and_a_spot(self) -> None:
        """A ball sends its strength L π r² into the solid angle of what is far away, a spot L π r² along its
        axis and nothing beyond its beam; the sun its irradiance onto the cross-section."""
        target, solid = boxes(CUBE), 100**2 / 2000**2
        globe = Lamp("b", (0, 0, 2050), (30, 0, 0), (0, 30, 0), (3.0, 2.0, 1.0), shape="ball")
        flux = rays_from(globe, target, 16_384, 2).flux.sum(axis=0)
        np.testing.assert_allclose(flux / (np.pi * 30**2 * solid), (3, 2, 1), rtol=0.03)
        spot = replace(
            lamp((0, 0, 2050), target=(0, 0, 0), side=60, radiance=3), shape="disc", beam=(0.99, 0.9)
        )
        flux = rays_from(spot, target, 16_384, 2).flux[:, 0].sum()
        self.assertAlmostEqual(flux / (3 * np.pi * 30**2 * solid), 1, delta=0.02)
        aside = replace(spot, centre=(2000.0, 0.0, 2000.0))
        self.assertEqual(rays_from(aside, target, 4096, 2).flux.sum(), 0)
        radius = FAR_AWAY * np.tan(np.radians(0.53 / 2))
        sun = Lamp("s", (0, 0, FAR_AWAY), (0, radius, 0), (-radius, 0, 0), (5.0,) * 3, shape="disc")
        sun = sun if sun.normal[2] < 0 else replace(sun, up=(radius, 0, 0))
        rays = rays_from(sun, target, 16_384, 2)
        expected = 5 * np.pi * np.sin(np.radians(0.53 / 2)) ** 2 * 100**2
        self.assertAlmostEqual(rays.flux[:, 0].sum() / expected, 1, delta=0.02)
        self.assertLess(np.linalg.norm(rays.origins, axis=1).max(), 3e4, "near enough for single precision")

    def test_from_within(self) -> None:
        """A lamp inside a box shines all it has: π L A."""
        inside = lamp((0, 0, 10), target=(0, 0, 100), side=20, radiance=3)
        rays = rays_from(inside, boxes(CUBE), 8192, 1)
        self.assertAlmostEqual(rays.flux[:, 1].sum() / (np.pi * 3 * 400), 1, delta=0.02)

    def test_what_is_bright_around(self) -> None:
        """Of a picture of everything around, what is beyond a radiance: its irradiance on the
        cross-section of the boxes as it sees them."""
        picture = np.full((64, 128, 3), 0.1, np.float32)
        picture[:8] = (8.0, 4.0, 2.0)  # about the zenith, within 22.5°
        around = Surroundings(Surrounding((1.0, 1.0, 1.0), picture), None)
        rays = rays_around(around, boxes(CUBE), 65_536, 1, most=1.0)
        zenith = (np.arange(2000) + 0.5) / 2000 * np.pi / 8
        wide = 100**2 * (np.cos(zenith) + np.sin(zenith) * 4 / np.pi)
        falls = (wide * 2 * np.pi * np.sin(zenith)).mean() * np.pi / 8
        expected = np.array([8.0, 4, 2]) * (1 - 1 / 8) * falls
        np.testing.assert_allclose(rays.flux.sum(axis=0) / expected, 1, atol=0.05)
        self.assertLess(rays.directions[:, 2][rays.flux[:, 0] > 0].max(), -0.9)

    def test_what_falls_on_a_ball(self) -> None:
        """Through a wall that bends nothing, a sphere takes up πr²·E of a small far lamp's light, and a white
        matt one gives as much back: the light out of it, over all its area, is E πr²/π."""
        air = Medium(index=1.0, absorption=(1e-9,) * 3)
        far = lamp((0, 0, 2000), target=(0, 0, 0), side=20, radiance=50)
        one = stage(balm(replace_index(BROWN), glass=air), lamps=(far,), surround=0.0)
        renderer = Renderer(one)
        body = body_of(one.instances, renderer._appearance.media)
        assert body is not None
        loaded = Stage(renderer._geometry, renderer._appearance, renderer._lighting, one.lamps, 0.0)
        fallen = loaded.cast(Boxes.about_clear(one.instances), 100_000, 1).bodies
        irradiance = 50 * 400 / 2000**2
        given = fallen.values.sum(axis=0) / 2  # two series, each of all light
        np.testing.assert_allclose(given / (irradiance * 20**2), 1, atol=0.03)
        self.assertGreater(fallen.points[:, 2].min(), -0.5, "on its lit side")


def replace_index(material: Cloudy) -> Cloudy:
    return material.model_copy(update={"refractive_index": 1.0, "gloss": 0.0})


class PictureTests(TestCase):
    def setUp(self) -> None:
        """By fewer paths than finals take."""
        few = patch.multiple("giftwrap.core.render.keeping", PATHS=25.0, CAST=100.0)
        few.start()
        self.addCleanup(few.stop)

    def test_the_same_picture_with_less_noise(self) -> None:
        """Against paths alone, in blocks of pixels; dark enough for these to end before they are cut off."""
        one = stage(balm())
        plain, _ = exposed(one, kept=False, samples=2400)
        kept, _ = exposed(one, kept=True, samples=400)
        blocks = [
            f.mean_light().reshape(8, 4, 8, 4, 3).mean(axis=(1, 3))[2:6, 2:6].mean(axis=2)
            for f in (plain, kept)
        ]
        ratio = blocks[1] / blocks[0]
        self.assertAlmostEqual(float(ratio.mean()), 1, delta=0.015)
        self.assertLess(float(np.abs(ratio - 1).max()), 0.08, ratio)
        alike, _ = exposed(one, kept=False, samples=400)
        self.assertLess(kept.noise() / alike.noise(), 0.5)

    def test_in_even_light_white_stays_white(self) -> None:
        """The white furnace: a body that takes nothing, in glass, in light of 1 from all around."""
        white = Cloudy(colour="#ffffff", wander=4.0)
        inner = surface_optics(white, front=GLASS)
        inner = replace(inner, back=replace(inner.back, albedo=(1.0, 1.0, 1.0)))
        meshes = (sphere(26, steps=64), sphere(20, steps=64))
        ball = Instance("balm", meshes, (Surface("body", clear()), Surface("contents", inner)))
        film, _ = exposed(Scene((ball,), (), Surrounding.even(1.0)), kept=True, samples=200)
        self.assertAlmostEqual(float(film.mean_light()[12:20, 12:20].mean()), 1, delta=0.02)

    def test_lamps_that_do_not_touch_it(self) -> None:
        """Only what the floor sends on reaches it from them."""
        light = []
        for untouched in ((), ("key",)):
            film, _ = exposed(stage(balm(untouched=untouched), surround=0.0), kept=True, samples=16)
            light.append(film.light[0].reshape(3, 32, 32)[:, 13:19, 13:19].mean())
        self.assertGreater(light[1], 0)
        self.assertLess(light[1], 0.5 * light[0])

    def test_several_bodies(self) -> None:
        """One that is dark beside one that is light: each has its own."""
        pale = Cloudy(colour="#e6d2b4", wander=1.0)
        renderer, film = Renderer(stage(balm(centre=-15.0), balm(pale, centre=45.0))), Film(32, 32)
        renderer.keep_light()
        film.add(renderer.expose(ahead(160), (32, 32), samples=64, seed=0))
        light = film.mean_light().mean(axis=2)
        self.assertGreater(light[14:18, 24:27].mean(), 1.5 * light[14:18, 12:15].mean())
        self.assertGreater(light[14:18, 12:15].mean(), 0.02)

    def test_finals_keep_it_and_proofs_do_not(self) -> None:
        jar = starting_pack("jar-50")
        frame = frame_of(jar, photo_set=starting_set())
        few = {"PATHS_IN_ALL": (2000, 2000), "CAST_IN_ALL": (4000, 4000)}
        with patch.multiple("giftwrap.core.render.keeping", **few):
            for quick in (False, True):
                job = PictureJob.of(frame, 24, 30, quick=quick)
                self.assertEqual(bool(scene_renderer(job)._kept.bodies.numpy()[0]), not quick)
