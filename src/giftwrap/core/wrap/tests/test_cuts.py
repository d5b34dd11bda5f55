"""What is cut out of labels: windows through and through, and perforations as long as they are said to be."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from PIL import Image, ImageDraw
from pydantic import ValidationError
from scipy.ndimage import label

from giftwrap.core.model import Bare, Carton, Clear, Metal, Placement, Printed, WrapPanel
from giftwrap.core.model.document import describe_invalid
from giftwrap.core.model.received import ReceivedPart
from giftwrap.core.model.run import Cut, Ink, Layer, White
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.tests.samples import cylinder, frame_of, labelled, placed
from giftwrap.core.things.making import thing_of
from giftwrap.core.wrap.perforation import slits
from giftwrap.core.wrap.press import PrintedSheet
from giftwrap.core.wrap.printing import compose

SQUARE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
    b'<rect x="20" y="10" width="20" height="20" fill="#1f7a3d"/></svg>'
)
SCALE = 10.0
IN, OUT = (200, 300), (50, 50)


def setUpModule() -> None:
    """What reads these files is loaded once, as it is in the web process."""
    start_reading(EVERYTHING)


def told(*run: Layer, **more: object) -> tuple[Printed, dict[str, bytes]]:
    """A sheet of 60 × 40 mm with a square of 20 mm in its middle that says where it is cut."""
    placement, files = placed(SQUARE, width=60)
    cut = Placement(**{**placement.model_dump(), "areas": {"Die-cut": "shape"}, "printed": False})
    sheet = {"width": 60, "height": 40, "placements": [cut], "run": list(run), **more}
    return Printed(**sheet), files  # type: ignore[arg-type]


def cut_sheet(*run: Layer, **more: object) -> PrintedSheet:
    panel, files = told(*(run or (Ink(), Cut())), **more)
    return compose(panel, files, ppi=SCALE * 25.4)


class WindowTests(TestCase):
    def test_paper_is_gone_there_from_both_sides(self) -> None:
        sheet = cut_sheet()
        assert sheet.behind is not None
        for side in (sheet.face, sheet.behind):
            self.assertEqual((side.presence[IN], side.presence[OUT]), (0, 255))
            self.assertFalse(side.through)
        self.assertEqual(int((sheet.face.presence == 0).sum()), 200 * 200)
        self.assertEqual(tuple(sheet.behind.colour[OUT]), (0xFB, 0xF9, 0xF4))
        drawn = np.asarray(sheet.picture)
        self.assertEqual((drawn[IN][3], drawn[OUT][3]), (0, 255))

    def test_film_colours_nothing_there(self) -> None:
        """What was printed before is cut away with it."""
        placement, files = placed(SQUARE, width=60)
        both = Placement(**{**placement.model_dump(), "areas": {"Die-cut": "shape"}})
        panel = Printed(width=60, height=40, stock=Clear(), placements=[both], run=[White(), Ink(), Cut()])
        sheet = compose(panel, files, ppi=SCALE * 25.4)
        self.assertEqual((tuple(sheet.face.colour[IN]), sheet.face.presence[IN]), ((255, 255, 255), 0))
        self.assertEqual(np.asarray(sheet.picture)[IN][3], 0)

    def test_metal_is_metal_from_behind_too(self) -> None:
        sheet = cut_sheet(stock=Metal(metal="aluminium", gloss=0.7))
        assert sheet.behind is not None
        self.assertEqual((sheet.behind.metal[OUT], sheet.behind.gloss[OUT]), (255, round(0.7 * 255)))

    def test_on_a_pack_nothing_lies_behind_a_window(self) -> None:
        """The label's back is left out, whose edges stay; both sides are the face's."""
        panel, files = told(Ink(), Cut())
        counts = {}
        for run in ([Ink(), Cut()], [Ink()]):
            one = WrapPanel(**{**panel.model_dump(), "run": run, "from_base": 40, "placements": []})
            pack = labelled(
                cylinder(36, 150), one.model_copy(update={"placements": panel.placements[: len(run) - 1]})
            )
            pieces = {piece.name: piece for piece in thing_of(pack, files).pieces}
            counts[len(run)] = len(pieces["label-1-back"].mesh.faces)
            height = np.ptp(pieces["label-1-back"].mesh.positions[:, 2])
            self.assertAlmostEqual(float(height), 40.0, places=3)
            scene = compile_scene(frame_of(pack), files, print_ppi=254, quick=True)
            face = next(
                s.optics for s in scene.instances[1].surfaces if s.part == "label-1" and s.optics.texels
            )
            self.assertEqual(face.behind is not None, len(run) == 2)
        self.assertLess(counts[2], counts[1])

    def test_what_has_nothing_to_cut_is_refused_with_what_to_do(self) -> None:
        for refused, words in (
            (lambda: Printed(width=9, height=9, stock=Bare(), run=[Cut()]), "Choose a stock"),
            (
                lambda: Carton(
                    style="straight-tuck", length=60, width=40, depth=90, runs={"carton": [Cut()]}
                ),
                "at Form",
            ),
            (lambda: ReceivedPart(name="a", bodies=(0,), run=[Cut()]), "Lay a label on it"),
        ):
            with self.subTest(words), self.assertRaises(ValidationError) as caught:
                refused()
            self.assertIn(words, str(describe_invalid(caught.exception)))


def drawn(*points: tuple[float, float], size: tuple[int, int] = (700, 500), width: int = 6) -> Image.Image:
    mask = Image.new("L", size)
    ImageDraw.Draw(mask).line([(x, y) for x, y in points], fill=255, width=width)
    return mask


class PerforationTests(TestCase):
    def lengths(self, mask: Image.Image) -> np.ndarray:
        """Px from end to end of each slit."""
        numbers, count = label(np.asarray(mask) > 0, structure=np.ones((3, 3)))
        found = []
        for number in range(1, count + 1):
            at = np.argwhere(numbers == number)
            axis = np.linalg.svd(at - at.mean(axis=0), full_matrices=False)[2][0]
            found.append(np.ptp(at @ axis) + 1)
        return np.array(found)

    def test_slits_and_ties_are_as_long_as_said_whichever_way_a_line_goes(self) -> None:
        """30 px cut and 20 left along lines of 600 px: twelve slits, to a pixel or 3 %, which steps between
        pixels are off; a slant of the iso-lines lengthens what is measured by a little."""
        for angle in (0.0, 12.0, 22.5, 45.0, 71.0, 90.0):
            c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
            mask = drawn((50, 50), (50 + 600 * c, 50 + 600 * s), size=(720, 720), width=4)
            cut = slits(mask, 30.0, 20.0)
            lengths = self.lengths(cut)
            with self.subTest(angle=angle):
                self.assertAlmostEqual(len(lengths), 12, delta=1)
                np.testing.assert_allclose(np.sort(lengths)[1:], 30.0, atol=2.5)
                share = (np.asarray(cut) > 0).sum() / (np.asarray(mask) > 0).sum()
                self.assertAlmostEqual(share, 0.6, delta=0.02)

    def test_it_begins_with_a_slit_at_an_end(self) -> None:
        cut = np.asarray(slits(drawn((50, 100), (650, 100)), 30.0, 20.0))
        self.assertTrue(cut[100, 52] or cut[100, 648])

    def test_rings_and_several_lines_are_followed_each(self) -> None:
        mask = Image.new("L", (700, 500))
        pen = ImageDraw.Draw(mask)
        pen.ellipse((50, 50, 350, 350), outline=255, width=5)
        pen.line([(400, 450), (650, 40)], fill=255, width=5)
        cut = slits(mask, 12.0, 8.0)
        count = label(np.asarray(cut) > 0, structure=np.ones((3, 3)))[1]
        about = (np.pi * 295 + np.hypot(250, 410)) / 20
        self.assertAlmostEqual(count, about, delta=4)

    def test_large_areas_are_followed_coarsely(self) -> None:
        cut = np.asarray(slits(Image.new("L", (3000, 900), 255), 100.0, 100.0))
        self.assertAlmostEqual(float((cut > 0).mean()), 0.5, delta=0.05)

    def test_nothing_is_cut_where_there_is_no_line(self) -> None:
        self.assertFalse(np.asarray(slits(Image.new("L", (50, 40)), 3.0, 2.0)).any())

    def test_on_a_sheet_in_millimetres(self) -> None:
        """A line of 50 mm with slits of 3 mm and ties of 2: ten slits."""
        line = (
            b'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
            b'<path d="M5 20H55" stroke="#000" stroke-width="0.4"/></svg>'
        )
        placement, files = placed(line, width=60)
        told_by = Placement(**{**placement.model_dump(), "areas": {"Tear": "shape"}, "printed": False})
        run = [Ink(), Cut(name="Tear", slit=3.0, tie=2.0)]
        panel = Printed(width=60, height=40, placements=[told_by], run=run)
        gone = compose(panel, files, ppi=SCALE * 25.4).face.presence
        row = gone[200] < 128
        starts = np.flatnonzero(np.diff(row.astype(int)) == 1)
        self.assertEqual(len(starts), 10)
        np.testing.assert_allclose(np.diff(starts), 50, atol=1)
