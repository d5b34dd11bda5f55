"""What a closure sits on, and the solids it is made of."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.form.formed import FormedBody
from giftwrap.core.form.skin import Skin, skin_mesh, turned_path
from giftwrap.core.mesh.fillet import rounded_path
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array, Path
from giftwrap.core.model import Linked
from giftwrap.core.model.material import Material, plain

GAP = 0.1
"""Distance in mm between a closure and what it sits on, so that they never coincide."""
AROUND = 144
COLUMNS_IN_RIB = 6
RIB_DEPTH_SHARE = 0.22
"""Depth of a cap's ribs as a share of their spacing."""
SHOULDER_SLACK = 0.05


@dataclass(frozen=True)
class Solid:
    """One closed solid of a closure, where it sits when shut.

    name : the part it is
    outlines : (n, 2) float each, mm: what is seen of it from the front, across and up
    """

    name: str
    mesh: Mesh
    material: Material
    outlines: tuple[Array, ...]


@dataclass(frozen=True)
class Tube:
    """A tube that hangs into the contents: horizontal rings around a line.

    heights, shift : (n,) float, mm: where its middle runs, rising; `shift` is along x
    outer, inner : (n,) float, mm: radii at those heights
    """

    name: str
    heights: Array
    shift: Array
    outer: Array
    inner: Array
    material: Material


@dataclass(frozen=True)
class Built:
    """A closure in its seat.

    top, radius : highest point and largest radius in mm
    skirt : how far down it covers the wall, mm; None where it covers nothing
    lies : laid beside the pack it lies on its side instead of standing
    """

    solids: tuple[Solid, ...]
    tube: Tube | None
    top: float
    radius: float
    skirt: float | None
    lies: bool = False


@dataclass(frozen=True)
class Seat:
    """What a closure finds at the top of a body; lengths in mm.

    thread_radius : outermost at the finish; neck_radius : of the wall at the rim
    """

    formed: FormedBody
    rim: float
    thread_radius: float
    neck_radius: float
    bore: float
    coarse: bool = False

    @property
    def columns(self) -> int:
        """How many columns a solid that is turned around the axis is drawn with."""
        return AROUND // 2 if self.coarse else AROUND

    @property
    def columns_in_rib(self) -> int:
        """How many columns each rib is drawn with."""
        return COLUMNS_IN_RIB // 2 if self.coarse else COLUMNS_IN_RIB

    def obstacle(self, radius: float) -> float:
        """Highest place below the finish where the body is wider than a radius."""
        points = self.formed.outer.points
        finish = self.formed.body.finish
        below = points[points[:, 1] < self.rim - (finish.height if finish else 0.0) + 1e-6]
        over = below[:, 0] - (radius - SHOULDER_SLACK)
        a, b, z = over[:-1], over[1:], below[:, 1]
        crossing = (a > 0) != (b > 0)
        share = np.where(crossing, a / np.where(crossing, a - b, 1.0), 0.0)
        met = (z[:-1] + share * (z[1:] - z[:-1]))[crossing]
        return float(max([0.0, *met, *z[over > 0]]))


def seat_of(formed: FormedBody, *, coarse: bool = False) -> Seat:
    """Measure the top of a body."""
    finish = formed.body.finish
    neck = float(formed.outer.points[-1, 0])
    roll = formed.body.rim_roll
    outermost = finish.thread_diameter / 2 if finish else neck + max(2 * roll - formed.profile.walls[-1], 0.0)
    return Seat(formed, formed.rim_height, float(outermost), neck, formed.bore, coarse)


def refuse_unround(seat: Seat, what: str) -> None:
    """Raise PackError when a closure that turns would sit on a neck that is not round."""
    outline = seat.formed.loft.at(np.array([seat.rim]), seat.formed.columns).points[:, 0]
    if np.ptp(np.linalg.norm(outline, axis=1)) > 0.002:
        raise PackError(
            f"{what} needs a round neck, but the cross-section at the rim is not round: add a round one "
            "below the finish.",
            "body.sections",
        )


def refuse_shoulder(seat: Seat, bottom: float, radius: float, top: float, place: str) -> None:
    """Raise PackError when a skirt of a radius would run into the shoulder."""
    obstacle = seat.obstacle(radius)
    if bottom < obstacle:
        raise PackError(
            f"The closure's skirt runs into the shoulder: make the closure at most "
            f"{top - obstacle:.1f} mm high, or the neck longer.",
            place,
        )


def solid_path(corners: list[tuple[float, float, float]]) -> Path:
    """A closed loop of (radius, height, rounding) corners from the axis back to it, mm."""
    return rounded_path(np.array(corners, dtype=float))


def turned_solid(seat: Seat, name: str, path: Path, material: Material | Linked) -> Solid:
    """A solid turned around the axis."""
    return Solid(name, skin_mesh(turned_path(path, seat.columns)), plain(material), (both_sides(path),))


def both_sides(path: Path) -> Array:
    """(n, 2) float: a path and its mirror image as one outline."""
    return np.vstack([path.points, path.points[::-1] * np.array([-1.0, 1.0])])


def ribbed_solid(
    seat: Seat,
    name: str,
    path: Path,
    material: Material | Linked,
    *,
    ribs: int,
    bottom: float,
    top: float,
    radius: float,
) -> Solid:
    """A solid turned around the axis with upright ribs on its outside between two heights."""
    if ribs == 0 or top - bottom < 1.0:
        return turned_solid(seat, name, path, material)
    spacing = 2 * np.pi * radius / ribs
    depth = min(RIB_DEPTH_SHARE * spacing, 0.5)
    fade = min(1.2, 0.3 * (top - bottom))
    path = _with_rows(
        path,
        np.concatenate([bottom + fade * np.linspace(0, 1, 6), top - fade * np.linspace(0, 1, 6)]),
        radius,
    )
    columns = ribs * seat.columns_in_rib
    skin = turned_path(path, columns)
    angle = np.linspace(0, 2 * np.pi, columns, endpoint=False)
    z = path.points[:, 1]
    on = (path.points[:, 0] > radius - 1e-6) & (path.normals[:, 0] > 0.99)
    end = np.clip(np.minimum(z - bottom, top - z) / fade, 0.0, 1.0) * on
    along = np.sqrt(1 - (1 - end) ** 2)
    wave = 0.5 - 0.5 * np.cos(ribs * angle)
    sunk = -depth * wave[:, None] * along[None]
    positions = skin.positions + sunk[..., None] * skin.normals
    slope = -depth * ribs / radius * 0.5 * np.sin(ribs * angle)[:, None] * along[None]
    sideways = np.stack([np.cos(angle), np.sin(angle), 0 * angle], axis=-1)[:, None]
    normals = skin.normals - slope[..., None] * sideways
    normals /= np.linalg.norm(normals, axis=-1, keepdims=True)
    return Solid(name, skin_mesh(Skin(positions, normals)), plain(material), (both_sides(path),))


def _with_rows(path: Path, heights: Array, radius: float) -> Path:
    """The path with points added at heights on its straight outer side."""
    p, n = path.points, path.normals
    for i in range(len(p) - 1):
        outside = p[i, 0] > radius - 1e-6 and p[i + 1, 0] > radius - 1e-6 and p[i + 1, 1] > p[i, 1] + 0.5
        if outside:
            between = np.unique(heights[(heights > p[i, 1] + 1e-3) & (heights < p[i + 1, 1] - 1e-3)])
            rows = np.stack([np.full(len(between), p[i, 0]), between], axis=1)
            return Path(
                np.insert(p, i + 1, rows, axis=0), np.insert(n, i + 1, np.tile(n[i], (len(rows), 1)), axis=0)
            )
    return path
