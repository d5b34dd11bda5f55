"""Things and where they stand on the light engine: in its search tree, and as tables of corners and faces."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Array4f, Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.memory import aligned
from giftwrap.core.scene.scene import Instance

ThingKey = tuple[bytes, ...]


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
        two or three per cent. All shapes are made before: what the engine made from descriptions itself would
        come behind those in its order, by which `_lay_instances` knows them.
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
                placed = {
                    "type": "instance",
                    "to_world": engine.ScalarTransform4f(pose),
                    "of": thing.group,
                }
                root[name] = engine.load_dict(placed)
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
