"""What becomes of prints: maps held to closed forms, and artwork that takes it back to what was meant."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from PIL import Image, ImageDraw

from giftwrap.core.errors import PackError
from giftwrap.core.model import Body, PickedPanel, SleevePanel, WrapPanel
from giftwrap.core.model.panel import Panel
from giftwrap.core.tests.samples import cylinder, labelled, profile
from giftwrap.core.things.vessel import shape_vessel
from giftwrap.core.wrap.distortion import compensated, distortion_of
from giftwrap.core.wrap.laid import Laid

PPMM = 8


def laid(body: Body, panel: Panel) -> Laid:
    pack = labelled(body, WrapPanel(from_base=1, width=1, height=1))
    return shape_vessel(pack.model_copy(update={"panels": [panel]})).sheets[0]


def turned(*corners: tuple[float, float]) -> Body:
    return cylinder(36, 150).model_copy(update={"profile": profile(*corners)})


CONE = turned((40, 0), (24, 120))
WAIST = turned((36, 0), (36, 30), (28, 60), (36, 90), (36, 120))


class MapTests(TestCase):
    def test_a_cylinder_keeps_every_length(self) -> None:
        found = distortion_of(laid(cylinder(36), WrapPanel(from_base=20, width=120, height=60)))
        self.assertLess(float(np.abs(found.across - 1).max()), 1e-3)
        self.assertLess(float(np.abs(found.up - 1).max()), 1e-6)

    def test_film_is_as_long_across_as_the_circles_are(self) -> None:
        """Closed form: 2πr of the face at that height over the film's width; up it keeps its lengths."""
        sheet = laid(CONE, SleevePanel(from_base=10, width=260, height=90))
        found = distortion_of(sheet)
        rows = found.across.shape[0]
        lean, rise = 16 / np.hypot(16, 120), 120 / np.hypot(16, 120)
        along = 10 / rise + (np.arange(rows) + 0.5) / rows * 90
        wanted = 2 * np.pi * (40 - lean * along + 0.1 * rise) / 260
        np.testing.assert_allclose(found.across.mean(axis=1), wanted, rtol=0.004)
        self.assertLess(float(np.abs(found.up - 1).max()), 2e-3)
        self.assertAlmostEqual(sheet.stretch.worst, 1 - wanted.min(), delta=0.02)

    def test_on_a_ball_it_grows_with_the_square_of_the_way(self) -> None:
        """A geodesic disc of radius a on a ball of radius R has to give about a² / 6R² around (textbook)."""
        ball = cylinder(36).model_copy(update={"profile": [*profile((30, 0)), *profile((30, 80))]})
        corners = [ball.profile[0].model_copy(update={"leave": "arc", "bulge": 20.0}), ball.profile[1]]
        ball = ball.model_copy(update={"profile": corners})
        stretches = []
        for side in (14.0, 40.0):
            sheet = laid(ball, PickedPanel(part="body", at=(0, -50, 40), width=side, height=side))
            stretches.append(sheet.stretch.worst)
            reach = side / np.sqrt(2)
            self.assertLess(sheet.stretch.worst, reach**2 / (6 * 50**2))
            self.assertLessEqual(sheet.stretch.mean, sheet.stretch.worst)
        self.assertGreater(stretches[1], 4 * stretches[0])
        self.assertGreater(stretches[1], 0.01)


class CompensationTests(TestCase):
    def ring(self, sheet: Laid, radius: float) -> Image.Image:
        """A ring around the middle of a page."""
        wide, high = (round(side * PPMM) for side in (sheet.printed.width, sheet.printed.height))
        image = Image.new("RGBA", (wide, high), (0, 0, 0, 0))
        x, y, r = wide / 2, high / 2, radius * PPMM
        ImageDraw.Draw(image).ellipse((x - r, y - r, x + r, y + r), outline="black", width=PPMM // 2)
        return image

    def test_a_ring_is_round_again_on_the_pack(self) -> None:
        """Ink of the compensated print, brought onto the pack by the circles' lengths, lies on a circle."""
        for body, panel in (
            (CONE, SleevePanel(from_base=10, width=260, height=90)),
            (CONE, WrapPanel(from_base=20, width=100, height=80)),
            (WAIST, SleevePanel(from_base=5, width=235, height=110)),
        ):
            with self.subTest(panel.kind):
                sheet = laid(body, panel)
                plain = self.ring(sheet, 25)
                factors = sheet.factors
                assert factors is not None
                apart = []
                for image in (plain, compensated(sheet, plain)):
                    rows, columns = np.nonzero(np.asarray(image)[..., 3] > 128)
                    up = (image.height - 0.5 - rows) / PPMM
                    across = (columns + 0.5 - image.width / 2) / PPMM * np.interp(up, *factors.T)
                    away = np.hypot(across, up - panel.height / 2)
                    apart.append(float(np.abs(away - 24.75).max()))
                self.assertGreater(apart[0], 1.0)
                self.assertLess(apart[1], 0.5)

    def test_where_nothing_changes_there_is_nothing_to_take_back(self) -> None:
        for panel in (
            WrapPanel(from_base=20, width=100, height=60),
            PickedPanel(part="body", at=(0, -36, 40), width=20, height=20),
        ):
            sheet = laid(cylinder(36), panel)
            with self.assertRaisesRegex(PackError, "right as it is"):
                compensated(sheet, self.ring(sheet, 5))
        ringed = laid(CONE, WrapPanel(from_base=20, width=100, height=60, developed=True))
        self.assertIsNone(ringed.factors)
