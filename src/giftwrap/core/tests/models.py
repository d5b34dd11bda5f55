"""Models as other people send them, made by trimesh: with everything that goes wrong in such files."""

from __future__ import annotations

import io
import zipfile
from typing import Any

import numpy as np
import trimesh
from PIL import Image, ImageDraw
from trimesh.visual import TextureVisuals
from trimesh.visual.material import PBRMaterial

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.shading import shaded
from giftwrap.core.mesh.topology import joined_points

OUTER = [(0, 0), (34, 0), (34, 120), (14, 150), (14, 180)]
INNER = [(11, 180), (11, 149), (30, 118), (30, 5), (0, 5)]
"""Half-profile of the bottle, mm: its outside up, its inside down."""


def exported(scene: trimesh.Scene | trimesh.Trimesh, kind: str) -> bytes:
    """A scene as a file of a kind."""
    data = scene.export(file_type=kind)
    return data.encode() if isinstance(data, str) else bytes(data)


def as_mesh(solid: trimesh.Trimesh, angle: float = 35.0) -> Mesh:
    """A trimesh as a mesh, shaded by angle."""
    positions = np.asarray(solid.vertices, dtype=float)
    return shaded(
        positions, np.asarray(solid.faces, dtype=np.int64), joined_points(positions, 1e-6)[1], None, angle
    )


def lathed(*corners: tuple[float, float], sections: int = 96) -> trimesh.Trimesh:
    """A half-profile revolved."""
    return trimesh.creation.revolve(np.array(corners, dtype=float), sections=sections)


def made_of(
    mesh: trimesh.Trimesh, name: str, colour: tuple[int, int, int, int], **look: Any
) -> trimesh.Trimesh:
    """A mesh with a material of some colour."""
    mesh.visual = TextureVisuals(material=PBRMaterial(name=name, baseColorFactor=list(colour), **look))
    return mesh


def label_sheet(
    radius: float = 34.2, half: float = 1.1, low: float = 30, high: float = 95
) -> trimesh.Trimesh:
    """A sheet bent around the bottle's front, with a picture on it."""
    angles, heights = np.linspace(-half, half, 41), np.linspace(low, high, 14)
    grid = np.array([[radius * np.sin(a), -radius * np.cos(a), z] for a in angles for z in heights])
    uvs = np.array([[i / 40, j / 13] for i in range(41) for j in range(14)])
    index = np.arange(41 * 14).reshape(41, 14)
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    faces = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    picture = Image.new("RGB", (752, 650), "#f4ecd8")
    ImageDraw.Draw(picture).ellipse((280, 200, 480, 400), fill="#7a1f2b")
    sheet = trimesh.Trimesh(grid, faces, process=False)
    look = PBRMaterial(name="paper", baseColorTexture=picture, metallicFactor=0.0, roughnessFactor=0.6)
    sheet.visual = TextureVisuals(uv=uvs, material=look)
    return sheet


def bottle_scene() -> trimesh.Scene:
    """A filled bottle in mm, z up: its liquid in the glass and inside out, its cap twice, in the floor."""
    glass = made_of(
        lathed(*OUTER, *INNER), "green glass", (140, 190, 150, 80), alphaMode="BLEND", metallicFactor=0.0
    )
    liquid = made_of(
        lathed((0, 4.5), (30.5, 4.5), (30.5, 100), (0, 100)), "juice", (220, 150, 40, 120), alphaMode="BLEND"
    )
    liquid.invert()
    cap = made_of(
        lathed((0, 170), (16, 170), (16, 195), (0, 195)), "brass", (212, 170, 90, 255), metallicFactor=1.0
    )
    parts = {
        "Bottle": glass,
        "Liquid": liquid,
        "Cap": cap,
        "Cap.001": cap.copy(),
        "Front label": label_sheet(),
    }
    scene = trimesh.Scene(parts)
    scene.apply_translation((5.0, 0.0, -20.0))
    return scene


def bottle_glb() -> bytes:
    """The bottle as glTF has it: in metres, y up."""
    scene = bottle_scene()
    scene.apply_transform(trimesh.transformations.rotation_matrix(-np.pi / 2, (1, 0, 0)))
    scene.apply_scale(0.001)
    return exported(scene, "glb")


def zipped(files: dict[str, bytes]) -> bytes:
    """Files in an archive."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return stream.getvalue()


def area_of(mesh: Mesh) -> float:
    """mm²."""
    a, b, c = (mesh.positions[mesh.faces[:, k]] for k in range(3))
    return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)


def whole(*meshes: Mesh) -> trimesh.Trimesh:
    """Meshes together as the library has them, their points joined."""
    points = np.vstack([m.positions for m in meshes])
    starts = np.cumsum([0, *(len(m.positions) for m in meshes[:-1])])
    faces = np.vstack([m.faces + start for m, start in zip(meshes, starts, strict=True)])
    places, index = joined_points(points, 1e-4)
    return trimesh.Trimesh(places, index[faces], process=False)
