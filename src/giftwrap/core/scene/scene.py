"""A scene as light meets it: things where they stand, what their surfaces do to light, and lamps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from giftwrap.core.materials.optics import Optics
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.model.document import told_apart
from giftwrap.core.scene.lamp import Lamp
from giftwrap.core.scene.surrounding import Surrounding
from giftwrap.core.stage.standing import NOTHING_STANDS
from giftwrap.core.things.thing import Extent

RESERVED_BUFFERS = ("surround", "background")
"""Names of the buffers beside those of the lamps."""


@dataclass(frozen=True)
class Surface:
    """What one mesh of an instance does to light, and what it belongs to.

    part : name of the solid it bounds, as masks tell it apart
    group : the parts it is lit alike with: body, contents, closure, labels
    material : name of what that solid is made of
    untouched_by : names of lamps that do not light it; unreflecting : of those that it does not mirror
    hidden_from_camera : the camera does not see it; it still shades and is reflected
    catcher : shows only the shadows and reflections that fall on it
    """

    part: str
    optics: Optics
    material: str = "matt"
    group: str = ""
    untouched_by: frozenset[str] = frozenset()
    unreflecting: frozenset[str] = frozenset()
    hidden_from_camera: bool = False
    catcher: bool = False


@dataclass(frozen=True, eq=False)
class Instance:
    """A thing in its place. Instances of one thing share its meshes and may look different.

    name : tells it from the scene's other instances
    meshes : of the thing, in its own coordinates
    surfaces : one for each mesh
    pose : (4, 4) float, rigid, mm: from the thing's coordinates to the scene's
    """

    name: str
    meshes: tuple[Mesh, ...]
    surfaces: tuple[Surface, ...]
    pose: Array = field(default_factory=lambda: np.eye(4))


@dataclass(frozen=True)
class Scene:
    """Everything light meets.

    around : what comes from everywhere else; seen : what of that the camera sees where there is nothing, None
        for what gives no light
    extent : what stands takes up, without the backdrop
    """

    instances: tuple[Instance, ...]
    lamps: tuple[Lamp, ...]
    around: Surrounding
    seen: Surrounding | None = None
    extent: Extent = NOTHING_STANDS


def all_told_apart(names: Sequence[str], taken: Sequence[str] = ()) -> list[str]:
    """Names of which no two are alike, nor like one that is taken."""
    found: list[str] = []
    for name in names:
        found.append(told_apart(name, {*found, *taken}))
    return found
