"""Kinds of artwork: depths, colour profiles, pages, separations and layers; and broken files of each kind."""

from __future__ import annotations

import io
import subprocess
import tempfile
from pathlib import Path
from unittest import TestCase

import numpy as np
import OpenImageIO as oiio  # noqa: N813 - the library's own convention
import pikepdf
from coloraide import Color
from pikepdf import Array, Dictionary, Name
from PIL import Image, ImageCms

from giftwrap.core.errors import ArtworkError
from giftwrap.core.reading.artwork import rasterise, read_artwork
from giftwrap.core.reading.press_profile import SOLIDS, lab_of, press_profile, printed_lab, xyz_of
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.tests.documents import MM, document, rectangle

RNG = np.random.default_rng(8)
INKS = [
    (0, 0, 0, 0),
    (255, 0, 0, 0),
    (0, 255, 0, 0),
    (0, 0, 255, 0),
    (0, 0, 0, 255),
    (40, 120, 200, 30),
    (90, 60, 10, 90),
]


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


def press() -> ImageCms.ImageCmsProfile:
    return ImageCms.ImageCmsProfile(io.BytesIO(press_profile()))


def by_littlecms(inks: tuple[int, ...], profile: ImageCms.ImageCmsProfile | None = None) -> tuple[int, ...]:
    srgb = ImageCms.createProfile("sRGB")
    transform = ImageCms.buildTransform(profile or press(), srgb, "CMYK", "RGB", renderingIntent=1)
    return ImageCms.applyTransform(Image.new("CMYK", (1, 1), inks), transform).getpixel((0, 0))


def apart(one: tuple[int, ...], other: tuple[int, ...]) -> float:
    """ΔE00."""
    first, second = (Color("srgb", [v / 255 for v in colour[:3]]) for colour in (one, other))
    return float(first.delta_e(second, method="2000"))


def swatches() -> Image.Image:
    image = Image.new("CMYK", (10 * len(INKS), 10))
    for number, inks in enumerate(INKS):
        image.paste(inks, (10 * number, 0, 10 * number + 10, 10))
    return image


def without_size() -> bytes:
    with pikepdf.open(io.BytesIO(document(""))) as pdf:
        pdf.pages[0].obj.MediaBox = pdf.pages[0].obj.TrimBox = Array([0, 0, 0, 100])
        stream = io.BytesIO()
        pdf.save(stream)
    return stream.getvalue()


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


class PdfTests(TestCase):
    def test_a_page_is_trimmed_and_clear_where_nothing_is_printed(self) -> None:
        data = document(f"0 0 1 rg {rectangle(10, 5, 20, 10)} f", bleed=3)
        facts = read_artwork(data, "label.pdf")
        self.assertAlmostEqual(facts.width, 60, places=4)
        self.assertAlmostEqual(facts.height, 40, places=4)
        self.assertRegex(facts.notes[0], "trimmed to its trim box")
        drawn = np.asarray(rasterise(data, "pdf", 600, 400))
        ink = np.argwhere(drawn[..., 3] > 128)
        self.assertEqual((*ink.min(axis=0), *(ink.max(axis=0) + 1)), (250, 100, 350, 300))
        self.assertEqual(tuple(drawn[300, 200]), (0, 0, 255, 255))
        self.assertEqual(drawn[10, 10, 3], 0)

    def test_cmyk_is_seen_on_the_press_or_by_its_intent(self) -> None:
        """Colours of the content, of a picture in it and of a spot ink's substitute, beside LittleCMS."""
        picture = Dictionary(
            Type=Name.XObject,
            Subtype=Name.Image,
            Width=1,
            Height=1,
            ColorSpace=Name.DeviceCMYK,
            BitsPerComponent=8,
        )
        for inks in INKS[1:]:
            shares = " ".join(f"{v / 255:.5f}" for v in inks)
            with pikepdf.open(io.BytesIO(document(f"{shares} k {rectangle(0, 0, 60, 40)} f"))) as pdf:
                stream = pikepdf.Stream(pdf, bytes(inks))
                for key, value in picture.items():
                    stream[key] = value
                pdf.pages[0].Resources.XObject = Dictionary(Im=pdf.make_indirect(stream))
                content = pdf.pages[0].Contents.read_bytes()
                pdf.pages[0].Contents = pikepdf.Stream(
                    pdf, content + f"\nq {20 * MM} 0 0 {20 * MM} 0 0 cm /Im Do Q".encode()
                )
                changed = io.BytesIO()
                pdf.save(changed)
            drawn = rasterise(changed.getvalue(), "pdf", 60, 40)
            for place in ((50, 10), (10, 30)):
                with self.subTest(inks=inks, place=place):
                    self.assertLess(apart(drawn.getpixel(place), by_littlecms(inks)), 1.0)

    def test_spot_inks_are_named_and_shown_by_their_substitute(self) -> None:
        data = document(f"/Spot0 cs 1 scn {rectangle(0, 0, 60, 40)} f", inks=("Gold Foil", "Varnish"))
        self.assertEqual(read_artwork(data, "a.pdf").inks, ("Gold Foil", "Varnish"))
        self.assertLess(
            apart(rasterise(data, "pdf", 6, 4).getpixel((3, 2)), by_littlecms((0, 0, 255, 0))), 1.0
        )

    SPOTTED = (
        f"0.2 0.8 0 0 k {rectangle(0, 0, 60, 40)} f "
        f"/Spot0 cs 0.5 scn {rectangle(5, 5, 20, 20)} f 1 scn {rectangle(30, 5, 20, 20)} f "
        f"/Knock gs 0 0 0 1 k {rectangle(10, 10, 5, 5)} f /Over gs 0 0 0 1 k {rectangle(35, 10, 5, 5)} f"
    )

    def test_a_plate_is_what_there_is_of_one_ink(self) -> None:
        """Half of it, all of it; black knocks out of it unless it overprints."""
        data = document(self.SPOTTED, inks=("Foil",))
        drawn = np.asarray(rasterise(data, "pdf", 600, 400, what={"ink": "Foil"}))[..., 3]
        at = {(7, 7): 128, (20, 20): 128, (40, 20): 255, (12, 12): 0, (37, 12): 255, (2, 2): 0, (55, 30): 0}
        for (x, y), amount in at.items():
            self.assertAlmostEqual(int(drawn[400 - 10 * y, 10 * x]), amount, delta=2, msg=(x, y))

    def test_separations_by_ghostscript(self) -> None:
        """An outside referee, which knows overprint, draws the same plate."""
        data = document(self.SPOTTED, inks=("Foil",))
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "a.pdf").write_bytes(data)
            words = [
                "gs",
                "-q",
                "-dBATCH",
                "-dNOPAUSE",
                "-sDEVICE=tiffsep",
                "-r127",
                "-dUseTrimBox",
                "-o",
                "p%d.tif",
            ]
            subprocess.run([*words, "a.pdf"], cwd=folder, check=True, capture_output=True)
            theirs = np.asarray(Image.open(next(Path(folder).glob("*Foil*"))).convert("L"))
        mine = np.asarray(rasterise(data, "pdf", theirs.shape[1], theirs.shape[0], what={"ink": "Foil"}))[
            ..., 3
        ]
        wrong = np.abs((255 - theirs.astype(int)) - mine) > 100
        self.assertLess(float(wrong.mean()), 0.01)  # edges, which they do not smooth
        self.assertGreater(float((mine > 250).mean()), 0.1)

    def test_an_ink_left_out_uncovers_what_is_under_it(self) -> None:
        data = document(self.SPOTTED, inks=("Foil",))
        drawn = rasterise(data, "pdf", 600, 400, what={"left_out": ["Foil"]})
        under = by_littlecms((51, 204, 0, 0))
        for place in ((70, 330), (400, 200)):
            self.assertLess(apart(drawn.getpixel(place), under), 1.0)

    def test_text_and_strokes_of_an_ink(self) -> None:
        font = Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name("/Helvetica-Bold"))
        content = (
            f"/Spot0 cs 1 scn /Spot0 CS 1 SCN BT /F 60 Tf 20 30 Td (A) Tj ET "
            f"4 w {rectangle(35, 5, 10, 20)} S "
            f"0 0 0 1 k BT /F 60 Tf 80 30 Td (B) Tj ET {rectangle(50, 5, 5, 20)} B"
        )
        data = document(content, inks=("Foil",), resources={"Font": Dictionary(F=font)})
        foil = np.asarray(rasterise(data, "pdf", 300, 200, what={"ink": "Foil"}))[..., 3] > 128
        rest = np.asarray(rasterise(data, "pdf", 300, 200, what={"left_out": ["Foil"]}))[..., 3] > 128
        whole = np.asarray(rasterise(data, "pdf", 300, 200))[..., 3] > 128
        self.assertTrue(foil[:, :130].any() and rest[:, 130:170].any())
        self.assertFalse(rest[:, :130].any())
        self.assertLess(int(((foil | rest) != whole).sum()), 20)  # where half a pixel is half an ink

    def test_layers_can_be_left_out(self) -> None:
        with pikepdf.open(io.BytesIO(document(""))) as pdf:
            groups = [pdf.make_indirect(Dictionary(Type=Name.OCG, Name=name)) for name in ("Art", "Cutter")]
            pdf.Root.OCProperties = Dictionary(OCGs=Array(groups), D=Dictionary(ON=Array(groups)))
            pdf.pages[0].Resources.Properties = Dictionary(A=groups[0], B=groups[1])
            marks = [f"/OC /{n} BDC 0 g {rectangle(x, 5, 10, 10)} f EMC" for n, x in (("A", 5), ("B", 40))]
            pdf.pages[0].Contents = pikepdf.Stream(pdf, " ".join(marks).encode())
            stream = io.BytesIO()
            pdf.save(stream)
        data = stream.getvalue()
        self.assertEqual(read_artwork(data, "a.pdf").layers, ("Art", "Cutter"))
        for without, shown in (
            ([], (True, True)),
            (["Cutter"], (True, False)),
            (["Art", "Cutter"], (False, False)),
        ):
            drawn = np.asarray(rasterise(data, "pdf", 60, 40, what={"without": without}))[..., 3] > 0
            self.assertEqual((drawn[:, :30].any(), drawn[:, 30:].any()), shown)

    def test_pages(self) -> None:
        data = document(f"0 g {rectangle(0, 0, 9, 9)} f", pages=3)
        facts = read_artwork(data, "a.pdf")
        self.assertEqual((len(facts.pages), facts.aspect_of(3)), (3, facts.aspect))
        self.assertTrue(np.asarray(rasterise(data, "pdf", 60, 40, what={"page": 3}))[..., 3].any())
        for wrong in (lambda: facts.aspect_of(4), lambda: rasterise(data, "pdf", 60, 40, what={"page": 4})):
            with self.assertRaisesRegex(ArtworkError, "no page 4: choose one of its 3"):
                wrong()

    def test_what_cannot_be_printed_is_refused(self) -> None:
        whole = document("0 g 0 0 9 9 re f")
        locked = document("", encryption=pikepdf.Encryption(user="secret", owner="secret"))
        empty = io.BytesIO()
        pikepdf.new().save(empty)
        for data, words in (
            (whole[: len(whole) // 3], "damaged or cut short|has no page"),
            (locked, "locked with a password"),
            (empty.getvalue(), "has no page"),
            (document("", pages=1001), "1,001 pages"),
            (without_size(), "has no size"),
            (document("", size=(2000.0, 5.0)), "times as long"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ArtworkError, words):
                read_artwork(data, "a.pdf")

    def test_scripts_are_not_run_and_said(self) -> None:
        with pikepdf.open(io.BytesIO(document("0 g 0 0 9 9 re f"))) as pdf:
            pdf.Root.OpenAction = Dictionary(S=Name.JavaScript, JS="app.alert('x')")
            stream = io.BytesIO()
            pdf.save(stream)
        self.assertRegex(
            " ".join(read_artwork(stream.getvalue(), "a.pdf").notes), "scripts or actions, which are not run"
        )

    def test_files_cut_or_spoilt_anywhere_are_read_or_refused(self) -> None:
        samples = (
            document(self.SPOTTED, inks=("Foil",)),
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

    def test_lines_go_into_lines(self) -> None:
        both, one = self.seen(note="Picked in\nOctober"), self.seen(note="Picked in")
        self.assertTrue(both[190:225].any())
        self.assertFalse(one[190:225].any())
        np.testing.assert_array_equal(both[140:185], one[140:185])

    def test_what_means_something_in_xml_is_only_a_text(self) -> None:
        self.assertTrue(self.seen(flavour='<b>&amp;"').any())
