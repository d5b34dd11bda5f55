"""Closures: what shuts a pack, each sized from the finish or rim it sits on."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from giftwrap.core.form.closures.caps import build_cap, build_flip_top, build_overcap, build_tin_lid
from giftwrap.core.form.closures.plugs import build_dropper, build_pump, build_stopper
from giftwrap.core.form.closures.seat import Built, Seat, Solid, Tube, seat_of
from giftwrap.core.form.formed import FormedBody
from giftwrap.core.model import Closure

__all__ = ["Built", "Seat", "Solid", "Tube", "build_closure"]

_BUILDERS: dict[str, Callable[[Any, Seat], Built]] = {
    "cap": build_cap,
    "overcap": build_overcap,
    "dropper": build_dropper,
    "pump": build_pump,
    "stopper": build_stopper,
    "flip_top": build_flip_top,
    "tin_lid": build_tin_lid,
}


def build_closure(closure: Closure, formed: FormedBody, *, coarse: bool = False) -> Built:
    """Build a closure in its seat.

    Raises PackError, naming the field, when it does not fit the body.
    """
    return _BUILDERS[closure.kind](closure, seat_of(formed, coarse=coarse))
