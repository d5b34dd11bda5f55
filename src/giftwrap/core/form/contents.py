"""What fills a body: where it touches the wall, and the shape of its top."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.form.formed import FormedBody
from giftwrap.core.form.skin import Skin, cut_at
from giftwrap.core.form.volume import MM3_PER_ML
from giftwrap.core.mesh.path import Array, norms
from giftwrap.core.model import Contents

CAPILLARY_LENGTH = 2.7
"""√(γ/ρg) of water at 20 °C in mm, from memory (γ = 72.8 mN/m, ρ = 998 kg/m³)."""
MENISCUS_RISE = 1.8
"""Height in mm to which a watery liquid climbs a clean glass wall; a look, not a measurement."""
TOP_ROWS = 40
COLLAR_SHARE = 1.02
"""Radius around a tube, over its own, where its columns take over from the wall's."""
SWIRL_ROWS = 90
SWIRL_TURNS = 2.6
GEL_WAVE = 0.35
_BUMPS = ((3, 2, 0.05, 0.4), (7, 5, 0.03, 1.9), (13, 11, 0.02, 4.1), (23, 17, 0.012, 2.2))
"""Uneven ground: waves around, waves inwards, strength and where they start."""


@dataclass(frozen=True)
class Hole:
    """A round tube that stands through a top.

    ring : (n, 3) float, mm, from the front to the right: where the contents meet it
    """

    ring: Array

    @property
    def middle(self) -> Array:
        """(2,) float, mm across and back."""
        return np.asarray(self.ring[:, :2].mean(axis=0))

    @property
    def radius(self) -> float:
        """Its radius in mm."""
        return float(np.linalg.norm(self.ring[0, :2] - self.middle))


@dataclass(frozen=True)
class Fill:
    """Contents in place.

    dry : the inside above the contents, up to the rim, facing into the cavity
    wet : the inside below, from the middle of the floor up, facing into the cavity
    top : from the wall inwards, facing up, in skins one inside the other
    contact : height in mm at which the top meets the wall
    """

    dry: Skin
    wet: Skin
    top: list[Skin]
    contact: float


def check_contents(formed: FormedBody, contents: Contents) -> None:
    """Raise PackError when the fill level is under the floor or above the brim."""
    level, rim = contents.fill_height, formed.rim_height
    if level > rim:
        raise PackError(
            f"The fill height of {level:.1f} mm is above the brim ({rim:.1f} mm): lower it to at most "
            f"{rim:.1f} mm.",
            "contents.fill_height",
        )
    lowest = formed.cavity.level_floor
    if level <= lowest:
        raise PackError(
            f"The fill height of {level:.1f} mm is below the inside floor ({lowest:.1f} mm): raise it, or "
            "take the contents out.",
            "contents.fill_height",
        )


def pour(formed: FormedBody, contents: Contents, inside: Skin, holes: tuple[Hole, ...] = ()) -> Fill:
    """Split the inside where the contents end and draw their top.

    inside : from the middle of the floor up to the rim
    holes : tubes that stand through the top; at most one

    A liquid climbs the wall by the linearised Young–Laplace profile h·exp(−d/λ) at a distance d from
    it, with λ the capillary length. Every top keeps its fill height as its mean, so there is as much
    below it as a level surface at that height would hold.
    """
    check_contents(formed, contents)
    level = contents.fill_height
    above = float(inside.positions[..., 2].max()) - level
    contact = contact_height(formed, contents, inside)
    wet, dry = cut_at(inside, contact)
    ring = dry.positions[:, 0, :2]
    rows = TOP_ROWS if contents.kind in ("liquid", "gel") else SWIRL_ROWS
    top = _spokes(ring, holes[0] if holes else None, rows)
    if contents.kind == "liquid":
        height = contact - _fallen(formed, level, contact, top, holes) * (
            1 - _meniscus(top, hole=bool(holes))
        )
    else:
        height = contact + _stiff_top(top, contents, contact - formed.cavity.level_floor, above)
    height[:, 0] = contact
    skins = [_with_normals(top, height)]
    if holes:
        edge = holes[0].ring[:, None]
        skins.append(Skin(edge, np.broadcast_to(np.array([0.0, 0.0, 1.0]), edge.shape)))
    return Fill(dry, wet, skins, contact)


def contact_height(formed: FormedBody, contents: Contents, inside: Skin) -> float:
    """Height in mm at which contents meet the wall, and a tube that stands in them."""
    level, top = contents.fill_height, float(inside.positions[:, -1, 2].min())
    if contents.kind != "liquid":
        return min(level, top - 1e-3)
    rise = min(MENISCUS_RISE, 0.4 * max(top - level, 0.0))
    area = (formed.volume_at(level + 0.05) - formed.volume_at(level - 0.05)) * MM3_PER_ML / 0.1
    share = min(CAPILLARY_LENGTH / np.sqrt(max(area, 1.0) / np.pi), 1.0)
    lifted = 2 * share * (1 - share + share * np.exp(-1 / share))  # mean of the profile over a disc
    return float(min(level + rise * (1 - lifted), top - 1e-3))


def _fallen(formed: FormedBody, level: float, contact: float, top: Array, holes: tuple[Hole, ...]) -> float:
    """How far in mm a liquid's surface away from the wall is below where it meets it, so that as much is
    below it as below a level surface."""
    area, lifted = _integral(top, np.ones(top.shape[:2])), _integral(top, _meniscus(top, hole=bool(holes)))
    above = (formed.volume_at(contact) - formed.volume_at(level)) * MM3_PER_ML
    above -= sum(np.pi * hole.radius**2 for hole in holes) * (contact - level)
    return above / max(area - lifted, 1e-9)


def _integral(flat: Array, height: Array) -> float:
    """What lies under a top seen from above, mm³: `flat` (u, n, 2) as spokes inwards, heights (u, n)."""
    a, b = flat, np.roll(flat, -1, axis=0)
    p, q = height, np.roll(height, -1, axis=0)
    triangles = (((a, b, b), (p, q, q), (0, 0, 1)), ((a, b, a), (p, q, p), (0, 1, 1)))
    total = 0.0
    for points, heights, rows in triangles:
        x, y, z = (v[:, row : v.shape[1] - 1 + row] for v, row in zip(points, rows, strict=True))
        mean = sum(h[:, row : h.shape[1] - 1 + row] for h, row in zip(heights, rows, strict=True)) / 3
        one, other = y - x, z - x
        total += float((mean * (one[..., 0] * other[..., 1] - one[..., 1] * other[..., 0])).sum()) / 2
    return total


def _spokes(ring: Array, hole: Hole | None, rows: int) -> Array:
    """(u, rows, 2) float, mm: from each point of a ring to the middle, or to the edge of a hole.

    Points stand closer near the wall.
    """
    share = 1 - (1 - np.linspace(0.0, 1.0, rows)) ** 1.8
    if hole is None:
        inner = np.broadcast_to(ring.mean(axis=0), ring.shape)
    else:
        middle = hole.middle
        away = ring - middle
        inner = middle + COLLAR_SHARE * hole.radius * away / np.linalg.norm(away, axis=1, keepdims=True)
        share = (1 - np.cos(np.pi * np.linspace(0.0, 1.0, rows))) / 2
    return np.asarray(ring[:, None] + share[None, :, None] * (inner - ring)[:, None])


def _meniscus(top: Array, *, hole: bool) -> Array:
    """(u, n) float: how far a liquid climbs at each point of its top, as a share of its rise at the wall."""
    from_wall = np.linalg.norm(top - top[:, :1], axis=-1)
    lift = np.exp(-from_wall / CAPILLARY_LENGTH)
    if hole:
        from_hole = np.linalg.norm(top - top[:, -1:], axis=-1)
        gap = from_wall[:, -1:]
        lift += np.exp(-from_hole / CAPILLARY_LENGTH)
        # both walls keep their own contact height
        return np.asarray(lift - np.exp(-gap / CAPILLARY_LENGTH))
    reach = from_wall[:, -1:]
    return np.asarray(lift - np.exp(-reach / CAPILLARY_LENGTH) * from_wall / np.maximum(reach, 1e-9))


def _stiff_top(top: Array, contents: Contents, below: float, above: float) -> Array:
    """(u, n) float, mm: a top that holds its shape, over where it meets the wall; its mean is 0."""
    around = np.linspace(0.0, 2 * np.pi, len(top), endpoint=False)[:, None]
    inwards = np.linspace(0.0, 1.0, top.shape[1])[None]
    inwards = 1 - (1 - inwards) ** 1.8
    size = min(contents.relief, 0.8 * below, 0.8 * max(above, 0.0) + 6)
    if contents.kind == "cream":
        shape = _swirl(around, inwards)
    elif contents.kind == "powder":
        shape = _heap(around, inwards)
    else:
        size = min(size, GEL_WAVE)
        shape = np.sin(2 * around + 0.6) * np.sin(np.pi * inwards) ** 2 + 0.5 * np.sin(np.pi * inwards) ** 3
    height = size * shape
    settle = np.clip(inwards / 0.12, 0.0, 1.0)
    settle = np.broadcast_to(settle * settle * (3 - 2 * settle), height.shape)
    below, weight = _integral(top, height), _integral(top, settle)
    return np.asarray(height - settle * below / max(weight, 1e-9))


def _swirl(around: Array, inwards: Array) -> Array:
    """A spiral laid by a nozzle, rising to a tip: 0 at the wall, 1 at the tip."""
    rest = np.clip((inwards - 0.06) / 0.94, 0.0, 1.0)
    slope = rest**1.25
    wave = SWIRL_TURNS * rest - around / (2 * np.pi)
    ridge = 1 - np.abs(2 * (wave % 1.0) - 1) ** 2.2
    grip = np.clip(rest / 0.12, 0, 1) * np.clip((1 - rest) / 0.16, 0, 1)
    return np.asarray(0.62 * slope + 0.42 * ridge * grip * (1 - 0.5 * rest) + 0.38 * rest**6)


def _heap(around: Array, inwards: Array) -> Array:
    """A gentle heap with uneven ground: 0 at the wall, 1 in the middle."""
    rough = np.zeros(np.broadcast_shapes(around.shape, inwards.shape))
    for turns, waves, strength, shift in _BUMPS:
        rough = rough + strength * np.sin(turns * around + shift) * np.sin(waves * np.pi * inwards + shift)
    edge = np.clip(inwards / 0.15, 0, 1) * np.clip((1 - inwards) / 0.2, 0, 1)
    return np.asarray(0.5 - 0.5 * np.cos(np.pi * inwards) + rough * edge)


def _with_normals(flat: Array, height: Array) -> Skin:
    """A top as a skin facing up, its normals by its slope."""
    positions = np.concatenate([flat, height[..., None]], axis=-1)
    around = np.roll(positions, -1, axis=0) - np.roll(positions, 1, axis=0)
    inwards = np.gradient(positions, axis=1)
    normals = np.cross(around, inwards)
    normals *= np.where(normals[..., 2:] < 0, -1.0, 1.0)
    length = norms(normals)
    normals = np.where(length > 1e-12, normals / np.maximum(length, 1e-12), np.array([0.0, 0.0, 1.0]))
    middle = np.ptp(flat[:, -1], axis=0).max() < 1e-9
    if middle:
        mean = normals[:, -2].mean(axis=0)
        normals[:, -1] = mean / np.linalg.norm(mean)
    return Skin(positions, normals)
