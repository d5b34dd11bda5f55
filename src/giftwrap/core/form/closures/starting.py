"""A closure to begin with: sized to the finish or rim it will sit on."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from giftwrap.core.form.closures.seat import Seat, seat_of
from giftwrap.core.form.formed import form_body
from giftwrap.core.model import Body, Cap, Closure, Dropper, FlipTop, Overcap, Pump, Stopper, TinLid
from giftwrap.core.model.closure import ClosureKind

PLATE = 1.6
RIB_SPACING = 2.0
"""Distance between the ribs of a screw cap in mm (common practice)."""


def starting_closure(kind: ClosureKind, body: Body) -> Closure:
    """A closure of a kind for a body. Raises PackError when the body cannot be formed."""
    seat = seat_of(form_body(body, coarse=True))
    return _SIZES[kind](seat)


def _cap(seat: Seat) -> Closure:
    return Cap(height=round(_skirt(seat) + PLATE, 1), ribs=_ribs(seat))


def _dropper(seat: Seat) -> Closure:
    bulb = round(min(1.24 * seat.thread_radius, 16.0), 1)
    return Dropper(
        collar_height=round(_skirt(seat) + 1.5, 1),
        ribs=_ribs(seat),
        bulb_diameter=bulb,
        bulb_height=round(2.2 * bulb, 1),
        pipette_diameter=max(round(min(1.5 * seat.bore - 1.0, 7.0), 1), 2.0),
    )


def _pump(seat: Seat) -> Closure:
    head = round(min(1.6 * seat.thread_radius, 26.0), 1)
    return Pump(
        collar_height=round(_skirt(seat) + 1.5, 1),
        actuator_diameter=head,
        actuator_height=round(0.7 * head, 1),
        tube_diameter=round(min(1.2 * seat.bore - 0.7, 5.0), 1),
    )


def _flip_top(seat: Seat) -> Closure:
    lid = round(max(0.7 * seat.thread_radius, 7.0), 1)
    return FlipTop(height=round(max(_skirt(seat) + PLATE, 5.2) + lid, 1), lid_height=lid)


_SIZES: dict[ClosureKind, Callable[[Seat], Closure]] = {
    "cap": _cap,
    "overcap": lambda seat: Overcap(),
    "dropper": _dropper,
    "pump": _pump,
    "stopper": lambda seat: Stopper(depth=round(min(18.0, 0.7 * _straight(seat)), 1)),
    "flip_top": _flip_top,
    "tin_lid": lambda seat: TinLid(height=round(min(14.0, 0.3 * seat.rim), 1)),
}


def _ribs(seat: Seat) -> int:
    return int(np.clip(2 * np.pi * (seat.thread_radius + 2) / RIB_SPACING, 24, 160))


def _skirt(seat: Seat) -> float:
    """How far down a screw skirt can reach, mm: over the thread, but clear of the shoulder."""
    finish = seat.formed.body.finish
    wanted = finish.height + 1.0 if finish else 14.0
    room = seat.rim - seat.obstacle(seat.thread_radius + 0.4)
    return max(min(wanted, room - 0.5), 1.5)


def _straight(seat: Seat) -> float:
    """How far down from the rim the bore stays nearly as narrow, mm."""
    line = seat.formed.inside_line()
    wide = line[line[:, 0] > 1.15 * seat.bore]
    below = wide[wide[:, 1] < seat.rim]
    return seat.rim - (float(below[:, 1].max()) if len(below) else float(line[0, 1]))
