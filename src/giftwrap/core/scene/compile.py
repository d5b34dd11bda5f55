"""The scene compiler: things where they stand, each surface knowing both of its sides, under lamps.

Nothing overlaps and nothing coincides: where glass meets liquid there is one surface, and a
label is a closed shell a glue's width away from the wall.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cache

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.materials.optics import (
    AIR,
    UPRIGHT,
    Stance,
    material_optics,
    medium_of,
    printed_optics,
)
from giftwrap.core.materials.pictured import pictured
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.transform import shift
from giftwrap.core.model import Clear, Frame, Light, Metal, Opaque, PhotoSet, SweepBehind
from giftwrap.core.model.material import Material
from giftwrap.core.scene.lamps import cards_of, lamps_of, shielded
from giftwrap.core.scene.relief import pressed
from giftwrap.core.scene.scene import Instance, Scene, Surface
from giftwrap.core.scene.surrounding import FINEST, QUICKEST, seen_behind, surrounding_of
from giftwrap.core.stage.camera import px_per_mm
from giftwrap.core.stage.fitting import fitted_camera, fitted_set
from giftwrap.core.stage.standing import extent_of, line_up
from giftwrap.core.stage.sweep import floor_mesh, sweep_meshes
from giftwrap.core.things.making import place_of, thing_of, things_in
from giftwrap.core.things.thing import Piece, Thing
from giftwrap.core.wrap.printing import finest_ppi, ppi_for, print_panel

MOST_TRIANGLES = 24_000_000
"""Of all things of a scene, each counted once."""

MOST_SHEETS = 1_200_000_000
"""Bytes of all pictures of materials of a scene, each counted once: nine of the largest."""
STOCK_GIVES = 0.8
"""Share of its thickness that stock may be pressed in: what lies behind it does not give."""
SWEEP = "sweep"
PICTURE = (1200, 1500)
"""A picture in px for which labels are printed where none is named."""


def compile_scene(
    frame: Frame,
    artwork: Mapping[str, bytes],
    *,
    size: tuple[int, int] = PICTURE,
    print_ppi: float | None = None,
    quick: bool = False,
) -> Scene:
    """Compile what stands in a frame, on its set, under its lights.

    artwork : file contents by SHA-256
    size : of the picture in px, by which labels are printed as finely as it shows them
    print_ppi : how finely they are printed instead
    quick : for a proof, which shows no more than it needs: packs are shaped with fewer columns, as the
        engine builds the trees of all things anew whenever one is moved, and embossing only leans the surface

    Raises PackError or ArtworkError, with the place in the frame, when the documents cannot be built.
    """
    things = things_in(frame, lambda pack: thing_of(pack, artwork, coarse=quick))
    _refuse_too_many(things)
    placed = line_up(frame, things)
    extent = extent_of(placed)
    camera = fitted_camera(frame.shot, extent, size[0] / size[1])
    wanted = print_ppi or ppi_for(px_per_mm(camera, size, extent.corners))
    ppi = min(wanted, finest_ppi([panel for thing in things.values() for panel in thing.panels]))
    photo_set = fitted_set(frame.photo_set, extent)
    azimuth = frame.shot.camera.azimuth
    rows = QUICKEST if quick else FINEST
    around = surrounding_of(photo_set.surround, artwork, camera_azimuth=azimuth, rows=rows)
    seen = seen_behind(photo_set, artwork, around, camera_azimuth=azimuth, rows=rows)
    lamps, burning = lamps_of(photo_set, extent, artwork, camera_azimuth=azimuth)
    looks = {key: _surfaces(thing, artwork, ppi) for key, thing in things.items()}
    _refuse_too_large(looks)
    meshes = {key: thing.meshes if quick else _pressed(thing, artwork, ppi) for key, thing in things.items()}
    named = {c.standing for one in burning.values() for c in (*one.untouched, *one.unreflected)}

    @cache  # things that no lamp tells from others share their surfaces
    def lit(key: str, standing: str | None) -> tuple[Surface, ...]:
        return tuple(shielded(surface, standing, burning) for surface in looks[key])

    standing = [
        Instance(one.id, meshes[one.key], lit(one.key, one.id if one.id in named else None), one.pose)
        for one in placed
    ]
    cards = cards_of(photo_set, extent, [SWEEP, *(one.name for one in standing)])
    instances = (backdrop_of(photo_set, burning, artwork), *standing, *cards)
    return Scene(instances, lamps, around, seen, extent)


def _refuse_too_many(things: Mapping[str, Thing]) -> None:
    """Raise PackError when the things of a scene have more triangles than can be held together."""
    own = {key: sum(len(mesh.faces) for mesh in thing.meshes) for key, thing in things.items()}
    if sum(own.values()) > MOST_TRIANGLES:
        largest = max(own, key=lambda key: own[key])
        raise PackError(
            f"All of this needs {sum(own.values()) / MOST_TRIANGLES:.1f} times the triangles that can be "
            f"rendered together: simplify “{largest}”, or show less.",
            place_of(largest),
        )


def _refuse_too_large(looks: Mapping[str, Sequence[Surface]]) -> None:
    """Raise PackError when the pictures of a scene's materials are more than can be held together."""
    sheets = {
        key: {
            id(detail.sheet): detail.sheet.nbytes
            for surface in surfaces
            if (detail := surface.optics.detail) and detail.sheet
        }
        for key, surfaces in looks.items()
    }
    total = sum({number: size for own in sheets.values() for number, size in own.items()}.values())
    if total > MOST_SHEETS:
        largest = max(sheets, key=lambda key: sum(sheets[key].values()))
        raise PackError(
            f"The pictures of these materials are {total / MOST_SHEETS:.1f} times what can be "
            f"rendered together: use smaller ones on “{largest}”, or show less.",
            place_of(largest),
        )


def _surfaces(thing: Thing, artwork: Mapping[str, bytes], print_ppi: float) -> tuple[Surface, ...]:
    """What a thing's meshes do to light, from its body outwards."""
    stance = cache(lambda part: _stance(part, thing.pieces))

    def stood(piece: Piece) -> Stance:
        made_of = piece.material if piece.panel is None else thing.panels[piece.panel].made_of
        lies = made_of.grain is not None or made_of.fade is not None
        return replace(stance(piece.part) if lies else UPRIGHT, inside=piece.inside)

    return tuple(_surface(piece, thing, artwork, print_ppi, stood(piece)) for piece in thing.pieces)


def _stance(part: str, pieces: Sequence[Piece]) -> Stance:
    """How a part stands: upright as it was formed, its foot on 0, about the axis it was formed around or,
    where that is not within it, its middle."""
    own = [piece for piece in pieces if piece.part == part]
    to_formed = np.linalg.inv(own[0].pose)
    points = np.vstack([piece.mesh.positions for piece in own]) @ to_formed[:3, :3].T + to_formed[:3, 3]
    low, high = points.min(axis=0), points.max(axis=0)
    around = (low[:2] < 0).all() and (high[:2] > 0).all()
    middle = np.zeros(2) if around else (low[:2] + high[:2]) / 2
    radius = float(np.linalg.norm(points[:, :2] - middle, axis=1).max())
    to_part = shift(-middle[0], -middle[1], -low[2]) @ to_formed
    return Stance(tuple(tuple(map(float, row)) for row in to_part[:3]), radius)


def _pressed(thing: Thing, artwork: Mapping[str, bytes], print_ppi: float) -> tuple[Mesh, ...]:
    """A thing's meshes, printed faces with what is embossed on them."""

    def shaped(piece: Piece) -> Mesh:
        if piece.panel is None:
            return piece.mesh
        panel = thing.panels[piece.panel]
        return pressed(piece.mesh, print_panel(panel, artwork, ppi=print_ppi), STOCK_GIVES * panel.thickness)

    return tuple(map(shaped, thing.pieces))


def backdrop_of(photo_set: PhotoSet, burning: Mapping[str, Light], artwork: Mapping[str, bytes]) -> Instance:
    """The sweep. Where something else is seen behind what stands there is its floor alone, of which the
    camera sees no more than the shadows on it, or nothing."""
    sweep, behind = photo_set.sweep, photo_set.behind
    catcher = hidden = False
    meshes = sweep_meshes(sweep)
    if not isinstance(behind, SweepBehind):
        catcher, hidden, meshes = behind.shadow, not behind.shadow, (floor_mesh(sweep),)
    paper = Opaque(colour=photo_set.background, gloss=0.0)
    made_of: list[Opaque | Metal] = [sweep.made_of or paper, *([sweep.other.made_of] if sweep.other else [])]
    surfaces = [
        Surface(
            *(SWEEP, pictured(material_optics(laid_over(one)), artwork), "paper", SWEEP),
            catcher=catcher,
            hidden_from_camera=hidden,
        )
        for one in made_of[: len(meshes)]
    ]
    return Instance(SWEEP, meshes, tuple(shielded(one, None, burning) for one in surfaces))


def laid_over(material: Material) -> Material:
    """What is wrapped around a part lies flat on a sheet, which has no inside either."""
    changes: dict[str, object] = {}
    if material.grain is not None and material.grain.lies in ("around", "unwrapped"):
        changes["grain"] = material.grain.model_copy(update={"lies": "over"})
    if isinstance(material, Clear):
        changes["frosted"] = "both"
    return material.model_copy(update=changes) if changes else material


def _surface(
    piece: Piece, thing: Thing, artwork: Mapping[str, bytes], print_ppi: float, stance: Stance
) -> Surface:
    front = AIR if piece.front is None else medium_of(piece.front)
    material = piece.material
    if piece.panel is not None:
        panel = thing.panels[piece.panel]
        sheet = print_panel(panel, artwork, ppi=print_ppi)
        optics = printed_optics(
            panel.made_of, sheet.face, behind=sheet.behind, metal=sheet.metal, front=front, stance=stance
        )
    else:
        optics = material_optics(material, front=front, stance=stance)
    made_of = "stock" if piece.group == "labels" else piece.part
    return Surface(piece.part, pictured(optics, artwork), material=made_of, group=piece.group)
