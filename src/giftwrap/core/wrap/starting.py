"""A label to begin with."""

from __future__ import annotations

from collections.abc import Sequence

from giftwrap.core.form.formed import FormedBody
from giftwrap.core.model import WrapPanel
from giftwrap.core.wrap.panel import Sheet, lay_panel

FROM_BASE, HEIGHT, WIDTH = 0.12, 0.35, 1.5
"""Of the first label on a pack: shares of its height up to the rim, and of its width."""
PLACES = ((0.0, 1.0), (180.0, 1.0), (180.0, 0.25), (90.0, 0.18), (-90.0, 0.18))
"""Where one may lie: degrees from the front, and how wide at most, as a share of the way around."""
SEAL = 0.4
"""Of a label that has to lie on another one: how large beside the first."""


def starting_panel(formed: FormedBody, there: Sequence[Sheet] = ()) -> WrapPanel:
    """A new label: on the front, where most is free, or, on a pack labelled all around, a small one on top.

    there : the labels that lie on the body already
    """
    rim, width = formed.rim_height, 2 * float(formed.outer.points[:, 0].max())
    first = WrapPanel(
        from_base=float(round(rim * FROM_BASE)),
        width=_mm(width * WIDTH),
        height=_mm(rim * HEIGHT),
        developed=True,
    )
    around = lay_panel(first, formed).around
    for angle, share in PLACES:
        broad = min(first.width, _mm(around * share))
        panel = first.model_copy(update={"centre_angle": angle, "width": broad})
        sheet = lay_panel(panel, formed)
        if not any(sheet.covers(other) for other in there):
            return panel
    return first.model_copy(update={"width": _mm(first.width * SEAL), "height": _mm(first.height * SEAL)})


def _mm(length: float) -> float:
    return float(max(round(length), 1))
