"""All labels of a pack laid on it, one after the other."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from giftwrap.core.errors import PackError, within
from giftwrap.core.form.closures import Built
from giftwrap.core.form.formed import FormedBody
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.model import SealPanel, SleevePanel, WrapPanel
from giftwrap.core.wrap.laid import GLUE_GAP, Label, Laid
from giftwrap.core.wrap.picked import lay_picked
from giftwrap.core.wrap.seal import lay_seal
from giftwrap.core.wrap.sleeve import lay_sleeve
from giftwrap.core.wrap.walls import spanned, wall_of
from giftwrap.core.wrap.wrapped import lay_wrapped


@dataclass(frozen=True)
class Turned:
    """A pack that is formed around an axis: its body, and what shuts it."""

    formed: FormedBody
    built: Built | None


def lay_panels(
    panels: Sequence[Label], surfaces: Mapping[str, Callable[[], Mesh]], turned: Turned | None = None
) -> tuple[Laid, ...]:
    """Lay panels one after the other: where a later one covers an earlier one, it is stuck on top.

    surfaces : of each part that places may be picked on
    turned : what they may be wound around; None where there are only places to pick

    Raises PackError, naming the field, when one does not lie where it is to.
    """
    sheets: list[Laid] = []
    for index, panel in enumerate(panels):
        sheet = _laid(panel, surfaces, turned, f"panels.{index}")
        under = max((below.out for below in sheets if sheet.covers(below)), default=0.0)
        sheets.append(replace(sheet, gap=under + GLUE_GAP) if under else sheet)
    return tuple(sheets)


def _laid(
    panel: Label, surfaces: Mapping[str, Callable[[], Mesh]], turned: Turned | None, place: str
) -> Laid:
    if isinstance(panel, WrapPanel | SleevePanel | SealPanel):
        if turned is None:
            raise PackError("This pack is labelled where one picks a place on it.", f"{place}.kind")
        if isinstance(panel, WrapPanel):
            sheet: Laid = lay_wrapped(
                panel, wall_of(panel.part, turned.formed, turned.built, place=place), place=place
            )
        elif isinstance(panel, SleevePanel):
            sheet = lay_sleeve(panel, spanned(turned.formed, turned.built), place=place)
        else:
            sheet = lay_seal(panel, spanned(turned.formed, turned.built), place=place)
    else:
        if panel.part not in surfaces:
            known = ", ".join(list(surfaces)[:6])
            raise PackError(f"There is no “{panel.part}” to label: choose one of {known}.", f"{place}.part")
        sheet = lay_picked(panel, surfaces[panel.part](), place=place)
    with within(place):
        _ = sheet.cut  # says what is wrong with an outline where that can be mended
    return sheet
