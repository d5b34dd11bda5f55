"""The set: what stands on it, what lights it and what is behind it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from giftwrap.core.errors import PackError
from giftwrap.core.model.document import (
    Degrees,
    Document,
    HexColour,
    Key,
    Millimetres,
    Name,
    PositiveMillimetres,
    Upgrade,
    Versioned,
)
from giftwrap.core.model.light import MOST_LIGHTS, Light, Softbox
from giftwrap.core.model.material import Metal, Opaque
from giftwrap.core.model.panel import ArtworkUse, pictures_in
from giftwrap.core.model.prop import MOST_PROPS, Prop, ReceivedProp
from giftwrap.core.model.surround import (
    Behind,
    EvenSurround,
    PictureBehind,
    PicturedSurround,
    Surround,
    SurroundBehind,
    SweepBehind,
)

HERO = "hero"
"""Key of what stands for the shot's hero on a set that was made before things could be placed."""


SheetMaterial = Annotated[Opaque | Metal, Field(discriminator="kind")]


class OtherPart(Document):
    """Where something else begins on a sweep: so many mm up from the floor, or to the right of its middle."""

    way: Literal["up", "across"] = "up"
    at: Millimetres = 300.0
    made_of: SheetMaterial = Opaque(colour="#b9b5ae", gloss=0.0)


class Sweep(Document):
    """A seamless backdrop: floor, curve and wall in one sheet.

    made_of : None for paper in the set's background colour
    other : what its upper or its right part is made of, where that is not the same
    """

    width: PositiveMillimetres = 4000.0
    front: PositiveMillimetres = 1500.0
    back: PositiveMillimetres = 900.0
    height: PositiveMillimetres = 2200.0
    curve_radius: PositiveMillimetres = 500.0
    made_of: SheetMaterial | None = None
    other: OtherPart | None = None


class Pose(Document):
    """Where something stands: moved by mm, turned about the upright axis to the right, then leaning.

    lean : to the right; nod : backwards. What leans does so about its own foot.
    """

    x: Millimetres = 0.0
    y: Millimetres = 0.0
    z: Millimetres = 0.0
    turn: Degrees = 0.0
    lean: Degrees = 0.0
    nod: Degrees = 0.0


class OfPack(Document):
    """A pack of the job."""

    kind: Literal["pack"] = "pack"
    pack: Key


class OfHero(Document):
    """Whatever pack the shot is of."""

    kind: Literal["hero"] = "hero"


class OfProp(Document):
    """One of the set's props."""

    kind: Literal["prop"] = "prop"
    prop: Key


class Standing(Document):
    """Something that stands on the set.

    of : what it is
    group : it moves with, and its pose counts from
    inside : the box that it stands in, if it does: its pose counts from the middle of that one's floor
    """

    id: Key
    of: Annotated[OfPack | OfHero | OfProp, Field(discriminator="kind")]
    pose: Pose = Pose()
    group: Key | None = None
    inside: Key | None = None
    hidden: bool = False


class Group(Document):
    """Things that move as one; perhaps within another group."""

    name: Name
    pose: Pose = Pose()
    group: Key | None = None
    hidden: bool = False


class LineUp(Document):
    """A named choice of what stands."""

    name: Name
    standing: Annotated[list[Key], Field(max_length=400)]


def _with_what_stands(data: dict[str, Any]) -> dict[str, Any]:
    """Version 1 had one pack on it, the shot's, in the middle."""
    return {**data, "schema_version": 2, "standing": [{"id": HERO, "of": {"kind": "hero"}}]}


def _with_kinds_of_lights(data: dict[str, Any]) -> dict[str, Any]:
    """Version 2 had softboxes, which left kinds of parts untouched and were mirrored by all or nothing."""
    lights = data.get("lights")
    if isinstance(lights, list):
        lights = [_of_its_kind(light) if isinstance(light, dict) else light for light in lights]
    return {**data, "schema_version": 3, "lights": lights}


def _of_its_kind(light: dict[str, Any]) -> dict[str, Any]:
    new = {"kind": "softbox", **light}
    if isinstance(new.get("untouched"), list):
        new["untouched"] = [{"part": part} for part in new["untouched"]]
    if new.pop("hidden_from_reflections", False) is True:
        new["unreflected"] = [{}]
    return new


def _with_kinds_of_surrounds(data: dict[str, Any]) -> dict[str, Any]:
    """Version 3 had even, neutral light from all around, and the sweep behind everything."""
    surround = data.get("surround")
    if isinstance(surround, dict):
        surround = {"kind": "even", **surround}
        data = {**data, "surround": surround}
    return {**data, "schema_version": 4}


class PhotoSet(Versioned):
    """A photographed scene. `background` is the sweep's colour; `behind` is what is seen behind what stands.

    props : what stands there beside packs, each as often as it likes
    groups, line_ups : by their keys
    scaled_for : mm of what stood there (its diagonal) when sweep and lights were arranged: they grow and
        shrink with what stands; None once somebody has arranged them by hand
    """

    upgrades: ClassVar[dict[int, Upgrade]] = {
        1: _with_what_stands,
        2: _with_kinds_of_lights,
        3: _with_kinds_of_surrounds,
    }

    schema_version: Literal[4] = 4
    standing: Annotated[list[Standing], Field(max_length=400)] = [Standing(id=HERO, of=OfHero())]
    props: Annotated[dict[Key, Prop], Field(max_length=MOST_PROPS)] = {}
    groups: Annotated[dict[Key, Group], Field(max_length=100)] = {}
    line_ups: Annotated[dict[Key, LineUp], Field(max_length=60)] = {}
    sweep: Sweep = Sweep()
    background: HexColour = "#e9e4da"
    lights: Annotated[list[Light], Field(max_length=MOST_LIGHTS)]
    surround: Surround = EvenSurround()
    behind: Behind = SweepBehind()
    scaled_for: PositiveMillimetres | None = None

    def picture_uses(self) -> list[ArtworkUse]:
        """What is shown on the faces of lights, all around and behind what stands, on the sweep and on
        props; and the models that some of these are."""
        faces = [
            ArtworkUse(light.picture, f"lights.{i}.picture", f"the face of the light “{light.name}”")
            for i, light in enumerate(self.lights)
            if isinstance(light, Softbox) and light.picture is not None
        ]
        around = {"surround": self.surround}
        if isinstance(self.behind, SurroundBehind) and self.behind.other is not None:
            around["behind.other"] = self.behind.other
        surrounds = [
            ArtworkUse(one.picture, f"{place}.picture", f"the surround “{one.name}”")
            for place, one in around.items()
            if isinstance(one, PicturedSurround)
        ]
        behind = [self.behind.picture] if isinstance(self.behind, PictureBehind) else []
        return [
            *faces,
            *surrounds,
            *(ArtworkUse(picture, "behind.picture", "the picture behind") for picture in behind),
            *pictures_in(self.sweep, "sweep"),
            *pictures_in(self.props, "props"),
            *(
                use
                for key, prop in self.props.items()
                if isinstance(prop, ReceivedProp)
                for use in prop.received.artwork_uses(f"props.{key}.received.")
            ),
        ]

    def shows(self, standing: Standing) -> bool:
        """Whether neither something nor a group it is in is hidden."""
        return not (
            standing.hidden or any(group.hidden for group in group_chain(standing.group, self.groups))
        )

    def boxes_around(self, standing: Standing) -> list[Standing]:
        """What something stands in, from the innermost; ends where that goes round in a circle."""
        by_id, found = {one.id: one for one in self.standing}, []
        while standing.inside is not None and standing.inside in by_id:
            standing = by_id[standing.inside]
            if standing in found:
                break
            found.append(standing)
        return found

    def _refuse_no_box(self, standing: Standing, place: str) -> None:
        if standing.inside is None:
            return
        if standing.inside not in {one.id for one in self.standing}:
            raise PackError(f"“{standing.inside}” is not on this set: choose another box, or none.", place)
        around = self.boxes_around(standing)
        if standing in around or any(one.inside is not None for one in around[-1:]):
            raise PackError(f"“{standing.id}” cannot stand in what stands in it: choose another box.", place)
        if standing.group is not None:
            raise PackError(f"“{standing.id}” moves with its box: take it out of its group.", place)

    @model_validator(mode="after")
    def _keys_name_one_thing(self) -> PhotoSet:
        seen: set[str] = set()
        for index, standing in enumerate(self.standing):
            if standing.id in seen:
                raise PackError(
                    f"Two things on the set are called “{standing.id}”: give one another key.",
                    f"standing.{index}.id",
                )
            seen.add(standing.id)
        for index, standing in enumerate(self.standing):
            refuse_unknown_group(standing.group, self.groups, f"standing.{index}.group")
            self._refuse_no_box(standing, f"standing.{index}.inside")
            if isinstance(standing.of, OfProp) and standing.of.prop not in self.props:
                raise PackError(
                    f"“{standing.id}” is the prop “{standing.of.prop}”, which is not on this set: take "
                    "it away.",
                    f"standing.{index}.of",
                )
        for key, group in self.groups.items():
            refuse_unknown_group(group.group, self.groups, f"groups.{key}.group")
            group_chain(key, self.groups)
        return self


def refuse_unknown_group(key: str | None, groups: Mapping[str, Group], place: str) -> None:
    """Raise PackError when there is no group of that key."""
    if key is not None and key not in groups:
        raise PackError(
            f"There is no group “{key}” on this set: take it out of the group, or make one.", place
        )


def group_chain(key: str | None, groups: Mapping[str, Group]) -> list[Group]:
    """A group and the groups around it, from the inside out. Raises PackError when they go in a circle."""
    chain: list[Group] = []
    passed: list[str] = []
    while key is not None and key in groups:
        if key in passed:
            names = " in ".join(f"“{groups[k].name}”" for k in [*passed[passed.index(key) :], key])
            raise PackError(
                f"Groups cannot lie in a circle ({names}): take one out of the other.", f"groups.{key}.group"
            )
        passed.append(key)
        chain.append(groups[key])
        key = groups[key].group
    return chain
