"""A carton folded as far as it is asked to be, standing on the table."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from giftwrap.core.carton.bending import Bent
from giftwrap.core.carton.blank import Blank
from giftwrap.core.carton.component import Component, sheets_of
from giftwrap.core.carton.folding import Faces, Folded, angles_at
from giftwrap.core.carton.styles import components_of
from giftwrap.core.mesh.path import Array
from giftwrap.core.model.carton import Carton

FOLDING = 0.8
"""Share of the way from flat to closed in which blanks are folded; then lids are put on."""
BESIDE = 20.0
"""Mm between a base and the lid beside it."""


@dataclass(frozen=True)
class FoldedComponent:
    """One component as it is folded. `pose` (4, 4) takes its first panel's blank to where it stands."""

    component: Component
    folded: Folded | Bent
    pose: Array

    @property
    def faces(self) -> Faces:
        """Its surfaces as they lie on the blank's first panel."""
        return self.folded.faces


@dataclass(frozen=True)
class CartonShape:
    """A carton in space.

    allowances : mm of those it was drawn with, by name
    """

    carton: Carton
    components: tuple[FoldedComponent, ...]
    allowances: Mapping[str, float]

    @property
    def blanks(self) -> dict[str, Blank]:
        """Its blanks by their components' names."""
        return {one.component.name: one.component.blank for one in self.components}

    @property
    def sheets(self) -> dict[str, Blank]:
        """Everything that is cut for it: its blanks, and the paper that covers them."""
        return sheets_of([one.component for one in self.components])


def fold_carton(carton: Carton) -> CartonShape:
    """Draw and fold a carton. Raises PackError, naming the field, when that cannot be done."""
    components, allowances = components_of(carton)
    several = len(components) > 1
    components = tuple(_in_order(component, carton, several=several) for component in components)
    steps = max(component.blank.steps for component in components)
    folding = carton.closed / FOLDING if several else carton.closed
    found = []
    for component in components:
        flaps = _flaps_of(component, carton, several=several)
        angles = angles_at(component.blank, min(folding, 1.0), steps=steps, flaps=flaps, spring=carton.spring)
        folded = component.folded(angles, carton.board.caliper)
        found.append(FoldedComponent(component, folded, _pose(component, carton, folded, min(folding, 1.0))))
    if several:
        found = _put_together(found, carton)
    points = np.vstack([_positions(one) for one in found])
    lift = np.eye(4)
    lift[2, 3] = -float(points[:, 2].min())
    if carton.own is not None:
        lift[:2, 3] = -(points.min(axis=0) + points.max(axis=0))[:2] / 2
    settled = [FoldedComponent(one.component, one.folded, lift @ one.pose) for one in found]
    return CartonShape(carton, tuple(settled), allowances)


def _in_order(component: Component, carton: Carton, *, several: bool) -> Component:
    """A component whose creases fold in the steps they were given."""
    before = f"{component.name} " if several else ""
    creases = tuple(
        replace(crease, step=carton.order.get(f"{before}{crease.name}", crease.step))
        for crease in component.blank.creases
    )
    return replace(component, blank=replace(component.blank, creases=creases)) if carton.order else component


def _flaps_of(component: Component, carton: Carton, *, several: bool) -> dict[str, float]:
    """Those set by hand that are this component's; of several, their names begin with it."""
    before = f"{component.name} " if several else ""
    names = {f"{before}{crease.name}": crease.name for crease in component.blank.creases}
    return {names[name]: angle for name, angle in carton.flaps.items() if name in names}


def _pose(component: Component, carton: Carton, folded: Folded | Bent, share: float) -> Array:
    """A component by itself, its middle over the origin; a tube rises from lying flat in its first step."""
    t, pose = carton.board.caliper, np.eye(4)
    if component.stands == "front":
        upright = float(np.clip(share * component.blank.steps, 0, 1))
        angle = np.pi / 2 * upright * upright * (3 - 2 * upright)
        pose[1:3, 1:3] = [[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]]
        middle = np.array([(carton.length + t) / 2, 0.0, -(carton.width + t) / 2])
        back = pose[:3, :3] @ (middle * [1, 1, upright])
        pose[:2, 3] = -back[:2]
        return pose
    if component.stands == "base":
        pose[0, 0] = pose[2, 2] = -1.0
    if component.stands == "laid":
        pose[:2, :2] = [[0.0, 1.0], [-1.0, 0.0]]
    left, foot, right, top = component.blank.panels[0].outline.bounds
    middle = pose[:3, :3] @ [(left + right) / 2, (foot + top) / 2, 0.0]
    pose[:2, 3] = -middle[:2]
    inner = t / 2  # the inside of the first panel lies half a caliper from its middle
    pose[2, 3] = component.above + (-inner if component.stands == "base" else inner)
    return pose


def _put_together(found: list[FoldedComponent], carton: Carton) -> list[FoldedComponent]:
    """What comes to the first component once that is folded: from beside it over it, or sliding into it."""
    share = float(np.clip((carton.closed - FOLDING) / (1 - FOLDING), 0, 1))
    share = share * share * (3 - 2 * share)
    base = _positions(found[0])
    placed, way = [found[0]], np.eye(4)
    for one in found[1:]:
        if one.component.comes == "with":
            placed.append(FoldedComponent(one.component, one.folded, way @ one.pose))
            continue
        points, way = _positions(one), np.eye(4)
        aside = float(base[:, 0].max() + BESIDE - points[:, 0].min())
        if one.component.comes:
            way[0, 3] = (1 - share) * aside
        if one.component.comes == "over":
            down = float(base[:, 2].min() - points[:, 2].min())
            way[2, 3] = (1 - share) * down + 1.3 * carton.depth * np.sin(np.pi * share)
        placed.append(FoldedComponent(one.component, one.folded, way @ one.pose))
    return placed


def _positions(one: FoldedComponent) -> Array:
    """(n, 3) float: all points of it as it stands."""
    points = np.vstack([one.faces.outside.positions, one.faces.inside.positions])
    return np.asarray(points @ one.pose[:3, :3].T + one.pose[:3, 3])


def floor_of(shape: CartonShape) -> Array:
    """(4, 4) float: the middle of the floor inside of a carton, upright; of one that goes over others, of
    what lies within."""
    inner = next((one for one in shape.components if one.component.name == "tray"), shape.components[0])
    outlines = {
        name: ring @ inner.pose[:3, :3].T + inner.pose[:3, 3]
        for name, (ring, _) in inner.folded.outlines().items()
    }
    floors = [
        name for name in outlines if name == "floor" or (name.startswith("bottom") and "tuck" not in name)
    ]
    walls = [panel.name for panel in inner.component.blank.panels if panel.role == "panel"]
    around = np.vstack([outlines[name] for name in (["floor"] if "floor" in outlines else walls)])
    points = np.vstack([outlines[name] for name in floors]) if floors else _positions(inner)
    found = np.eye(4)
    found[:2, 3] = (around.min(axis=0) + around.max(axis=0))[:2] / 2
    t = shape.carton.board.caliper
    open_below = shape.carton.style == "sleeve"
    found[2, 3] = float(points[:, 2].max()) + t / 2 if floors else 0.0 if open_below else t
    return found
