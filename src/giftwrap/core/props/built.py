"""What is built for a set: blocks, steps, arches, and what a lathe turns."""

from __future__ import annotations

import numpy as np
from shapely import Polygon

from giftwrap.core.mesh.fillet import rounded_path
from giftwrap.core.mesh.mesh import Mesh, revolve, segments_for
from giftwrap.core.mesh.path import Array, Path
from giftwrap.core.model.prop import MadeProp
from giftwrap.core.props.extruded import LEAST_EDGE, box, extruded, lying

WALL = 0.08
"""Of a bowl or a dish: its share of the radius."""


def block(prop: MadeProp) -> Mesh:
    """A block."""
    return extruded(box(prop.width, prop.depth), prop.height, prop.edge)


def steps(prop: MadeProp) -> Mesh:
    """Stairs that go up to the back, all alike."""
    count, deep, high = prop.steps, prop.depth / prop.steps, prop.height / prop.steps
    corners = [(-prop.depth / 2, 0.0)]
    for number in range(count):
        front = -prop.depth / 2 + number * deep
        corners += [(front, (number + 1) * high), (front + deep, (number + 1) * high)]
    return _across(Polygon([*corners, (prop.depth / 2, 0.0)]), prop)


def wedge(prop: MadeProp) -> Mesh:
    """A ramp that rises to the back."""
    half = prop.depth / 2
    return _across(Polygon([(-half, 0.0), (half, 0.0), (half, prop.height)]), prop)


def _across(side: Polygon, prop: MadeProp) -> Mesh:
    """A solid of an outline seen from its right, (back, up), as wide as the prop."""
    drawn = extruded(side, prop.width, prop.edge)
    turned = [
        np.column_stack([v[:, 2] - middle, v[:, 0], v[:, 1]])
        for v, middle in ((drawn.positions, prop.width / 2), (drawn.normals, 0.0))
    ]
    return Mesh(turned[0], turned[1], drawn.uvs, drawn.faces)


def _standing(outline: Polygon, prop: MadeProp) -> Mesh:
    """A solid of an outline seen from the front, as deep as the prop."""
    drawn = lying(extruded(outline, prop.depth, prop.edge))
    return Mesh(drawn.positions + np.array([0.0, prop.depth / 2, 0.0]), drawn.normals, drawn.uvs, drawn.faces)


def half_cylinder(prop: MadeProp) -> Mesh:
    """Half of a cylinder, its flat side down."""
    return _standing(Polygon(_bow(prop.width / 2, prop.height)), prop)


def arch(prop: MadeProp) -> Mesh:
    """An arch with a round head: its piers a quarter of its width."""
    half = prop.width / 2
    inner = 0.5 * half
    straight = max(prop.height - half, 0.0)
    outer = _bow(half, min(prop.height, half), straight)
    opening = _bow(inner, inner if straight else inner * prop.height / half, straight)
    return _standing(Polygon([*outer, *opening[::-1]]), prop)


def _bow(half: float, high: float, straight: float = 0.0) -> list[tuple[float, float]]:
    """From the right foot up, over and down: half an ellipse on two straight sides."""
    turns = np.linspace(0.0, np.pi, 72)
    over = [(half * float(np.cos(t)), straight + high * float(np.sin(t))) for t in turns]
    return [(half, 0.0), *over, (-half, 0.0)] if straight > 0 else over


def frame(prop: MadeProp) -> Mesh:
    """A frame that stands up, its bars a tenth of its shorter side."""
    half, bar = prop.width / 2, 0.1 * min(prop.width, prop.height)
    outer = [(-half, 0.0), (half, 0.0), (half, prop.height), (-half, prop.height)]
    hole = [
        (-half + bar, bar),
        (half - bar, bar),
        (half - bar, prop.height - bar),
        (-half + bar, prop.height - bar),
    ]
    return _standing(Polygon(outer, [hole]), prop)


def ring(prop: MadeProp) -> Mesh:
    """A round hoop that stands up, an eighth of its height thick."""
    turns = np.linspace(0.0, 2 * np.pi, 128, endpoint=False)
    circle = np.column_stack([np.cos(turns), np.sin(turns)])
    half = np.array([prop.width / 2, prop.height / 2])
    middle = np.array([0.0, half[1]])
    inner = half - 0.25 * half.min()
    return _standing(Polygon(middle + half * circle, [middle + inner * circle]), prop)


def cylinder(prop: MadeProp) -> Mesh:
    """A round plinth."""
    return _turned([(1.0, 0.0, 1), (1.0, 1.0, 1)], prop)


def cone(prop: MadeProp) -> Mesh:
    """A cone, its tip rounded."""
    tip = 0.04
    return _turned([(1.0, 0.0, 1), (tip, 1.0, 1)], prop)


def _turned(corners: list[tuple[float, float, int]], prop: MadeProp) -> Mesh:
    """A turned solid by its corners: share of its half width, share of its height, whether it is rounded."""
    radius, high = prop.width / 2, prop.height
    edge = max(prop.edge, LEAST_EDGE)
    legs = np.array([(r * radius, z * high) for r, z, _ in corners])
    room = 0.45 * min(
        radius * min((r for r, _, _ in corners)), np.linalg.norm(np.diff(legs, axis=0), axis=1).min()
    )
    rounded = [(r * radius, z * high, min(edge, room) * k) for r, z, k in corners]
    path = rounded_path(np.array([(0.0, 0.0, 0.0), *rounded, (0.0, high, 0.0)]))
    return _deepened(revolve(path), prop.depth / prop.width)


def sphere(prop: MadeProp) -> Mesh:
    """A ball, or what is left of one that is squashed."""
    return _arched(-np.pi / 2, prop)


def dome(prop: MadeProp) -> Mesh:
    """Half a ball on its flat side."""
    return _arched(0.0, prop)


def _arched(start: float, prop: MadeProp) -> Mesh:
    turns = np.linspace(start, np.pi / 2, 64)
    middle, high = (prop.height / 2, prop.height / 2) if start < 0 else (0.0, prop.height)
    points = np.column_stack([prop.width / 2 * np.cos(turns), middle + high * np.sin(turns)])
    normals = np.column_stack([np.cos(turns) * high, np.sin(turns) * prop.width / 2])
    points[-1, 0] = 0.0
    if start < 0:
        points[0, 0] = 0.0
    else:  # the floor it stands on
        points = np.vstack([[[0.0, 0.0], points[0]], points])
        normals = np.vstack([[[0.0, -1.0], [0.0, -1.0]], normals])
    return _along(points, normals, prop)


def bowl(prop: MadeProp) -> Mesh:
    """A bowl with a foot; a dish where it is low."""
    radius, high = prop.width / 2, prop.height
    wall = min(max(WALL * radius, 1.2), 0.3 * high, 0.2 * radius)
    turns = np.radians(np.linspace(0.0, 90.0, 40))
    foot = 0.45 * radius
    out = np.column_stack([foot + (radius - foot) * np.sin(turns), high - high * np.cos(turns)])
    inner = np.column_stack(
        [(foot - wall) + (radius - foot) * np.sin(turns), high - (high - wall) * np.cos(turns)]
    )
    rim = np.radians(np.linspace(0.0, 180.0, 17)[1:-1])
    top = np.array([radius - wall / 2, high])
    over = top + wall / 2 * np.column_stack([np.cos(rim), np.sin(rim)])
    points = np.vstack([[0.0, 0.0], out, over, inner[::-1], [0.0, wall]])
    points[:, 1] *= high / points[:, 1].max()
    return _along(points, _facing(points), prop)


def _along(points: Array, normals: Array, prop: MadeProp) -> Mesh:
    unit = normals / np.linalg.norm(normals, axis=1, keepdims=True)
    segments = min(segments_for(prop.width / 2), 128)
    return _deepened(revolve(Path(points, unit), segments=segments), prop.depth / prop.width)


def _facing(points: Array) -> Array:
    """Normals of a smooth profile with its solid on the left; straight down and up on the axis."""
    step = np.gradient(points, axis=0)
    normals = np.column_stack([step[:, 1], -step[:, 0]])
    for end in (0, -1):
        if points[end, 0] < 1e-9:
            normals[end] = [0.0, np.sign(normals[end, 1]) or -1.0]
    return np.asarray(normals)


def _deepened(mesh: Mesh, factor: float) -> Mesh:
    """As deep as is wanted, where that is not as wide."""
    if abs(factor - 1) < 1e-9:
        return mesh
    normals = mesh.normals / [1.0, factor, 1.0]
    normals = normals / np.linalg.norm(normals, axis=1, keepdims=True)
    return Mesh(mesh.positions * [1.0, factor, 1.0], normals, mesh.uvs, mesh.faces)
