"""The styles: from the size of the inside to the blanks of a carton."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

from giftwrap.core.carton import gable, locking, pillow, trays, tubes
from giftwrap.core.carton.allowances import Allowances
from giftwrap.core.carton.areas import finished
from giftwrap.core.carton.component import Component, grain_of
from giftwrap.core.carton.insert import insert_of
from giftwrap.core.carton.own import own_component
from giftwrap.core.carton.papers import paper_of
from giftwrap.core.errors import PackError
from giftwrap.core.model.carton import Carton

STYLES: Mapping[str, Callable[[Carton, Allowances], tuple[Component, ...]]] = {
    "straight-tuck": tubes.straight_tuck,
    "reverse-tuck": tubes.reverse_tuck,
    "crash-lock": locking.crash_lock,
    "sleeve": tubes.sleeve,
    "slotted-case": tubes.slotted_case,
    "tray": trays.tray,
    "lid-and-base": trays.lid_and_base,
    "hanging-card": tubes.hanging_card,
    "shoulder": trays.shoulder,
    "drawer": trays.drawer,
    "book": trays.book,
    "mailer": trays.mailer,
    "gable": gable.gable,
    "pillow": pillow.pillow,
}


def components_of(carton: Carton) -> tuple[tuple[Component, ...], Mapping[str, float]]:
    """The blanks of a carton, and the allowances they are drawn with.

    Raises PackError when they cannot be drawn or folded, naming the field.
    """
    if carton.own is not None:
        return finished((own_component(carton.own, grain_of(carton)),), carton), {}
    t = carton.board.caliper
    for name in ("length", "width", "depth"):
        if getattr(carton, name) < 6 * t:
            raise PackError(
                f"Board of {t:g} mm cannot be folded to {getattr(carton, name):g} mm: take thinner board, or "
                f"at least {6 * t:g} mm.",
                name,
            )
    allow = Allowances(carton)
    components = STYLES[carton.style](carton, allow)
    if carton.insert is not None:
        last = [component for component in components if component.comes == "over"]
        insert = insert_of(carton, carton.insert, allow)
        components = (*(c for c in components if c not in last), insert, *last)
    if carton.board.wrapped:
        components = tuple(
            component
            if component.bending or component.name == "insert"
            else replace(component, paper=paper_of(component, t, allow))
            for component in components
        )
    return finished(components, carton), allow.used
