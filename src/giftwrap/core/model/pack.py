"""The pack: what it is formed as, and the panels on it."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from giftwrap.core.errors import PackError
from giftwrap.core.model.carton import Carton
from giftwrap.core.model.document import Degrees, Document, Millimetres, Name, Upgrade, Versioned
from giftwrap.core.model.material import Clear, Cloudy, Linked, Metal, Opaque
from giftwrap.core.model.panel import ArtworkUse, Panel, pictures_in
from giftwrap.core.model.received import Received
from giftwrap.core.model.vessel import Vessel

Form = Annotated[Vessel | Carton | Received, Field(discriminator="kind")]
"""What a pack can be formed as, told apart by `kind`."""


class PartState(Document):
    """What a person has decided about one part."""

    title: Annotated[str, Field(max_length=60)] = ""
    hidden: bool = False
    locked: bool = False
    group: Annotated[str, Field(max_length=60)] = ""


class Copy(Document):
    """Another of a part, standing or lying free beside the pack."""

    of: Name
    x: Millimetres = 0.0
    y: Millimetres = 0.0
    z: Millimetres = 0.0
    turn: Degrees = 0.0
    tilt: Degrees = 0.0
    title: Annotated[str, Field(max_length=60)] = ""
    material: Clear | Cloudy | Opaque | Metal | Linked | None = None


class Addition(Document):
    """A received model that was added to a pack: its middle from the pack's, to the right and back, mm above
    the table, and its turn to the right."""

    received: Received
    x: Millimetres = 0.0
    y: Millimetres = 0.0
    z: Millimetres = 0.0
    turn: Degrees = 0.0


def _with_kinds_of_closure(data: dict[str, Any]) -> dict[str, Any]:
    """Version 1 knew one closure, the cap, and did not say its kind."""
    closure = data.get("closure")
    if isinstance(closure, dict):
        closure = {"kind": "cap", **closure}
    return {**data, "schema_version": 2, "closure": closure}


def _with_a_form(data: dict[str, Any]) -> dict[str, Any]:
    """Version 2 knew vessels alone and kept what they are made of beside the panels."""
    own = set(Vessel.model_fields) - {"kind"}
    form = {"kind": "vessel", **{name: value for name, value in data.items() if name in own}}
    rest = {name: value for name, value in data.items() if name not in own}
    return {**rest, "schema_version": 3, "form": form}


class Pack(Versioned):
    """One packaged product.

    exploded : mm between parts drawn apart
    parts : what was decided about parts, by their name
    added : received models beside or on what it is formed as
    """

    upgrades: ClassVar[dict[int, Upgrade]] = {1: _with_kinds_of_closure, 2: _with_a_form}

    schema_version: Literal[3] = 3
    form: Form
    panels: Annotated[list[Panel], Field(max_length=8)] = []
    exploded: Annotated[float, Field(ge=0, le=500, allow_inf_nan=False)] = 0.0
    parts: Annotated[dict[Name, PartState], Field(max_length=200)] = {}
    copies: Annotated[list[Copy], Field(max_length=20)] = []
    added: Annotated[list[Addition], Field(max_length=20)] = []

    @property
    def vessel(self) -> Vessel:
        """What it is formed as, where that can only be a vessel. Raises PackError when it is not."""
        if not isinstance(self.form, Vessel):
            raise PackError("This pack is no bottle, jar, tin or tube.", "form")
        return self.form

    @property
    def carton(self) -> Carton:
        """What it is formed as, where that can only be a carton. Raises PackError when it is not."""
        if not isinstance(self.form, Carton):
            raise PackError("This pack is no carton.", "form")
        return self.form

    @property
    def received(self) -> Received:
        """What it is formed as, where that can only be a received model. Raises PackError when it is not."""
        if not isinstance(self.form, Received):
            raise PackError("This pack is no received model.", "form")
        return self.form

    def picture_uses(self) -> list[ArtworkUse]:
        """The pictures on what it is made of."""
        return list(pictures_in(self))

    def artwork_uses(self) -> list[ArtworkUse]:
        """What is printed or embossed on it, and the received models in it."""
        uses = [use for i, panel in enumerate(self.panels) for use in panel.artwork_uses(f"panels.{i}.")]
        for i, addition in enumerate(self.added):
            uses += addition.received.artwork_uses(f"added.{i}.received.")
        return uses + self.form.artwork_uses()
