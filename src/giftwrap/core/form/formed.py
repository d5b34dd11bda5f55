"""From a body document to its walls: outside, rim, inside, and how much it holds."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property, lru_cache

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.form.cavity import Cavity, hollow
from giftwrap.core.form.profile import Profile, outer_profile
from giftwrap.core.form.sections import Loft, loft_of
from giftwrap.core.form.skin import Skin, cut_at, joined_skins, lofted, skins_mesh, turned_path, with_edges
from giftwrap.core.form.volume import Gauge, gauge_of, lofted_volume_ml, mesh_ml
from giftwrap.core.mesh.path import Array, Indices, Path, arc_steps, norms, with_creases
from giftwrap.core.model import Body

RIM_ROUNDING = 0.42
"""Rounding of both edges of the rim as a share of the wall: moulded rims are rounded (common practice)."""
LIP_ROWS = 7
KEPT = 6
"""Formed bodies that are kept for the next pack with the same body."""
HOLLOW = 0.02
"""An outline that turns back by less than this (sine) between two columns counts as convex."""
GRAZING, FACING = 1e-3, 0.2
"""Least cosine between a ray and a tangent that may cut it: any on a convex outline, but on one with
hollows only those that face the ray."""
_UP = np.array([0.0, 0.0, 1.0])
_CIRCLE = 0.5523
"""Handle of a cubic Bézier curve that stands for a quarter circle, as a share of its radius."""


@dataclass(frozen=True)
class FormedBody:
    """A hollow body.

    columns : (u,) float, radians from the front: where its skins are drawn
    coarse : drawn for the page, where sharp edges of the inside may be shaded as soft ones
    """

    body: Body
    profile: Profile
    loft: Loft
    cavity: Cavity
    columns: Array
    coarse: bool = False

    @property
    def outer(self) -> Path:
        """From the axis under the base to the outer edge of the rim, mm."""
        return self.profile.path

    @property
    def rim_height(self) -> float:
        """Height of the rim above the table in mm."""
        return self.profile.rim_height

    @property
    def floor_height(self) -> float:
        """Height of the lowest place of the inside floor above the table in mm."""
        return self.cavity.floor_height

    @property
    def bore(self) -> float:
        """Radius of the opening in mm, where it is narrowest."""
        return float(self.cavity.distance[:, -1].min())

    @cached_property
    def inner(self) -> Skin:
        """The inside, from the middle of the floor up to the rim, facing into the cavity."""
        if not self.loft.is_round:
            return self._plain_inner if self.coarse else with_edges(self._plain_inner)
        line = np.stack([self.cavity.distance[0], self.cavity.height[0]], axis=1)
        # going down, the cavity lies on the right as paths have it
        down = with_creases(Path(line[::-1], self.cavity.facing[0, ::-1]))
        return turned_path(Path(down.points[::-1], down.normals[::-1]), self.columns)

    @cached_property
    def _plain_inner(self) -> Skin:
        return _inner_skin(self.cavity, self.loft, self.columns)

    @cached_property
    def gauge(self) -> Gauge:
        """How much it holds up to any height."""
        cavity = self.cavity
        if len(cavity.directions) == 1:
            line = np.stack([cavity.distance[0], 0 * cavity.distance[0], cavity.height[0]], axis=-1)[None]
        else:
            line = self._plain_inner.positions
        return gauge_of(line)

    @property
    def brimful_ml(self) -> float:
        """Capacity to the rim."""
        return self.gauge.brimful_ml

    @cached_property
    def outer_ml(self) -> float:
        """What the whole body displaces, without its relief."""
        return lofted_volume_ml(self.outer, self.loft)

    @cached_property
    def drawn_ml(self) -> float:
        """What lies between its outside and its inside as they are drawn, without rim, thread and relief."""
        outside = lofted(self.outer, self.loft, self.columns)
        return mesh_ml(skins_mesh([joined_skins(outside, self.inner.reversed())]))

    def volume_at(self, fill_height: float) -> float:
        """Contents in ml when filled to a height in mm above the table."""
        return self.gauge.volume_at(fill_height)

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
        return self.gauge.height_for(volume_ml)

    def inside_line(self) -> Array:
        """(n, 2) float, mm: the inside as seen from the front, from the floor's middle up to the rim."""
        cavity = self.cavity
        around = np.abs(cavity.directions - np.pi / 2)
        column = int(around.argmin())
        return np.stack([cavity.distance[column], cavity.height[column]], axis=1)


def form_body(body: Body, *, coarse: bool = False) -> FormedBody:
    """Form a body and hollow it.

    coarse : with fewer columns, for drawings on the page

    The formed bodies of the last few bodies are kept: filling one or closing it does not form it anew.

    Raises PackError, with the place in the body document, when the wall cannot exist.
    """
    return _formed(_Asked(body.model_dump_json(), body), coarse)


@dataclass(frozen=True)
class _Asked:
    """A body, the same as another when it says the same."""

    words: str
    body: Body = field(compare=False)


@lru_cache(maxsize=KEPT)
def _formed(asked: _Asked, coarse: bool) -> FormedBody:
    body = asked.body
    _refuse_base(body)
    loft = loft_of(body)
    profile = outer_profile(body, loft)
    columns = loft.columns(float(profile.path.points[:, 0].max()), coarse=coarse)
    directions = columns[:1] if loft.is_round else columns
    return FormedBody(body, profile, loft, hollow(body, profile, loft, directions), columns, coarse)


def _refuse_base(body: Body) -> None:
    thickest = body.zone_walls.get("heel", body.wall_thickness)
    if body.base_thickness < thickest:
        raise PackError(
            f"The base ({body.base_thickness:g} mm) is thinner than the wall ({thickest:g} mm): "
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


def rim_start(formed: FormedBody) -> tuple[Path, float]:
    """The outer path up to where the rim begins, and in mm how far a rounded rim reaches down, or the radius
    of a rolled one.

    Raises PackError when a roll would touch the wall below it.
    """
    body, path = formed.body, formed.outer
    last = float(path.points[-1, 1] - path.points[-2, 1])
    wanted = body.rim_roll if body.rim_roll > 0 else RIM_ROUNDING * float(formed.profile.walls[-1])
    drop = min(wanted, 0.9 * last, 0.4 * (formed.rim_height - formed.floor_height))
    foot = path.points[-1] + (path.points[-2] - path.points[-1]) * drop / last
    end = len(path.points) - 1
    if body.rim_roll > 0:
        roll = _roll_of(formed, drop)
        middle = np.array([formed.bore + roll.aside, formed.rim_height - roll.radius])
        end, foot = _under_roll(path.points, middle, roll.radius) or (end, foot)
    return Path(np.vstack([path.points[:end], foot]), path.normals[: end + 1]), drop


@dataclass(frozen=True)
class _Roll:
    """A rim rolled outwards: a circle that touches the inside of the wall and the height of the rim.

    lean : mm by which the inside goes outwards on a mm up, at the rim
    """

    radius: float
    lean: float

    @property
    def aside(self) -> float:
        """How far its middle is outside the inside at the rim, in mm."""
        return self.radius * (float(np.hypot(1.0, self.lean)) - self.lean)

    @property
    def drop(self) -> float:
        """How far under the rim it touches the inside, in mm."""
        return self.radius * (1 - self.lean / float(np.hypot(1.0, self.lean)))


def _roll_of(formed: FormedBody, radius: float) -> _Roll:
    distance, height = formed.cavity.distance[:, -2:], formed.cavity.height[:, -2:]
    return _Roll(radius, float((np.diff(distance) / np.maximum(np.diff(height), 1e-6)).mean()))


def _under_roll(points: Array, middle: Array, radius: float) -> tuple[int, Array] | None:
    """Where the outside, seen from the rim downwards, is last met by a roll around a middle, all (radius,
    height) in mm: how many points are below, and the place. None where the roll lies within the wall.

    Raises PackError when it is met twice.
    """
    start, step = points[:-1] - middle, np.diff(points, axis=0)
    a, b, c = (step**2).sum(1), (start * step).sum(1), (start**2).sum(1) - radius**2
    root = b**2 - a * c
    share = (-b - np.sqrt(np.maximum(root, 0.0))) / np.maximum(a, 1e-12)
    met = np.flatnonzero((root > 0) & (share >= 0) & (share <= 1))
    if not len(met):
        return None
    if len(met) > 1:
        raise PackError(
            f"A rim rolled by {radius:.3g} mm touches the wall below it at {points[met[0] + 1, 1]:.1f} mm "
            "height: make the roll smaller or the neck longer.",
            "body.rim_roll",
        )
    lowest = int(met[0])
    return lowest + 1, points[lowest] + share[lowest] * step[lowest]


def rim_of(formed: FormedBody, below: Array, drop: float) -> tuple[Skin, Skin]:
    """The rim from the outside over to the inside, and the inside up to where the rim ends.

    below : (u, 3) float, mm, where the outside ends
    """
    path = formed.outer
    top = lofted(Path(path.points[-1:], path.normals[-1:]), formed.loft, formed.columns).positions[:, 0]
    corner = formed.inner.positions[:, -1]
    if formed.body.rim_roll > 0:
        roll = _roll_of(formed, drop)
        inside = cut_at(formed.inner, formed.rim_height - roll.drop)[0]
        return _rolled(below, top, corner, inside.positions[:, -1], roll), inside
    inside = cut_at(formed.inner, formed.rim_height - drop)[0]
    return _lip(below, top, corner, inside.positions[:, -1], drop), inside


def _lip(below: Array, outer: Array, inner: Array, end: Array, drop: float) -> Skin:
    """A level rim whose both edges are rounded."""
    across = inner - outer
    width = np.linalg.norm(across, axis=1, keepdims=True)
    across = across / np.maximum(width, 1e-9)
    inset = across * np.minimum(drop, 0.45 * width)
    first = _quarter(below, outer - below, outer + inset, inset, outwards=-across)
    last = _quarter(inner - inset, inset, end, end - inner, outwards=across)
    return joined_skins(first, last)


def _quarter(start: Array, leave: Array, end: Array, arrive: Array, *, outwards: Array) -> Skin:
    """A quarter turn as a Bézier curve from each start to each end, (u, 3) float, mm."""
    t = np.linspace(0.0, 1.0, LIP_ROWS)[None, :, None]
    a, d = start[:, None], end[:, None]
    b, c = a + _CIRCLE * leave[:, None], d - _CIRCLE * arrive[:, None]
    positions = a * (1 - t) ** 3 + 3 * b * t * (1 - t) ** 2 + 3 * c * t**2 * (1 - t) + d * t**3
    way = (b - a) * (1 - t) ** 2 + 2 * (c - b) * t * (1 - t) + (d - c) * t**2
    side = (way * outwards[:, None]).sum(-1, keepdims=True)
    normals = np.abs(way[..., 2:]) * outwards[:, None] + np.abs(side) * _UP
    return Skin(positions, normals / np.maximum(norms(normals), 1e-12))


def _rolled(below: Array, outer: Array, inner: Array, end: Array, roll: _Roll) -> Skin:
    """A rim rolled outwards: round from the wall's outside, under and over to its inside."""
    out = outer - inner
    width = np.linalg.norm(out, axis=1, keepdims=True)
    out = out / np.maximum(width, 1e-9)
    radius, over = roll.radius, 3 * np.pi - np.arctan(roll.lean)
    middle = inner + out * roll.aside - _UP * radius
    away = below - middle
    aside = (away * out).sum(-1, keepdims=True)
    start = np.arctan2(away[:, 2:], aside) % (2 * np.pi)
    start = np.where(width < 2 * radius, np.where(start < np.pi / 2, start + 2 * np.pi, start), 2 * np.pi)
    angle = start + np.linspace(0.0, 1.0, 4 * arc_steps(radius, np.pi / 2) + 1) * (over - start)
    spokes = np.cos(angle)[..., None] * out[:, None] + np.sin(angle)[..., None] * _UP
    positions = middle[:, None] + radius * spokes
    positions[:, 0], positions[:, -1] = below, end
    return Skin(positions, spokes)


def _inner_skin(cavity: Cavity, loft: Loft, columns: Array) -> Skin:
    """The cavity drawn in all columns, cleared of what a tight corner folds over."""
    normal = loft.at(cavity.height[0], columns).points if loft.is_round else cavity.normal
    size = normal.shape[:2]
    distance, height, along = (
        np.broadcast_to(values, size) for values in (cavity.distance, cavity.height, cavity.along)
    )
    tangent = np.stack([-normal[..., 1], normal[..., 0]], axis=-1)
    flat = distance[..., None] * normal + along[..., None] * tangent
    facing = np.broadcast_to(cavity.facing, (*size, 2))
    if not loft.is_round:
        outside = loft.at(cavity.height.mean(axis=0), columns).points
        flat, normal, facing, own = _unfolded(flat, distance, outside, normal, facing)
        low = slice(None, cavity.wall_row)
        which = own[:, cavity.wall_row]
        # the floor is the foot of the wall drawn smaller: by their tangents its rings would fold at corners
        share = distance[which, low] / distance[which, cavity.wall_row, None]
        flat[:, low] = flat[:, cavity.wall_row, None] * share[..., None]
        normal[:, low], facing[:, low] = cavity.normal[which, low], facing[which, low]
        own[:, low] = which[:, None]
        height = np.take_along_axis(cavity.height, own, axis=0)
    positions = np.concatenate([flat, height[..., None]], axis=-1)
    normals = np.concatenate([normal * facing[..., :1], facing[..., 1:]], axis=-1)
    return Skin(positions, normals)


def _unfolded(
    flat: Array, distance: Array, outside: Array, normal: Array, facing: Array
) -> tuple[Array, Array, Array, Indices]:
    """Rings whose corners fold over themselves are drawn anew, by the nearest tangent on each ray.

    The last of what is returned, (u, n), is the column whose tangent each point lies on.
    """
    ring = np.arctan2(flat[..., 0], -flat[..., 1])
    step = np.roll(ring, -1, axis=0) - ring
    step = (step + np.pi) % (2 * np.pi) - np.pi
    wide = np.linalg.norm(flat, axis=-1).min(axis=0) > 1e-6
    rows = np.flatnonzero((step < -1e-9).any(axis=0) & wide)
    own = np.tile(np.arange(len(flat))[:, None], (1, flat.shape[1]))
    flat, normal, facing = flat.copy(), normal.copy(), np.array(facing)
    for group in _alike(normal, rows) if len(rows) else ():
        first = group[0]
        ray = outside[:, first] / norms(outside[:, first])
        cosine = ray @ normal[:, first].T
        least = GRAZING if _is_convex(normal[:, first]) else FACING
        leaning = np.where(cosine > least, 1 / np.maximum(cosine, least), np.inf)
        reach = leaning[None] * distance[:, group].T[:, None]
        best = reach.argmin(axis=-1)
        nearest = np.take_along_axis(reach, best[..., None], axis=-1)[..., 0]
        flat[:, group] = ray[:, None] * nearest.T[..., None]
        normal[:, group] = normal[best.T, first]
        facing[:, group] = facing[best.T, group[None]]
        own[:, group] = best.T
    return flat, normal, facing, own


def _is_convex(normal: Array) -> bool:
    """Whether an outline with these normals, (u, 2), only ever turns one way."""
    nxt = np.roll(normal, -1, axis=0)
    return bool((normal[:, 0] * nxt[:, 1] - normal[:, 1] * nxt[:, 0]).min() > -HOLLOW)


def _alike(normal: Array, rows: Indices) -> list[Indices]:
    """Rows in runs whose outlines face the same way, a few dozen at a time."""
    change = np.abs(np.diff(normal[:, rows], axis=1)).max(axis=(0, 2)) > 1e-9
    runs = np.split(rows, np.flatnonzero(change) + 1)
    return [part for run in runs for part in np.array_split(run, int(np.ceil(len(run) / 32)))]
