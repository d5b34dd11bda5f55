"""A press for files that say CMYK and not which: offset on coated paper, as an ICC profile made here.

What halftones look like follows from solids and overprints by Neugebauer's equations with Yule and Nielsen's
exponent (Yule and Nielsen 1951). Solids and overprints are the aims of ISO 12647-2 for coated paper (from
memory); overprints with black, which it does not give, are products.
"""

from __future__ import annotations

import struct
from functools import cache
from itertools import product

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

NAME = "Coated offset, made here"
D50 = np.array([0.9642, 1.0, 0.8249])
"""White of the profile connection space (ICC.1, annex A)."""
PAPER = (95.0, 0.0, -2.0)
BLACK = (16.0, 0.0, 0.0)
SOLIDS: dict[tuple[int, int, int], tuple[float, float, float]] = {
    (0, 0, 0): PAPER,
    (1, 0, 0): (55.0, -37.0, -50.0),
    (0, 1, 0): (48.0, 74.0, -3.0),
    (0, 0, 1): (89.0, -5.0, 93.0),
    (0, 1, 1): (47.0, 68.0, 48.0),
    (1, 0, 1): (50.0, -68.0, 25.0),
    (1, 1, 0): (24.0, 22.0, -46.0),
    (1, 1, 1): (23.0, 0.0, 0.0),
}
"""CIELAB of solids by cyan, magenta and yellow."""
YULE_NIELSEN = 1.7
"""By this tints of a half gain about 15 %, as the standard's curves for coated paper do."""
GRID = 11
_TABLE = 2


def xyz_of(lab: Floats) -> Floats:
    """(…, 3) CIE XYZ under D50 of CIELAB (CIE 15)."""
    lab = np.asarray(lab, float)
    y = (lab[..., 0] + 16) / 116
    f = np.stack([y + lab[..., 1] / 500, y, y - lab[..., 2] / 200], axis=-1)
    return np.asarray(np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29)) * D50)


def lab_of(xyz: Floats) -> Floats:
    """(…, 3) CIELAB of CIE XYZ under D50 (CIE 15)."""
    t = np.asarray(xyz, float) / D50
    f = np.where(t > (6 / 29) ** 3, np.cbrt(np.maximum(t, 0)), t / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack(
        [116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], axis=-1
    )


def printed_lab(inks: Floats) -> Floats:
    """(…, 3) CIELAB of what is printed, its paper white: inks (…, 4) are cyan, magenta, yellow and black as
    shares that are covered."""
    inks = np.clip(np.asarray(inks, float), 0, 1)
    paper, black = xyz_of(np.array(PAPER)), xyz_of(np.array(BLACK))
    mixed: Floats = np.zeros((*inks.shape[:-1], 3))
    for corner in product((0, 1), (0, 1), (0, 1), (0, 1)):
        share = np.prod(np.where(corner, inks, 1 - inks), axis=-1)
        cyan, magenta, yellow, _ = corner
        solid = xyz_of(np.array(SOLIDS[cyan, magenta, yellow]))
        seen = solid * black / paper if corner[3] else solid
        mixed += share[..., None] * (seen / paper) ** (1 / YULE_NIELSEN)
    return lab_of(mixed**YULE_NIELSEN * D50)


@cache
def press_profile() -> bytes:
    """The press as an ICC profile (ICC.1:2001, version 2): from inks to colours."""
    steps = np.linspace(0, 1, GRID)
    lab = printed_lab(np.stack(np.meshgrid(*[steps] * 4, indexing="ij"), axis=-1)).reshape(-1, 3)
    codes = np.column_stack([lab[:, 0] * 652.8, (lab[:, 1:] + 128) * 256])
    straight = np.array([0, 65535], ">u2").tobytes()
    one = struct.pack(">i", 65536)
    nothing = struct.pack(">i", 0)
    matrix = b"".join(one if i % 4 == 0 else nothing for i in range(9))
    table = (
        b"mft2\0\0\0\0"
        + struct.pack(">BBBx", 4, 3, GRID)
        + matrix
        + struct.pack(">HH", _TABLE, _TABLE)
        + straight * 4
        + np.clip(np.round(codes), 0, 65535).astype(">u2").tobytes()
        + straight * 3
    )
    words = NAME.encode() + b"\0"
    described = b"desc\0\0\0\0" + struct.pack(">I", len(words)) + words + bytes(4 + 4 + 2 + 1 + 67)
    whole = b"text\0\0\0\0" + b"No rights reserved\0"
    white = b"XYZ \0\0\0\0" + struct.pack(">3i", *(round(v * 65536) for v in xyz_of(np.array(PAPER))))
    return _profile({b"desc": described, b"cprt": whole, b"wtpt": white, b"A2B0": table, b"A2B1": table})


def _profile(tags: dict[bytes, bytes]) -> bytes:
    """A printer's profile of some tags; equal ones are in it once."""
    begin = 132 + 12 * len(tags)
    entries, body = b"", b""
    places: dict[bytes, int] = {}
    for name, data in tags.items():
        if data not in places:
            places[data] = begin + len(body)
            body += data + bytes(-len(data) % 4)
        entries += struct.pack(">4sII", name, places[data], len(data))
    size = begin + len(body)
    light = struct.pack(">3i", *(round(v * 65536) for v in D50))
    header = (
        struct.pack(">I4x4s4s4s4s", size, b"\x02\x10\0\0", b"prtr", b"CMYK", b"Lab ")
        + struct.pack(">6H", 2026, 11, 27, 0, 0, 0)
        + b"acsp"
        + bytes(24)
        + struct.pack(">I", 1)  # relative colorimetric
        + light
        + bytes(48)
    )
    return header + struct.pack(">I", len(tags)) + entries + body
