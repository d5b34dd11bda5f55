"""Rendered pictures measured: artwork the right way round, legible, and where projection says."""

from __future__ import annotations

import io
from unittest import TestCase

import barcode
import numpy as np
import segno
import zxingcpp
from barcode.writer import SVGWriter

from giftwrap.core.formats.pictures import to_8_bit
from giftwrap.core.grade.display import grade_picture
from giftwrap.core.model import (
    Camera,
    Grade,
    Opaque,
    Pack,
    PhotoSet,
    Purpose,
    Shot,
    WrapPanel,
)
from giftwrap.core.render.film import Film, Floats
from giftwrap.core.render.job import PictureJob, develop, take
from giftwrap.core.render.planning import Limits, Region
from giftwrap.core.stage.camera import project
from giftwrap.core.tests.samples import (
    bottle,
    cylinder,
    even_light,
    labelled,
    picture_job,
    placed,
    square_of,
)

RADIUS = 36.0
MM_PER_POINT = 25.4 / 72
OUT = 0.05 + 0.12  # glue gap and stock
ARTICLE = "2012345678903"  # in the range kept for use inside a company (GS1 General Specifications)
ADDRESS = "https://velloway.example/quince"


def render(
    pack: Pack, photo_set: PhotoSet, shot: Shot, artwork: dict[str, bytes], samples: int
) -> tuple[PictureJob, Film]:
    job = picture_job(pack, photo_set, shot, artwork)
    return job, take(job, Limits(samples))


class LegibilityTests(TestCase):
    """A QR code and an EAN-13 barcode, read back from the picture by a general-purpose reader."""

    def test_codes_on_a_filled_bottle_read_back(self) -> None:
        stream = io.BytesIO()
        segno.make(ADDRESS, error="m").save(stream, kind="svg", scale=4, border=4)
        square, files = placed(stream.getvalue(), width=34, x=23, y=40)
        stream = io.BytesIO()
        barcode.get("ean13", ARTICLE, writer=SVGWriter()).write(
            stream, {"module_width": 0.33, "quiet_zone": 4}
        )
        bars, more = placed(stream.getvalue(), width=40, x=20, y=8)
        panel = WrapPanel(from_base=30, width=80, height=84, placements=[square, bars])
        pack = labelled(bottle(), panel, fill=148, capped=True)
        camera = Camera(lens_mm=85, distance=520, height=80, aim_height=72)
        shot = Shot(camera=camera, grade=Grade(exposure_ev=0.3), purposes=[square_of(900)])
        job, film = render(pack, even_light(), shot, files | more, 12)
        _, picture = develop(film, job)
        pixels = to_8_bit(picture)
        found = {code.text for code in zxingcpp.read_barcodes(pixels, try_rotate=False)}
        self.assertIn(ADDRESS, found)
        self.assertIn(ARTICLE, found)
        mirrored = {code.text for code in zxingcpp.read_barcodes(np.ascontiguousarray(pixels[:, ::-1]))}
        self.assertNotIn(ADDRESS, mirrored - found)

    def test_type_of_six_points_is_legible_at_1920_by_1080(self) -> None:
        """A QR code whose modules are half as high as the x of 6-point type, from a denoised draft."""
        x_height = 6 * MM_PER_POINT * 0.5
        stream = io.BytesIO()
        code = segno.make(ADDRESS, error="m")
        code.save(stream, kind="svg", scale=4, border=4)
        width = (code.symbol_size()[0] + 8) * x_height / 2
        square, files = placed(stream.getvalue(), width=width, x=40 - width / 2, y=40)
        pack = labelled(
            bottle(), WrapPanel(from_base=30, width=80, height=84, placements=[square]), fill=148, capped=True
        )
        shot = Shot(
            camera=Camera(lens_mm=85, distance=700, height=150, aim_height=112),
            purposes=[Purpose(width_px=1920, height_px=1080)],
        )
        job = picture_job(pack, even_light(), shot, files, Region(840, 660, 240, 210))
        film = take(job, Limits(64, noise=5))
        _, picture = develop(film, job)
        found = {code.text for code in zxingcpp.read_barcodes(to_8_bit(picture))}
        self.assertEqual(found, {ADDRESS})

    def test_lines_of_a_tenth_of_a_millimetre_keep_their_contrast(self) -> None:
        """Against the pixels' own: a line pair of 0.2 mm at 12 px a mm keeps sinc(1 / 2.4) = 0.74 of it.

        The contrast is that of the fundamental, of which black and white stripes have 4 / π.
        """
        pitch, px_per_mm, wide = 0.2, 12, 16.0
        bars = "".join(f'<path d="M0 {i * pitch:.3f}h12v0.1h-12z"/>' for i in range(60))
        drawing = (
            f'<svg xmlns="http://www.w3.org/2000/svg" width="12mm" height="12mm" viewBox="0 0 12 12">{bars}'
        )
        lines, files = placed(f"{drawing}</svg>".encode(), width=12)
        stock = Opaque(colour="#ffffff", gloss=0.0)
        panel = WrapPanel(from_base=64, width=12, height=12, placements=[lines], stock=stock)
        camera = Camera(
            projection="orthographic", orthographic_width=wide, distance=900, height=70, aim_height=70
        )
        shot = Shot(camera=camera, purposes=[square_of(round(wide * px_per_mm))])
        job, film = render(labelled(cylinder(RADIUS, 150), panel), even_light(), shot, files, 8)
        light, _ = develop(film, job)
        middle, reach = film.width // 2, 4 * px_per_mm
        down = light[middle - reach : middle + reach, middle - 24 : middle + 24, 1].mean(axis=1)
        window = np.hanning(len(down))
        wave = np.exp(-2j * np.pi * np.arange(len(down)) / (pitch * px_per_mm))
        contrast = 2 * abs((window * (down - down.mean()) * wave).sum()) / (window * down).sum() / (4 / np.pi)
        self.assertAlmostEqual(contrast / np.sinc(1 / (pitch * px_per_mm)), 1.0, delta=0.08)


class ProjectionTests(TestCase):
    """With an orthographic camera a point at arc x and height z appears at (R·sin(x/R), z)."""

    WIDTH, HEIGHT, FROM_BASE, PX, MM = 60.0, 80.0, 30.0, 960, 120.0

    @classmethod
    def setUpClass(cls) -> None:
        grid, files = placed(cls.grid_artwork(), width=cls.WIDTH)
        panel = WrapPanel(from_base=cls.FROM_BASE, width=cls.WIDTH, height=cls.HEIGHT, placements=[grid])
        cls.camera = Camera(
            projection="orthographic", orthographic_width=cls.MM, distance=900, height=70, aim_height=70
        )
        shot = Shot(camera=cls.camera, purposes=[square_of(cls.PX)])
        pack = labelled(cylinder(RADIUS, 150), panel)
        _, film = render(pack, even_light("#16304a"), shot, files, 16)
        cls.picture = grade_picture(film.mean_light(), Grade())

    @classmethod
    def grid_artwork(cls) -> bytes:
        lines = "".join(f'<path d="M{10 * i} 0V80"/>' for i in range(1, 6))
        lines += "".join(f'<path d="M0 {10 * i}H60"/>' for i in range(1, 8))
        return (
            '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="80mm" viewBox="0 0 60 80">'
            f'<rect width="60" height="80" fill="#fff"/><g stroke="#000" stroke-width="0.8">{lines}</g></svg>'
        ).encode()

    def mm_per_px(self) -> float:
        return self.MM / self.PX

    def brightness(self, *, rows: slice, columns: slice, axis: int) -> Floats:
        return self.picture[rows, columns, 0].mean(axis=axis)

    def at_height(self, z: float) -> int:
        return round(self.PX / 2 - (z - 70) / self.mm_per_px())

    def at_side(self, x: float) -> int:
        return round(self.PX / 2 + x / self.mm_per_px())

    def test_vertical_grid_lines_and_edges(self) -> None:
        row = self.at_height(self.FROM_BASE + 45)  # between two level lines
        line = self.brightness(rows=slice(row - 8, row + 8), columns=slice(None), axis=0)
        radius = RADIUS + OUT
        for arc in (-20, -10, 0, 10, 20):
            expected = radius * np.sin(arc / radius)
            found = dark_centre(line, self.at_side(expected), round(3 / self.mm_per_px()))
            self.assertAlmostEqual((found - self.PX / 2) * self.mm_per_px(), expected, delta=0.3)
        left, right = edges(line)
        expected = radius * np.sin(30 / radius)
        self.assertAlmostEqual((left - self.PX / 2) * self.mm_per_px(), -expected, delta=0.3)
        self.assertAlmostEqual((right - self.PX / 2) * self.mm_per_px(), expected, delta=0.3)

    def test_level_grid_lines_and_edges(self) -> None:
        column = self.at_side(5)
        line = self.brightness(rows=slice(None), columns=slice(column - 8, column + 8), axis=1)
        for up in range(10, 80, 10):
            expected = self.FROM_BASE + up
            found = dark_centre(line, self.at_height(expected), round(3 / self.mm_per_px()))
            self.assertAlmostEqual(70 + (self.PX / 2 - found) * self.mm_per_px(), expected, delta=0.3)
        top, bottom = edges(line)
        self.assertAlmostEqual(70 + (self.PX / 2 - top) * self.mm_per_px(), 110, delta=0.3)
        self.assertAlmostEqual(70 + (self.PX / 2 - bottom) * self.mm_per_px(), 30, delta=0.3)

    def test_projection_rule_says_the_same(self) -> None:
        radius = RADIUS + OUT
        x, y = radius * np.sin(20 / radius), -radius * np.cos(20 / radius)
        place = project(self.camera, 1.0, np.array([[x, y, 90.0]]))[0]
        np.testing.assert_allclose(place, [0.5 + x / self.MM, 0.5 - 20 / self.MM], atol=1e-9)


def dark_centre(line: Floats, near: int, reach: int) -> float:
    """Sub-pixel middle of the dark line within `reach` px of a place."""
    part = line[near - reach : near + reach]
    weight = np.clip(np.median(part) - part, 0, None)
    return float((weight * (np.arange(len(part)) + near - reach + 0.5)).sum() / weight.sum())


def edges(line: Floats) -> tuple[float, float]:
    """Where brightness first rises to, and last falls from, half of its largest value."""
    bright = np.nonzero(line > 0.62 * line.max())[0]
    return float(bright[0]), float(bright[-1] + 1)
