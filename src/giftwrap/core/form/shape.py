"""A whole pack shaped: every part built, checked against the others and put in its place."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.form.closures import Built, Tube, build_closure
from giftwrap.core.form.contents import Fill, contact_height, pour
from giftwrap.core.form.immersed import Immersed, hole_of, immerse, raised
from giftwrap.core.form.mesh import Mesh, turned
from giftwrap.core.form.path import Array
from giftwrap.core.form.pose import closure_pose, copied, exploded_lifts, moved, stood_on_closure
from giftwrap.core.form.relief import outside_skins
from giftwrap.core.form.skin import joined_skins, skin_mesh, skins_mesh
from giftwrap.core.form.vessel import Vessel, build_vessel, rim_of, rim_start
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque, Pack
from giftwrap.core.wrap.panel import Sheet, back_mesh, face_mesh, lay_panel

Material = Clear | Cloudy | Opaque | Metal
MOST_TRIANGLES = 6_000_000
"""Of a pack with its copies; a quarter of it for the page, which draws fewer columns."""


@dataclass(frozen=True)
class Piece:
    """One surface of a pack, with what it is made of and what lies before it.

    part : the part it belongs to; group : body, contents, closure or labels
    front : what its normals point into; None for air
    panel : index of the panel whose print it carries
    """

    name: str
    part: str
    group: str
    mesh: Mesh
    material: Material
    front: Clear | None = None
    panel: int | None = None


@dataclass(frozen=True)
class Shape:
    """The geometry of a pack. `pieces` are where they stand; everything else is as it was formed."""

    pack: Pack
    vessel: Vessel
    fill: Fill | None
    built: Built | None
    sheets: tuple[Sheet, ...]
    pieces: tuple[Piece, ...]

    @property
    def height(self) -> float:
        """Height of the closed pack in mm."""
        return max(self.built.top, self.vessel.rim_height) if self.built else self.vessel.rim_height

    @property
    def bounds(self) -> tuple[Array, Array]:
        """Least and greatest x, y and z of everything that stands there, mm."""
        low = np.min([piece.mesh.positions.min(axis=0) for piece in self.pieces], axis=0)
        high = np.max([piece.mesh.positions.max(axis=0) for piece in self.pieces], axis=0)
        return low, high


def shape_pack(pack: Pack, artwork: Mapping[str, bytes] | None = None, *, coarse: bool = False) -> Shape:
    """Build a pack's parts.

    artwork : file contents by SHA-256, for what is embossed
    coarse : with fewer columns, for drawings on the page

    Raises PackError, naming the field, when they contradict each other.
    """
    vessel = build_vessel(pack.body, coarse=coarse)
    built = build_closure(pack.closure, vessel, coarse=coarse) if pack.closure else None
    sheets = tuple(
        lay_panel(panel, vessel, place=f"panels.{index}") for index, panel in enumerate(pack.panels)
    )
    _refuse_covered(built, sheets)
    hidden = {name for name, state in pack.parts.items() if state.hidden}
    lifts = exploded_lifts(pack, built, vessel)
    pose = closure_pose(pack, built, vessel) if built else np.eye(4)
    straight = bool(np.allclose(pose[:3, :3], np.eye(3))) and abs(pose[0, 3]) < 1e-9
    tube = built.tube if built and built.tube and built.tube.name not in hidden else None
    dipped = raised(tube, float(pose[2, 3]) + lifts.get(tube.name, 0.0)) if tube and straight else None
    outside, drop = rim_start(vessel)
    skins = outside_skins(vessel, outside, artwork or {}, coarse=coarse)
    rim, inside = rim_of(vessel, skins[-1].positions[:, -1], drop)
    fill, immersed = None, None
    if pack.contents:
        contact = contact_height(pack.contents, inside)
        hole = hole_of(dipped, contact) if dipped else None
        fill = pour(vessel, pack.contents, inside, (hole,) if hole else ())
        if dipped and hole:
            immersed = immerse(dipped, fill.contact, pack.contents.fill_height)
    pieces: list[Piece] = []
    dry = fill.dry if fill else inside
    glass = skins_mesh([*skins, joined_skins(rim, dry.reversed())])
    pieces.append(Piece("body", "body", "body", glass, pack.body.material))
    if fill:
        pieces += _contents(pack, fill)
    if built:
        pieces += _closure(pack, built, pose, lifts)
        if tube:
            pieces += _tube(pack, tube, dipped, immersed, pose @ _up(lifts.get(tube.name, 0.0)))
    pieces += _labels(sheets, lifts.get("labels", 0.0))
    pieces = _hidden(pieces, hidden, pack)
    _refuse_too_many(pack, pieces, MOST_TRIANGLES / 4 if coarse else MOST_TRIANGLES)
    pieces += copied(pack, pieces)
    if pack.stands_on == "closure":
        pieces = stood_on_closure(pieces)
    return Shape(pack, vessel, fill, built, sheets, tuple(pieces))


def _contents(pack: Pack, fill: Fill) -> list[Piece]:
    """The contents where they touch the body and the air."""
    assert pack.contents
    wall, contents = pack.body.material, pack.contents.material
    wet, top = skin_mesh(fill.wet), skins_mesh(fill.top)
    if isinstance(contents, Clear):
        touching = Piece("wetted-body", "body", "body", wet, wall, front=contents)
    else:
        # light wanders in the contents, so the surface is theirs and faces the wall
        front = wall if isinstance(wall, Clear) else None
        touching = Piece("filled-body", "contents", "contents", turned(wet), contents, front=front)
    return [touching, Piece("contents-top", "contents", "contents", top, contents)]


def _closure(pack: Pack, built: Built, pose: Array, lifts: Mapping[str, float]) -> list[Piece]:
    pieces = []
    for solid in built.solids:
        mesh = moved(solid.mesh, pose @ _up(lifts.get(solid.name, 0.0)))
        pieces.append(Piece(solid.name, solid.name, "closure", mesh, solid.material))
    return pieces


def _tube(pack: Pack, tube: Tube, dipped: Tube | None, immersed: Immersed | None, pose: Array) -> list[Piece]:
    """A pipette or dip tube, in air or in the contents."""
    name, material = tube.name, tube.material
    if dipped is None or immersed is None or not pack.contents:
        whole = immerse(tube, -np.inf, -np.inf).dry
        return [Piece(name, name, "closure", moved(whole, pose), material)]
    contents = pack.contents.material
    pieces = [Piece(name, name, "closure", immersed.dry, material)]
    if immersed.wet is None or immersed.bore_top is None:
        return pieces
    if isinstance(contents, Clear):
        pieces.append(Piece(f"wetted-{name}", name, "closure", immersed.wet, material, front=contents))
    else:
        front = material if isinstance(material, Clear) else None
        pieces.append(
            Piece(f"filled-{name}", "contents", "contents", turned(immersed.wet), contents, front=front)
        )
    pieces.append(Piece("contents-bore", "contents", "contents", immersed.bore_top, contents))
    return pieces


def _labels(sheets: tuple[Sheet, ...], out: float) -> list[Piece]:
    pieces = []
    shift = np.eye(4)
    shift[1, 3] = -out
    for index, sheet in enumerate(sheets):
        part = f"label-{index + 1}"
        stock = sheet.panel.stock
        pieces.append(Piece(part, part, "labels", moved(face_mesh(sheet), shift), stock, panel=index))
        pieces.append(Piece(f"{part}-back", part, "labels", moved(back_mesh(sheet), shift), stock))
    return pieces


def _hidden(pieces: list[Piece], hidden: set[str], pack: Pack) -> list[Piece]:
    """What is left when parts are hidden; where they touched others, air takes their place."""
    kept = [piece for piece in pieces if piece.part not in hidden]
    if "contents" in hidden:
        wetted = [p for p in kept if p.front is not None and p.group in ("body", "closure")]
        kept = [replace(p, front=None) if p in wetted else p for p in kept]
        missing = [p for p in pieces if p.name.startswith("filled-") and p.part == "contents"]
        for piece in missing:
            owner = piece.name.removeprefix("filled-")
            source = next((p for p in kept if p.part == owner), None)
            if source:
                kept.append(replace(source, name=f"emptied-{owner}", mesh=turned(piece.mesh)))
    if "body" in hidden and "contents" not in hidden and pack.contents:
        contents = pack.contents.material
        for piece in pieces:
            if piece.name == "wetted-body":
                kept.append(Piece("contents-wall", "contents", "contents", turned(piece.mesh), contents))
        kept = [replace(p, front=None) if p.name == "filled-body" else p for p in kept]
    return kept


def _refuse_covered(built: Built | None, sheets: tuple[Sheet, ...]) -> None:
    if not built or built.skirt is None:
        return
    for index, sheet in enumerate(sheets):
        if sheet.top > built.skirt:
            raise PackError(
                f"“{sheet.panel.name}” reaches under the closure at {built.skirt:.1f} mm: "
                "make it shorter or lower it.",
                f"panels.{index}.height",
            )


def _refuse_too_many(pack: Pack, pieces: Sequence[Piece], most: float) -> None:
    """Raise PackError when a pack and its copies have more triangles than can be shown."""
    own = dict.fromkeys((piece.part for piece in pieces), 0)
    for piece in pieces:
        own[piece.part] += len(piece.mesh.faces)
    total = sum(own.values())
    if total > most:
        raise PackError(
            f"This shape needs {total / most:.1f} times the triangles that can be drawn: simplify its "
            "profile or its relief.",
            "body.profile",
        )
    for index, copy in enumerate(pack.copies):
        total += own.get(copy.of, 0)
        if total > most:
            raise PackError(
                f"With copy {index + 1} the pack has more triangles than can be drawn: take it away.",
                f"copies.{index}",
            )


def _up(by: float) -> Array:
    matrix = np.eye(4)
    matrix[2, 3] = by
    return matrix
