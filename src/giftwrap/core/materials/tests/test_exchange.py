"""Materials and brand colours there and back; broken files; colours beside published ones."""

from __future__ import annotations

import json
from unittest import TestCase

import numpy as np
from PIL import Image

from giftwrap.core.errors import PackError
from giftwrap.core.materials.colours import apart, colours_in, hex_of
from giftwrap.core.materials.exchange import (
    NamedMaterial,
    read_colours,
    read_materials,
    write_colours,
    write_colours_csv,
    write_materials,
)
from giftwrap.core.materials.library import library
from giftwrap.core.model.palette import BrandColour

BRAND = [
    BrandColour(name="Damson, deep", hex="#5b1e3c", spot="Damson 12"),
    BrandColour(name="Quince “gold”", hex="#d9a441"),
    BrandColour(name="Leaf; pale", hex="#b9c7a2", spot="Leaf"),
]


def lab_of(code: str) -> tuple[float, float, float]:
    return BrandColour(name="it", hex=code).lab


class ExchangeTests(TestCase):
    def refused(self, data: bytes, name: str = "ours.json", read: object = read_materials) -> str:
        with self.assertRaises(PackError) as caught:
            read(data, name)  # type: ignore[operator]
        return caught.exception.message

    def test_the_whole_library_there_and_back(self) -> None:
        sent = [NamedMaterial(name=one.name, words=one.words, material=one.material) for one in library()]
        self.assertEqual(read_materials(write_materials(sent, {}), "ours.json"), (sent, {}))

    def test_what_is_wrong_is_said_and_where(self) -> None:
        for data, words in (
            (b"{", "line 1, column 2"),
            (b'{"materials": 3}', "no list of materials"),
            (b"[]", "no list of materials"),
            (b"\xff\xfe", "not text in UTF-8"),
            (b"[" * 100_000, "goes too deep"),
            (b'{"materials": [' + b"1" * 5000 + b"]}", "thousands of digits"),
            (b'{"materials": [{"name": "A", "material": {"kind": "glass"}}]}', "number 1"),
            (b'{"materials": [{"name": "", "material": {"kind": "clear"}}]}', "number 1, name"),
        ):
            self.assertIn(words, self.refused(data))
        good = json.loads(write_materials([NamedMaterial(name="A", material=library()[0].material)], {}))
        for field, value in (("refractive_index", float("nan")), ("depth", -1), ("frost", 1e9)):
            bad = json.loads(json.dumps(good))
            bad["materials"].append(
                {"name": "B", "material": {**bad["materials"][0]["material"], field: value}}
            )
            self.assertIn(f"number 2, material {field}", self.refused(json.dumps(bad).encode()))
        many = {"materials": good["materials"] * 1001}
        self.assertIn("at most 1000", self.refused(json.dumps(many).encode()))
        self.assertIn("5 MB", self.refused(b" " * 5_000_000))

    def test_colours_there_and_back(self) -> None:
        self.assertEqual(read_colours(write_colours(BRAND), "brand.json"), BRAND)
        self.assertEqual(read_colours(write_colours_csv(BRAND), "Brand.CSV"), BRAND)

    def test_tables_as_others_write_them(self) -> None:
        for text in (
            "Name;L*;a*;b*\nLeaf;76,5;-8,2;16,9\n",
            "name\tL\ta\tb\nLeaf\t76.5\t-8.2\t16.9\n\n",
            '\ufeffspot,name,hex\n"Leaf, coated",Leaf,B9C7A2\n',
        ):
            (leaf,) = read_colours(text.encode(), "brand.csv")
            self.assertEqual(leaf.name, "Leaf")
            self.assertLess(apart(leaf.hex, "#b9c7a2"), 3)
        for text, words in (
            ("", "line 1"),
            ("name,colour\nA,red\n", "line 1"),
            ("name,hex\nA,#12345\n", "line 2, hex"),
            ("name,hex,L,a,b\nA,#123456,,,\nB,,1,2,x\n", "line 3: “B”"),
            ("name,hex\n" + "A,#123456\n" * 1001, "1000"),
            ("name,hex\n\n,\nA,#12\n", "line 4, hex"),
            ("name,L,a,b\nA,50,inf,3\n", "line 2: “A”"),
            ('name,hex\n"A' + "x" * 200_000 + '",#123456\n', "not a table"),
        ):
            self.assertIn(words, self.refused(text.encode(), "brand.csv", read_colours))


class ColourTests(TestCase):
    def test_published_pairs(self) -> None:
        """Lab of sRGB's corners at D50 by Bruce Lindbloom's calculator, from memory."""
        for code, lab in (
            ("#ff0000", (54.29, 80.81, 69.89)),
            ("#00ff00", (87.82, -79.27, 80.99)),
            ("#0000ff", (29.57, 68.30, -112.03)),
        ):
            np.testing.assert_allclose(lab_of(code), lab, atol=0.03)
        np.testing.assert_allclose(lab_of("#ffffff"), (100, 0, 0), atol=0.02)

    def test_there_and_back(self) -> None:
        for code in ("#5b1e3c", "#d9a441", "#b9c7a2", "#000000", "#ffffff"):
            found = hex_of(lab_of(code))
            self.assertEqual(found.code, code)
            self.assertLess(found.off, 0.3)

    def test_what_no_screen_shows_says_how_far_it_is(self) -> None:
        found = hex_of((50, 90, -90))
        self.assertGreater(found.off, 2)
        self.assertAlmostEqual(lab_of(found.code)[0], 50, delta=4)

    def test_colours_of_a_picture(self) -> None:
        picture = Image.new("RGBA", (100, 100), (0, 0, 0, 0))
        picture.paste((91, 30, 60, 255), (0, 0, 100, 50))
        picture.paste((217, 164, 65, 255), (0, 50, 100, 60))
        picture.paste((92, 31, 60, 255), (0, 60, 100, 64))
        picture.paste((255, 255, 255, 128), (0, 64, 100, 100))
        self.assertEqual(colours_in(picture), ["#5b1e3c", "#d9a441"])
        self.assertEqual(colours_in(Image.new("RGBA", (4, 4))), [])
