"""Folding a blank: where every panel goes, and the board's surfaces with its thickness at every fold.

A crease lies in the middle of the board. Folded by θ, a strip of (t/2)·tan(θ/2) on either side of it
becomes an arc around the line where the insides of both panels meet, so the inside of a carton is its
creases' distance less one caliper; the outside turns by the caliper around the same line.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import manifold3d
import numpy as np
from numpy.typing import NDArray
from shapely import LineString, Polygon
from shapely.geometry.polygon import orient

from giftwrap.core.carton.blank import MET, Blank, Crease
from giftwrap.core.carton.pressing import embossed
from giftwrap.core.mesh.flat import flat_triangles, sheet
from giftwrap.core.mesh.mesh import Mesh, flipped, together
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.mesh.solids import smoothed
from giftwrap.core.mesh.transform import moved, shift

MOST_FOLD = 170.0
"""Degrees: one crease does not lay board flat on itself; two of them do, with room between."""
LEAST_FOLD = 0.01
_LEAST_WEDGE = 1e-3
"""Mm of board beside a crease below which its arc is no solid that the boolean kernel could tell."""
ARC_STEPS = 12
BULGE = 0.08
"""How far the outside of a crease stands out of its arc, as a share of the caliper: the fibres that were
pressed in have nowhere else to go (common practice)."""


def angles_at(
    blank: Blank,
    closed: float,
    *,
    steps: int | None = None,
    flaps: Mapping[str, float] | None = None,
    spring: float = 0.0,
) -> dict[str, float]:
    """Degrees of every crease of a blank that is folded so far, by name; those of flaps by hand as they are,
    and those that follow others as these are.

    closed : from flat (0) to closed (1)
    steps : in which everything closes, where that is not this blank alone
    spring : degrees by which what is only tucked in stands open, at its last step
    """
    steps = steps or blank.steps
    found = {}
    for crease in blank.creases:
        share = float(np.clip(closed * steps - crease.step, 0.0, 1.0))
        smooth = share * share * (3 - 2 * share)
        end = crease.angle - np.sign(crease.angle) * spring * crease.springs
        found[crease.name] = float((flaps or {}).get(crease.name, smooth * end))
    for crease in blank.creases:
        if crease.follows is not None:
            found[crease.name] = crease.follows.rule(*(found[name] for name in crease.follows.creases))
    return {name: _within(angle) for name, angle in found.items()}


def _within(angle: float) -> float:
    """An angle that board can be folded by; flat is folded by next to nothing, so that all is one sheet."""
    return float(np.copysign(np.clip(abs(angle), LEAST_FOLD, MOST_FOLD), angle))


@dataclass(frozen=True)
class Faces:
    """The surfaces of folded board, mm. `edge` shows its core; uvs of the outside are mm on the blank."""

    outside: Mesh
    inside: Mesh
    edge: Mesh


NOTHING = Mesh(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros((0, 2)), np.zeros((0, 3), np.int64))


@dataclass(frozen=True)
class _Arc:
    """The strip around a crease from parent to child, its lower and its upper end, on the parent's blank.

    places : (2, k, 2) on the blank, mm; facing : (k, 3)
    hinge, curve : (2, k, 3), mm: where the insides meet, and the side that is bent around it
    """

    places: Array
    facing: Array
    hinge: Array
    curve: Array


class Folded:
    """A blank folded by angles, its first panel where it lay."""

    def __init__(self, blank: Blank, angles: Mapping[str, float], caliper: float) -> None:
        self.blank, self.angles, self.caliper = blank, angles, caliper

    @cached_property
    def poses(self) -> Mapping[str, Array]:
        """(4, 4) float for each panel: from the blank, outside up, to where it is folded to."""
        found = {self.blank.panels[0].name: np.eye(4)}
        waiting = [self.blank.panels[0].name]
        while waiting:
            parent = waiting.pop()
            for crease in self.blank.hanging(parent):
                found[crease.child] = found[parent] @ _turned(crease, self.angles[crease.name])
                waiting.append(crease.child)
        return found

    @cached_property
    def trimmed(self) -> Mapping[str, Polygon]:
        """What is left flat of each panel beside the arcs of its creases."""
        found = {p.name: orient(self.blank.slit(p.name, p.outline)) for p in self.blank.panels}
        for crease in self.blank.creases:
            half = self._half(crease)
            if half < MET:
                continue
            for name, side in ((crease.child, -1.0), (crease.parent, 1.0)):
                strip = _strip(crease, side * half)
                left = found[name].difference(strip)
                parts = [left] if isinstance(left, Polygon) else list(left.geoms)
                found[name] = orient(max(parts, key=lambda part: part.area))
        return found

    def solids(self) -> dict[str, manifold3d.Manifold]:
        """Each panel, and the arc of the crease it hangs on, as a solid: for what meets what."""
        found = {}
        for name, outline in self.trimmed.items():
            slab = manifold3d.CrossSection(_rings(outline), manifold3d.FillRule.EvenOdd).extrude(self.caliper)
            found[name] = slab.translate((0, 0, -self.caliper / 2)).transform(self.poses[name][:3])
        for crease in self.blank.creases:
            if self._half(crease) >= _LEAST_WEDGE:
                found[crease.child] += self._wedge(crease)
        return found

    def slab(self, panel: str, outline: Polygon, low: float, high: float) -> Mesh:
        """A sheet on a panel's blank as it is folded, from so far above the middle of the board to so far,
        mm; a closed surface."""
        sheet = manifold3d.CrossSection(_rings(orient(outline)), manifold3d.FillRule.EvenOdd)
        return moved(smoothed(sheet.extrude(high - low).translate((0, 0, low))), self.poses[panel])

    def outlines(self) -> dict[str, tuple[Array, Array]]:
        """The edge of each panel in space, (n, 3), mm, and where it faces, (3,)."""
        found = {}
        for name, outline in self.trimmed.items():
            ring, pose = np.array(outline.exterior.coords), self.poses[name]
            points = np.column_stack([ring, np.zeros(len(ring))]) @ pose[:3, :3].T + pose[:3, 3]
            found[name] = points, pose[:3, 2]
        return found

    def _wedge(self, crease: Crease) -> manifold3d.Manifold:
        """The arc of a crease as a solid, without its swelling: between the hinge and both panels."""
        arc = self._arc_lines(crease, 0.0)
        points = np.vstack([arc.hinge.reshape(-1, 3), arc.curve.reshape(-1, 3)])
        return manifold3d.Manifold.hull_points(points).transform(self.poses[crease.parent][:3])

    @cached_property
    def faces(self) -> Faces:
        """All of its surfaces."""
        outside, inside, edge = [], [], []
        for name, outline in self.trimmed.items():
            up, down, around = self._slab(name, outline)
            outside.append(up)
            inside.append(down)
            edge.append(around)
        for crease in self.blank.creases:
            if self._half(crease) >= MET:
                up, down, around = self._arc(crease)
                outside.append(up)
                inside.append(down)
                edge.append(around)
        return Faces(together(*outside), together(*inside), together(*edge))

    def _half(self, crease: Crease) -> float:
        return self.caliper / 2 * float(np.tan(np.radians(abs(self.angles[crease.name])) / 2))

    def _slab(self, name: str, outline: Polygon) -> tuple[Mesh, Mesh, Mesh]:
        half, rings = self.caliper / 2, _rings(outline)
        pressed = [one for one in self.blank.pressed if one.panel == name]
        for one in pressed:
            outline = outline.difference(one.outline)
        flat, faces = flat_triangles(orient(outline))
        up = _flat_mesh(flat, half, faces, 1.0)
        down = _flat_mesh(flat, -half, faces[:, ::-1], -1.0)
        for one in pressed:
            raised = embossed(one)
            up = together(up, moved(raised, shift(0, 0, half)))
            down = together(down, flipped(moved(raised, shift(0, 0, -half))))
        joints = [c for c in self.blank.creases if name in (c.parent, c.child) and self._half(c) >= MET]
        around = _walls(rings, half, [(c, self._half(c) * (1 if c.parent == name else -1)) for c in joints])
        return tuple(moved(mesh, self.poses[name]) for mesh in (up, down, around))  # type: ignore[return-value]

    def _arc(self, crease: Crease) -> tuple[Mesh, Mesh, Mesh]:
        """The strip around a crease: outside, inside (a line, but where it is bent back) and ends."""
        arc = self._arc_lines(crease, BULGE)
        along = np.append(np.subtract(crease.end, crease.start) / crease.length, 0.0)
        curved = sheet(arc.curve, np.broadcast_to(arc.facing, arc.curve.shape), arc.places)
        fans = []
        for end, way in ((0, -along), (1, along)):
            rows = np.stack([arc.hinge[end], arc.curve[end]])
            fans.append(sheet(rows, np.broadcast_to(way, rows.shape), np.zeros((*rows.shape[:2], 2))))
        pose = self.poses[crease.parent]
        curved, around = moved(curved, pose), moved(together(*fans), pose)
        return (curved, NOTHING, around) if self.angles[crease.name] > 0 else (NOTHING, curved, around)

    def _arc_lines(self, crease: Crease, bulge: float) -> _Arc:
        angle = np.radians(self.angles[crease.name])
        sign, theta, half, t = np.sign(angle), abs(angle), self._half(crease), self.caliper
        share = np.linspace(0.0, 1.0, max(int(np.ceil(ARC_STEPS * theta / (np.pi / 2))), 2) + 1)
        turn = share * theta
        along = np.subtract(crease.end, crease.start) / crease.length
        away = np.array([along[1], -along[0]])  # towards the child, on the right
        swell = bulge * min(theta / (np.pi / 2), 1.0)
        bulged = t * (1 + swell * np.sin(np.pi * share) ** 2)
        rising = t * swell * np.pi / theta * np.sin(2 * np.pi * share)  # of the radius, by the angle
        # around (−half, −sign·t/2), from the parent's face to the child's
        across = np.stack([-half + bulged * np.sin(turn), sign * (-t / 2 + bulged * np.cos(turn))], axis=1)
        lean = turn - np.arctan2(rising, bulged)
        facing = np.stack([np.sin(lean), sign * np.cos(lean)], axis=1)
        spans = [self._span(crease.parent, crease, half), self._span(crease.child, crease, -half)]
        reach = np.array(spans[0])[:, None] * (1 - share) + np.array(spans[1])[:, None] * share
        foot = np.array(crease.start) + reach[..., None] * along
        base = np.concatenate([foot, np.zeros((*reach.shape, 1))], axis=-1)

        def lifted(values: Array) -> Array:
            return np.concatenate([values[..., :1] * away, values[..., 1:]], axis=-1)

        return _Arc(
            places=foot + (-half + 2 * half * share)[None, :, None] * away,
            facing=lifted(facing),
            hinge=base + lifted(np.array([-half, -sign * t / 2])),
            curve=base + lifted(across),
        )

    def _span(self, name: str, crease: Crease, aside: float) -> tuple[float, float]:
        """Where a panel is that wide, in mm along a crease, so far aside of it to the left."""
        start, end = np.array(crease.start), np.array(crease.end)
        along = (end - start) / crease.length
        shift = np.array([-along[1], along[0]]) * aside
        line = LineString([start + shift, end + shift])
        met = self.blank.by_name[name].outline.buffer(MET).intersection(line)
        if met.is_empty:
            return 0.0, crease.length
        coords = np.vstack([np.array(part.coords) for part in getattr(met, "geoms", [met])])
        reach = (coords - start) @ along
        return float(max(reach.min(), 0.0)), float(min(reach.max(), crease.length))


def _rings(outline: Polygon) -> list[Array]:
    """(n, 2) float each: its edge counter-clockwise and its holes clockwise, as panels are oriented."""
    return [np.array(ring.coords[:-1]) for ring in (outline.exterior, *outline.interiors)]


def _turned(crease: Crease, degrees: float) -> Array:
    """(4, 4) float: turns what is on the right of a crease down, around it."""
    way = np.append(np.subtract(crease.end, crease.start) / crease.length, 0.0)
    start = np.append(crease.start, 0.0)
    angle = np.radians(degrees)
    k = np.array([[0, -way[2], way[1]], [way[2], 0, -way[0]], [-way[1], way[0], 0]])
    turn = np.eye(3) + np.sin(angle) * k + (1 - np.cos(angle)) * (k @ k)
    pose = np.eye(4)
    pose[:3, :3], pose[:3, 3] = turn, start - turn @ start
    return pose


def _strip(crease: Crease, half: float) -> Polygon:
    """What lies within `half` mm on the left of a crease (on its right when negative)."""
    start, end = np.array(crease.start), np.array(crease.end)
    along = (end - start) / crease.length
    aside = np.array([-along[1], along[0]]) * half
    first, last = start - along * MET, end + along * MET
    return Polygon([first, last, last + aside, first + aside])


def _walls(rings: list[Array], half: float, joints: list[tuple[Crease, float]]) -> Mesh:
    """The cut edges of a slab; not where an arc goes on from it."""
    starts, ends = np.vstack(rings), np.vstack([np.roll(ring, -1, axis=0) for ring in rings])
    along = ends - starts
    length = np.linalg.norm(along, axis=1)
    free = length > 1e-9
    for crease, aside in joints:
        free &= ~_lie_on(starts, ends, crease, aside)
    starts, ends, along = starts[free], ends[free], along[free] / length[free, None]
    # rings go counter-clockwise, holes clockwise: what is outside lies on the right
    out = np.column_stack([along[:, 1], -along[:, 0], np.zeros(len(along))])
    quads = [
        np.insert(ring, 2, z, axis=1) for ring, z in zip((starts, ends, ends, starts), _DOWN_UP, strict=True)
    ]
    corners = np.stack(quads, axis=1) * [1, 1, half]
    faces = np.array([[0, 1, 2], [0, 2, 3]]) + 4 * np.arange(len(starts))[:, None, None]
    return Mesh(
        corners.reshape(-1, 3),
        np.repeat(out, 4, axis=0),
        np.zeros((4 * len(starts), 2)),
        faces.reshape(-1, 3),
    )


_DOWN_UP = (-1.0, -1.0, 1.0, 1.0)


def _lie_on(starts: Array, ends: Array, crease: Crease, aside: float) -> NDArray[np.bool_]:
    """(n,) bool: which pieces of outlines lie on a crease's line that was moved aside to the left."""
    first, last = np.array(crease.start), np.array(crease.end)
    along = (last - first) / crease.length
    left = np.array([-along[1], along[0]])
    found = np.ones(len(starts), bool)
    for at in (starts - first, ends - first):
        reach = at @ along
        found &= np.abs(at @ left - aside) < 10 * MET
        found &= (reach > -1e-4) & (reach < crease.length + 1e-4)
    return found


def _flat_mesh(flat: Array, height: float, faces: Indices, way: float) -> Mesh:
    points = np.column_stack([flat, np.full(len(flat), height)])
    normals = np.tile([0.0, 0.0, way], (len(flat), 1))
    return Mesh(points, normals, flat.copy(), np.ascontiguousarray(faces))
