"""A label to begin with, of each kind."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array
from giftwrap.core.model import BODY, Clear, PickedPanel, SealPanel, SleevePanel, WrapPanel
from giftwrap.core.wrap.laid import Label, Laid
from giftwrap.core.wrap.laying import Turned
from giftwrap.core.wrap.seal import edge_of_top
from giftwrap.core.wrap.sleeve import lay_sleeve
from giftwrap.core.wrap.walls import Wall, spanned, wall_of
from giftwrap.core.wrap.wrapped import lay_wrapped

LabelKind = Literal["around", "sleeve", "seal", "closure", "top"]
"""Around the body, a sleeve, over the closed top and down, around the closure, on top of it."""
FROM_BASE, HEIGHT, WIDTH = 0.12, 0.35, 1.5
"""Of the first label on a pack: shares of its height up to the rim, and of its width."""
PLACES = ((0.0, 1.0), (180.0, 1.0), (180.0, 0.25), (90.0, 0.18), (-90.0, 0.18))
"""Where one may lie: degrees from the front, and how wide at most, as a share of the way around."""
ON_TOP = 0.4
"""Of a label that has to lie on another one: how large beside the first."""
FILM = Clear(refractive_index=1.57, density=1.27)
"""Film for sleeves, as handbooks have it for PETG (from memory)."""
LOOSE = 1.03
"""How much wider film is than the pack, for it to go over."""
SLEEVE_FROM, SLEEVE_HEIGHT = 0.02, 0.8
"""Of a sleeve: shares of the body's height; it is made lower until its film shrinks so far."""
LEAST_SLEEVE = 5.0
"""Mm that a sleeve to begin with is high at the least."""
STRIP, DOWN = 0.7, 1.6
"""Of a seal, shares of the top's radius: its width, and how far it goes down beyond the edge."""
FRESH = 0.3
"""Of a label on a picked place, a share of the pack's size."""
BAND, MARK = 0.8, 1.1
"""Of a label around a closure, a share of its upright side; of one on top of it, of the top's radius."""
UPRIGHT = 0.995
"""A side is upright where its normal is as level as this."""


def starting_panel(turned: Turned, kind: LabelKind = "around", there: Sequence[Laid] = ()) -> Label:
    """A new label.

    there : the labels that lie on the pack already

    Raises PackError when the pack has no place for such a label.
    """
    if kind == "sleeve":
        return _sleeve(turned)
    if kind == "seal":
        return _seal(turned)
    if kind == "around":
        return _around(turned, there)
    solids = turned.built.solids if turned.built else ()
    if not solids:
        raise PackError("The pack has no closure to label: add one at Form.", "form.closure")
    return _around_closure(turned) if kind == "closure" else _on_top(turned)


def picked_panel(part: str, at: Array, size: tuple[float, float, float]) -> PickedPanel:
    """A new label with its middle at a place on a part, (3,) float, mm, of a pack of a size."""
    across, deep, high = size
    side = max(float(round(FRESH * min(high, max(across, deep)))), 2.0)
    x, y, z = (round(float(v), 3) for v in at)
    return PickedPanel(part=part, at=(x, y, z), width=side, height=side)


def _around(turned: Turned, there: Sequence[Laid]) -> WrapPanel:
    """On the front, where most is free, or, on a pack labelled all around, a small one on top."""
    formed = turned.formed
    rim, width = formed.rim_height, 2 * float(formed.outer.points[:, 0].max())
    first = WrapPanel(
        from_base=float(round(rim * FROM_BASE)),
        width=_mm(width * WIDTH),
        height=_mm(rim * HEIGHT),
        developed=True,
    )
    wall = wall_of(BODY, formed, None, place="panels")
    around = lay_wrapped(first, wall).around or 0.0
    for angle, share in PLACES:
        broad = min(first.width, _mm(around * share))
        panel = first.model_copy(update={"centre_angle": angle, "width": broad})
        sheet = lay_wrapped(panel, wall)
        if not any(sheet.covers(other) for other in there):
            return panel
    return first.model_copy(update={"width": _mm(first.width * ON_TOP), "height": _mm(first.height * ON_TOP)})


def _sleeve(turned: Turned) -> SleevePanel:
    """Over as much of the body as film shrinks onto."""
    wall, rim, film = spanned(turned.formed, turned.built), turned.formed.rim_height, _film(turned)
    height = rim * SLEEVE_HEIGHT
    while height > LEAST_SLEEVE:
        panel = SleevePanel(
            name="Sleeve", from_base=_mm(rim * SLEEVE_FROM), width=film, height=_mm(height), stock=FILM
        )
        try:
            around = lay_sleeve(panel, wall).around or 0.0
        except PackError:
            height *= 0.9
            continue
        return panel.model_copy(update={"width": float(round(around * LOOSE, 1))})
    raise PackError("A sleeve finds no place on this pack.", "panels")


def _film(turned: Turned) -> float:
    """A width of film that goes over a whole body, mm."""
    wall = wall_of(BODY, turned.formed, None, place="panels")
    widest = int(wall.path.points[:, 0].argmax())
    height = max(float(wall.path.points[widest, 1]), 0.5)
    thin = WrapPanel(from_base=min(height, wall.top - 0.6), width=1.0, height=0.5)
    return (lay_wrapped(thin, wall).around or 0.0) * LOOSE


def _seal(turned: Turned) -> SealPanel:
    wall = spanned(turned.formed, turned.built)
    whole = float(wall.path.lengths()[-1])
    edge = edge_of_top(wall)
    height = min(2 * edge * (1 + DOWN), 1.9 * whole)
    return SealPanel(name="Seal", width=_mm(STRIP * edge), height=_mm(height))


def _around_closure(turned: Turned) -> WrapPanel:
    assert turned.built is not None
    solid = max(turned.built.solids, key=lambda one: float(one.mesh.positions[:, 0].max()))
    wall = wall_of(solid.name, turned.formed, turned.built, place="panels")
    low, high = _upright(wall)
    height = max(float(round(BAND * (high - low), 1)), 0.5)
    start = float(round((low + high - height) / 2 - wall.foot, 1))
    panel = WrapPanel(name="Band", part=solid.name, from_base=max(start, 0.0), width=1.0, height=height)
    around = lay_wrapped(panel, wall).around or 0.0
    return panel.model_copy(update={"width": float(round(0.5 * around, 1))})


def _on_top(turned: Turned) -> PickedPanel:
    """As large as the flat or domed middle of the highest part."""
    assert turned.built is not None
    solid = max(turned.built.solids, key=lambda one: float(one.mesh.positions[:, 2].max()))
    wall = spanned(turned.formed, turned.built)
    edge = edge_of_top(wall)
    side = max(float(round(MARK * edge, 1)), 1.0)
    top = float(solid.mesh.positions[:, 2].max())
    return PickedPanel(
        name="Top",
        part=solid.name,
        at=(0.0, 0.0, round(top, 3)),
        width=side,
        height=side,
        rounding=round(side / 2 - 0.01, 3),
    )


def _upright(wall: Wall) -> tuple[float, float]:
    """The longest piece of a wall that stands upright, mm."""
    level = (wall.path.normals[:, 0] > UPRIGHT).astype(int)
    turns = np.flatnonzero(np.diff(np.concatenate([[0], level, [0]])))
    heights = wall.path.points[:, 1]
    runs = [(float(heights[a]), float(heights[b - 1])) for a, b in zip(turns[::2], turns[1::2], strict=True)]
    return max(runs, key=lambda run: run[1] - run[0], default=(wall.foot, wall.top))


def _mm(length: float) -> float:
    return float(max(round(length), 1))
