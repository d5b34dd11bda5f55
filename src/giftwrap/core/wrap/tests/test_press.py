"""What the press makes of stock, artwork and run: every layer where it should be, and nowhere else."""

from __future__ import annotations

import hashlib
import io
from typing import Any
from unittest import TestCase, mock

import numpy as np
from PIL import Image
from pydantic import ValidationError

from giftwrap.core.errors import PackError
from giftwrap.core.grade.display import decode_srgb
from giftwrap.core.materials.optics import METALS, metal_shine, metal_tint
from giftwrap.core.model import Bare, Clear, Metal, Opaque, Placement, Printed
from giftwrap.core.model.document import describe_invalid
from giftwrap.core.model.panel import Crop
from giftwrap.core.model.run import Embossed, Foil, Ink, Varnish, White
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.wrap import printing
from giftwrap.core.wrap.press import INK_GLOSS, PrintedSheet
from giftwrap.core.wrap.printing import compose, effective_ppi
from giftwrap.core.wrap.stamps import effective_aspect, in_one_colour, without_white
from giftwrap.core.wrap.stocks import STARTING_RUNS

PPI = 254  # 10 px a mm
GREEN, RED = (31, 122, 61), (179, 50, 76)
GREY = Opaque(colour="#808080")
KRAFT = Opaque(colour="#b08d62", gloss=0.1)


def setUpModule() -> None:
    """What reads these files is loaded once, as it is in the web process."""
    start_reading(EVERYTHING)


def picture(pixels: np.ndarray) -> tuple[str, dict[str, bytes]]:
    stream = io.BytesIO()
    Image.fromarray(pixels).save(stream, "PNG")
    sha256 = hashlib.sha256(stream.getvalue()).hexdigest()
    return sha256, {sha256: stream.getvalue()}


def solid(colour: tuple[int, ...] = GREEN, size: tuple[int, int] = (20, 10)) -> np.ndarray:
    return np.broadcast_to(np.uint8(colour), (*size[::-1], len(colour))).copy()


def printed(
    *run: Any, pixels: np.ndarray | None = None, placement: dict[str, Any] | None = None, **panel: Any
) -> PrintedSheet:
    """A sheet of 60 × 40 mm with artwork of 20 × 10 mm, 10 mm from the left and 5 up: columns 100 to 300 and
    rows 250 to 350."""
    sha256, files = picture(solid() if pixels is None else pixels)
    at = Placement(artwork=sha256, **{"x": 10, "y": 5, "width": 20, **(placement or {})})
    sheet = Printed(**{"width": 60, "height": 40, "placements": [at], "run": list(run), **panel})
    return compose(sheet, files, ppi=PPI)


IN, OUT = (300, 200), (100, 450)


class InkTests(TestCase):
    def test_without_a_run_artwork_lies_in_its_colours_on_the_stock(self) -> None:
        face = printed().face
        self.assertEqual(tuple(face.colour[IN]), GREEN)
        self.assertEqual(tuple(face.colour[OUT]), (0xFB, 0xF9, 0xF4))
        for nothing in (face.gloss, face.metal, face.presence, face.relief):
            self.assertIsNone(nothing)

    def test_ink_that_does_not_hide_takes_the_grounds_colour_on(self) -> None:
        ground = np.array((0xB0, 0x8D, 0x62))
        for hiding in (0.0, 0.4, 1.0):
            face = printed(Ink(hiding=hiding), stock=KRAFT).face
            through = ground * np.array(GREEN) / 255
            expected = through + hiding * (np.array(GREEN) - through)
            np.testing.assert_allclose(face.colour[IN], expected, atol=1.6)
            np.testing.assert_array_equal(face.colour[OUT], ground)

    def test_white_under_it_keeps_its_colours(self) -> None:
        face = printed(White(hiding=1.0), Ink(hiding=0.0), stock=KRAFT).face
        np.testing.assert_allclose(face.colour[IN], np.array(GREEN) * 0.977, atol=3)
        np.testing.assert_array_equal(face.colour[OUT], (0xB0, 0x8D, 0x62))

    def test_order_is_the_presss(self) -> None:
        red = Ink(name="Red", covers="whole", material=Opaque(colour="#b3324c"))
        over, under = printed(Ink(), red), printed(red, Ink())
        self.assertEqual((tuple(over.face.colour[IN]), tuple(under.face.colour[IN])), (RED, GREEN))
        self.assertEqual(tuple(under.face.colour[OUT]), RED)

    def test_artwork_may_only_say_where_a_layer_is(self) -> None:
        red = Ink(name="Red", material=Opaque(colour="#b3324c", gloss=0.8))
        face = printed(Ink(), red, placement={"printed": False, "areas": {"Red": "shape"}}).face
        self.assertEqual(tuple(face.colour[IN]), RED)
        self.assertEqual((face.gloss[IN], face.gloss[OUT]), (204, round(255 * 0.15)))
        self.assertEqual(
            tuple(printed(Ink(), placement={"printed": False}).face.colour[IN]), (0xFB, 0xF9, 0xF4)
        )

    def test_dark_and_light_of_an_artwork_say_where(self) -> None:
        halves = solid((0, 0, 0))
        halves[:, 10:] = 255
        black = Ink(name="K", material=Opaque(colour="#ff0000"))
        for channel, left, right in (("dark", 255, 0xF9), ("light", 0xF9, 255), ("shape", 255, 255)):
            face = printed(black, pixels=halves, placement={"printed": False, "areas": {"K": channel}}).face
            reds = face.colour[300, [120, 280]]
            self.assertEqual([tuple(c) == (255, 0, 0) for c in reds], [left == 255, right == 255], channel)


class FoilTests(TestCase):
    def test_foil_is_metal_where_it_is(self) -> None:
        foil = Foil(material=Metal(metal="gold", tint="#ffffff", gloss=0.8))
        sheet = printed(Ink(), foil, placement={"printed": False, "areas": {"Foil": "shape"}})
        face = sheet.face
        self.assertEqual(sheet.metal, "gold")
        self.assertEqual((face.metal[IN], face.metal[OUT], face.gloss[IN]), (255, 0, 204))
        self.assertEqual(tuple(face.colour[IN]), (255, 255, 255))

    def test_several_metals_are_tints_of_silver(self) -> None:
        """What each mirrors of light from straight above stays its own."""
        two = (Foil(name="One"), Foil(name="Two", material=Metal(metal="copper")))
        sheet = printed(*two, placement={"areas": {"One": "shape"}})
        self.assertEqual(sheet.metal, "silver")
        tint = decode_srgb(sheet.face.colour[IN].astype(np.float32) / 255)
        np.testing.assert_allclose(tint * metal_shine("silver"), metal_shine("gold"), atol=0.006)

    def test_metals_mirror_what_handbooks_say(self) -> None:
        """Of white light from straight above gold mirrors red most and blue least, silver nearly all:
        reflectances at 650, 550 and 450 nm from the CRC Handbook of Chemistry and Physics (from memory)."""
        for metal, expected in (("silver", (0.98, 0.97, 0.95)), ("copper", (0.95, 0.60, 0.53))):
            np.testing.assert_allclose(metal_shine(metal), expected, atol=0.06)
        self.assertEqual(set(METALS), {"aluminium", "silver", "gold", "copper", "chrome"})
        self.assertEqual(metal_tint(Metal(metal="gold"), "gold"), (255, 255, 255))

    def test_hot_foil_lies_deeper_and_irons_the_stock(self) -> None:
        at = {"printed": False, "areas": {"Foil": "shape"}}
        hot, cold = (
            heights(printed(Foil(hot=hot), placement=at, tooth="felt", stock=KRAFT)) for hot in (True, False)
        )
        inside, outside = (slice(270, 330), slice(130, 270)), (slice(20, 120), slice(330, 580))
        self.assertLess(float(hot[inside].std()), 0.3 * float(cold[inside].std()))
        self.assertAlmostEqual(float(cold[inside].mean() - hot[inside].mean()), 0.02, delta=0.004)
        self.assertAlmostEqual(float(hot[outside].std()), float(cold[outside].std()), places=4)

    def test_ink_hides_metallised_film_as_far_as_it_hides(self) -> None:
        film = Metal(metal="aluminium", gloss=0.7)
        bare, covered = printed(Ink(hiding=0.0), stock=film), printed(Ink(hiding=1.0), stock=film)
        self.assertEqual((bare.face.metal[IN], covered.face.metal[IN], bare.face.metal[OUT]), (255, 0, 255))
        np.testing.assert_allclose(bare.face.colour[IN], GREEN, atol=1)
        self.assertEqual(covered.face.gloss[IN], round(255 * INK_GLOSS))


def heights(sheet: PrintedSheet) -> np.ndarray:
    """Mm above the lowest place."""
    return sheet.face.relief.astype(float) / 65535 * sheet.face.depth


class ReliefTests(TestCase):
    AT = {"printed": False, "areas": {"Emboss": "shape", "Varnish": "shape"}}

    def test_it_stands_out_by_its_height_and_its_flank_is_as_wide_as_said(self) -> None:
        for mm in (0.3, -0.3):
            height = heights(printed(Embossed(height=mm, flank=0.8), placement=self.AT))
            self.assertAlmostEqual(height[IN] - height[OUT], mm, delta=1e-4)
            line = np.abs(height[300] - height[OUT]) / 0.3
            first, last = np.flatnonzero(line > 1e-3)[0], np.flatnonzero(line > 1 - 1e-3)[0]
            self.assertAlmostEqual((last - first) / 10, 0.8, delta=0.21)
            halfway = np.interp(0.5, line[first : last + 1], np.arange(first, last + 1))
            self.assertAlmostEqual(float(halfway), 99.5, delta=0.6)

    def test_raised_varnish_changes_gloss_and_height_alone(self) -> None:
        plain, spot = (
            printed(Ink()),
            printed(Ink(), Varnish(height=0.05), placement={"areas": {"Varnish": "shape"}}),
        )
        np.testing.assert_array_equal(plain.face.colour, spot.face.colour)
        self.assertEqual((spot.face.gloss[IN], spot.face.gloss[OUT]), (255, round(255 * 0.15)))
        self.assertAlmostEqual(heights(spot)[IN], 0.05, delta=1e-4)
        self.assertIsNone(spot.face.metal)

    def test_laid_paper_is_ribbed(self) -> None:
        """36 mm hold 40 ribs."""
        height = heights(printed(tooth="laid"))
        column = height[:360, 500] - height[:360, 500].mean()
        self.assertEqual(int(np.abs(np.fft.rfft(column)).argmax()), 40)
        self.assertAlmostEqual(float(np.ptp(column)), 0.016, delta=1e-3)

    def test_kraft_has_fibres_of_its_colour(self) -> None:
        colour = printed(tooth="kraft", stock=KRAFT).face.colour[:200].astype(float)
        np.testing.assert_allclose(colour.mean(axis=(0, 1)), (0xB0, 0x8D, 0x62), atol=1.5)
        self.assertGreater(float(colour[..., 0].std()), 4)


class FilmTests(TestCase):
    def test_light_passes_where_nothing_is_printed(self) -> None:
        for stock in (Clear(), Bare()):
            sheet = printed(White(hiding=1.0), Ink(), stock=stock)
            face = sheet.face
            self.assertTrue(face.through)
            self.assertEqual((face.presence[IN], face.presence[OUT]), (255, 0))
            np.testing.assert_array_equal(face.colour[OUT], (255, 255, 255))
            self.assertEqual(tuple(face.colour[IN]), GREEN)

    def test_from_behind_one_sees_what_was_printed_first(self) -> None:
        sheet = printed(White(hiding=1.0), Ink(), stock=Clear())
        np.testing.assert_allclose(sheet.behind.colour[IN], (250, 249, 246), atol=1)
        bare = printed(Ink(hiding=1.0), stock=Clear())
        np.testing.assert_array_equal(bare.behind.colour[IN], GREEN)

    def test_ink_alone_colours_what_passes(self) -> None:
        face = printed(Ink(hiding=0.0), stock=Clear()).face
        self.assertEqual((face.presence[IN], tuple(face.colour[IN])), (0, GREEN))

    def test_it_is_drawn_as_clear_as_it_is(self) -> None:
        drawn = np.asarray(printed(White(hiding=1.0), Ink(), stock=Clear()).picture)
        self.assertEqual((drawn[IN][3], drawn[OUT][3]), (255, 0))
        self.assertEqual(np.asarray(printed().picture).shape[-1], 3)

    def test_no_stock_has_no_thickness(self) -> None:
        self.assertEqual(Printed(width=10, height=10, stock=Bare()).thickness, 0)


class TreatmentTests(TestCase):
    def test_white_is_taken_out_and_soft_edges_keep_their_colour(self) -> None:
        """A green ramp into white, laid over black: what is left of the white paper is not seen."""
        share = np.linspace(0, 1, 256)[None, :, None]
        ramp = np.broadcast_to(255 + (np.array(GREEN) - 255) * share, (4, 256, 3)).astype(np.uint8)
        image = Image.fromarray(np.dstack([ramp, np.full(ramp.shape[:2], 255, np.uint8)]))
        out = np.asarray(without_white(image, 0.3))[0].astype(int)
        self.assertEqual(out[0, 3], 0)
        self.assertEqual(tuple(out[-1]), (*GREEN, 255))
        self.assertTrue((np.diff(out[:, 3]) >= 0).all())
        soft = (out[:, 3] > 70) & (out[:, 3] < 250)
        over_white = out[soft, :3] * out[soft, 3:] / 255 + 255 - out[soft, 3:]
        np.testing.assert_allclose(over_white, ramp[0][soft], atol=4)

    def test_one_colour_from_dark_to_white(self) -> None:
        grey = np.dstack([np.tile(np.uint8([[40, 147, 255]]), (2, 1))] * 3 + [np.full((2, 3), 255, np.uint8)])
        out = np.asarray(in_one_colour(Image.fromarray(grey), "#b3324c"))[0]
        self.assertEqual([tuple(c) for c in out[:, :3]], [RED] * 3)
        np.testing.assert_allclose(out[:, 3], [255, 128, 0], atol=1)

    def test_inverted(self) -> None:
        self.assertEqual(tuple(printed(placement={"invert": True}).face.colour[IN]), (224, 133, 194))

    def test_turned_by_a_quarter_it_lies_around_its_middle(self) -> None:
        """To the right: what was on its left is on top."""
        halves = solid()
        halves[:, :10] = RED
        face = printed(pixels=halves, placement={"turn": 90.0}).face
        ink = np.any(face.colour != (0xFB, 0xF9, 0xF4), axis=-1)
        rows, columns = np.nonzero(ink)
        self.assertEqual((columns.min(), columns.max() + 1, rows.min(), rows.max() + 1), (150, 250, 200, 400))
        self.assertEqual((tuple(face.colour[250, 200]), tuple(face.colour[350, 200])), (RED, GREEN))

    def test_turned_by_any_angle_it_keeps_its_size(self) -> None:
        for turn in (17.0, 133.0, -45.0):
            face = printed(
                placement={"turn": turn},
                width=80,
                height=60,
            ).face
            ink = (255 - face.colour[..., 0].astype(float)) / (255 - GREEN[0])
            self.assertAlmostEqual(float(ink[ink > 0.1].sum()) / 100, 200, delta=3)

    def test_cropped_it_keeps_its_scale(self) -> None:
        thirds = solid(size=(30, 10))
        thirds[:, 10:20] = RED
        crop = Crop(left=1 / 3, right=1 / 3)
        face = printed(pixels=thirds, placement={"crop": crop, "width": 10}).face
        ink = np.nonzero(face.colour[..., 1] < 150)
        self.assertTrue((face.colour[255:345, 140:160, 0] > 150).all())
        self.assertEqual((ink[1].min(), ink[1].max() + 1), (100, 200))
        self.assertEqual((ink[0].min(), ink[0].max() + 1), (250, 350))
        self.assertAlmostEqual(effective_aspect(3.0, crop), 1.0)
        placed = Placement(artwork="0" * 64, width=10, crop=crop)
        self.assertAlmostEqual(effective_ppi(placed, 30), 10 / 10 * 25.4)

    def test_repeated_it_covers_the_panel(self) -> None:
        face = printed(placement={"x": 0, "y": 0, "width": 8, "repeat": 2.0}, pixels=solid(size=(8, 8))).face
        ink = np.all(face.colour == GREEN, axis=-1)
        self.assertAlmostEqual(ink.mean(), 0.64, delta=0.01)
        np.testing.assert_array_equal(ink[:300], ink[100:])
        np.testing.assert_array_equal(ink[:, :500], ink[:, 100:])


class RefusedTests(TestCase):
    def test_layers_are_told_apart_by_their_names(self) -> None:
        with self.assertRaises((PackError, ValidationError)) as caught:
            Printed(width=10, height=10, run=[Ink(), Ink()])
        self.assertIn("Two layers are called “Ink”", str(caught.exception))

    def test_nothing_left_of_a_crop(self) -> None:
        with self.assertRaisesRegex((PackError, ValidationError), "Nothing of the artwork is left"):
            Crop(left=0.6, right=0.6)

    def test_strange_stocks_are_named(self) -> None:
        with self.assertRaises(ValidationError) as caught:
            Printed.model_validate({"width": 10, "height": 10, "stock": {"kind": "velvet"}})
        self.assertIn("stock", describe_invalid(caught.exception)[1])


class StartingTests(TestCase):
    def test_each_prints_and_says_what_it_is_good_for(self) -> None:
        sha256, files = picture(solid())
        for name, start in STARTING_RUNS.items():
            areas = {layer.name: "shape" for layer in start.run if layer.covers == "placed"}
            at = Placement(artwork=sha256, x=10, y=5, width=20, areas=areas)
            panel = Printed(
                width=60,
                height=40,
                stock=start.stock,
                tooth=start.tooth,
                placements=[at],
                run=list(start.run),
            )
            with self.subTest(name):
                face = compose(panel, files, ppi=PPI).face
                self.assertNotEqual(tuple(face.colour[IN]), tuple(face.colour[OUT]))
                self.assertTrue(start.says.endswith("."))


class RegistrationTests(TestCase):
    def test_layers_lie_off_by_so_much_each_another_way_but_the_first(self) -> None:
        areas = {"areas": {"Foil": "shape", "Second": "shape"}}
        run = (Ink(), Foil(), Foil(name="Second", material=Metal(metal="silver")))

        def middle(sheet: PrintedSheet) -> np.ndarray:
            return np.argwhere(sheet.face.metal > 128).mean(axis=0)

        straight = middle(printed(*run[:2], placement=areas))
        moves = []
        for layers in (run[:2], (run[0], Ink(name="Nothing", material=GREY), run[1])):
            off = middle(printed(*layers, placement=areas, registration=0.5)) - straight
            self.assertAlmostEqual(float(np.hypot(*off)), 5.0, delta=0.8)
            moves.append(off)
        self.assertGreater(float(np.hypot(*(moves[0] - moves[1]))), 4)
        ink = printed(Ink(), placement=areas, registration=0.5).face.colour
        np.testing.assert_array_equal(ink, printed(Ink(), placement=areas).face.colour)

    def test_at_the_edge_it_is_cut_off(self) -> None:
        placed = {"x": 40, "areas": {"Foil": "shape"}}
        metal = printed(Ink(), Foil(), placement=placed, registration=1.0).face.metal
        self.assertTrue((metal > 0).any())
        self.assertEqual(metal.shape, (400, 600))


class HolographicTests(TestCase):
    def test_shards_differ_in_colour_and_lean_and_only_where_the_foil_is(self) -> None:
        placed = {"areas": {"Foil": "shape"}}
        plain = printed(Ink(), Foil(hot=False), placement=placed).face
        face = printed(Ink(), Foil(hot=False, holographic=True), placement=placed).face
        there = plain.metal > 128
        np.testing.assert_array_equal(face.metal, plain.metal)
        self.assertLess(plain.colour[there].std(axis=0).max(), 1)
        self.assertGreater(face.colour[there].std(axis=0).min(), 15)
        heights = face.relief.astype(float) / 65535 * face.depth
        self.assertLess(np.ptp(heights[~there]), 0.01)
        rise = np.hypot(*np.gradient(heights, 0.1))[255:345, 105:295]
        self.assertTrue(1 < np.degrees(np.median(rise)) < 6, np.degrees(np.median(rise)))


class AgainTests(TestCase):
    """Layers before what has changed are not printed anew, and nothing is seen of that."""

    def test_a_sheet_that_was_gone_on_with_is_as_one_printed_at_once(self) -> None:
        sha256, files = picture(solid((*RED, 255)))
        layers = [Ink(), Foil(), Varnish(height=0.03), Embossed()]

        def sheet(x: float, name: str) -> PrintedSheet:
            placements = [
                Placement(artwork=sha256, x=5, y=5, width=30),
                Placement(artwork=sha256, x=x, y=10, width=9, printed=False, areas={"Foil": "shape"}),
                Placement(artwork=sha256, x=40, y=8, width=9, printed=False, areas={"Emboss": "shape"}),
            ]
            panel = Printed(name=name, width=60, height=40, tooth="felt", placements=placements, run=layers)
            return compose(panel, files, ppi=PPI)

        for x in (12.0, 14.0, 20.5, 12.0):
            gone_on = sheet(x, "Moved")
            with mock.patch.object(printing, "_states", {}), mock.patch.object(printing, "_last", {}):
                fresh = sheet(x, "Fresh")
            for name in ("colour", "gloss", "metal", "relief"):
                np.testing.assert_array_equal(getattr(gone_on.face, name), getattr(fresh.face, name), name)
