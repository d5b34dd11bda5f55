"""A label to begin with."""

from __future__ import annotations

from giftwrap.core.form.formed import FormedBody
from giftwrap.core.model import Panel

FROM_BASE, HEIGHT, WIDTH = 0.12, 0.35, 1.5
"""Of a label on a pack that has none: shares of its height up to the rim, and of its width."""


def starting_panel(formed: FormedBody) -> Panel:
    """A label on the front of a body, where it fits most."""
    rim, width = formed.rim_height, 2 * float(formed.outer.points[:, 0].max())
    return Panel(
        from_base=float(round(rim * FROM_BASE)),
        width=float(max(round(width * WIDTH), 1)),
        height=float(max(round(rim * HEIGHT), 1)),
    )
