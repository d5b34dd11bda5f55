"""Grown, broken and woven solids: a grid or a ball of points that is pulled into shape."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

import numpy as np
import trimesh
from numpy.random import Generator, default_rng

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.mesh.shading import shaded
from giftwrap.core.mesh.topology import joined_points, without_doubles
from giftwrap.core.model.prop import MadeProp

Size = tuple[float, float, float]
SMOOTH = 180.0
JOIN = 1e-7


def rng_of(prop: MadeProp) -> Generator:
    """Chance by a prop's seed, another for each kind."""
    return default_rng([prop.seed, *prop.what.encode()])


def size_of(prop: MadeProp) -> Size:
    """Mm across, deep and high."""
    return prop.width, prop.depth, prop.height


@cache
def ball(rounds: int) -> tuple[Array, Indices]:
    """Directions all around, (n, 3), and the faces between them."""
    found = trimesh.creation.icosphere(subdivisions=rounds)
    return np.asarray(found.vertices, dtype=float), np.asarray(found.faces, dtype=np.int64)


def waves(rng: Generator, places: Array, often: float, count: int = 24) -> Array:
    """(n,) about -1..1: smooth noise at places, (n, 3), that goes up and down so often per unit."""
    ways = rng.normal(size=(count, 3))
    ways *= often * rng.uniform(0.6, 1.4, (count, 1)) / np.linalg.norm(ways, axis=1, keepdims=True)
    phases = rng.uniform(0, 2 * np.pi, count)
    summed: Array = np.sin(2 * np.pi * places @ ways.T + phases).sum(axis=1) / np.sqrt(count / 2)
    return summed / 2


def rough(rng: Generator, places: Array, often: float, fall: float = 0.5, layers: int = 4) -> Array:
    """(n,) noise at places in layers, each twice as fine and `fall` as high as the one before."""
    return np.asarray(
        sum(fall**k * waves(rng, places, often * 2**k) for k in range(layers))
        / sum(fall**k for k in range(layers))
    )


def fitted(points: Array, faces: Indices, size: Size, smooth: float = SMOOTH) -> Mesh:
    """A surface as a mesh of a size, mm across, deep and high, standing in the middle of the floor.

    smooth : degrees up to which faces are shaded as one
    """
    low, high = points.min(axis=0), points.max(axis=0)
    scaled = (points - low) / np.maximum(high - low, 1e-9) * size - np.array([size[0] / 2, size[1] / 2, 0.0])
    return surface(scaled, faces, smooth)


def surface(points: Array, faces: Indices, smooth: float = SMOOTH) -> Mesh:
    """A surface as a mesh; points that lie together are one."""
    joined, index = joined_points(points, JOIN * max(float(np.ptp(points, axis=0).max()), 1.0))
    own = index[faces]
    own = own[without_doubles(own)]
    return shaded(joined, own, np.arange(len(joined)), None, smooth)


def sheet(places: Array, thickness: float, normals: Array | None = None) -> tuple[Array, Indices]:
    """A closed skin of a thickness under a grid of places, (u, v, 3): points and faces."""
    if normals is None:
        along, across = np.gradient(places, axis=0), np.gradient(places, axis=1)
        normals = np.cross(along, across)
        length = np.linalg.norm(normals, axis=-1, keepdims=True)
        normals = np.where(length > 1e-9, normals / np.maximum(length, 1e-9), [0.0, 0.0, 1.0])
        normals *= np.sign(normals[..., 2].sum() or 1.0)
    columns, rows = places.shape[:2]
    points = np.concatenate([places.reshape(-1, 3), (places - thickness * normals).reshape(-1, 3)])
    index = np.arange(columns * rows).reshape(columns, rows)
    upper = quads(index)
    rim = np.concatenate([index[:-1, 0], index[-1, :-1], index[:0:-1, -1], index[0, :0:-1]])
    under = columns * rows
    following = np.roll(rim, -1)
    sides = [
        np.stack([rim, rim + under, following + under], -1),
        np.stack([rim, following + under, following], -1),
    ]
    return points, np.concatenate([upper, upper[:, ::-1] + under, *sides])


def quads(index: Indices) -> Indices:
    """Two triangles between each two columns and rows of a grid of numbers."""
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    return np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])


def tube(line: Array, radii: Array, around: int = 14) -> tuple[Array, Indices]:
    """A closed tube along a line, (n, 3), of radii (n,): points and faces."""
    along = np.gradient(line, axis=0)
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    side = np.cross(along[0], [0.3, 0.5, 0.8])
    sides = []
    for way in along:  # carried along without turning
        side = side - way * (side @ way)
        side = side / np.linalg.norm(side)
        sides.append(side)
    right = np.array(sides)
    up = np.cross(along, right)
    turn = np.linspace(0.0, 2 * np.pi, around, endpoint=False)
    spokes = np.cos(turn)[:, None, None] * right + np.sin(turn)[:, None, None] * up
    rings = line + radii[:, None] * spokes
    count = len(line)
    points = np.concatenate([rings.reshape(-1, 3), line[[0, -1]]])
    index = np.arange(around * count).reshape(around, count)
    following = np.roll(index, -1, axis=0)
    faces = quads(np.concatenate([index, index[:1]]))
    first = np.stack([following[:, 0], index[:, 0], np.full(around, around * count)], -1)
    last = np.stack([index[:, -1], following[:, -1], np.full(around, around * count + 1)], -1)
    return points, np.concatenate([faces, first, last])


def outwards(points: Array, faces: Indices) -> Indices:
    """Faces of a closed surface, turned so that they face outwards."""
    corners = points[faces]
    volume = float(np.einsum("nd,nd->n", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum())
    return faces if volume >= 0 else faces[:, ::-1].copy()


def exactly(meshes: Sequence[Mesh], size: Size) -> list[Mesh]:
    """Meshes that together are as large as is wanted, mm, in the middle of the floor."""
    low = np.min([mesh.positions.min(axis=0) for mesh in meshes], axis=0)
    high = np.max([mesh.positions.max(axis=0) for mesh in meshes], axis=0)
    factor = np.array(size) / (high - low)
    middle = np.array([*((low + high) / 2)[:2], low[2]])
    if np.allclose(factor, 1.0, atol=1e-6) and np.allclose(middle, 0.0, atol=1e-6):
        return list(meshes)
    found = []
    for mesh in meshes:
        normals = mesh.normals / factor
        normals = normals / np.linalg.norm(normals, axis=1, keepdims=True)
        found.append(Mesh((mesh.positions - middle) * factor, normals, mesh.uvs, mesh.faces))
    return found
