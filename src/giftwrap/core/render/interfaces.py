"""The scene compiler: documents become interfaces, each one surface that knows both of its sides.

Nothing overlaps and nothing coincides: where glass meets liquid there is one surface, and a
label is a closed shell a glue's width away from the wall.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from giftwrap.core.form.mesh import Mesh
from giftwrap.core.form.shape import Piece, Shape, shape_pack
from giftwrap.core.materials.optics import AIR, Optics, boundary_optics, medium_of, surface_optics
from giftwrap.core.model import Clear, Opaque, Pack, PhotoSet
from giftwrap.core.stage.lights import softbox_position, softbox_radiance
from giftwrap.core.stage.sweep import sweep_mesh
from giftwrap.core.wrap.printing import PRINT_PPI, finest_ppi, print_panel

RESERVED_BUFFERS = ("surround", "background")
"""Names of the buffers beside those of the lamps."""


@dataclass(frozen=True)
class Surface:
    """One interface of the scene.

    part : name of the solid it belongs to, as masks tell it apart
    group : the parts it is lit alike with: body, contents, closure, labels
    material : name of what that solid is made of
    untouched_by : names of lamps that do not light it
    hidden_from_camera : the camera does not see it; it still shades and is reflected
    catcher : shows only the shadows and reflections that fall on it
    """

    name: str
    part: str
    mesh: Mesh
    optics: Optics
    material: str = "matt"
    group: str = ""
    untouched_by: frozenset[str] = frozenset()
    hidden_from_camera: bool = False
    catcher: bool = False


@dataclass(frozen=True)
class Lamp:
    """A lit rectangle: where it hangs, what it is aimed at (mm), its size and radiance."""

    name: str
    position: tuple[float, float, float]
    target: tuple[float, float, float]
    width: float
    height: float
    radiance: float
    hidden_from_camera: bool = False
    hidden_from_reflections: bool = False


@dataclass(frozen=True)
class Stage:
    """Everything light meets."""

    surfaces: tuple[Surface, ...]
    lamps: tuple[Lamp, ...]
    surround: float


def compile_stage(
    pack: Pack, photo_set: PhotoSet, artwork: Mapping[str, bytes], *, print_ppi: float = PRINT_PPI
) -> Stage:
    """Compile a pack on its set.

    artwork : file contents by SHA-256

    Raises PackError or ArtworkError when the documents cannot be built.
    """
    shape = shape_pack(pack, artwork)
    middle = shape.height / 2
    paper = Opaque(colour=photo_set.background, gloss=0.0)
    backdrop = Surface("sweep", "sweep", sweep_mesh(photo_set.sweep), surface_optics(paper), material="paper")
    burning = [light for light in photo_set.lights if light.on and light.power_w > 0]
    lamps = tuple(
        Lamp(
            name,
            softbox_position(light, middle),
            (0.0, 0.0, middle),
            light.width,
            light.height,
            softbox_radiance(light),
            light.hidden_from_camera,
            light.hidden_from_reflections,
        )
        for light, name in zip(burning, _told_apart([light.name for light in burning]), strict=True)
    )
    untouched = {lamp.name: light.untouched for lamp, light in zip(lamps, burning, strict=True)}
    surfaces = (backdrop, *pack_surfaces(shape, artwork, print_ppi=print_ppi))
    return Stage(tuple(_shielded(s, untouched) for s in surfaces), lamps, photo_set.surround.strength)


def _told_apart(names: list[str]) -> list[str]:
    """Names of which no two are alike."""
    found: list[str] = []
    for name in names:
        number, told = 2, name
        while told in found or told in RESERVED_BUFFERS:
            told, number = f"{name} {number}", number + 1
        found.append(told)
    return found


def _shielded(surface: Surface, untouched: Mapping[str, Sequence[str]]) -> Surface:
    """The surface with the names of the lamps that do not light it."""
    lamps = frozenset(
        lamp for lamp, parts in untouched.items() if surface.group in parts or surface.part in parts
    )
    return replace(surface, untouched_by=lamps) if lamps else surface


def pack_surfaces(
    shape: Shape, artwork: Mapping[str, bytes], *, print_ppi: float = PRINT_PPI
) -> tuple[Surface, ...]:
    """The interfaces of one pack, from its body outwards."""
    print_ppi = min(print_ppi, finest_ppi(shape.pack.panels))
    return tuple(_surface(piece, shape.pack, artwork, print_ppi) for piece in shape.pieces)


def _surface(piece: Piece, pack: Pack, artwork: Mapping[str, bytes], print_ppi: float) -> Surface:
    front = AIR if piece.front is None else medium_of(piece.front)
    material = piece.material
    if isinstance(material, Clear):
        frost = material.frost if front == AIR else 0.0
        optics = boundary_optics(medium_of(material), front, frost=frost)
    else:
        panel = None if piece.panel is None else pack.panels[piece.panel]
        printed = print_panel(panel, artwork, ppi=print_ppi) if panel else None
        optics = surface_optics(material, print=printed, front=front)
    made_of = "stock" if piece.group == "labels" else piece.part
    return Surface(piece.name, piece.part, piece.mesh, optics, material=made_of, group=piece.group)
