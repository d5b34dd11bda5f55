"""Blanks written and read back, measured by other libraries, and drawings by others made foldable."""

from __future__ import annotations

import io
import re
from unittest import TestCase

import ezdxf
import numpy as np
import pikepdf
import pypdfium2
import shapely
from shapely import LineString, Polygon

from giftwrap.core.carton.bending import Bent
from giftwrap.core.carton.blank import Blank, FlatPanel
from giftwrap.core.carton.curves import bending_of
from giftwrap.core.carton.folding import Folded, angles_at
from giftwrap.core.carton.linework import blank_from_lines
from giftwrap.core.carton.shape import fold_carton
from giftwrap.core.carton.styles import STYLES
from giftwrap.core.errors import PackError
from giftwrap.core.formats.blank_in import read_blank, read_lines
from giftwrap.core.formats.blank_lines import MARGIN, lines_of
from giftwrap.core.formats.blank_out import POINTS_PER_MM, BlankFormat, write_blank
from giftwrap.core.model.carton import Carton
from giftwrap.core.reading.reader import EVERYTHING, start_reading

FORMATS: tuple[BlankFormat, ...] = ("svg", "dxf", "pdf")


def setUpModule() -> None:
    """What reads these files is loaded once, as it is in the web process."""
    start_reading(EVERYTHING)


def carton(style: str = "reverse-tuck") -> Carton:
    return Carton(style=style, length=60, width=40, depth=20 if style == "pillow" else 70)


def blanks(style: str = "reverse-tuck") -> dict[str, Blank]:
    return fold_carton(carton(style)).blanks


def corners(blank: Blank, first: str) -> dict[str, np.ndarray]:
    """The middle of every panel when closed, as seen from one of them."""
    poses = Folded(blank, angles_at(blank, 1.0), 0.45).poses
    seen = np.linalg.inv(poses[first])
    found = {}
    for panel in blank.panels:
        at = panel.outline.centroid
        found[panel.name] = (seen @ poses[panel.name] @ [at.x, at.y, 0.0, 1.0])[:3]
    return found


def bent(blank: Blank, places: dict[str, np.ndarray]) -> dict[str, np.ndarray]:
    """Places on the panels of a closed tube, as seen from the first place of its front."""
    bending = bending_of(blank)
    assert bending is not None
    tube = Bent(blank, angles_at(blank, 1.0), 0.45, bending)
    at, facing = tube.mapped("front", places["front"][:1])
    up = np.array([0.0, 1.0, 0.0])
    seen = np.stack([np.cross(up, facing[0]), up, facing[0]])
    return {name: (tube.mapped(name, flat)[0] - at[0]) @ seen.T for name, flat in places.items()}


def box_points(panel: FlatPanel, rng: np.random.Generator) -> np.ndarray:
    left, foot, right, top = panel.outline.bounds
    return rng.uniform((left, foot), (right, top), (400, 2))


class RoundTripTests(TestCase):
    def test_every_format_folds_to_the_same_carton(self) -> None:
        for style in set(STYLES) - {"pillow"}:
            for name, blank in blanks(style).items():
                for form in FORMATS:
                    with self.subTest(style, blank=name, form=form):
                        found = read_blank(write_blank({name: blank}, form), f"blank.{form}")
                        holes = len(blank.outline.interiors)
                        self.assertEqual(bool(found.notes), bool(holes), found.notes)
                        self.assertEqual({p.name for p in found.blank.panels}, set(blank.by_name))
                        self.assertAlmostEqual(found.blank.area / blank.area, 1, places=5)
                        first = blank.panels[0].name
                        before, after = corners(blank, first), corners(found.blank, first)
                        x, y = blank.way_to(MARGIN, MARGIN)
                        down = y if form != "svg" else y - blank.size[1] - 2 * MARGIN
                        moved = np.array([x, down, 0.0])
                        for panel, place in before.items():
                            np.testing.assert_allclose(after[panel], place + moved, atol=0.01)

    def test_a_pillow_is_bent_to_the_same_tube(self) -> None:
        """Everywhere on its panels, flaps and glue flap, in every format."""
        blank = blanks("pillow")["pillow"]
        rng = np.random.default_rng(5)
        places = {
            name: shapely.get_coordinates(
                [p for p in shapely.points(box_points(panel, rng)) if panel.outline.buffer(-1.5).contains(p)]
            )
            for name, panel in blank.by_name.items()
        }
        before = bent(blank, places)
        for form in FORMATS:
            found = read_blank(write_blank({"pillow": blank}, form), f"blank.{form}")
            self.assertEqual(found.notes, ())
            x, y = blank.way_to(MARGIN, MARGIN)
            down = y if form != "svg" else y - blank.size[1] - 2 * MARGIN
            after = bent(found.blank, {name: np.add(flat, (x, down)) for name, flat in places.items()})
            self.assertEqual({p.name for p in found.blank.panels}, set(blank.by_name))
            for name, there in before.items():
                with self.subTest(form, panel=name):
                    np.testing.assert_allclose(after[name], there, atol=0.01)

    def test_angles_that_do_not_meet_are_a_circle(self) -> None:
        """A gable's blank whose angles are lost, or changed."""
        written = write_blank(blanks("gable"), "svg").decode()
        for spoilt in (written.replace("°", ""), re.sub(r">-1\d\d[.\d]*°<", ">-90°<", written)):
            with self.assertRaisesRegex(PackError, "go round in a circle near .* write the angles"):
                read_blank(spoilt.encode(), "gable.svg")

    def test_lines_are_told_apart_by_layer_or_else_by_dash(self) -> None:
        written = write_blank(blanks(), "svg").decode()
        for id_ in ("cut", "crease", "glue"):
            written = written.replace(f'id="{id_}"', 'id=""')
        kinds = {(group.dashed, group.kind) for group in read_lines(written.encode(), "x.svg").groups}
        self.assertIn((False, "cut"), kinds)
        self.assertIn((True, "crease"), kinds)

    def test_lines_are_told_apart_by_colour_alone(self) -> None:
        square = '<path stroke="#ff0000" d="M0 0H60V30H0Z"/><path stroke="#0000ff" d="M20 0V30M40 0V30"/>'
        page = (
            f'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="30mm" viewBox="0 0 60 30">{square}'
        )
        found = read_blank(f"{page}</svg>".encode(), "x.svg")
        self.assertEqual([round(p.outline.area) for p in found.blank.panels], [600, 600, 600])
        groups = read_lines(f"{page}</svg>".encode(), "x.svg").groups
        self.assertEqual([group.kind for group in groups], ["cut", "crease"])
        with self.assertRaisesRegex(PackError, "No crease joins"):
            read_blank(f"{page}</svg>".encode(), "x.svg", kinds={1: "cut"})


class OutsideTests(TestCase):
    def test_dxf_passes_the_librarys_audit_and_has_its_layers(self) -> None:
        document = ezdxf.read(io.StringIO(write_blank(blanks(), "dxf").decode()))
        self.assertFalse(document.audit().errors)
        self.assertEqual(document.units, ezdxf.units.MM)
        layers = {entity.dxf.layer for entity in document.modelspace()}
        self.assertEqual(layers, {"CUT", "CREASE", "GLUE", "NAMES"})

    def test_pdf_is_as_large_as_the_sheet_and_its_lines_lie_in_mm(self) -> None:
        """Drawn by pdfium at 10 px a mm: the outline's extent is the blank's size."""
        blank = blanks()["carton"]
        page = pypdfium2.PdfDocument(write_blank({"carton": blank}, "pdf"))[0]
        width, height = (side / POINTS_PER_MM for side in page.get_size())
        np.testing.assert_allclose((width, height), np.add(blank.size, 2 * MARGIN), atol=1e-3)
        pixels = np.asarray(page.render(scale=10 / POINTS_PER_MM).to_pil().convert("RGB"))
        dark = np.argwhere(pixels[..., 1] < 90)  # cut lines are shown in magenta, names in grey
        low, high = dark.min(axis=0), dark.max(axis=0) + 1
        np.testing.assert_allclose((high - low)[::-1] / 10, blank.size, atol=0.35)

    def test_pdf_names_its_separations_and_processing_steps(self) -> None:
        with pikepdf.open(io.BytesIO(write_blank(blanks(), "pdf"))) as pdf:
            spaces = pdf.pages[0].Resources.ColorSpace
            inks = {str(space[1]) for space in spaces.values()}
            self.assertEqual(inks, {"/Cut", "/Crease", "/Glue"})
            steps = {
                (str(g.GTS_Metadata.GTS_ProcStepsGroup), str(g.GTS_Metadata.GTS_ProcStepsType))
                for g in pdf.Root.OCProperties.OCGs
            }
            self.assertEqual({group for group, _ in steps}, {"/Structural"})
            self.assertEqual({step for _, step in steps}, {"/Cutting", "/Creasing", "/Gluing"})
            self.assertTrue(pdf.pages[0].Resources.ExtGState.over.OP)

    def test_crease_lengths_and_areas_against_shapely(self) -> None:
        for style in STYLES:
            for blank in blanks(style).values():
                lines = lines_of(blank)
                drawn = shapely.union_all([line for kind, line in lines if kind == "crease"]).length
                self.assertAlmostEqual(drawn, blank.crease_length, places=4)
                ring, *holes = [line.coords for kind, line in lines if kind == "cut"]
                self.assertAlmostEqual(Polygon(ring, holes).area, blank.area, places=4)


class LineworkTests(TestCase):
    """A strip of three panels of 20 × 30 mm, drawn in many ways."""

    CREASES = (LineString([(20, 0), (20, 30)]), LineString([(40, 0), (40, 30)]))

    def outline(self, gap: float = 0.0) -> list[LineString]:
        return [
            LineString([(0, 0), (60, 0)]),
            LineString([(60, 0), (60, 30)]),
            LineString([(60, 30), (gap, 30)]),
            LineString([(0, 30), (0, 0)]),
        ]

    def test_ends_that_nearly_meet_are_joined_and_said(self) -> None:
        creases = [LineString([(20, 0.2), (20, 29.9)]), LineString([(40, -0.15), (40, 30)])]
        found = blank_from_lines(self.outline(0.2), creases)
        self.assertEqual([round(p.outline.area) for p in found.blank.panels], [600, 600, 600])
        self.assertRegex(found.notes[0], "ends that nearly met .* were joined")

    def test_an_open_outline_says_where(self) -> None:
        with self.assertRaisesRegex(PackError, r"open at (0\.0|5\.0), 30\.0 mm: close it there"):
            blank_from_lines(self.outline(5.0), self.CREASES)

    def test_creases_in_a_circle(self) -> None:
        """Four squares around a point: a blank that hangs together all around it."""
        outline = [LineString([(0, 0), (40, 0), (40, 40), (0, 40), (0, 0)])]
        creases = [LineString([(20, 0), (20, 40)]), LineString([(0, 20), (40, 20)])]
        with self.assertRaisesRegex(PackError, "go round in a circle near"):
            blank_from_lines(outline, creases)
        slit = [*outline, LineString([(20, 20), (20, 40)])]
        found = blank_from_lines(slit, [LineString([(20, 0), (20, 20)]), creases[1]])
        self.assertEqual(len(found.blank.creases), 3)

    def test_a_window_is_a_hole(self) -> None:
        window = LineString([(5, 10), (15, 10), (15, 20), (5, 20), (5, 10)])
        found = blank_from_lines([*self.outline(), window], self.CREASES)
        self.assertAlmostEqual(found.blank.area, 1700)
        self.assertRegex(found.notes[0], "taken for windows")

    def test_nothing_to_fold(self) -> None:
        for cuts, creases, words in (
            ([], self.CREASES, "no cut line"),
            (self.outline(), [], "No crease joins"),
            (self.outline(), [LineString([(20, 0), (20, 12)])], "No crease joins"),
        ):
            with self.assertRaisesRegex(PackError, words):
                blank_from_lines(cuts, creases)

    def test_creases_that_are_not_straight_are_refused(self) -> None:
        bent = LineString([(20, 0), (23, 15), (20, 30)])
        with self.assertRaisesRegex(PackError, "do not lie on one line"):
            blank_from_lines(self.outline(), [bent])


class BrokenFileTests(TestCase):
    def test_what_cannot_be_read_says_so(self) -> None:
        whole = {form: write_blank(blanks(), form) for form in FORMATS}
        for name, data, words in (
            ("x.pdf", whole["pdf"][:400], "broken or locked"),
            ("x.dxf", whole["dxf"][:3000], "broken|no lines"),
            ("x.svg", whole["svg"][:500], "broken"),
            ("x.png", b"", "neither an SVG, a DXF nor a PDF"),
            ("x.svg", b'<svg xmlns="http://www.w3.org/2000/svg"/>', "no lines"),
            ("x.svg", b'<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0L1e400 5"/></svg>', "."),
        ):
            with self.subTest(name, words=words), self.assertRaisesRegex(PackError, words):
                read_blank(data, name)

    def test_files_cut_anywhere_are_read_or_refused(self) -> None:
        rng = np.random.default_rng(4)
        for form in FORMATS:
            data = write_blank(blanks(), form)
            for _ in range(12):
                broken = bytearray(data[: int(rng.integers(10, len(data)))])
                for at in rng.integers(0, len(broken), 6):
                    broken[at] = int(rng.integers(0, 256))
                with self.subTest(form=form):
                    try:
                        read_blank(bytes(broken), f"x.{form}")
                    except PackError as error:
                        self.assertTrue(str(error))
