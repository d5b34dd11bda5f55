"""Draws the demo's label: a quince cordial of the invented Velloway Orchard House.

Run with the project's Python; writes artwork/quince-cordial-label.svg. The article number lies
in the range that the numbering standard keeps for use inside a company, so it is nobody's.
"""

from __future__ import annotations

import math
from pathlib import Path

from barcode.ean import EuropeanArticleNumber13

WIDTH, HEIGHT = 150.0, 92.0
INK, WINE, GOLD, LEAF, CREAM = "#2b2a26", "#7d2239", "#c9962f", "#5d7145", "#fbf6ea"
NUMBER = "201234567890"
MODULE = 0.33
"""Width of the narrowest bar in mm, the standard's nominal size."""


def text(at: tuple[float, float], size: float, words: str, style: str, anchor: str = "middle") -> str:
    """A line of text; size in mm."""
    return (
        f'<text x="{at[0]:.2f}" y="{at[1]}" font-size="{size}" text-anchor="{anchor}" {style}>{words}</text>'
    )


def barcode(x: float, y: float, bar_height: float) -> str:
    """An EAN-13 with its quiet zones, upright, its left edge at x."""
    code = EuropeanArticleNumber13(NUMBER)
    modules = code.build()[0].replace("G", "1")
    quiet = 11 * MODULE
    width = len(modules) * MODULE + quiet + 7 * MODULE
    parts = [f'<rect x="{x}" y="{y}" width="{width:.2f}" height="{bar_height + 4.2}" fill="#ffffff"/>']
    for index, module in enumerate(modules):
        if module == "1":
            parts.append(
                f'<rect x="{x + quiet + index * MODULE:.3f}" y="{y + 1}" width="{MODULE + 0.004}" '
                f'height="{bar_height}" fill="#1b1a18"/>'
            )
    digits = code.get_fullcode()
    shown = f"{digits[0]} {digits[1:7]} {digits[7:]}"
    parts.append(
        text(
            (x + width / 2, y + bar_height + 3.5), 2.5, shown, f'font-family="Spline Sans Mono" fill="{INK}"'
        )
    )
    return "".join(parts)


def leaf(x: float, y: float, length: float, angle: float) -> str:
    """A leaf with a midrib, its stem end at (x, y)."""
    w = length * 0.27
    return (
        f'<g transform="translate({x} {y}) rotate({angle})">'
        f'<path d="M0 0 C{length * 0.25} {-w * 1.3} {length * 0.75} {-w} {length} 0 '
        f'C{length * 0.75} {w} {length * 0.25} {w * 1.3} 0 0Z" fill="{LEAF}"/>'
        f'<path d="M0 0 L{length * 0.92} 0" stroke="{CREAM}" stroke-width="0.25" fill="none"/></g>'
    )


def quince(cx: float, cy: float, r: float) -> str:
    """One quince with a blossom end, engraved with fine arcs."""
    outline = (
        f"M{cx} {cy - r * 1.12} C{cx + r * 0.42} {cy - r * 1.2} {cx + r * 0.62} {cy - r * 0.72} "
        f"{cx + r * 0.86} {cy - r * 0.34} C{cx + r * 1.18} {cy + r * 0.2} {cx + r * 0.9} {cy + r * 0.98} "
        f"{cx} {cy + r} C{cx - r * 0.9} {cy + r * 0.98} {cx - r * 1.18} {cy + r * 0.2} {cx - r * 0.86} "
        f"{cy - r * 0.34} C{cx - r * 0.62} {cy - r * 0.72} {cx - r * 0.42} {cy - r * 1.2} "
        f"{cx} {cy - r * 1.12}Z"
    )
    lines = "".join(
        f'<path d="M{cx + r * (0.12 + 0.09 * i):.2f} {cy - r * (1.0 - 0.1 * i):.2f} '
        f"C{cx + r * (0.55 + 0.1 * i):.2f} {cy - r * 0.3:.2f} {cx + r * (0.6 + 0.09 * i):.2f} "
        f'{cy + r * 0.5:.2f} {cx + r * (0.2 + 0.05 * i):.2f} {cy + r * 0.93:.2f}" '
        f'fill="none" stroke="#a3701c" stroke-width="0.22"/>'
        for i in range(6)
    )
    sepals = "".join(
        f'<path d="M{cx} {cy + r * 0.96} l{1.5 * math.cos(a):.2f} {1.5 * math.sin(a):.2f}" '
        f'stroke="{INK}" stroke-width="0.45" stroke-linecap="round"/>'
        for a in (0.5, 1.1, 1.57, 2.05, 2.65)
    )
    return (
        f'<clipPath id="q"><path d="{outline}"/></clipPath><path d="{outline}" fill="#e2b13c"/>'
        f'<g clip-path="url(#q)"><ellipse cx="{cx - r * 0.42}" cy="{cy - r * 0.05}" rx="{r * 0.34}" '
        f'ry="{r * 0.62}" fill="#f2d27a"/>{lines}</g>'
        f'<path d="M{cx} {cy - r * 1.08} q0.6 -2.4 -0.4 -3.8" stroke="#5b4426" stroke-width="0.9" '
        f'fill="none" stroke-linecap="round"/>{sepals}'
    )


def label() -> str:
    """The whole label: front in the middle, story on the left, facts and barcode on the right."""
    fraunces = f'font-family="Fraunces" fill="{INK}"'
    sans = f'font-family="Instrument Sans" fill="{INK}"'
    m = WIDTH / 2
    story = [
        "Our quinces ripen on the south wall until",
        "the first frost, are pressed the day they are",
        "picked and rest six weeks with a little lemon.",
        "One part cordial, five parts cold water.",
        "Shake first. Keep cool once opened.",
    ]
    facts = ["Quince juice 46 %, cane sugar,", "water, lemon juice.", "Velloway Orchard House", "Lower Combe"]
    return "\n".join(
        [
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDTH}mm" height="{HEIGHT}mm" '
            f'viewBox="0 0 {WIDTH} {HEIGHT}">',
            f'<rect width="{WIDTH}" height="{HEIGHT}" fill="{CREAM}"/>',
            f'<rect y="0" width="{WIDTH}" height="3.2" fill="{WINE}"/>',
            f'<rect y="{HEIGHT - 3.2}" width="{WIDTH}" height="3.2" fill="{WINE}"/>',
            f'<rect y="4.1" width="{WIDTH}" height="0.35" fill="{GOLD}"/>',
            f'<rect y="{HEIGHT - 4.45}" width="{WIDTH}" height="0.35" fill="{GOLD}"/>',
            text((m, 15.2), 9.2, "Velloway", f'{fraunces} font-weight="600"'),
            text((m, 20.2), 2.7, "ORCHARD HOUSE", f'{sans} letter-spacing="1.1"'),
            f'<path d="M{m - 21} 23.6 H{m + 21}" stroke="{GOLD}" stroke-width="0.35"/>',
            leaf(m + 0.2, 32.2, 11, -24),
            leaf(m - 0.6, 32.6, 9.5, 205),
            quince(m, 44.8, 11),
            text((m, 68.4), 8.0, "Quince", f'font-family="Fraunces" font-weight="700" fill="{WINE}"'),
            text((m, 74.4), 4.6, "Cordial", f'{fraunces} font-style="normal"'),
            text((m, 80.2), 2.3, "PRESSED ON THE FARM · NO. 7", f'{sans} letter-spacing="0.45"'),
            text((m, 85.2), 3.0, "500 ml", f'{sans} font-weight="600"'),
            text((6, 20), 3.6, "From the south wall", f'{fraunces} font-weight="600"', "start"),
            *(text((6, 26.5 + 4.0 * i), 2.05, line, sans, "start") for i, line in enumerate(story)),
            *(text((112, 20 + 4.0 * i), 2.05, line, sans, "start") for i, line in enumerate(facts)),
            barcode(109, 44, 22),
            "</svg>",
            "",
        ]
    )


if __name__ == "__main__":
    (Path(__file__).parent / "artwork" / "quince-cordial-label.svg").write_text(label())
