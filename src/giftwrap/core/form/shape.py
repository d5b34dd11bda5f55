"""A whole pack shaped: every part built and checked against the others."""

from __future__ import annotations

from dataclasses import dataclass

from giftwrap.core.errors import PackError
from giftwrap.core.form.closure import Cap, build_cap
from giftwrap.core.form.vessel import Liquid, Vessel, build_vessel, pour
from giftwrap.core.model import Pack
from giftwrap.core.wrap.panel import Sheet, lay_panel


@dataclass(frozen=True)
class Shape:
    """The geometry of a pack."""

    pack: Pack
    vessel: Vessel
    liquid: Liquid | None
    cap: Cap | None
    sheets: tuple[Sheet, ...]

    @property
    def height(self) -> float:
        """Height of the closed pack in mm."""
        return self.cap.top if self.cap else self.vessel.rim_height

    @property
    def radius(self) -> float:
        """Largest radius in mm."""
        return float(self.vessel.outer.points[:, 0].max())


def shape_pack(pack: Pack) -> Shape:
    """Build a pack's parts.

    Raises PackError, naming the field, when they contradict each other.
    """
    vessel = build_vessel(pack.body)
    liquid = pour(vessel, pack.contents) if pack.contents else None
    cap = build_cap(pack.closure, vessel) if pack.closure else None
    sheets = tuple(
        lay_panel(panel, vessel, place=f"panels.{index}") for index, panel in enumerate(pack.panels)
    )
    for index, sheet in enumerate(sheets):
        highest = float(sheet.face.points[:, 1].max())
        if cap and pack.closure and highest > cap.top - pack.closure.height:
            raise PackError(
                f"“{sheet.panel.name}” reaches under the closure at {cap.top - pack.closure.height:.1f} mm: "
                "make it shorter or lower it.",
                f"panels.{index}.height",
            )
    return Shape(pack, vessel, liquid, cap, sheets)
