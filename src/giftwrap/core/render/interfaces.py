"""The scene compiler: documents become interfaces, each one surface that knows both of its sides.

Nothing overlaps and nothing coincides: where glass meets liquid there is one surface, and a
label is a closed shell a glue's width away from the wall.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from giftwrap.core.form.mesh import Mesh, revolve, turned
from giftwrap.core.form.shape import Shape, shape_pack
from giftwrap.core.materials.optics import AIR, Medium, Optics, boundary_optics, medium_of, surface_optics
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque, Pack, PhotoSet
from giftwrap.core.stage.lights import softbox_position, softbox_radiance
from giftwrap.core.stage.sweep import sweep_mesh
from giftwrap.core.wrap.panel import back_mesh, face_mesh
from giftwrap.core.wrap.printing import PRINT_PPI, print_panel

RESERVED_BUFFERS = ("surround", "background")
"""Names of the buffers beside those of the lamps."""


@dataclass(frozen=True)
class Surface:
    """One interface of the scene.

    part : name of the solid it belongs to, as masks tell it apart
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
    shape = shape_pack(pack)
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
    part = "labels" if surface.part.startswith("label") else surface.part
    lamps = frozenset(lamp for lamp, parts in untouched.items() if part in parts)
    return replace(surface, untouched_by=lamps) if lamps else surface


def pack_surfaces(
    shape: Shape, artwork: Mapping[str, bytes], *, print_ppi: float = PRINT_PPI
) -> tuple[Surface, ...]:
    """The interfaces of one pack, from the glass outwards."""
    surfaces = [*_glass_and_liquid(shape)]
    if shape.cap and shape.pack.closure:
        optics = surface_optics(shape.pack.closure.material)
        surfaces.append(Surface("closure", "closure", revolve(shape.cap.surface), optics, material="closure"))
    for number, sheet in enumerate(shape.sheets, start=1):
        stock, part = sheet.panel.stock, f"label-{number}"
        printed = print_panel(sheet.panel, artwork, ppi=print_ppi)
        front, back = surface_optics(stock, print=printed), surface_optics(stock)
        surfaces.append(Surface(part, part, face_mesh(sheet), front, material="stock"))
        surfaces.append(Surface(f"{part}-back", part, back_mesh(sheet), back, material="stock"))
    return tuple(surfaces)


def _glass_and_liquid(shape: Shape) -> list[Surface]:
    """The body and what fills it, each place between two of them being one surface."""
    wall, vessel, liquid = shape.pack.body.material, shape.vessel, shape.liquid
    contents = shape.pack.contents.material if shape.pack.contents else None
    if liquid is None or contents is None:
        return [Surface("body", "body", revolve(vessel.glass), _wall_optics(wall, AIR), material="body")]
    dry, wet, top = revolve(liquid.dry), revolve(liquid.wall), revolve(liquid.top)
    surfaces = [Surface("body", "body", dry, _wall_optics(wall, AIR), material="body")]
    if isinstance(contents, Clear):
        drink = medium_of(contents)
        surfaces.append(Surface("wetted-body", "body", wet, _wall_optics(wall, drink), material="body"))
        top_optics = boundary_optics(drink)
    else:
        # light wanders in the contents, so the surface is theirs and faces the wall
        front = medium_of(wall) if isinstance(wall, Clear) else AIR
        touching = surface_optics(contents, front=front)
        surfaces.append(Surface("filled-body", "contents", turned(wet), touching, material="contents"))
        top_optics = surface_optics(contents)
    surfaces.append(Surface("contents-top", "contents", top, top_optics, material="contents"))
    return surfaces


def _wall_optics(wall: Clear | Cloudy | Opaque | Metal, front: Medium) -> Optics:
    if isinstance(wall, Clear):
        return boundary_optics(medium_of(wall), front, frost=wall.frost if front == AIR else 0.0)
    return surface_optics(wall, front=front)
