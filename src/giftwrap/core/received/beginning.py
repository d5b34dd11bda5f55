"""What is made of a model that was read: named parts, materials of the palette, and what replaces it."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from giftwrap.core.errors import PackError
from giftwrap.core.model import Opaque, Pack, PickedPanel, Placement, Received, ReceivedPart
from giftwrap.core.model.document import describe_invalid, told_apart
from giftwrap.core.model.material import Linked, Material
from giftwrap.core.model.received import MOST_PARTS, Role
from giftwrap.core.model.worked import Grain, Pictures
from giftwrap.core.received.kept import BodyFacts, KeptModel, MeshFacts
from giftwrap.core.received.reading import ReadModel

PLAIN = Opaque(colour="#e9e6df", gloss=0.35)
"""What a part is made of whose file does not say."""
WHITE = "#ffffff"
_MEANT: dict[Role, tuple[str, ...]] = {
    "contents": ("content", "liquid", "fluid", "juice", "cream", "water", "drink"),
    "closure": ("cap", "lid", "closure", "stopper", "cork", "pump"),
    "label": ("label", "sticker", "sleeve"),
    "container": ("bottle", "glass", "jar", "body", "container", "vessel"),
}
"""Words in a part's name by which it is taken for something; common practice."""
ALIKE = 0.02
"""Share of a newer model's size by which a part may have moved or grown and still be known by its place."""


@dataclass(frozen=True)
class KeptSurface:
    """Pictures of a material, as they are kept; `depth` of the relief as a share of their width."""

    pictures: Pictures
    depth: float = 0.0


@dataclass(frozen=True)
class Begun:
    """A model as a pack's form begins, and the materials that go into the palette for it."""

    received: Received
    entries: Mapping[str, Material]


def begin(
    read: ReadModel,
    model: str,
    filename: str,
    pictures: Sequence[tuple[str, float] | None],
    palette: Mapping[str, Material],
    *,
    surfaces: Sequence[KeptSurface | None] | None = None,
) -> Begun:
    """Take a model up as it was read.

    model : SHA-256 of what is kept of it
    pictures : by material, SHA-256 of its picture and its width over its height
    palette : names that are taken there, and what they stand for
    surfaces : by material, its pictures of gloss and relief, and of colour where that repeats
    """
    entries: dict[str, Material] = {}
    looks = [
        _surfaced(m.look, surface, _width_of(read, number))
        for number, (m, surface) in enumerate(
            zip(read.materials, surfaces or [None] * len(read.materials), strict=True)
        )
    ]
    links = [_entry(m.name, look, palette, entries) for m, look in zip(read.materials, looks, strict=True)]
    names: list[str] = []
    parts: list[ReceivedPart] = []
    roles: set[Role] = set()
    for number, mesh in enumerate(read.meshes):
        own = tuple(i for i, b in enumerate(read.bodies) if b.mesh == number and b.copy_of is None)
        if not own:
            continue
        name = told_apart(mesh.name.strip() or f"part {len(parts) + 1}", names)
        names.append(name)
        role = _role_of(name, roles)
        roles.add(role)
        picture = pictures[mesh.material] if mesh.material is not None else None
        parts.append(
            ReceivedPart(
                name=name,
                source=mesh.name[:120],
                bodies=own,
                material=PLAIN if mesh.material is None else Linked(entry=links[mesh.material]),
                role=role,
                **_sheet(mesh, picture, read.unit_mm),
            )
        )
    received = Received(
        model=model,
        file=filename[:120],
        unit_mm=read.unit_mm,
        up=read.up,
        smooth=None if read.smooth else 35.0,
        parts=_few_enough(parts),
        notes=list(read.notes),
    )
    return Begun(received, entries)


def _width_of(read: ReadModel, material: int) -> float | None:
    """Mm across a material's pictures, by the first mesh that is made of it; None where none is unwrapped."""
    sheets = (mesh.sheet for mesh in read.meshes if mesh.material == material and mesh.sheet)
    sheet = next(sheets, None)
    return None if sheet is None else min(max(sheet[0] * read.unit_mm, 0.02), 5000.0)


def _surfaced(look: Material, surface: KeptSurface | None, width: float | None) -> Material:
    """A material with its pictures, as its model was unwrapped."""
    if surface is None or width is None:
        return look
    grain = Grain(
        pattern=surface.pictures,
        scale=width,
        lies="unwrapped",
        share=1.0 if surface.pictures.colour else 0.0,
        depth=min(surface.depth * width, 20.0),
    )
    return look.model_copy(update={"grain": grain})


def _entry(name: str, look: Material, palette: Mapping[str, Material], entries: dict[str, Material]) -> str:
    """The palette's entry for a material: one that is the same, or a new one."""
    known = {**palette, **entries}
    if known.get(name) == look:
        return name
    found = told_apart(name, known)
    entries[found] = look
    return found


def _sheet(mesh: MeshFacts, picture: tuple[str, float] | None, unit_mm: float) -> dict[str, Any]:
    """The sheet that a part's picture lies on, mm, as broad for its height as that, and the picture on it."""
    if mesh.sheet is None or mesh.repeats or picture is None:
        return {}
    sha256, aspect = picture
    area = mesh.sheet[0] * mesh.sheet[1] * unit_mm**2
    width = min(max((area * aspect) ** 0.5, 0.1), 4000.0)
    height = min(max(width / aspect, 0.1), 4000.0)
    return {"sheet": (width, height), "prints": [Placement(artwork=sha256, width=width)]}


def _role_of(name: str, taken: Collection[Role]) -> Role:
    lower = name.lower()
    for role, words in _MEANT.items():
        if any(word in lower for word in words) and (role in ("closure", "label") or role not in taken):
            return role
    return "part"


def _few_enough(parts: list[ReceivedPart]) -> list[ReceivedPart]:
    """At most as many parts as a model has: the last ones together."""
    if len(parts) <= MOST_PARTS:
        return parts
    rest = parts[MOST_PARTS - 1 :]
    bodies = tuple(i for part in rest for i in part.bodies)
    return [
        *parts[: MOST_PARTS - 1],
        rest[0].model_copy(update={"name": "the rest", "bodies": bodies, "role": "part"}),
    ]


def replaced(old: Received, newer: Received, before: KeptModel, after: KeptModel) -> Received:
    """A newer file in the place of a model: parts that it has too keep what was decided about them.

    A part is known by what its file calls it, or else by its place and size.
    """
    left = list(old.parts)
    parts: list[ReceivedPart] = []
    for part in newer.parts:
        known = next((o for o in left if o.source and o.source == part.source), None)
        known = known or next((o for o in left if _alike(o, part, before, after)), None)
        if known is None:
            parts.append(part)
            continue
        left.remove(known)
        kept: dict[str, Any] = {
            "name": known.name,
            "material": known.material,
            "role": known.role,
            "turned": known.turned,
        }
        kept |= {"closed": known.closed, "wall": known.wall}
        if known.prints or known.sheet:
            kept |= {"prints": known.prints, "sheet": known.sheet}
        parts.append(part.model_copy(update=kept))
    names: list[str] = []
    for i, part in enumerate(parts):
        parts[i] = part.model_copy(update={"name": told_apart(part.name, names)})
        names.append(parts[i].name)
    lost = [part.name for part in left if part.role != "left out"]
    notes = [f"It has nothing like “{name}” any more." for name in lost]
    kept_whole = {"unit_mm": old.unit_mm, "up": old.up, "turn": old.turn, "smooth": old.smooth}
    return newer.model_copy(
        update={
            **kept_whole,
            "fill_height": old.fill_height,
            "parts": parts,
            "notes": [*notes, *newer.notes][:60],
        }
    )


def _alike(one: ReceivedPart, other: ReceivedPart, before: KeptModel, after: KeptModel) -> bool:
    """Whether two parts of two files lie at one place and are as large."""
    if max(one.bodies) >= len(before.bodies):
        return False
    boxes = [_box([model.bodies[i] for i in part.bodies]) for part, model in ((one, before), (other, after))]
    size = max(high - low for low, high in boxes[0])
    return all(
        abs(a - b) <= ALIKE * size for ends in zip(*boxes, strict=True) for a, b in zip(*ends, strict=True)
    )


def _box(bodies: Sequence[BodyFacts]) -> list[tuple[float, float]]:
    return [(min(b.low[k] for b in bodies), max(b.high[k] for b in bodies)) for k in range(3)]


def resized(pack: Pack, unit_mm: float) -> Pack:
    """A pack that is a model with it in another unit; what is printed on it stays where it lies.

    Raises PackError when it is no received model.
    """
    received = pack.received
    times = unit_mm / received.unit_mm

    def grown(part: ReceivedPart) -> ReceivedPart:
        sheet = None if part.sheet is None else (part.sheet[0] * times, part.sheet[1] * times)
        prints = [_times(placement, times) for placement in part.prints]
        return part.model_copy(update={"prints": prints, "sheet": sheet})

    level = received.fill_height
    update = {"unit_mm": unit_mm, "parts": [grown(part) for part in received.parts]}
    update |= {"fill_height": None if level is None else level * times}
    panels = [
        panel.model_copy(update={"at": tuple(v * times for v in panel.at)})
        if isinstance(panel, PickedPanel)
        else panel
        for panel in pack.panels
    ]
    return _valid(pack.model_copy(update={"form": received.model_copy(update=update), "panels": panels}))


def split(received: Received, number: int, bodies: Sequence[BodyFacts]) -> Received:
    """A model with one of its parts as the pieces it hangs together in, the largest of which keeps its name.

    Raises PackError when there is no such part, it is in one piece, or there are too many.
    """
    part = _part(received, number)
    if len(part.bodies) < 2:
        raise PackError(f"“{part.name}” hangs together in one piece.", f"parts.{number}.bodies")
    if len(received.parts) + len(part.bodies) - 1 > MOST_PARTS:
        raise PackError(
            f"“{part.name}” is in {len(part.bodies)} pieces; a model has at most {MOST_PARTS} parts: "
            "split it where it was made.",
            f"parts.{number}.bodies",
        )
    names = [other.name for other in received.parts]
    found: list[ReceivedPart] = []
    for body in sorted(part.bodies, key=lambda i: -bodies[i].triangles):
        first = not found
        name = part.name if first else told_apart(part.name, names)
        names.append(name)
        role: Role = "part" if not first and part.role in ("container", "contents") else part.role
        kept = {"name": name, "bodies": (body,), "role": role, "source": part.source if first else ""}
        found.append(part.model_copy(update=kept))
    parts = [*received.parts[:number], *found, *received.parts[number + 1 :]]
    return received.model_copy(update={"parts": parts})


def merged(received: Received, numbers: Sequence[int]) -> Received:
    """A model with some of its parts as one, which is in all else like the first of them.

    Raises PackError when there are no such parts.
    """
    chosen = [_part(received, number) for number in dict.fromkeys(numbers)]
    bodies = tuple(body for part in chosen for body in part.bodies)
    one = chosen[0].model_copy(update={"bodies": bodies})
    left = [part for part in received.parts if part is chosen[0] or part not in chosen]
    parts = [one if part is chosen[0] else part for part in left]
    return received.model_copy(update={"parts": parts})


def _part(received: Received, number: int) -> ReceivedPart:
    if not 0 <= number < len(received.parts):
        raise PackError(
            f"The model has {len(received.parts)} parts, none with the number {number + 1}.", "parts"
        )
    return received.parts[number]


def _times(placement: Placement, times: float) -> Placement:
    grown = {"x": placement.x * times, "y": placement.y * times, "width": placement.width * times}
    return placement.model_copy(update=grown)


def _valid(pack: Pack) -> Pack:
    """The same pack. Raises PackError when something in it is as large as nothing can be."""
    try:
        return Pack.model_validate(pack.model_dump(mode="json"))
    except ValidationError as error:
        message, place = describe_invalid(error)
        raise PackError(f"In this unit the model would be too large or too small: {message}", place) from None
