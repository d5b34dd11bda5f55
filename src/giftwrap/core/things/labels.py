"""Labels among the pieces of a thing."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.model import Clear
from giftwrap.core.things.thing import Piece
from giftwrap.core.wrap.laid import Laid


def label_pieces(
    sheets: Sequence[Laid],
    shown: Callable[[str], bool],
    *,
    first: int = 0,
    placed: Callable[[Laid, Mesh], Mesh] = lambda sheet, mesh: mesh,
) -> list[Piece]:
    """The labels of a thing that are shown: what is printed of each, and what else is to be seen of it.

    first : number of the first one's panel; placed : a mesh of one, where its part stands

    Film has a face alone, which is seen from both sides; so has what is cut through, with the edges.
    """
    pieces = []
    for index, sheet in enumerate(sheets):
        part, stock = f"label-{index + 1}", sheet.panel.made_of
        if not shown(part):
            continue
        pieces.append(Piece(part, part, "labels", placed(sheet, sheet.face), stock, panel=first + index))
        if not isinstance(stock, Clear):
            rest = sheet.rim if sheet.panel.pierced else sheet.back
            pieces.append(Piece(f"{part}-back", part, "labels", placed(sheet, rest), stock))
    return pieces
