"""The library: found by words, families, finishes and colours; its figures beside handbooks'."""

from __future__ import annotations

from collections import Counter
from unittest import TestCase

import numpy as np
from coloraide import Color
from PIL import Image

from giftwrap.core.materials.library import Known, found, library, picture_of
from giftwrap.core.model import Clear, Cloudy, Metal
from giftwrap.core.things.facts import DENSITIES

SUGAR = {
    # °Brix: refractive index at 589 nm and 20 °C (ICUMSA 1974), g/cm³ at 20 °C; from memory
    10: (1.34783, 1.0381),
    20: (1.36384, 1.0810),
    30: (1.38115, 1.1270),
    40: (1.39986, 1.1765),
    50: (1.42009, 1.2296),
    60: (1.44193, 1.2865),
    70: (1.46546, 1.3472),
    80: (1.49071, 1.4117),
    85: (1.50400, 1.4450),
}
PLASTICS = {
    # refractive indices of handbooks of plastics, from memory
    "PET": 1.575,
    "Acrylic": 1.491,
    "SAN": 1.569,
    "Polycarbonate": 1.586,
    "Polystyrene": 1.590,
    "Clarified PP": 1.490,
}


def named(name: str) -> Known:
    return next(one for one in library() if one.name == name)


class LibraryTests(TestCase):
    def test_there_are_enough_and_each_is_told_apart(self) -> None:
        self.assertGreaterEqual(len(library()), 90)
        self.assertGreaterEqual(len({one.family for one in library()}), 10)
        for what in ("key", "name"):
            twice = [name for name, n in Counter(getattr(one, what) for one in library()).items() if n > 1]
            self.assertEqual(twice, [])
        self.assertEqual({one.material.kind for one in library()}, {"clear", "cloudy", "opaque", "metal"})

    def test_no_two_are_the_same_material(self) -> None:
        """But for those that only differ in what they are called for; a name could not be told otherwise."""
        same = Counter(one.material.model_dump_json() for one in library())
        self.assertEqual([material for material, n in same.items() if n > 1], [])

    def test_each_has_its_picture(self) -> None:
        for one in library():
            with self.subTest(one.name), Image.open(picture_of(one.key)) as picture:
                self.assertEqual((picture.format, picture.size), ("WEBP", (168, 126)))
        self.assertEqual(
            {path.stem for path in picture_of("any").parent.glob("*.webp")}, {one.key for one in library()}
        )


class FoundTests(TestCase):
    def names(self, *words: str, **how: object) -> list[str]:
        return [one.name for one in found(*words, **how)]  # type: ignore[arg-type]

    def test_by_the_beginnings_of_words(self) -> None:
        self.assertEqual(self.names("amber bott")[:2], ["Amber glass", "Amber PET"])
        self.assertIn("Amber glass", self.names("PHARM"))
        self.assertEqual(self.names("mber"), [])
        self.assertEqual(len(found("")), len(library()))

    def test_by_family_and_finish(self) -> None:
        self.assertTrue(all(one.family == "Metals" for one in found(family="Metals")))
        matt = found("white", finish="matt")
        self.assertIn("Soft-touch white", [one.name for one in matt])
        self.assertNotIn("Gloss white ABS", [one.name for one in matt])
        frosted = found(finish="frosted")
        self.assertTrue(all(isinstance(one.material, Clear) and one.material.frost > 0 for one in frosted))
        self.assertIn("Frosted glass", [one.name for one in frosted])

    def test_the_nearest_colour_first(self) -> None:
        """In the order of ΔE00, as another library has it."""
        names = self.names(near="#7d2239", family="Boards and papers")
        self.assertEqual(names[0], "Burgundy board")
        far = [Color("#7d2239").delta_e(Color(named(n).material.colour), method="2000") for n in names]  # type: ignore[union-attr]
        self.assertEqual(far, sorted(far))


class FiguresTests(TestCase):
    def test_sugar_solutions_bend_light_as_their_density_says(self) -> None:
        index, density = np.array(list(SUGAR.values())).T
        some = [one for one in library() if "sugar" in one.source]
        self.assertGreaterEqual(len(some), 5)
        for one in some:
            assert isinstance(one.material, Clear)
            with self.subTest(one.name):
                expected = np.interp(one.material.density, density, index)
                self.assertAlmostEqual(one.material.refractive_index, expected, delta=0.006)

    def test_plastics_bend_light_as_handbooks_say(self) -> None:
        for name, index in PLASTICS.items():
            self.assertAlmostEqual(named(name).material.refractive_index, index, delta=0.002)  # type: ignore[union-attr]

    def test_densities_are_those_of_the_table(self) -> None:
        for name, known in {
            "Flint glass": "soda-lime glass",
            "Borosilicate glass": "borosilicate glass",
            "PET": "PET",
            "Acrylic": "PMMA",
            "Polystyrene": "PS",
            "White PP": "PP",
            "Satin aluminium": "aluminium",
            "Tinplate": "tinplate",
            "Water": "water",
            "Spirit": "ethanol 40 %",
            "Olive oil": "olive oil",
        }.items():
            self.assertAlmostEqual(named(name).material.density, DENSITIES[known], delta=0.01, msg=name)

    def test_what_is_white_is_no_whiter_than_paper_and_metals_have_their_own_constants(self) -> None:
        for one in library():
            with self.subTest(one.name):
                if isinstance(one.material, Metal):
                    self.assertIn("titania" if one.material.film else "measured", one.source)
                elif isinstance(one.material, Cloudy):
                    self.assertLess(Color(one.material.colour).convert("lab-d65")["l"], 99.0)
