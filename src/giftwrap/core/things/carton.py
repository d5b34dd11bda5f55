"""A carton as a pack: its pieces where they stand, what they are made of, and what is printed on them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from giftwrap.core.carton.areas import film_of
from giftwrap.core.carton.shape import CartonShape, FoldedComponent, floor_of, fold_carton
from giftwrap.core.errors import PackError, within
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import moved
from giftwrap.core.model import Carton, Pack, Printed
from giftwrap.core.model.material import plain
from giftwrap.core.things.labels import label_pieces
from giftwrap.core.things.own_faces import with_own_faces
from giftwrap.core.things.pose import copied
from giftwrap.core.things.received import added_parts, extent_around, hidden_parts, with_added
from giftwrap.core.things.stuck_on import lay_on_board, surfaces_of
from giftwrap.core.things.thing import Inside, Piece, Thing
from giftwrap.core.wrap.laid import Laid

MM3_PER_CM3 = 1000.0


@dataclass(frozen=True)
class CartonPack:
    """A pack that is a carton, in space.

    panels : its blanks as they are printed, its labels, what is printed on models that were added, then its
        blanks again on the stock of panels that have one of their own
    sheets : its labels as they lie; surfaces : what they may lie on
    """

    pack: Pack
    shape: CartonShape
    pieces: tuple[Piece, ...]
    panels: tuple[Printed, ...]
    sheets: tuple[Laid, ...]

    @cached_property
    def surfaces(self) -> Mapping[str, Callable[[], Mesh]]:
        """What labels may lie on, as it stands."""
        return surfaces_of(self.shape)

    @property
    def first_label(self) -> int:
        """The number of its first label among its panels."""
        return len(self.shape.components)

    @property
    def parts(self) -> list[str]:
        """Its components, its labels, and the parts of models that were added to it."""
        own = [one.component.name for one in self.shape.components]
        return [*own, *(f"label-{i + 1}" for i in range(len(self.sheets))), *added_parts(self.pack)]

    @cached_property
    def thing(self) -> Thing:
        """As a thing to be placed; its extent lies evenly around its middle."""
        carton = self.shape.carton
        holes = tuple((hole.x, hole.y) for hole in carton.insert.holes) if carton.insert else ()
        inside = Inside(floor_of(self.shape), (carton.length, carton.width), holes)
        return Thing(self.pieces, extent_around(self.pieces), self.panels, inside)


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


def shape_carton(pack: Pack, files: Mapping[str, bytes] | None = None, *, coarse: bool = False) -> CartonPack:
    """Fold a pack that is a carton. Raises PackError, naming the field, when that cannot be done.

    files : contents by SHA-256, of models that were added to it
    """
    carton = pack.carton
    with within("form"):
        shape = fold_carton(carton)
        strange = set(carton.prints) - set(shape.blanks)
        if strange:
            raise PackError(
                f"This carton has no {min(strange)} to print on: choose one of {', '.join(shape.blanks)}.",
                f"prints.{min(strange)}",
            )
    hidden = hidden_parts(pack)
    pieces: list[Piece] = []
    panels: list[Printed] = []
    for one in shape.components:
        if one.component.name not in hidden:
            pieces += _pieces(one, carton, len(panels))
        panels.append(_print(one, carton))
    sheets = lay_on_board(pack.panels, shape)
    pieces += label_pieces(sheets, lambda part: part not in hidden, first=len(panels))
    panels += [sheet.printed for sheet in sheets]
    pieces, prints = with_added(pack, pieces, tuple(panels), files or {}, coarse=coarse)
    with within("form"):
        pieces, prints = with_own_faces(pieces, prints, shape)
    pieces += copied(pack, pieces)
    return CartonPack(pack, shape, tuple(pieces), prints, sheets)


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
        *_films(one, carton),
    ]


def _films(one: FoldedComponent, carton: Carton) -> list[Piece]:
    """The films behind a component's windows."""
    name, found = one.component.name, []
    for number, (panel, window) in enumerate(one.component.windows, start=1):
        if window.film is not None:
            film = film_of(one.component.blank.by_name[panel], window, one.folded)
            mesh = moved(film, one.pose)
            found.append(Piece(f"{name}, film {number}", name, name, mesh, plain(window.film)))
    return found


def _on_sheet(one: FoldedComponent, places: Array) -> Array:
    """(n, 2) float: places on the blank, mm, as shares of its size."""
    left, foot, right, top = one.component.blank.outline.bounds
    return np.asarray((places - [left, foot]) / [right - left, top - foot])


def _print(one: FoldedComponent, carton: Carton) -> Printed:
    """A component's blank as a panel that is printed whole, its stock the board's outside."""
    width, height = one.component.blank.size
    return Printed(
        name=one.component.name,
        width=width,
        height=height,
        stock=plain(carton.board.outside),
        placements=carton.prints.get(one.component.name, []),
        run=carton.runs.get(one.component.name, []),
    )
