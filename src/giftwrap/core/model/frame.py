"""The frame: everything that one picture shows, by itself."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from giftwrap.core.errors import PackError, within
from giftwrap.core.model.document import Key, Upgrade, Versioned
from giftwrap.core.model.pack import Pack
from giftwrap.core.model.palette import Colourway, Palette, dressed, said_in_full
from giftwrap.core.model.panel import ArtworkUse
from giftwrap.core.model.photo_set import OfHero, OfProp, PhotoSet, Standing
from giftwrap.core.model.prop import Prop
from giftwrap.core.model.shot import Shot

PROP = "prop:"
"""Stands before a prop's key where packs have keys as well."""
ONLY_PACK = "pack"
"""Key of the pack of a frame that was kept before frames had keys."""


def _with_packs(data: dict[str, Any]) -> dict[str, Any]:
    """Version 1 did not say its version: a pack, a set and a shot."""
    rest = {name: value for name, value in data.items() if name != "pack"}
    return {**rest, "schema_version": 2, "packs": {ONLY_PACK: data["pack"]}}


class Frame(Versioned):
    """A shot of what stands on a set, in a colourway.

    packs : those of the job that stand there, by their keys, the job's first one first
    """

    upgrades: ClassVar[dict[int, Upgrade]] = {1: _with_packs}

    @model_validator(mode="before")
    @classmethod
    def _of_old_orders(cls, data: Any) -> Any:
        """Orders of old kept a pack, a set and a shot, and no version."""
        old = isinstance(data, dict) and "pack" in data and "schema_version" not in data
        return {**data, "schema_version": 1} if old else data

    schema_version: Literal[2] = 2
    packs: Annotated[dict[Key, Pack], Field(max_length=100)]
    photo_set: PhotoSet
    shot: Shot
    palette: Palette = Palette()
    colourway: Colourway = Colourway()

    def hero(self) -> str:
        """Key of the pack the shot is of. Raises PackError when it is gone."""
        key = self.shot.hero or next(iter(self.packs), None)
        if key is None or key not in self.packs:
            raise PackError(
                f"The shot is of the pack “{key or '?'}”, which is not in the job any more: choose another.",
                "shot.hero",
            )
        return key

    def standing(self) -> list[Standing]:
        """What is to be seen in the shot, in the set's order.

        Raises PackError when the line-up is gone.
        """
        on_set, chosen = self.photo_set, self.shot.line_up
        if chosen is None:
            wanted = {standing.id for standing in on_set.standing}
        elif chosen in on_set.line_ups:
            wanted = set(on_set.line_ups[chosen].standing)
        else:
            raise PackError(
                f"The shot shows the line-up “{chosen}”, which is not on the set any more: choose another.",
                "shot.line_up",
            )
        return [one for one in on_set.standing if one.id in wanted and on_set.shows(one)]

    def key_of(self, standing: Standing) -> str:
        """Key of what stands there among the things of a scene: a pack's, or a prop's with a word before it.

        Raises PackError when it is gone.
        """
        if isinstance(standing.of, OfProp):
            return f"{PROP}{standing.of.prop}"
        key = self.hero() if isinstance(standing.of, OfHero) else standing.of.pack
        if key not in self.packs:
            raise PackError(
                f"“{standing.id}” on the set is the pack “{key}”, which is not in the job any more: take it "
                "away, or choose another pack for it.",
                f"photo_set.standing.{self.photo_set.standing.index(standing)}.of",
            )
        return key

    def pack_keys(self) -> list[str]:
        """Of the packs that stand in the shot. Raises PackError when one is gone."""
        packs = [one for one in self.standing() if not isinstance(one.of, OfProp)]
        return list(dict.fromkeys(map(self.key_of, packs)))

    def shown_props(self) -> dict[str, Prop]:
        """The props that stand in the shot, said in full, by their keys among the things of a scene.

        Raises PackError when one is made of an entry that the palette does not have.
        """
        keys = dict.fromkeys(one.of.prop for one in self.standing() if isinstance(one.of, OfProp))
        return {f"{PROP}{key}": self._said(key) for key in keys}

    def _said(self, key: str) -> Prop:
        with within(f"photo_set.props.{key}"):
            return said_in_full(self.photo_set.props[key], self.palette, self.colourway)

    def shown_packs(self) -> dict[str, Pack]:
        """The packs that stand in the shot, in their colours, by key.

        Raises PackError when one is gone, or is made of an entry that the palette does not have.
        """
        return {key: _in_colours(key, self) for key in self.pack_keys()}

    def artwork_uses(self) -> list[ArtworkUse]:
        """What is printed or embossed on the packs that stand in the shot, what they are made of, and what is
        shown on lights."""
        packs = self.shown_packs().values()
        on_packs = [use for pack in packs for use in (*pack.artwork_uses(), *pack.picture_uses())]
        return [*on_packs, *self.photo_set.picture_uses()]


def _in_colours(key: str, frame: Frame) -> Pack:
    try:
        return dressed(key, frame.packs[key], frame.palette, frame.colourway)
    except PackError as error:
        raise PackError(error.message, f"packs.{key}.{error.place}") from None
