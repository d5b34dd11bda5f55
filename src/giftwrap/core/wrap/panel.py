"""A wrap-around panel on the wall: where its sheet lies, and how it curves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.form.formed import FormedBody
from giftwrap.core.form.skin import lofted, open_mesh
from giftwrap.core.mesh.mesh import Mesh, together
from giftwrap.core.mesh.path import Array, Path, cut, length_at_height
from giftwrap.core.model import Printed, WrapPanel
from giftwrap.core.wrap.development import Development, development_of, on_its_page

GLUE_GAP = 0.05
"""Distance in mm between wall and sheet: wide enough for single-precision rays, too small to see."""
AROUND_STEP = 0.35
"""Share of a body's column spacing at which a sheet is drawn."""


@dataclass(frozen=True)
class Sheet:
    """A panel as laid on the pack.

    wall : path of the wall behind it, bottom to top
    columns : (n,) float, radians from the front, left to right; they may pass the front's 2π
    across : (n,) float, 0..1, how far each column is from the left edge
    around : circumference in mm at which the width is exact
    bottom : where it begins, in mm along the wall from the base
    stretch : largest relative difference of the wall's radius under the sheet, or from the cone that it is
        developed from; paper creases above a few per cent
    gap : mm between the wall and its back: the glue, and the labels it was stuck over
    tapers : whether it could be developed; development : how it is
    """

    panel: WrapPanel
    formed: FormedBody
    wall: Path
    columns: Array
    across: Array
    around: float
    bottom: float
    stretch: float
    gap: float = GLUE_GAP
    tapers: bool = False
    development: Development | None = None

    @property
    def printed(self) -> Printed:
        """What is printed on it, on a page as large as it is when it lies flat."""
        return self.panel if self.development is None else on_its_page(self.panel, self.development)

    @property
    def out(self) -> float:
        """Mm from the wall to the printed face."""
        return self.gap + self.panel.thickness

    @property
    def top(self) -> float:
        """Highest point in mm."""
        return float(self.wall.points[:, 1].max())

    def covers(self, other: Sheet) -> bool:
        """Whether some of it lies over some of another on the same body."""
        apart = self.bottom - other.bottom
        if apart >= other.panel.height or -apart >= self.panel.height:
            return False
        (start, end), (first, last) = self.columns[[0, -1]], other.columns[[0, -1]]
        turn = (first - start) % (2 * np.pi)
        return bool(turn < end - start or turn + last - first > 2 * np.pi)


def lay_panels(panels: Sequence[WrapPanel], formed: FormedBody) -> tuple[Sheet, ...]:
    """Lay panels one after the other: where a later one covers an earlier one, it is stuck on top.

    Raises PackError as `lay_panel` does.
    """
    sheets: list[Sheet] = []
    for index, panel in enumerate(panels):
        sheet = lay_panel(panel, formed, place=f"panels.{index}")
        under = max((below.out for below in sheets if sheet.covers(below)), default=0.0)
        sheets.append(replace(sheet, gap=under + GLUE_GAP))
    return tuple(sheets)


def lay_panel(panel: WrapPanel, formed: FormedBody, *, place: str = "panels.0") -> Sheet:
    """Lay a panel on the outside of a formed body.

    Raises PackError when the sheet is taller than the wall above it or wider than the pack around.
    """
    outer = formed.outer
    rim = formed.rim_height
    if panel.from_base >= rim:
        raise PackError(
            f"“{panel.name}” starts {panel.from_base:g} mm up, but the body ends at {rim:.1f} mm: lower it.",
            f"{place}.from_base",
        )
    bottom = length_at_height(outer, panel.from_base)
    room = float(outer.lengths()[-1]) - bottom
    if panel.height > room:
        raise PackError(
            f"“{panel.name}” is {panel.height:g} mm tall, but only {room:.1f} mm of wall is left above "
            f"{panel.from_base:g} mm: make it shorter or lower it.",
            f"{place}.height",
        )
    wall = cut(outer, bottom, bottom + panel.height)
    middle = cut(outer, bottom + panel.height / 2, bottom + panel.height)
    columns, lengths = _around(formed, Path(middle.points[:1], middle.normals[:1]), panel)
    around = float(lengths[-1])
    if panel.width > around:
        raise PackError(
            f"“{panel.name}” is {panel.width:g} mm wide, but the pack is only {around:.1f} mm around there: "
            "make it narrower.",
            f"{place}.width",
        )
    centre = float(np.interp(np.radians(panel.centre_angle) % (2 * np.pi), columns, lengths))
    start, end = centre - panel.width / 2, centre + panel.width / 2
    turns = np.concatenate([lengths[:-1] - around, lengths[:-1], lengths + around])
    directions = np.concatenate([columns[:-1] - 2 * np.pi, columns[:-1], columns + 2 * np.pi])
    inside = (turns > start + 1e-6) & (turns < end - 1e-6)
    edges = np.interp([start, end], turns, directions)
    radii = wall.points[:, 0]
    stretch = float((radii.max() - radii.min()) / radii.max())
    cone = None
    if formed.loft.is_round:
        cone = development_of(panel, wall, float(edges[1] - edges[0]), GLUE_GAP + panel.thickness)
    return Sheet(
        panel=panel,
        formed=formed,
        wall=wall,
        columns=np.concatenate([edges[:1], directions[inside], edges[1:]]),
        across=np.concatenate([[0.0], (turns[inside] - start) / panel.width, [1.0]]),
        around=around,
        bottom=bottom,
        stretch=cone.stretch if cone and panel.developed else stretch,
        tapers=cone is not None,
        development=cone if panel.developed else None,
    )


def _around(formed: FormedBody, row: Path, panel: WrapPanel) -> tuple[Array, Array]:
    """Columns once around, and mm along the printed face up to each, at one row of the wall."""
    columns = formed.columns
    step = np.diff(columns, append=2 * np.pi)
    count = int(np.ceil(1 / AROUND_STEP))
    fine = (columns[:, None] + step[:, None] * np.arange(count) / count).reshape(-1)
    skin = lofted(row, formed.loft, fine)
    face = skin.positions[:, 0] + (GLUE_GAP + panel.thickness) * skin.normals[:, 0]
    lengths = np.linalg.norm(np.diff(face, axis=0, append=face[:1]), axis=1)
    if formed.loft.is_round:
        # the arc itself, not its chords
        lengths *= (step[0] / count) / (2 * np.sin(step[0] / count / 2))
    return np.append(fine, 2 * np.pi), np.concatenate([[0.0], np.cumsum(lengths)])


def face_mesh(sheet: Sheet) -> Mesh:
    """The printed face; its uvs run left to right and bottom to top as seen from outside."""
    positions, normals = _layer(sheet, sheet.out)
    lengths = sheet.wall.lengths()
    if sheet.development is not None:
        left, foot, right, top = sheet.development.bounds
        places = sheet.development.flat(sheet.across[:, None], lengths[None])
        return open_mesh(positions, normals, (places - [left, foot]) / [right - left, top - foot])
    v = lengths / lengths[-1]
    uvs = np.stack(np.broadcast_arrays(sheet.across[:, None], v[None]), axis=-1)
    return open_mesh(positions, normals, uvs)


def back_mesh(sheet: Sheet) -> Mesh:
    """The back of the sheet with its four edges; with the face it is one closed shell."""
    front, outwards = _layer(sheet, sheet.out)
    back, _ = _layer(sheet, sheet.gap)
    top, foot = _towards(front[:, -1] - front[:, -2]), _towards(front[:, 0] - front[:, 1])
    positions = np.concatenate(
        [front[:, -1:], back[:, -1:], back[:, ::-1], back[:, :1], front[:, :1]], axis=1
    )
    normals = np.concatenate(
        [top[:, None], top[:, None], -outwards[:, ::-1], foot[:, None], foot[:, None]], axis=1
    )
    meshes = [open_mesh(positions, normals)]
    for edge, inner in ((0, 1), (-1, -2)):
        facing = _towards(front[edge] - front[inner])
        strip = np.stack([front[edge], back[edge]], axis=0)
        meshes.append(open_mesh(strip, np.stack([facing, facing], axis=0)))
    return together(*meshes)


def _towards(step: Array) -> Array:
    return np.asarray(step / np.maximum(np.linalg.norm(step, axis=-1, keepdims=True), 1e-12))


def _layer(sheet: Sheet, offset: float) -> tuple[Array, Array]:
    skin = lofted(sheet.wall, sheet.formed.loft, sheet.columns % (2 * np.pi))
    return skin.positions + offset * skin.normals, skin.normals
