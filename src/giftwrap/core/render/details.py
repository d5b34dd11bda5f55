"""What a surface does beyond its kind, as kernels read it: grain and relief, paint that sets in along the
height, films, fuzz, thin sheets, lacquer.

A row for each such surface; the texels of all patterns one after the other, a number of 32 bits each; what
films mirror as tables over the cosine. Surfaces without any of these cost a comparison.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Any

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array3f, Array4f, Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.grade.display import decode_srgb, linear_colour
from giftwrap.core.materials.films import film_mirrors
from giftwrap.core.materials.optics import ROUGHEST, SMOOTHEST, Colour, Detail
from giftwrap.core.materials.patterns import Pattern, pattern
from giftwrap.core.model.worked import Fade, Film, Grain, Pictures
from giftwrap.core.render.geometry import Triangle
from giftwrap.core.render.memory import aligned

ROW = 13
"""Rows of four numbers for each."""
AROUND, THROUGH, OVER, UNWRAPPED = 0.0, 1.0, 2.0, 3.0
LEVEL = 0.7071
"""Where a surface faces more up than this, what is wrapped around lies flat on it."""
EDGES = 6
"""Power by which what is laid over each side gives way to the next."""
STEPS = 64
"""Of a film's table over the cosine."""
GRAINED, COLOURED, GLOSSED = 1, 2, 4
"""What patterns have: anything at all, colours of their own, gloss that is the surface's."""
ROUGHEN = 4.0
"""By how much a pattern makes places rougher or smoother at most."""


@dataclass
class Detailed:
    """What is different at a place.

    colour, share : of its pattern, and how much of it there is
    roughened : times as wide the highlight; stretch : and as much wider along than across
    leans : gradient of the relief, mm a mm, in the scene; along : direction of the grain
    painted : it is paint, of `colour`
    alpha, turned : the width that it fades to, and how far it has
    tint : of what passes; film : number of what it mirrors, 0 for none; escape : what the film lets in
    """

    colour: Array3f
    share: Float
    roughened: Float
    stretch: Float
    leans: Array3f
    along: Array3f
    painted: Bool
    alpha: Float
    turned: Float
    tint: Array3f
    film: UInt32
    escape: Array3f
    sheen: Array3f
    passes: Array3f
    lacquer: Float


class Films:
    """What films mirror, by their numbers from 1. Not a structure that the engine looks into."""

    def __init__(self, tables: Sequence[NDArray[np.float32]]) -> None:
        nothing = np.zeros((STEPS, 4), np.float32)
        self._table = aligned(Float, np.concatenate([*tables, nothing]))
        dr.eval(self._table)

    def mirrored(self, number: UInt32, cosine: Float, active: Bool) -> Array3f:
        """Share of light at a cosine on the air's side."""
        place = dr.clip(cosine, 0, 1) * (STEPS - 1)
        low = dr.minimum(UInt32(place), STEPS - 2)
        first = (dr.maximum(number, 1) - 1) * STEPS + low
        a, b = (dr.gather(Array4f, self._table, first + i, active) for i in range(2))
        mixed = dr.lerp(a, b, place - Float(low))
        return Array3f(mixed.x, mixed.y, mixed.z)


class DetailStore:
    """The details of a scene."""

    def __init__(self, details: Sequence[Detail]) -> None:
        patterns = list(dict.fromkeys(made for one in details if (made := _made(one)) is not None))
        films = list(dict.fromkeys((one.film, one.under) for one in details if one.film is not None))
        self._sizes, self._texels, self._colours = _texels_of(tuple(patterns))
        self._decoded = aligned(Float, decode_srgb(np.arange(256, dtype=np.float32) / np.float32(255)))
        self._rows = aligned(
            Float, np.array([*(_row(d, patterns, films) for d in details), _row(Detail(), [], [])])
        )
        self.films = Films([_film_table(*film) for film in films])
        dr.eval(self._rows, self._decoded)

    @dr.syntax
    def at(self, number: UInt32, place: Triangle, chance: Float, active: Bool) -> Detailed:
        """Details by their numbers, from 1, where rays arrived; 0 for none.

        chance : evenly from 0 to 1, by which places that are partly painted are or not
        """
        colour, leans, along = dr.zeros(Array3f), dr.zeros(Array3f), dr.zeros(Array3f)
        share, alpha, turned, lacquer = Float(0), Float(0), Float(0), Float(0)
        roughened, stretch = Float(1), Float(1)
        painted, film = Bool(False), UInt32(0)
        tint, escape, sheen, passes = Array3f(1), Array3f(1), Array3f(0), Array3f(0)
        detailed = active & (number > 0)
        if detailed:
            rows = [dr.gather(Array4f, self._rows, (number - 1) * ROW + i, detailed) for i in range(ROW)]
            own, normal = _in_part(rows, place)
            plain, filmed, thin = rows[10], rows[11], rows[12]
            sheen, lacquer = Array3f(plain.x, plain.y, plain.z), plain.w
            passes, film = Array3f(thin.x, thin.y, thin.z), UInt32(thin.w)
            escape = Array3f(filmed.x, filmed.y, filmed.z)
            grained = detailed & (rows[7].w > 0)
            if grained:
                lie = _lie(rows, own, normal, chance, place)
                tone, gloss, slope = self._pattern(rows, lie, grained)
                colour, share = Array3f(rows[5].y, rows[5].z, rows[5].w), rows[5].x * tone
                roughened = ROUGHEN ** (1 - 2 * gloss)
                leans = lie.first * slope.x + lie.second * slope.y + lie.third * slope.z
                along = lie.first
                stretch = rows[6].z
                flags = UInt32(rows[7].w)
                if grained & ((flags & COLOURED) != 0):
                    colour, opacity = self._coloured(rows, lie, grained & ((flags & COLOURED) != 0))
                    share = rows[5].x * opacity
                glossed = (flags & GLOSSED) != 0
                alpha = dr.select(glossed, ROUGHEST * (SMOOTHEST / ROUGHEST) ** gloss, 0.0)
                turned = dr.select(glossed, 1.0, 0.0)
                roughened = dr.select(glossed, 1.0, roughened)
            fade = rows[8]
            fading = detailed & (filmed.w > 0)
            if fading:
                t = dr.clip((own.z - fade.x) * fade.y, 0, 1)
                t = t * t * (3 - 2 * t)
                its = Array3f(rows[9].x, rows[9].y, rows[9].z)
                painted = chance < t * fade.z
                colour, share = dr.select(painted, its, colour), dr.select(painted, 1.0, share)
                faded = dr.select(painted, 1.0, dr.select(fade.z == 0, t, 0.0))
                alpha = dr.select(turned > 0, dr.lerp(alpha, fade.w, faded), fade.w)
                turned = dr.maximum(turned, faded)
                roughened = dr.select(painted, 1.0, roughened)
                stretch = dr.select(painted, 1.0, stretch)
                tint = dr.select(painted, Array3f(1), dr.lerp(Array3f(1), its, t * (1 - fade.z)))
                film, lacquer = dr.select(painted, 0, film), dr.select(painted, 0.0, lacquer)
                sheen = dr.select(painted, Array3f(0), sheen)
                passes = dr.select(painted, Array3f(0), passes)
        return Detailed(
            colour, share, roughened, stretch, leans, along, painted, alpha, turned, tint, film, escape,
            sheen, passes, lacquer,
        )  # fmt: skip

    @dr.syntax
    def _pattern(self, rows: list[Array4f], lie: _Lie, active: Bool) -> tuple[Float, Float, Array3f]:
        """Tone, gloss and slope of a pattern where it lies: mm a mm along each of its directions."""
        shape, steps = rows[4], rows[6]
        size = dr.gather(dr.llvm.ad.Array4u, self._sizes, 2 * UInt32(shape.w), active)
        texel = Array3f(lie.at.x * shape.x, lie.at.y * shape.y, lie.at.z * shape.z)
        tone, gloss, height = self._between(size, texel, active)
        if active & (steps.w > 0):  # rings, told from how far it is to the heart
            heart = rows[7]
            reach = dr.sqrt((lie.at.y - heart.x) ** 2 + (lie.at.z - heart.y) ** 2) * steps.w
            ring = reach + 1.6 * (gloss - 0.5)
            ring = ring - dr.floor(ring)
            late = ring * ring * ring * dr.select(ring > 0.94, (1 - ring) * (1 / 0.06), 1.0)
            tone = dr.clip(0.55 * tone + 0.75 * late, 0, 1)
            gloss = Float(0.5)
        inside = (height - 0.5) * steps.y
        tone = dr.select(steps.y > 0, gloss * dr.clip(0.5 + inside, 0, 1), tone)
        tone = dr.select(steps.y < 0, dr.clip(tone + gloss * dr.clip(1 - dr.abs(inside), 0, 1), 0, 1), tone)
        gloss = dr.select(steps.y == 0, gloss, 0.5)
        slope = dr.zeros(Array3f)
        turn = UInt32(0)
        rises = active & (steps.x > 0)
        while rises & (turn < 3):
            step = Array3f(*(dr.select(turn == i, 0.5, 0.0) for i in range(3)))
            _, _, above = self._between(size, texel + step, rises)
            _, _, below = self._between(size, texel - step, rises)
            slope += step * (2 * (above - below))
            turn += 1
        return tone, gloss, Array3f(slope.x * shape.x, slope.y * shape.y, slope.z * shape.z) * steps.x

    def _coloured(self, rows: list[Array4f], lie: _Lie, active: Bool) -> tuple[Array3f, Float]:
        """Colour and opacity of a picture where it lies, between its four nearest texels."""
        number = UInt32(rows[4].w)
        size = dr.gather(dr.llvm.ad.Array4u, self._sizes, 2 * number + 1, active)
        start, columns, lines = size.x, size.y, size.z
        finer = dr.gather(dr.llvm.ad.Array4u, self._sizes, 2 * number, active)
        x = lie.at.x * rows[4].x * (Float(columns) / Float(finer.y)) - 0.5
        y = lie.at.y * rows[4].y * (Float(lines) / Float(finer.z)) - 0.5
        x, y = (
            x - dr.floor(x / Float(columns)) * Float(columns),
            y - dr.floor(y / Float(lines)) * Float(lines),
        )
        left, low = dr.minimum(UInt32(x), columns - 1), dr.minimum(UInt32(y), lines - 1)
        right = dr.select(left + 1 >= columns, 0, left + 1)
        high = dr.select(low + 1 >= lines, 0, low + 1)
        across, up = x - Float(left), y - Float(low)
        colour, opacity = dr.zeros(Array3f), Float(0)
        for corner in range(4):
            column, way = (right, across) if corner & 1 else (left, 1 - across)
            line, rise = (high, up) if corner & 2 else (low, 1 - up)
            word = dr.gather(UInt32, self._colours, start + line * columns + column, active)
            codes = (word & 255, (word >> 8) & 255, (word >> 16) & 255)
            colour += way * rise * Array3f(*(dr.gather(Float, self._decoded, code, active) for code in codes))
            opacity += way * rise * Float(word >> 24)
        return colour, opacity / 255

    def _between(self, size: Any, texel: Array3f, active: Bool) -> tuple[Float, Float, Float]:
        """Tone, gloss and height between the eight nearest texels of a pattern that goes on forever."""
        start, counts = size.x, (size.y, size.z, size.w)
        lows, highs, ways = [], [], []
        for value, count in zip((texel.x, texel.y, texel.z), counts, strict=True):
            whole = value - 0.5
            whole = whole - dr.floor(whole / Float(count)) * Float(count)
            low = dr.minimum(UInt32(whole), count - 1)
            lows.append(low)
            highs.append(dr.select(low + 1 >= count, 0, low + 1))
            ways.append(whole - Float(low))
        tone, gloss, height = Float(0), Float(0), Float(0)
        for corner in range(8):
            x, y, z = (highs[i] if corner >> i & 1 else lows[i] for i in range(3))
            weight = Float(1)
            for i in range(3):
                weight = weight * (ways[i] if corner >> i & 1 else 1 - ways[i])
            word = dr.gather(UInt32, self._texels, start + (z * counts[1] + y) * counts[0] + x, active)
            tone += weight * Float(word & 255)
            gloss += weight * Float((word >> 8) & 255)
            height += weight * Float(word >> 16)
        return tone / 255, gloss / 255, height / 65535


@dataclass
class _Lie:
    """Where on a pattern a place is, mm, and the directions in the scene in which that grows."""

    at: Array3f
    first: Array3f
    second: Array3f
    third: Array3f


def _in_part(rows: list[Array4f], place: Triangle) -> tuple[Array3f, Array3f]:
    own, normal = place.own_place, place.own_normal
    there = [row.x * own.x + row.y * own.y + row.z * own.z for row in rows[:3]]
    faces = [row.x * normal.x + row.y * normal.y + row.z * normal.z for row in rows[:3]]
    return Array3f(*there) + Array3f(*(row.w for row in rows[:3])), dr.normalize(Array3f(*faces))


def _out_of_part(rows: list[Array4f], own: Array3f) -> Array3f:
    a, b, c = rows[:3]
    return Array3f(
        a.x * own.x + b.x * own.y + c.x * own.z,
        a.y * own.x + b.y * own.y + c.y * own.z,
        a.z * own.x + b.z * own.y + c.z * own.z,
    )


def _lie(rows: list[Array4f], own: Array3f, normal: Array3f, chance: Float, place: Triangle) -> _Lie:
    """How a pattern lies at a place of its part, by the way that it is laid."""
    lies, cosine, sine, girth = rows[3].x, rows[3].y, rows[3].z, rows[3].w
    spun = rows[7].z > 0
    nothing, up = Float(0), Array3f(0, 0, 1)
    # around: along the girth and up the wall; on ends flat, or in circles where it is turned on a lathe
    reach = dr.maximum(dr.sqrt(own.x * own.x + own.y * own.y), 1e-3)
    tangent = Array3f(-own.y, own.x, 0) / reach
    outwards = Array3f(own.x, own.y, 0) / reach
    bearing = dr.atan2(own.x, -own.y)
    end = dr.abs(normal.z) > LEVEL
    flat = end & ~spun
    facing = dr.select(normal.z > 0, 1.0, -1.0)
    at = dr.select(flat, Array3f(own.x, own.y * facing, 0), Array3f(bearing * girth, own.z, 0))
    at = dr.select(end & spun, Array3f(bearing * girth, -reach * facing, 0), at)
    first = dr.select(flat, Array3f(1, 0, 0), tangent * (girth / reach))
    second = dr.select(flat, Array3f(0, facing, 0), dr.select(end, -outwards * facing, up))
    third = dr.zeros(Array3f)
    # over: on the side that it faces, and near edges on either
    weights = [dr.abs(v) ** EDGES for v in (normal.x, normal.y, normal.z)]
    pick = chance * (weights[0] + weights[1] + weights[2])
    on_x, on_y = pick < weights[0], pick < weights[0] + weights[1]
    east, south = dr.select(normal.x > 0, 1.0, -1.0), dr.select(normal.y > 0, -1.0, 1.0)
    side = dr.select(on_x, Array3f(0, east, 0), dr.select(on_y, Array3f(south, 0, 0), Array3f(1, 0, 0)))
    rise = dr.select(on_y, up, Array3f(0, facing, 0))
    over = lies == OVER
    at = dr.select(over, Array3f(dr.dot(side, own), dr.dot(rise, own), 0), at)
    first, second = dr.select(over, side, first), dr.select(over, rise, second)
    # turned about where the surface faces; or straight through, about the axis that faces the front
    through = lies == THROUGH
    at = dr.select(through, Array3f(own.x, own.z, -own.y), at)
    first, second = dr.select(through, Array3f(1, 0, 0), first), dr.select(through, up, second)
    third = dr.select(through, Array3f(0, -1, 0), third)
    first, second, third = (place.placed(_out_of_part(rows, way)) for way in (first, second, third))
    unwrapped = lies == UNWRAPPED
    at = dr.select(unwrapped, Array3f(place.uv.x * girth, place.uv.y * rows[7].x, 0), at)
    first = dr.select(unwrapped, dr.normalize(place.across), first)
    second = dr.select(unwrapped, dr.normalize(place.up), second)
    at = Array3f(at.x * cosine + at.y * sine, at.y * cosine - at.x * sine, dr.select(through, at.z, nothing))
    return _Lie(at, first * cosine + second * sine, second * cosine - first * sine, third)


def _made(detail: Detail) -> Pattern | None:
    """The pattern of a surface, or its pictures."""
    if detail.sheet is not None or detail.grain is None:
        return detail.sheet
    named = detail.grain.pattern
    if isinstance(named, Pictures):
        raise ValueError("Pictures of a material are put into its optics before they are lit.")
    return pattern(named)


def _row(
    detail: Detail, patterns: Sequence[Pattern], films: Sequence[tuple[Film, tuple[Colour, Colour]]]
) -> list[float]:
    made = _made(detail)
    number = patterns.index(made) if made else 0
    film = films.index((detail.film, detail.under)) if detail.film else -1
    escape = 1 - _film_table(*films[film])[:, :3].T @ _EVEN if detail.film else np.ones(3)
    return [
        *(float(v) for row in detail.stance.to_part for v in row),
        *_grain_numbers(detail.grain, made, number, detail.stance.radius),
        *_fade_numbers(detail.fade, detail.faded),
        *(*detail.sheen, detail.lacquer),
        *(*map(float, escape), float(detail.fade is not None)),
        *(*detail.passes, float(film + 1)),
    ]


def _grain_numbers(grain: Grain | None, made: Pattern | None, number: int, radius: float) -> list[float]:
    if grain is None or made is None:
        return [*(0.0, 1.0, 0.0, 1.0), *([0.0] * 16)]
    across, up, deep = (period * grain.scale for period in made.period)
    turn = np.radians(grain.turn)
    repeat = up if abs(np.sin(turn)) > LEVEL else across
    round_ = 2 * np.pi * radius
    girth = max(1, round(round_ / repeat)) * repeat / (2 * np.pi)  # so that it meets itself
    columns, rows, layers = made.texels.shape[::-1]
    lies = {"around": AROUND, "through": THROUGH, "over": OVER, "unwrapped": UNWRAPPED}[grain.lies]
    heart = (1.1 * radius, 0.7 * radius)
    if grain.lies == "unwrapped":
        girth, heart = across, (up, 0.0)
    colour = linear_colour(grain.colour)
    stretch = (1 - 0.985 * grain.brushed) ** 0.5
    rings = 1 / grain.scale if made.rings else 0.0
    flags = GRAINED | (COLOURED if made.colours is not None else 0) | (GLOSSED if made.glossed else 0)
    return [
        *(lies, float(np.cos(turn)), float(np.sin(turn)), girth),
        *(columns / across, rows / up, layers / deep, float(number)),
        *(grain.share, *colour),
        *(0.0 if made.edges else grain.depth, made.edges, stretch, rings),
        *(*heart, float(grain.pattern == "brushed"), float(flags)),
    ]


def _fade_numbers(fade: Fade | None, width: float) -> list[float]:
    if fade is None:
        return [0.0] * 8
    length = fade.whole - fade.begins
    length = length if abs(length) > 1e-3 else 1e-3
    return [fade.begins, 1 / length, fade.cover, width, *linear_colour(fade.colour), 0.0]


@lru_cache(maxsize=3)
def _texels_of(patterns: tuple[Pattern, ...]) -> tuple[UInt32, UInt32, UInt32]:
    """Where patterns begin and how many texels each has every way, then the same of their colours; all
    texels, all colours."""
    nothing = np.zeros((1, 2), np.uint32)  # of one number the engine would make another kernel
    texels = [*(one.texels for one in patterns), nothing[None]]
    colours = [*(nothing if one.colours is None else one.colours for one in patterns), nothing]
    starts = np.cumsum([0, *(one.size for one in texels)])
    begins = np.cumsum([0, *(one.size for one in colours)])
    sizes = [
        [start, *texel.shape[::-1], begin, *colour.shape[::-1], 1]
        for start, texel, begin, colour in zip(starts, texels, begins, colours, strict=False)
    ]
    found = (
        aligned(UInt32, np.array(sizes, np.uint32)),
        aligned(UInt32, np.concatenate([one.ravel() for one in texels])),
        aligned(UInt32, np.concatenate([one.ravel() for one in colours])),
    )
    dr.eval(found)
    return found


_COSINES = np.linspace(0, 1, STEPS)
_EVEN = np.gradient(_COSINES**2) * np.where((_COSINES == 0) | (_COSINES == 1), 0.5, 1.0)
_EVEN /= _EVEN.sum()
"""Weights of even light over the table's cosines."""


@cache
def _film_table(film: Film, under: tuple[Colour, Colour]) -> NDArray[np.float32]:
    n, k = (np.array(values) for values in under)
    found = film_mirrors(_COSINES, thickness=film.thickness, film=film.refractive_index, n=n, k=k)
    return np.column_stack([found, np.zeros(STEPS)]).astype(np.float32)
