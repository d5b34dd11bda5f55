"""The development of a cone: labels on tapered walls as they are cut out of a sheet, as pieces of a ring.

Places on the flat sheet are mm from the lower left corner of a rectangle as wide as the label is half way up
and as tall as it is along the wall; a piece of a ring goes beyond it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giftwrap.core.mesh.path import Array, Path
from giftwrap.core.model import Printed, WrapPanel

STRAIGHT = 1e-4
"""A wall that leans by less, as the sine of its angle, is a cylinder's: its sheet is no piece of a ring."""
RING_STEPS = 96


@dataclass(frozen=True)
class Development:
    """A cone around a piece of wall, rolled out.

    lean : sine of the angle between wall and axis; the wall narrows upwards where positive
    apex : mm along the wall from its foot to the cone's apex; negative where that is below
    turn : radians around the axis that the label takes up; width, height : of the label, mm
    stretch : most that the printed face is longer or shorter around than the cone's
    """

    lean: float
    apex: float
    turn: float
    width: float
    height: float
    stretch: float

    def flat(self, across: Array, along: Array) -> Array:
        """(…, 2) mm on the sheet: `across` from the left edge (0) to the right one (1), `along` mm up the
        wall."""
        angle = (across - 0.5) * self.turn * self.lean
        reach = self.apex - along
        middle = self.apex - self.height / 2
        x, y = reach * np.sin(angle), middle - reach * np.cos(angle)
        return np.stack(np.broadcast_arrays(x + self.width / 2, y + self.height / 2), axis=-1)

    @property
    def outline(self) -> Array:
        """(n, 2) mm: what the label is cut to."""
        steps = np.linspace(0, 1, RING_STEPS + 1)
        foot, top = self.flat(steps, np.array(0.0)), self.flat(steps[::-1], np.array(self.height))
        return np.concatenate([foot, top])

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, foot, right and top of it, mm."""
        low, high = self.outline.min(axis=0), self.outline.max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def development_of(panel: WrapPanel, wall: Path, turn: float, out: float) -> Development | None:
    """How a label on a round wall rolls out; None where that is a rectangle.

    wall : behind it, bottom to top; turn : radians that it takes up half way up
    out : mm from the wall to its printed face
    """
    foot, top = wall.points[0], wall.points[-1]
    rise = top - foot
    slant = float(np.hypot(*rise))
    lean = float(-rise[0] / slant)
    if abs(lean) < STRAIGHT:
        return None
    # the face runs beside the wall: its cone has the same lean, and is wider by how far it is out
    lengths = wall.lengths()
    face = wall.points[:, 0] + out * wall.normals[:, 0]
    middle = float(np.interp(panel.height / 2, lengths, face))
    apex = middle / lean + panel.height / 2
    cone = (apex - lengths) * lean
    stretch = float(np.abs(face / cone - 1).max())
    return Development(lean, apex, turn, panel.width, panel.height, stretch)


def on_its_page(panel: Printed, development: Development) -> Printed:
    """A panel as large as what it is cut out of, with everything placed on it where it was."""
    left, foot, right, top = development.bounds
    moved = [p.model_copy(update={"x": p.x - left, "y": p.y - foot}) for p in panel.placements]
    return panel.model_copy(update={"width": right - left, "height": top - foot, "placements": moved})
