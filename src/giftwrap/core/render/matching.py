"""The material of a part that looks, in the light it stands in, like a colour that was seen."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.errors import PackError
from giftwrap.core.grade.display import encode_srgb, linear_colour
from giftwrap.core.materials.colours import apart
from giftwrap.core.materials.optics import UPRIGHT, deepest_colour, material_optics
from giftwrap.core.materials.pictured import has_pictured_colour, pictured
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.material import Material
from giftwrap.core.model.panel import pictures_in
from giftwrap.core.render.files import shelf
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import PictureJob, develop, scene_of
from giftwrap.core.scene.scene import Instance, Scene, Surface
from giftwrap.core.stage.fitting import fitted_camera

if TYPE_CHECKING:
    from giftwrap.core.render.renderer import Renderer

SAMPLES, ROUNDS = 48, 8
ENOUGH = 0.6
"""ΔE₀₀ at which it is a match."""
GOOD = 1.0
LEAST_PX = 12
"""Of the picture that the part has to fill."""
WHOLE = 0.95
"""Share of a pixel that is the part's, for it to count."""


Array = NDArray[np.float64]


@dataclass(frozen=True)
class Match:
    """What a part is to be made of; how it looks then, `#rrggbb`, and ΔE₀₀ from what was asked for.

    why : what stands in the way of a closer one; empty where none does
    """

    material: Material
    seen: str
    off: float
    why: str = ""


def match_seen(job: PictureJob, part: str, material: Material, target: str) -> Match:
    """The colour of a material with which a part looks like another, seen as a job sees it.

    How a part looks is the median of the picture's pixels that it fills. Its own colour and what it mirrors
    add up, so each primary is found by the secant of the last two rounds; the closest one counts.

    target : `#rrggbb` as the graded picture shows it

    Raises PackError when the part is not seen or has no colour of its own.
    """
    from giftwrap.core.render.renderer import Renderer  # starts the compiler library

    if isinstance(material, Clear):
        raise PackError("What is clear shows what is behind it: match something that is not clear.", part)
    if has_pictured_colour(material):
        raise PackError("Its colours are those of a picture: take that off it to match it.", part)
    files = shelf.files(pictures_in(material))
    scene, renderer = scene_of(job), None
    wanted, colour = np.array(linear_colour(target)), np.array(linear_colour(target))
    best: Match | None = None
    tried: list[tuple[Array, Array]] = []
    for _ in range(ROUNDS):
        material = _coloured(material, colour)
        renderer = Renderer(_made_of(scene, part, material, files), previous=renderer)
        seen = _look(job, renderer, part)
        code = _code(seen)
        off = apart(code, target)
        if best is None or off < best.off:
            best = Match(material, code, off)
        if off <= ENOUGH:
            break
        tried.append((colour, seen))
        colour = _next(tried, wanted)
    assert best is not None
    return replace(best, why=_why(best, wanted))


def _next(tried: list[tuple[Array, Array]], wanted: Array) -> Array:
    """The colour to try after those that were, each with how it looked."""
    colour, seen = tried[-1]
    factor = np.clip(wanted / np.maximum(seen, 1e-4), 0.25, 4)
    found = colour * factor
    if len(tried) > 1:
        before, looked = tried[-2]
        changed = np.abs(colour - before) > 1e-4
        slope = (seen - looked) / np.where(changed, colour - before, 1.0)
        usable = changed & (slope > 0.02)
        found = np.where(usable, colour + (wanted - seen) / np.where(usable, slope, 1.0), found)
    return np.asarray(np.clip(found, 1e-4, 1.0))


def _why(best: Match, wanted: Array) -> str:
    if best.off <= GOOD:
        return ""
    own = np.array(linear_colour(_colour_of(best.material)))
    if own.max() > 0.99:
        return "It would have to return more light than it gets: light it more, or aim at a darker colour."
    floor = deepest_colour(best.material)
    if own.min() < (linear_colour(floor)[0] if floor else 0.001):
        return "What it mirrors is lighter than that already: make it less glossy, or light it less."
    return "Its own light and shade differ more than that: look at it from where it is lit evenly."


def _colour_of(material: Material) -> str:
    return material.tint if isinstance(material, Metal) else material.colour


def _coloured(material: Material, colour: Array) -> Opaque | Metal | Cloudy:
    assert not isinstance(material, Clear)
    return material.model_copy(update={"tint" if isinstance(material, Metal) else "colour": _code(colour)})


def _code(linear: Array) -> str:
    codes = np.round(255 * encode_srgb(np.clip(linear, 0, 1).astype(np.float32))).astype(int)
    return "#" + "".join(f"{code:02x}" for code in codes)


def _made_of(scene: Scene, part: str, material: Material, files: Mapping[str, bytes]) -> Scene:
    """A scene in which a part is of a material; what is printed stays as it is."""

    def made(one: Surface) -> Surface:
        stance = one.optics.detail.stance if one.optics.detail else UPRIGHT
        optics = material_optics(material, front=one.optics.front, stance=stance)
        return replace(one, optics=pictured(optics, files))

    def dressed(instance: Instance) -> Instance:
        its = tuple(
            made(one) if one.part == part and one.optics.texels is None else one for one in instance.surfaces
        )
        return replace(instance, surfaces=its)

    return replace(scene, instances=tuple(map(dressed, scene.instances)))


def _look(job: PictureJob, renderer: Renderer, part: str) -> Array:
    """Linear light of what is seen of a part, graded: (3,)."""
    film, size = Film(job.width, job.height), (job.width, job.height)
    camera = fitted_camera(job.frame.shot, renderer.extent, job.width / job.height)
    film.add(renderer.expose(camera, size, samples=SAMPLES, seed=7))
    try:
        mine = film.share_of(part) >= WHOLE
    except KeyError:
        raise PackError(f"There is no “{part}” in this picture: choose a part that is.", part) from None
    if mine.sum() < LEAST_PX:
        raise PackError(f"Too little is seen of “{part}” to tell how it looks: turn it to the camera.", part)
    _, picture = develop(film, job, fast=True)
    middle = np.median(picture[mine], axis=0)
    code = "#" + "".join(f"{round(255 * float(v)):02x}" for v in middle)
    return np.array(linear_colour(code))
