"""A received model as a pack, or added to one: its parts where they stand, filled, labelled and printed."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, replace
from functools import cached_property, partial

import numpy as np

from giftwrap.core.errors import PackError, within
from giftwrap.core.form.volume import MM3_PER_ML
from giftwrap.core.materials.starting import drawn_colour
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.topology import joined_surface, volume_of
from giftwrap.core.mesh.transform import shift, turn
from giftwrap.core.model import Clear, Opaque, Pack, Printed, Received, ReceivedPart
from giftwrap.core.model.material import plain
from giftwrap.core.received.hollow import hollowed
from giftwrap.core.received.kept import KeptModel, kept_model
from giftwrap.core.received.parts import part_mesh, placement_of
from giftwrap.core.received.pouring import poured
from giftwrap.core.things.labels import label_pieces
from giftwrap.core.things.pose import copied
from giftwrap.core.things.shown import Shown
from giftwrap.core.things.thing import Extent, Piece, Thing
from giftwrap.core.wrap.flattening import flattened
from giftwrap.core.wrap.laid import Laid
from giftwrap.core.wrap.laying import lay_panels

_GROUPS = {"container": "body", "contents": "contents", "closure": "closure", "label": "labels"}
USUAL_SMOOTH = 35.0
JOIN = 1e-4
STRETCHED = 0.05
"""A label that is stretched by more than this share is pointed out."""


@dataclass(frozen=True)
class ReceivedModel:
    """A received model in space.

    pieces : their `panel` counts from the first of `panels`, what its parts are printed with
    surfaces : of its parts, by their names, as labels are laid on them
    level : mm above the table that its contents stand at; contents_ml : what they take up
    """

    received: Received
    kept: KeptModel
    pieces: tuple[Piece, ...]
    panels: tuple[Printed, ...]
    surfaces: Mapping[str, Mesh]
    level: float | None
    contents_ml: float | None

    @property
    def pickable(self) -> dict[str, Callable[[], Mesh]]:
        """The surface of each part that labels may be picked on."""
        return {name: partial(self.surfaces.__getitem__, name) for name in self.surfaces}


@dataclass(frozen=True)
class ReceivedPack:
    """A pack that is a received model, in space.

    panels : what its parts are printed with, then its own; sheets : those of its own as they lie
    """

    pack: Pack
    model: ReceivedModel
    pieces: tuple[Piece, ...]
    panels: tuple[Printed, ...]
    sheets: tuple[Laid, ...]

    @property
    def first_label(self) -> int:
        """The number of its first label among its panels."""
        return len(self.model.panels)

    @property
    def surfaces(self) -> Mapping[str, Callable[[], Mesh]]:
        """Of each part that labels may be picked on."""
        return self.model.pickable

    @property
    def parts(self) -> list[str]:
        """Every part, the hidden ones too, then its labels."""
        own = [part.name for part in self.pack.received.parts if part.role != "left out"]
        return [*own, *(f"label-{i + 1}" for i in range(len(self.sheets))), *added_parts(self.pack)]

    @cached_property
    def thing(self) -> Thing:
        """As a thing to be placed; its extent lies evenly around its middle."""
        return Thing(self.pieces, extent_around(self.pieces), self.panels)


@dataclass(frozen=True)
class ReceivedFacts:
    """What a designer reads off a received model: mm, ml, g.

    pieces : of each part, by its name; open_parts : along how many rings parts are open
    """

    size: tuple[float, float, float]
    fill_height: float | None
    triangles: int
    pieces: Mapping[str, int]
    open_parts: Mapping[str, int]
    contents_ml: float | None
    grams: float | None
    cautions: tuple[str, ...]


def shape_received(pack: Pack, files: Mapping[str, bytes], *, coarse: bool = False) -> ReceivedPack:
    """Put a received model together. Raises PackError or ModelError, naming the field, when it cannot."""
    hidden = hidden_parts(pack)
    with within("form"):
        model = received_model(pack.received, files, hidden, coarse=coarse)
    sheets = lay_panels(pack.panels, model.pickable)
    labels = label_pieces(sheets, lambda part: part not in hidden, first=len(model.panels))
    pieces = [*model.pieces, *labels]
    pieces = _drawn_apart(pieces, pack.exploded)
    panels = (*model.panels, *(sheet.panel for sheet in sheets))
    pieces, panels = with_added(pack, pieces, panels, files, coarse=coarse)
    pieces += copied(pack, pieces)
    if not pieces:
        raise PackError("All parts are hidden: show one.", "parts")
    return ReceivedPack(pack, model, tuple(pieces), panels, sheets)


def received_model(
    received: Received, files: Mapping[str, bytes], hidden: Collection[str], *, coarse: bool
) -> ReceivedModel:
    """A model's parts on the table. Raises PackError or ModelError, naming the field."""
    if received.model not in files:
        raise PackError(f"The model {received.file} is not in the library: send it again.", "model")
    kept = kept_model(received.model, files[received.model])
    place = placement_of(received, kept.bodies)
    surfaces: dict[str, Mesh] = {}
    prints: list[Printed] = []
    printed: dict[str, int] = {}
    for i, part in enumerate(received.parts):
        if part.role == "left out":
            continue
        with within(f"parts.{i}"):
            mesh = part_mesh(part, received, kept, place, coarse=coarse)
            if part.wall is not None and part.role == "container":
                mesh = hollowed(mesh, part.wall, received.smooth or USUAL_SMOOTH, f"“{part.name}”")
            sheet = part.sheet
            if sheet is None and part.role == "label":
                mesh, sheet = _laid_flat(mesh, part.name)
        surfaces[part.name] = mesh
        if sheet is not None:
            printed[part.name] = len(prints)
            prints.append(_print(part, sheet))
    contents = next((part for part in received.parts if part.role == "contents"), None)
    container = next((part for part in received.parts if part.role == "container"), None)
    filled = None
    if contents and container:
        level = received.fill_height
        if level is None:
            level = float(surfaces[contents.name].positions[:, 2].max())
        filled = poured(surfaces[container.name], level, f"“{container.name}”")
    pieces: list[Piece] = []
    for part in received.parts:
        if part.name not in surfaces or (filled and part is contents):
            continue
        mesh, material = surfaces[part.name], plain(part.material)
        if filled and contents and part is container:
            mesh = filled.dry
            shown = Shown(plain(contents.material), hidden, contents.name)
            pieces += shown.touching(part.name, "body", material, filled.wet)
            pieces += shown.contents(f"{contents.name}, top", filled.top)
        if part.name not in hidden:
            panel = None if isinstance(material, Clear) else printed.get(part.name)
            group = _GROUPS.get(part.role, part.name)
            pieces.append(Piece(part.name, part.name, group, mesh, material, panel=panel))
    return ReceivedModel(
        received,
        kept,
        tuple(pieces),
        tuple(prints),
        surfaces,
        level if filled else None,
        filled.volume / MM3_PER_ML if filled else None,
    )


def received_facts(shaped: ReceivedPack) -> ReceivedFacts:
    """Read the facts off a received model."""
    model = shaped.model
    parts = [part for part in model.received.parts if part.role != "left out"]
    holes = {
        part.name: sum(model.kept.bodies[i].holes for i in part.bodies) for part in parts if not part.closed
    }
    size = np.ptp(np.vstack([piece.mesh.positions for piece in shaped.pieces]), axis=0)
    cautions = [
        f"“{sheet.panel.name}” is stretched by up to {100 * sheet.stretch.worst:.0f} % there: it lies best "
        "where the surface unrolls."
        for sheet in shaped.sheets
        if sheet.stretch.worst > STRETCHED
    ]
    return ReceivedFacts(
        size=(float(size[0]), float(size[1]), float(size[2])),
        fill_height=model.level,
        triangles=sum(model.kept.bodies[i].triangles for part in parts for i in part.bodies),
        pieces={part.name: len(part.bodies) for part in parts},
        open_parts={name: count for name, count in holes.items() if count},
        contents_ml=model.contents_ml,
        grams=_grams(model, parts, closed=not any(holes.values())),
        cautions=tuple(cautions),
    )


def hidden_parts(pack: Pack) -> set[str]:
    """Parts that are not shown."""
    return {name for name, state in pack.parts.items() if state.hidden}


def added_parts(pack: Pack) -> list[str]:
    """Parts of the models that were added to a pack."""
    return [p.name for addition in pack.added for p in addition.received.parts if p.role != "left out"]


def with_added(
    pack: Pack, pieces: list[Piece], panels: tuple[Printed, ...], files: Mapping[str, bytes], *, coarse: bool
) -> tuple[list[Piece], tuple[Printed, ...]]:
    """A pack's pieces and panels with those of the models that were added to it.

    Raises PackError or ModelError, naming the field.
    """
    own, hidden = {piece.part for piece in pieces}, hidden_parts(pack)
    for i, addition in enumerate(pack.added):
        with within(f"added.{i}"):
            double = own & {part.name for part in addition.received.parts}
            if double:
                name = min(double)
                raise PackError(f"Two parts are called “{name}”: give one another name.", "received.parts")
            with within("received"):
                model = received_model(addition.received, files, hidden, coarse=coarse)
        place = shift(addition.x, addition.y, addition.z) @ turn(addition.turn)
        for piece in model.pieces:
            panel = None if piece.panel is None else piece.panel + len(panels)
            pieces.append(replace(piece.moved(place), panel=panel))
        own |= {part.name for part in addition.received.parts}
        panels = (*panels, *model.panels)
    return pieces, panels


def extent_around(pieces: Collection[Piece]) -> Extent:
    """What pieces take up, evenly around the upright axis."""
    points = np.vstack([piece.mesh.positions for piece in pieces])
    across, deep = (float(np.abs(points[:, k]).max()) for k in (0, 1))
    return Extent((-across, -deep, 0.0), (across, deep, float(points[:, 2].max())))


def _print(part: ReceivedPart, sheet: tuple[float, float]) -> Printed:
    """What a part is printed with, on what it is made of."""
    material = plain(part.material)
    stock = material if isinstance(material, Opaque) else Opaque(colour=drawn_colour(material))
    return Printed(
        name=part.name, width=sheet[0], height=sheet[1], stock=stock, placements=part.prints, run=part.run
    )


def _laid_flat(mesh: Mesh, name: str) -> tuple[Mesh, tuple[float, float]]:
    """A label without coordinates of its own, laid flat, upright and as wide as it is then."""
    points, faces, index = joined_surface(mesh, JOIN)
    flat = flattened(points, faces, f"“{name}”").places
    rise = np.linalg.lstsq(np.c_[flat, np.ones(len(flat))], points[:, 2], rcond=None)[0][:2]
    if np.linalg.norm(rise) > 0.05:
        up = rise / np.linalg.norm(rise)
        flat = flat @ np.array([[up[1], up[0]], [-up[0], up[1]]])
    low, size = flat.min(axis=0), np.maximum(np.ptp(flat, axis=0), 1e-3)
    laid = Mesh(mesh.positions, mesh.normals, ((flat - low) / size)[index], mesh.faces)
    return laid, (float(size[0]), float(size[1]))


def _drawn_apart(pieces: list[Piece], gap: float) -> list[Piece]:
    """Pieces with their parts lifted off each other in the order in which they stand."""
    if gap <= 0:
        return pieces
    whole = {"body", "contents"}
    parts: dict[str, list[Piece]] = {}
    for piece in pieces:
        parts.setdefault("body" if piece.group in whole else piece.part, []).append(piece)
    middle = {name: float(np.mean([_middle(piece) for piece in own])) for name, own in parts.items()}
    found = []
    for number, name in enumerate(sorted(parts, key=lambda name: middle[name])):
        place = shift(0.0, -gap, 0.0) if name.startswith("label-") else shift(0.0, 0.0, number * gap)
        found += [piece.moved(place) for piece in parts[name]]
    return found


def _middle(piece: Piece) -> float:
    heights = piece.mesh.positions[:, 2]
    return float(heights.min() + heights.max()) / 2


def _grams(model: ReceivedModel, parts: Collection[ReceivedPart], *, closed: bool) -> float | None:
    """Weight of what is closed around itself, without contents; None where something is open."""
    if not closed:
        return None
    total = 0.0
    for part in parts:
        if part.role == "contents":
            continue
        mesh = model.surfaces[part.name]
        total += abs(volume_of(mesh.positions, mesh.faces)) / MM3_PER_ML * plain(part.material).density
    return total
