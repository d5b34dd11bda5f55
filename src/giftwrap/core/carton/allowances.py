"""Allowances: what a style adds to and takes from the plain sizes so that board of a caliper folds and shuts.

Which there are and how they work is common practice; their sizes are sound ones for what is usual, and
every one can be set by hand.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from giftwrap.core.errors import PackError
from giftwrap.core.model.carton import Carton

GAP = 0.05
"""Mm between boards that lie on each other: glue, or air."""


@dataclass(frozen=True)
class Allowance:
    """One of them.

    words : what it is, as the page says it
    usual : mm for a carton, where nobody has set it
    least, most : mm it may have for a carton
    """

    words: str
    usual: Callable[[Carton], float]
    least: Callable[[Carton], float] = lambda carton: 0.0
    most: Callable[[Carton], float] = lambda carton: 0.5 * max(carton.length, carton.width, carton.depth)


def _t(carton: Carton) -> float:
    return carton.board.caliper


ALLOWANCES: Mapping[str, Allowance] = {
    "glue flap": Allowance(
        "how wide the glue flap is",
        lambda c: min(max(12.0, 6 * _t(c)), 0.8 * c.width),
        lambda c: max(3.0, 2 * _t(c)),
    ),
    "glue flap slope": Allowance("how far its ends slope in", lambda c: min(6.0, 0.15 * c.depth)),
    "tuck": Allowance(
        "how far the tuck reaches down",
        lambda c: min(max(12.0, 0.35 * c.width), 22.0, 0.4 * c.depth),
        lambda c: 3 * _t(c),
        lambda c: 0.48 * c.depth,
    ),
    "tuck clearance": Allowance("air between the tuck and the panel before it", lambda c: 0.1 + 0.25 * _t(c)),
    "tuck narrower": Allowance("how much narrower the tuck is at either side", lambda c: 0.3 + 1.5 * _t(c)),
    "tuck rounding": Allowance("how much the tuck's corners are rounded", lambda c: 8.0),
    "lid narrower": Allowance("how much narrower the lid is at either side", lambda c: 0.2 + 0.5 * _t(c)),
    "dust flap": Allowance(
        "how far the dust flaps reach in",
        lambda c: min(0.45 * c.length, max(0.6 * c.width, 12.0)),
        lambda c: 3 * _t(c),
        lambda c: 0.5 * c.length - 0.5,
    ),
    "dust flap slope": Allowance("how far their free edge is narrower", lambda c: 0.12 * c.width),
    "slot": Allowance(
        "how wide the slots between flaps are", lambda c: max(3.0, 1.5 + 2 * _t(c)), lambda c: _t(c) + 0.5
    ),
    "flap gap": Allowance("air between flaps that meet in the middle", lambda c: 1.0),
    "bottom flap": Allowance(
        "how far the bottom's side flaps reach in",
        lambda c: min(0.45 * c.width, 0.3 * c.length),
        lambda c: 4 * _t(c),
        lambda c: 0.4 * c.length,
    ),
    "gable height": Allowance(
        "how high the ridge is above the sides",
        lambda c: 0.55 * c.width,
        lambda c: 0.3 * c.width,
        lambda c: 1.5 * c.width,
    ),
    "handle": Allowance(
        "how high the handle is above the ridge",
        lambda c: min(max(0.35 * c.length, 12.0), 45.0),
        lambda c: 8.0,
        lambda c: 120.0,
    ),
    "corner flap": Allowance(
        "how long the flaps in the corners are",
        lambda c: min(0.9 * c.depth, 0.4 * c.width, 30.0),
        lambda c: 4 * _t(c),
    ),
    "lid larger": Allowance("air between lid and base at either side", lambda c: 0.3 + 0.3 * _t(c)),
    "hanging tab": Allowance(
        "how high the tab is that it hangs by", lambda c: 32.0, lambda c: 24.0, lambda c: 200.0
    ),
    "turn-in": Allowance(
        "how far covering paper is turned in",
        lambda c: min(15.0, 0.4 * c.depth),
        lambda c: 3.0,
        lambda c: 40.0,
    ),
    "insert smaller": Allowance("air between an insert and the carton", lambda c: 0.3 + 0.2 * _t(c)),
    "shoulder": Allowance("how much of the neck shows", lambda c: 2.0, most=lambda c: 0.4 * c.depth),
    "cover larger": Allowance("how far the cover stands out at either side", lambda c: 2.0),
    "cover flap": Allowance("how far the flap reaches down", lambda c: 0.6 * c.depth, lambda c: 4 * _t(c)),
    "lid depth": Allowance(
        "how far the lid reaches down",
        lambda c: 0.45 * c.depth,
        lambda c: 4 * _t(c),
        lambda c: c.depth,
    ),
}


class Allowances:
    """Those of one carton, the ones set by hand among them. `used` collects what its style asks for."""

    def __init__(self, carton: Carton) -> None:
        self._carton = carton
        self.used: dict[str, float] = {}

    def __call__(self, name: str) -> float:
        """Mm of one. Raises PackError when it was set to less or more than there is board for."""
        rule, given = ALLOWANCES[name], self._carton.allowances.get(name)
        value = rule.usual(self._carton) if given is None else given
        least, most = rule.least(self._carton), rule.most(self._carton)
        if given is not None and not least <= given <= most:
            raise PackError(
                f"“{name}” ({rule.words}) of {given:g} mm cannot be folded here: from {least:.1f} to "
                f"{most:.1f} mm.",
                f"allowances.{name}",
            )
        self.used[name] = value
        return value
