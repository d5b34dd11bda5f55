"""PDFs as artwork: pages, colours, separations, overprint and layers; and what cannot be printed."""

from __future__ import annotations

import io
import subprocess
import tempfile
from pathlib import Path
from unittest import TestCase

import numpy as np
import pikepdf
from pikepdf import Array, Dictionary, Name
from PIL import Image

from giftwrap.core.errors import ArtworkError
from giftwrap.core.reading.artwork import rasterise, read_artwork
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.tests.colours import INKS, apart, by_littlecms
from giftwrap.core.tests.documents import MM, SPOTTED, document, rectangle


def setUpModule() -> None:
    """What reads these files is loaded once, as it is in the web process."""
    start_reading(EVERYTHING)


def without_size() -> bytes:
    with pikepdf.open(io.BytesIO(document(""))) as pdf:
        pdf.pages[0].obj.MediaBox = pdf.pages[0].obj.TrimBox = Array([0, 0, 0, 100])
        stream = io.BytesIO()
        pdf.save(stream)
    return stream.getvalue()


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

    def test_a_plate_is_what_there_is_of_one_ink(self) -> None:
        """Half of it, all of it; black knocks out of it unless it overprints."""
        data = document(SPOTTED, inks=("Foil",))
        drawn = np.asarray(rasterise(data, "pdf", 600, 400, what={"ink": "Foil"}))[..., 3]
        at = {(7, 7): 128, (20, 20): 128, (40, 20): 255, (12, 12): 0, (37, 12): 255, (2, 2): 0, (55, 30): 0}
        for (x, y), amount in at.items():
            self.assertAlmostEqual(int(drawn[400 - 10 * y, 10 * x]), amount, delta=2, msg=(x, y))

    def test_separations_by_ghostscript(self) -> None:
        """An outside referee, which knows overprint, draws the same plate."""
        data = document(SPOTTED, inks=("Foil",))
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

    OVERPRINTED = (
        f"0.2 0.8 0 0 k {rectangle(0, 0, 60, 40)} f /Over gs "
        f"0 0 0 1 k {rectangle(2, 2, 6, 6)} f 0 0 1 0 k {rectangle(12, 2, 6, 6)} f "
        f"/Spot0 cs 1 scn {rectangle(22, 2, 6, 6)} f 0 0 0 0 k {rectangle(32, 2, 6, 6)} f "
        f"/Flat gs 0 0 1 0 k {rectangle(42, 2, 6, 6)} f "
        f"/Knock gs 0 0 1 0 k {rectangle(52, 2, 6, 6)} f /Spot0 cs 1 scn {rectangle(2, 12, 6, 6)} f "
        f"/Over gs 0.5 scn 0 0 1 0 K 3 w {rectangle(12, 12, 6, 6)} B 1 g {rectangle(22, 12, 6, 6)} f "
        f"0 0 1 0 k /Knock gs {rectangle(32, 12, 6, 6)} B "
        f"q /Multiply gs 0 0 1 0 k {rectangle(42, 12, 6, 6)} f Q"
    )

    def test_what_overprints_lies_over_what_is_there(self) -> None:
        """Black, yellow and a spot ink overprint; so does white, which vanishes; all of CMYK and grey do not;
        a fill that overprints within a stroke. Beside Ghostscript, which separates inks of its own: its
        profile of them is another, so colours are near each other and not the same."""
        multiply = Dictionary(Multiply=Dictionary(BM=Name.Multiply))
        data = document(self.OVERPRINTED, inks=("Foil",), states=multiply)
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "a.pdf").write_bytes(data)
            how = "-q -dBATCH -dNOPAUSE -sDEVICE=png16m -r127 -dUseTrimBox -dOverprint=/simulate"
            subprocess.run(
                ["gs", *how.split(), "-o", "a.png", "a.pdf"], cwd=folder, check=True, capture_output=True
            )
            theirs = Image.open(Path(folder) / "a.png").convert("RGB")
        mine = rasterise(data, "pdf", *theirs.size)
        scale = theirs.width / 60
        yellow, under = by_littlecms((0, 0, 255, 0)), by_littlecms((51, 204, 0, 0))
        both = by_littlecms((51, 204, 255, 0))
        expected = {
            (15, 5): both,
            (25, 5): both,
            (35, 5): under,
            (45, 5): yellow,
            (55, 5): yellow,
            (5, 15): yellow,
            (25, 15): (255, 255, 255),
            (35, 15): yellow,
            (45, 15): both,
            (15, 15): by_littlecms((51, 204, 128, 0)),
        }
        for x, y in [*expected, (5, 5), (12, 15)]:
            at = (int(x * scale), theirs.height - int(y * scale))
            with self.subTest(x=x, y=y):
                if (x, y) != (15, 15):  # they lose a fill whose stroke overprints too
                    self.assertLess(apart(mine.getpixel(at), theirs.getpixel(at)), 8.0)
                if (x, y) in expected:
                    self.assertLess(apart(mine.getpixel(at), expected[x, y]), 6.0)

    def test_pictures_and_forms_overprint_too(self) -> None:
        """A picture of a spot ink does; one of CMYK, which has something of every ink, does not."""
        with pikepdf.open(
            io.BytesIO(document(f"0 1 0 0 k {rectangle(0, 0, 60, 40)} f", inks=("Foil",)))
        ) as pdf:
            spot, things = pdf.pages[0].Resources.ColorSpace.Spot0, Dictionary()
            for name, space, pixel in (("Spot", spot, b"\xff"), ("Cmyk", Name.DeviceCMYK, b"\0\0\xff\0")):
                stream = pikepdf.Stream(pdf, pixel, Width=1, Height=1, BitsPerComponent=8, ColorSpace=space)
                stream.Type, stream.Subtype = Name.XObject, Name.Image
                things[f"/{name}"] = pdf.make_indirect(stream)
            inside = f"/Over gs 0 0 1 0 k {rectangle(0, 20, 10, 10)} f".encode()
            form = pikepdf.Stream(pdf, inside, Type=Name.XObject, Subtype=Name.Form, BBox=[0, 0, 900, 900])
            form.Resources = pdf.pages[0].Resources
            things["/Form"] = pdf.make_indirect(form)
            pdf.pages[0].Resources.XObject = things
            drawn = " ".join(
                f"q {10 * MM} 0 0 {10 * MM} {x * MM} 0 cm /{name} Do Q"
                for name, x in (("Spot", 0), ("Cmyk", 20))
            )
            before = pdf.pages[0].Contents.read_bytes()
            pdf.pages[0].Contents = pikepdf.Stream(pdf, before + f"\n/Over gs {drawn} /Form Do".encode())
            changed = io.BytesIO()
            pdf.save(changed)
        mine = rasterise(changed.getvalue(), "pdf", 60, 40)
        for place, inks in (
            ((5, 35), (0, 255, 255, 0)),
            ((25, 35), (0, 0, 255, 0)),
            ((5, 15), (0, 255, 255, 0)),
        ):
            with self.subTest(place):
                self.assertLess(apart(mine.getpixel(place), by_littlecms(inks)), 6.0)

    def test_white_that_overprints_is_said(self) -> None:
        for content, said in (
            (f"/Over gs 0 0 0 0 k {rectangle(0, 0, 9, 9)} f", True),
            (f"/Over gs 0 0 0 0.1 k {rectangle(0, 0, 9, 9)} f", False),
            (f"/Knock gs 0 0 0 0 k {rectangle(0, 0, 9, 9)} f", False),
            (f"/Over gs /Spot0 cs 0 scn {rectangle(0, 0, 9, 9)} f", True),
            ("/Over gs 1 g 0 0 9 9 re f", False),
        ):
            with self.subTest(content):
                notes = " ".join(read_artwork(document(content, inks=("Foil",)), "a.pdf").notes)
                self.assertEqual("White in a.pdf is set to overprint" in notes, said)

    def test_an_ink_left_out_uncovers_what_is_under_it(self) -> None:
        data = document(SPOTTED, inks=("Foil",))
        drawn = rasterise(data, "pdf", 600, 400, what={"left_out": ["Foil"]})
        under = by_littlecms((51, 204, 0, 0))
        for place in ((70, 330), (400, 200)):
            self.assertLess(apart(drawn.getpixel(place), under), 1.0)

    def test_a_picture_in_the_content_is_no_spot_ink(self) -> None:
        """Whatever ink fills beside it: it stays when that is left out, and is on no plate of it."""
        picture = f"q {10 * MM} 0 0 {10 * MM} 0 0 cm BI /W 1 /H 1 /BPC 8 /CS /G ID \x40 EI Q"
        data = document(f"/Spot0 cs 1 scn {rectangle(20, 0, 10, 10)} f {picture}", inks=("Foil",))
        for what, shown in (({"left_out": ["Foil"]}, (True, False)), ({"ink": "Foil"}, (False, True))):
            drawn = np.asarray(rasterise(data, "pdf", 60, 40, what=what))[..., 3]
            self.assertEqual((bool(drawn[35, 5]), bool(drawn[35, 25])), shown)

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
