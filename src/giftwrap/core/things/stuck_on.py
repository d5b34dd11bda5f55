"""Labels and seals on cartons: kept where they lie on the blank, and laid where that is when it is folded.

What holds a carton shut lies on all of it, as film over its gaps.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import cache, partial

import igl
import numpy as np
import trimesh

from giftwrap.core.carton.shape import CartonShape, FoldedComponent
from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.nearest import carried
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import moved
from giftwrap.core.model import PickedPanel
from giftwrap.core.wrap.laid import Label, Laid
from giftwrap.core.wrap.laying import lay_panels

CLOSED = "closed carton"
"""What seals lie on: the whole carton with its gaps bridged."""
BRIDGED = 2.0
"""Mm that a label may stand off the board at the most (common practice)."""
NEAR = 0.5
"""Mm from what bridges the gaps within which a place is one of it."""
LATTICE = 6


def surfaces_of(shape: CartonShape) -> dict[str, Callable[[], Mesh]]:
    """What labels may lie on: all of it while it is closed, and the outside of each component."""
    own = {one.component.name: cache(partial(_outside, one)) for one in shape.components}
    carton = shape.carton
    shut = {CLOSED: cache(partial(_bridged, shape))} if carton.shut else {}
    return {**shut, **own}


def lay_on_board(panels: Sequence[Label], shape: CartonShape) -> tuple[Laid, ...]:
    """Lay labels on a carton as it is folded.

    Raises PackError, naming the field, when one does not lie where it is to.
    """
    surfaces = surfaces_of(shape)
    for index, panel in enumerate(panels):
        if isinstance(panel, PickedPanel) and panel.part == CLOSED and CLOSED not in surfaces:
            raise PackError(
                f"“{panel.name}” holds the carton shut: close it, or take the label off.",
                f"panels.{index}.part",
            )
    folded = [_where_folded(panel, shape) for panel in panels]
    sheets = lay_panels(folded, surfaces)
    for index, sheet in enumerate(sheets):
        off = _stands_off(sheet, shape) if sheet.part == CLOSED else 0.0
        if off > BRIDGED:
            raise PackError(
                f"“{sheet.panel.name}” stands {off:.1f} mm off the board there: move it, or let it lie on "
                "one part of the carton.",
                f"panels.{index}.part",
            )
    return sheets


def part_at(shape: CartonShape, part: str, at: Array) -> str:
    """What a label lies on that is put on a place of a component, (3,) mm: all of a closed carton, where
    nothing of it lies deeper there."""
    surfaces = surfaces_of(shape)
    if CLOSED not in surfaces:
        return part
    hull = surfaces[CLOSED]()
    distance = igl.point_mesh_squared_distance(at[None], hull.positions, hull.faces)[0]
    return CLOSED if distance[0] < NEAR**2 else part


def on_the_blank(panel: PickedPanel, shape: CartonShape) -> PickedPanel:
    """A label whose place is said in space, with that on its component's blank: so it goes along when that is
    folded."""
    mesh = _components(shape).get(panel.part)
    if mesh is None:
        return panel
    place = carried(np.array([panel.at]), mesh.positions, mesh.faces, _flat(mesh))[0]
    return panel.model_copy(update={"at": tuple(round(float(v), 4) for v in place)})


def _where_folded(panel: Label, shape: CartonShape) -> Label:
    """A label with its place in space."""
    mesh = _components(shape).get(panel.part) if isinstance(panel, PickedPanel) else None
    if mesh is None:
        return panel
    assert isinstance(panel, PickedPanel)
    place = carried(np.array([panel.at]), _flat(mesh), mesh.faces, mesh.positions)[0]
    return panel.model_copy(update={"at": tuple(float(v) for v in place)})


def _components(shape: CartonShape) -> Mapping[str, Mesh]:
    return {one.component.name: _outside(one) for one in shape.components}


def _outside(one: FoldedComponent) -> Mesh:
    """A component's outside where it stands; its uvs are mm from the lower left corner of its blank."""
    left, foot, _, _ = one.component.blank.outline.bounds
    outside = one.faces.outside
    placed = Mesh(outside.positions, outside.normals, outside.uvs - [left, foot], outside.faces)
    return moved(placed, one.pose)


def _flat(mesh: Mesh) -> Array:
    return np.column_stack([mesh.uvs, np.zeros(len(mesh.uvs))])


def _bridged(shape: CartonShape) -> Mesh:
    """All of a carton, its gaps bridged as film does that is pulled over them."""
    points = np.vstack([mesh.positions for mesh in _components(shape).values()])
    hull = trimesh.convex.convex_hull(points)
    return Mesh(
        np.asarray(hull.vertices, float),
        np.asarray(hull.vertex_normals, float),
        np.zeros((len(hull.vertices), 2)),
        np.asarray(hull.faces, np.int64),
    )


def _stands_off(sheet: Laid, shape: CartonShape) -> float:
    """Mm that a label is away from the nearest board where it is furthest."""
    corners = sheet.face.positions[sheet.face.faces]
    shares = np.array([(i, j, LATTICE - i - j) for i in range(LATTICE + 1) for j in range(LATTICE + 1 - i)])
    places = np.einsum("ck,fkx->fcx", shares / LATTICE, corners).reshape(-1, 3)
    away = [
        igl.point_mesh_squared_distance(places, mesh.positions, mesh.faces)[0]
        for mesh in _components(shape).values()
    ]
    return float(np.sqrt(np.min(away, axis=0).max())) - sheet.out
