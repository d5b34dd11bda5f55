"""A whole pack shaped: every part built, checked against the others and put in its place."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, partial

import numpy as np

from giftwrap.core.errors import PackError, within
from giftwrap.core.form.closures import Built, Tube, build_closure
from giftwrap.core.form.contents import Fill, contact_height, pour
from giftwrap.core.form.formed import FormedBody, form_body, rim_of, rim_start
from giftwrap.core.form.immersed import Immersed, hole_of, immerse, raised
from giftwrap.core.form.relief import outside_skins
from giftwrap.core.form.skin import Skin, joined_skins, skin_mesh, skins_mesh
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import moved, shift
from giftwrap.core.model import BODY, Contents, Pack, Printed
from giftwrap.core.model.material import plain
from giftwrap.core.things.labels import label_pieces
from giftwrap.core.things.pose import closure_pose, copied, exploded_lifts, stood_on_closure, turned_over
from giftwrap.core.things.received import added_parts, extent_around, hidden_parts, with_added
from giftwrap.core.things.shown import Shown
from giftwrap.core.things.thing import Extent, Piece, Thing
from giftwrap.core.wrap.laid import Laid
from giftwrap.core.wrap.laying import Turned, lay_panels
from giftwrap.core.wrap.wrapped import WrappedSheet

MOST_TRIANGLES = 6_000_000
"""Of a pack with its copies; a quarter of it for the page, which draws fewer columns."""


@dataclass(frozen=True)
class VesselShape:
    """The geometry of a pack. `pieces` are where they stand; everything else is as it was formed.

    wall : the surfaces of the body, which close around it together
    panels : its labels, then what is printed on models that were added to it
    surfaces : of each part that labels may be picked on, as it was formed
    poses : (4, 4) float each, from there to where those parts are
    """

    pack: Pack
    formed: FormedBody
    fill: Fill | None
    built: Built | None
    sheets: tuple[Laid, ...]
    wall: tuple[Mesh, ...]
    pieces: tuple[Piece, ...]
    panels: tuple[Printed, ...]
    surfaces: Mapping[str, Callable[[], Mesh]]
    poses: Mapping[str, Array]

    @property
    def first_label(self) -> int:
        """The number of its first label among its panels."""
        return 0

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
    hidden = hidden_parts(pack)
    lifts = exploded_lifts(pack, built, formed)
    with within("form"):
        pose = closure_pose(pack, built, formed) if built else np.eye(4)
        straight = bool(np.allclose(pose[:3, :3], np.eye(3))) and abs(pose[0, 3]) < 1e-9
        tube = built.tube if built and built.tube and built.tube.name not in hidden else None
        dipped = raised(tube, float(pose[2, 3]) + lifts.get(tube.name, 0.0)) if tube and straight else None
        outside, drop = rim_start(formed)
        skins = outside_skins(formed, outside, artwork or {}, coarse=coarse)
    labelled = _surfaces(skins, built)
    sheets = lay_panels(pack.panels, labelled, Turned(formed, built))
    _refuse_covered(built, sheets)
    with within("form"):
        rim, inside = rim_of(formed, skins[-1].positions[:, -1], drop)
        fill, immersed = _filled(vessel.contents, formed, inside, dipped)
    wall = plain(vessel.body.material)
    poses = {name: pose @ shift(0, 0, lifts.get(name, 0.0)) for name in labelled}
    poses[BODY] = np.eye(4)
    shown = Shown(plain(vessel.contents.material) if vessel.contents else None, hidden)
    pieces: list[Piece] = []
    dry = fill.dry if fill else inside
    glass = skins_mesh([*skins, joined_skins(rim, dry.reversed())])
    if shown.part("body"):
        pieces.append(Piece("body", "body", "body", skins_mesh([*skins, rim]), wall))
        hollow = skin_mesh(dry.reversed())
        pieces.append(Piece("body, inside", "body", "body", hollow, wall, inside=True))
    surfaces: tuple[Mesh, ...] = (glass,)
    if fill:
        wet = skin_mesh(fill.wet)
        surfaces = (glass, wet)
        pieces += shown.touching("body", "body", wall, wet)
        pieces += shown.contents("contents-top", skins_mesh(fill.top))
    if built:
        pieces += _closure(built, poses, shown)
        if tube:
            pieces += _tube(tube, dipped, immersed, pose @ shift(0, 0, lifts.get(tube.name, 0.0)), shown)
    off = shift(0.0, -lifts.get("labels", 0.0), 0.0)
    pieces += label_pieces(
        sheets, shown.part, placed=lambda sheet, mesh: moved(mesh, off @ poses[sheet.part])
    )
    _refuse_too_many(pack, pieces, MOST_TRIANGLES / 4 if coarse else MOST_TRIANGLES)
    pieces, panels = with_added(
        pack, pieces, tuple(sheet.printed for sheet in sheets), artwork or {}, coarse=coarse
    )
    pieces += copied(pack, pieces)
    if vessel.stands_on == "closure":
        over = turned_over(pieces)
        pieces = stood_on_closure(pieces, over)
        poses = {name: over @ own for name, own in poses.items()}
    return VesselShape(pack, formed, fill, built, sheets, surfaces, tuple(pieces), panels, labelled, poses)


def _filled(
    contents: Contents | None, formed: FormedBody, inside: Skin, dipped: Tube | None
) -> tuple[Fill | None, Immersed | None]:
    """What fills a body, and the tube that stands in it."""
    if contents is None:
        return None, None
    contact = contact_height(formed, contents, inside)
    hole = hole_of(dipped, contact) if dipped else None
    fill = pour(formed, contents, inside, (hole,) if hole else ())
    return fill, immerse(dipped, fill.contact, contents.fill_height) if dipped and hole else None


def _surfaces(skins: Sequence[Skin], built: Built | None) -> dict[str, Callable[[], Mesh]]:
    """The surface of each part that labels may be picked on."""
    solids = {solid.name: partial(getattr, solid, "mesh") for solid in (built.solids if built else ())}
    return {BODY: partial(skins_mesh, skins), **solids}


def _closure(built: Built, poses: Mapping[str, Array], shown: Shown) -> list[Piece]:
    pieces = []
    for solid in filter(lambda solid: shown.part(solid.name), built.solids):
        piece = Piece(solid.name, solid.name, "closure", solid.mesh, solid.material)
        pieces.append(piece.moved(poses[solid.name]))
    return pieces


def _tube(
    tube: Tube, dipped: Tube | None, immersed: Immersed | None, pose: Array, shown: Shown
) -> list[Piece]:
    """A pipette or dip tube, in air or in the contents."""
    name, material = tube.name, tube.material
    if dipped is None or immersed is None:
        whole = immerse(tube, -np.inf, -np.inf).dry
        return [Piece(name, name, "closure", whole, material).moved(pose)]
    pieces = [Piece(name, name, "closure", immersed.dry, material)]
    if immersed.wet is not None and immersed.bore_top is not None:
        pieces += shown.touching(name, "closure", material, immersed.wet)
        pieces += shown.contents("contents-bore", immersed.bore_top)
    return pieces


def _refuse_covered(built: Built | None, sheets: tuple[Laid, ...]) -> None:
    if not built or built.skirt is None:
        return
    for index, sheet in enumerate(sheets):
        if isinstance(sheet, WrappedSheet) and sheet.part == BODY and sheet.top > built.skirt:
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
