"""One measured figure."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any, Literal


@dataclass(frozen=True)
class Figure:
    """A value with its unit and, where there is one, what it should be."""

    name: str
    value: float
    unit: str
    target: float | None
    better: Literal["lower", "higher"] = "lower"

    def as_dict(self) -> dict[str, Any]:
        """Plain data."""
        return asdict(self)

    def line(self) -> str:
        """One line of the table."""
        wish = f"target {self.target:g}" if self.target is not None else ""
        return f"{self.name:<52} {self.value:>10.3g} {self.unit:<10} {wish}"


def median_seconds(work: Callable[[], object], *, runs: int) -> float:
    """Median time of several runs after one that is not counted."""
    work()
    times = []
    for _ in range(runs):
        started = time.perf_counter()
        work()
        times.append(time.perf_counter() - started)
    return statistics.median(times)
