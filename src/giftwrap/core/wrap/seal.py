"""A seal: a strip over the top of a closed pack and down on both sides."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from typing_extensions import override

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array, Path
from giftwrap.core.model import SealPanel
from giftwrap.core.wrap.laid import Drawn
from giftwrap.core.wrap.walls import Wall

ACROSS, ALONG = 0.5, 0.35
"""Mm between the columns and the rows that a strip is drawn with."""
ROUND_ENOUGH = 0.002
FLAT = np.cos(np.radians(20.0))
"""A top ends where it leans by more than 20°: from there the strip is bent down."""


@dataclass(frozen=True, kw_only=True)
class SealSheet(Drawn):
    """A strip as it lies.

    path : (radius, height) in mm, from the middle of the top outwards and down
    edge : mm along it to where the top ends
    """

    panel: SealPanel
    path: Path
    edge: float

    @property
    def top(self) -> float:
        """Highest point in mm."""
        return float(self.path.points[:, 1].max())

    @cached_property
    def _steps(self) -> tuple[Array, Array]:
        width, height = self.panel.width, self.panel.height
        across = np.linspace(-width / 2, width / 2, max(int(np.ceil(width / ACROSS)), 4) + 1)
        along = np.linspace(-height / 2, height / 2, max(int(np.ceil(height / ALONG)), 8) + 1)
        return across, along

    @property
    @override
    def uvs(self) -> Array:
        across, along = self._steps
        grid = np.stack(np.broadcast_arrays(across[:, None], along[None]), axis=-1)
        return np.asarray(grid / [self.panel.width, self.panel.height] + 0.5)

    @override
    def layer(self, out: float) -> tuple[Array, Array]:
        across, along = self._steps
        x, y = np.broadcast_arrays(across[:, None], along[None] + self.panel.shift)
        # flat over the top; beyond its edge the strip goes down beside its own middle line
        away = np.abs(y)
        edge = max(self.edge, 1e-6)
        over = np.clip((away - 0.5 * edge) / (0.5 * edge), 0.0, 1.0)
        over = over * over * (3 - 2 * over)
        flat = np.hypot(x, y)
        reach = flat + over * (away - flat)
        lengths = self.path.lengths()
        radius, height = (np.interp(reach, lengths, self.path.points[:, k]) for k in (0, 1))
        lean, rise = (np.interp(reach, lengths, self.path.normals[:, k]) for k in (0, 1))
        straight = np.arctan2(x, np.maximum(away, 1e-9))
        bent = x / np.maximum(radius, 1e-6)
        aside = straight + over * (bent - straight)
        # the foot lies at the centre's angle; beyond the middle the strip goes down opposite, left as right
        turn = np.radians(self.panel.centre_angle) + np.where(y <= 0, aside, np.pi - aside)
        sin, cos = np.sin(turn), -np.cos(turn)
        places = np.stack([radius * sin, radius * cos, height], axis=-1)
        normals = np.stack([lean * sin, lean * cos, rise], axis=-1)
        normals /= np.maximum(np.linalg.norm(normals, axis=-1, keepdims=True), 1e-12)
        return places + out * normals, normals


def lay_seal(panel: SealPanel, wall: Wall, *, place: str = "panels.0") -> SealSheet:
    """Lay a strip over the top of a pack.

    Raises PackError when the pack is not round there, or not as tall or wide.
    """
    path = _down(wall)
    lengths = path.lengths()
    reach = panel.height / 2 + abs(panel.shift)
    if reach >= lengths[-1]:
        raise PackError(
            f"“{panel.name}” is longer than the pack is tall: make it shorter.", f"{place}.height"
        )
    if abs(panel.shift) >= panel.height / 2:
        raise PackError(
            f"“{panel.name}” does not reach over the middle of the top: shift it less.", f"{place}.shift"
        )
    under = lengths <= reach
    outline = wall.loft.at(path.points[under, 1], wall.columns).points
    if np.ptp(np.linalg.norm(outline, axis=-1), axis=0).max() > ROUND_ENOUGH:
        raise PackError(
            f"“{panel.name}” goes down where the pack is not round: make it shorter, or pick places for two "
            "labels instead.",
            f"{place}.height",
        )
    edge = edge_of_top(wall)
    if panel.width / 2 > edge:
        raise PackError(
            f"“{panel.name}” is {panel.width:g} mm wide, but the top is only {2 * edge:.1f} mm across: "
            "make it narrower.",
            f"{place}.width",
        )
    return SealSheet(panel=panel, path=path, edge=edge)


def edge_of_top(wall: Wall) -> float:
    """How far it is from the middle of a pack's top to its edge, mm."""
    path = _down(wall)
    leaning = np.flatnonzero(path.normals[:, 1] < FLAT)
    return float(path.lengths()[leaning[0] if len(leaning) else -1])


def _down(wall: Wall) -> Path:
    """A wall from the middle of its top outwards and down."""
    return Path(wall.path.points[::-1].copy(), wall.path.normals[::-1].copy())
