"""Rigid moves as 4 × 4 matrices: z up, the front at −y, angles in degrees."""

from __future__ import annotations

import numpy as np

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array


def shift(x: float, y: float, z: float) -> Array:
    """Moved by mm."""
    matrix = np.eye(4)
    matrix[:3, 3] = (x, y, z)
    return matrix


def turn(degrees: float) -> Array:
    """Turned about the upright axis, the front to the right."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    matrix = np.eye(4)
    matrix[0, :2], matrix[1, :2] = (c, -s), (s, c)
    return matrix


def lean(degrees: float) -> Array:
    """Leaning to the right, about the axis from front to back."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    matrix = np.eye(4)
    matrix[0, [0, 2]], matrix[2, [0, 2]] = (c, s), (-s, c)
    return matrix


def nod(degrees: float) -> Array:
    """Leaning backwards, about the axis from left to right."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    matrix = np.eye(4)
    matrix[1, 1:3], matrix[2, 1:3] = (c, s), (-s, c)
    return matrix


def moved(mesh: Mesh, matrix: Array) -> Mesh:
    """A mesh after a rigid 4 × 4 transform."""
    if np.array_equal(matrix, np.eye(4)):
        return mesh
    positions = points_moved(mesh.positions, matrix)
    return Mesh(positions, mesh.normals @ matrix[:3, :3].T, mesh.uvs, mesh.faces)


def points_moved(points: Array, matrix: Array) -> Array:
    """(n, 3) float, mm, after a 4 × 4 transform."""
    return np.asarray(points @ matrix[:3, :3].T + matrix[:3, 3])
