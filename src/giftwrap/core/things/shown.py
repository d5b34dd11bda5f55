"""What is shown of a pack, and what lies where its wall and its contents touch."""

from __future__ import annotations

from collections.abc import Collection

from giftwrap.core.mesh.mesh import Mesh, flipped
from giftwrap.core.model import Clear
from giftwrap.core.model.material import Material
from giftwrap.core.things.thing import Piece


class Shown:
    """What is to be seen of a pack. Where something is hidden, air takes its place.

    contents : what they are made of, and the name of their part
    """

    def __init__(self, contents: Material | None, hidden: Collection[str], name: str = "contents") -> None:
        self._contents = contents
        self._hidden = hidden
        self._name = name

    def part(self, name: str) -> bool:
        """Whether a part is shown."""
        return name not in self._hidden

    def contents(self, name: str, mesh: Mesh) -> list[Piece]:
        """A surface between the contents and the air, if they are shown."""
        if self._contents is None or not self.part(self._name):
            return []
        return [Piece(name, self._name, "contents", mesh, self._contents)]

    def touching(self, part: str, group: str, wall: Material, wet: Mesh) -> list[Piece]:
        """The surface where a part's wall touches the contents; `wet` faces out of the wall.

        Between two clear things it is the wall's. Light wanders in contents that are not clear, so then
        it is theirs and faces the wall.
        """
        contents = self._contents
        if contents is None or not self.part(self._name):
            return [Piece(f"{part}, wet", part, group, wet, wall, inside=True)] if self.part(part) else []
        if not self.part(part):
            return self.contents(f"{self._name} at {part}", flipped(wet))
        if isinstance(contents, Clear):
            wetted = f"{part}, wet"
            return [Piece(wetted, part, group, wet, wall, self._name, contents, inside=True)]
        front = wall if isinstance(wall, Clear) else None
        name = f"{self._name} at {part}"
        return [Piece(name, self._name, "contents", flipped(wet), contents, before=part, front=front)]
