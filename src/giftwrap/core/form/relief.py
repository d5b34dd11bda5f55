"""Relief in the outside of a body by real displacement: threads, rings, ribs, flutes, embossing."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial

import numpy as np
from PIL import Image, ImageFilter

from giftwrap.core.errors import ArtworkError, PackError
from giftwrap.core.form.formed import FormedBody
from giftwrap.core.form.skin import Skin, lofted
from giftwrap.core.form.zones import wall_thickness
from giftwrap.core.mesh.path import Array, Path, length_at_height, norms
from giftwrap.core.model import Emboss, Finish, Ribs, Ring
from giftwrap.core.reading.artwork import rasterise, read_artwork
from giftwrap.core.reading.facts import Kind

LEAST_WALL = 0.3
"""Wall in mm that has to be left behind a groove."""
THREAD_START = 1.6
"""The thread begins this far below the rim, mm (from memory of common finish drawings)."""
THREAD_SHARE = 0.55
"""Width of the thread at its foot as a share of its pitch."""
THREAD_FADE = np.radians(25.0)
FADE_SHARE = 0.7
"""Ribs run out over this share of their spacing."""
ROWS_IN_FADE = 6
COLUMNS_IN_RIB = 8
EMBOSS_STEP = 0.28
"""Spacing in mm of the drawing under an embossed picture."""
MOST_EMBOSS_STEPS = 240
MOST_POINTS = 1_500_000
"""Points that relief may add to a body, each of two triangles; half of it for the page, which draws
half as many rows."""
MERGE = 1e-4
"""Directions closer than this, in radians, are one."""

Displacement = Callable[[Array, Array, Array], Array]


@dataclass(frozen=True)
class Feature:
    """One piece of relief.

    bottom, top : mm along the outer path from its first point
    step : mm between rows it needs
    columns : (n,) float, directions it needs, radians from the front
    whole : whether those go all around, so that no others are needed
    displace : (columns, lengths, heights) → (u, n) float, mm outwards
    place : the field that asks for it
    """

    bottom: float
    top: float
    step: float
    columns: Array
    displace: Displacement
    place: str
    whole: bool = False

    def rows_between(self, low: float, high: float) -> float:
        """Rows it needs between two lengths along the path."""
        return max(min(self.top, high) - max(self.bottom, low), 0.0) / self.step


def outside_skins(
    formed: FormedBody, path: Path, artwork: Mapping[str, bytes], *, coarse: bool = False
) -> list[Skin]:
    """The outside with its relief, as skins one above the other.

    path : from the middle of the base up to where the rim begins

    Raises PackError where relief does not fit the wall, ArtworkError where its artwork is missing.
    """
    features = _features(formed, artwork, coarse=coarse)
    if not features:
        return [lofted(path, formed.loft, formed.columns)]
    whole = float(path.lengths()[-1])
    bands = _bands(formed, features, whole)
    _refuse_too_fine(features, bands, MOST_POINTS / 2 if coarse else MOST_POINTS)
    rows = [np.arange(f.bottom, min(f.top, whole) + f.step / 2, f.step) for f in features]
    path = _with_lengths(path, np.concatenate(rows))
    lengths = path.lengths()
    skins = []
    for start, end, columns in bands:
        inside = (lengths >= start - 1e-6) & (lengths <= end + 1e-6)
        part = Path(path.points[inside], path.normals[inside])
        skin = lofted(part, formed.loft, columns)
        height = sum(
            f.displace(columns, lengths[inside], part.points[:, 1])
            for f in features
            if f.top > start and f.bottom < end
        )
        skins.append(_displaced(skin, height) if isinstance(height, np.ndarray) else skin)
    return skins


def _refuse_too_fine(features: list[Feature], bands: list[tuple[float, float, Array]], most: float) -> None:
    """Raise PackError, naming the field that costs most, when relief needs more points than can be drawn."""
    costs = {f.place: 0.0 for f in features}
    for low, high, columns in bands:
        for feature in features:
            costs[feature.place] += feature.rows_between(low, high) * len(columns)
    if sum(costs.values()) > most:
        place = max(costs, key=lambda name: costs[name])
        raise PackError(
            f"The relief needs {sum(costs.values()) / most:.3g} times the points that can be drawn: make it "
            "lower, coarser or less of it.",
            place,
        )


def _features(formed: FormedBody, artwork: Mapping[str, bytes], *, coarse: bool) -> list[Feature]:
    features = []
    body, path = formed.body, formed.outer
    detail = 2.0 if coarse else 1.0
    if body.finish:
        features.append(_thread(body.finish, formed, detail))
    for index, relief in enumerate(body.relief):
        place = f"body.relief.{index}"
        _check(formed, relief, place)
        if isinstance(relief, Ring):
            middle = length_at_height(path, relief.height)
            half = relief.width / 2
            features.append(
                Feature(
                    max(middle - half, 0.0),
                    middle + half,
                    max(relief.width / 14, 0.1) * detail,
                    np.empty(0),
                    partial(_ring, relief, middle),
                    place,
                )
            )
        elif isinstance(relief, Ribs):
            features.append(_ribs(relief, formed, detail, place))
        else:
            if relief.artwork not in artwork:
                raise ArtworkError("The artwork to emboss is missing: choose it again.", f"{place}.artwork")
            features.append(_emboss(relief, formed, artwork[relief.artwork], detail, place))
    return features


def _check(formed: FormedBody, relief: Ring | Ribs | Emboss, place: str) -> None:
    height = {"ring": "height", "ribs": "top", "emboss": "centre_height"}[relief.kind]
    at = float(getattr(relief, height))
    if at > formed.rim_height:
        raise PackError(
            f"The relief at {at:.1f} mm is above the rim ({formed.rim_height:.1f} mm): lower it.",
            f"{place}.{height}",
        )
    wall = float(wall_thickness(formed.body, formed.profile.zones, np.array([at]))[0])
    if relief.depth < 0 and -relief.depth > wall - LEAST_WALL:
        raise PackError(
            f"Relief {-relief.depth:g} mm deep would break through the wall of {wall:g} mm: at most "
            f"{max(wall - LEAST_WALL, 0):.1f} mm here.",
            f"{place}.depth",
        )


def _thread(finish: Finish, formed: FormedBody, detail: float) -> Feature:
    top = float(formed.outer.lengths()[-1])
    reach = min(THREAD_START + finish.pitch * (finish.turns + THREAD_SHARE), finish.height)
    step = finish.pitch * THREAD_SHARE / 12 * detail
    shape = partial(_helix, finish, formed.rim_height - THREAD_START - finish.pitch * THREAD_SHARE / 2)
    return Feature(top - reach - 0.2, top - THREAD_START + 0.6, step, np.empty(0), shape, "body.finish.pitch")


def _helix(finish: Finish, start: float, columns: Array, lengths: Array, heights: Array) -> Array:
    """A ridge that winds down from a height, as wide as a share of its pitch, running out at both ends."""
    depth = (finish.thread_diameter - finish.neck_diameter) / 2
    half = finish.pitch * THREAD_SHARE / 2
    whole = 2 * np.pi * finish.turns
    room = max(finish.height - THREAD_START - 2 * half, 0.1)
    drop = min(finish.pitch, room / finish.turns)
    found = np.zeros((len(columns), len(heights)))
    for turn in range(int(np.ceil(finish.turns)) + 1):
        angle = columns + 2 * np.pi * turn
        fade = np.clip(np.minimum(angle, whole - angle) / THREAD_FADE, 0.0, 1.0)
        off = np.abs(heights[None] - (start - drop * angle / (2 * np.pi))[:, None]) / half
        ridge = np.clip((1 - off) / 0.55, 0.0, 1.0)
        found = np.maximum(found, (fade * fade * (3 - 2 * fade))[:, None] * ridge * ridge * (3 - 2 * ridge))
    return depth * found


def _ring(relief: Ring, middle: float, columns: Array, lengths: Array, heights: Array) -> Array:
    off = np.clip(np.abs(lengths - middle) / (relief.width / 2), 0.0, 1.0)
    return np.broadcast_to(relief.depth * np.sqrt(1 - off**2) * (1 - off**6), (len(columns), len(lengths)))


def _ribs(relief: Ribs, formed: FormedBody, detail: float, place: str) -> Feature:
    low = length_at_height(formed.outer, relief.bottom)
    high = length_at_height(formed.outer, min(relief.top, formed.rim_height - 1e-3))
    share_at = _shares(formed, (relief.bottom + relief.top) / 2)
    wanted = np.arange(relief.count * COLUMNS_IN_RIB) / (relief.count * COLUMNS_IN_RIB)
    directions = _closed(formed.columns)
    columns = np.interp(wanted, share_at, directions)
    around = float(2 * np.pi * np.median(formed.outer.points[:, 0]))
    fade = min(FADE_SHARE * around / relief.count, (high - low) / 2)

    def field(columns: Array, lengths: Array, heights: Array) -> Array:
        at = (np.interp(columns, directions, share_at) * relief.count) % 1.0
        across = (0.5 + 0.5 * np.cos(2 * np.pi * at)) ** 1.5 if relief.depth > 0 else 1 - (2 * at - 1) ** 2
        end = np.clip(np.minimum(lengths - low, high - lengths) / max(fade, 1e-6), 0.0, 1.0)
        along = np.sqrt(1 - (1 - end) ** 2)
        return np.asarray(relief.depth * across[:, None] * along[None])

    return Feature(low, high, max(fade / ROWS_IN_FADE, 0.15) * detail, columns, field, place, whole=True)


def _emboss(relief: Emboss, formed: FormedBody, data: bytes, detail: float, place: str) -> Feature:
    facts = read_artwork(data, "artwork", known=True)
    width, height = relief.width, relief.width / facts.aspect
    step = max(EMBOSS_STEP, max(width, height) / MOST_EMBOSS_STEPS) * detail
    cover = _coverage(data, facts.kind, width, height, relief.edge)
    middle = length_at_height(formed.outer, relief.centre_height)
    around = _around(formed, relief.centre_height)
    directions = _closed(formed.columns)
    centre = float(np.interp(np.radians(relief.centre_angle) % (2 * np.pi), directions, around))
    margin = 2 * relief.edge
    across = np.arange(-width / 2 - margin, width / 2 + margin + step, step)
    columns = np.interp((centre + across) % around[-1], around, directions)
    whole, (rows, wide) = around[-1], cover.shape

    def field(columns: Array, lengths: Array, heights: Array) -> Array:
        x = (np.interp(columns, directions, around) - centre + whole / 2) % whole - whole / 2
        column = (x + width / 2 + margin) / (width + 2 * margin) * (wide - 1)
        row = (height / 2 + margin - lengths + middle) / (height + 2 * margin) * (rows - 1)
        inside = ((column >= 0) & (column <= wide - 1))[:, None] & ((row >= 0) & (row <= rows - 1))[None]
        c, r = np.clip(column.astype(int), 0, wide - 2)[:, None], np.clip(row.astype(int), 0, rows - 2)[None]
        to_right, down = column[:, None] - c, row[None] - r
        upper = cover[r, c] * (1 - to_right) + cover[r, c + 1] * to_right
        lower = cover[r + 1, c] * (1 - to_right) + cover[r + 1, c + 1] * to_right
        return np.asarray(relief.depth * np.where(inside, upper * (1 - down) + lower * down, 0.0))

    low, high = middle - height / 2 - margin, middle + height / 2 + margin
    return Feature(max(low, 0.0), high, step, columns, field, place)


def _coverage(data: bytes, kind: Kind, width: float, height: float, edge: float) -> Array:
    """(rows, columns) float, 0..1: how far artwork stands out, with sloping edges and a margin."""
    scale = min(max(6.0 / edge, 4.0), 1200 / max(width, height))
    size = (max(round(width * scale), 2), max(round(height * scale), 2))
    image = rasterise(data, kind, *size)
    flat = Image.alpha_composite(Image.new("RGBA", image.size, "white"), image).convert("L")
    margin = round(2 * edge * scale)
    canvas = Image.new("L", (size[0] + 2 * margin, size[1] + 2 * margin), 255)
    canvas.paste(flat, (margin, margin))
    soft = canvas.filter(ImageFilter.GaussianBlur(edge * scale / 2))
    return 1 - np.asarray(soft, dtype=float) / 255


def _around(formed: FormedBody, height: float) -> Array:
    """(columns + 1,) float, mm around the wall at a height, from the front up to each column."""
    radius = float(np.interp(height, formed.outer.points[:, 1], formed.outer.points[:, 0]))
    ring = radius * formed.loft.at(np.array([height]), formed.columns).points[:, 0]
    steps = np.linalg.norm(np.diff(ring, axis=0, append=ring[:1]), axis=1)
    return np.concatenate([[0.0], np.cumsum(steps)])


def _shares(formed: FormedBody, height: float) -> Array:
    around = _around(formed, height)
    return np.asarray(around / around[-1])


def _closed(columns: Array) -> Array:
    return np.append(columns, 2 * np.pi)


def _bands(formed: FormedBody, features: list[Feature], length: float) -> list[tuple[float, float, Array]]:
    """Stretches of the path from bottom to top, with the columns each needs."""
    fine = sorted((f for f in features if len(f.columns)), key=lambda f: f.bottom)
    merged: list[tuple[float, float, list[Feature]]] = []
    for feature in fine:
        bottom, top = feature.bottom, min(feature.top, length)
        if merged and bottom <= merged[-1][1]:
            low, high, before = merged[-1]
            merged[-1] = (low, max(high, top), [*before, feature])
        else:
            merged.append((bottom, top, [feature]))
    bands, at = [], 0.0
    for bottom, top, own in merged:
        if bottom > at:
            bands.append((at, bottom, formed.columns))
        enough = any(f.whole and len(f.columns) > len(formed.columns) for f in own)
        base = [] if enough else [formed.columns]
        together = np.sort(np.concatenate([*base, *(f.columns for f in own)]))
        bands.append((bottom, top, together[np.diff(together, prepend=-1.0) > MERGE]))
        at = top
    if at < length - 1e-6:
        bands.append((at, length, formed.columns))
    return bands


def _with_lengths(path: Path, lengths: Array) -> Path:
    """The path with points added at lengths along it."""
    own = path.lengths()
    lengths = np.unique(lengths[(lengths > 1e-3) & (lengths < own[-1] - 1e-3)])
    far = np.abs(lengths[:, None] - own[None]).min(axis=1) > 1e-4
    lengths = lengths[far]
    where = np.searchsorted(own, lengths)
    points = np.stack([np.interp(lengths, own, path.points[:, k]) for k in (0, 1)], axis=1)
    share = (lengths - own[where - 1]) / (own[where] - own[where - 1])
    mixed = path.normals[where - 1] + share[:, None] * (path.normals[where] - path.normals[where - 1])
    mixed /= np.linalg.norm(mixed, axis=1, keepdims=True)
    return Path(np.insert(path.points, where, points, axis=0), np.insert(path.normals, where, mixed, axis=0))


def _displaced(skin: Skin, height: Array) -> Skin:
    """A skin moved along its normals, which lean with the slope of what was added."""
    positions = skin.positions + height[..., None] * skin.normals
    if height.shape[1] < 2:
        return Skin(positions, skin.normals)
    across = np.roll(positions, -1, axis=0) - np.roll(positions, 1, axis=0)
    rise_across = np.roll(height, -1, axis=0) - np.roll(height, 1, axis=0)
    along, rise_along = np.gradient(positions, axis=1), np.gradient(height, axis=1)
    slopes = _slope(across, rise_across, skin.normals) + _slope(along, rise_along, skin.normals)
    leaning = skin.normals - slopes
    return Skin(positions, leaning / norms(leaning))


def _slope(step: Array, rise: Array, normal: Array) -> Array:
    """How steeply a surface rises over a step along the wall, as a vector along the wall; none where the
    step has no length.
    """
    level = step - (step * normal).sum(-1, keepdims=True) * normal
    length2 = (level * level).sum(-1)
    return np.where(length2[..., None] > 1e-9, level * (rise / np.maximum(length2, 1e-9))[..., None], 0.0)
