"""The styles: from the size of the inside to the blanks of a carton."""

from __future__ import annotations

from collections.abc import Mapping

from giftwrap.core.carton import trays, tubes
from giftwrap.core.carton.allowances import Allowances
from giftwrap.core.carton.component import Component, Style
from giftwrap.core.carton.insert import insert_of
from giftwrap.core.carton.own import own_blank
from giftwrap.core.errors import PackError
from giftwrap.core.model.carton import Carton

STYLES: Mapping[str, Style] = {
    "straight-tuck": Style("Straight tuck end", tubes.straight_tuck),
    "reverse-tuck": Style("Reverse tuck end", tubes.reverse_tuck),
    "sleeve": Style("Sleeve", tubes.sleeve),
    "slotted-case": Style("Regular slotted case", tubes.slotted_case),
    "tray": Style("Tray", trays.tray),
    "lid-and-base": Style("Lid and base", trays.lid_and_base),
    "hanging-card": Style("Hanging carton", tubes.hanging_card),
    "shoulder": Style("Shoulder box", trays.shoulder),
    "drawer": Style("Drawer box", trays.drawer),
    "book": Style("Book box", trays.book),
    "mailer": Style("Roll-end mailer", trays.mailer),
}


def components_of(carton: Carton) -> tuple[tuple[Component, ...], Mapping[str, float]]:
    """The blanks of a carton, and the allowances they are drawn with.

    Raises PackError when they cannot be drawn or folded, naming the field.
    """
    if carton.own is not None:
        return (Component("carton", own_blank(carton.own)),), {}
    t = carton.board.caliper
    for name in ("length", "width", "depth"):
        if getattr(carton, name) < 6 * t:
            raise PackError(
                f"Board of {t:g} mm cannot be folded to {getattr(carton, name):g} mm: take thinner board, or "
                f"at least {6 * t:g} mm.",
                name,
            )
    allow = Allowances(carton)
    components = STYLES[carton.style].draw(carton, allow)
    if carton.insert is not None:
        last = [component for component in components if component.comes == "over"]
        insert = insert_of(carton, carton.insert, allow)
        components = (*(c for c in components if c not in last), insert, *last)
    return components, allow.used
