"""Rough coats against the integral of their formulas, worked out apart by quadrature."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from scipy import integrate

from giftwrap.core.materials.optics import INK_INDEX, Optics, OpticsKind, coat_shine
from giftwrap.core.model import Camera
from giftwrap.core.tests.scenes import film_of, quad, scene, surface

COLOUR = 0.9
TILTS = (0.0, 40.0, 65.0)


def fresnel(cosine: float) -> float:
    """Unpolarised, from air into ink (Born and Wolf, Principles of Optics, 1.5.2)."""
    through = np.sqrt(1 - (1 - cosine**2) / INK_INDEX**2)
    across = (cosine - INK_INDEX * through) / (cosine + INK_INDEX * through)
    along = (INK_INDEX * cosine - through) / (INK_INDEX * cosine + through)
    return float((across**2 + along**2) / 2)


def shadowed(cosine: float, alpha: float) -> float:
    """Smith's G₁ for GGX (Walter et al. 2007, equation 34)."""
    tangent2 = max(1 - cosine**2, 0.0) / cosine**2
    return float(2 / (1 + np.sqrt(1 + alpha**2 * tangent2)))


def mirrored(tilt: float, alpha: float) -> float:
    """Share of even light that a rough coat mirrors to somebody who looks at it from an angle: single
    scattering by GGX (Walter et al. 2007, equations 20 and 33), over the slopes of the surface."""
    sine, cosine = np.sin(tilt), np.cos(tilt)

    def of_slope(turn: float, radius: float) -> float:
        # slopes of density 1 / (π α² (1 + r² / α²)²) in the plane, r = |slope|
        away = np.array([-radius * np.cos(turn), -radius * np.sin(turn), 1.0]) / np.hypot(1.0, radius)
        facing = away[0] * sine + away[2] * cosine
        out = 2 * facing * away - np.array([sine, 0.0, cosine])
        if facing <= 0 or out[2] <= 0:
            return 0.0
        spread = radius / (np.pi * alpha**2 * (1 + radius**2 / alpha**2) ** 2)
        visible = shadowed(cosine, alpha) * facing / (cosine * away[2])
        return float(spread * visible * fresnel(facing) * shadowed(out[2], alpha))

    found, _ = integrate.dblquad(of_slope, 0, 60 * alpha, -np.pi, np.pi, epsabs=2e-4, epsrel=2e-3)
    return float(found)


class RoughCoatTests(TestCase):
    def test_a_coated_sheet_in_even_light(self) -> None:
        """The coat's own light, and what it lets in and out again, in the colour that it is seen in."""
        for alpha in (0.08, 0.25, 0.5):
            for tilt in TILTS:
                lean = np.radians(tilt)
                sheet = quad((0, 0, 0), (20, 0, 0), (0, 20 * np.sin(lean), 20 * np.cos(lean)))
                optics = Optics(OpticsKind.COAT, alpha=alpha, coat_index=INK_INDEX, colour=(COLOUR,) * 3)
                camera = Camera(
                    projection="orthographic", orthographic_width=4, distance=300, height=0, aim_height=0
                )
                one = scene((surface("sheet", sheet, optics),), (), 1.0)
                seen = float(film_of(one, camera, size=16, samples=400).mean_light().mean())
                straight, shine = coat_shine(INK_INDEX, alpha)
                base = (COLOUR - shine) / (1 - straight)
                expected = mirrored(lean, alpha) + (1 - fresnel(float(np.cos(lean)))) * base
                with self.subTest(alpha=alpha, tilt=tilt):
                    self.assertAlmostEqual(seen, expected, delta=0.004)
