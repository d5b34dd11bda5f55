"""Thin films: what they mirror, by wave optics, as colours."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

WAVELENGTHS = np.arange(390.0, 731.0, 4.0)
"""Nm at which spectra are worked out: thinner films than 2000 nm have no more than a dozen fringes there."""
PRIMARIES = (465.0, 550.0, 610.0)
"""Nm that the blue, green and red of an index are taken to be of."""


def film_mirrors(
    cosines: Floats, *, thickness: float, film: float, n: Floats, k: Floats, front: float = 1.0
) -> Floats:
    """Share of white light that a film on something mirrors: (cosines, 3) linear Rec.709, unpolarised.

    Airy's sum of all reflections between its two faces (Born and Wolf, 7.6), Fresnel's amplitudes of both
    polarisations, and the light weighed by the eye's curves.

    cosines : (n,) of the angle of incidence, in the front medium; thickness in nm
    film, front : refractive indices; n, k : (3,) of what lies under it, red, green, blue
    """
    spectrum = _spectra(cosines[:, None], thickness, film, _by_wavelength(n) + 1j * _by_wavelength(k), front)
    return np.asarray(spectrum @ _weights())


def _spectra(
    cosines: Floats, thickness: float, film: float, below: NDArray[np.complex128], front: float
) -> Floats:
    sine = front * np.sqrt(np.maximum(0.0, 1 - cosines**2))
    in_film = np.sqrt(1 - (sine / film) ** 2 + 0j)
    under = np.sqrt(1 - (sine / below) ** 2 + 0j)
    turn = np.exp(4j * np.pi * film * thickness * in_film / WAVELENGTHS)
    share = np.zeros(np.broadcast_shapes(cosines.shape, below.shape))
    for crossed in (False, True):
        above = _amplitude(front, cosines, film, in_film, crossed)
        beneath = _amplitude(film, in_film, below, under, crossed)
        share += 0.5 * np.abs((above + beneath * turn) / (1 + above * beneath * turn)) ** 2
    return share


def _amplitude(
    first: object, its: object, second: object, others: object, crossed: bool
) -> NDArray[np.complex128]:
    """Fresnel's amplitude at one face, for light that swings across or in the plane of incidence."""
    a, b = np.asarray(its, complex), np.asarray(others, complex)
    if crossed:
        a, b = b, a
    one, two = np.asarray(first) * a, np.asarray(second) * b
    return np.asarray((one - two) / (one + two)) * (-1 if crossed else 1)


def _by_wavelength(values: Floats) -> Floats:
    return np.asarray(np.interp(WAVELENGTHS, PRIMARIES, np.asarray(values)[::-1]))


def _weights() -> Floats:
    """(wavelengths, 3) by which a spectrum becomes a colour; an even one becomes as much of each.

    The eye's curves are the multi-lobe fits to those of CIE 1931 (Wyman, Sloan and Shirley 2013).
    """

    def lobe(middle: float, below: float, above: float) -> Floats:
        wide = np.where(middle > WAVELENGTHS, below, above)
        return np.asarray(np.exp(-0.5 * ((WAVELENGTHS - middle) * wide) ** 2))

    x = 0.362 * lobe(442.0, 0.0624, 0.0374) + 1.056 * lobe(599.8, 0.0264, 0.0323)
    x -= 0.065 * lobe(501.1, 0.0490, 0.0382)
    y = 0.821 * lobe(568.8, 0.0213, 0.0247) + 0.286 * lobe(530.9, 0.0613, 0.0322)
    z = 1.217 * lobe(437.0, 0.0845, 0.0278) + 0.681 * lobe(459.0, 0.0385, 0.0725)
    to_rgb = np.array(
        [
            [3.2404542, -1.5371385, -0.4985314],
            [-0.9692660, 1.8760108, 0.0415560],
            [0.0556434, -0.2040259, 1.0572252],
        ]
    )
    seen = np.column_stack([x, y, z]) @ to_rgb.T
    return np.asarray(seen / seen.sum(axis=0))
