"""Props: what stands on a set and is no pack."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from giftwrap.core.model.document import Document, NonNegativeMillimetres
from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.received import Received

PropName = Literal[
    "block",
    "slab",
    "cylinder",
    "half-cylinder",
    "steps",
    "arch",
    "frame",
    "ring",
    "wedge",
    "sphere",
    "dome",
    "cone",
    "bowl",
    "dish",
    "board",
    "pebble",
    "stone",
    "rock",
    "slate",
    "crystal",
    "sand",
    "log",
    "log-slice",
    "twig",
    "leafy-twig",
    "laurel-leaf",
    "willow-leaf",
    "round-leaf",
    "oak-leaf",
    "petal",
    "blossom",
    "apple",
    "pear",
    "plum",
    "quince",
    "orange",
    "lemon",
    "berry",
    "hazelnut",
    "cinnamon",
    "cloth",
    "drop",
    "bead",
    "ice-cube",
    "crushed-ice",
]
Size = Annotated[float, Field(ge=0.5, le=5000, allow_inf_nan=False)]
"""Mm."""
MOST_PROPS = 120
"""Of a set, each counted once however often it stands there."""


class MadeProp(Document):
    """Something that is made to measure: mm across, deep and high as it stands.

    seed : which one of its kind it is, where no two are alike
    edge : radius of its edges, mm, where it has any
    steps : of stairs
    second : what its stalk, its middle or its bark is made of
    """

    kind: Literal["made"] = "made"
    what: PropName
    width: Size
    depth: Size
    height: Size
    seed: Annotated[int, Field(ge=0, lt=10_000)] = 0
    edge: NonNegativeMillimetres = 1.0
    steps: Annotated[int, Field(ge=2, le=12)] = 3
    made_of: Annotated[Clear | Cloudy | Opaque | Metal, Field(discriminator="kind")] = Opaque()
    second: Annotated[Clear | Cloudy | Opaque | Metal, Field(discriminator="kind")] | None = None


class ReceivedProp(Document):
    """A model that was sent."""

    kind: Literal["received"] = "received"
    received: Received


Prop = Annotated[MadeProp | ReceivedProp, Field(discriminator="kind")]
"""What a prop can be, told apart by `kind`."""
