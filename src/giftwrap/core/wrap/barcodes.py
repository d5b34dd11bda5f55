"""Barcodes as artwork: drawings in mm, with the quiet zones they need and the digits below.

The codes of digits, sizes and quiet zones of EAN-13, EAN-8 and UPC-A are those of the GS1 General
Specifications (from memory); QR codes follow ISO/IEC 18004 and are made by segno, Data Matrix codes ISO/IEC
16022 (ECC 200) by zxing-cpp.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import groupby
from typing import Literal

import numpy as np
import segno
import zxingcpp
from segno.encoder import DataOverflowError

from giftwrap.core.errors import ArtworkError

BarcodeKind = Literal["ean-13", "ean-8", "upc-a", "qr", "data-matrix"]
X_MM = 0.33
"""Mm of a module at 100 %."""
LEAST, MOST = 0.8, 2.0
"""Magnifications that scanners at tills are made for."""
QR_MM = 0.5
"""Mm of a QR code's module at 100 % (common practice)."""
QUIET_QR = 4
MATRIX_MM, QUIET_MATRIX = 0.4, 1
"""Mm of a Data Matrix's module at 100 % (common practice), and modules around it."""
_L = (
    "0001101",
    "0011001",
    "0010011",
    "0111101",
    "0100011",
    "0110001",
    "0101111",
    "0111011",
    "0110111",
    "0001011",
)
"""Modules of digits 0 to 9 on the left, of odd parity; the others follow from them."""
_PARITY = ("LLLLLL", "LLGLGG", "LLGGLG", "LLGGGL", "LGLLGG", "LGGLLG", "LGGGLL", "LGLGLG", "LGLGGL", "LGGLGL")
"""How the first digit of an EAN-13 is said by the parity of those on the left."""
_NAMES: Mapping[BarcodeKind, str] = {
    "ean-13": "EAN-13",
    "ean-8": "EAN-8",
    "upc-a": "UPC-A",
    "qr": "QR code",
    "data-matrix": "Data Matrix",
}


@dataclass(frozen=True)
class _Retail:
    """A kind of retail code: its digits, its quiet zones in modules, and mm that its bars are high."""

    digits: int
    quiet: tuple[int, int]
    bars_mm: float


_RETAIL: Mapping[str, _Retail] = {
    "ean-13": _Retail(13, (11, 7), 22.85),
    "ean-8": _Retail(8, (7, 7), 18.23),
    "upc-a": _Retail(12, (9, 9), 22.85),
}
GUARD_MODULES = 5
"""Modules by which guard bars reach below the others."""
TYPE_MODULES, TYPE_DROP = 9.0, 8.5
"""Size of the digits and how far their line lies below the bars, in modules."""


@dataclass(frozen=True)
class Barcode:
    """A barcode drawn: `svg` in mm, `size` across and high with its quiet zones, `text` as it is encoded."""

    kind: BarcodeKind
    text: str
    size: tuple[float, float]
    svg: bytes

    @property
    def filename(self) -> str:
        """What it is listed as."""
        word = "".join(c if c.isalnum() else "-" for c in self.text)[:40].strip("-")
        return f"{_NAMES[self.kind]} {word}.svg"


def make_barcode(kind: BarcodeKind, text: str, magnification: float = 1.0) -> Barcode:
    """Draw one.

    text : digits, without the last one or with it; of a QR code anything
    magnification : 1 is the nominal size

    Raises ArtworkError that says what is wrong with the digits or the size.
    """
    if kind in {"qr", "data-matrix"}:
        return _square(kind, text, magnification)
    if not LEAST <= magnification <= MOST:
        raise ArtworkError(
            f"{_NAMES[kind]} is printed at {100 * LEAST:.0f} to {100 * MOST:.0f} % of its nominal size, not "
            f"at {100 * magnification:.0f} %.",
            "magnification",
        )
    retail = _RETAIL[kind]
    digits = _checked(text, retail.digits, _NAMES[kind])
    modules = ean_modules(digits)
    return _drawn(kind, digits, modules, magnification, retail)


def check_digit(digits: str) -> str:
    """The last digit of a number: weights of 3 and 1 in turns from the right, up to the next ten."""
    total = sum(int(d) * (3 if k % 2 == 0 else 1) for k, d in enumerate(reversed(digits)))
    return str(-total % 10)


def _checked(text: str, count: int, name: str) -> str:
    digits = "".join(text.split()).replace("-", "")
    if not digits.isascii() or not digits.isdigit() or len(digits) not in (count - 1, count):
        raise ArtworkError(
            f"{name} has {count} digits, the last of which follows from the others: “{text[:40]}” has not.",
            "text",
        )
    last = check_digit(digits[: count - 1])
    if len(digits) == count and digits[-1] != last:
        raise ArtworkError(f"The last digit of {digits} must be {last}: one of the digits is wrong.", "text")
    return digits[: count - 1] + last


def ean_modules(digits: str) -> str:
    """The modules of a number of 13, 12 or 8 digits, 1 where a bar is, without quiet zones."""
    right = [code.translate(str.maketrans("01", "10")) for code in _L]
    even = [code[::-1] for code in right]
    if len(digits) == 12:
        digits = f"0{digits}"
    if len(digits) == 13:
        left = "".join(
            (_L if parity == "L" else even)[int(d)]
            for parity, d in zip(_PARITY[int(digits[0])], digits[1:7], strict=True)
        )
        rest = digits[7:]
    else:
        left, rest = "".join(_L[int(d)] for d in digits[:4]), digits[4:]
    return f"101{left}01010{''.join(right[int(d)] for d in rest)}101"


def _drawn(kind: BarcodeKind, digits: str, modules: str, magnification: float, retail: _Retail) -> Barcode:
    x = X_MM * magnification
    before, after = retail.quiet
    wide = (before + len(modules) + after) * x
    bars = retail.bars_mm * magnification
    tall = bars + (TYPE_DROP + 1.5) * x
    half = len(modules) // 2
    long = {*range(3), *range(half - 2, half + 3), *range(len(modules) - 3, len(modules))}
    if kind == "upc-a":  # its outer digits are written beside, their bars as long as the guards
        long |= {*range(3, 10), *range(len(modules) - 10, len(modules) - 3)}
    path, at = [], 0
    runs = groupby(enumerate(modules), lambda one: (one[1], one[0] in long))
    for (dark, reaching), run in runs:
        count = len(list(run))
        if dark == "1":
            high = bars + GUARD_MODULES * x * reaching
            path.append(f"M{(before + at) * x:.4f} 0h{count * x:.4f}v{high:.4f}h{-count * x:.4f}z")
        at += count
    words = _words(kind, digits, before, len(modules))
    size = TYPE_MODULES * x
    type_ = "".join(
        f'<text x="{place * x:.4f}" y="{bars + TYPE_DROP * x:.4f}" font-size="{size * share:.4f}" '
        f'text-anchor="middle">{digit}</text>'
        for digit, place, share in words
    )
    return Barcode(kind, digits, (wide, tall), _svg(wide, tall, "".join(path), type_))


def _words(kind: BarcodeKind, digits: str, before: int, modules: int) -> list[tuple[str, float, float]]:
    """Each digit with the module its middle lies at, and its size as a share of the usual."""
    if kind == "ean-8":
        return [
            *((d, before + 3 + 7 * k + 3.5, 1.0) for k, d in enumerate(digits[:4])),
            *((d, before + 36 + 7 * k + 3.5, 1.0) for k, d in enumerate(digits[4:])),
        ]
    if kind == "ean-13":
        return [
            (digits[0], before - 6.0, 1.0),
            *((d, before + 3 + 7 * k + 3.5, 1.0) for k, d in enumerate(digits[1:7])),
            *((d, before + 50 + 7 * k + 3.5, 1.0) for k, d in enumerate(digits[7:])),
        ]
    return [
        (digits[0], before - 5.0, 0.8),
        *((d, before + 10 + 7 * k + 3.5, 1.0) for k, d in enumerate(digits[1:6])),
        *((d, before + 50 + 7 * k + 3.5, 1.0) for k, d in enumerate(digits[6:11])),
        (digits[11], before + modules + 5.0, 0.8),
    ]


def _square(kind: BarcodeKind, text: str, magnification: float) -> Barcode:
    """A code of square modules."""
    name = _NAMES[kind]
    if not text.strip():
        raise ArtworkError(f"A {name} of nothing cannot be read: type what it is to say.", "text")
    if not 0.5 <= magnification <= 10:
        raise ArtworkError(f"A {name} is made at 50 to 1000 % of its usual size.", "magnification")
    try:
        rows = _qr_rows(text) if kind == "qr" else _matrix_rows(text)
    except (DataOverflowError, ValueError):
        raise ArtworkError(
            f"{len(text)} characters are more than a {name} holds, or none that it knows: make it shorter.",
            "text",
        ) from None
    x, quiet = (QR_MM, QUIET_QR) if kind == "qr" else (MATRIX_MM, QUIET_MATRIX)
    x *= magnification
    wide, tall = (len(rows[0]) + 2 * quiet) * x, (len(rows) + 2 * quiet) * x
    path = "".join(
        f"M{(quiet + k) * x:.4f} {(quiet + r) * x:.4f}h{x:.4f}v{x:.4f}h{-x:.4f}z"
        for r, row in enumerate(rows)
        for k, dark in enumerate(row)
        if dark
    )
    return Barcode(kind, text, (wide, tall), _svg(wide, tall, path, ""))


def _qr_rows(text: str) -> list[list[int]]:
    return [list(row) for row in segno.make_qr(text, error="m").matrix]


def _matrix_rows(text: str) -> list[list[int]]:
    code = zxingcpp.create_barcode(text, zxingcpp.BarcodeFormat.DataMatrix)
    pixels = np.array(zxingcpp.write_barcode_to_image(code, scale=1, add_quiet_zones=False))
    rows: list[list[int]] = (pixels < 128).astype(int).tolist()
    return rows


def _svg(wide: float, tall: float, path: str, words: str) -> bytes:
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:.4f}mm" height="{tall:.4f}mm" '
        f'viewBox="0 0 {wide:.4f} {tall:.4f}"><rect width="100%" height="100%" fill="#ffffff"/>'
        f'<path fill="#000000" shape-rendering="crispEdges" d="{path}"/>'
        f'<g fill="#000000" font-family="Spline Sans Mono">{words}</g></svg>\n'
    ).encode()
