"""Kinds of artwork: depths, colour profiles and fields; and broken files of each kind."""

from __future__ import annotations

import io
import tempfile
from pathlib import Path
from unittest import TestCase

import numpy as np
import OpenImageIO as oiio  # noqa: N813 - the library's own convention
from coloraide import Color
from PIL import Image, ImageCms

from giftwrap.core.errors import ArtworkError
from giftwrap.core.reading.artwork import rasterise, read_artwork
from giftwrap.core.reading.press_profile import SOLIDS, lab_of, press_profile, printed_lab, xyz_of
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.reading.svgs import draw_svg
from giftwrap.core.tests.colours import INKS, apart, by_littlecms, press
from giftwrap.core.tests.documents import SPOTTED, document
from giftwrap.core.tests.hostile import svg

RNG = np.random.default_rng(8)


def setUpModule() -> None:
    """What reads these files is loaded once, as it is in the web process."""
    start_reading(EVERYTHING)


def saved(image: Image.Image, kind: str, **how: object) -> bytes:
    stream = io.BytesIO()
    image.save(stream, kind, **how)
    return stream.getvalue()


def tiff(pixels: np.ndarray, **attributes: object) -> bytes:
    """Written by OpenImageIO."""
    kinds = {np.dtype(np.uint8): oiio.UINT8, np.dtype(np.uint16): oiio.UINT16}
    spec = oiio.ImageSpec(pixels.shape[1], pixels.shape[0], pixels.shape[2], kinds[pixels.dtype])
    for name, value in attributes.items():
        if name == "tile":
            spec.tile_width = spec.tile_height = value
        else:
            spec[name.replace("__", ":")] = value
    with tempfile.TemporaryDirectory() as folder:
        path = str(Path(folder) / "a.tif")
        out = oiio.ImageOutput.create(path)
        assert out.open(path, spec)
        out.write_image(pixels)
        out.close()
        return Path(path).read_bytes()


def swatches() -> Image.Image:
    image = Image.new("CMYK", (10 * len(INKS), 10))
    for number, inks in enumerate(INKS):
        image.paste(inks, (10 * number, 0, 10 * number + 10, 10))
    return image


class PressTests(TestCase):
    def test_solids_are_the_standards(self) -> None:
        """ISO 12647-2 aims for coated paper (from memory), beside the paper's own white."""
        paper = xyz_of(np.array(SOLIDS[0, 0, 0]))
        for inks, lab in SOLIDS.items():
            relative = lab_of(xyz_of(np.array(lab)) / paper * xyz_of(np.array((100.0, 0.0, 0.0))))
            np.testing.assert_allclose(printed_lab(np.array([*inks, 0])), relative, atol=1e-6)

    def test_halves_gain_what_is_usual(self) -> None:
        """Murray and Davies, by the light that each ink takes away: tints of a half look like 60 to 67 % (ISO
        12647-2, curves A and B, from memory)."""
        for ink, seen_in in enumerate((0, 1, 2, 1)):
            tone = [float(xyz_of(printed_lab(np.eye(4)[ink] * share))[seen_in]) for share in (0.0, 0.5, 1.0)]
            gain = (tone[0] - tone[1]) / (tone[0] - tone[2])
            self.assertTrue(0.58 < gain < 0.68, (ink, gain))

    def test_littlecms_reads_the_profile_as_it_was_meant(self) -> None:
        lab = ImageCms.createProfile("LAB")
        transform = ImageCms.buildTransform(press(), lab, "CMYK", "LAB", renderingIntent=1)
        for inks in INKS:
            code = ImageCms.applyTransform(Image.new("CMYK", (1, 1), inks), transform).getpixel((0, 0))
            found = (code[0] / 2.55, *(v - 128 for v in code[1:]))
            one = Color("lab", [float(v) for v in found])
            other = Color("lab", [float(v) for v in printed_lab(np.array(inks) / 255)])
            self.assertLess(one.delta_e(other, method="2000"), 1.0)


class BitmapTests(TestCase):
    def test_cmyk_without_a_profile_is_seen_on_the_press(self) -> None:
        for kind, data in (("jpeg", saved(swatches(), "JPEG", quality=100)), ("tiff", tiff_of(swatches()))):
            facts = read_artwork(data, f"a.{kind}")
            self.assertRegex(" ".join(facts.notes), "without a profile was seen as on")
            drawn = rasterise(data, facts.kind, 10 * len(INKS), 10)
            for number, inks in enumerate(INKS):
                with self.subTest(kind, inks=inks):
                    seen = drawn.getpixel((10 * number + 5, 5))
                    self.assertLess(apart(seen, by_littlecms(inks)), 1.0 if kind == "tiff" else 2.0)

    def test_its_own_profile_counts(self) -> None:
        """sRGB leaves colours as they are; the same inks under another press would not look the same."""
        plain = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        data = saved(Image.new("RGB", (20, 20), (200, 40, 60)), "PNG", icc_profile=plain)
        self.assertEqual(rasterise(data, "png", 20, 20).getpixel((9, 9))[:3], (200, 40, 60))
        lighter = press_profile().replace(b"Coated offset, made here", b"Another press, in a test")
        facts = read_artwork(saved(swatches(), "TIFF", icc_profile=lighter), "a.tif")
        self.assertRegex(" ".join(facts.notes), "through its own profile, Another press, in a test")

    def test_a_profile_for_something_else_is_left_out_and_said(self) -> None:
        for profile in (press_profile(), b"no profile at all"):
            data = saved(Image.new("RGB", (20, 20), (200, 40, 60)), "PNG", icc_profile=profile)
            facts = read_artwork(data, "a.png")
            self.assertRegex(" ".join(facts.notes), "does not suit it")
            self.assertEqual(rasterise(data, "png", 20, 20).getpixel((9, 9)), (200, 40, 60, 255))

    def test_sixteen_bits(self) -> None:
        grey = np.full((8, 8), 0x8000, np.uint16)
        self.assertEqual(
            rasterise(saved(Image.fromarray(grey), "PNG"), "png", 8, 8).getpixel((3, 3))[:3], (127,) * 3
        )
        colour = np.broadcast_to(np.uint16([0xFFFF, 0x8080, 0]), (8, 8, 3)).copy()
        self.assertEqual(rasterise(tiff(colour), "tiff", 8, 8).getpixel((3, 3)), (255, 128, 0, 255))

    def test_white_grounds_are_said(self) -> None:
        for mode, colour, said in (
            ("RGB", "white", True),
            ("L", 255, True),
            ("1", 1, True),
            ("CMYK", (0, 0, 0, 0), True),
            ("RGB", "#e8e0d0", False),
            ("RGBA", (255, 255, 255, 0), False),
        ):
            picture = Image.new(mode, (90, 60), colour)
            picture.paste(0 if mode in ("1", "L") else Image.new(mode, (30, 20)), (30, 20, 60, 40))
            stream = io.BytesIO()
            picture.save(stream, "JPEG" if mode == "CMYK" else "PNG", quality=95)
            notes = " ".join(read_artwork(stream.getvalue(), "logo.png").notes)
            self.assertEqual("has a white ground" in notes, said, (mode, colour, notes))

    def test_webp_with_soft_edges(self) -> None:
        image = Image.new("RGBA", (30, 30), (31, 122, 61, 100))
        data = saved(image, "WEBP", lossless=True)
        facts = read_artwork(data, "a.webp")
        self.assertEqual((facts.kind, facts.width_px), ("webp", 30))
        self.assertEqual(rasterise(data, "webp", 30, 30).getpixel((9, 9)), (31, 122, 61, 100))


def tiff_of(image: Image.Image) -> bytes:
    words = {"tiff__ColorSpace": "CMYK", "oiio__ColorSpace": "CMYK", "tiff__PhotometricInterpretation": 5}
    return tiff(np.asarray(image), **words)


class TiffTests(TestCase):
    def test_strips_tiles_and_sizes(self) -> None:
        pixels = RNG.integers(0, 256, (100, 140, 3), np.uint8)
        for tile in (0, 32):
            data = tiff(pixels, **({"tile": tile} if tile else {}), XResolution=300.0, ResolutionUnit="in")
            facts = read_artwork(data, "a.tif")
            self.assertAlmostEqual(facts.width, 140 / 300 * 25.4, places=3)
            drawn = np.asarray(rasterise(data, "tiff", 140, 100))
            np.testing.assert_array_equal(drawn[..., :3], pixels)

    def test_large_ones_are_reduced_as_they_are_read(self) -> None:
        ramp = np.tile(np.linspace(0, 255, 4000).astype(np.uint8)[None, :, None], (3000, 1, 3))
        drawn = np.asarray(rasterise(tiff(ramp), "tiff", 400, 300))
        np.testing.assert_allclose(drawn[150, :, 0], np.linspace(0, 255, 400), atol=2)

    def test_alpha_is_kept_apart(self) -> None:
        pixels = np.zeros((8, 8, 4), np.uint8)
        pixels[:] = (15, 61, 30, 128)  # premultiplied
        drawn = rasterise(tiff(pixels), "tiff", 8, 8).getpixel((4, 4))
        np.testing.assert_allclose(drawn, (30, 122, 60, 128), atol=1)

    def test_more_channels_are_left_out_and_said(self) -> None:
        facts = read_artwork(tiff(np.zeros((8, 8, 5), np.uint8)), "a.tif")
        self.assertRegex(" ".join(facts.notes), "more channels of a.tif were left out")

    def test_broken_ones(self) -> None:
        data = tiff(RNG.integers(0, 256, (200, 200, 3), np.uint8))
        for broken in (data[:100], data[: len(data) // 2], data[:8] + b"\xff" * 200):
            with self.assertRaisesRegex(ArtworkError, "a.tif"):
                read_artwork(broken, "a.tif")


class FieldTests(TestCase):
    """Texts of an SVG with ids are fields, filled with others when it is drawn."""

    LABEL = (
        b'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="60mm" '
        b'height="30mm" viewBox="0 0 60 30"><defs><text id="flavour" x="4" y="10" font-size="6">Quince</text>'
        b'</defs><use xlink:href="#flavour"/><text id="note" font-size="3"><tspan x="4" y="18">Pressed on'
        b'</tspan><tspan x="4" y="22">the farm</tspan></text><text x="4" y="28" font-size="3">500 <tspan '
        b'id="unit">ml</tspan></text><text font-size="2">plain</text></svg>'
    )

    def seen(self, **texts: str) -> np.ndarray:
        return np.array(rasterise(self.LABEL, "svg", 600, 300, what={"texts": texts}))[..., 3]

    def test_they_are_found_with_what_stands_there(self) -> None:
        facts = read_artwork(self.LABEL, "label.svg")
        self.assertEqual(facts.fields, {"flavour": "Quince", "note": "Pressed on\nthe farm", "unit": "ml"})

    def test_only_what_is_filled_changes(self) -> None:
        plain, filled = self.seen(), self.seen(flavour="Damson")
        changed = np.argwhere(plain != filled)
        self.assertTrue(len(changed) and changed[:, 0].max() < 130, changed.max(axis=0))
        np.testing.assert_array_equal(self.seen(flavour="Quince"), plain)
        np.testing.assert_array_equal(self.seen(stranger="x"), plain)

    def test_bands_are_as_the_whole(self) -> None:
        """Large drawings are drawn in two bands, unless a filter may reach over: then they are the same."""
        words = '<g transform="rotate(31 50 50)"><text y="50" font-size="30">Velloway</text></g>'
        soft = '<filter id="f"><feGaussianBlur stdDeviation="9"/></filter>'
        clipped = 'width="100mm" height="70mm" overflow="hidden"'
        for data, most in (
            (svg(words), 16),  # a step of the smoothing of edges
            (svg(words, clipped), 16),
            (svg(f'{soft}<circle cx="50" cy="50" r="30" filter="url(#f)"/>'), 0),
        ):
            whole = np.asarray(draw_svg(data, 2000, 1401), int)
            apart = np.abs(whole - np.asarray(rasterise(data, "svg", 2000, 1401), int))
            self.assertTrue(whole[..., 3].any())
            self.assertLessEqual(int(apart.max()), most)
            self.assertLess(float(apart.mean()), 0.001)

    def test_lines_go_into_lines(self) -> None:
        both, one = self.seen(note="Picked in\nOctober"), self.seen(note="Picked in")
        self.assertTrue(both[190:225].any())
        self.assertFalse(one[190:225].any())
        np.testing.assert_array_equal(both[140:185], one[140:185])

    def test_what_means_something_in_xml_is_only_a_text(self) -> None:
        self.assertTrue(self.seen(flavour='<b>&amp;"').any())


class SpoiltTests(TestCase):
    def test_files_cut_or_spoilt_anywhere_are_read_or_refused(self) -> None:
        samples = (
            document(SPOTTED, inks=("Foil",)),
            tiff(RNG.integers(0, 256, (40, 40, 4), np.uint8)),
            saved(Image.new("RGBA", (30, 30), (31, 122, 61, 100)), "WEBP"),
        )
        for data in samples:
            for _ in range(8):
                broken = bytearray(data[: int(RNG.integers(20, len(data)))])
                for at in RNG.integers(8, len(broken), 6):
                    broken[at] = int(RNG.integers(0, 256))
                try:
                    facts = read_artwork(bytes(broken), "a")
                    rasterise(bytes(broken), facts.kind, 20, 20)
                except ArtworkError as error:
                    self.assertTrue(str(error))
