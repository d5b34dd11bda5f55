"""Versions of artwork: everything placed follows, in every colourway, and older ones stay."""

from __future__ import annotations

from unittest import TestCase

from pydantic import ValidationError

from giftwrap.core.errors import PackError
from giftwrap.core.model import Colourway, Palette, Placement, Printed, said_in_full
from giftwrap.core.model.document import describe_invalid

FIRST, SECOND, THIRD, OTHER = (letter * 64 for letter in "abcd")


def sheet(*files: str) -> Printed:
    return Printed(width=60, height=40, placements=[Placement(artwork=file, width=20) for file in files])


def palette(shown: str = SECOND) -> Palette:
    return Palette.model_validate({"versions": {FIRST: {"files": [FIRST, SECOND, THIRD], "shown": shown}}})


def files(panel: Printed) -> list[str]:
    return [placement.artwork for placement in panel.placements]


class VersionTests(TestCase):
    def test_what_is_placed_is_printed_as_the_version_that_is_shown(self) -> None:
        for shown in (FIRST, SECOND, THIRD):
            self.assertEqual(
                files(said_in_full(sheet(FIRST, OTHER, FIRST), palette(shown))), [shown, OTHER, shown]
            )

    def test_documents_keep_the_name_they_have(self) -> None:
        panel = sheet(FIRST)
        said_in_full(panel, palette())
        self.assertEqual(files(panel), [FIRST])

    def test_a_colourways_own_artwork_has_versions_too(self) -> None:
        pear = Colourway(artwork={OTHER: FIRST, THIRD: OTHER})
        self.assertEqual(
            files(said_in_full(sheet(OTHER, THIRD, FIRST), palette(), pear)), [SECOND, OTHER, SECOND]
        )

    def test_one_of_them_is_shown(self) -> None:
        with self.assertRaises((PackError, ValidationError)) as caught:
            palette(OTHER)
        error = caught.exception
        words = describe_invalid(error)[0] if isinstance(error, ValidationError) else str(error)
        self.assertIn("shows one of its versions", words)


class TextTests(TestCase):
    def test_a_colourways_texts_fill_what_is_placed_over_its_own(self) -> None:
        placement = Placement(artwork=FIRST, width=20, texts={"flavour": "Quince", "size": "500 ml"})
        panel = Printed(width=60, height=40, placements=[placement])
        damson = Colourway(texts={"flavour": "Damson"})
        filled = said_in_full(panel, Palette(), damson).placements[0].texts
        self.assertEqual(filled, {"flavour": "Damson", "size": "500 ml"})
        self.assertEqual(panel.placements[0].texts["flavour"], "Quince")
        self.assertEqual(said_in_full(panel, Palette()), panel)
