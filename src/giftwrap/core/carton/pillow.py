"""The pillow pack: two bulging faces, shut by flaps that are pressed in along curved creases."""

from __future__ import annotations

import numpy as np
from shapely import Polygon

from giftwrap.core.carton.allowances import GAP, Allowances
from giftwrap.core.carton.blank import Draft
from giftwrap.core.carton.component import Component, grain_of
from giftwrap.core.carton.section import Bend, Bending, End, Section, crease_level
from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array
from giftwrap.core.model.carton import Carton

STEP_MM = 1.5
"""Mm between the points of a curved crease on the blank."""
MOST_BULGE = 0.45
"""How high a pillow may be, as a share of how wide it is."""


def pillow(carton: Carton, allow: Allowances) -> tuple[Component, ...]:
    """A tube of two arcs, its ends pressed in; it lies on its back.

    Its inside is as wide as from seam to seam, as deep as between its ends and as high as between its faces,
    each measured in the middle.
    """
    if carton.insert is not None:
        raise PackError("A pillow pack has no floor for an insert to stand on.", "insert")
    if carton.depth > MOST_BULGE * carton.length:
        raise PackError(
            f"Faces bent by so much do not hold: make the pillow at most {MOST_BULGE * carton.length:.0f} mm "
            "high, or wider.",
            "depth",
        )
    bending, front, back = _bending(carton, allow)
    t, glue = carton.board.caliper, allow("glue flap")
    closed = Section(bending.bends, bending.held, 1.0, t)
    draft = Draft(grain_of(carton))
    levels = {end.panel: end for end in bending.ends}
    for name, (left, right) in (("front", front), ("back", back)):
        across = _points(left, right)
        low, high = (
            crease_level(closed, levels[f"{word} flap {name}"], across) for word in ("bottom", "top")
        )
        outline = [*zip(across, low, strict=True), *zip(across[::-1], high[::-1], strict=True)]
        draft.panel(name, Polygon(outline))
    level = levels["top flap front"].level
    slope = min(allow("glue flap slope"), 0.3 * level)
    inset = 0.6 * glue  # the faces are shorter than their seam there
    foot, top = -level + inset, level - inset
    draft.panel(
        "glue flap",
        Polygon([(0, foot), (0, top), (-glue, top - slope), (-glue, foot + slope)]),
        role="glue flap",
    )
    creases = {bend.start: bend.crease for bend in bending.bends}
    corner = float(levels["top flap back"].level), float(level)
    draft.hang("glue flap", "front", (0, foot), (0, top), angle=creases[0.0], step=0)
    draft.glue("glue flap", min(1.0, glue / 5))
    reach = min(corner)
    draft.hang("back", "front", (front[1], -reach), (front[1], reach), angle=creases[front[1]], step=0)
    for end in bending.ends:
        _flap(draft, end, closed, carton, allow)
    return (Component("pillow", draft.blank(), "lid", carton.depth, bending=bending),)


def _points(left: float, right: float) -> Array:
    return np.linspace(left, right, max(int((right - left) / STEP_MM), 8) + 1)


def _bending(carton: Carton, allow: Allowances) -> tuple[Bending, tuple[float, float], tuple[float, float]]:
    """How the tube is bent, and where front and back are across the blank."""
    t, lap = carton.board.caliper, 1.15 * carton.board.caliper + GAP
    high, half = (carton.depth + t) / 2, 0.5
    for _ in range(30):  # the inside's seams are where its faces meet, which depends on how they lean
        chord = carton.length + t / np.sin(half)
        half = 2 * np.arctan2(2 * high, chord)
    radius = chord / 2 / np.sin(half)
    front = (0.0, float(2 * radius * half))
    # the back goes on to lie over the glue flap
    run, rise = chord + lap * np.sin(half), lap * np.cos(half)
    over, tilt = np.hypot(run, rise), np.arctan2(rise, run)
    half_back = np.arcsin(min(over / 2 / radius, 1.0))
    back = (front[1], float(front[1] + 2 * radius * half_back))
    glue = allow("glue flap")
    bends = (
        Bend(-glue, 0.0, float(np.degrees(glue / (radius - lap)))),
        Bend(*front, float(np.degrees(2 * half)), float(np.degrees(np.pi - half - half_back + tilt))),
        Bend(*back, float(np.degrees(2 * half_back)), float(np.degrees(np.pi - half - half_back - tilt))),
    )
    level = carton.width / 2 + t / 2 + high
    # further out by what lies between, and by how much further the back bulges for going on to the seam
    outer = float(level + (lap + 0.05) / np.cos(half) + lap * np.sin(half) * np.tan(half))
    ends = tuple(
        End(f"{word} flap {name}", name, way, way * mm, chord_ends)
        for name, mm, chord_ends in (("front", level, front), ("back", outer, back))
        for word, way in (("bottom", -1), ("top", 1))
    )
    return Bending(bends, front[1] / 2, ends), front, back


def _flap(draft: Draft, end: End, closed: Section, carton: Carton, allow: Allowances) -> None:
    """A flap from its curved crease to where it meets the other face: those of the front lie within, those
    of the back outside of them, as far as the face."""
    t = carton.board.caliper
    across = _points(*end.chord)
    level = crease_level(closed, end, across)
    bulge = (end.level - level) * end.way
    within = end.of == "front"
    long = 2 * bulge - (1.5 * t + 0.4 if within else 0.3)
    kept = (long > 0.5) & (bulge > 1.5 * t + 0.5)
    if kept.sum() < 6:
        raise PackError("A pillow so flat has no ends to press in: make it higher.", "depth")
    across, level, long = across[kept], level[kept], long[kept]
    tip = level + end.way * long
    curve = list(zip(across.tolist(), level.tolist(), strict=True))
    outline = Polygon([*curve, *zip(across[::-1].tolist(), tip[::-1].tolist(), strict=True)])
    draft.panel(end.panel, outline, role="flap")
    step = 1 if within else 2
    draft.hang(end.panel, end.of, curve[0], curve[-1], step=step, springs=not within, curve=curve)
