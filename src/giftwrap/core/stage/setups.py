"""Set-ups: lights that belong together, hung around what stands, each for a purpose."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from giftwrap.core.model import (
    Card,
    Chosen,
    EvenSurround,
    Falloff,
    Frame,
    Light,
    LightTable,
    PhotoSet,
    Point,
    Softbox,
    Spot,
    Sun,
    WindowLight,
)
from giftwrap.core.model.arrangement import HangLights, SetUp, SetUpName
from giftwrap.core.stage.fitting import reach_of, scaled_light
from giftwrap.core.stage.standing import extent_of, line_up
from giftwrap.core.stage.starting import ARRANGED_FOR, starting_set
from giftwrap.core.things.thing import Thing

SWEEP = Chosen(part="sweep")
BLACK = "#030303"


@dataclass(frozen=True)
class Lighting:
    """Lights for something whose diagonal is `ARRANGED_FOR`.

    words : what it is good for; surround : strength; background : colour of the sweep, None for any
    """

    title: str
    words: str
    lights: tuple[Light, ...]
    surround: float = 0.08
    background: str | None = None

    @property
    def neutral(self) -> bool:
        """Whether its light has no colour of its own."""
        return is_neutral(self.lights)


def _box(
    name: str, size: tuple[float, float], at: tuple[float, float, float], watts: float, **more: Any
) -> Softbox:
    azimuth, elevation, distance = at
    """A softbox that stays out of the picture wherever the camera stands."""
    own = {"azimuth": azimuth, "elevation": elevation, "distance": distance, "power_w": watts}
    return Softbox(name=name, width=size[0], height=size[1], hidden_from_camera=True, **own, **more)


def _fade(towards: Literal["start", "end"]) -> Falloff:
    return Falloff(towards=towards, by=0.85, curve=1.4)


def _flag(name: str, azimuth: float, size: tuple[float, float], distance: float) -> Card:
    return Card(
        name=name,
        width=size[0],
        height=size[1],
        azimuth=azimuth,
        elevation=6,
        distance=distance,
        colour=BLACK,
        hidden_from_camera=True,
    )


def _backdrop(watts: float) -> Softbox:
    """A light for the wall of the sweep alone."""
    return _box("Backdrop", (900, 260), (0, 50, 420), watts, aim=Point(y=560, z=260))


SETUPS: dict[SetUpName, Lighting] = {
    "soft-three": Lighting(
        "Soft three lights",
        "One large key with one shadow, an edge on either side, a glow from above. For nearly everything.",
        tuple(starting_set().lights),
    ),
    "window": Lighting(
        "Window",
        "Light through panes from one side, a white card on the other. For still lifes.",
        (
            WindowLight(
                name="Window",
                width=460,
                height=640,
                azimuth=-72,
                elevation=28,
                distance=640,
                power_w=8.0,
                columns=2,
                rows=3,
                bar=26,
            ),
            Card(name="White card", width=320, height=420, azimuth=78, elevation=12, distance=260),
        ),
        surround=0.12,
    ),
    "edge-pair": Lighting(
        "Edge pair",
        "Two tall strips from behind draw both outlines; a weak front keeps the label legible.",
        (
            _box("Left edge", (80, 420), (-128, 16, 380), 2.0, untouched=[SWEEP]),
            _box("Right edge", (80, 420), (128, 16, 380), 2.0, untouched=[SWEEP]),
            _box("Front", (320, 320), (-18, 35, 700), 5.0),
        ),
        surround=0.05,
        background="#5b5854",
    ),
    "light-table": Lighting(
        "Light table",
        "Lit from beneath and above: hardly a shadow, a clean white floor. For glass and cut-outs.",
        (
            LightTable(name="Light table", width=1600, height=1200, power_w=6.3),
            _box("Key", (300, 420), (-50, 40, 640), 2.4),
            _backdrop(2.6),
        ),
        surround=0.35,
        background="#f4f4f2",
    ),
    "hard-sun": Lighting(
        "Single hard sun",
        "One low sun, one sharp shadow, the light that glass throws. For summer.",
        (Sun(name="Sun", azimuth=-62, elevation=34, irradiance=3.2, temperature_k=5900),),
        surround=0.28,
    ),
    "top-glow": Lighting(
        "Top glow",
        "A large light right above that fades to the front; the sides fall off. For lids and jars.",
        (
            _box("Above", (640, 520), (180, 72, 480), 8.0, up=Falloff(towards="start", by=0.7, curve=1.5)),
            Card(
                name="White card",
                width=520,
                height=260,
                azimuth=0,
                elevation=-2,
                distance=330,
                hidden_from_camera=True,
            ),
        ),
        surround=0.14,
    ),
    "cosmetic-wrap": Lighting(
        "Cosmetic wrap",
        "Two faded panels wrap around the front and meet in a soft dark line. For creams and metal.",
        (
            _box("Left panel", (360, 480), (-70, 20, 420), 3.6, across=_fade("end")),
            _box("Right panel", (360, 480), (70, 20, 420), 2.6, across=_fade("start")),
            _box("Above", (520, 360), (180, 74, 520), 1.6),
        ),
        surround=0.1,
    ),
    "dark-field": Lighting(
        "Dark field for glass",
        "A bright frame behind a black card: outlines of glass glow on black.",
        (
            _box("Behind", (620, 460), (180, 20, 420), 9.0, untouched=[SWEEP]),
            _flag("Black card", 180, (300, 620), 300),
            _box("Label", (220, 260), (-30, 48, 620), 4.0, untouched=[SWEEP]),
        ),
        surround=0.01,
        background="#0b0b0c",
    ),
    "bright-field": Lighting(
        "Bright field for glass",
        "A white field behind, black cards at the sides: outlines of glass are drawn dark.",
        (
            _backdrop(3.4),
            _box("Above", (520, 420), (0, 70, 600), 4.0),
            _flag("Left flag", -96, (140, 520), 160),
            _flag("Right flag", 96, (140, 520), 160),
        ),
        surround=0.3,
        background="#f2f1ee",
    ),
    "bold-shadow": Lighting(
        "One bold shadow",
        "A small spot from the side and little else: a long shadow is half of the picture.",
        (
            Spot(
                name="Spot",
                diameter=50,
                azimuth=-70,
                elevation=30,
                distance=1000,
                power_w=2.4,
                beam=62,
                rim=0.5,
            ),
        ),
        surround=0.16,
    ),
    "warm-evening": Lighting(
        "Warm evening",
        "A low warm key and a blue answer from behind. For mood; colours shift.",
        (
            _box("Low key", (260, 300), (-66, 20, 560), 4.2, temperature_k=4000),
            _box("Blue edge", (90, 420), (122, 16, 420), 1.8, temperature_k=11_000, untouched=[SWEEP]),
        ),
        surround=0.08,
    ),
}


def is_neutral(lights: Iterable[Light]) -> bool:
    """Whether light has no colour of its own."""
    return all(
        isinstance(light, Card) or (light.temperature_k is None and light.gel is None) for light in lights
    )


def with_lights(frame: Frame, how: HangLights, things: Mapping[str, Thing]) -> PhotoSet:
    """A set with other lights, that were kept, as large as what stands there asks for."""
    reach = frame.photo_set.scaled_for or reach_of(extent_of(line_up(frame, things)))
    lights = [scaled_light(light, reach / how.made_for) for light in how.lights]
    return frame.photo_set.model_copy(update={"lights": lights, "surround": how.surround})


def with_setup(frame: Frame, how: SetUp, things: Mapping[str, Thing]) -> PhotoSet:
    """A set with other lights around what stands there. Where lights follow what stands they go on so."""
    chosen, photo_set = SETUPS[how.what], frame.photo_set
    reach = photo_set.scaled_for or reach_of(extent_of(line_up(frame, things)))
    changes: dict[str, object] = {
        "lights": [scaled_light(light, reach / ARRANGED_FOR) for light in chosen.lights],
        "surround": EvenSurround(strength=chosen.surround),
    }
    if chosen.background is not None:
        changes["background"] = chosen.background
    return photo_set.model_copy(update=changes)
