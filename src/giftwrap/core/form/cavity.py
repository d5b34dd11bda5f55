"""The inside of a body: an exact offset of its outside by the wall, at any cross-section.

A ball of the wall's radius rolled along the outside must not reach the cavity; what it leaves has no
self-crossing, however tight a corner. The floor is found in the same way from below, and a second
ball rolled along both rounds the edge between them.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.form.profile import Profile
from giftwrap.core.form.rolling import Chain, downwards, outwards
from giftwrap.core.form.sections import Loft, Outlines
from giftwrap.core.mesh.path import Array, norms
from giftwrap.core.model import Body

SMOOTH = np.radians(8.0)
"""A ball touches the wall smoothly where its direction is this close to the wall's own normal."""
RESTING = 0.01
LEAST_BORE = 0.3
"""A cavity narrower than this many mm from the axis has closed up."""
FLOOR_ROWS = 16
FILLET_ROWS = 10
BRIDGE_ROWS = 3
ROW_GAP = 0.04
"""Rows closer than this in mm are one."""
RAMP_STEP = 1.0
"""Distance in mm between rows where the wall's thickness changes."""
JUMP_ROWS, _REFINEMENTS = 4, 2
"""Rows put between two that are stopped by different pieces of the outside, and how often."""
SHELF = 0.002
"""Half the height in mm over which a level ceiling is drawn."""
_SEARCH_STEPS, _SEARCH_ROUNDS = 21, 5


@dataclass(frozen=True)
class Cavity:
    """A cavity's wall as one line for each direction, from the middle of the floor up to the rim.

    directions : (u,) float, radians from the front; one for a round body
    distance, height : (u, n) float, mm: of the wall's tangent from the axis, and above the table
    along : (u, n) float, mm: where on its tangent each point lies, to the left seen from outside
    normal : (u, n, 2) float: which way the tangent faces, seen from above
    facing : (u, n, 2) float, unit normals into the cavity, in the plane of the direction
    wall_row : index of the first row that belongs to the wall
    """

    directions: Array
    distance: Array
    height: Array
    along: Array
    normal: Array
    facing: Array
    wall_row: int

    @cached_property
    def lowest_row(self) -> int:
        """Index of the row where the floor is lowest."""
        return int(self.height[:, : self.wall_row + 1].mean(axis=0).argmin())

    @property
    def floor_height(self) -> float:
        """Height of the lowest place of the floor above the table in mm."""
        return float(self.height[:, self.lowest_row].min())

    @property
    def level_floor(self) -> float:
        """Least height in mm at which a level surface reaches the wall all around."""
        return float(self.height[:, : self.lowest_row + 1].max())


def hollow(body: Body, profile: Profile, loft: Loft, directions: Array) -> Cavity:
    """The cavity of a body in directions (u,), radians from the front.

    Raises PackError when the wall leaves no cavity or no opening.
    """
    points = profile.path.points
    outlines = loft.at(points[:, 1], directions)
    support = outlines.support
    _, first, which = np.unique(np.round(support, 9), axis=0, return_index=True, return_inverse=True)
    chain = Chain(support[first] * points[:, 0], points[:, 1], profile.walls)
    line = _Line(body, profile, chain, _in_plane(profile, outlines)[first])
    which = which.reshape(-1)
    place = line.place[which]
    low = np.minimum(place.astype(int), len(points) - 2)
    share = place - low
    u = np.arange(len(directions))[:, None]
    sideways = outlines.along * points[:, 0]
    along = sideways[u, low] + share * (sideways[u, low + 1] - sideways[u, low])
    normal = outlines.normals[u, low] + share[..., None] * (
        outlines.normals[u, low + 1] - outlines.normals[u, low]
    )
    normal /= norms(normal)
    return Cavity(
        directions, line.distance[which], line.height[which], along, normal, line.facing[which], line.wall_row
    )


def _in_plane(profile: Profile, outlines: Outlines) -> Array:
    """(u, n, 2) float: the outside's normals in the plane of each direction."""
    r, (nr, nz) = profile.path.points[:, 0], profile.path.normals.T
    leaning = (outlines.rise * outlines.normals).sum(-1) * r
    found = np.stack([np.broadcast_to(nr, leaning.shape), nz * outlines.support - nr * leaning], axis=-1)
    return np.asarray(found / np.maximum(norms(found), 1e-12))


class _Line:
    """A cavity's line in each of a few planes: floor, edge, wall."""

    def __init__(self, body: Body, profile: Profile, chain: Chain, normals: Array) -> None:
        self._normals = normals
        self._body, self._rim = body, profile.rim_height
        end = int(np.flatnonzero(chain.height < 1e-6)[-1])
        self._wall, self._base = _part(chain, end, None), _part(chain, 0, end + 1)
        self._base.ball[:] = body.base_thickness
        self._wall.ball[0] = self._wall.ball[min(1, len(self._wall.ball) - 1)]
        parts = self._floor_and_edge()
        self.wall_row = sum(part[0].shape[1] for part in parts)
        parts.append(self._up(float(parts[-1][1][:, -1].max()), parts[-1][1][:, -1]))
        self.distance, self.height, self.place = (np.hstack([p[k] for p in parts]) for k in range(3))
        rounded = parts[1][0].shape[1] if len(parts) > 2 else 0
        self.facing = self._smooth(np.concatenate([p[3] for p in parts], axis=1), rounded)
        self._refuse_closed()

    def _smooth(self, facing: Array, rounded: int) -> Array:
        """Take the outside's own normals, which know its curves, where the ball touches it smoothly.

        rounded : how many rows before the wall are the rounding between it and the floor
        """
        low = np.minimum(self.place.astype(int), self._normals.shape[1] - 2)
        share = (self.place - low)[..., None]
        plane = np.arange(len(low))[:, None]
        own = self._normals[plane, low] * (1 - share) + self._normals[plane, low + 1] * share
        own = -own / np.maximum(norms(own), 1e-12)
        touches = (own * facing).sum(-1) > np.cos(SMOOTH)
        touches[:, self.wall_row - rounded : self.wall_row] = False
        return np.where(touches[..., None], own, facing)

    def _floor_and_edge(self) -> list[tuple[Array, Array, Array, Array]]:
        body = self._body
        walls = self._wall.ball
        wanted = max(body.profile[0].rounding - float(walls[0]), min(float(walls[0]), body.base_thickness))
        pinched: list[float] = []
        for rounding in (wanted, wanted / 2, wanted / 4, wanted / 16):
            middle = self._resting(rounding)
            if middle is None:
                continue
            if self._rests(rounding, *middle):
                return self._rounded_floor(rounding, *middle)
            pinched.append(float(middle[1].max()))
        if not pinched:
            raise _too_thick(body, self._wall)
        return [self._pinched(min(pinched))]

    def _resting(self, rounding: float) -> tuple[Array, Array] | None:
        """Where a ball comes to rest that rolls down the wall to the floor: its distance and height."""
        wall, base = self._wall.grown(rounding), self._base.grown(rounding)
        low = np.zeros((len(wall.distance), 1))
        high = np.full_like(low, self._rim)
        for _ in range(_SEARCH_ROUNDS):
            heights = low + (high - low) * np.linspace(0.0, 1.0, _SEARCH_STEPS)
            free = self._clear(wall, base, heights) > 0
            if not free.any(axis=1).all():
                return None
            lowest = free.argmax(axis=1)[:, None]
            low = np.take_along_axis(heights, np.maximum(lowest - 1, 0), axis=1)
            high = np.take_along_axis(heights, lowest, axis=1)
        return outwards(wall, high).reach, high

    @staticmethod
    def _clear(wall: Chain, base: Chain, height: Array) -> Array:
        """How far above the floor a ball against the wall is; negative where there is no room for it."""
        distance = outwards(wall, height).reach
        above = height - downwards(base, np.maximum(distance, 0.0)).reach
        return np.where(distance > LEAST_BORE, above, -1.0)

    def _rests(self, rounding: float, distance: Array, height: Array) -> bool:
        """Whether a ball lies on the floor and is not held by the walls above it."""
        floor = downwards(self._base.grown(rounding), distance)
        return bool((height - floor.reach < RESTING).all())

    def _rounded_floor(
        self, rounding: float, distance: Array, height: Array
    ) -> list[tuple[Array, Array, Array, Array]]:
        wall = outwards(self._wall.grown(rounding), height)
        floor = downwards(self._base.grown(rounding), distance)
        to_floor = np.arctan2(floor.height - height, floor.distance - distance)
        to_wall = np.arctan2(wall.height - height, wall.distance - distance)
        share = np.linspace(0.0, 1.0, FILLET_ROWS + 1)
        angle = to_floor + share * (to_wall - to_floor)
        spokes = np.stack([np.cos(angle), np.sin(angle)], axis=-1)
        edge = (
            distance + rounding * spokes[..., 0],
            height + rounding * spokes[..., 1],
            floor.place + share * (wall.place - floor.place),
            -spokes,
        )
        domed = self._body.push_up > 0
        reach = np.linspace(0.0, 1.0, FLOOR_ROWS if domed else 2)[None, :-1]
        at = edge[0][:, :1] * reach
        lift = downwards(self._base, at)
        facing = _towards(at - lift.distance, lift.reach - lift.height)
        return [(at, lift.reach, lift.place, facing), edge]

    def _pinched(self, height: float) -> tuple[Array, Array, Array, Array]:
        """A level floor where the sides come together before the base is reached."""
        heights = np.full((len(self._wall.distance), 2), height)
        wall = outwards(self._wall, heights)
        scale = np.array([0.0, 1.0])
        facing = np.tile(np.array([0.0, 1.0]), (*heights.shape, 1))
        return wall.reach * scale, heights, wall.place * scale, facing

    def _up(self, start: float, edge: Array) -> tuple[Array, Array, Array, Array]:
        """The wall from the edge of the floor to the rim, in rows that are level but for the lowest."""
        rows = self._levels()
        uneven = float(np.ptp(edge)) > 1e-6
        first = start + (0.4 if uneven else 0.0)
        rows = rows[(rows > first + ROW_GAP) & (rows < self._rim - ROW_GAP)]
        rows = np.concatenate([[first] if uneven else [], rows, [self._rim]])
        heights = np.tile(rows, (len(edge), 1))
        if uneven:
            share = np.linspace(0.0, 1.0, BRIDGE_ROWS + 2)[1:-1]
            heights = np.hstack([edge[:, None] + share * (first - edge[:, None]), heights])
        touch = outwards(self._wall, heights)
        facing = _towards(touch.reach - touch.distance, heights - touch.height)
        return touch.reach, heights, touch.place, facing

    def _levels(self) -> Array:
        """Heights at which the wall's offset bends in the widest and the narrowest plane."""
        found: list[Array] = []
        wall = self._wall
        normals = self._normals[:, wall.first :]
        for plane in {0, len(wall.distance) - 1}:
            up = normals[plane, :, 1]
            found.append(wall.height - wall.ball * up)
            angle = np.unwrap(np.arctan2(up, normals[plane, :, 0]))
            hollow = np.flatnonzero(np.diff(angle) < -np.radians(9))
            for i in hollow:
                between = np.linspace(angle[i], angle[i + 1], int(abs(angle[i + 1] - angle[i]) / 0.1) + 2)
                found.append(wall.height[i + 1] - wall.ball[i + 1] * np.sin(between))
        for i in np.flatnonzero(np.abs(np.diff(wall.ball)) > 1e-6):
            reach = float(max(wall.ball[i], wall.ball[i + 1]))
            ends = wall.height[i] - reach, wall.height[i + 1] + reach
            found.append(np.round(np.arange(*ends, RAMP_STEP) / RAMP_STEP) * RAMP_STEP)
        rows = np.concatenate(found)
        for _ in range(_REFINEMENTS):
            rows = self._with_jumps(rows)
        shelves = self._shelves()
        near = np.abs(rows[:, None] - shelves[None]).min(axis=1, initial=np.inf) < ROW_GAP
        return np.sort(np.concatenate([rows[~near], shelves - SHELF, shelves + SHELF]))

    def _shelves(self) -> Array:
        """Heights of level ceilings under a flat shoulder."""
        wall = self._wall
        level = (np.abs(np.diff(wall.height)) < 1e-6) & (np.diff(wall.distance[-1]) < 0)
        return np.asarray(wall.height[:-1][level] - wall.ball[:-1][level])

    def _with_jumps(self, rows: Array) -> Array:
        """Rows with more between those where the ball is stopped by another piece of the outside."""
        rows = np.sort(rows[(rows > 0) & (rows < self._rim)])
        rows = rows[np.diff(rows, prepend=-1.0) > ROW_GAP]
        wall = self._wall
        planes = sorted({0, len(wall.distance) - 1})
        few = Chain(wall.distance[planes], wall.height, wall.ball, wall.first)
        place = outwards(few, np.tile(rows, (len(planes), 1))).place
        jumps = (np.abs(np.diff(place, axis=1)) > 1.5).any(axis=0) & (np.diff(rows) > 3 * ROW_GAP)
        more = [np.linspace(rows[i], rows[i + 1], JUMP_ROWS + 2)[1:-1] for i in np.flatnonzero(jumps)]
        return np.sort(np.concatenate([rows, *more]))

    def _refuse_closed(self) -> None:
        wall = self.distance[:, self.wall_row :]
        if wall.min() < LEAST_BORE:
            raise _too_thick(self._body, self._wall)


def _part(chain: Chain, start: int, end: int | None) -> Chain:
    keep = slice(start, end)
    return Chain(chain.distance[:, keep], chain.height[keep], chain.ball[keep].copy(), start)


def _towards(dh: Array, dz: Array) -> Array:
    length = np.maximum(np.hypot(dh, dz), 1e-12)
    return np.stack([dh / length, dz / length], axis=-1)


def _too_thick(body: Body, wall: Chain) -> PackError:
    """Names the place where the wall is nearest to closing."""
    room = wall.distance - wall.ball
    plane, index = np.unravel_index(int(room.argmin()), room.shape)
    return PackError(
        f"A wall of {wall.ball[index]:g} mm leaves no opening: at {wall.height[index]:.1f} mm height the "
        f"middle is only {wall.distance[plane, index]:.1f} mm from the outside. Make the wall thinner than "
        "that or the body wider.",
        "body.wall_thickness",
    )
