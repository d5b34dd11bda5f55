"""Panels as they lie on a pack: their printed faces, their backs, and how far they are stretched there."""

from __future__ import annotations

import threading
from abc import ABC, abstractmethod
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from cachetools import LRUCache, cached
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree
from shapely import Polygon
from shapely.geometry.polygon import orient
from typing_extensions import override

from giftwrap.core.errors import PackError
from giftwrap.core.form.skin import open_mesh
from giftwrap.core.mesh.flat import flat_triangles
from giftwrap.core.mesh.mesh import Mesh, together
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.mesh.topology import edges_of, rings_of, without_doubles
from giftwrap.core.model import BODY, PickedPanel, Printed, SealPanel, SleevePanel, Stuck, WrapPanel
from giftwrap.core.wrap.flattening import stretch_of

Label = WrapPanel | SleevePanel | SealPanel | PickedPanel
GLUE_GAP = 0.05
"""Distance in mm between wall and sheet: wide enough for single-precision rays, too small to see."""
WELD, MET = 1e-3, 1e-3
"""Mm within which points of a label that was cut out are one, and an outline its size."""
MOST = 0.99
"""Share of a label that is stretched by no more than what is said of it as the most: the rest are slivers."""


@dataclass(frozen=True)
class Stretch:
    """By how much a mm of a panel is longer or shorter on the pack than it is printed, as shares.

    mean : over its area; worst : the most; both along whichever way it is more
    """

    mean: float
    worst: float


@dataclass(frozen=True)
class Piece:
    """A label cut out of a surface: its points there with their normals, and where they lie on it, 0 to 1."""

    positions: Array
    normals: Array
    uvs: Array
    faces: Indices


@dataclass(frozen=True, kw_only=True)
class Laid(ABC):
    """A panel as it lies on a pack.

    part : that it goes along with
    gap : mm between the wall and its back: the glue, and the labels it was stuck over
    around : mm once around its printed face where it lies around something
    """

    panel: Label
    part: str = BODY
    gap: float = GLUE_GAP
    around: float | None = None

    @property
    def printed(self) -> Printed:
        """What is printed on it, on a page as large as it is when it lies flat."""
        return self.panel

    @property
    def diameter(self) -> float | None:
        """Mm of what it lies around, where that is round."""
        return None

    @property
    def factors(self) -> Array | None:
        """(n, 2) float: mm up its page, and how long a mm across it is there, where that changes with the
        height; None where it does not."""
        return None

    @property
    def out(self) -> float:
        """Mm from the wall to the printed face."""
        return self.gap + self.panel.thickness

    @property
    def cut(self) -> Polygon | None:
        """What it is cut to where it is no rectangle, mm from the lower left corner of its page."""
        return cut_of(self.panel)

    @property
    @abstractmethod
    def face(self) -> Mesh:
        """The printed face; its uvs run left to right and bottom to top of its page."""

    @property
    @abstractmethod
    def under(self) -> Mesh:
        """The back without its edges."""

    @property
    @abstractmethod
    def rim(self) -> Mesh:
        """The edges, as thick as it is."""

    @cached_property
    def back(self) -> Mesh:
        """The back with all edges; with the face it is one closed shell."""
        return together(self.under, self.rim)

    @cached_property
    def bounds(self) -> tuple[Array, Array]:
        """Least and greatest x, y and z of its face, mm."""
        return self.face.positions.min(axis=0), self.face.positions.max(axis=0)

    @cached_property
    def stretch(self) -> Stretch:
        """How far it is from lying as it was printed."""
        share, area = stretched(self.face, self.printed)
        return summed(share, area)

    def covers(self, other: Laid) -> bool:
        """Whether some of it may lie over some of another: their boxes meet."""
        (low, high), (least, most) = self.bounds, other.bounds
        return bool((low < most).all() and (high > least).all())


@dataclass(frozen=True, kw_only=True)
class Drawn(Laid):
    """A panel drawn as columns and rows of places on a wall."""

    @abstractmethod
    def layer(self, out: float) -> tuple[Array, Array]:
        """(u, n, 3) float each: places `out` mm from the wall, and normals."""

    @property
    @abstractmethod
    def uvs(self) -> Array:
        """(u, n, 2) float, 0..1: where on its page each of those places is printed."""

    @cached_property
    @override
    def face(self) -> Mesh:
        if self.cut is not None:
            return raised(self._piece, self.out)
        return open_mesh(*self.layer(self.out), self.uvs)

    @property
    @override
    def under(self) -> Mesh:
        if self.cut is not None:
            return under_of(self._piece, self.gap)
        back, outwards = self.layer(self.gap)
        return open_mesh(back[:, ::-1], -outwards[:, ::-1])

    @property
    @override
    def rim(self) -> Mesh:
        if self.cut is not None:
            return rim_of(self._piece, self.gap, self.out)
        return _grid_rim(self.layer(self.out)[0], self.layer(self.gap)[0])

    @cached_property
    def _piece(self) -> Piece:
        """Cut to its outline, on the wall."""
        shape = self.cut
        assert shape is not None
        mesh = open_mesh(*self.layer(0.0), self.uvs)
        whole = Piece(mesh.positions, mesh.normals, mesh.uvs, mesh.faces)
        return cut_to(whole, shape, (self.printed.width, self.printed.height))


def cut_of(panel: Printed, page: Polygon | None = None) -> Polygon | None:
    """What a label is cut to, mm from the lower left corner of its page; None for its whole page.

    page : what it is lying flat, where that is no rectangle

    Raises PackError, naming the field, when its outline crosses itself or goes beyond it.
    """
    if not isinstance(panel, Stuck):
        return page
    flat = shapely.box(0, 0, panel.width, panel.height) if page is None else page
    if panel.outline is not None:
        left, foot, right, top = flat.bounds
        middle = np.array([(left + right) / 2, (foot + top) / 2])
        shape = Polygon(np.array(panel.outline) + middle)
        if not shape.is_valid or shape.area < MET:
            raise PackError(f"The outline of “{panel.name}” crosses itself: draw it anew.", "outline")
        if not flat.buffer(MET, join_style="mitre").covers(shape):
            raise PackError(f"The outline of “{panel.name}” goes beyond its size.", "outline")
        return shape
    if panel.rounding <= 0:
        return page
    rounded = flat.buffer(-panel.rounding, join_style="mitre").buffer(panel.rounding, quad_segs=16)
    if rounded.is_empty or not isinstance(rounded, Polygon):
        raise PackError(
            f"Corners of {panel.rounding:g} mm leave nothing of “{panel.name}”: round them less.", "rounding"
        )
    return rounded


def stretched(face: Mesh, printed: Printed) -> tuple[Array, Array]:
    """(f, 2) float: how long a mm of a page is on a face, the longer way first, and (f,) float, mm² of it."""
    places = face.uvs * [printed.width, printed.height]
    a, b, c = (places[face.faces[:, k]] for k in range(3))
    area = np.abs((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]) / 2
    return stretch_of(face.positions, face.faces, places), area


def summed(ways: Array, area: Array) -> Stretch:
    """Mean and most of stretches of faces, (f, 2) float, of so many mm² each."""
    sound = area > 1e-9
    if not sound.any():
        return Stretch(0.0, 0.0)
    share, area = np.abs(ways[sound] - 1).max(axis=1), area[sound]
    order = np.argsort(share)
    reached = np.cumsum(area[order]) / area.sum()
    most = float(share[order][min(int(np.searchsorted(reached, MOST)), len(order) - 1)])
    return Stretch(float((share * area).sum() / area.sum()), most)


def _cut_key(piece: Piece, shape: Polygon, size: tuple[float, float]) -> tuple[bytes, bytes, object]:
    return Mesh(piece.positions, piece.normals, piece.uvs, piece.faces).digest, shape.wkb, size


@cached(LRUCache(64), key=_cut_key, lock=threading.Lock())
def cut_to(piece: Piece, shape: Polygon, size: tuple[float, float]) -> Piece:
    """A label cut to an outline, mm from the lower left corner of its page of so many mm. The latest ones are
    kept: what a pack is made of changes more often than its labels."""
    places = piece.uvs * np.array(size)
    triangles = shapely.polygons(places[piece.faces])
    shapely.prepare(shape)
    whole = shapely.contains_properly(shape, triangles)
    edge = np.flatnonzero(~whole & shapely.intersects(shape, triangles))
    table = np.hstack([piece.uvs, piece.positions, piece.normals])
    values, faces, count = [table], [piece.faces[whole]], len(table)
    for number, part in zip(edge, shapely.intersection(shape, triangles[edge]), strict=True):
        corners = np.column_stack([places[piece.faces[number]], np.ones(3)])
        for one in getattr(part, "geoms", [part]):
            if not isinstance(one, Polygon) or one.area < 1e-9:
                continue
            at, found = flat_triangles(orient(one))
            weights = np.linalg.solve(corners.T, np.column_stack([at, np.ones(len(at))]).T).T
            values.append(weights @ table[piece.faces[number]])
            faces.append(found + count)
            count += len(at)
    everything = np.vstack(values)
    one, other = cKDTree(everything[:, 2:5]).query_pairs(WELD, output_type="ndarray").T
    graph = coo_matrix((np.ones(len(one)), (one, other)), shape=(len(everything),) * 2)
    index = connected_components(graph, directed=False)[1]
    joined = index[np.vstack(faces)]
    joined = joined[without_doubles(joined)]
    used, numbered = np.unique(joined, return_inverse=True)
    kept = everything[np.unique(index, return_index=True)[1][used]]
    normals = kept[:, 5:8] / np.maximum(np.linalg.norm(kept[:, 5:8], axis=1, keepdims=True), 1e-30)
    return Piece(kept[:, 2:5], normals, kept[:, :2], numbered.reshape(-1, 3))


def raised(piece: Piece, out: float) -> Mesh:
    """What was cut out, `out` mm above the surface."""
    return Mesh(piece.positions + out * piece.normals, piece.normals, piece.uvs, piece.faces)


def under_of(piece: Piece, gap: float) -> Mesh:
    """The back of what was cut out, without its edges."""
    return Mesh(piece.positions + gap * piece.normals, -piece.normals, piece.uvs, piece.faces[:, ::-1].copy())


def rim_of(piece: Piece, gap: float, out: float) -> Mesh:
    """The edges of what was cut out, from its back to its face."""
    strips = []
    for ring in rings_of(edges_of(piece.faces).rims):
        loop = np.append(ring, ring[0])
        top, foot = (piece.positions[loop] + away * piece.normals[loop] for away in (out, gap))
        along = np.diff(top, axis=0)
        facing = np.cross(along, piece.normals[loop[:-1]])
        facing /= np.maximum(np.linalg.norm(facing, axis=1, keepdims=True), 1e-30)
        corners = np.concatenate([top[:-1], top[1:], foot[:-1], foot[1:]])
        n = len(along)
        i = np.arange(n)
        faces = np.concatenate(
            [np.stack([i, i + 2 * n, i + n], -1), np.stack([i + n, i + 2 * n, i + 3 * n], -1)]
        )
        strips.append(Mesh(corners, np.tile(facing, (4, 1)), np.zeros((4 * n, 2)), faces))
    return together(*strips)


def _grid_rim(front: Array, back: Array) -> Mesh:
    """The four edges of a sheet of columns and rows."""
    top, foot = _towards(front[:, -1] - front[:, -2]), _towards(front[:, 0] - front[:, 1])
    strips = [
        open_mesh(np.stack(pair, axis=1), np.stack([facing, facing], axis=1))
        for pair, facing in (((front[:, -1], back[:, -1]), top), ((back[:, 0], front[:, 0]), foot))
    ]
    for edge, inner in ((0, 1), (-1, -2)):
        facing = _towards(front[edge] - front[inner])
        strip = np.stack([front[edge], back[edge]], axis=0)
        strips.append(open_mesh(strip, np.stack([facing, facing], axis=0)))
    return together(*strips)


def _towards(step: Array) -> Array:
    return np.asarray(step / np.maximum(np.linalg.norm(step, axis=-1, keepdims=True), 1e-12))
