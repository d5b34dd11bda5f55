"""Bringing our surfaces before general-purpose mesh libraries."""

from __future__ import annotations

import numpy as np
import trimesh
from manifold3d import Error

from giftwrap.core.form.formed import FormedBody
from giftwrap.core.form.skin import skin_mesh
from giftwrap.core.mesh.mesh import Mesh, flipped, together
from giftwrap.core.mesh.solids import kernel_solid
from giftwrap.core.render.engine import light_engine
from giftwrap.core.things.vessel import VesselShape


def library_mesh(mesh: Mesh) -> trimesh.Trimesh:
    """A mesh in trimesh, its doubled points joined."""
    found = trimesh.Trimesh(mesh.positions, mesh.faces, process=False)
    found.merge_vertices(merge_tex=True, merge_norm=True, digits_vertex=6)
    found.update_faces(found.nondegenerate_faces())
    return found


def cavity_mesh(formed: FormedBody) -> Mesh:
    """The inside closed by a level lid at the rim."""
    ring = formed.inner.positions[:, -1]
    count = len(ring)
    points = np.vstack([ring, ring.mean(axis=0)])
    fan = np.array([[i, (i + 1) % count, count] for i in range(count)])
    up = np.tile([0.0, 0.0, 1.0], (count + 1, 1))
    a, b, c = points[fan[0]]
    faces = fan if np.cross(b - a, c - a)[2] > 0 else fan[:, ::-1]
    lid = Mesh(points, up, np.zeros((count + 1, 2)), faces)
    return together(flipped(skin_mesh(formed.inner)), lid)


def closed_solids(shape: VesselShape) -> dict[str, Mesh]:
    """Everything in a pack that is one closed surface: walls, contents, parts of the closure, labels."""
    found: dict[str, list[Mesh]] = {}
    for piece in shape.pieces:
        found.setdefault(piece.part, []).append(piece.mesh)
        if piece.before is not None:
            found.setdefault(piece.before, []).append(flipped(piece.mesh))
    return {name: together(*meshes) for name, meshes in found.items()}


def is_sound(mesh: Mesh) -> bool:
    """Whether the boolean kernel takes a mesh for one oriented, closed solid of positive volume."""
    solid = kernel_solid(mesh)
    return solid.status() == Error.NoError and solid.volume() > 0


def out_of_order(mesh: Mesh, *, rays: int = 4000, seed: int = 0) -> float:
    """Share of random rays through a closed surface that do not enter and leave it in turns.

    The nearest surfaces are found by the renderer library. Where a surface folds over itself or two
    of its parts cross, rays enter twice or leave twice; of a sound one hardly any do, by rounding.
    """
    surface = _Rays(mesh)
    a, b, c = (mesh.positions[mesh.faces[:, k]] for k in range(3))
    outwards = np.cross(b - a, c - a)
    rng = np.random.default_rng(seed)
    low, high = mesh.positions.min(axis=0), mesh.positions.max(axis=0)
    way = rng.normal(size=(rays, 3))
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    at = low + rng.random((rays, 3)) * (high - low) - 2 * np.linalg.norm(high - low) * way
    inside, wrong, on = np.zeros(rays, int), np.zeros(rays, bool), np.arange(rays)
    while len(on):
        met, face, far = surface.first(at[on], way[on])
        wrong[on[~met]] |= inside[on[~met]] != 0
        on, face, far = on[met], face[met], far[met]
        inside[on] += np.where((outwards[face] * way[on]).sum(axis=1) < 0, 1, -1)
        wrong[on] |= (inside[on] < 0) | (inside[on] > 1)
        at[on] += way[on] * (far + 1e-3)[:, None]
    return float(wrong.mean())


ASIDE = 2e-3
"""Radians beside a column at which rays are sent, as along an edge they may slip through."""


def walls_by_rays(formed: FormedBody, low: float, high: float, *, rays: int = 2000) -> np.ndarray:
    """(rays,) mm from random places of an upright outside between two heights straight inwards.

    They start beside its columns, between which what is drawn is a chord.
    """
    rng = np.random.default_rng(0)
    heights, columns = rng.uniform(low, high, rays), rng.choice(formed.columns, rays) + ASIDE
    radii = np.interp(heights, formed.outer.points[:, 1], formed.outer.points[:, 0])
    around = formed.loft.at(heights[:1], columns)  # the same at every height, as it is upright
    at = np.column_stack([around.points[:, 0] * radii[:, None], heights])
    way = -np.column_stack([around.normals[:, 0], np.zeros(rays)])
    met, _, far = _Rays(skin_mesh(formed.inner)).first(at, way)
    return np.where(met, far, np.inf)


class _Rays:
    """A surface that the renderer library finds the nearest hits of."""

    def __init__(self, mesh: Mesh) -> None:
        self._engine = light_engine()
        loaded = self._engine.Mesh("surface", vertex_count=len(mesh.positions), face_count=len(mesh.faces))
        values = self._engine.traverse(loaded)
        values["vertex_positions"] = mesh.positions.astype(np.float32).ravel()
        values["faces"] = mesh.faces.astype(np.uint32).ravel()
        values.update()
        self._scene = self._engine.load_dict({"type": "scene", "surface": loaded})

    def first(self, at: np.ndarray, way: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Whether each ray meets it, which triangle first, and how far away, mm."""
        start, along = (np.ascontiguousarray(v.T, np.float32) for v in (at, way))
        ray = self._engine.Ray3f(self._engine.Point3f(*start), self._engine.Vector3f(*along))
        found = self._scene.ray_intersect_preliminary(ray, coherent=False)
        return np.array(found.is_valid()), np.array(found.prim_index), np.array(found.t)
