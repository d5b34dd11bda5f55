"""From a half-profile of corners to the outer path of a body, from the axis under it to its rim."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.interpolate import CubicSpline
from shapely import LineString

from giftwrap.core.errors import PackError
from giftwrap.core.form.sections import ROUND, Loft
from giftwrap.core.form.zones import Zone, ramp_heights, wall_thickness, zones_of
from giftwrap.core.mesh.fillet import filleted, refuse_roundings, rounding_limits
from giftwrap.core.mesh.path import Array, Path, bulging, straight
from giftwrap.core.model import Body, Corner

RING_SHARE = 0.9
"""The push-up reaches over this share of the flat base; the rest is the ring it stands on."""
RING_ROUNDING = 1.5
LEDGE_ROUNDING = 0.6
LEAST_STEP = 0.02
CHANGE_STEP, MOST_CHANGE_STEPS = 1.5, 44
"""Step in mm between points where one cross-section becomes another, and how many at most."""
CURVE_STEP = 0.8
"""Longest chord in mm of a smooth curve."""


@dataclass(frozen=True)
class Profile:
    """A body's outside in the half-plane.

    path : from the axis under the base to the outer edge of the rim, mm
    base_end : index of the last point of the underside
    walls : (n,) float, wall thickness behind each point; the base's own under the base
    limits : (corners,) float, largest rounding each corner can have, mm
    """

    path: Path
    base_end: int
    walls: Array
    limits: Array
    zones: tuple[Zone, ...]

    @property
    def rim_height(self) -> float:
        """Height of the rim above the table in mm."""
        return float(self.path.points[-1, 1])


def outer_profile(body: Body, loft: Loft = ROUND) -> Profile:
    """Form the outside of a body, with points enough for its cross-sections to change smoothly.

    Raises PackError, with the place in the pack, where a rounding, curve or push-up does not fit.
    """
    corners = body.profile
    base, base_roundings = _underside(body)
    legs = [*base, *_legs(corners)]
    roundings = [*base_roundings, *(c.rounding for c in corners)]
    names = ["body.push_up"] * len(base_roundings)
    names += [f"body.profile.{i}.rounding" for i in range(len(corners))]
    finish_bottom = corners[-1].height
    if body.finish:
        more, more_roundings = _finish_legs(body)
        legs += more
        roundings += more_roundings
        names += ["body.finish"] * len(more_roundings)
    sizes = np.array(roundings)
    limits = rounding_limits(legs, sizes, first=len(base_roundings))
    refuse_roundings(sizes, limits, names, first=len(base_roundings))
    path = filleted(legs, sizes)
    _refuse_folds(path)
    lowest = np.flatnonzero(path.points[:, 1] < 1e-6)
    base_end = int(lowest[-1])
    upper = path.points[base_end:]
    zones = zones_of(body, upper, _heel_top(path, base_end), finish_bottom)
    path = _with_heights(path, base_end, np.concatenate([ramp_heights(body, zones), _changing(loft)]))
    walls = wall_thickness(body, zones, path.points[:, 1])
    walls[: base_end + 1] = body.base_thickness
    first = len(base_roundings)
    return Profile(path, base_end, walls, limits[first : first + len(corners)], zones)


def profile_legs(body: Body) -> tuple[list[Path], Array, list[str]]:
    """The legs of the outside beginning with the one along the table, their roundings in mm, and how
    each was drawn: line, arc or curve.
    """
    corners = body.profile
    edge = corners[0].radius
    first = straight(
        np.array([max(edge - 2 * corners[0].rounding - 1, 0.2 * edge), 0.0]), np.array([edge, 0.0])
    )
    legs, roundings = [first, *_legs(corners)], [0.0, *(c.rounding for c in corners)]
    return legs, np.array(roundings), ["line", *(c.leave for c in corners[:-1])]


def _underside(body: Body) -> tuple[list[Path], list[float]]:
    """The legs from the axis to the first corner, and the roundings at their starts."""
    edge = body.profile[0]
    if body.push_up <= 0:
        return [straight(np.array([0.0, 0.0]), np.array([edge.radius, 0.0]))], [0.0]
    reach = RING_SHARE * max(edge.radius - edge.rounding, 0.3 * edge.radius)
    if body.push_up > reach:
        raise PackError(
            f"A push-up of {body.push_up:g} mm is steeper than a half ball over this base: at most "
            f"{reach:.1f} mm, or make the base wider or its edge's rounding smaller.",
            "body.push_up",
        )
    if body.push_up > 0.8 * (body.profile[-1].height - body.base_thickness):
        raise PackError(f"A push-up of {body.push_up:g} mm reaches the rim: make it lower.", "body.push_up")
    dome = _dome(reach, body.push_up)
    ring = straight(np.array([reach, 0.0]), np.array([edge.radius, 0.0]))
    room = float(ring.lengths()[-1]) - edge.rounding
    return [dome, ring], [0.0, max(min(RING_ROUNDING, 0.6 * room, 0.3 * reach), 0.0)]


def _dome(reach: float, rise: float) -> Path:
    """A cap of a ball from the axis down to the table; the solid lies above it."""
    half = bulging(np.array([-reach, 0.0]), np.array([reach, 0.0]), -rise)
    points, normals = half.points, half.normals
    start = len(points) // 2
    right = points[start:, 0] > 1e-9
    top = np.array([[0.0, rise]])
    return Path(np.vstack([top, points[start:][right]]), np.vstack([[0.0, -1.0], normals[start:][right]]))


def _legs(corners: list[Corner]) -> list[Path]:
    """Lines, arcs and smooth curves from corner to corner."""
    at = np.array([[c.radius, c.height] for c in corners])
    legs: list[Path] = []
    i = 0
    while i < len(corners) - 1:
        if corners[i].leave == "curve":
            last = i + 1
            while last < len(corners) - 1 and corners[last].leave == "curve":
                last += 1
            before = legs[-1].points[-1] - legs[-1].points[-2] if legs and corners[i].rounding == 0 else None
            joins = last < len(corners) - 1 and corners[last].rounding == 0
            after = at[last + 1] - at[last] if joins and corners[last].leave == "line" else None
            legs += _curve(at[i : last + 1], before, after)
            i = last
        else:
            bulge = corners[i].bulge if corners[i].leave == "arc" else 0.0
            legs.append(bulging(at[i], at[i + 1], bulge))
            i += 1
    return legs


def _curve(knots: Array, before: Array | None, after: Array | None) -> list[Path]:
    """A smooth curve through points, as one leg between each two of them.

    A cubic spline over centripetal lengths; it goes on along its neighbours where they are given.
    """
    lengths = np.sqrt(np.linalg.norm(np.diff(knots, axis=0), axis=1))
    knots_at = np.concatenate([[0.0], np.cumsum(lengths)])

    def end(way: Array | None, chord: Array, span: float) -> tuple[int, Array]:
        if way is None:
            return 2, np.zeros(2)
        return 1, way / np.linalg.norm(way) * np.linalg.norm(chord) / span

    spline = CubicSpline(
        knots_at,
        knots,
        bc_type=(
            end(before, knots[1] - knots[0], lengths[0]),
            end(after, knots[-1] - knots[-2], lengths[-1]),
        ),
    )
    legs = []
    for i, span in enumerate(lengths):
        count = int(np.clip(np.ceil(span**2 / CURVE_STEP), 12, 160))
        t = np.linspace(knots_at[i], knots_at[i + 1], count + 1)
        points, tangents = spline(t), spline(t, 1)
        points[0], points[-1] = knots[i], knots[i + 1]
        normals = np.stack([tangents[:, 1], -tangents[:, 0]], axis=1)
        legs.append(Path(points, normals / np.linalg.norm(normals, axis=1, keepdims=True)))
    return legs


def _finish_legs(body: Body) -> tuple[list[Path], list[float]]:
    """From the top of the neck to the rim: a ledge to the finish's own radius, and straight up."""
    finish, neck = body.finish, body.profile[-1]
    assert finish is not None
    radius, top = finish.neck_diameter / 2, neck.height + finish.height
    start, foot = np.array([neck.radius, neck.height]), np.array([radius, neck.height])
    up = straight(foot, np.array([radius, top]))
    ledge = float(np.linalg.norm(foot - start))
    if ledge < 0.02:
        return [straight(start, np.array([radius, top]))], [0.0]
    return [straight(start, foot), up], [min(LEDGE_ROUNDING, 0.3 * ledge), 0.0]


def _refuse_folds(path: Path) -> None:
    if path.points[1:, 0].min() < 0.05:
        low = path.points[1 + int(np.argmin(path.points[1:, 0]))]
        raise PackError(
            f"The curve reaches the axis at {low[1]:.1f} mm height: move its corners outwards.",
            "body.profile",
        )
    if path.points[:, 1].min() < -1e-6:
        raise PackError("The curve dips under the table: raise its corners.", "body.profile")
    if path.points[:-1, 1].max() > path.points[-1, 1] + 1e-6:
        raise PackError("The curve rises above the rim: lower it or raise the rim.", "body.profile")
    moved = np.linalg.norm(np.diff(path.points, axis=0), axis=1) > 1e-7
    line = np.vstack([path.points[:1], path.points[1:][moved]])
    if not LineString(line).is_simple:
        raise PackError(
            "The profile crosses itself: move the corners apart so that its line does not fold back.",
            "body.profile",
        )


def _heel_top(path: Path, base_end: int) -> float:
    """Height at which the rounding of the base's edge has become the wall."""
    up = path.normals[base_end:, 1]
    settled = np.flatnonzero(np.abs(np.diff(up)) < 1e-9)
    return float(path.points[base_end + int(settled[0]), 1]) if len(settled) else 0.0


def _changing(loft: Loft) -> Array:
    """Heights in mm at which the change from one cross-section to another is drawn."""
    bands = [
        np.linspace(low, high, min(int(np.ceil((high - low) / CHANGE_STEP)), MOST_CHANGE_STEPS) + 1)
        for low, high in loft.changes
    ]
    return np.concatenate(bands) if bands else np.empty(0)


def _with_heights(path: Path, first: int, heights: Array) -> Path:
    """The path with points added where it passes heights after its point `first`."""
    z = path.points[first:, 1]
    low, high = np.minimum(z[:-1], z[1:]), np.maximum(z[:-1], z[1:])
    passes = (heights > low[:, None] + LEAST_STEP) & (heights < high[:, None] - LEAST_STEP)
    step, which = np.nonzero(passes)
    start = step + first
    share = (heights[which] - path.points[start, 1]) / (path.points[start + 1, 1] - path.points[start, 1])
    start, share = np.unique(np.stack([start, share]), axis=1)
    start = start.astype(int)
    points, normals = (
        v[start] + share[:, None] * (v[start + 1] - v[start]) for v in (path.points, path.normals)
    )
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    return Path(
        np.insert(path.points, start + 1, points, axis=0), np.insert(path.normals, start + 1, normals, axis=0)
    )
