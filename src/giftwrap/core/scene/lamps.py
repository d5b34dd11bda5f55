"""Lights of a set as the lamps and cards of its scene."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from threading import Lock

from cachetools import LRUCache, cached
from PIL import Image

from giftwrap.core.errors import PackError
from giftwrap.core.materials.optics import surface_optics
from giftwrap.core.mesh.mesh import quad
from giftwrap.core.model import (
    Ball,
    Card,
    Chosen,
    Light,
    Opaque,
    PhotoSet,
    Softbox,
    Spot,
    Sun,
)
from giftwrap.core.model.light import MOST_LIGHTS
from giftwrap.core.reading.artwork import rasterise, read_artwork
from giftwrap.core.scene.faces import LONGEST, face_of
from giftwrap.core.scene.lamp import EVERYWHERE, Lamp
from giftwrap.core.scene.scene import RESERVED_BUFFERS, Instance, Surface, all_told_apart
from giftwrap.core.scene.surrounding import sun_in
from giftwrap.core.stage.lights import Vector, beam_of, hung, power_of, radiance_of
from giftwrap.core.stage.temperature import light_colour
from giftwrap.core.things.thing import Extent

CARD = "card"
"""What all cards are made of."""


def lamps_of(
    photo_set: PhotoSet, extent: Extent, artwork: Mapping[str, bytes], *, camera_azimuth: float = 0.0
) -> tuple[tuple[Lamp, ...], dict[str, Light]]:
    """The lights of a set that burn and the sun of its sky, and by their names what they are.

    camera_azimuth : degrees, for a sky that is held to the camera

    Raises PackError when the picture of one is missing or the sun is one too many, ArtworkError when a
    picture cannot be read.
    """
    burning = [light for light in photo_set.lights if light.on and power_of(light) > 0]
    sun = sun_in(photo_set.surround, camera_azimuth=camera_azimuth)
    if sun is not None:
        burning.append(sun[0])
    if len(burning) > MOST_LIGHTS:
        raise PackError(
            f"With the sun in the sky {len(burning)} lights burn, one more than can be: switch one off, or "
            "hide the sun.",
            "photo_set.surround.sun",
        )
    names = all_told_apart([light.name for light in burning], RESERVED_BUFFERS)
    lamps = [_lamp(name, light, extent.middle, artwork) for name, light in zip(names, burning, strict=True)]
    if sun is not None:
        red, green, blue = (radiance_of(sun[0]) * channel for channel in sun[1])
        lamps[-1] = replace(lamps[-1], radiance=(red, green, blue))
    return tuple(lamps), dict(zip(names, burning, strict=True))


def cards_of(photo_set: PhotoSet, extent: Extent, taken: Sequence[str]) -> tuple[Instance, ...]:
    """The cards of a set that are in use, none called like what is there already."""
    cards = [light for light in photo_set.lights if isinstance(light, Card) and light.on]
    names = all_told_apart([card.name for card in cards], taken)
    return tuple(_card(name, card, extent.middle) for name, card in zip(names, cards, strict=True))


def shielded(surface: Surface, standing: str | None, burning: Mapping[str, Light]) -> Surface:
    """A surface with the names of the lamps that do not light it, and of those that it does not mirror.

    standing : what it is of; None for the sweep and for cards
    """

    def left_out(which: str) -> frozenset[str]:
        return frozenset(
            name
            for name, light in burning.items()
            if any(_is_of(surface, standing, chosen) for chosen in getattr(light, which))
        )

    untouched, unreflecting = left_out("untouched"), left_out("unreflected")
    if not untouched and not unreflecting:
        return surface
    return replace(surface, untouched_by=untouched, unreflecting=unreflecting)


def _is_of(surface: Surface, standing: str | None, chosen: Chosen) -> bool:
    its_own = chosen.standing is None or chosen.standing == standing
    return its_own and (chosen.part is None or chosen.part in (surface.group, surface.part))


def _lamp(name: str, light: Light, middle: Vector, artwork: Mapping[str, bytes]) -> Lamp:
    own = hung(light, middle)
    red, green, blue = light_colour(light.temperature_k, light.gel)  # type: ignore[union-attr]
    bright = radiance_of(light)
    kinds = {Spot: "disc", Sun: "disc", Ball: "ball"}
    return Lamp(
        name,
        own.centre,
        own.across,
        own.up,
        (bright * red, bright * green, bright * blue),
        shape=kinds.get(type(light), "rectangle"),  # type: ignore[arg-type]
        beam=beam_of(light) if isinstance(light, Spot) else EVERYWHERE,
        face=face_of(light, _picture_of(light, artwork)),
        hidden_from_camera=light.hidden_from_camera,
    )


def _picture_of(light: Light, artwork: Mapping[str, bytes]) -> Image.Image | None:
    """What is shown on a light's face."""
    if not isinstance(light, Softbox) or light.picture is None:
        return None
    if light.picture not in artwork:
        raise PackError(
            f"The picture on the light “{light.name}” is gone: choose another, or none.", "photo_set.lights"
        )
    return _drawn(light.picture, artwork[light.picture])


@cached(LRUCache(maxsize=MOST_LIGHTS), key=lambda name, data: name, lock=Lock())
def _drawn(name: str, data: bytes) -> Image.Image:
    """A picture as finely as a face shows it; drawn once, as lights are moved under the hand."""
    facts = read_artwork(data, "the picture on a light", known=True)
    scale = 2 * LONGEST / max(facts.aspect, 1)
    return rasterise(data, facts.kind, max(round(scale * facts.aspect), 1), max(round(scale), 1))


def _card(name: str, card: Card, middle: Vector) -> Instance:
    own = hung(card, middle)
    mesh = quad(own.centre, own.across, own.up)
    matt = surface_optics(Opaque(colour=card.colour, gloss=0.0))
    surface = Surface(name, matt, material=CARD, group=CARD, hidden_from_camera=card.hidden_from_camera)
    return Instance(name, (mesh,), (surface,))
