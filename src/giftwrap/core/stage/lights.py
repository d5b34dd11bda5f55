"""Where lights hang, and how bright they are."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from giftwrap.core.mesh.path import Array
from giftwrap.core.model import Ball, Card, Light, LightTable, Softbox, Spot, Sun, WindowLight
from giftwrap.core.stage.sweep import FLOOR_GAP

Vector = tuple[float, float, float]
FAR_AWAY = 1e7
"""How far the sun is taken to be, mm: over a metre of the set it turns by 0.006°."""


@dataclass(frozen=True)
class Hung:
    """Where a light is: mm from its middle to that of its right and of its upper edge, as seen from what it
    lights, and what it is aimed at."""

    centre: Vector
    across: Vector
    up: Vector
    target: Vector


def hung(light: Light, middle: Vector) -> Hung:
    """Where a light is on a set with something in its middle, mm."""
    if isinstance(light, LightTable):
        at = middle if light.at is None else (light.at.x, light.at.y, light.at.z)
        centre = (at[0], at[1], -FLOOR_GAP / 2)
        turn = math.radians(light.turn)
        across, up = (np.array([math.cos(turn + q), math.sin(turn + q), 0]) for q in (0, math.pi / 2))
        half = (vector_of(across * light.width / 2), vector_of(up * light.height / 2))
        return Hung(centre, *half, (at[0], at[1], max(at[2], 1.0)))
    if isinstance(light, Sun):
        centre = _away(middle, light.azimuth, light.elevation, FAR_AWAY)
        radius = FAR_AWAY * math.tan(math.radians(light.diameter / 2))
        return _faced(centre, middle, 0.0, (radius, radius))
    target = middle if light.aim is None else (light.aim.x, light.aim.y, light.aim.z)
    centre = _away(target, light.azimuth, light.elevation, light.distance)
    wide, high = sides_of(light)
    return _faced(centre, target, light.roll, (wide / 2, high / 2))


def sides_of(light: Softbox | WindowLight | LightTable | Spot | Ball | Card) -> tuple[float, float]:
    """Width and height of a light, mm."""
    if isinstance(light, (Spot, Ball)):
        return light.diameter, light.diameter
    return light.width, light.height


def axes_towards(position: Vector, target: Vector, roll: float = 0.0) -> tuple[Array, Array]:
    """Unit vectors to the right and up of what faces a target, as seen from there, turned by degrees to the
    right."""
    normal = np.subtract(target, position)
    normal = normal / np.linalg.norm(normal)
    across = np.cross([0.0, 0.0, 1.0], normal)
    across = np.array([1.0, 0.0, 0.0]) if np.linalg.norm(across) < 1e-6 else across
    across = across / np.linalg.norm(across)
    up, turn = np.cross(normal, across), math.radians(roll)
    return across * math.cos(turn) - up * math.sin(turn), up * math.cos(turn) + across * math.sin(turn)


def vector_of(values: Array) -> Vector:
    """Three numbers of an array."""
    return (float(values[0]), float(values[1]), float(values[2]))


def power_of(light: Light) -> float:
    """W that a lamp gives, or for the sun W on each m² of what faces it; 0 for cards."""
    if isinstance(light, Card):
        return 0.0
    return light.irradiance if isinstance(light, Sun) else light.power_w


def radiance_of(light: Light) -> float:
    """Radiance of the brightest place of a lamp straight ahead, W/(m² sr).

    A panel is Lambertian, L = Φ / (π A); a ball gives that from all of its surface; a spot's is what is left
    of its power within its beam; the sun's is E over its projected solid angle, π sin² of half its diameter.
    """
    if isinstance(light, Card):
        return 0.0
    if isinstance(light, Sun):
        return light.irradiance / (math.pi * math.sin(math.radians(light.diameter / 2)) ** 2)
    if isinstance(light, Ball):
        return light.power_w / (math.pi**2 * light.diameter**2 / 1e6)
    if isinstance(light, Spot):
        return light.power_w / (math.pi / 4 * light.diameter**2 / 1e6 * _beam_angle(light))
    return light.power_w / (math.pi * light.width * light.height / 1e6)


def beam_of(light: Spot) -> tuple[float, float]:
    """Cosines of the angles from a spot's axis to where its beam begins to fade, and where it ends."""
    half = math.radians(light.beam / 2)
    full, none = math.cos(half * (1 - light.rim)), math.cos(half)
    return max(full, none + 1e-5), none


def _beam_angle(light: Spot) -> float:
    """Projected solid angle of a beam, sr, each direction counting for what it gets."""
    full, none = beam_of(light)
    cosine = none + (1 - none) * (np.arange(4000) + 0.5) / 4000
    return float(2 * math.pi * (in_beam(cosine, (full, none)) * cosine).mean() * (1 - none))


def in_beam(cosine: Array, beam: tuple[float, float]) -> Array:
    """Share of its radiance that a lamp has towards angles from its axis, by their cosines."""
    along = np.clip((cosine - beam[1]) / (beam[0] - beam[1]), 0, 1)
    shares: Array = along * along * (3 - 2 * along)
    return shares


def _faced(centre: Vector, target: Vector, roll: float, half: tuple[float, float]) -> Hung:
    across, up = axes_towards(centre, target, roll)
    return Hung(centre, vector_of(across * half[0]), vector_of(up * half[1]), target)


def _away(aim: Vector, azimuth: float, elevation: float, distance: float) -> Vector:
    """A place at a distance from another."""
    turn, rise = math.radians(azimuth), math.radians(elevation)
    out = distance * math.cos(rise)
    return (
        aim[0] + out * math.sin(turn),
        aim[1] - out * math.cos(turn),
        aim[2] + distance * math.sin(rise),
    )
