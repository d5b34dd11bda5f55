"""The surround of a set as light meets it: even, or a picture of everything around."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from threading import Lock

import numpy as np
from cachetools import LRUCache, cached
from numpy.typing import NDArray

from giftwrap.core.around import directions
from giftwrap.core.errors import PackError
from giftwrap.core.grade.display import LUMINANCE, linear_colour
from giftwrap.core.model import (
    EvenSurround,
    PhotoSet,
    PicturedSurround,
    SkySurround,
    StudioCard,
    StudioSurround,
    Sun,
    Surround,
    SurroundBehind,
    SweepBehind,
)
from giftwrap.core.scene.panorama import KEPT_BYTES, changed, kept_panorama
from giftwrap.core.stage.sky import SUN_DEGREES, sky_picture, sun_at, sun_colour
from giftwrap.core.stage.temperature import light_colour

Floats = NDArray[np.float32]
Colour = tuple[float, float, float]
FINEST, QUICKEST = 2048, 512
"""Rows of a picture of everything around, in finals and in proofs."""
MOST_STUDIO_ROWS = 512
"""Of one of light cards, which is half as fine."""
SUN = "sun in the sky"
TURNED = 0.9
"""Cosine at which a sheet faces a low sun."""


@dataclass(frozen=True, eq=False)
class Surrounding:
    """What comes from everywhere around.

    colour : linear Rec.709: radiance where it is even, else what the picture is multiplied by
    picture : (rows, 2 rows, 3) linear light, see `panorama`; the same array stays the same picture
    turn : degrees to the right as seen from above
    """

    colour: Colour = (0.0, 0.0, 0.0)
    picture: Floats | None = None
    turn: float = 0.0

    @classmethod
    def even(cls, radiance: float) -> Surrounding:
        """Neutral and the same everywhere."""
        return cls((radiance, radiance, radiance))


def surrounding_of(
    surround: Surround,
    artwork: Mapping[str, bytes],
    *,
    camera_azimuth: float = 0.0,
    rows: int = FINEST,
    blur: float = 0.0,
) -> Surrounding:
    """A surround as light meets it, without the sun of a sky, which is a lamp.

    artwork : file contents by SHA-256
    camera_azimuth : degrees, for what is held to the camera
    rows : of its picture at most
    blur : degrees besides its own

    Raises PackError when its picture is missing.
    """
    colour = np.array(linear_colour(surround.tint)) * surround.strength
    if isinstance(surround, EvenSurround):
        return Surrounding(_colour(colour))
    turn = _turned(surround, camera_azimuth)
    source = surround.model_dump_json(exclude={"strength", "tint", "turn", "held"})
    picture = _drawn(source, surround, artwork, rows, round(math.hypot(surround.blur, blur), 3))
    if isinstance(surround, SkySurround):
        azimuth, _ = sun_of(surround)
        turn += azimuth
        colour = colour * _sky_scale(surround)
    return Surrounding(_colour(colour), picture, turn)


def seen_behind(
    photo_set: PhotoSet,
    artwork: Mapping[str, bytes],
    around: Surrounding,
    *,
    camera_azimuth: float,
    rows: int,
) -> Surrounding | None:
    """What the camera sees of a surround where there is nothing; None where it sees something else."""
    behind = photo_set.behind
    if isinstance(behind, SweepBehind):
        return around
    if not isinstance(behind, SurroundBehind):
        return None
    shown = behind.other or photo_set.surround
    return surrounding_of(shown, artwork, camera_azimuth=camera_azimuth, rows=rows, blur=behind.blur)


@cached(
    LRUCache(KEPT_BYTES, getsizeof=lambda light: light.nbytes),
    key=lambda source, surround, artwork, rows, blur: (source, rows, blur),
    lock=Lock(),
)
def _drawn(source: str, surround: Surround, artwork: Mapping[str, bytes], rows: int, blur: float) -> Floats:
    assert not isinstance(surround, EvenSurround)
    if isinstance(surround, PicturedSurround):
        if surround.picture not in artwork:
            raise PackError(
                f"The picture of the surround “{surround.name}” is gone: choose another surround.",
                "photo_set.surround",
            )
        light = kept_panorama(surround.picture, artwork[surround.picture], rows)
    elif isinstance(surround, StudioSurround):
        light = studio_picture(surround, min(rows // 2, MOST_STUDIO_ROWS))
    else:
        _, elevation = sun_of(surround)
        light = sky_picture(elevation, surround.haze, linear_colour(surround.ground))[0]
    return changed(light, saturation=surround.saturation, contrast=surround.contrast, blur=blur)


def _turned(surround: StudioSurround | PicturedSurround | SkySurround, camera_azimuth: float) -> float:
    """Degrees to the right, with what it is held to."""
    return surround.turn - (camera_azimuth if surround.held == "camera" else 0.0)


def sun_of(sky: SkySurround) -> tuple[float, float]:
    """Azimuth from what is behind the set to the right, and elevation of a sky's sun, degrees."""
    return sun_at(sky.latitude, sky.longitude, sky.day, sky.hour, sky.zone)


def _sky_scale(sky: SkySurround) -> float:
    """What klx are multiplied by for a white sheet to be paper white that lies beneath or, where the sun
    stands low, is turned towards it."""
    _, elevation = sun_of(sky)
    _, falls = sky_picture(elevation, sky.haze, linear_colour(sky.ground))
    if sky.sun:
        bright = float(sun_colour(elevation, sky.haze) @ LUMINANCE)
        falls += bright * max(math.sin(math.radians(elevation)), TURNED)
    return math.pi / falls


def sun_in(surround: Surround, *, camera_azimuth: float = 0.0) -> tuple[Sun, Colour] | None:
    """The sun of a sky as a light of the set, and its colour of luminance 1; None where there is none."""
    if not isinstance(surround, SkySurround) or not surround.sun:
        return None
    azimuth, elevation = sun_of(surround)
    colour = sun_colour(elevation, surround.haze) * np.array(linear_colour(surround.tint))
    bright = float(colour @ LUMINANCE)
    if bright <= 0 or surround.strength <= 0:
        return None
    turn = _turned(surround, camera_azimuth)
    light = Sun(
        name=SUN,
        azimuth=(180 - azimuth - turn + 180) % 360 - 180,
        elevation=elevation,
        diameter=max(SUN_DEGREES, min(2 * surround.blur, 60)),
        irradiance=min(bright * _sky_scale(surround) * surround.strength, 1000),
    )
    return light, _colour(colour / bright)


def studio_picture(studio: StudioSurround, rows: int = MOST_STUDIO_ROWS) -> Floats:
    """(rows, 2 rows, 3) light cards about the set; where two overlap, the later one is before the other."""
    ways = np.stack(directions(rows), axis=-1).astype(np.float32)
    picture = np.full_like(ways, studio.base)
    for card in studio.cards:
        shown = _shown(card, ways)[..., None]
        colour = np.array(light_colour(card.temperature_k, None), np.float32)
        picture = picture * (1 - shown) + shown * (np.float32(card.radiance) * colour)
    picture.setflags(write=False)
    return picture


def _shown(card: StudioCard, ways: Floats) -> Floats:
    """(rows, 2 rows) how much of a card is in each direction."""
    turn, rise = math.radians(card.azimuth), math.radians(card.elevation)
    out = np.array([math.cos(rise) * math.sin(turn), -math.cos(rise) * math.cos(turn), math.sin(rise)])
    across = np.array([math.cos(turn), math.sin(turn), 0.0])
    up = np.cross(across, out)
    up = up if up[2] >= 0 else -up
    ahead = ways @ out.astype(np.float32)
    texel = math.pi / len(ways)
    shown = (ahead > 0).astype(np.float32)
    for axis, degrees in ((across, card.width), (up, card.height)):
        half = math.radians(degrees) / 2
        off = np.abs(np.arctan2(ways @ axis.astype(np.float32), np.maximum(ahead, 1e-6)))
        fades = max(card.soft * half, texel)
        along = np.clip((half + texel / 2 - off) / fades, 0, 1)
        shown *= along * along * (3 - 2 * along)
    return shown


def _colour(values: NDArray[np.floating]) -> Colour:
    return (float(values[0]), float(values[1]), float(values[2]))
