"""Pictures of surfaces: read, told apart, kept; and what is no such picture."""

from __future__ import annotations

import hashlib
import io
import tempfile
from pathlib import Path
from unittest import TestCase

import numpy as np
import OpenImageIO as oiio  # noqa: N813 - the library's own convention
from PIL import Image
from pydantic import ValidationError

from giftwrap.core.errors import ArtworkError
from giftwrap.core.grade.display import decode_srgb
from giftwrap.core.materials.optics import gloss_of_width, gloss_width
from giftwrap.core.materials.pictured import picture_thumb, picture_values, read_picture, sheet_of
from giftwrap.core.materials.surfaces import told_by_name
from giftwrap.core.model.worked import Pictures

RNG = np.random.default_rng(5)


def file_of(values: np.ndarray, kind: str = "PNG") -> bytes:
    stream = io.BytesIO()
    Image.fromarray(values).save(stream, kind)
    return stream.getvalue()


def exr_of(values: np.ndarray) -> bytes:
    height, width, channels = values.shape
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "one.exr"
        target = oiio.ImageOutput.create(str(path))
        target.open(str(path), oiio.ImageSpec(width, height, channels, "float"))
        target.write_image(values.astype(np.float32))
        target.close()
        return path.read_bytes()


def waves(width: int = 128, height: int = 96) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Heights in texels of a surface that repeats, and its slopes to the right and down, by hand."""
    x, y = np.meshgrid(np.arange(width) * 2 * np.pi / width, np.arange(height) * 2 * np.pi / height)
    heights = 3 * np.sin(2 * x) + 2 * np.cos(3 * y) + np.sin(x + 2 * y)
    right = (6 * np.cos(2 * x) + np.cos(x + 2 * y)) * 2 * np.pi / width
    down = (-6 * np.sin(3 * y) + 2 * np.cos(x + 2 * y)) * 2 * np.pi / height
    return heights, right, down


def normal_map(right: np.ndarray, up: np.ndarray) -> np.ndarray:
    """(h, w, 3) directions of a surface of such slopes, −1 to 1."""
    vectors = np.stack([-right, -up, np.ones_like(right)], axis=2)
    return vectors / np.linalg.norm(vectors, axis=2, keepdims=True)


def bytes_of(vectors: np.ndarray) -> np.ndarray:
    return np.round(255 * (vectors + 1) / 2).astype(np.uint8)


class ReadingTests(TestCase):
    def test_colours_are_kept_to_the_bit(self) -> None:
        codes = RNG.integers(0, 256, (20, 30, 4), np.uint8)
        facts, kept = read_picture(file_of(codes), "bark.png")
        self.assertEqual((facts.part, facts.width_px, facts.height_px), ("colour", 30, 20))
        np.testing.assert_array_equal(picture_values(kept, "colour"), codes)
        _, kept = read_picture(file_of(codes[..., :3]), "bark.png")
        np.testing.assert_array_equal(picture_values(kept, "colour")[..., 3], 255)

    def test_names_tell(self) -> None:
        """As files of surfaces are called: common practice."""
        for name, told in {
            "oak_planks_nor_4k.png": ("relief", None),
            "OakNormalGL.tif": ("relief", None),
            "oak-Height.exr": ("relief", "heights"),
            "oak_disp.png": ("relief", "heights"),
            "Oak_Roughness_2K.jpg": ("gloss", "roughness"),
            "oak gloss.png": ("gloss", "gloss"),
            "oakBaseColor.png": ("colour", "colours"),
            "oak_basecolor.png": ("colour", "colours"),
            "oak_diff_4k.jpg": ("colour", "colours"),
            "IMG_0231.JPG": (None, None),
            "normal_oak_color.png": ("colour", "colours"),
        }.items():
            self.assertEqual(told_by_name(name), told, name)

    def test_heights_of_16_bits(self) -> None:
        heights = np.linspace(1000, 61000, 64 * 48).reshape(48, 64).astype(np.uint16)
        facts, kept = read_picture(file_of(heights), "hill_height.png")
        self.assertEqual((facts.part, facts.taken, facts.depth), ("relief", "heights", 0.0))
        found = picture_values(kept, "relief").astype(float)
        self.assertEqual((found.min(), found.max()), (0, 65535))
        np.testing.assert_allclose(found, (heights - 1000.0) * 65535 / 60000, atol=1)

    def test_heights_of_8_bits_have_no_terraces(self) -> None:
        ramp = np.tile(np.round(20 + 10 * np.sin(np.linspace(0, 2 * np.pi, 256, False))), (64, 1))
        _, kept = read_picture(file_of(ramp.astype(np.uint8)), "soft_height.png")
        steps = np.diff(picture_values(kept, "relief").astype(float), axis=1)
        self.assertLess(float(np.abs(steps).max()), 0.6 * 65535 / 20)

    def test_directions_become_heights(self) -> None:
        """Either hand of them is told by its curl; the range comes out, too, to a hundredth."""
        heights, right, down = waves()
        for taken, up in (("normals up", -down), ("normals down", down)):
            facts, kept = read_picture(file_of(bytes_of(normal_map(right, up))), "stone.png")
            self.assertEqual((facts.part, facts.taken, facts.notes), ("relief", taken, ()))
            found = picture_values(kept, "relief").astype(float)
            self.assertGreater(np.corrcoef(found.ravel(), heights.ravel())[0, 1], 0.9995)
            self.assertAlmostEqual(facts.depth * 128, float(np.ptp(heights)), delta=0.01 * np.ptp(heights))

    def test_the_hand_can_be_said(self) -> None:
        _, right, down = waves()
        picture = file_of(bytes_of(normal_map(right, -down)))
        _, up = read_picture(picture, "stone.png", part="relief", taken="normals up")
        facts, other = read_picture(picture, "stone.png", part="relief", taken="normals down")
        self.assertEqual(facts.taken, "normals down")
        self.assertNotEqual(up, other)
        facts, _ = read_picture(picture, "stone_normal.png", part="colour")
        self.assertEqual((facts.part, facts.taken), ("colour", "colours"))

    def test_what_cannot_be_told_is_said(self) -> None:
        _, right, _ = waves(height=32)
        only_across = np.broadcast_to(right[:1], right.shape)
        facts, _ = read_picture(file_of(bytes_of(normal_map(only_across, 0 * right))), "rib_normal.png")
        self.assertEqual(facts.taken, "normals up")
        self.assertIn("cannot be told", facts.notes[0])

    def test_roughness(self) -> None:
        """glTF's roughness, 0.5, is GGX's width 0.25."""
        for gloss in (0.0, 0.3, 1.0):
            self.assertAlmostEqual(float(gloss_of_width(gloss_width(gloss))), gloss, places=6)
        grey = np.full((8, 8), 128, np.uint8)
        facts, kept = read_picture(file_of(grey), "oak_roughness.png")
        self.assertEqual(facts.taken, "roughness")
        gloss = picture_values(kept, "gloss")[0, 0] / 255
        self.assertAlmostEqual(gloss_width(gloss), (128 / 255) ** 2, delta=0.01)
        _, kept = read_picture(file_of(grey), "oak_roughness.png", part="gloss", taken="gloss")
        self.assertEqual(picture_values(kept, "gloss")[0, 0], 128)

    def test_roughness_in_green(self) -> None:
        """As glTF 2.0 keeps it beside metalness."""
        both = np.zeros((8, 8, 3), np.uint8)
        both[..., 1], both[..., 2] = 128, 255
        grey = np.full((8, 8), 128, np.uint8)
        said = {"part": "gloss", "taken": "roughness in green"}
        _, kept = read_picture(file_of(both), "orm.png", **said)
        _, alone = read_picture(file_of(grey), "orm.png", part="gloss", taken="roughness")
        self.assertEqual(kept, alone)

    def test_floating_points(self) -> None:
        light = RNG.random((10, 12, 3)).astype(np.float32)
        _, kept = read_picture(exr_of(light), "cloth.exr")
        codes = picture_values(kept, "colour")
        np.testing.assert_allclose(decode_srgb(codes[..., :3] / np.float32(255)), light, atol=0.006)

    def test_what_is_no_number_is_filled(self) -> None:
        values = np.tile(np.linspace(0, 1, 16, dtype=np.float32), (10, 1))[..., None].copy()
        values[3, 7], values[5, 2] = np.nan, np.inf
        facts, kept = read_picture(exr_of(values), "cloth_height.exr")
        self.assertEqual(
            facts.notes,
            ("2 pixels of cloth_height.exr are no numbers, the first in row 4, column 8: they were filled.",),
        )
        self.assertAlmostEqual(picture_values(kept, "relief")[3, 7] / 65535, 0.5, delta=0.04)
        values[:] = np.nan
        with self.assertRaisesRegex(ArtworkError, "Most pixels of cloth_height.exr are no numbers"):
            read_picture(exr_of(values), "cloth_height.exr")

    def test_floating_points_in_tiff(self) -> None:
        """Read as those of OpenEXR are: the same numbers, the same gaps filled."""
        values = np.tile(np.linspace(0, 3, 16, dtype=np.float32), (10, 1))
        values[3, 7] = np.nan
        facts, kept = read_picture(file_of(values, "TIFF"), "cloth_height.tif")
        self.assertIn("1 pixels of cloth_height.tif are no numbers", facts.notes[0])
        self.assertEqual(kept, read_picture(exr_of(values[..., None].copy()), "cloth_height.exr")[1])

    def test_large_ones_of_16_bits_keep_their_grey(self) -> None:
        """Made smaller they are no lighter, and no higher in contrast."""
        grey = np.full((64, 8192 // 8), 20_000, np.uint16)
        wide = np.repeat(grey, 8, axis=1)
        wide = np.repeat(wide, 10, axis=0)
        _, kept = read_picture(file_of(wide), "wall_gloss.png")
        self.assertEqual(set(picture_values(kept, "gloss").ravel()), {round(255 * 20_000 / 65_535)})

    def test_16k(self) -> None:
        whole = np.zeros((4096, 16384), np.uint8)
        whole[:2048, :8192] = 200
        facts, kept = read_picture(file_of(whole), "wall_gloss.png")
        self.assertEqual(
            facts.notes, ("wall_gloss.png is 16,384 × 4,096 px: it is kept with 4,096 × 1,024.",)
        )
        found = picture_values(kept, "gloss")
        self.assertEqual([found[0, 0], found[0, -1], found[-1, 0]], [200, 0, 0])

    def test_what_is_no_picture(self) -> None:
        good = file_of(RNG.integers(0, 256, (64, 64, 3), np.uint8))
        exr = exr_of(np.ones((8, 8, 3)))
        for data, name, words in (
            (b"", "a.png", "a.png is empty"),
            (b"no picture at all", "a.png", "is not a picture that can be read"),
            (b"%PDF-1.7", "a.pdf", "is not a picture that can be read"),
            (good[: len(good) // 2], "a.png", "damaged or cut short"),
            (exr[:40], "a.exr", "damaged or cut short"),
            (file_of(np.zeros((8, 400), np.uint8)), "a.png", "more than 16 times as long"),
        ):
            with self.assertRaisesRegex(ArtworkError, words):
                read_picture(data, name)


class KeptTests(TestCase):
    def keep(self, **parts: np.ndarray) -> tuple[Pictures, dict[str, bytes]]:
        files, names = {}, {}
        for part, values in parts.items():
            stream = io.BytesIO()
            np.save(stream, values)
            names[part] = hashlib.sha256(stream.getvalue()).hexdigest()
            files[names[part]] = stream.getvalue()
        return Pictures(**names), files

    def test_one_sheet_of_them(self) -> None:
        colour = RNG.integers(0, 256, (6, 8, 4), np.uint8)
        relief = RNG.integers(0, 65536, (12, 16), np.uint16)
        gloss = np.full((6, 8), 77, np.uint8)
        sheet = sheet_of(*self.keep(colour=colour, relief=relief, gloss=gloss))
        self.assertEqual(sheet.period, (1.0, 0.75, 1.0))
        np.testing.assert_array_equal(sheet.texels[0] >> 16, relief[::-1])
        np.testing.assert_array_equal(sheet.texels[0] >> 8 & 255, 77)
        np.testing.assert_array_equal(sheet.colours[0].view(np.uint8).reshape(8, 4), colour[-1])

    def test_what_is_not_there_or_something_else(self) -> None:
        pictures, files = self.keep(gloss=np.full((4, 4), 9, np.uint8))
        with self.assertRaisesRegex(ArtworkError, "picture of gloss of a material is not there any more"):
            sheet_of(pictures, {})
        with self.assertRaisesRegex(ArtworkError, "named as a picture of relief is none"):
            sheet_of(Pictures(relief=pictures.gloss), files)
        with self.assertRaisesRegex(ArtworkError, "cannot be read"):
            sheet_of(Pictures(relief="0" * 64), {"0" * 64: b"\x93NUMPY broken"})
        with self.assertRaisesRegex(ValidationError, "neither a picture of colour"):
            Pictures()

    def test_shown_small(self) -> None:
        for part, values in {
            "colour": np.zeros((40, 3000, 4), np.uint8),
            "gloss": np.zeros((3000, 200), np.uint8),
            "relief": np.zeros((9, 9), np.uint16),
        }.items():
            _, files = self.keep(**{part: values})
            image = Image.open(io.BytesIO(picture_thumb(next(iter(files.values())))))
            self.assertLessEqual(max(image.size), 96)
        with self.assertRaisesRegex(ArtworkError, "no picture of a surface"):
            picture_thumb(b"something else")
