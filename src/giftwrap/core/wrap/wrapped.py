"""A label around a wall: where its sheet lies, and how it curves."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from shapely import Polygon
from typing_extensions import override

from giftwrap.core.errors import PackError
from giftwrap.core.form.skin import lofted
from giftwrap.core.mesh.path import Array, Path, cut, length_at_height
from giftwrap.core.model import BODY, Printed, WrapPanel
from giftwrap.core.wrap.development import STRAIGHT, Development, development_of, on_its_page
from giftwrap.core.wrap.laid import GLUE_GAP, Drawn, Laid, cut_of
from giftwrap.core.wrap.walls import Wall

AROUND_STEP = 0.35
"""Share of a wall's column spacing at which a sheet is drawn."""


@dataclass(frozen=True, kw_only=True)
class WrappedSheet(Drawn):
    """A label as laid around a wall.

    wall : what it is wound around; path : the piece of it behind the label, bottom to top
    columns : (n,) float, radians from the front half way up, left to right; they may pass the front's 2π
    across : (n,) float, 0..1, how far each column is from the left edge
    bottom : where it begins, in mm along the wall from its foot
    narrows : largest relative difference of the wall's radius under the sheet, or from the cone that it is
        developed from; paper creases above a few per cent
    tapers : whether it could be developed; development : how it is
    """

    panel: WrapPanel
    wall: Wall
    path: Path
    columns: Array
    across: Array
    bottom: float
    narrows: float
    tapers: bool = False
    development: Development | None = None

    @property
    @override
    def printed(self) -> Printed:
        return self.panel if self.development is None else on_its_page(self.panel, self.development)

    @cached_property
    @override
    def cut(self) -> Polygon | None:
        if self.development is None:
            return cut_of(self.panel)
        if self.panel.outline is None and self.panel.rounding <= 0:
            return None  # its mesh is drawn as the piece of a ring that it is
        left, foot, _, _ = self.development.bounds
        return cut_of(self.panel, Polygon(self.development.outline - [left, foot]))

    @property
    @override
    def diameter(self) -> float | None:
        return self.around / np.pi if self.around and self.wall.loft.is_round else None

    @property
    @override
    def factors(self) -> Array | None:
        if self.development is not None or self.narrows < STRAIGHT:
            return None
        lengths = self.path.lengths()
        radii = self.path.points[:, 0] + self.out * self.path.normals[:, 0]
        return np.stack([lengths, radii / np.interp(self.panel.height / 2, lengths, radii)], axis=1)

    @property
    def top(self) -> float:
        """Highest point in mm."""
        return float(self.path.points[:, 1].max())

    @override
    def layer(self, out: float) -> tuple[Array, Array]:
        if self.wall.loft.is_round:
            skin = lofted(self.path, self.wall.loft, self.columns % (2 * np.pi))
            return skin.positions + out * skin.normals, skin.normals
        share = (self.across - 0.5) * self.panel.width / (self.around or 1.0)
        return along_rows(self.wall, self.path, share, centre=self.panel.centre_angle, out=out, face=self.out)

    @property
    @override
    def uvs(self) -> Array:
        lengths = self.path.lengths()
        if self.development is not None:
            left, foot, right, top = self.development.bounds
            places = self.development.flat(self.across[:, None], lengths[None])
            return np.asarray((places - [left, foot]) / [right - left, top - foot])
        v = lengths / lengths[-1]
        return np.stack(np.broadcast_arrays(self.across[:, None], v[None]), axis=-1)

    @override
    def covers(self, other: Laid) -> bool:
        if not isinstance(other, WrappedSheet) or other.part != self.part:
            return super().covers(other)
        apart = self.bottom - other.bottom
        if apart >= other.panel.height or -apart >= self.panel.height:
            return False
        (start, end), (first, last) = self.columns[[0, -1]], other.columns[[0, -1]]
        turn = (first - start) % (2 * np.pi)
        return bool(turn < end - start or turn + last - first > 2 * np.pi)


def lay_wrapped(panel: WrapPanel, wall: Wall, *, place: str = "panels.0") -> WrappedSheet:
    """Lay a label around a wall.

    Raises PackError when the sheet is taller than the wall above it or wider than it is around.
    """
    start = wall.foot + panel.from_base
    if start >= wall.top:
        raise PackError(
            f"“{panel.name}” starts {panel.from_base:g} mm up, but the {panel.part} ends at "
            f"{wall.top - wall.foot:.1f} mm: lower it.",
            f"{place}.from_base",
        )
    bottom = length_at_height(wall.path, start)
    room = float(wall.path.lengths()[-1]) - bottom
    if panel.height > room:
        raise PackError(
            f"“{panel.name}” is {panel.height:g} mm tall, but only {room:.1f} mm of wall is left above "
            f"{panel.from_base:g} mm: make it shorter or lower it.",
            f"{place}.height",
        )
    path = cut(wall.path, bottom, bottom + panel.height)
    middle = cut(wall.path, bottom + panel.height / 2, bottom + panel.height)
    columns, lengths = _around(wall, Path(middle.points[:1], middle.normals[:1]), panel)
    around = float(lengths[-1])
    if panel.width > around:
        raise PackError(
            f"“{panel.name}” is {panel.width:g} mm wide, but the {_pack(panel)} is only {around:.1f} mm "
            "around there: make it narrower.",
            f"{place}.width",
        )
    centre = float(np.interp(np.radians(panel.centre_angle) % (2 * np.pi), columns, lengths))
    begin, end = centre - panel.width / 2, centre + panel.width / 2
    turns = np.concatenate([lengths[:-1] - around, lengths[:-1], lengths + around])
    directions = np.concatenate([columns[:-1] - 2 * np.pi, columns[:-1], columns + 2 * np.pi])
    inside = (turns > begin + 1e-6) & (turns < end - 1e-6)
    edges = np.interp([begin, end], turns, directions)
    radii = path.points[:, 0]
    narrows = float((radii.max() - radii.min()) / radii.max())
    cone = None
    if wall.loft.is_round:
        cone = development_of(panel, path, float(edges[1] - edges[0]), GLUE_GAP + panel.thickness)
    return WrappedSheet(
        panel=panel,
        part=panel.part,
        wall=wall,
        path=path,
        columns=np.concatenate([edges[:1], directions[inside], edges[1:]]),
        across=np.concatenate([[0.0], (turns[inside] - begin) / panel.width, [1.0]]),
        around=around,
        bottom=bottom,
        narrows=cone.stretch if cone and panel.developed else narrows,
        tapers=cone is not None,
        development=cone if panel.developed else None,
    )


def _pack(panel: WrapPanel) -> str:
    return "pack" if panel.part == BODY else panel.part


def finer(columns: Array) -> Array:
    """Columns once around with some put between, (n,) float, radians from the front."""
    step = np.diff(columns, append=2 * np.pi)
    count = int(np.ceil(1 / AROUND_STEP))
    return np.asarray((columns[:, None] + step[:, None] * np.arange(count) / count).reshape(-1))


def _around(wall: Wall, row: Path, panel: WrapPanel) -> tuple[Array, Array]:
    """Columns once around, and mm along the printed face up to each, at one row of the wall."""
    fine = finer(wall.columns)
    skin = lofted(row, wall.loft, fine)
    face = skin.positions[:, 0] + (GLUE_GAP + panel.thickness) * skin.normals[:, 0]
    lengths = np.linalg.norm(np.diff(face, axis=0, append=face[:1]), axis=1)
    if wall.loft.is_round:
        # the arc itself, not its chords
        half = (fine[1] - fine[0]) / 2
        lengths *= half / np.sin(half)
    return np.append(fine, 2 * np.pi), np.concatenate([[0.0], np.cumsum(lengths)])


def along_rows(
    wall: Wall, path: Path, shares: Array, *, centre: float, out: float, face: float
) -> tuple[Array, Array]:
    """Places on a wall and their normals, (u, n, 3) float, at shares (u,) of the way around each row from a
    centre (degrees from the front), so that what is around as far above as below is not pulled aside.

    out : mm from the wall to the places; face : and to where the way is measured
    """
    fine = finer(wall.columns)
    skin = lofted(path, wall.loft, fine)
    measured = skin.positions + face * skin.normals
    steps = np.linalg.norm(np.diff(measured, axis=0, append=measured[:1]), axis=-1)
    lengths = np.vstack([np.zeros(steps.shape[1]), np.cumsum(steps, axis=0)])
    places = skin.positions + out * skin.normals
    table = np.concatenate([places, skin.normals], axis=-1)
    table = np.concatenate([table, table[:1]])
    ends = np.append(fine, 2 * np.pi)
    turned = np.radians(centre) % (2 * np.pi)
    found = np.empty((len(shares), len(path.points), 6))
    for row in range(len(path.points)):
        way = lengths[:, row]
        total = max(float(way[-1]), 1e-12)
        at = (np.interp(turned, ends, way) / total + shares) % 1.0 * total
        for k in range(6):
            found[:, row, k] = np.interp(at, way, table[:, row, k])
    normals = found[..., 3:] / np.maximum(np.linalg.norm(found[..., 3:], axis=-1, keepdims=True), 1e-12)
    return found[..., :3], normals
