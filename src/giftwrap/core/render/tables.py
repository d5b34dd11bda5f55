"""A stage as flat tables on the light engine: one mesh, one row of optics a surface, one picture store.

Everything the transport reads is data in a table, so one compiled kernel serves every stage.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Array4f, Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.form.mesh import Mesh
from giftwrap.core.grade.display import decode_srgb
from giftwrap.core.materials.optics import AIR, Medium, Optics
from giftwrap.core.render import optics_math as om
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.interfaces import Surface
from giftwrap.core.render.memory import aligned
from giftwrap.core.render.scattering import CLEAR, CLOUDY, Look

ROW = 5
"""Rows of four numbers for each surface."""


@dataclass
class Row:
    """A surface's row of optics for each ray."""

    kind: UInt32
    alpha: Float
    coat_index: Float
    escape: Float
    colour: Array3f
    print: UInt32
    n: Array3f
    k: Array3f
    front: UInt32
    back: UInt32
    untouched: UInt32
    part: UInt32
    hidden: Bool
    catcher: Bool


@dataclass
class Triangle:
    """Where on the mesh each ray arrived."""

    place: Array3f
    face_normal: Array3f
    normal: Array3f
    uv: Array2f
    surface: UInt32


@dataclass
class MediumRow:
    """What fills the space a ray travels in. `mean_free_path` is 0 where light does not wander."""

    absorption: Array3f
    index: Float
    albedo: Array3f
    mean_free_path: Float


class Geometry:
    """All surfaces as one mesh, in the engine's search tree and as tables."""

    @classmethod
    def of(cls, surfaces: Sequence[Surface], *, previous: Geometry | None = None) -> Geometry:
        """The geometry of some surfaces: the previous one when nothing has moved."""
        meshes = [s.mesh for s in surfaces]
        return previous if previous is not None and previous._holds(meshes) else cls(meshes)

    def __init__(self, meshes: Sequence[Mesh]) -> None:
        self._meshes = tuple(meshes)
        positions = np.concatenate([m.positions for m in meshes]).astype(np.float32)
        starts = np.cumsum([0, *(len(m.positions) for m in meshes)])[:-1]
        faces = np.concatenate([m.faces + start for m, start in zip(meshes, starts, strict=True)])
        engine = light_engine()
        mesh = engine.Mesh("stage", vertex_count=len(positions), face_count=len(faces))
        values = engine.traverse(mesh)
        values["vertex_positions"] = positions.ravel()
        values["faces"] = faces.astype(np.uint32).ravel()
        values.update()
        self.scene: Any = engine.load_dict({"type": "scene", "stage": mesh})
        self._positions = aligned(Float, positions)
        self._normals = aligned(Float, np.concatenate([m.normals for m in meshes]))
        self._uvs = aligned(Float, np.concatenate([m.uvs for m in meshes]))
        owner = np.repeat(np.arange(len(meshes)), [len(m.faces) for m in meshes])
        self._faces = aligned(UInt32, np.column_stack([faces, owner]))
        dr.eval(self._positions, self._normals, self._uvs, self._faces)

    def _holds(self, meshes: Sequence[Mesh]) -> bool:
        """Whether these meshes are the ones that are loaded, to the last bit."""
        return len(meshes) == len(self._meshes) and all(
            new is old or new.digest == old.digest for new, old in zip(meshes, self._meshes, strict=True)
        )

    def triangle(self, index: UInt32, u: Float, v: Float, active: Bool) -> Triangle:
        """Place, normals and print coordinates at barycentric coordinates of a triangle."""
        corners = dr.gather(dr.llvm.ad.Array4u, self._faces, index, active)
        w = 1 - u - v

        def blend(table: Float, kind: type) -> Any:
            a, b, c = (dr.gather(kind, table, corners[i], active) for i in range(3))
            return a, b, c, w * a + u * b + v * c

        a, b, c, place = blend(self._positions, Array3f)
        *_, normal = blend(self._normals, Array3f)
        *_, uv = blend(self._uvs, Array2f)
        face_normal = dr.normalize(dr.cross(b - a, c - a))
        return Triangle(place, face_normal, dr.normalize(normal), uv, corners[3])


class Appearance:
    """What every surface and medium does with light, and what is printed where."""

    def __init__(
        self,
        surfaces: Sequence[Surface],
        parts: Sequence[str],
        lamps: Sequence[str],
        *,
        previous: Appearance | None = None,
    ) -> None:
        media: dict[Medium, int] = {AIR: 0}
        for surface in surfaces:
            for medium in (surface.optics.front, surface.optics.back):
                media.setdefault(medium, len(media))
        prints = [s.optics.print for s in surfaces if s.optics.print is not None]
        slots = {id(pixels): number for number, pixels in enumerate(prints, start=1)}
        rows = [
            _row(s, media, parts.index(s.part), lamps, slots.get(id(s.optics.print), 0)) for s in surfaces
        ]
        self._rows = aligned(Float, rows)
        self._media = aligned(Float, [_medium_row(m) for m in media])
        self._prints = tuple(prints)
        self._print_sizes: UInt32
        self._pixels: UInt32
        if previous is not None and list(map(id, prints)) == list(map(id, previous._prints)):
            self._print_sizes, self._pixels = previous._print_sizes, previous._pixels
        else:
            self._print_sizes, self._pixels = _print_tables(prints)
        self._decoded = aligned(Float, decode_srgb(np.arange(256, dtype=np.float32) / np.float32(255)))
        dr.eval(self._rows, self._media, self._print_sizes, self._pixels, self._decoded)

    def row(self, surface: UInt32, active: Bool) -> Row:
        """The optics of a surface."""
        quads = [dr.gather(Array4f, self._rows, surface * ROW + i, active) for i in range(ROW)]
        a, b, c, d, e = quads
        flags = UInt32(e.z)
        return Row(
            kind=UInt32(a.x),
            alpha=a.y,
            coat_index=a.z,
            escape=a.w,
            colour=Array3f(b.x, b.y, b.z),
            print=UInt32(b.w),
            n=Array3f(c.x, c.y, c.z),
            k=Array3f(d.x, d.y, d.z),
            front=UInt32(c.w),
            back=UInt32(d.w),
            untouched=UInt32(e.x),
            part=UInt32(e.y),
            hidden=(flags & 1) != 0,
            catcher=(flags & 2) != 0,
        )

    def medium(self, index: UInt32) -> MediumRow:
        """What a numbered medium does with light on its way."""
        a = dr.gather(Array4f, self._media, index * 2)
        b = dr.gather(Array4f, self._media, index * 2 + 1)
        return MediumRow(Array3f(a.x, a.y, a.z), a.w, Array3f(b.x, b.y, b.z), b.w)

    def look(self, row: Row, uv: Array2f, front: Bool, active: Bool) -> tuple[Look, UInt32, UInt32]:
        """The surface as seen from one side; the media on the frame's upper and lower side.

        The frame's upper side is where the ray comes from, except out of a cloudy body.
        """
        leaving = (row.kind == CLOUDY) & ~front
        upper_is_front = front | leaving
        upper = dr.select(upper_is_front, row.front, row.back)
        lower = dr.select(upper_is_front, row.back, row.front)
        n_upper = dr.gather(Float, self._media, upper * 8 + 3, active)
        n_lower = dr.gather(Float, self._media, lower * 8 + 3, active)
        clear = row.kind == CLEAR
        index = dr.select(clear, n_lower / n_upper, row.coat_index)
        colour = dr.select(leaving, Array3f(1.0), self._printed(row, uv, active))
        return Look(row.kind, row.alpha, index, colour, row.n, row.k, row.escape, leaving), upper, lower

    def _printed(self, row: Row, uv: Array2f, active: Bool) -> Array3f:
        """Colour at print coordinates, between the four nearest pixels; the row's own without a print."""
        has_print = active & (row.print > 0)
        which = dr.maximum(row.print, 1) - 1
        size = dr.gather(dr.llvm.ad.Array4u, self._print_sizes, which, has_print)
        width, height = size.y, size.z
        x = dr.clip(uv.x * Float(width) - 0.5, 0, Float(width) - 1)
        y = dr.clip((1 - uv.y) * Float(height) - 0.5, 0, Float(height) - 1)
        left, top = UInt32(x), UInt32(y)
        right, bottom = dr.minimum(left + 1, width - 1), dr.minimum(top + 1, height - 1)
        across, down = x - Float(left), y - Float(top)

        def pixel(column: UInt32, line: UInt32) -> Array3f:
            packed = dr.gather(UInt32, self._pixels, size.x + line * width + column, has_print)
            codes = (packed & 255, (packed >> 8) & 255, (packed >> 16) & 255)
            return Array3f(*(dr.gather(Float, self._decoded, code, has_print) for code in codes))

        above = dr.lerp(pixel(left, top), pixel(right, top), across)
        below = dr.lerp(pixel(left, bottom), pixel(right, bottom), across)
        return dr.select(has_print, dr.lerp(above, below, down), row.colour)


def _row(
    surface: Surface, media: dict[Medium, int], part: int, lamps: Sequence[str], print_slot: int
) -> list[float]:
    optics: Optics = surface.optics
    untouched = sum(1 << i for i, name in enumerate(lamps) if name in surface.untouched_by)
    flags = int(surface.hidden_from_camera) + 2 * int(surface.catcher)
    return [
        *(float(optics.kind), optics.alpha, optics.coat_index, diffuse_escape(optics.coat_index)),
        *(*optics.colour, float(print_slot)),
        *(*optics.n, float(media[optics.front])),
        *(*optics.k, float(media[optics.back])),
        *(float(untouched), float(part), float(flags), 0.0),
    ]


def _medium_row(medium: Medium) -> list[float]:
    return [*medium.absorption, medium.index, *medium.albedo, medium.mean_free_path]


def _print_tables(prints: Sequence[NDArray[np.uint8]]) -> tuple[UInt32, UInt32]:
    """Every print's start, width and height; and all their pixels, packed."""
    sizes, chunks, start = [], [], 0
    for pixels in prints:
        height, width = pixels.shape[:2]
        sizes.append([start, width, height, 0])
        wide = pixels.astype(np.uint32)
        chunks.append((wide[..., 0] | (wide[..., 1] << 8) | (wide[..., 2] << 16)).ravel())
        start += width * height
    sizes.append([0, 1, 1, 0])
    chunks.append(np.zeros(1, np.uint32))
    return aligned(UInt32, sizes), aligned(UInt32, np.concatenate(chunks))


@cache
def diffuse_escape(index: float) -> float:
    """Share of even light from outside that enters a smooth surface of a refractive index.

    One less the cosine-weighted mean of Fresnel's reflectance over the hemisphere.
    """
    if index == 1:
        return 1.0
    sin2 = (np.arange(2048) + 0.5) / 2048
    reflectance, _ = om.dielectric_reflectance(Float(np.sqrt(1 - sin2)), Float(index))
    return float(1 - np.mean(reflectance.numpy()))
