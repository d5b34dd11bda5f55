"""Twenty-four patches on three stocks, as they are seen under even light."""

from __future__ import annotations

from collections.abc import Iterator

from giftwrap.bench.figure import Figure
from giftwrap.core.tests.patches import PATCHES, STOCKS, apart, expected, seen


def run() -> Iterator[Figure]:
    """CIEDE2000 of the worst patch, by coloraide."""
    for name in ("dead matt", "the demo's", "high gloss"):
        gloss = STOCKS[name]
        found = [apart(expected(p, gloss), s) for p, s in zip(PATCHES, seen(PATCHES, gloss), strict=True)]
        yield Figure(f"truth: colours, worst of {len(found)} patches, {name} stock", max(found), "ΔE00", 1.0)
