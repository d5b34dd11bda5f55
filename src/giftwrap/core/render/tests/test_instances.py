"""Things placed are as if they had been formed where they stand, and each is loaded once."""

from __future__ import annotations

import json
import struct
import tempfile
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

import drjit as dr
import numpy as np
import OpenImageIO as oiio  # noqa: N813 - the library's own convention

from giftwrap.core.materials.optics import AIR, Medium
from giftwrap.core.mesh.transform import lean, moved, shift, turn
from giftwrap.core.model import Camera
from giftwrap.core.picture.passes import write_passes
from giftwrap.core.render.film import Film
from giftwrap.core.render.geometry import Geometry
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.scene.scene import Instance, Scene, Surface
from giftwrap.core.scene.surrounding import Surrounding
from giftwrap.core.tests.scenes import Solid, box, clear, film_of, lamp, matt, quad, scene, sphere

KEY = lamp((-250, -200, 250), name="key", side=200, radiance=6)
FLOOR = Solid("floor", quad((0, 0, -40.1), (600, 0, 0), (0, 600, 0)), matt(0.6))
TEA = Medium(index=1.33, absorption=(0.02, 0.06, 0.15))
CAMERA = Camera(lens_mm=60, distance=620, height=160, aim_height=-10)
POSES = [shift(-70, 0, 0) @ turn(30), shift(70, 30, 5) @ lean(25)]


def glass_of_tea() -> Instance:
    """Glass around tea: two surfaces, three media, one thing."""
    meshes = (box((-30, -30, -40), (30, 30, 40)), box((-24, -24, -34), (24, 24, 34)))
    glass = Medium(index=1.5)
    looks = (Surface("glass", clear(glass, AIR)), Surface("tea", clear(TEA, glass)))
    return Instance("cup", meshes, looks)


def flattened(one: Scene) -> Scene:
    """The same scene with every thing formed where it stands."""
    there = tuple(
        replace(i, meshes=tuple(moved(m, i.pose) for m in i.meshes), pose=np.eye(4)) for i in one.instances
    )
    return replace(one, instances=there)


def placed_twice(instance: Instance) -> tuple[Instance, ...]:
    return tuple(replace(instance, name=f"cup {n}", pose=pose) for n, pose in enumerate(POSES))


class PlacedTests(TestCase):
    def test_placed_things_are_as_if_formed_where_they_stand(self) -> None:
        """Media, absorption, normals and masks, all through the pose: the same seeds, the same light."""
        one = Scene((FLOOR.instance, *placed_twice(glass_of_tea())), (KEY,), Surrounding.even(0.4))
        placed = film_of(one, CAMERA, size=64, samples=128)
        formed = film_of(flattened(one), CAMERA, size=64, samples=128)
        apart = np.abs(placed.mean_light() - formed.mean_light())
        self.assertLess(float(np.median(apart)), 2e-3)
        self.assertAlmostEqual(
            float(placed.mean_light().mean()), float(formed.mean_light().mean()), delta=2e-3
        )
        for name in ("cup 0", "cup 1"):
            np.testing.assert_allclose(
                placed.share_of("glass", name), formed.share_of("glass", name), atol=0.02
            )
            self.assertGreater(float(placed.share_of("glass", name).sum()), 60)

    def test_what_stands_as_it_was_formed_may_come_behind_what_was_moved(self) -> None:
        """A card behind a turned pack: neither takes the other's triangles nor its looks."""
        box_there = Solid("box", box((-30, -30, -40), (30, 30, 40)), matt(0.7), pose=POSES[0])
        card = Solid("card", quad((90, 0, 0), (40, 0, 0), (0, 0, 40)), matt(0.05))
        for order in ((FLOOR, box_there, card), (card, box_there, FLOOR), (box_there, card, FLOOR)):
            one = scene(list(order), [KEY], 0.3)
            placed = film_of(one, CAMERA, size=48, samples=64)
            formed = film_of(flattened(one), CAMERA, size=48, samples=64)
            np.testing.assert_allclose(placed.mean_light(), formed.mean_light(), atol=0.06)
            for name in ("card", "box", "floor"):
                np.testing.assert_allclose(placed.share_of(name), formed.share_of(name), atol=0.03)

    def test_each_instance_has_looks_of_its_own(self) -> None:
        ball = Solid("ball", sphere(40), matt(0.7))
        dark = replace(ball, name="dark", optics=matt(0.05), pose=shift(70, 0, 0))
        bright = replace(ball, name="bright", pose=shift(-70, 0, 0))
        film = film_of(scene([FLOOR, dark, bright], [KEY], 0.3), CAMERA, size=48, samples=64)
        albedo, _ = film.albedo_and_normal()
        for name, grey in (("dark", 0.05), ("bright", 0.7)):
            inside = film.share_of(name) > 0.999
            self.assertGreater(int(inside.sum()), 10)
            np.testing.assert_allclose(albedo[inside], grey, atol=1e-3)

    def test_a_light_leaves_out_one_instance_of_two(self) -> None:
        ball = Solid("ball", sphere(40), matt(0.7))
        shy = replace(ball, name="shy", untouched_by=frozenset({"key"}), pose=shift(70, 0, 0))
        open_ = replace(ball, name="open", pose=shift(-70, 0, 0))
        film = film_of(scene([shy, open_], [KEY], 0.0), CAMERA, size=48, samples=64)
        key = film.buffer("key").mean(axis=2)
        self.assertLess(
            float(key[film.share_of("shy") > 0.999].mean()), 0.2 * key[film.share_of("open") > 0.999].mean()
        )


class LoadingTests(TestCase):
    def test_copies_cost_poses_and_moving_one_loads_no_mesh(self) -> None:
        ball = Solid("ball", sphere(10, steps=32), matt())
        row = [replace(ball, name=f"ball {n}", pose=shift(30 * n, 0, 0)) for n in range(40)]
        one = Geometry.of([solid.instance for solid in row])
        self.assertEqual(len(one._things), 1)
        self.assertEqual(dr.width(one._tables.positions), ball.mesh.positions.size)
        row[7] = replace(row[7], pose=shift(0, 200, 0))
        other = Geometry.of([solid.instance for solid in row], previous=one)
        self.assertIsNot(other, one)
        self.assertIs(other._tables, one._tables)
        self.assertIs(Geometry.of([solid.instance for solid in row], previous=other), other)

    def test_adding_moving_and_removing_compile_nothing(self) -> None:
        ball, block = sphere(30, steps=24), box((-20, -20, -40), (20, 20, 0))

        def take(count: int, step: float) -> None:
            solids = [
                Solid(f"{n}", ball if n % 2 else block, matt(0.3), pose=shift(60 * n, step, 0) @ turn(step))
                for n in range(count)
            ]
            film_of(scene([FLOOR, *solids], [KEY], 0.2), CAMERA, size=16, samples=2)

        take(3, 0.0)
        take(5, 1.0)
        with dr.scoped_set_flag(dr.JitFlag.KernelHistory, True):
            dr.kernel_history_clear()
            for count, step in ((2, 2.0), (9, 3.0), (1, 4.0), (40, 5.0)):
                take(count, step)
            compiled = [k for k in dr.kernel_history() if k["type"] == dr.KernelType.JIT]
        self.assertEqual(sum(not k["cache_hit"] for k in compiled), 0)


class ManyObjectsTests(TestCase):
    """200 objects, read back as the Cryptomatte specification (1.2.0) says."""

    def test_masks_of_two_hundred_objects(self) -> None:
        ball = sphere(9, steps=24)
        solids = [
            Solid(f"ball {n}", ball, matt(0.5), pose=shift(20 * (n % 20) - 190, 0, 20 * (n // 20) - 90))
            for n in range(200)
        ]
        camera = Camera(
            projection="orthographic", orthographic_width=420, distance=500, height=0, aim_height=0
        )
        renderer, film = Renderer(scene(solids, [KEY], 0.3)), Film(128, 64)
        film.add(renderer.expose(camera, (128, 64), samples=64, seed=0))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "passes.exr"
            write_passes(path, film)
            pixels, manifest = _mattes(path, "CryptoAsset")
        self.assertEqual(len(manifest), 200)
        ids, shares = pixels[..., 0::2], pixels[..., 1::2]
        millimetre2 = (420 / 128) ** 2
        areas = []
        for name, bits in manifest.items():
            wanted = np.float32(struct.unpack("<f", struct.pack("<I", int(bits, 16)))[0])
            mask = np.where(ids == wanted, shares, 0).sum(axis=2)
            np.testing.assert_allclose(mask, film.share_of(name), atol=1e-6)
            areas.append(float(mask.sum()) * millimetre2)
        np.testing.assert_allclose(np.mean(areas), np.pi * 81, rtol=0.01)  # πr² of a disc


def _mattes(path: Path, name: str) -> tuple[np.ndarray, dict[str, str]]:
    source = oiio.ImageInput.open(str(path))
    number = 0
    while source.seek_subimage(number, 0):
        if source.spec().get_string_attribute("oiio:subimagename") == name:
            break
        number += 1
    spec = source.spec()
    metadata = {a.name: a.value for a in spec.extra_attribs}
    manifest = next(value for key, value in metadata.items() if key.endswith("/manifest"))
    return source.read_image(number, 0, 0, spec.nchannels, "float"), json.loads(manifest)
