"""Bottoms that lock by themselves when a carton that was glued flat is pushed open."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from shapely import Polygon

from giftwrap.core.carton.allowances import GAP, Allowances
from giftwrap.core.carton.blank import Draft, rounded
from giftwrap.core.carton.component import Component, grain_of
from giftwrap.core.carton.tubes import Tube, glued_tube, tuck_end
from giftwrap.core.errors import PackError
from giftwrap.core.model.carton import Carton

BENT = 8.0
"""Degrees by which the hooks of a locking bottom are bent to lie over each other."""


def crash_lock(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """A tuck lid on a bottom that is glued flat and locks when the carton is pushed open."""
    t, depth = carton.board.caliper, carton.depth
    outer, dust = depth + 1.5 * t + GAP, depth + t / 2
    tops = {"front": outer, "right": dust, "back": outer, "left": dust}
    draft = Draft(grain_of(carton))
    tube = glued_tube(draft, (carton.length, carton.width, depth), t, ends_on(carton, tops), allow)
    locking_bottom(draft, carton, tube, allow)
    tuck_end(draft, carton, tube, allow, of="back", top=True, step=4)
    return (Component("carton", draft.blank()),)


def ends_on(carton: Carton, tops: Mapping[str, float]) -> dict[str, tuple[float, float]]:
    """Where the panels of a tube begin that stands on a locking bottom, and end."""
    t = carton.board.caliper
    feet = {"front": -1.5 * t - GAP, "right": -t / 2, "back": -1.5 * t - GAP, "left": -t / 2}
    return {name: (feet[name], top) for name, top in tops.items()}


def locking_bottom(draft: Draft, carton: Carton, tube: Tube, allow: Allowances) -> None:
    """Four flaps: those of front and back are glued, by a corner that a slanting crease lets free, to the
    one beside them, and hook into each other in the middle.

    Glued flat the corners are folded back on themselves; pushed open they lie even again.
    """
    t = carton.board.caliper
    wide = carton.length + t  # from crease to crease
    half = (carton.width + t - allow("flap gap")) / 2
    inward = min(allow("bottom flap"), 0.5 * wide - 4 * t - 4)
    sloping = 0.12 * carton.width
    for name in ("right", "left"):
        left, right = tube.sides[name]
        crease, near = -t / 2, t / 2 + 0.3
        # the flap beside it that it is glued to lies before it on the blank: right by front, left by back
        low, high = left + near, min(right, left + carton.width + t) - near
        outline = [
            (low, crease),
            (high, crease),
            (high - sloping, crease - inward),
            (low, crease - inward),
        ]
        draft.panel(f"bottom flap {name}", Polygon(outline), role="flap")
        draft.hang(f"bottom flap {name}", name, (low, crease), (high, crease), step=1)
    rise = t + GAP + 0.05
    run = rise / np.sin(np.radians(BENT))
    clear = inward + 1.5 * t + 1.0
    for name in ("front", "back"):
        left, right = tube.sides[name]
        right -= (t + GAP) if name == "back" else 0.0
        left += t + GAP if name == "front" else 0.0
        crease, far = -1.5 * t - GAP, -1.5 * t - GAP - half
        flap, corner, hook = f"bottom flap {name}", f"bottom corner {name}", f"bottom hook {name}"
        near = 0.4
        low, high, middle = left + near, right - near, (left + right) / 2
        reach = min(half - t, high - middle - 1.0)
        first, last = left + clear, middle - 0.5
        if last - first < 3 * t + 2 or half - run < 4 * t:
            raise PackError(
                "The bottom's hooks have no room: make the carton longer, the board thinner, or the bottom "
                "flaps shorter.",
                "length",
            )
        root = far + run
        body = [
            (low, crease),
            (high, crease),
            (high, crease - t),
            (high - reach, crease - t - reach),
            *([(high - reach, far)] if reach < half - t else []),
            (middle, far),
            (middle, root),
            (first - run / 2, root),
            (low + sloping / 2, root),
        ]
        draft.panel(flap, Polygon(body), role="flap")
        draft.hang(flap, name, (low, crease), (high, crease), step=2)
        slant = (high, crease - t), (high - reach, crease - t - reach)
        glued = Polygon([*slant, (high, crease - t - 0.92 * reach)])
        draft.panel(corner, glued, role="glue flap")
        draft.hang(corner, flap, *slant, angle=0.0, step=2)
        draft.glue(corner, min(1.5, reach / 6))
        tip, broad = root - run - max(0.35 * half, 3.0), last - first
        ends = (last - 0.05 * broad, tip), (first + 0.3 * broad, tip)
        shape = rounded(Polygon([(first, root), (last, root), *ends]), dict.fromkeys(ends, 0.2 * broad))
        draft.panel(hook, shape, role="tuck")
        draft.hang(hook, flap, (first, root), (last, root), angle=BENT, step=3)
