"""A whole pack shaped: every part built, checked against the others and put in its place."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from giftwrap.core.errors import PackError, within
from giftwrap.core.form.closures import Built, Tube, build_closure
from giftwrap.core.form.contents import Fill, contact_height, pour
from giftwrap.core.form.formed import FormedBody, form_body, rim_of, rim_start
from giftwrap.core.form.immersed import Immersed, hole_of, immerse, raised
from giftwrap.core.form.relief import outside_skins
from giftwrap.core.form.skin import joined_skins, skin_mesh, skins_mesh
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import moved, shift
from giftwrap.core.model import Clear, Pack, Printed, WrapPanel
from giftwrap.core.model.material import plain
from giftwrap.core.things.pose import closure_pose, copied, exploded_lifts, stood_on_closure
from giftwrap.core.things.received import added_parts, extent_around, hidden_parts, with_added
from giftwrap.core.things.shown import Shown
from giftwrap.core.things.thing import Extent, Piece, Thing
from giftwrap.core.wrap.panel import Sheet, back_mesh, face_mesh, lay_panels

MOST_TRIANGLES = 6_000_000
"""Of a pack with its copies; a quarter of it for the page, which draws fewer columns."""


@dataclass(frozen=True)
class VesselShape:
    """The geometry of a pack. `pieces` are where they stand; everything else is as it was formed.

    wall : the surfaces of the body, which close around it together
    panels : its labels, then what is printed on models that were added to it
    """

    pack: Pack
    formed: FormedBody
    fill: Fill | None
    built: Built | None
    sheets: tuple[Sheet, ...]
    wall: tuple[Mesh, ...]
    pieces: tuple[Piece, ...]
    panels: tuple[Printed, ...]

    @property
    def height(self) -> float:
        """Height of the closed pack in mm."""
        return max(self.built.top, self.formed.rim_height) if self.built else self.formed.rim_height

    @property
    def parts(self) -> list[str]:
        """Every part of the pack, the hidden ones too, from the body outwards."""
        names = ["body"]
        if self.pack.vessel.contents:
            names.append("contents")
        if self.built:
            names += [solid.name for solid in self.built.solids]
            names += [self.built.tube.name] if self.built.tube else []
        return [*names, *(f"label-{i + 1}" for i in range(len(self.sheets))), *added_parts(self.pack)]

    @cached_property
    def thing(self) -> Thing:
        """The pack as a thing to be placed. Its extent lies evenly around its axis."""
        if self.pack.added:
            return Thing(self.pieces, extent_around(self.pieces), self.panels)
        formed = self.formed
        heights = formed.outer.points[:, 1]
        outline = formed.loft.at(heights, formed.columns).points * formed.outer.points[None, :, :1]
        across, deep = (float(np.abs(outline[..., k]).max()) for k in (0, 1))
        extent = Extent((-across, -deep, 0.0), (across, deep, self.height))
        return Thing(self.pieces, extent, self.panels)


def shape_vessel(
    pack: Pack, artwork: Mapping[str, bytes] | None = None, *, coarse: bool = False
) -> VesselShape:
    """Build a pack's parts.

    artwork : file contents by SHA-256, for what is embossed
    coarse : with fewer columns, for drawings on the page

    Raises PackError, naming the field, when they contradict each other.
    """
    vessel = pack.vessel
    with within("form"):
        formed = form_body(vessel.body, coarse=coarse)
        built = build_closure(vessel.closure, formed, coarse=coarse) if vessel.closure else None
    sheets = lay_panels(_wrapped(pack), formed)
    _refuse_covered(built, sheets)
    hidden = hidden_parts(pack)
    lifts = exploded_lifts(pack, built, formed)
    with within("form"):
        pose = closure_pose(pack, built, formed) if built else np.eye(4)
        straight = bool(np.allclose(pose[:3, :3], np.eye(3))) and abs(pose[0, 3]) < 1e-9
        tube = built.tube if built and built.tube and built.tube.name not in hidden else None
        dipped = raised(tube, float(pose[2, 3]) + lifts.get(tube.name, 0.0)) if tube and straight else None
        outside, drop = rim_start(formed)
        skins = outside_skins(formed, outside, artwork or {}, coarse=coarse)
        rim, inside = rim_of(formed, skins[-1].positions[:, -1], drop)
        fill, immersed = None, None
        if vessel.contents:
            contact = contact_height(formed, vessel.contents, inside)
            hole = hole_of(dipped, contact) if dipped else None
            fill = pour(formed, vessel.contents, inside, (hole,) if hole else ())
            if dipped and hole:
                immersed = immerse(dipped, fill.contact, vessel.contents.fill_height)
    wall = plain(vessel.body.material)
    shown = Shown(plain(vessel.contents.material) if vessel.contents else None, hidden)
    pieces: list[Piece] = []
    dry = fill.dry if fill else inside
    glass = skins_mesh([*skins, joined_skins(rim, dry.reversed())])
    if shown.part("body"):
        pieces.append(Piece("body", "body", "body", glass, wall))
    surfaces: tuple[Mesh, ...] = (glass,)
    if fill:
        wet = skin_mesh(fill.wet)
        surfaces = (glass, wet)
        pieces += shown.touching("body", "body", wall, wet)
        pieces += shown.contents("contents-top", skins_mesh(fill.top))
    if built:
        pieces += _closure(built, pose, lifts, shown)
        if tube:
            pieces += _tube(tube, dipped, immersed, pose @ shift(0, 0, lifts.get(tube.name, 0.0)), shown)
    pieces += _labels(sheets, lifts.get("labels", 0.0), shown)
    _refuse_too_many(pack, pieces, MOST_TRIANGLES / 4 if coarse else MOST_TRIANGLES)
    pieces, panels = with_added(
        pack, pieces, tuple(sheet.printed for sheet in sheets), artwork or {}, coarse=coarse
    )
    pieces += copied(pack, pieces)
    if vessel.stands_on == "closure":
        pieces = stood_on_closure(pieces)
    return VesselShape(pack, formed, fill, built, sheets, surfaces, tuple(pieces), panels)


def _wrapped(pack: Pack) -> list[WrapPanel]:
    """A vessel's labels. Raises PackError when one is picked, as on a received model."""
    for i, panel in enumerate(pack.panels):
        if not isinstance(panel, WrapPanel):
            raise PackError(
                f"“{panel.name}” lies on a picked place, which only received models have: lay it "
                "around the pack.",
                f"panels.{i}.kind",
            )
    return [panel for panel in pack.panels if isinstance(panel, WrapPanel)]


def _closure(built: Built, pose: Array, lifts: Mapping[str, float], shown: Shown) -> list[Piece]:
    pieces = []
    for solid in filter(lambda solid: shown.part(solid.name), built.solids):
        mesh = moved(solid.mesh, pose @ shift(0, 0, lifts.get(solid.name, 0.0)))
        pieces.append(Piece(solid.name, solid.name, "closure", mesh, solid.material))
    return pieces


def _tube(
    tube: Tube, dipped: Tube | None, immersed: Immersed | None, pose: Array, shown: Shown
) -> list[Piece]:
    """A pipette or dip tube, in air or in the contents."""
    name, material = tube.name, tube.material
    if dipped is None or immersed is None:
        whole = immerse(tube, -np.inf, -np.inf).dry
        return [Piece(name, name, "closure", moved(whole, pose), material)]
    pieces = [Piece(name, name, "closure", immersed.dry, material)]
    if immersed.wet is not None and immersed.bore_top is not None:
        pieces += shown.touching(name, "closure", material, immersed.wet)
        pieces += shown.contents("contents-bore", immersed.bore_top)
    return pieces


def _labels(sheets: tuple[Sheet, ...], out: float, shown: Shown) -> list[Piece]:
    pieces = []
    place = shift(0.0, -out, 0.0)
    for index, sheet in enumerate(sheets):
        part = f"label-{index + 1}"
        stock = sheet.panel.made_of
        if shown.part(part):
            pieces.append(Piece(part, part, "labels", moved(face_mesh(sheet), place), stock, panel=index))
            if not isinstance(stock, Clear):
                pieces.append(Piece(f"{part}-back", part, "labels", moved(back_mesh(sheet), place), stock))
    return pieces


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
            "form.body.profile",
        )
    for index, copy in enumerate(pack.copies):
        total += own.get(copy.of, 0)
        if total > most:
            raise PackError(
                f"With copy {index + 1} the pack has more triangles than can be drawn: take it away.",
                f"copies.{index}",
            )
