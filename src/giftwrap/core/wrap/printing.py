"""From a panel's placements to the picture that is printed on it."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor

from cachetools import LRUCache, cached

from giftwrap.core.errors import ArtworkError, within
from giftwrap.core.model import Placement, Printed
from giftwrap.core.reading.facts import MM_PER_INCH
from giftwrap.core.wrap.press import Press, PrintedSheet, State, counts, metal_of
from giftwrap.core.wrap.stamps import Stamp, stamp_of

TEXELS_PER_PX = 4.0
"""A print is so much finer than the picture that shows it: between texels, small type would blur."""
COARSEST_PPI, FINEST_PPI, STEPS = 300.0, 1200.0, 4
"""Prints have one of a few resolutions, so that pictures a little larger or nearer share them."""
MAX_SIDE = 12_000
MOST_TEXELS = 40_000_000
"""Pixels of all prints of a pack together."""
PRINT_BYTES = 400_000_000
"""Prints that are kept for the next scene that shows them."""
DRAWING_S = 60.0
"""All the artwork of a panel may take this long to draw."""

PRINTED = {"width", "height", "stock", "tooth", "placements", "run", "registration"}
"""What of a panel decides its print."""

AT_A_TIME = 2
"""Artworks that are drawn at the same time."""

STATE_BYTES = 300_000_000
"""Sheets between two layers that are kept: where artwork is moved, what lies before is not printed anew."""

_prints_lock, _states_lock = threading.Lock(), threading.Lock()
_states: LRUCache[str, State] = LRUCache(STATE_BYTES, getsizeof=lambda state: state.bytes)
_last: LRUCache[tuple[str, str], list[str]] = LRUCache(32)


def ppi_for(px_per_mm: float) -> float:
    """The resolution of prints that a picture shows so large: one of a few from coarsest to finest."""
    wanted = px_per_mm * TEXELS_PER_PX * MM_PER_INCH / COARSEST_PPI
    step = math.log(FINEST_PPI / COARSEST_PPI) / STEPS
    steps = min(max(math.ceil(math.log(max(wanted, 1e-9)) / step - 1e-9), 0), STEPS)
    return round(COARSEST_PPI * math.exp(steps * step))


def _print_key(
    panel: Printed, artwork: Mapping[str, bytes], *, ppi: float, seconds: float = DRAWING_S
) -> str:
    return panel.model_dump_json(include=PRINTED) + f"@{ppi:g}"


@cached(LRUCache(PRINT_BYTES, getsizeof=lambda sheet: sheet.bytes), key=_print_key, lock=_prints_lock)
def print_panel(
    panel: Printed, artwork: Mapping[str, bytes], *, ppi: float, seconds: float = DRAWING_S
) -> PrintedSheet:
    """A panel's print as `compose` makes it; the same one while nothing on it changes.

    Moving a panel on the pack does not change its print.
    """
    return compose(panel, artwork, ppi=ppi, seconds=seconds)


def compose(
    panel: Printed, artwork: Mapping[str, bytes], *, ppi: float, seconds: float = DRAWING_S
) -> PrintedSheet:
    """Print a panel: its artwork on its stock, layer by layer, clipped at its edges.

    artwork : file contents by SHA-256

    Raises ArtworkError when a placed file is missing, or when all of them take more than `seconds`
    to draw.
    """
    deadline = time.monotonic() + seconds
    scale = min(ppi / MM_PER_INCH, MAX_SIDE / max(panel.width, panel.height))
    size = (max(round(panel.width * scale), 1), max(round(panel.height * scale), 1))

    def stamp(index: int) -> Stamp | None:
        placement, place = panel.placements[index], f"placements.{index}"
        if placement.artwork not in artwork:
            raise ArtworkError(
                f"The artwork file of placement {index + 1} on “{panel.name}” is missing: place it again.",
                f"{place}.artwork",
            )
        left = deadline - time.monotonic()
        if left <= 0:
            raise ArtworkError(
                f"The artwork on “{panel.name}” takes more than {seconds:g} s to draw: place less of it, or "
                "simplify it where it was made.",
                place,
            )
        with within(place):
            return stamp_of(placement, artwork[placement.artwork], scale, size, left)

    keys = _states_of(panel, size)
    first, state = _taken_up(keys)
    needed = [any(counts(one, layer) for layer in panel.layers[first:]) for one in panel.placements]
    with ThreadPoolExecutor(AT_A_TIME) as pool:
        stamps = list(pool.map(lambda index: stamp(index) if needed[index] else None, range(len(needed))))
    press = Press(panel, size, scale, stamps)
    if state:
        press.take_up(state)
    same = _same_as_before(panel, keys)
    if first < same:
        press.run(first, same)
        with _states_lock:
            _states[keys[same]] = press.state()
    press.run(max(first, same))
    return press.sheet()


def _states_of(panel: Printed, size: tuple[int, int]) -> list[str]:
    """What decides a sheet before its first layer, and after each."""
    begun = panel.model_dump_json(include=PRINTED - {"placements", "run"}) + f"@{size}"
    metal = metal_of(panel)
    keys, layers = [f"{begun}{metal}"], panel.layers
    for number in range(1, len(layers) + 1):
        own = [layer.model_dump_json() for layer in layers[:number]]
        names = {layer.name for layer in layers[:number]}
        placed = [
            one.model_dump_json(exclude={"areas"})
            + str([one.spots, sorted((k, v) for k, v in one.areas.items() if k in names)])
            for one in panel.placements
            if any(counts(one, layer) for layer in layers[:number])
        ]
        keys.append(f"{keys[0]}{own}{placed}")
    return keys


def _taken_up(keys: Sequence[str]) -> tuple[int, State | None]:
    """The last layer after which such a sheet is kept, and it."""
    with _states_lock:
        for number in range(len(keys) - 1, 0, -1):
            state = _states.get(keys[number])
            if state is not None:
                return number, state
    return 0, None


def _same_as_before(panel: Printed, keys: list[str]) -> int:
    """How many layers are as they were when this panel was printed last."""
    with _states_lock:
        before = _last.get((panel.name, keys[0]), [])
        _last[panel.name, keys[0]] = keys
    same = sum(1 for one, other in zip(keys, before, strict=False) if one == other) - 1
    return same if 0 < same < len(keys) - 1 else 0


def finest_ppi(panels: Sequence[Printed]) -> float:
    """The resolution at which the prints of some panels fit in memory together."""
    area = sum(panel.width * panel.height for panel in panels) / MM_PER_INCH**2
    return math.sqrt(MOST_TEXELS / area) if area else math.inf


def effective_ppi(placement: Placement, width_px: int | None) -> float | None:
    """Pixels per inch of a bitmap at its placed width; None for outlines, which have no limit."""
    if width_px is None:
        return None
    crop = placement.crop
    left = width_px * (1 - crop.left - crop.right) if crop else width_px
    return left / placement.width * MM_PER_INCH
