"""From a body document to its walls: the outer path, the cavity, the rim, the volumes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from shapely import LineString, Point, Polygon, shortest_line
from shapely.geometry import MultiPolygon, box

from giftwrap.core.errors import PackError
from giftwrap.core.form.path import Array, Path, cut, joined, reversed_path, rounded_path, with_creases
from giftwrap.core.form.volume import height_of_volume, revolved_volume_ml, volume_below_ml
from giftwrap.core.model import Body, Contents

RIM_ROUNDING = 0.42
"""Rounding of both edges of the rim as a share of the wall: moulded rims are rounded (common practice)."""
CAPILLARY_LENGTH = 2.7
"""√(γ/ρg) of water at 20 °C in mm, from memory (γ = 72.8 mN/m, ρ = 998 kg/m³)."""
MENISCUS_RISE = 1.8
"""Height in mm to which a watery liquid climbs a clean glass wall; a look, not a measurement."""
_WELD = 0.002


@dataclass(frozen=True)
class Vessel:
    """A hollow body. All paths run with glass on their left.

    outer : from the axis at the base to the outer rim corner, without the rim's rounding
    inner : from the rim's inner corner down the wall to the axis at the floor
    glass : the whole surface of the glass, outer and inner, as one closed loop
    cavity : half-section of the inside up to the rim, mm
    solid : half-section of everything the body encloses, mm
    """

    outer: Path
    inner: Path
    glass: Path
    cavity: Polygon
    solid: Polygon

    @property
    def rim_height(self) -> float:
        """Height of the rim above the table in mm."""
        return float(self.outer.points[-1, 1])

    @property
    def floor_height(self) -> float:
        """Height of the inside floor above the table in mm."""
        return float(self.cavity.bounds[1])

    @property
    def brimful_ml(self) -> float:
        """Capacity to the rim."""
        return revolved_volume_ml(self.cavity)

    def volume_at(self, fill_height: float) -> float:
        """Contents in ml when filled to a height in mm above the table."""
        return volume_below_ml(self.cavity, fill_height)

    def height_for(self, volume_ml: float) -> float:
        """Fill height in mm above the table for a volume in ml.

        Raises PackError when the body holds less.
        """
        if volume_ml > self.brimful_ml:
            raise PackError(
                f"{volume_ml:g} ml is more than the pack holds to the brim ({self.brimful_ml:.1f} ml): "
                "fill it with less or make the body larger.",
                "contents.fill_height",
            )
        return height_of_volume(self.cavity, volume_ml)


def build_vessel(body: Body) -> Vessel:
    """Offset the profile by the wall and close it with a floor and a rounded rim.

    Raises PackError, with the place in the body document, when the wall cannot exist.
    """
    if body.base_thickness < body.wall_thickness:
        raise PackError(
            f"The base ({body.base_thickness:g} mm) is thinner than the wall ({body.wall_thickness:g} mm): "
            "make the base at least as thick.",
            "body.base_thickness",
        )
    rim = body.profile[-1].height
    if body.base_thickness >= rim:
        raise PackError(
            f"The base of {body.base_thickness:g} mm fills the whole body, which is {rim:g} mm tall: "
            "make it thinner.",
            "body.base_thickness",
        )
    corners = np.array(
        [[0.0, 0.0, 0.0], *([c.radius, c.height, c.rounding] for c in body.profile)], dtype=float
    )
    names = ["body", *(f"body.profile.{i}.rounding" for i in range(len(body.profile)))]
    outer = rounded_path(corners, names=names)
    inner_line, cavity = _inner_wall(body, outer, corners)
    inner = with_creases(Path(inner_line, _normals_towards(inner_line, outer, corners)))
    inner = _with_floor(inner, cavity, body)
    glass = _with_rim(outer, inner, body.wall_thickness)
    return Vessel(
        outer=outer,
        inner=inner,
        glass=glass,
        cavity=_half_section(reversed_path(inner).points),
        solid=_half_section(outer.points),
    )


def check_contents(vessel: Vessel, contents: Contents) -> None:
    """Raise PackError when the fill level is under the floor or above the brim."""
    if contents.fill_height > vessel.rim_height:
        raise PackError(
            f"The fill height of {contents.fill_height:.1f} mm is above the brim "
            f"({vessel.rim_height:.1f} mm): lower it to at most {vessel.rim_height:.1f} mm.",
            "contents.fill_height",
        )
    if contents.fill_height <= vessel.floor_height:
        raise PackError(
            f"The fill height of {contents.fill_height:.1f} mm is below the inside floor "
            f"({vessel.floor_height:.1f} mm): raise it, or take the contents out.",
            "contents.fill_height",
        )


@dataclass(frozen=True)
class Liquid:
    """Where contents touch, and where they do not.

    wall : glass to liquid, from the liquid line down to the axis (glass on its left)
    top : liquid to air, from the liquid line in to the axis (liquid on its left)
    dry : the rest of the glass surface, from the axis outside over the rim to the liquid line
    """

    wall: Path
    top: Path
    dry: Path


def pour(vessel: Vessel, contents: Contents) -> Liquid:
    """Split the inner wall at the liquid line and draw the meniscus.

    The meniscus is the linearised Young–Laplace profile z = h·exp(−(R−r)/λ) with λ the
    capillary length; the fill height is its level away from the wall.
    """
    check_contents(vessel, contents)
    level = contents.fill_height
    rise = min(MENISCUS_RISE, 0.4 * (vessel.rim_height - level))
    contact = level + rise
    inner = vessel.inner
    heights = inner.points[:, 1]
    crossing = int(np.argmax((heights[:-1] > contact) & (heights[1:] <= contact)))
    lengths = inner.lengths()
    span = heights[crossing] - heights[crossing + 1]
    share = (heights[crossing] - contact) / span if span > 0 else 0.0
    at = float(lengths[crossing] + share * (lengths[crossing + 1] - lengths[crossing]))
    wall = cut(inner, at, float(lengths[-1]))
    whole = float(vessel.glass.lengths()[-1])
    dry = cut(vessel.glass, 0.0, whole - float(wall.lengths()[-1]))
    dry.points[-1] = wall.points[0]
    radius = float(wall.points[0, 0])
    r = radius * (1 - np.linspace(0.0, 1.0, 40) ** 2)
    lift = rise * np.exp(-(radius - r) / CAPILLARY_LENGTH)
    lift -= rise * np.exp(-radius / CAPILLARY_LENGTH) * (1 - r / radius)
    slope = lift / CAPILLARY_LENGTH
    points = np.stack([r, level + lift], axis=1)
    points[0] = wall.points[0]
    normals = np.stack([-slope, np.ones_like(slope)], axis=1)
    normals[-1] = (0.0, 1.0)
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    return Liquid(wall=wall, top=Path(points, normals), dry=dry)


def _half_section(points: Array) -> Polygon:
    return Polygon([*points, (0.0, points[-1, 1])])


def _mirrored(points: Array) -> Polygon:
    left = points[::-1] * np.array([-1.0, 1.0])
    return Polygon(np.vstack([points, left])).buffer(0)


def _inner_wall(body: Body, outer: Path, corners: Array) -> tuple[Array, Polygon]:
    """Erode the closed section by the wall; keep the part that reaches from floor to rim.

    Returns the inner line from the rim down to the floor's edge, and the cavity's half-section.
    """
    wall, rim = body.wall_thickness, float(corners[-1, 1])
    before, last = corners[-2, :2], corners[-1, :2]
    direction = (last - before) / np.linalg.norm(last - before)
    extension = last + direction * (3 * wall + 2)
    if extension[0] <= wall:
        extension = last + np.array([0.0, 3 * wall + 2])
    extended = np.vstack([outer.points, extension])
    eroded = _mirrored(extended).buffer(-wall, quad_segs=32)
    parts = eroded.geoms if isinstance(eroded, MultiPolygon) else [eroded]
    reaching = [p for p in parts if not p.is_empty and p.bounds[1] < wall + 1e-3 and p.bounds[3] > rim + 0.1]
    if not reaching:
        raise _wall_too_thick(body, outer)
    width = float(corners[:, 0].max()) + 1
    cavity = reaching[0].intersection(box(0, body.base_thickness, width, rim))
    if isinstance(cavity, MultiPolygon) or cavity.is_empty or cavity.bounds[3] < rim - 1e-6:
        raise _wall_too_thick(body, outer)
    ring = np.array(cavity.exterior.coords)[:-1]
    if not cavity.exterior.is_ccw:
        ring = ring[::-1]
    level = np.flatnonzero(ring[:, 1] < ring[:, 1].min() + 1e-6)
    floor_edge = int(level[np.argmax(ring[level, 0])])
    ring = np.roll(ring, -floor_edge, axis=0)
    top = next(i for i in range(len(ring)) if ring[i, 1] > rim - 1e-6)
    return _welded(ring[: top + 1][::-1]), cavity


def _wall_too_thick(body: Body, outer: Path) -> PackError:
    above_floor = outer.points[outer.points[:, 1] >= body.base_thickness]
    narrowest = above_floor[np.argmin(above_floor[:, 0])]
    return PackError(
        f"A wall of {body.wall_thickness:g} mm leaves no opening: at {narrowest[1]:.1f} mm height the "
        f"radius is only {narrowest[0]:.1f} mm. Make the wall thinner than that or the body wider.",
        "body.wall_thickness",
    )


def _welded(points: Array) -> Array:
    keep = [0]
    for i in range(1, len(points)):
        if np.linalg.norm(points[i] - points[keep[-1]]) > _WELD or i == len(points) - 1:
            keep.append(i)
    return points[keep]


def _normals_towards(inner: Array, outer: Path, corners: Array) -> Array:
    """Normals out of the glass into the cavity: away from the nearest point of the outer wall."""
    direction = corners[-1, :2] - corners[-2, :2]
    extended = np.vstack([outer.points, corners[-1, :2] + 5 * direction])
    line = LineString(extended)
    nearest = np.array([shortest_line(Point(p), line).coords[1] for p in inner])
    away = inner - nearest
    unit: Array = away / np.linalg.norm(away, axis=1, keepdims=True)
    return unit


def _with_floor(inner: Path, cavity: Polygon, body: Body) -> Path:
    """Join wall and floor by a fillet that touches both, as large as the outer heel's allows."""
    base = body.base_thickness
    wanted = max(body.profile[0].rounding - body.wall_thickness, body.wall_thickness)
    mirrored = cavity.union(Polygon([(-x, y) for x, y in cavity.exterior.coords]).buffer(0))
    for rounding in (wanted, wanted / 2, wanted / 4):
        room = mirrored.buffer(-rounding, quad_segs=16)
        level = LineString([(0, base + rounding), (cavity.bounds[2] + 1, base + rounding)])
        reach = room.buffer(1e-6).intersection(level)
        if not reach.is_empty and reach.bounds[0] < 1e-3:
            break
    else:
        return joined(inner, _floor(*inner.points[-1]))
    centre = np.array([reach.bounds[2], base + rounding])
    wall_line = LineString(inner.points)
    contact = np.array(shortest_line(Point(centre), wall_line).coords[1])
    wall = cut(inner, 0.0, float(wall_line.project(Point(contact))))
    start = float(np.arctan2(contact[1] - centre[1], contact[0] - centre[0]))
    angles = np.linspace(start, -np.pi / 2, 14)
    spokes = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    arc = Path(centre + rounding * spokes, -spokes)
    return joined(Path(wall.points[:-1], wall.normals[:-1]), arc, _floor(centre[0], base))


def _floor(edge: float, height: float) -> Path:
    return Path(np.array([[edge, height], [0.0, height]]), np.array([[0.0, 1.0], [0.0, 1.0]]))


def _with_rim(outer: Path, inner: Path, wall: float) -> Path:
    """One loop over the rim, both of whose edges are rounded."""
    rounding = RIM_ROUNDING * wall
    outer_lengths, inner_lengths = outer.lengths(), inner.lengths()
    below_outer = cut(outer, 0.0, max(float(outer_lengths[-1]) - wall, 0.0))
    below_inner = cut(inner, min(wall, float(inner_lengths[-1])), float(inner_lengths[-1]))
    corners = np.array(
        [
            [*below_outer.points[-1], 0.0],
            [*outer.points[-1], rounding],
            [*inner.points[0], rounding],
            [*below_inner.points[0], 0.0],
        ]
    )
    width = float(np.linalg.norm(outer.points[-1] - inner.points[0]))
    corners[1:3, 2] = min(rounding, 0.45 * width, 0.45 * wall)
    rim = rounded_path(corners)
    return joined(below_outer, Path(rim.points[1:-1], rim.normals[1:-1]), below_inner)
