"""Draws what the demo's cartons are printed with.

Run with the project's Python; writes into artwork.
"""

from __future__ import annotations

from pathlib import Path

from draw_labels import CREAM, GOLD, LEAF, WINE, leaf, page, quince, text

SOAP_BLANK = (233.76, 138.85)
"""Of the soap carton's blank, mm; where its walls begin and end across and up follows."""
SOAP_WALLS = {
    "front": (12.0, 94.38),
    "right": (94.38, 122.76),
    "back": (122.76, 205.57),
    "left": (205.57, 233.76),
}
SOAP_FOOT, SOAP_TOP = 40.2, 98.6


def soap_blank() -> str:
    """The soap carton, printed whole: a front twice, a story on one side, facts on the other."""
    w, h = SOAP_BLANK

    def y(up: float) -> float:
        return round(h - up, 3)

    def front(name: str) -> list[str]:
        left, right = SOAP_WALLS[name]
        m = left + 27
        bold = f'font-family="Fraunces" font-weight="700" fill="{CREAM}"'
        return [
            text(
                (m, y(73)),
                2.5,
                "ORCHARD HOUSE",
                f'font-family="Instrument Sans" fill="{CREAM}" letter-spacing="1"',
            ),
            text((m, y(61.5)), 6.2, "Quince soap", bold),
            text(
                (m, y(55.5)),
                2.4,
                "COLD-PRESSED · 100 g",
                f'font-family="Instrument Sans" fill="{CREAM}" letter-spacing="0.4"',
            ),
            f'<circle cx="{right - 19}" cy="{y(70)}" r="15.6" fill="{CREAM}"/>',
            leaf(right - 18.8, y(80.4), 7.6, -24),
            leaf(right - 19.4, y(80.2), 6.6, 205),
            quince(right - 19, y(68.6), 8.6),
        ]

    def middle(name: str) -> float:
        return sum(SOAP_WALLS[name]) / 2

    cream = f'font-family="Instrument Sans" fill="{CREAM}"'
    story = ("Cut by hand from a", "slab that rests for", "six weeks beside", "the quince loft.")
    facts = ("Rapeseed oil, quince", "seed oil, water, lye.", "Velloway Orchard", "House, Lower Combe")
    return page(
        w,
        h,
        *front("front"),
        *front("back"),
        *(text((middle("right"), y(84 - 4.2 * i)), 2.3, line, cream) for i, line in enumerate(story)),
        leaf(middle("right") - 5, y(60), 10, 0),
        *(text((middle("left"), y(84 - 4.2 * i)), 2.1, line, cream) for i, line in enumerate(facts)),
        ground=WINE,
    )


def _up(up: float) -> float:
    return round(SOAP_BLANK[1] - up, 3)


def soap_foil() -> str:
    """What is stamped in gold on the soap carton."""
    w, h = SOAP_BLANK
    gold = f'font-family="Fraunces" font-weight="700" fill="{GOLD}"'
    fronts = []
    for name in ("front", "back"):
        m = SOAP_WALLS[name][0] + 27
        fronts += [
            text((m, _up(78)), 9.6, "Velloway", gold),
            f'<path d="M{m - 20} {_up(69.5)} H{m + 20}" stroke="{GOLD}" stroke-width="0.45"/>',
        ]
    left, right = SOAP_WALLS["back"]
    return page(
        w,
        h,
        f'<rect y="{_up(SOAP_FOOT + 6.4)}" width="{w}" height="0.5" fill="{GOLD}"/>',
        f'<rect y="{_up(SOAP_TOP - 4)}" width="{w}" height="0.5" fill="{GOLD}"/>',
        *fronts,
        text(((left + right) / 2 - 1, _up(111)), 5.2, "Velloway", gold),
        ground=None,
    )


def soap_gloss() -> str:
    """What is varnished on the soap carton: its quinces."""
    w, h = SOAP_BLANK
    fruits = (quince(SOAP_WALLS[name][1] - 19, _up(68.6), 8.6) for name in ("front", "back"))
    return page(w, h, *fruits, ground=None)


def lid_mark() -> str:
    """The house's mark for the lid of the gift box, alone in gold."""
    w, h = 90.0, 40.0
    m = w / 2
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w}mm" height="{h}mm" viewBox="0 0 {w} {h}">'
        + leaf(m + 0.2, 9.6, 8, -24).replace(LEAF, GOLD)
        + leaf(m - 0.4, 9.8, 7, 205).replace(LEAF, GOLD)
        + text((m, 27), 13, "Velloway", f'font-family="Fraunces" font-weight="600" fill="{GOLD}"')
        + text(
            (m, 35), 3.4, "ORCHARD HOUSE", f'font-family="Instrument Sans" fill="{GOLD}" letter-spacing="1.6"'
        )
        + "</svg>\n"
    )


if __name__ == "__main__":
    drawings = {
        "soap-carton.svg": soap_blank(),
        "soap-foil.svg": soap_foil(),
        "soap-gloss.svg": soap_gloss(),
        "gift-box-mark.svg": lid_mark(),
    }
    for name, drawn in drawings.items():
        (Path(__file__).parent / "artwork" / name).write_text(drawn)
