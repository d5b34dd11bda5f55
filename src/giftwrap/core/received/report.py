"""In words: what a model is and what was mended when it was read."""

from __future__ import annotations

from giftwrap.core.received.bundle import Bundle
from giftwrap.core.received.found import FoundModel
from giftwrap.core.received.kept import KeptModel
from giftwrap.core.received.mending import Mended

UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "inch": 25.4, "foot": 304.8}
"""Mm of the units that models are made in."""
LIKELY = (12.0, 900.0)
"""Mm along the longest side that a pack or its prop is likely to have."""
POSSIBLE = (2.0, 3000.0)
"""Mm for a file that says its unit to be believed."""
MOST_NOTES = 40


def unit_guess(size: float, told: float | None) -> tuple[float, bool]:
    """Mm of one of the file's units, and whether that is a guess.

    size : the model's longest side in them; told : mm as the file or its kind says
    """
    if told is not None and POSSIBLE[0] <= size * told <= POSSIBLE[1]:
        return told, False
    for unit in UNITS.values():
        if LIKELY[0] <= size * unit <= LIKELY[1]:
            return unit, True
    if told is not None:
        return told, False
    return 1.0, True


def unit_words(unit_mm: float) -> str:
    """What a unit is called."""
    return next((name for name, mm in UNITS.items() if abs(mm - unit_mm) < 1e-9 * mm), f"{unit_mm:g} mm")


def report_of(
    bundle: Bundle, found: FoundModel, model: KeptModel, counts: Mended, *, guess: float | None
) -> list[str]:
    """Sentences, the most important first.

    guess : mm of its unit where that is a guess
    """
    triangles = sum(body.triangles for body in model.bodies)
    said = [
        f"{bundle.kind.upper()} with {_number(len(model.meshes), 'part')} in "
        f"{_number(len(model.bodies), 'piece')}, {triangles:,} triangles."
    ]
    if guess is not None:
        told = (
            "its size makes it likely"
            if found.unit_mm is None
            else "by what it says it would have an absurd size"
        )
        said.append(f"Its unit, {unit_words(guess)}, is a guess: {told}.")
    if counts.copies:
        said.append(
            f"{_number(counts.copies, 'piece')} lay exactly on another and {_were(counts.copies)} left out."
        )
    if counts.inside_out:
        said.append(
            f"{_number(counts.inside_out, 'piece')} faced inwards and {_were(counts.inside_out)} turned "
            "round."
        )
    if counts.turned:
        said.append(f"{_number(counts.turned, 'face')} faced against their neighbours and were turned round.")
    if counts.doubles:
        said.append(f"{_number(counts.doubles, 'face')} lay on another and {_were(counts.doubles)} left out.")
    if counts.lines:
        said.append(f"{_number(counts.lines, 'face')} without area {_were(counts.lines)} left out.")
    if counts.one_sided:
        said.append(
            f"{_number(counts.one_sided, 'part')} has no outside: it closes on itself like a twisted band."
        )
    if counts.holes:
        said.append(
            f"{_number(counts.open_bodies, 'piece')} {'is' if counts.open_bodies == 1 else 'are'} open along "
            f"{_number(counts.holes, 'ring')}: holes, or sheets without thickness."
        )
    if counts.kept_whole:
        said.append(f"{_number(counts.kept_whole, 'part')} in very many pieces stayed together.")
    if counts.repeating:
        said.append(
            f"{_number(counts.repeating, 'part')} {'has' if counts.repeating == 1 else 'have'} pictures that "
            "repeat: they are on what it is made of, and no label."
        )
    drawn = sum(len(facets.faces) for facets in model.few)
    if drawn < triangles:
        said.append(f"Pages draw it with {drawn:,} triangles; finals have all of them.")
    return [note[:400] for note in [*said, *dict.fromkeys(found.notes)]][:MOST_NOTES]


def _number(count: int, what: str) -> str:
    return f"{count:,} {what}" if count == 1 else f"{count:,} {what}s"


def _were(count: int) -> str:
    return "was" if count == 1 else "were"
