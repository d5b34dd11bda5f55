"""Common continuous-thread finishes.

Diameters and heights follow the voluntary finish drawings of the glass and plastics container trade
(GPI and SPI/ISBT "400", "410" and "415" styles), middle of their tolerances, from memory, rounded
to 0.1 mm. Pitch is 25.4 mm over the threads per inch of each size; a 400 finish has about one turn of
thread, a 410 one and a half, a 415 two. Everything can be changed in the pack.
"""

from __future__ import annotations

from giftwrap.core.model import Finish

_INCH = 25.4

_TABLE: tuple[tuple[str, float, float, float, float, float, float], ...] = (
    # name, T thread, E neck, I bore, H height, threads per inch, turns
    ("13-415", 12.9, 11.3, 6.0, 11.4, 12, 2.0),
    ("15-415", 14.5, 12.6, 6.5, 14.0, 12, 2.0),
    ("18-400", 17.7, 15.6, 8.3, 9.3, 8, 1.0),
    ("18-415", 17.7, 15.6, 8.3, 15.6, 8, 2.0),
    ("20-400", 19.7, 17.6, 9.0, 9.3, 8, 1.0),
    ("20-410", 19.7, 17.6, 9.0, 14.0, 8, 1.5),
    ("22-400", 21.7, 19.6, 10.0, 9.3, 8, 1.0),
    ("24-400", 23.7, 21.5, 13.1, 10.1, 8, 1.0),
    ("24-410", 23.7, 21.5, 13.1, 16.4, 8, 1.5),
    ("28-400", 27.4, 25.0, 15.6, 10.1, 6, 1.0),
    ("28-410", 27.4, 25.0, 15.6, 17.9, 6, 1.5),
    ("33-400", 32.0, 29.6, 20.5, 10.1, 6, 1.0),
    ("38-400", 37.2, 34.9, 25.1, 10.1, 6, 1.0),
    ("45-400", 43.8, 41.4, 31.0, 10.1, 6, 1.0),
    ("53-400", 52.3, 49.9, 39.5, 10.1, 6, 1.0),
    ("58-400", 56.3, 54.0, 43.7, 10.1, 6, 1.0),
    ("63-400", 62.3, 59.9, 49.6, 10.1, 6, 1.0),
    ("70-400", 69.4, 67.0, 56.6, 10.1, 6, 1.0),
    ("89-400", 88.7, 85.9, 74.1, 13.2, 5, 1.0),
)

FINISHES: tuple[Finish, ...] = tuple(
    Finish(
        name=name,
        thread_diameter=thread,
        neck_diameter=neck,
        bore=bore,
        height=height,
        pitch=round(_INCH / per_inch, 3),
        turns=turns,
    )
    for name, thread, neck, bore, height, per_inch, turns in _TABLE
)


_BY_NAME = {finish.name: finish for finish in FINISHES}


def finish_named(name: str) -> Finish:
    """A finish of the table. Raises KeyError when the table has none of that name."""
    return _BY_NAME[name]
