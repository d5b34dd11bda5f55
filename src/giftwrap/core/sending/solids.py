"""A pack's solids in mm for printing a sample: STL, and 3MF with its parts by name."""

from __future__ import annotations

from typing import Literal

import numpy as np
import trimesh

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.mesh import Mesh, together
from giftwrap.core.mesh.topology import edges_of, joined_surface
from giftwrap.core.things.carton import CartonPack
from giftwrap.core.things.received import ReceivedPack
from giftwrap.core.things.vessel import VesselShape

SolidFormat = Literal["stl", "3mf"]
JOIN = 1e-5


def solids_of(shaped: VesselShape | ReceivedPack) -> dict[str, Mesh]:
    """What of a pack closes around itself, by parts, mm, as it stands; contents and labels are not solid."""
    parts: dict[str, list[Mesh]] = {}
    for piece in shaped.pieces:
        if piece.group not in ("contents", "labels") and piece.before is None:
            parts.setdefault(piece.part, []).append(piece.mesh)
    if isinstance(shaped, VesselShape) and "body" in parts:
        parts["body"] = list(shaped.wall)
    if isinstance(shaped, ReceivedPack):
        whole = shaped.model.surfaces
        parts = {name: [whole[name]] if name in whole else own for name, own in parts.items()}
    found = {name: _joined(together(*meshes)) for name, meshes in parts.items()}
    return {name: mesh for name, mesh in found.items() if not len(edges_of(mesh.faces).rims)}


def write_solids(shaped: VesselShape | CartonPack | ReceivedPack, form: SolidFormat) -> bytes:
    """A pack as a file for printing a sample, in mm.

    Raises PackError when nothing of it is closed, or when it is a carton, which is cut from board.
    """
    if isinstance(shaped, CartonPack):
        raise PackError("A carton is cut from board, not printed as a solid: save its blank.")
    solids = solids_of(shaped)
    if not solids:
        raise PackError(
            "Nothing of this pack is closed around itself, so none can be printed: close its holes."
        )
    scene = trimesh.Scene()
    for name, mesh in solids.items():
        scene.add_geometry(trimesh.Trimesh(mesh.positions, mesh.faces, process=False), name, name)
    if form == "stl":
        return bytes(trimesh.exchange.stl.export_stl(scene.to_mesh()))
    for geometry in scene.geometry.values():
        geometry.units = "millimeter"
    return bytes(trimesh.exchange.threemf.export_3MF(scene))


def _joined(mesh: Mesh) -> Mesh:
    """A mesh whose points at one place are one."""
    points, faces, index = joined_surface(mesh, JOIN)
    normals = np.zeros_like(points)
    normals[index] = mesh.normals
    return Mesh(points, normals, np.zeros((len(points), 2)), faces)
