"""A wrap-around panel on the wall: where its sheet lies, and how it curves."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.form.mesh import Mesh, revolve
from giftwrap.core.form.path import Path, cut, joined, length_at_height, reversed_path, shifted
from giftwrap.core.form.vessel import Vessel
from giftwrap.core.model import Panel

GLUE_GAP = 0.05
"""Distance in mm between wall and sheet: wide enough for single-precision rays, too small to see."""


@dataclass(frozen=True)
class Sheet:
    """A panel as laid on the pack.

    face : path of the printed face along the wall, bottom to top
    radius, around : radius and circumference in mm at which the printed face's width is exact
    start, turn : radians from the front, growing to the right
    stretch : largest relative difference of the wall's radius under the sheet; paper creases
        above a few per cent
    """

    panel: Panel
    wall: Path
    face: Path
    radius: float
    around: float
    start: float
    turn: float
    stretch: float


def lay_panel(panel: Panel, vessel: Vessel, *, place: str = "panels.0") -> Sheet:
    """Lay a panel on a vessel's outer wall.

    Raises PackError when the sheet is taller than the wall above it or wider than the pack around.
    """
    outer = vessel.outer
    rim = vessel.rim_height
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
    offset = GLUE_GAP + panel.stock_thickness
    face = shifted(wall, offset)
    lengths = face.lengths()
    radius = float(np.interp(lengths[-1] / 2, lengths, face.points[:, 0]))
    around = 2 * np.pi * radius
    if panel.width > around:
        raise PackError(
            f"“{panel.name}” is {panel.width:g} mm wide, but the pack is only {around:.1f} mm around there: "
            "make it narrower.",
            f"{place}.width",
        )
    turn = panel.width / radius
    radii = wall.points[:, 0]
    return Sheet(
        panel=panel,
        wall=wall,
        face=face,
        radius=radius,
        around=float(around),
        start=float(np.radians(panel.centre_angle)) - turn / 2,
        turn=turn,
        stretch=float((radii.max() - radii.min()) / radii.max()),
    )


def face_mesh(sheet: Sheet) -> Mesh:
    """The printed face; its uvs run left to right and bottom to top as seen from outside."""
    return revolve(sheet.face, start=sheet.start, turn=sheet.turn)


def back_mesh(sheet: Sheet) -> Mesh:
    """The back of the sheet with its upper and lower edges."""
    inner = shifted(sheet.wall, GLUE_GAP)
    top = _edge(sheet.face.points[-1], inner.points[-1])
    bottom = _edge(inner.points[0], sheet.face.points[0])
    loop = joined(top, reversed_path(inner), bottom)
    return revolve(loop, start=sheet.start, turn=sheet.turn)


def _edge(start: np.ndarray, end: np.ndarray) -> Path:
    direction = (end - start) / np.linalg.norm(end - start)
    normal = np.array([direction[1], -direction[0]])
    return Path(np.array([start, end]), np.array([normal, normal]))
