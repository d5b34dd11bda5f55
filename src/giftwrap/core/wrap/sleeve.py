"""A sleeve: a tube of film shrunk onto a whole pack or stretched over it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from typing_extensions import override

from giftwrap.core.errors import PackError
from giftwrap.core.form.skin import lofted
from giftwrap.core.mesh.path import Array, Path, cut, length_at_height
from giftwrap.core.model import SleevePanel
from giftwrap.core.wrap.laid import GLUE_GAP, Drawn
from giftwrap.core.wrap.walls import Wall
from giftwrap.core.wrap.wrapped import along_rows, finer

MOST_SHRUNK, MOST_STRETCHED = 0.78, 0.5
"""Films shrink around by so much of their width at the most, and stretch by so much (common practice)."""


@dataclass(frozen=True, kw_only=True)
class SleeveSheet(Drawn):
    """A sleeve as it lies.

    wall : what it lies on; path : the piece of it, bottom to top
    circumference : (n,) float, mm around its face at each place of the path
    """

    panel: SleevePanel
    wall: Wall
    path: Path
    circumference: Array

    @property
    @override
    def diameter(self) -> float | None:
        return float(self.circumference.min()) / np.pi if self.wall.loft.is_round else None

    @property
    @override
    def factors(self) -> Array | None:
        return np.stack([self.path.lengths(), 1 - self.shrink], axis=1)

    @property
    def top(self) -> float:
        """Highest point in mm."""
        return float(self.path.points[:, 1].max())

    @property
    def shrink(self) -> Array:
        """(n,) float: by how much of its width the film shrinks around there; negative where it is
        stretched."""
        return np.asarray(1 - self.circumference / self.panel.width)

    @cached_property
    def across(self) -> Array:
        """(u,) float, 0..1: where its columns are on the film."""
        fine = finer(self.wall.columns)
        return np.append(fine, 2 * np.pi) / (2 * np.pi)

    @override
    def layer(self, out: float) -> tuple[Array, Array]:
        if self.wall.loft.is_round:
            columns = (self.across - 0.5) * 2 * np.pi + np.radians(self.panel.centre_angle)
            skin = lofted(self.path, self.wall.loft, columns % (2 * np.pi))
            return skin.positions + out * skin.normals, skin.normals
        shares = self.across - 0.5
        return along_rows(
            self.wall, self.path, shares, centre=self.panel.centre_angle, out=out, face=self.out
        )

    @property
    @override
    def uvs(self) -> Array:
        lengths = self.path.lengths()
        return np.stack(np.broadcast_arrays(self.across[:, None], (lengths / lengths[-1])[None]), axis=-1)


def lay_sleeve(panel: SleevePanel, wall: Wall, *, place: str = "panels.0") -> SleeveSheet:
    """Put a sleeve around a pack.

    Raises PackError when it is taller than the pack, or its film neither shrinks nor stretches so far.
    """
    if panel.from_base >= wall.top:
        raise PackError(
            f"“{panel.name}” starts {panel.from_base:g} mm up, but the pack ends at {wall.top:.1f} mm: "
            "lower it.",
            f"{place}.from_base",
        )
    bottom = length_at_height(wall.path, panel.from_base)
    room = float(wall.path.lengths()[-1]) - bottom
    if panel.height >= room:
        raise PackError(
            f"“{panel.name}” is {panel.height:g} mm tall, but it is only {room:.1f} mm from where it begins "
            "to the middle of the top: make it shorter.",
            f"{place}.height",
        )
    path = cut(wall.path, bottom, bottom + panel.height)
    out = GLUE_GAP + panel.thickness
    fine = finer(wall.columns)
    skin = lofted(path, wall.loft, fine)
    face = skin.positions + out * skin.normals
    around = np.linalg.norm(np.diff(face, axis=0, append=face[:1]), axis=-1).sum(axis=0)
    if wall.loft.is_round:
        around = 2 * np.pi * np.hypot(face[0, :, 0], face[0, :, 1])
    shrink = 1 - around / panel.width
    if shrink.max() > MOST_SHRUNK:
        height = float(path.points[int(shrink.argmax()), 1])
        raise PackError(
            f"“{panel.name}” would have to shrink by {100 * shrink.max():.0f} % at {height:.0f} mm, and "
            f"films shrink by {100 * MOST_SHRUNK:.0f} % at the most: end it lower, or make it narrower.",
            f"{place}.height",
        )
    if -shrink.min() > MOST_STRETCHED:
        height = float(path.points[int(shrink.argmin()), 1])
        raise PackError(
            f"“{panel.name}” would have to stretch by {-100 * shrink.min():.0f} % at {height:.0f} mm: make "
            f"it at least {around.max() / (1 + MOST_STRETCHED):.0f} mm around.",
            f"{place}.width",
        )
    return SleeveSheet(
        panel=panel, wall=wall, path=path, circumference=np.asarray(around), around=float(around.max())
    )
