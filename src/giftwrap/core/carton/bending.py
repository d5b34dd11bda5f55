"""Board that is bent to a tube along its whole length, its ends pressed in along curved creases.

The blank is bent around rulings that all go up on it. A flap at an end goes on from a curved crease; shut it
is what the tube would be beyond a plane, mirrored in that plane, so it is bent as the tube is and nothing is
stretched. On its way it is turned around the crease's tangent.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import manifold3d
import numpy as np
import shapely
import trimesh
from shapely import Polygon
from shapely.geometry.base import BaseGeometry
from shapely.geometry.polygon import orient

from giftwrap.core.carton.blank import MET, Blank
from giftwrap.core.carton.folding import Faces
from giftwrap.core.carton.section import Bending, End, Section, crease_level
from giftwrap.core.mesh.flat import flat_triangles, quads, sheet
from giftwrap.core.mesh.mesh import Mesh, flipped, together
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.mesh.solids import kernel_solid

CORE_RADIUS = 1.2
"""Radius of the middle of the board in a crease, as a share of the caliper."""
JOINED = 2e-5
"""Mm within which an edge is where other board goes on."""
COLUMNS, ROUND = 28, 6
"""Steps along a bent panel, and around a crease."""


@dataclass(frozen=True)
class _Rim:
    """A curved crease at places `across` the blank, (n,) mm: its `level` on it, (n,); in space its `places`
    and `tangent`, and how rulings go on `after` it and the flap is `facing`, (n, 3) each."""

    across: Array
    level: Array
    places: Array
    tangent: Array
    after: Array
    facing: Array


class Bent:
    """A blank bent and folded by angles; what `Folded` is for one whose panels are plane."""

    def __init__(self, blank: Blank, angles: Mapping[str, float], caliper: float, bending: Bending) -> None:
        self.blank, self.angles, self.caliper, self._bending = blank, angles, caliper, bending
        creases = {crease.name: crease for crease in blank.creases}
        main = max((c for c in blank.creases if not c.curve), key=lambda c: abs(c.angle))
        share = float(np.clip(angles[main.name] / main.angle, 0.0, 1.0))
        self.section = Section(bending.bends, bending.held, share, CORE_RADIUS * caliper)
        self._closed = Section(bending.bends, bending.held, 1.0, CORE_RADIUS * caliper)
        self._ends = {end.panel: end for end in bending.ends}
        self._shares = {name: angles[name] / creases[name].angle for name in self._ends}

    @cached_property
    def columns(self) -> Array:
        """Places across the blank between which it is as good as plane, mm."""
        found = [self.blank.outline.bounds[0]]
        for bend in self._bending.bends:
            cut = self.section.cut(bend)
            if cut > MET:
                found += list(np.linspace(bend.start - cut, bend.start + cut, ROUND + 1))
            steps = max(int(COLUMNS * (bend.end - bend.start) / self._widest), 3)
            found += list(np.linspace(bend.start + cut, bend.end, steps + 1)[1:])
        return np.unique(np.round(found, 9))

    @property
    def _widest(self) -> float:
        return max(bend.end - bend.start for bend in self._bending.bends)

    @cached_property
    def trimmed(self) -> Mapping[str, Polygon]:
        """What is left of each panel beside the roundings of its curved creases."""
        found = {}
        for panel in self.blank.panels:
            shape: BaseGeometry = self.blank.slit(panel.name, panel.outline)
            for end in self._ends.values():
                if panel.name in (end.panel, end.of):
                    shape = shape.difference(self._strip(end))
            parts = [part for part in getattr(shape, "geoms", [shape]) if isinstance(part, Polygon)]
            found[panel.name] = orient(max(parts, key=lambda part: part.area))
        return found

    def _cut(self, end: End) -> float:
        turn = np.pi / 2 * self._shares[end.panel]
        return CORE_RADIUS * self.caliper * float(np.tan(turn / 2))

    def _strip(self, end: End) -> Polygon:
        rim, cut = self._rims[end.panel], self._cut(end)
        ways = (rim.level - cut, rim.level + cut)
        return Polygon(
            [*zip(rim.across, ways[0], strict=True), *zip(rim.across[::-1], ways[1][::-1], strict=True)]
        )

    @cached_property
    def _rims(self) -> Mapping[str, _Rim]:
        return {name: self._rim(end) for name, end in self._ends.items()}

    def _rim(self, end: End) -> _Rim:
        curve = next(c for c in self.blank.creases if c.child == end.panel).curve
        low, high = min(x for x, _ in curve), max(x for x, _ in curve)
        inner = self.columns[(self.columns > low + MET) & (self.columns < high - MET)]
        across = np.unique(np.array([*inner, *(x for x, _ in curve)]))
        level = crease_level(self._closed, end, across)
        straight = np.array([0.0, float(end.way), 0.0])
        first, last = self._closed.sharp(np.array(end.chord))[0]
        chord = (last - first) / np.linalg.norm(last - first)
        shut = np.array([chord[1], 0.0, -chord[0]])  # from the bulge across the chord
        _, heading = self._closed.sharp(across)
        # the crease comes down the blank as fast as the bulge grows
        rising = -end.way * (np.cos(heading) * -chord[1] + np.sin(heading) * chord[0])
        tangent = _unit(np.column_stack([np.cos(heading), rising, np.sin(heading)]))
        angle = _turned_by(tangent, straight, shut)
        places, heading = self.section.at(across)
        tangent = _unit(np.column_stack([np.cos(heading), rising, np.sin(heading)]))
        after = _rotated(straight, tangent, angle * self._shares[end.panel])
        return _Rim(
            across=across,
            level=level,
            places=np.column_stack([places[:, 0], level, places[:, 1]]),
            tangent=tangent,
            after=after,
            facing=_unit(np.cross(tangent, after)) * end.way,
        )

    def mapped(self, panel: str, places: Array) -> tuple[Array, Array]:
        """(n, 3) each: where places on a panel's blank are in the middle of the board, and where the board
        faces there."""
        across = places[:, 0]
        if panel not in self._ends:
            at, heading = self.section.at(across)
            facing = np.column_stack([-np.sin(heading), np.zeros(len(across)), np.cos(heading)])
            return np.column_stack([at[:, 0], places[:, 1], at[:, 1]]), facing
        rim = self._rims[panel]
        table = np.column_stack([rim.places, rim.after, rim.facing, rim.level])
        found = np.column_stack([np.interp(across, rim.across, table[:, k]) for k in range(10)])
        run = (places[:, 1] - found[:, 9]) * self._ends[panel].way
        return found[:, :3] + run[:, None] * found[:, 3:6], _unit(found[:, 6:9])

    def _arc(self, end: End) -> tuple[Array, Array, Array]:
        """(n, k, 3), (n, k, 3) and (n, k, 2): the rounding along a curved crease, where it faces, and where
        it is on the blank."""
        rim, cut = self._rims[end.panel], self._cut(end)
        before = np.array([0.0, float(end.way), 0.0])
        turn = np.arccos(np.clip(rim.after @ before, -1, 1))
        radius = np.where(turn > 1e-6, cut / np.tan(np.maximum(turn, 1e-6) / 2), 0.0)
        aside = rim.after - (rim.after @ before)[:, None] * before
        aside /= np.maximum(np.linalg.norm(aside, axis=1, keepdims=True), 1e-12)
        share = np.linspace(0.0, 1.0, ROUND + 1)
        lean = turn[:, None] * share
        points = (
            (rim.places - cut * before)[:, None]
            + (radius[:, None] * np.sin(lean))[..., None] * before
            + (radius[:, None] * (1 - np.cos(lean)))[..., None] * aside[:, None]
        )
        along = np.cos(lean)[..., None] * before + np.sin(lean)[..., None] * aside[:, None]
        facing = _unit(np.cross(rim.tangent[:, None], along)) * end.way
        up = rim.level[:, None] + end.way * cut * (2 * share - 1)
        flat = np.stack([np.broadcast_to(rim.across[:, None], up.shape), up], axis=-1)
        return points, facing, flat

    def slab(self, panel: str, outline: Polygon, low: float, high: float) -> Mesh:
        """A sheet on a panel's blank as it is bent, from so far above the middle of the board to so far, mm;
        a closed surface."""
        upper, lower, walls = self._sheet(panel, orient(outline), low, high, [])
        return together(upper, lower, walls)

    def _sheet(
        self, panel: str, outline: Polygon, low: float, high: float, joints: Sequence[BaseGeometry]
    ) -> tuple[Mesh, Mesh, Mesh]:
        places, faces = _triangles(outline, self.columns)
        middle, facing = self.mapped(panel, places)
        upper = Mesh(middle + high * facing, facing, places.copy(), faces)
        lower = flipped(Mesh(middle + low * facing, facing, places.copy(), faces))
        rings = [np.array(ring.coords) for ring in (outline.exterior, *outline.interiors)]
        walls = [self._walls(panel, _divided(ring, self.columns), low, high, joints) for ring in rings]
        return upper, lower, together(*walls)

    def _walls(
        self, panel: str, ring: Array, low: float, high: float, joints: Sequence[BaseGeometry]
    ) -> Mesh:
        """The cut edges of a sheet along a ring; not where other board goes on from it."""
        middle, facing = self.mapped(panel, ring)
        foot, top = middle + low * facing, middle + high * facing
        middles = shapely.points((ring[1:] + ring[:-1]) / 2)
        free = np.ones(len(ring) - 1, bool)
        for joint in joints:
            free &= shapely.distance(middles, joint) > JOINED
        corners = np.stack([foot[:-1], foot[1:], top[1:], top[:-1]], axis=1)[free]
        out = np.cross((foot[1:] - foot[:-1])[free], facing[:-1][free])
        # what meets here is split alike: from the left foot to the right top
        onward = (ring[1:, 0] > ring[:-1, 0])[free]
        split = np.where(onward[:, None, None], [[0, 1, 2], [0, 2, 3]], [[0, 1, 3], [1, 2, 3]])
        return quads(corners, _unit(out + np.array([0.0, 0.0, 1e-300])), split)

    def _rounding(self, end: End) -> tuple[Mesh, Mesh, Mesh]:
        points, facing, flat = self._arc(end)
        half = self.caliper / 2
        upper = sheet(points + half * facing, facing, flat)
        lower = flipped(sheet(points - half * facing, facing, flat))
        ends = []
        for row, way in ((0, -1.0), (-1, 1.0)):
            rows = np.stack([points[row] - half * facing[row], points[row] + half * facing[row]])
            out = way * (points[-1] - points[0]).mean(axis=0)
            out = np.broadcast_to(out / np.linalg.norm(out), rows.shape)
            ends.append(sheet(rows, out, np.zeros((*rows.shape[:2], 2))))
        return upper, lower, together(*ends)

    @cached_property
    def faces(self) -> Faces:
        """All of its surfaces."""
        half = self.caliper / 2
        found: list[tuple[Mesh, Mesh, Mesh]] = []
        for name, outline in self.trimmed.items():
            joints = self._joints(name)
            found.append(self._sheet(name, outline, -half, half, joints))
        found += [self._rounding(end) for end in self._ends.values()]
        outside, inside, edge = (together(*meshes) for meshes in zip(*found, strict=True))
        return Faces(outside, inside, edge)

    def _joints(self, name: str) -> list[BaseGeometry]:
        """Where other board goes on from a panel: the lines where it is cut from others, and roundings."""
        joints: list[BaseGeometry] = []
        for crease in self.blank.creases:
            if name not in (crease.parent, crease.child):
                continue
            joints.append(self._strip(self._ends[crease.child]) if crease.curve else crease.line)
        return joints

    def solids(self) -> dict[str, manifold3d.Manifold]:
        """Each panel as a solid, the rounding of its curved crease with it: for what meets what."""
        half, found = self.caliper / 2, {}
        for name, outline in self.trimmed.items():
            found[name] = kernel_solid(self.slab(name, outline, -half, half))
        for end in self._ends.values():
            upper, lower, ends = self._rounding(end)
            points, facing, _ = self._arc(end)
            rows = [
                np.stack([points[:, k] - half * facing[:, k], points[:, k] + half * facing[:, k]])
                for k in (0, -1)
            ]
            before, after = (sheet(r, np.zeros(r.shape), np.zeros((*r.shape[:2], 2))) for r in rows)
            solid = _closed(together(upper, lower, ends, before, after))
            found[end.panel] += solid
        return found

    def outlines(self) -> dict[str, tuple[Array, Array]]:
        """The edge of each panel in space, (n, 3), mm, and where it faces, (3,)."""
        found = {}
        for name, outline in self.trimmed.items():
            ring = _divided(np.array(outline.exterior.coords), self.columns)
            points, facing = self.mapped(name, ring)
            found[name] = points, facing.mean(axis=0)
        return found


def _unit(ways: Array) -> Array:
    return np.asarray(ways / np.linalg.norm(ways, axis=-1, keepdims=True))


def _turned_by(axes: Array, first: Array, last: Array) -> Array:
    """(n,) float: radians that take one way to another around axes."""
    one = first - (axes @ first)[:, None] * axes
    other = last - (axes @ last)[:, None] * axes
    return np.asarray(np.arctan2((axes * np.cross(one, other)).sum(axis=1), (one * other).sum(axis=1)))


def _rotated(way: Array, axes: Array, angles: Array) -> Array:
    """(n, 3) float: a way turned around axes."""
    c, s = np.cos(angles)[:, None], np.sin(angles)[:, None]
    along = (axes @ way)[:, None]
    return np.asarray(c * way + s * np.cross(axes, np.broadcast_to(way, axes.shape)) + (1 - c) * along * axes)


def _triangles(outline: Polygon, columns: Array) -> tuple[Array, Indices]:
    """A panel in triangles, none of which goes across a column."""
    left, foot, right, top = outline.bounds
    edges = np.array([left, *columns[(columns > left + MET) & (columns < right - MET)], right])
    places, faces, count = [], [], 0
    for part in shapely.intersection(outline, shapely.box(edges[:-1], foot - 1, edges[1:], top + 1)):
        for piece in getattr(part, "geoms", [part]):
            if not isinstance(piece, Polygon) or piece.area < 1e-9:
                continue
            flat, found = flat_triangles(orient(piece))
            places.append(flat)
            faces.append(found + count)
            count += len(flat)
    return np.vstack(places), np.vstack(faces)


def _divided(ring: Array, columns: Array) -> Array:
    """A ring with a point wherever it goes across a column."""
    found = [ring[0]]
    for one, other in pairwise(ring):
        low, high = sorted((one[0], other[0]))
        between = columns[(columns > low + MET) & (columns < high - MET)]
        shares: Array = np.sort((between - one[0]) / (other[0] - one[0])) if len(between) else between
        found += [one + share * (other - one) for share in shares] + [other]
    return np.array(found)


def _closed(mesh: Mesh) -> manifold3d.Manifold:
    """A closed surface whose pieces may face either way, as a solid."""
    solid = trimesh.Trimesh(mesh.positions, mesh.faces, process=True)
    solid.fix_normals()
    points, faces = np.asarray(solid.vertices, np.float32), np.asarray(solid.faces, np.uint32)
    return manifold3d.Manifold(manifold3d.Mesh(points, faces))
