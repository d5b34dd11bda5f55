"""A carton folded as far as it is asked to be, standing on the table."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from giftwrap.core.carton.blank import Blank
from giftwrap.core.carton.folding import Faces, Folded, angles_at
from giftwrap.core.carton.styles import Component, components_of
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
    folded: Folded
    pose: Array

    @cached_property
    def faces(self) -> Faces:
        """Its surfaces as they lie on the blank's first panel."""
        return self.folded.faces()


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


def fold_carton(carton: Carton) -> CartonShape:
    """Draw and fold a carton. Raises PackError, naming the field, when that cannot be done."""
    components, allowances = components_of(carton)
    several = len(components) > 1
    folding = carton.closed / FOLDING if several else carton.closed
    found = []
    for component in components:
        flaps = _flaps_of(component, carton, several=several)
        angles = angles_at(component.blank, min(folding, 1.0), flaps=flaps, spring=carton.spring)
        folded = Folded(component.blank, angles, carton.board.caliper)
        found.append(FoldedComponent(component, folded, _pose(component, carton, folded, min(folding, 1.0))))
    if several:
        found = _put_together(found, carton)
    lowest = min(float(_positions(one)[:, 2].min()) for one in found)
    lift = np.eye(4)
    lift[2, 3] = -lowest
    settled = [FoldedComponent(one.component, one.folded, lift @ one.pose) for one in found]
    return CartonShape(carton, tuple(settled), allowances)


def _flaps_of(component: Component, carton: Carton, *, several: bool) -> dict[str, float]:
    """Those set by hand that are this component's; of several, their names begin with it."""
    before = f"{component.name} " if several else ""
    names = {f"{before}{crease.name}": crease.name for crease in component.blank.creases}
    return {names[name]: angle for name, angle in carton.flaps.items() if name in names}


def _pose(component: Component, carton: Carton, folded: Folded, share: float) -> Array:
    """A component by itself, its middle over the origin; a tube rises from lying flat in its first step."""
    t, pose = carton.board.caliper, np.eye(4)
    if component.stands == "front":
        steps = max(crease.step for crease in component.blank.creases) + 1
        upright = float(np.clip(share * steps, 0, 1))
        angle = np.pi / 2 * upright * upright * (3 - 2 * upright)
        pose[1:3, 1:3] = [[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]]
        middle = np.array([(carton.length + t) / 2, 0.0, -(carton.width + t) / 2])
        back = pose[:3, :3] @ (middle * [1, 1, upright])
        pose[:2, 3] = -back[:2]
        return pose
    if component.stands == "base":
        pose[0, 0] = pose[2, 2] = -1.0
    left, foot, right, top = component.blank.panels[0].outline.bounds
    middle = pose[:3, :3] @ [(left + right) / 2, (foot + top) / 2, 0.0]
    pose[:2, 3] = -middle[:2]
    inner = t / 2  # the inside of the first panel lies half a caliper from its middle
    pose[2, 3] = component.above + (inner if component.stands == "lid" else -inner)
    return pose


def _put_together(found: list[FoldedComponent], carton: Carton) -> list[FoldedComponent]:
    """A lid comes from beside its base over it, once it is folded."""
    share = float(np.clip((carton.closed - FOLDING) / (1 - FOLDING), 0, 1))
    share = share * share * (3 - 2 * share)
    base, *lids = found
    placed, edge = [base], float(_positions(base)[:, 0].max())
    for lid in lids:
        points = _positions(lid)
        aside = edge + BESIDE - float(points[:, 0].min())
        down = float(_positions(base)[:, 2].min() - points[:, 2].min())
        way = np.eye(4)
        way[0, 3] = (1 - share) * aside
        way[2, 3] = (1 - share) * down + 1.3 * carton.depth * np.sin(np.pi * share)
        placed.append(FoldedComponent(lid.component, lid.folded, way @ lid.pose))
    return placed


def _positions(one: FoldedComponent) -> Array:
    """(n, 3) float: all points of it as it stands."""
    points = np.vstack([one.faces.outside.positions, one.faces.inside.positions])
    return np.asarray(points @ one.pose[:3, :3].T + one.pose[:3, 3])
