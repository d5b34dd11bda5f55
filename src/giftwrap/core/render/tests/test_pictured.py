"""Pictures on materials, in light: where they lie in mm, their colours, gloss and relief."""

from __future__ import annotations

import hashlib
import io
from dataclasses import replace
from unittest import TestCase

import numpy as np

from giftwrap.core.grade.display import decode_srgb
from giftwrap.core.materials.optics import Optics, Texels, material_optics, printed_optics
from giftwrap.core.materials.pictured import pictured
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.material import Material
from giftwrap.core.model.worked import Grain, Pictures
from giftwrap.core.tests.scenes import ahead, box, even_light, film_of, lamp, quad, scene, surface

BLOCK = box((-20, -5, -20), (20, 5, 20))


def optics_of(material: Material, grain: dict[str, object], **parts: np.ndarray) -> Optics:
    """Optics of a material with pictures of some parts."""
    files, names = {}, {}
    for part, values in parts.items():
        stream = io.BytesIO()
        np.save(stream, values)
        names[part] = hashlib.sha256(stream.getvalue()).hexdigest()
        files[names[part]] = stream.getvalue()
    worked = Grain(**{"pattern": Pictures(**names), "lies": "over", "share": 1, **grain})
    return pictured(material_optics(material.model_copy(update={"grain": worked})), files)


def codes(*rows: list[int]) -> np.ndarray:
    """(h, w, 4) greys, covering."""
    grey = np.array(rows, np.uint8)
    return np.dstack([grey, grey, grey, np.full_like(grey, 255)])


def quad_in_front() -> Mesh:
    """The block's front as a sheet of its own, 40 × 40 mm."""
    return quad((0, -5, 0), (20, 0, 0), (0, 0, 20))


def lit(optics: Optics, x: float, *, z: float = 0.0) -> np.ndarray:
    """The block's front under one lamp, as columns from left to right."""
    stage = scene((surface("one", BLOCK, optics),), (lamp((x, -300, z), side=30, radiance=50),), 0.0)
    return film_of(stage, ahead(30), size=90, samples=64).mean_light().mean(axis=(0, 2))


class PictureTests(TestCase):
    def test_it_stands_upright_at_its_size(self) -> None:
        """Eight by eight squares of 5 mm, each of another grey, seen from the front: where they are and how
        light, by the curve of sRGB (IEC 61966-2-1)."""
        given = np.arange(64, dtype=np.uint8).reshape(8, 8) * 3 + 40
        fine = np.kron(given, np.ones((16, 16), np.uint8))
        optics = optics_of(Opaque(gloss=0), {"scale": 40}, colour=np.dstack([fine] * 3 + [0 * fine + 255]))
        light = even_light(BLOCK, optics, 40, size=80, samples=16)
        seen = light[5::10, 5::10]
        # the picture's lower left corner lies on the middle of the block
        shown = np.roll(np.roll(given, 4, axis=0), 4, axis=1)
        np.testing.assert_allclose(seen, decode_srgb(shown / np.float32(255)), rtol=0.01)

    def test_as_it_was_unwrapped(self) -> None:
        """By the sheet's own coordinates, whatever the scale; its relief leans along them."""
        halves = np.repeat(codes([40, 200]), 32, axis=1)
        for scale in (40, 80):
            optics = optics_of(Opaque(gloss=0), {"scale": scale, "lies": "unwrapped"}, colour=halves)
            light = even_light(quad_in_front(), optics, 40, size=40).mean(axis=0)
            left, right = decode_srgb(np.array([40, 200], np.float32) / 255)
            self.assertAlmostEqual(float(light[10]), left, delta=0.01)
            self.assertAlmostEqual(float(light[30]), right, delta=0.01)
        ramp = np.round(np.tile(np.arange(256) / 255, (8, 1)) * 65535).astype(np.uint16)
        given = {"scale": 40, "depth": 8, "lies": "unwrapped"}
        leaning = optics_of(Opaque(colour="#ffffff", gloss=0), given, relief=ramp)
        stages = [
            scene((surface("one", quad_in_front(), o),), (lamp((300, -300, 0), side=30, radiance=50),), 0.0)
            for o in (leaning, material_optics(Opaque(colour="#ffffff", gloss=0)))
        ]
        shown = [film_of(s, ahead(30), size=30, samples=64).mean_light().mean(axis=(0, 2)) for s in stages]
        share = float(np.median(shown[0] / shown[1]))
        self.assertAlmostEqual(share, np.cos(np.pi / 4 + np.arctan(0.2)) / np.cos(np.pi / 4), delta=0.03)

    def test_turned(self) -> None:
        stripes = codes(*[[0] * 32 + [255] * 32] * 64)
        for turn, axis in ((0, 0), (90, 1)):
            optics = optics_of(Opaque(gloss=0), {"scale": 8, "turn": turn}, colour=stripes)
            line = even_light(BLOCK, optics, 40).mean(axis=axis)
            power = np.abs(np.fft.rfft(line - line.mean()))
            self.assertEqual(int(power.argmax()), 5)

    def test_clear_places_are_the_materials_own(self) -> None:
        half = codes([200] * 2)
        half[0, 0, 3] = 0
        wide = np.repeat(half, 64, axis=1)
        optics = optics_of(Opaque(colour="#202020", gloss=0), {"scale": 40}, colour=wide)
        light = even_light(BLOCK, optics, 40).mean(axis=0)
        own, other = decode_srgb(np.array([0x20, 200], np.float32) / 255)
        self.assertAlmostEqual(float(light[130]), own, delta=0.01)  # right of the middle: its left half
        self.assertAlmostEqual(float(light[70]), other, delta=0.01)

    def test_gloss_is_the_pictures(self) -> None:
        """Under a lamp, each half is as light as the same material of that gloss all over."""
        for material in (Opaque(colour="#803010", gloss=0.0), Metal(metal="silver", gloss=0.9)):
            picture = np.repeat(np.array([[51, 153]], np.uint8), 64, axis=1)
            both = lit(optics_of(material, {"scale": 40}, gloss=picture), 60)
            for gloss, columns in ((0.2, slice(50, 80)), (0.6, slice(10, 40))):
                alone = lit(material_optics(material.model_copy(update={"gloss": gloss})), 60)
                np.testing.assert_allclose(both[columns].mean(), alone[columns].mean(), rtol=0.03)

    def test_ink_lies_on_it(self) -> None:
        """A sheet of a pictured stock: where nothing is printed it is the picture, where ink is both."""
        stripes = np.repeat(np.repeat(np.array([[200, 80]], np.uint8), 64, axis=1), 8, axis=0)
        picture = np.dstack([stripes] * 3 + [np.full_like(stripes, 255)])
        stock = optics_of(Opaque(colour="#c8c8c8", gloss=0), {"scale": 40}, colour=picture).detail
        assert stock is not None
        inked = np.full((2, 1, 3), 0xC8, np.uint8)
        inked[1] = 0x80
        printed = printed_optics(Opaque(colour="#c8c8c8", gloss=0), Texels(colour=inked, size=(40, 40)))
        sheet = replace(printed, detail=stock)
        seen = even_light(quad_in_front(), sheet, 40, size=80)
        light, dark, ink = (float(decode_srgb(np.float32(code / 255))) for code in (200, 80, 0x80))
        for (row, column), wanted in {
            (10, 60): light,
            (10, 20): dark,
            (70, 60): ink,
            (70, 20): ink * dark / light,
        }.items():
            self.assertAlmostEqual(float(seen[row, column]), wanted, delta=0.01)

    def test_what_is_clear_or_cloudy_is_tinted(self) -> None:
        """A plate of index 1, each face pictured: what is seen through it is the picture's colour, as either
        face tints by its root. Cloudy bodies get lighter and darker by it."""
        grey = codes([188] * 16)
        glass = optics_of(Clear(refractive_index=1.0), {"scale": 40}, colour=grey)
        plate = surface("plate", box((-90, -2, -90), (90, 2, 90)), glass)
        stage = scene((plate,), (lamp((0, 300, 0), side=400, radiance=1),), 0.0)
        light = film_of(stage, ahead(40), size=8, samples=64).mean_light().mean()
        self.assertAlmostEqual(float(light), float(decode_srgb(np.float32(188 / 255))), delta=0.01)
        stripes = codes([255] * 32 + [64] * 32)
        light = even_light(
            BLOCK, optics_of(Cloudy(wander=0.05), {"scale": 40}, colour=stripes), 40, size=40
        ).mean(axis=0)
        self.assertGreater(float(light[24:36].mean()), 2.5 * float(light[4:16].mean()))

    def test_relief_leans_by_its_depth(self) -> None:
        """A roof 10 mm wide and 1 mm high leans by its slope, 0.2: under a lamp far to the side its two sides
        are as light as the cosines of its angles say (Lambert)."""
        roof = np.concatenate([np.arange(256), np.arange(256)[::-1]]) / 255
        heights = np.round(np.tile(roof, (8, 1)) * 65535).astype(np.uint16)
        picture = optics_of(Opaque(colour="#ffffff", gloss=0), {"scale": 10, "depth": 1}, relief=heights)
        flat = lit(material_optics(Opaque(colour="#ffffff", gloss=0)), 300)
        shares = lit(picture, 300) / flat
        angle, lean = np.pi / 4, np.arctan(0.2)
        rising, falling = (np.cos(angle + lean * way) / np.cos(angle) for way in (1, -1))
        self.assertAlmostEqual(float(np.percentile(shares, 20)), rising, delta=0.03)
        self.assertAlmostEqual(float(np.percentile(shares, 80)), falling, delta=0.03)
