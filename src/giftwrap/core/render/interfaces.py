"""The scene compiler: documents become interfaces, each one surface that knows both of its sides.

Nothing overlaps and nothing coincides: where glass meets liquid there is one surface, and a
label is a closed shell a glue's width away from the wall.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.form.mesh import Mesh, revolve
from giftwrap.core.form.shape import Shape, shape_pack
from giftwrap.core.model import Clear, Opaque, Pack, PhotoSet
from giftwrap.core.stage.lights import softbox_position, softbox_radiance
from giftwrap.core.stage.sweep import sweep_mesh
from giftwrap.core.wrap.panel import back_mesh, face_mesh
from giftwrap.core.wrap.printing import PRINT_PPI, print_panel

AIR = Clear(refractive_index=1.0)


@dataclass(frozen=True)
class Boundary:
    """A smooth surface between two clear media; `inside` is behind its normals.

    `coloured_by` lists the media a ray crosses around this surface and for how many mm on
    average: what an integrator without absorption uses to colour it.
    """

    inside: Clear
    outside: Clear
    coloured_by: tuple[tuple[Clear, float], ...] = ()


@dataclass(frozen=True)
class Coat:
    """An opaque surface, plain or printed. `print` is (h, w, 3) uint8 sRGB, top row first."""

    material: Opaque
    print: NDArray[np.uint8] | None = None


@dataclass(frozen=True)
class Surface:
    """One interface of the scene."""

    name: str
    mesh: Mesh
    look: Boundary | Coat


@dataclass(frozen=True)
class Lamp:
    """A lit rectangle: where it hangs, what it is aimed at (mm), its size and radiance."""

    name: str
    position: tuple[float, float, float]
    target: tuple[float, float, float]
    width: float
    height: float
    radiance: float


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
    backdrop = Surface(
        "sweep", sweep_mesh(photo_set.sweep), Coat(Opaque(colour=photo_set.background, gloss=0.0))
    )
    lamps = tuple(
        Lamp(
            light.name,
            softbox_position(light, middle),
            (0.0, 0.0, middle),
            light.width,
            light.height,
            softbox_radiance(light),
        )
        for light in photo_set.lights
        if light.on and light.power_w > 0
    )
    surfaces = (backdrop, *pack_surfaces(shape, artwork, print_ppi=print_ppi))
    return Stage(surfaces, lamps, photo_set.surround.strength)


def pack_surfaces(
    shape: Shape, artwork: Mapping[str, bytes], *, print_ppi: float = PRINT_PPI
) -> tuple[Surface, ...]:
    """The interfaces of one pack, from the glass outwards."""
    surfaces = [*_glass_and_liquid(shape)]
    if shape.cap and shape.pack.closure:
        surfaces.append(Surface("closure", revolve(shape.cap.surface), Coat(shape.pack.closure.material)))
    for number, sheet in enumerate(shape.sheets, start=1):
        stock = sheet.panel.stock
        printed = print_panel(sheet.panel, artwork, ppi=print_ppi)
        surfaces.append(Surface(f"label-{number}", face_mesh(sheet), Coat(stock, printed)))
        surfaces.append(Surface(f"label-{number}-back", back_mesh(sheet), Coat(stock)))
    return tuple(surfaces)


def _glass_and_liquid(shape: Shape) -> list[Surface]:
    glass, half_wall = shape.pack.body.material, shape.pack.body.wall_thickness / 2
    vessel, liquid, contents = shape.vessel, shape.liquid, shape.pack.contents
    by_glass = (glass, half_wall)
    if liquid is None or contents is None:
        return [Surface("glass", revolve(vessel.glass), Boundary(glass, AIR, (by_glass,)))]
    drink = contents.material
    reach = float(liquid.wall.points[:, 0].max())
    return [
        Surface("glass", revolve(liquid.dry), Boundary(glass, AIR, (by_glass,))),
        Surface("wetted-glass", revolve(liquid.wall), Boundary(glass, drink, (by_glass, (drink, reach)))),
        Surface("liquid-top", revolve(liquid.top), Boundary(drink, AIR)),
    ]
