"""A scene as flat tables on the light engine: things and where they stand, a row of optics for each
surface of each instance, one store of texels.

Everything the transport reads is data in a table, so one compiled kernel serves every scene.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache, cached_property
from typing import Any

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Array4f, Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.materials.optics import (
    AIR,
    INK_INDEX,
    MATT,
    ROUGHEST,
    SMOOTHEST,
    Detail,
    Medium,
    Optics,
    Texels,
)
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.render import optics_math as om
from giftwrap.core.render.coverage import ObjectName
from giftwrap.core.render.details import Detailed, DetailStore
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.memory import aligned
from giftwrap.core.render.scattering import CLEAR, CLOUDY, COAT, METAL, Look, under_coat
from giftwrap.core.render.texels import COLOUR, GLOSS, Texel, TexelStore
from giftwrap.core.scene.scene import Instance, Surface

ThingKey = tuple[bytes, ...]

ROW = 5
"""Rows of four numbers for each surface."""
OBJECT = 17
"""Which of them is the number of the object it belongs to."""


@dataclass
class Row:
    """A surface's row of optics for each ray; `number` is that of the object masks tell apart, and `behind`
    is 1 where its back has the texture after its own."""

    kind: UInt32
    alpha: Float
    coat_index: Float
    escape: Float
    colour: Array3f
    texels: UInt32
    n: Array3f
    k: Array3f
    front: UInt32
    back: UInt32
    untouched: UInt32
    number: UInt32
    hidden: Bool
    catcher: Bool
    behind: UInt32
    detail: UInt32


@dataclass
class Triangle:
    """Where in the scene each ray arrived; `surface` is the number of its row of optics.

    across, up : directions in which the sheet's coordinates grow
    own_place, own_normal : where it is on the thing; pose : rows of how that stands in the scene
    """

    place: Array3f
    face_normal: Array3f
    normal: Array3f
    uv: Array2f
    across: Array3f
    up: Array3f
    surface: UInt32
    own_place: Array3f
    own_normal: Array3f
    pose: list[Array4f]

    def placed(self, own: Array3f) -> Array3f:
        """A direction of the thing in the scene."""
        return Array3f(*(row.x * own.x + row.y * own.y + row.z * own.z for row in self.pose))


@dataclass
class MediumRow:
    """What fills the space a ray travels in. `mean_free_path` is 0 where light does not wander."""

    absorption: Array3f
    index: Float
    albedo: Array3f
    mean_free_path: Float


@dataclass(eq=False)
class LoadedThing:
    """A thing's meshes as the engine has them."""

    meshes: tuple[Mesh, ...]

    @cached_property
    def whole(self) -> Any:
        """All its surfaces as one mesh."""
        engine = light_engine()
        starts = np.cumsum([0, *(len(mesh.positions) for mesh in self.meshes)])[:-1]
        positions = np.concatenate([mesh.positions for mesh in self.meshes]).astype(np.float32)
        faces = np.concatenate([m.faces + start for m, start in zip(self.meshes, starts, strict=True)])
        whole = engine.Mesh("thing", vertex_count=len(positions), face_count=len(faces))
        values = engine.traverse(whole)
        values["vertex_positions"] = positions.ravel()
        values["faces"] = faces.astype(np.uint32).ravel()
        values.update()
        return whole

    @cached_property
    def group(self) -> Any:
        """A search tree of its own, to be placed."""
        return light_engine().load_dict({"type": "shapegroup", "mesh": self.whole})


class Tables:
    """All things' corners and faces one after the other, and where each thing's faces begin."""

    def __init__(self, things: Mapping[ThingKey, LoadedThing]) -> None:
        self.first_faces: dict[ThingKey, int] = {}
        faces, first, corners = [], 0, 0
        for key, thing in things.items():
            self.first_faces[key] = first
            for number, mesh in enumerate(thing.meshes):
                own = np.full(len(mesh.faces), number)
                faces.append(np.column_stack([mesh.faces + corners, own]).astype(np.uint32))
                corners += len(mesh.positions)
                first += len(mesh.faces)
        meshes = [mesh for thing in things.values() for mesh in thing.meshes]
        self.positions = aligned(Float, np.concatenate([mesh.positions for mesh in meshes]))
        self.normals = aligned(Float, np.concatenate([mesh.normals for mesh in meshes]))
        self.uvs = aligned(Float, np.concatenate([mesh.uvs for mesh in meshes]))
        self.faces = aligned(UInt32, np.concatenate(faces))
        dr.eval(self.positions, self.normals, self.uvs, self.faces)


class Geometry:
    """All things, each once, and where they stand: in the engine's search tree and as tables."""

    @classmethod
    def of(cls, instances: Sequence[Instance], *, previous: Geometry | None = None) -> Geometry:
        """The geometry of some instances: the previous one when nothing has moved."""
        if previous is not None and previous._holds(instances):
            return previous
        return cls(instances, previous=previous)

    def __init__(self, instances: Sequence[Instance], *, previous: Geometry | None = None) -> None:
        known = previous._things if previous is not None else {}
        self._things: dict[ThingKey, LoadedThing] = {}
        self._keys = tuple(thing_key(instance) for instance in instances)
        for key, instance in zip(self._keys, instances, strict=True):
            if key not in self._things:
                self._things[key] = known.get(key) or LoadedThing(instance.meshes)
        self._poses = tuple(np.array(instance.pose, dtype=np.float32) for instance in instances)
        same = previous is not None and list(self._things) == list(known)
        self._tables: Tables = previous._tables if previous and same else Tables(self._things)
        self.scene: Any = self._plant()
        firsts = [self._tables.first_faces[key] for key in self._keys]
        rows = np.cumsum([0, *(len(instance.meshes) for instance in instances)])[:-1]
        self._lay_instances(np.column_stack([firsts, rows]))

    def _holds(self, instances: Sequence[Instance]) -> bool:
        """Whether these instances are the ones that are loaded, to the last bit."""
        return self._keys == tuple(thing_key(instance) for instance in instances) and all(
            np.array_equal(pose, instance.pose.astype(np.float32))
            for pose, instance in zip(self._poses, instances, strict=True)
        )

    def _plant(self) -> Any:
        """The search tree.

        What stands but once and as it was formed is planted as it is: a tree within the tree costs light
        two or three per cent.
        """
        engine = light_engine()
        root: dict[str, Any] = {"type": "scene"}
        as_formed = Counter(self._keys)
        for number, (key, pose) in enumerate(zip(self._keys, self._poses, strict=True)):
            thing, name = self._things[key], f"instance-{number}"
            if as_formed[key] == 1 and np.array_equal(pose, np.eye(4)):
                root[name] = thing.whole
            else:
                root[f"thing-{list(self._things).index(key)}"] = thing.group
                root[name] = {
                    "type": "instance",
                    "to_world": engine.ScalarTransform4f(pose),
                    "of": thing.group,
                }
        return engine.load_dict(root)

    def _lay_instances(self, offsets: NDArray[np.int64]) -> None:
        """Where each instance stands and where its faces and its rows begin, by its number in the tree."""
        registered = dr.reinterpret_array(UInt32, self.scene.shapes_dr()).numpy()
        count = int(registered.max()) + 1
        places, begins = np.zeros((count, 3, 4), np.float32), np.zeros((count, 2), np.uint32)
        places[registered] = [pose[:3] for pose in self._poses]
        begins[registered] = offsets
        self._places, self._offsets = aligned(Float, places), aligned(UInt32, begins)
        dr.eval(self._places, self._offsets)

    def triangle(self, found: Any, active: Bool) -> Triangle:
        """Where rays arrived, by what the search tree found."""
        # of a mesh that is planted as it is, the shape is told, of an instance, the instance; the other is 0
        instance = dr.reinterpret_array(UInt32, found.instance) | dr.reinterpret_array(UInt32, found.shape)
        offsets = dr.gather(dr.llvm.ad.Array2u, self._offsets, instance, active)
        pose = [dr.gather(Array4f, self._places, instance * 3 + i, active) for i in range(3)]
        corners = dr.gather(dr.llvm.ad.Array4u, self._tables.faces, found.prim_index + offsets.x, active)
        u, v = found.prim_uv.x, found.prim_uv.y
        w = 1 - u - v

        def blend(table: Float, kind: type) -> Any:
            a, b, c = (dr.gather(kind, table, corners[i], active) for i in range(3))
            return a, b, c, w * a + u * b + v * c

        def placed(own: Array3f) -> Array3f:
            """A direction of the thing in the scene."""
            return Array3f(*(row.x * own.x + row.y * own.y + row.z * own.z for row in pose))

        a, b, c, place = blend(self._tables.positions, Array3f)
        *_, normal = blend(self._tables.normals, Array3f)
        s, t, r, uv = blend(self._tables.uvs, Array2f)
        first, second, one, other = b - a, c - a, t - s, r - s
        turned = dr.select(one.x * other.y - other.x * one.y < 0, -1.0, 1.0)
        return Triangle(
            place=placed(place) + Array3f(*(row.w for row in pose)),
            face_normal=dr.normalize(placed(dr.cross(first, second))),
            normal=dr.normalize(placed(normal)),
            uv=uv,
            across=placed(first * other.y - second * one.y) * turned,
            up=placed(second * one.x - first * other.x) * turned,
            surface=corners[3] + offsets.y,
            own_place=place,
            own_normal=normal,
            pose=pose,
        )


def thing_key(instance: Instance) -> ThingKey:
    """Names the thing an instance is of: equal for the same meshes to the last bit."""
    return tuple(mesh.digest for mesh in instance.meshes)


class Appearance:
    """What every surface and medium does with light, and what is printed where."""

    def __init__(
        self,
        instances: Sequence[Instance],
        lamps: Sequence[str],
        *,
        previous: Appearance | None = None,
    ) -> None:
        surfaces = [surface for instance in instances for surface in instance.surfaces]
        named = [object_name(i, surface) for i in instances for surface in i.surfaces]
        objects = {name: number for number, name in enumerate(dict.fromkeys(named))}
        self.objects = tuple(objects)
        media: dict[Medium, int] = {AIR: 0}
        for surface in surfaces:
            for medium in (surface.optics.front, surface.optics.back):
                media.setdefault(medium, len(media))
        textures, slots = _textures(surfaces)
        details = list(dict.fromkeys(s.optics.detail for s in surfaces if s.optics.detail is not None))
        self.details = DetailStore(details)
        self._paint_escape = diffuse_escape(INK_INDEX)
        numbers = _Numbers(media, lamps, slots, {detail: i + 1 for i, detail in enumerate(details)})
        self._rows = aligned(Float, _rows(instances, objects, numbers))
        self._media = aligned(Float, [_medium_row(m) for m in media])
        same = previous is not None and previous.texels.keys == tuple(texels.key for texels in textures)
        self.texels: TexelStore = previous.texels if previous and same else TexelStore(textures)
        self._textures = tuple(textures)  # what keys name by its address stays where it is
        dr.eval(self._rows, self._media)

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
            texels=UInt32(b.w),
            n=Array3f(c.x, c.y, c.z),
            k=Array3f(d.x, d.y, d.z),
            front=UInt32(c.w),
            back=UInt32(d.w),
            untouched=UInt32(e.x),
            number=UInt32(e.y),
            hidden=(flags & 1) != 0,
            catcher=(flags & 2) != 0,
            behind=(flags >> 2) & 1,
            detail=UInt32(e.w),
        )

    def medium(self, index: UInt32) -> MediumRow:
        """What a numbered medium does with light on its way."""
        a = dr.gather(Array4f, self._media, index * 2)
        b = dr.gather(Array4f, self._media, index * 2 + 1)
        return MediumRow(Array3f(a.x, a.y, a.z), a.w, Array3f(b.x, b.y, b.z), b.w)

    def look(
        self, row: Row, texel: Texel, its: Detailed, chance: Float, front: Bool, *, active: Bool
    ) -> tuple[Look, UInt32, UInt32]:
        """The surface as seen from one side; the media on the frame's upper and lower side.

        The frame's upper side is where the ray comes from, except out of a cloudy body.

        chance : evenly from 0 to 1, by which a place that is partly bare metal is metal or not
        """
        kind = dr.select(chance < texel.metal, UInt32(METAL), row.kind)
        kind = dr.select(its.painted, UInt32(COAT), kind)
        leaving = (kind == CLOUDY) & ~front
        upper_is_front = front | leaving
        upper = dr.select(upper_is_front, row.front, row.back)
        lower = dr.select(upper_is_front, row.back, row.front)
        n_upper = dr.gather(Float, self._media, upper * 8 + 3, active)
        n_lower = dr.gather(Float, self._media, lower * 8 + 3, active)
        coat = dr.select(its.painted, dr.maximum(INK_INDEX / n_upper, 1.0), row.coat_index)
        index = dr.select(kind == CLEAR, n_lower / n_upper, coat)
        coloured, glossed = (texel.has & COLOUR) != 0, (texel.has & GLOSS) != 0
        colour = dr.select(coloured, texel.colour, dr.lerp(row.colour, its.colour, its.share))
        alpha = dr.select(glossed, ROUGHEST * (SMOOTHEST / ROUGHEST) ** texel.gloss, row.alpha)
        alpha = dr.lerp(alpha * its.roughened, its.alpha, its.turned)
        bare = glossed & (texel.gloss < MATT)
        escape = Array3f(dr.select(its.painted, self._paint_escape, row.escape))
        index, escape = dr.select(bare, 1.0, index), dr.select(bare, Array3f(1.0), escape)
        filmed = (its.film > 0) & (kind != METAL)
        colour = dr.select((kind == COAT) & ~filmed, under_coat(colour, index, alpha), colour)
        escape = dr.select(filmed, its.escape, escape)
        colour = dr.select(leaving, Array3f(1.0), colour * dr.select(kind == CLEAR, Array3f(1.0), its.tint))
        widths = dr.minimum(Array2f(alpha * its.stretch, alpha / its.stretch), 1)
        look = Look(
            *(kind, widths, index, colour, row.n, row.k, escape, leaving),
            *(its.tint, its.sheen, its.passes, its.lacquer, its.film, self.details.films),
        )
        return look, upper, lower


def _texture_key(optics: Optics) -> tuple[Any, Any]:
    return optics.texels and optics.texels.key, optics.behind and optics.behind.key


def _textures(surfaces: Sequence[Surface]) -> tuple[list[Texels], dict[Any, int]]:
    """Textures of surfaces, those of backs after those of their fronts; and their numbers, from 1."""
    textures: list[Texels] = []
    slots: dict[Any, int] = {}
    for optics in (surface.optics for surface in surfaces):
        key = _texture_key(optics)
        if optics.texels is not None and key not in slots:
            slots[key] = len(textures) + 1
            textures += [optics.texels, *([optics.behind] if optics.behind else [])]
    return textures, slots


def object_name(instance: Instance, surface: Surface) -> ObjectName:
    """What masks call the object a surface belongs to."""
    return ObjectName(instance.name, surface.part, surface.material)


@dataclass(frozen=True)
class _Numbers:
    """What rows of optics refer to by numbers."""

    media: Mapping[Medium, int]
    lamps: Sequence[str]
    slots: Mapping[Any, int]
    details: Mapping[Detail, int]


def _rows(
    instances: Sequence[Instance], objects: Mapping[ObjectName, int], numbers: _Numbers
) -> NDArray[np.float32]:
    """(surfaces, 4 · ROW) numbers. What instances have in common is worked out once."""
    known: dict[int, NDArray[np.float32]] = {}
    found = []
    for instance in instances:
        alike = id(instance.surfaces)
        if alike not in known:
            known[alike] = np.array([_row(s, numbers) for s in instance.surfaces], np.float32)
        own = known[alike].copy()
        own[:, OBJECT] = [objects[object_name(instance, surface)] for surface in instance.surfaces]
        found.append(own)
    return np.concatenate(found) if found else np.zeros((1, 4 * ROW), np.float32)


def _row(surface: Surface, numbers: _Numbers) -> list[float]:
    """A surface's numbers; that of its object is put in for each instance."""
    optics: Optics = surface.optics
    untouched = sum(1 << i for i, name in enumerate(numbers.lamps) if name in surface.untouched_by)
    flags = int(surface.hidden_from_camera) + 2 * int(surface.catcher) + 4 * int(optics.behind is not None)
    slot = numbers.slots[_texture_key(optics)] if optics.texels is not None else 0
    detail = numbers.details[optics.detail] if optics.detail is not None else 0
    return [
        *(float(optics.kind), optics.alpha, optics.coat_index, diffuse_escape(optics.coat_index)),
        *(*optics.colour, float(slot)),
        *(*optics.n, float(numbers.media[optics.front])),
        *(*optics.k, float(numbers.media[optics.back])),
        *(float(untouched), 0.0, float(flags), float(detail)),
    ]


def _medium_row(medium: Medium) -> list[float]:
    return [*medium.absorption, medium.index, *medium.albedo, medium.mean_free_path]


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
