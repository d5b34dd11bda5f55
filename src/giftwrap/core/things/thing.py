"""Things: what a document looks like in space, made once and placed as often as one likes.

Whatever handles a thing cannot tell what kind of document it was made from.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from scipy.spatial import ConvexHull

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import moved
from giftwrap.core.model import Clear, Printed
from giftwrap.core.model.material import Material


@dataclass(frozen=True)
class Piece:
    """One surface of a thing, with what lies on both of its sides.

    name : tells it from the thing's other pieces; nothing is read off it
    part : the part behind it, which its normals point out of; group : what that is lit alike with
    material : what that part is made of
    before : the part its normals point into; None for air. `front` is its material where that is clear
    panel : index of the thing's panel whose print it carries
    pose : (4, 4) float, from how the part was formed, upright, to where it is
    inside : it is the inside of a wall
    """

    name: str
    part: str
    group: str
    mesh: Mesh
    material: Material
    before: str | None = None
    front: Clear | None = None
    panel: int | None = None
    pose: Array = field(default_factory=lambda: np.eye(4), compare=False)
    inside: bool = False

    def moved(self, place: Array) -> Piece:
        """The piece elsewhere."""
        return replace(self, mesh=moved(self.mesh, place), pose=place @ self.pose)


@dataclass(frozen=True)
class Extent:
    """What a thing takes up as cameras and lights see it, mm: least and greatest x, y and z."""

    low: tuple[float, float, float]
    high: tuple[float, float, float]

    @property
    def middle(self) -> tuple[float, float, float]:
        """Its middle."""
        low, high = self.low, self.high
        return (low[0] + high[0]) / 2, (low[1] + high[1]) / 2, (low[2] + high[2]) / 2

    @property
    def corners(self) -> Array:
        """(8, 3) float."""
        low, high = np.array(self.low), np.array(self.high)
        picks = np.array(np.meshgrid([0, 1], [0, 1], [0, 1])).reshape(3, -1).T
        return np.where(picks == 1, high, low)


@dataclass(frozen=True, eq=False)
class Inside:
    """The room in a box, mm.

    floor : (4, 4) float, the middle of its floor; room : across and deep
    holes : where its insert has holes, from the middle to the right and back
    """

    floor: Array
    room: tuple[float, float]
    holes: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True, eq=False)
class Thing:
    """Something to be placed, in its own coordinates: it stands on z = 0 with its front at −y.

    extent : closed and put together, its middle over the origin
    panels : what is printed on it
    inside : what things stand in, where it is a box
    """

    pieces: tuple[Piece, ...]
    extent: Extent
    panels: tuple[Printed, ...] = ()
    inside: Inside | None = None

    @cached_property
    def meshes(self) -> tuple[Mesh, ...]:
        """Of its pieces."""
        return tuple(piece.mesh for piece in self.pieces)

    @cached_property
    def hull(self) -> Array:
        """(n, 3) float: the corners of its convex hull as it is, mm."""
        points = np.unique(np.vstack([mesh.positions for mesh in self.meshes]), axis=0)
        return np.asarray(points[ConvexHull(points).vertices])

    @cached_property
    def bounds(self) -> Extent:
        """What its surfaces take up as they are: parts lifted, laid beside, copied."""
        low = np.min([mesh.positions.min(axis=0) for mesh in self.meshes], axis=0)
        high = np.max([mesh.positions.max(axis=0) for mesh in self.meshes], axis=0)
        return Extent(tuple(map(float, low)), tuple(map(float, high)))  # type: ignore[arg-type]
