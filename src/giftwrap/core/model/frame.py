"""The frame: everything that one picture shows, by itself."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from giftwrap.core.errors import PackError
from giftwrap.core.model.document import Key, Upgrade, Versioned
from giftwrap.core.model.pack import Pack
from giftwrap.core.model.palette import Colourway, Palette, dressed
from giftwrap.core.model.panel import ArtworkUse
from giftwrap.core.model.photo_set import OfHero, PhotoSet, Standing
from giftwrap.core.model.shot import Shot

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

    def pack_of(self, standing: Standing) -> str:
        """Key of the pack that stands there. Raises PackError when it is gone."""
        key = self.hero() if isinstance(standing.of, OfHero) else standing.of.pack
        if key not in self.packs:
            raise PackError(
                f"“{standing.id}” on the set is the pack “{key}”, which is not in the job any more: take it "
                "away, or choose another pack for it.",
                f"photo_set.standing.{self.photo_set.standing.index(standing)}.of",
            )
        return key

    def shown_packs(self) -> dict[str, Pack]:
        """The packs that stand in the shot, in their colours, by key.

        Raises PackError when one is gone, or is made of an entry that the palette does not have.
        """
        keys = dict.fromkeys(self.pack_of(standing) for standing in self.standing())
        return {key: _in_colours(key, self) for key in keys}

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
