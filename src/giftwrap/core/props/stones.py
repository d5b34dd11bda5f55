"""What is found for a set and was never alive: stones, sand, ice, drops. By seeds no two are alike."""

from __future__ import annotations

import numpy as np
from numpy.random import Generator

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.model.prop import MadeProp
from giftwrap.core.props.shaped import ball, fitted, outwards, quads, rng_of, rough, size_of, waves

GOLDEN = np.pi * (3 - np.sqrt(5))
FINE, FINER = 4, 5
"""Rounds of splitting a ball's faces."""


def pebble(prop: MadeProp) -> Mesh:
    """Rolled by water: smooth, a little flat beneath."""
    rng, (ways, faces) = rng_of(prop), ball(FINE)
    far = _rounded_box(ways, rng.uniform(2.0, 2.6)) * (
        1 + 0.16 * waves(rng, ways, 0.28) + 0.03 * waves(rng, ways, 0.8)
    )
    return fitted(_flat_beneath(ways * far[:, None], 0.06), faces, size_of(prop))


def stone(prop: MadeProp) -> Mesh:
    """A field stone: rounded faces with worn edges."""
    rng, (ways, faces) = rng_of(prop), ball(FINER)
    far = _broken(rng, ways, 11, 14.0) * (1 + 0.05 * rough(rng, ways, 0.8))
    return fitted(_flat_beneath(ways * far[:, None], 0.1), faces, size_of(prop))


def rock(prop: MadeProp) -> Mesh:
    """Broken out of a wall: flat faces, edges that are hardly worn, rough."""
    rng, (ways, faces) = rng_of(prop), ball(FINER)
    far = _broken(rng, ways, 18, 60.0) * (1 + 0.035 * rough(rng, ways, 1.4, 0.6, 5))
    return fitted(_flat_beneath(ways * far[:, None], 0.14), faces, size_of(prop), 40.0)


def slate(prop: MadeProp) -> Mesh:
    """A broken slab, split in layers: flat above and below."""
    rng, (ways, faces) = rng_of(prop), ball(FINER)
    flat = ways * np.array([1.0, 1.0, 0.0])
    radius = np.linalg.norm(flat, axis=1)
    around = np.column_stack([flat[:, 0], flat[:, 1], 0 * radius]) / np.maximum(radius, 1e-6)[:, None]
    outline = _broken(rng, around, 8, 40.0, level=True) * (1 + 0.02 * rough(rng, around, 1.5))
    tall = np.clip(np.abs(ways[:, 2]) * 2.6, 0, 1)
    out = np.clip(radius * 1.25, 0, 1) * outline
    layers = np.round(3 * tall) / 3 * 0.5 + tall * 0.5
    bumps = 0.05 * rough(rng, around * out[:, None], 1.2) * (ways[:, 2] > 0)
    points = np.column_stack([around[:, 0] * out, around[:, 1] * out, np.sign(ways[:, 2]) * layers + bumps])
    return fitted(_flat_beneath(points, 0.05), faces, size_of(prop), 35.0)


def crystal(prop: MadeProp) -> Mesh:
    """A six-sided crystal with a slanting tip."""
    rng, (ways, faces) = rng_of(prop), ball(FINER)
    turns = np.radians(60 * np.arange(6) + rng.uniform(-4, 4, 6))
    sides = np.column_stack([np.cos(turns), np.sin(turns), 0 * turns])
    tips = np.column_stack([np.cos(turns), np.sin(turns), rng.uniform(0.5, 0.9, 6)])
    normals = np.vstack([sides, tips / np.linalg.norm(tips, axis=1, keepdims=True), [[0, 0, -1.0]]])
    away = np.concatenate([rng.uniform(0.34, 0.44, 6), rng.uniform(0.72, 0.84, 6), [1.0]])
    far = 1 / np.maximum((ways @ normals.T / away).max(axis=1), 1e-3)
    return fitted(ways * far[:, None], faces, size_of(prop), 14.0)


def sand(prop: MadeProp) -> Mesh:
    """A flat heap."""
    rng = rng_of(prop)
    across, around = np.linspace(0.0, 1.0, 60), np.linspace(0.0, 2 * np.pi, 128)
    radius, turn = np.meshgrid(across, around, indexing="ij")
    edge = 1 + 0.14 * waves(rng, np.column_stack([np.cos(around), np.sin(around), 0 * around]), 0.5)
    x, y = radius * edge * np.cos(turn), radius * edge * np.sin(turn)
    places = np.column_stack([x.ravel(), y.ravel(), np.zeros(x.size)])
    high = np.cos(radius * np.pi / 2) ** 1.3 + (0.09 * rough(rng, places, 1.3)).reshape(x.shape) * (
        1 - radius**4
    )
    top = np.stack([x, y, np.maximum(high, 0.0)], axis=-1)
    index = np.arange(top[..., 0].size).reshape(top.shape[:2])
    flat = top * [1.0, 1.0, 0.0]
    points = np.concatenate([top.reshape(-1, 3), flat.reshape(-1, 3)])
    upper = quads(index)
    lower = upper[:, ::-1] + index.size
    rim = index[-1]
    sides = [
        np.stack([rim[:-1], rim[:-1] + index.size, rim[1:] + index.size], -1),
        np.stack([rim[:-1], rim[1:] + index.size, rim[1:]], -1),
    ]
    faces = np.concatenate([upper, lower, *sides])
    return fitted(points, outwards(points, faces), size_of(prop), 60.0)


def ice_cube(prop: MadeProp) -> Mesh:
    """Melting a little: rounded edges, hollow faces."""
    rng, (ways, faces) = rng_of(prop), ball(FINER)
    far = _rounded_box(ways, 7.0) * (1 + 0.012 * waves(rng, ways, 0.5))
    return fitted(ways * far[:, None], faces, size_of(prop))


def crushed_ice(prop: MadeProp) -> Mesh:
    """A splinter of ice."""
    rng, (ways, faces) = rng_of(prop), ball(FINER)
    far = _broken(rng, ways, 12, 90.0) * (1 + 0.01 * waves(rng, ways, 0.8))
    return fitted(ways * far[:, None], faces, size_of(prop), 24.0)


def drop(prop: MadeProp) -> Mesh:
    """A drop that sits on something: round above, spread beneath."""
    rng, (ways, faces) = rng_of(prop), ball(FINE)
    edge = 1 + 0.07 * waves(rng, ways * [1, 1, 0], 0.35)
    out = np.clip(np.hypot(ways[:, 0], ways[:, 1]), 1e-9, 1)
    below = ways[:, 2] < 0
    high = np.where(below, 0.0, 1 - (1 - np.sqrt(1 - out**2)) ** 1.0)
    points = np.column_stack([ways[:, :2] * edge[:, None] * [1.0, 1.0], high])
    return fitted(points, faces, size_of(prop), 60.0)


def _rounded_box(ways: Array, power: float) -> Array:
    """How far a superellipsoid reaches in directions: 2 is a ball, more a box."""
    return np.asarray((np.abs(ways) ** power).sum(axis=1) ** (-1 / power))


def _broken(rng: Generator, ways: Array, count: int, sharp: float, *, level: bool = False) -> Array:
    """How far what has been broken along planes reaches in directions.

    sharp : how little the edges between them are worn
    level : all planes stand upright
    """
    k = np.arange(count)
    turn, high = k * GOLDEN + rng.uniform(0, 2 * np.pi), 1 - 2 * (k + 0.5) / count
    level_out = np.sqrt(1 - high**2)
    normals = np.column_stack([np.cos(turn) * level_out, np.sin(turn) * level_out, high])
    if level:
        turn = 2 * np.pi * (k + rng.uniform(-0.3, 0.3, count)) / count
        normals = np.column_stack([np.cos(turn), np.sin(turn), 0 * turn])
    normals += rng.normal(scale=0.0 if level else 0.22, size=normals.shape)
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    inverse = ways @ normals.T / rng.uniform(0.72, 1.1, count)
    return np.asarray(sharp / np.log(np.exp(sharp * np.clip(inverse, -2, 4)).sum(axis=1)))


def _flat_beneath(points: Array, share: float) -> Array:
    """Points pressed flat below a share of the height, softly, so that it lies."""
    low, high = points[:, 2].min(), points[:, 2].max()
    floor = low + share * (high - low)
    soft = 0.35 * share * (high - low)
    raised = floor + soft * np.log1p(np.exp(np.clip((points[:, 2] - floor) / soft, -40, 40)))
    return np.column_stack([points[:, :2], np.where(points[:, 2] > floor + 12 * soft, points[:, 2], raised)])
