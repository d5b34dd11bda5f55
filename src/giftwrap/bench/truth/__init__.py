"""How true forms, light, noise, print and colours are: each against a referee of its own. Takes minutes."""

from __future__ import annotations

from collections.abc import Iterator

from giftwrap.bench.figure import Figure
from giftwrap.bench.truth import colours, forms, light, noise, places, reading


def run() -> Iterator[Figure]:
    """What can be told quickly first."""
    for part in (colours, forms, light, places, reading, noise):
        yield from part.run()
