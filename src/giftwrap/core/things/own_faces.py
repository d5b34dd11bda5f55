"""Panels of a carton whose outside is made of something else than the board's."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from giftwrap.core.carton.areas import panel_of
from giftwrap.core.carton.shape import CartonShape
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.model import Printed
from giftwrap.core.model.material import plain
from giftwrap.core.things.thing import Piece


def with_own_faces(
    pieces: Sequence[Piece], panels: Sequence[Printed], shape: CartonShape
) -> tuple[list[Piece], tuple[Printed, ...]]:
    """A carton's pieces and panels, those of its components first, with the outsides of some panels as pieces
    that are printed alike on another stock.

    Raises PackError, with the place in the form, when it has no such panel.
    """
    components = [one.component for one in shape.components]
    wanted: dict[int, dict[str, Printed]] = {}
    for name, material in shape.carton.faces.items():
        number, panel = panel_of(components, name, f"faces.{name}")
        wanted.setdefault(number, {})[panel.name] = panels[number].model_copy(
            update={"stock": plain(material)}
        )
    found, prints = [], list(panels)
    for piece in pieces:
        number = piece.panel if piece.panel is not None else -1
        own = wanted.get(number, {}) if piece.name == piece.part else {}
        if not own:
            found.append(piece)
            continue
        blank = components[number].blank
        meshes = _parted(piece.mesh, [blank.by_name[name].outline for name in own], blank.outline.bounds)
        found.append(replace(piece, mesh=meshes[0]))
        for mesh, (name, printed) in zip(meshes[1:], own.items(), strict=True):
            title = f"{piece.name}, {name}"
            found.append(replace(piece, name=title, mesh=mesh, material=printed.made_of, panel=len(prints)))
            prints.append(printed)
    return [piece for piece in found if len(piece.mesh.faces)], tuple(prints)


def _parted(
    mesh: Mesh, outlines: Sequence[shapely.Polygon], bounds: tuple[float, float, float, float]
) -> list[Mesh]:
    """What of an outside lies on none of some panels, then what lies on each; its uvs are shares of the
    blank."""
    left, foot, right, top = bounds
    middles = mesh.uvs[mesh.faces].mean(axis=1) * [right - left, top - foot] + [left, foot]
    lies = np.zeros(len(middles), np.int64)
    for number, outline in enumerate(outlines, start=1):
        lies[shapely.contains_xy(outline, middles)] = number
    return [_only(mesh, lies == number) for number in range(len(outlines) + 1)]


def _only(mesh: Mesh, chosen: NDArray[np.bool_]) -> Mesh:
    """Some faces of a mesh, with the corners that they need."""
    faces = mesh.faces[chosen]
    used, places = np.unique(faces, return_inverse=True)
    return Mesh(mesh.positions[used], mesh.normals[used], mesh.uvs[used], places.reshape(-1, 3))
