"""Draws the demo's labels: cordials, drops, a balm and a hand wash of the invented Velloway Orchard House.

What is printed in ink, stamped in foil, raised or varnished is a drawing each, all of the same page. Texts
that change with the batch or the size have ids: they are fields.

Run with the project's Python; writes into artwork. The article numbers lie in the range that the
numbering standard keeps for use inside a company, so they are nobody's.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from barcode.ean import EuropeanArticleNumber13

WIDTH, HEIGHT = 150.0, 92.0
INK, WINE, GOLD, LEAF, CREAM = "#2b2a26", "#7d2239", "#c9962f", "#5d7145", "#fbf6ea"
MODULE = 0.33
"""Width of the narrowest bar in mm, the standard's nominal size."""


def text(
    at: tuple[float, float], size: float, words: str, style: str, anchor: str = "middle", *, field: str = ""
) -> str:
    """A line of text; size in mm. `field` is the id by which it may be filled with another."""
    name = f'id="{field}" ' if field else ""
    return (
        f'<text {name}x="{at[0]:.2f}" y="{at[1]}" font-size="{size}" text-anchor="{anchor}" {style}>{words}'
        "</text>"
    )


def barcode(x: float, y: float, bar_height: float, number: str) -> str:
    """An EAN-13 with its quiet zones, upright, its left edge at x."""
    code = EuropeanArticleNumber13(number)
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
        f'<clipPath id="q{cx:.0f}"><path d="{outline}"/></clipPath><path d="{outline}" fill="#e2b13c"/>'
        f'<g clip-path="url(#q{cx:.0f})"><ellipse cx="{cx - r * 0.42}" cy="{cy - r * 0.05}" rx="{r * 0.34}" '
        f'ry="{r * 0.62}" fill="#f2d27a"/>{lines}</g>'
        f'<path d="M{cx} {cy - r * 1.08} q0.6 -2.4 -0.4 -3.8" stroke="#5b4426" stroke-width="0.9" '
        f'fill="none" stroke-linecap="round"/>{sepals}'
    )


def damson(cx: float, cy: float, r: float) -> str:
    """Two damsons on a stalk, with their bloom and a seam."""

    def one(x: float, y: float, turn: float, number: int) -> str:
        rx, ry = r * 0.66, r * 0.86
        lines = "".join(
            f'<path d="M{rx * (0.3 + 0.1 * k):.2f} {-ry * (0.82 - 0.07 * k):.2f} '
            f"Q{rx * (0.72 + 0.07 * k):.2f} 0 "
            f'{rx * (0.3 + 0.1 * k):.2f} {ry * (0.82 - 0.07 * k):.2f}" fill="none" stroke="#2a1430" '
            f'stroke-width="0.22"/>'
            for k in range(5)
        )
        return (
            f'<g transform="translate({x:.2f} {y:.2f}) rotate({turn})"><clipPath id="d{number}">'
            f'<ellipse rx="{rx:.2f}" ry="{ry:.2f}"/></clipPath>'
            f'<ellipse rx="{rx:.2f}" ry="{ry:.2f}" fill="#4b2a5e"/>'
            f'<g clip-path="url(#d{number})"><ellipse cx="{-rx * 0.36:.2f}" cy="{-ry * 0.1:.2f}" '
            f'rx="{rx * 0.36:.2f}" ry="{ry * 0.6:.2f}" fill="#8d76a8"/>{lines}</g></g>'
        )

    stalk = (
        f'<path d="M{cx} {cy - r * 1.3} Q{cx - r * 0.3} {cy - r} {cx - r * 0.52} {cy - r * 0.62} '
        f'M{cx} {cy - r * 1.3} Q{cx + r * 0.4} {cy - r * 0.8} {cx + r * 0.55} {cy - r * 0.4}" '
        f'stroke="#5b4426" stroke-width="0.7" fill="none" stroke-linecap="round"/>'
    )
    return stalk + one(cx - r * 0.56, cy + r * 0.16, 8, 1) + one(cx + r * 0.6, cy + r * 0.38, -10, 2)


def pear(cx: float, cy: float, r: float) -> str:
    """One pear, engraved with fine arcs."""
    outline = (
        f"M{cx} {cy - r * 1.26} C{cx + r * 0.3} {cy - r * 1.26} {cx + r * 0.36} {cy - r * 0.9} "
        f"{cx + r * 0.46} {cy - r * 0.5} C{cx + r * 0.62} {cy - r * 0.06} {cx + r * 0.98} {cy + r * 0.1} "
        f"{cx + r * 0.92} {cy + r * 0.52} C{cx + r * 0.84} {cy + r * 1.06} {cx - r * 0.84} {cy + r * 1.06} "
        f"{cx - r * 0.92} {cy + r * 0.52} C{cx - r * 0.98} {cy + r * 0.1} {cx - r * 0.62} {cy - r * 0.06} "
        f"{cx - r * 0.46} {cy - r * 0.5} C{cx - r * 0.36} {cy - r * 0.9} {cx - r * 0.3} {cy - r * 1.26} "
        f"{cx} {cy - r * 1.26}Z"
    )
    lines = "".join(
        f'<path d="M{cx + r * (0.1 + 0.07 * k):.2f} {cy - r * (1.1 - 0.14 * k):.2f} '
        f"C{cx + r * (0.3 + 0.08 * k):.2f} {cy - r * 0.3:.2f} {cx + r * (0.66 + 0.06 * k):.2f} "
        f'{cy + r * 0.3:.2f} {cx + r * (0.22 + 0.08 * k):.2f} {cy + r * 0.88:.2f}" '
        f'fill="none" stroke="#6d7a2c" stroke-width="0.22"/>'
        for k in range(6)
    )
    return (
        f'<clipPath id="p"><path d="{outline}"/></clipPath><path d="{outline}" fill="#b9c25a"/>'
        f'<g clip-path="url(#p)"><ellipse cx="{cx - r * 0.36}" cy="{cy + r * 0.3}" rx="{r * 0.3}" '
        f'ry="{r * 0.46}" fill="#dde29a"/>{lines}</g>'
        f'<path d="M{cx} {cy - r * 1.22} q0.5 -2 -0.5 -3.2" stroke="#5b4426" stroke-width="0.8" fill="none" '
        f'stroke-linecap="round"/>'
    )


@dataclass(frozen=True)
class Cordial:
    """What tells one cordial's label from another's."""

    name: str
    colour: str
    fruit: Callable[[float, float, float], str]
    number: str
    batch: int
    title: str
    story: tuple[str, ...]
    facts: tuple[str, ...]


CORDIALS = (
    Cordial(
        "Quince",
        WINE,
        quince,
        "201234567890",
        7,
        "From the south wall",
        (
            "Our quinces ripen on the south wall until",
            "the first frost, are pressed the day they are",
            "picked and rest six weeks with a little lemon.",
            "One part cordial, five parts cold water.",
            "Shake first. Keep cool once opened.",
        ),
        ("Quince juice 46 %, cane sugar,", "water, lemon juice.", "Velloway Orchard House", "Lower Combe"),
    ),
    Cordial(
        "Damson",
        "#43265a",
        damson,
        "201234567891",
        11,
        "From the old hedge",
        (
            "The damson hedge is older than the house.",
            "We shake it on the last dry day of September",
            "and stone every fruit by hand.",
            "One part cordial, six parts sparkling water.",
            "Shake first. Keep cool once opened.",
        ),
        ("Damson juice 51 %, cane sugar,", "water.", "Velloway Orchard House", "Lower Combe"),
    ),
    Cordial(
        "Pear",
        "#4d6032",
        pear,
        "201234567892",
        4,
        "From the long orchard",
        (
            "Hard little perry pears, too sharp to eat,",
            "turn sweet in the press. We leave them",
            "in the grass for a week to make up their mind.",
            "One part cordial, four parts cold water.",
            "Shake first. Keep cool once opened.",
        ),
        ("Pear juice 58 %, cane sugar,", "water, lemon juice.", "Velloway Orchard House", "Lower Combe"),
    ),
)
FRAUNCES = f'font-family="Fraunces" fill="{INK}"'
SANS = f'font-family="Instrument Sans" fill="{INK}"'


def page(width: float, height: float, *parts: str, ground: str | None = CREAM) -> str:
    """A label of a size in mm, on a ground of a colour or on nothing."""
    return "\n".join(
        [
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm" '
            f'viewBox="0 0 {width} {height}">',
            *([f'<rect width="{width}" height="{height}" fill="{ground}"/>'] if ground else []),
            *parts,
            "</svg>",
            "",
        ]
    )


def cordial_label(one: Cordial) -> str:
    """What is printed of a cordial's label: front in the middle, story on the left, facts and barcode on the
    right."""
    m = WIDTH / 2
    return page(
        WIDTH,
        HEIGHT,
        f'<rect y="0" width="{WIDTH}" height="3.2" fill="{one.colour}"/>',
        f'<rect y="{HEIGHT - 3.2}" width="{WIDTH}" height="3.2" fill="{one.colour}"/>',
        text((m, 15.2), 9.2, "Velloway", f'{FRAUNCES} font-weight="600"'),
        text((m, 20.2), 2.7, "ORCHARD HOUSE", f'{SANS} letter-spacing="1.1"'),
        leaf(m + 0.2, 32.2, 11, -24),
        leaf(m - 0.6, 32.6, 9.5, 205),
        one.fruit(m, 44.8, 11),
        text((m, 68.4), 8.0, one.name, f'font-family="Fraunces" font-weight="700" fill="{one.colour}"'),
        text((m, 74.4), 4.6, "Cordial", f'{FRAUNCES} font-style="normal"'),
        text(
            (m, 80.2),
            2.3,
            f"PRESSED ON THE FARM · NO. {one.batch}",
            f'{SANS} letter-spacing="0.45"',
            field="batch",
        ),
        text((m, 85.2), 3.0, "500 ml", f'{SANS} font-weight="600"', field="size"),
        text((6, 20), 3.6, one.title, f'{FRAUNCES} font-weight="600"', "start"),
        *(text((6, 26.5 + 4.0 * i), 2.05, line, SANS, "start") for i, line in enumerate(one.story)),
        *(text((112, 20 + 4.0 * i), 2.05, line, SANS, "start") for i, line in enumerate(one.facts)),
        barcode(109, 44, 22, one.number),
        ground=None,
    )


def ray(cx: float, cy: float, angle: float, reach: float) -> str:
    """A ray around a place, from 14.4 mm outwards."""
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    return (
        f'<path d="M{cx + 14.4 * c:.2f} {cy + 14.4 * s:.2f} L{cx + reach * c:.2f} {cy + reach * s:.2f}" '
        f'stroke="{GOLD}" stroke-width="0.5" stroke-linecap="round"/>'
    )


def cordial_foil() -> str:
    """What is foil on every cordial's label: rays around the fruit, a rule and the edges' lines."""
    m = WIDTH / 2
    return page(
        WIDTH,
        HEIGHT,
        f'<rect y="4.1" width="{WIDTH}" height="0.5" fill="{GOLD}"/>',
        f'<rect y="{HEIGHT - 4.6}" width="{WIDTH}" height="0.5" fill="{GOLD}"/>',
        *(ray(m, 44.2, 7.5 * k, 16.4 if k % 2 else 17.8) for k in range(48) if abs(7.5 * k - 270) > 40),
        f'<path d="M{m - 21} 23.6 H{m + 21}" stroke="{GOLD}" stroke-width="0.4"/>',
        ground=None,
    )


def cordial_relief(one: Cordial) -> str:
    """What is raised and varnished on a cordial's label: its fruit."""
    m = WIDTH / 2
    return page(WIDTH, HEIGHT, one.fruit(m, 44.8, 11), ground=None)


DROPS = 59.4, 34.65


def drops_label() -> str:
    """Blossom drops, 30 ml, screen printed on the glass: quiet, with a sprig."""
    w, h = DROPS
    m = w / 2
    cream = f'fill="{CREAM}"'
    return page(
        w,
        h,
        text(
            (m, 10.1), 1.35, "ORCHARD HOUSE", f'font-family="Instrument Sans" {cream} letter-spacing="0.55"'
        ),
        *(leaf(m + at, y, long, turn).replace(LEAF, CREAM) for at, y, long, turn in SPRIG),
        text((m, 20.8), 3.5, "Blossom", f'font-family="Fraunces" font-weight="700" {cream}'),
        text((m, 24.6), 3.0, "drops", f'font-family="Fraunces" {cream}'),
        text((m, 28.2), 1.45, "PEAR SEED OIL", f'font-family="Instrument Sans" {cream} letter-spacing="0.3"'),
        text(
            (m, 31.6),
            1.7,
            "30 ml",
            f'font-family="Instrument Sans" font-weight="600" {cream}',
            field="size",
        ),
        ground=None,
    )


SPRIG = ((0.2, 14.6, 5.2, -16), (-0.2, 14.6, 5.2, 196), (0.0, 14.9, 3.6, -90))


def drops_gold() -> str:
    """What is gold on the drops: the name and two lines."""
    w, h = DROPS
    m = w / 2
    return page(
        w,
        h,
        f'<rect x="{m - 20}" width="40" height="0.7" fill="{GOLD}"/>',
        f'<rect x="{m - 20}" y="{h - 0.7}" width="40" height="0.7" fill="{GOLD}"/>',
        text((m, 7.4), 4.6, "Velloway", f'font-family="Fraunces" font-weight="700" fill="{GOLD}"'),
        ground=None,
    )


BALM = 89.6, 17.4


def balm_label() -> str:
    """What is printed in wine on quince balm, 50 ml: a band all around."""
    w, h = BALM
    m = w / 2
    return page(
        w,
        h,
        f'<rect width="{w}" height="0.9" fill="{WINE}"/>',
        f'<rect y="{h - 0.9}" width="{w}" height="0.9" fill="{WINE}"/>',
        text((m, 10.6), 3.3, "Quince balm", f'font-family="Fraunces" font-weight="700" fill="{WINE}"'),
        text((m, 13.6), 1.4, "FOR WORKING HANDS · 50 ml", f'{SANS} letter-spacing="0.3"'),
        text((5, 6.2), 1.5, "Quince seed, beeswax, rapeseed oil.", SANS, "start"),
        text((5, 9.0), 1.5, "A little goes a long way.", SANS, "start"),
        text((w - 5, 6.2), 1.5, "Velloway Orchard House", SANS, "end"),
        text((w - 5, 9.0), 1.5, "Lower Combe", SANS, "end"),
        ground=None,
    )


def balm_white() -> str:
    """What is printed in white on its brown paper: the name and two leaves."""
    w, h = BALM
    m = w / 2
    return page(
        w,
        h,
        text((m, 6.2), 4.2, "Velloway", 'font-family="Fraunces" font-weight="700" fill="#ffffff"'),
        *(leaf(m + way * 17.2, 8.8, 6.4, turn).replace(LEAF, "#ffffff") for way, turn in ((-1, 180), (1, 0))),
        ground=None,
    )


def balm_lid() -> str:
    """The mark on the balm's lid."""
    side = 26.0
    m = side / 2
    return page(
        side,
        side,
        f'<circle cx="{m}" cy="{m}" r="12.4" fill="none" stroke="{WINE}" stroke-width="0.35"/>',
        leaf(m + 0.2, 8.2, 5.6, -24).replace(LEAF, WINE),
        leaf(m - 0.3, 8.4, 4.8, 205).replace(LEAF, WINE),
        text((m, 15.6), 4.4, "Velloway", f'font-family="Fraunces" font-weight="600" fill="{WINE}"'),
        text(
            (m, 18.6),
            1.3,
            "ORCHARD HOUSE",
            f'font-family="Instrument Sans" fill="{WINE}" letter-spacing="0.5"',
        ),
        ground=None,
    )


def wash_label() -> str:
    """Pear and bay hand wash, 300 ml, on clear film: upright, with a border."""
    w, h = 43.5, 70.4
    m = w / 2
    cream = f'fill="{CREAM}"'
    return page(
        w,
        h,
        f'<rect x="1.6" y="1.6" width="{w - 3.2}" height="{h - 3.2}" rx="3" fill="none" stroke="{CREAM}" '
        'stroke-width="0.45"/>',
        text((m, 13.4), 7.2, "Velloway", f'font-family="Fraunces" font-weight="600" {cream}'),
        text((m, 17.2), 2.0, "ORCHARD HOUSE", f'font-family="Instrument Sans" {cream} letter-spacing="0.8"'),
        leaf(m + 0.1, 27.6, 9.6, -20).replace(LEAF, "#a9c07f"),
        leaf(m - 0.5, 27.9, 8.4, 203).replace(LEAF, "#a9c07f"),
        pear(m, 37.4, 8.4),
        text((m, 54.2), 4.9, "Hand wash", f'font-family="Fraunces" font-weight="700" {cream}'),
        text((m, 58.8), 2.9, "pear and bay", f'font-family="Fraunces" {cream}'),
        text(
            (m, 65.4), 2.2, "300 ml", f'font-family="Instrument Sans" font-weight="600" {cream}', field="size"
        ),
        ground=None,
    )


def wash_leaves() -> str:
    """Bay leaves for the back of the hand wash, seen through it."""
    w, h = 24.0, 26.0
    places = (
        (12, 13, 11, -62),
        (12, 13, 10, 118),
        (2, 24, 8, -30),
        (20, 3, 8, 150),
        (3, 6, 6, 40),
        (19, 22, 6, 220),
    )
    return page(w, h, *(leaf(*at).replace(CREAM, "#8fae6a") for at in places), ground=None)


def labels() -> dict[str, str]:
    """Every drawing by its file's name."""
    return {
        **{f"{one.name.lower()}-cordial-label.svg": cordial_label(one) for one in CORDIALS},
        **{f"{one.name.lower()}-relief.svg": cordial_relief(one) for one in CORDIALS},
        "cordial-foil.svg": cordial_foil(),
        "blossom-drops-label.svg": drops_label(),
        "blossom-drops-gold.svg": drops_gold(),
        "quince-balm-label.svg": balm_label(),
        "quince-balm-white.svg": balm_white(),
        "balm-lid.svg": balm_lid(),
        "hand-wash-label.svg": wash_label(),
        "bay-leaves.svg": wash_leaves(),
    }


if __name__ == "__main__":
    for name, drawn in labels().items():
        (Path(__file__).parent / "artwork" / name).write_text(drawn)
