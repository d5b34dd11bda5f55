"""What shuts a pack. Each kind sizes itself to the finish or rim; its parts are named here."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from giftwrap.core.model.document import (
    Degrees,
    Document,
    Fraction,
    NonNegativeMillimetres,
    PositiveMillimetres,
)
from giftwrap.core.model.material import Clear, Cloudy, Linked, Metal, Opaque

Dull = Opaque | Metal | Cloudy | Linked
ClosureKind = Literal["cap", "overcap", "dropper", "pump", "stopper", "flip_top", "tin_lid"]
BLACK = Opaque(colour="#23262b", gloss=0.45)
RibCount = Annotated[int, Field(ge=0, le=200, description="0 for a smooth side")]


class _Closure(Document):
    """What all closures share: how far off they are.

    lift : mm above its seat
    tilt : degrees it leans to the right; only once it is clear of the pack
    beside : laid on the table to the right of the pack
    """

    lift: NonNegativeMillimetres = 0.0
    tilt: Degrees = 0.0
    beside: bool = False


class Cap(_Closure):
    """A screw cap or lid; `height` is its whole height. Jar lids are low caps."""

    kind: Literal["cap"] = "cap"
    height: PositiveMillimetres = 18.0
    wall_thickness: PositiveMillimetres = 1.6
    clearance: PositiveMillimetres = 0.4
    rounding: NonNegativeMillimetres = 1.2
    ribs: RibCount = 0
    material: Dull = BLACK


class Overcap(_Closure):
    """A smooth cover that goes over a whole neck and stands on the shoulder.

    `diameter` and `height` are outside; 0 lets it follow the shoulder and the neck.
    """

    kind: Literal["overcap"] = "overcap"
    height: NonNegativeMillimetres = 0.0
    diameter: NonNegativeMillimetres = 0.0
    wall_thickness: PositiveMillimetres = 1.5
    rounding: NonNegativeMillimetres = 2.0
    material: Dull = BLACK


class Dropper(_Closure):
    """A collar with a rubber bulb and a glass pipette that hangs into the contents.

    `to_floor` is the gap left between the pipette's tip and the inside floor.
    """

    kind: Literal["dropper"] = "dropper"
    collar_height: PositiveMillimetres = 16.0
    ribs: RibCount = 48
    bulb_height: PositiveMillimetres = 30.0
    bulb_diameter: PositiveMillimetres = 13.0
    pipette_diameter: PositiveMillimetres = 7.0
    to_floor: PositiveMillimetres = 6.0
    material: Dull = BLACK
    bulb: Dull = Opaque(colour="#2d2c2b", gloss=0.2)
    pipette: Clear | Linked = Clear(colour="#f4faf7", depth=20)


class Pump(_Closure):
    """A collar, a stem, an actuator with a spout, and a dip tube that reaches the heel.

    `pressed` runs from up (0) to down (1).
    """

    kind: Literal["pump"] = "pump"
    collar_height: PositiveMillimetres = 18.0
    ribs: RibCount = 0
    travel: PositiveMillimetres = 12.0
    pressed: Fraction = 0.0
    actuator_diameter: PositiveMillimetres = 20.0
    actuator_height: PositiveMillimetres = 14.0
    spout: NonNegativeMillimetres = 26.0
    tube_diameter: PositiveMillimetres = 5.0
    to_floor: PositiveMillimetres = 2.0
    material: Dull = Opaque(colour="#f3f1ec", gloss=0.5)
    actuator: Dull = Opaque(colour="#f3f1ec", gloss=0.5)
    tube: Clear | Opaque | Linked = Clear(refractive_index=1.5, colour="#eef1ef", depth=4, frost=0.15)


class Stopper(_Closure):
    """A plug in the bore under a head: cork, rubber or glass."""

    kind: Literal["stopper"] = "stopper"
    depth: PositiveMillimetres = 18.0
    head_height: PositiveMillimetres = 12.0
    head_overhang: NonNegativeMillimetres = 2.0
    rounding: NonNegativeMillimetres = 1.0
    material: Dull = Opaque(colour="#b98d5e", gloss=0.05)
    head: Dull = Opaque(colour="#5b4632", gloss=0.15)


class FlipTop(_Closure):
    """A cap whose upper part turns back on a hinge; `open_angle` from shut (0°) to right back."""

    kind: Literal["flip_top"] = "flip_top"
    height: PositiveMillimetres = 26.0
    lid_height: PositiveMillimetres = 9.0
    wall_thickness: PositiveMillimetres = 1.6
    rounding: NonNegativeMillimetres = 2.0
    open_angle: Annotated[float, Field(ge=0, le=150, allow_inf_nan=False)] = 0.0
    material: Dull = Opaque(colour="#f3f1ec", gloss=0.5)


class TinLid(_Closure):
    """The slip lid of a two-piece tin: it goes over the body, its lower edge is rolled."""

    kind: Literal["tin_lid"] = "tin_lid"
    height: PositiveMillimetres = 14.0
    wall_thickness: Annotated[float, Field(ge=0.1, le=3, allow_inf_nan=False)] = 0.3
    roll: Annotated[float, Field(ge=0.2, le=5, allow_inf_nan=False)] = 0.8
    rounding: NonNegativeMillimetres = 1.5
    material: Dull = Metal(metal="aluminium", gloss=0.55)


Closure = Annotated[Cap | Overcap | Dropper | Pump | Stopper | FlipTop | TinLid, Field(discriminator="kind")]
