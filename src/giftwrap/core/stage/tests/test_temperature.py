"""The colour of light, against the loci of colour-science."""

from __future__ import annotations

import warnings
from unittest import TestCase

import numpy as np
from pydantic import ValidationError

from giftwrap.core.model import Softbox
from giftwrap.core.stage.temperature import DAYLIGHT_FROM, HOT_BODY_UNTIL, daylight, light_colour

with warnings.catch_warnings():
    warnings.simplefilter("ignore")  # it tells of what else could be installed
    import colour

TO_XYZ = colour.RGB_COLOURSPACES["sRGB"].matrix_RGB_to_XYZ
OBSERVER = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"]


def chromaticity(kelvin: float) -> np.ndarray:
    xyz = TO_XYZ @ np.array(light_colour(kelvin, None))
    return xyz[:2] / xyz.sum()


class TemperatureTests(TestCase):
    def test_hot_bodies_lie_on_the_planckian_locus(self) -> None:
        """By Planck's law and the observer of CIE 1931, wavelength by wavelength."""
        for kelvin in (2200.0, 2700.0, 3200.0, HOT_BODY_UNTIL):
            xyz = colour.sd_to_XYZ(colour.sd_blackbody(kelvin, OBSERVER.shape), cmfs=OBSERVER)
            np.testing.assert_allclose(chromaticity(kelvin), xyz[:2] / xyz.sum(), atol=1.5e-3)

    def test_daylight_lies_on_its_locus(self) -> None:
        for kelvin in (DAYLIGHT_FROM, 5600.0, 6504.0, 7500.0, 15_000.0, 25_000.0):
            expected = colour.temperature.CCT_to_xy_CIE_D(kelvin)
            np.testing.assert_allclose(daylight(kelvin), expected, atol=2e-5)
            np.testing.assert_allclose(chromaticity(kelvin), expected, atol=1e-3)

    def test_between_them_it_goes_over(self) -> None:
        found = np.array([chromaticity(kelvin) for kelvin in np.linspace(3900, 5100, 25)])
        self.assertTrue((np.diff(found[:, 0]) < 0).all())
        self.assertLess(float(np.linalg.norm(np.diff(found, axis=0), axis=1).max()), 0.006)

    def test_every_colour_is_as_bright_as_neutral(self) -> None:
        """Luminance by the standard of sRGB (IEC 61966-2-1)."""
        for kelvin, gel in (
            (None, None),
            (1667.0, None),
            (9000.0, "#b9dfff"),
            (None, "#ff0000"),
            (None, "#000000"),
        ):
            self.assertAlmostEqual(float(TO_XYZ[1] @ np.array(light_colour(kelvin, gel))), 1.0, delta=1e-3)
        self.assertEqual(light_colour(None, None), (1.0, 1.0, 1.0))
        np.testing.assert_allclose(light_colour(6504.0, None), (1, 1, 1), atol=0.01)

    def test_a_document_says_only_what_there_are_formulas_for(self) -> None:

        own = {
            "name": "K",
            "width": 1,
            "height": 1,
            "azimuth": 0,
            "elevation": 0,
            "distance": 1,
            "power_w": 1,
        }
        for kelvin in (0, 1000, 26_000, float("nan")):
            with self.assertRaises(ValidationError):
                Softbox(**own, temperature_k=kelvin)
