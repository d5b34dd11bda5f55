"""A carton as a pack: its pieces where they stand, what they are made of, and what is printed on them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from giftwrap.core.carton.shape import CartonShape, FoldedComponent, fold_carton
from giftwrap.core.errors import PackError, within
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import moved
from giftwrap.core.model import Carton, Pack, Panel
from giftwrap.core.model.material import plain
from giftwrap.core.things.pose import copied
from giftwrap.core.things.thing import Extent, Piece, Thing

MM3_PER_CM3 = 1000.0


@dataclass(frozen=True)
class CartonPack:
    """A pack that is a carton, in space."""

    pack: Pack
    shape: CartonShape
    pieces: tuple[Piece, ...]
    panels: tuple[Panel, ...]

    @property
    def parts(self) -> list[str]:
        """Its components."""
        return [one.component.name for one in self.shape.components]

    @cached_property
    def thing(self) -> Thing:
        """As a thing to be placed; its extent lies evenly around its middle."""
        points = np.vstack([piece.mesh.positions for piece in self.pieces])
        across, deep = (float(np.abs(points[:, k]).max()) for k in (0, 1))
        return Thing(
            self.pieces, Extent((-across, -deep, 0.0), (across, deep, float(points[:, 2].max()))), self.panels
        )


@dataclass(frozen=True)
class CartonFacts:
    """What a designer reads off a carton: mm, mm², g.

    size : what it takes up as it stands, across, deep and high
    steps : in which it closes
    """

    size: tuple[float, float, float]
    inside: tuple[float, float, float]
    board_area: float
    crease_length: float
    board_g: float
    panels: int
    steps: int
    triangles: int
    cautions: tuple[str, ...]


def shape_carton(pack: Pack) -> CartonPack:
    """Fold a pack that is a carton. Raises PackError, naming the field, when that cannot be done."""
    carton = pack.carton
    with within("form"):
        shape = fold_carton(carton)
        strange = set(carton.prints) - set(shape.blanks)
        if strange:
            raise PackError(
                f"This carton has no {min(strange)} to print on: choose one of {', '.join(shape.blanks)}.",
                f"prints.{min(strange)}",
            )
    hidden = {name for name, state in pack.parts.items() if state.hidden}
    pieces: list[Piece] = []
    panels: list[Panel] = []
    for one in shape.components:
        if one.component.name not in hidden:
            pieces += _pieces(one, carton, len(panels))
        panels.append(_print(one, carton))
    pieces += copied(pack, pieces)
    return CartonPack(pack, shape, tuple(pieces), tuple(panels))


def carton_facts(carton_pack: CartonPack) -> CartonFacts:
    """Read the facts off a folded carton."""
    carton, shape = carton_pack.pack.carton, carton_pack.shape
    points = np.vstack([piece.mesh.positions for piece in carton_pack.pieces] or [np.zeros((1, 3))])
    size = np.ptp(points, axis=0)
    blanks = shape.blanks.values()
    area = sum(blank.area for blank in blanks)
    density = plain(carton.board.outside).density
    return CartonFacts(
        size=(float(size[0]), float(size[1]), float(size[2])),
        inside=(carton.length, carton.width, carton.depth),
        board_area=area,
        crease_length=sum(blank.crease_length for blank in blanks),
        board_g=area * carton.board.caliper / MM3_PER_CM3 * density,
        panels=sum(len(blank.panels) for blank in blanks),
        steps=max(blank.steps for blank in blanks) + (len(blanks) > 1),
        triangles=sum(len(piece.mesh.faces) for piece in carton_pack.pieces),
        cautions=(),
    )


def _pieces(one: FoldedComponent, carton: Carton, panel: int) -> list[Piece]:
    """The printed side, the inside and the cut edges of one component."""
    name, board, faces = one.component.name, carton.board, one.faces
    edges = board.outside if board.wrapped else board.core
    printed = Mesh(
        faces.outside.positions, faces.outside.normals, _on_sheet(one, faces.outside.uvs), faces.outside.faces
    )
    return [
        Piece(name, name, name, moved(printed, one.pose), plain(board.outside), panel=panel),
        Piece(f"{name}, inside", name, name, moved(faces.inside, one.pose), plain(board.inside)),
        Piece(f"{name}, edge", name, name, moved(faces.edge, one.pose), plain(edges)),
    ]


def _on_sheet(one: FoldedComponent, places: Array) -> Array:
    """(n, 2) float: places on the blank, mm, as shares of its size."""
    left, foot, right, top = one.component.blank.outline.bounds
    return np.asarray((places - [left, foot]) / [right - left, top - foot])


def _print(one: FoldedComponent, carton: Carton) -> Panel:
    """A component's blank as a panel that is printed whole, its stock the board's outside."""
    width, height = one.component.blank.size
    return Panel(
        name=one.component.name,
        from_base=0.0,
        width=width,
        height=height,
        stock=plain(carton.board.outside),
        placements=carton.prints.get(one.component.name, []),
    )
