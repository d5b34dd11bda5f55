"""A scene in the renderer library's own terms, for its stock integrators: the referee of our own.

Looks that the library has too are the same; coats become its nearest plastic, which loses light where it
is rough: `core/render/tests/test_coats.py` has another referee for these.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.materials.optics import AIR, Medium, Optics, OpticsKind
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.transform import moved
from giftwrap.core.model import Camera
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.transport import MAX_BOUNCES, ROULETTE_FROM
from giftwrap.core.scene.lamp import Lamp
from giftwrap.core.scene.scene import Scene
from giftwrap.core.scene.surrounding import Surrounding
from giftwrap.core.stage.camera import view_of


class LibraryScene:
    """A scene loaded for one of the library's integrators: "path", or "volpath" for absorption."""

    def __init__(self, one: Scene, integrator: str = "path", *, max_depth: int = MAX_BOUNCES) -> None:
        self._engine = light_engine()
        self._absorbs = integrator == "volpath"
        scene: dict[str, Any] = {
            "type": "scene",
            "integrator": {
                "type": integrator,
                "max_depth": max_depth,
                "rr_depth": ROULETTE_FROM,
            },
        }
        if one.around.picture is not None:
            scene["surround"] = self._pictured(one.around)
        elif max(one.around.colour) > 0:
            scene["surround"] = {"type": "constant", "radiance": _grey(one.around.colour[0])}
        for index, lamp in enumerate(one.lamps):
            scene[f"lamp{index}"] = self._lamp(lamp)
        for number, instance in enumerate(one.instances):
            for index, (mesh, surface) in enumerate(zip(instance.meshes, instance.surfaces, strict=True)):
                scene[f"surface{number}-{index}"] = self._surface(moved(mesh, instance.pose), surface.optics)
        self._scene = self._engine.load_dict(scene)

    def _pictured(self, around: Surrounding) -> dict[str, Any]:
        """Its pictures stand with y up, have another half in their middle, and rows at both poles: with twice
        as many and one, what is between the middles of texels is the same."""
        c, s = np.cos(np.radians(around.turn)), np.sin(np.radians(around.turn))
        turned = np.array([[c, s, 0, 0], [-s, c, 0, 0], [0, 0, 1, 0], [0, 0, 0, 1]])
        lying = np.array([[-1, 0, 0, 0], [0, 0, 1, 0], [0, 1, 0, 0], [0, 0, 0, 1]])
        assert around.picture is not None
        ends = around.picture[[0, *range(len(around.picture)), -1]] * np.float32(around.colour)
        light = np.empty((2 * len(around.picture) + 1, *around.picture.shape[1:]), np.float32)
        light[0::2], light[1::2] = (ends[:-1] + ends[1:]) / 2, ends[1:-1]
        return {
            "type": "envmap",
            "bitmap": self._engine.Bitmap(light),
            "to_world": self._engine.ScalarTransform4f(turned @ lying),
        }

    def render(
        self, camera: Camera, size: tuple[int, int], *, samples: int, seed: int
    ) -> NDArray[np.float32]:
        """Mean light, (h, w, 3)."""
        sensor = self._engine.load_dict(self._sensor(camera, size))
        layers = self._engine.render(self._scene, sensor=sensor, spp=samples, seed=seed)
        return np.array(layers, dtype=np.float32)

    def _lamp(self, lamp: Lamp) -> dict[str, Any]:
        transform = self._engine.ScalarTransform4f
        axes = np.column_stack([lamp.across, lamp.up, lamp.normal, lamp.centre])
        return {
            "type": "rectangle",
            "to_world": transform(np.vstack([axes, [0, 0, 0, 1]])),
            "emitter": {"type": "area", "radiance": {"type": "rgb", "value": list(lamp.radiance)}},
            "bsdf": {"type": "diffuse", "reflectance": _grey(0.0)},
        }

    def _surface(self, source: Mesh, optics: Optics) -> Any:
        engine = self._engine
        properties = engine.Properties()
        properties["bsdf"] = engine.load_dict(self._look(optics))
        if self._absorbs and optics.kind == OpticsKind.CLEAR:
            for side, medium in (("interior", optics.back), ("exterior", optics.front)):
                if medium != AIR:
                    properties[side] = self._medium(medium)
        mesh = engine.Mesh(
            "surface",
            vertex_count=len(source.positions),
            face_count=len(source.faces),
            has_vertex_normals=True,
            has_vertex_texcoords=True,
            props=properties,
        )
        values = engine.traverse(mesh)
        values["vertex_positions"] = source.positions.astype(np.float32).ravel()
        values["vertex_normals"] = source.normals.astype(np.float32).ravel()
        values["vertex_texcoords"] = source.uvs.astype(np.float32).ravel()
        values["faces"] = source.faces.astype(np.uint32).ravel()
        values.update()
        return mesh

    def _medium(self, medium: Medium) -> Any:
        most = max(*medium.absorption, 1e-9)  # the library takes colours for reflectances, at most 1
        return self._engine.load_dict(
            {
                "type": "homogeneous",
                "albedo": _grey(0.0),
                "sigma_t": {"type": "rgb", "value": [max(a / most, 1e-9) for a in medium.absorption]},
                "scale": most,
            }
        )

    def _look(self, optics: Optics) -> dict[str, Any]:
        if optics.kind == OpticsKind.CLEAR:
            ends = {"int_ior": optics.back.index, "ext_ior": optics.front.index}
            if optics.alpha == 0:
                return {"type": "dielectric", **ends}
            return {"type": "roughdielectric", "distribution": "ggx", "alpha": optics.alpha, **ends}
        if optics.kind == OpticsKind.METAL:
            return {
                "type": "roughconductor",
                "distribution": "ggx",
                "alpha": optics.alpha,
                "eta": {"type": "rgb", "value": list(optics.n)},
                "k": {"type": "rgb", "value": list(optics.k)},
                "specular_reflectance": {"type": "rgb", "value": list(optics.colour)},
            }
        colour: dict[str, Any] = {"type": "rgb", "value": list(optics.colour)}
        if optics.texels is not None and optics.texels.colour is not None:
            bottom_up = np.array(optics.texels.colour[::-1])  # the library puts a bitmap's first row at v = 0
            bitmap = self._engine.Bitmap(bottom_up, pixel_format=self._engine.Bitmap.PixelFormat.RGB)
            colour = {"type": "bitmap", "bitmap": bitmap, "raw": False, "wrap_mode": "clamp"}
        if optics.coat_index == 1:
            return {"type": "twosided", "bsdf": {"type": "diffuse", "reflectance": colour}}
        return {
            "type": "roughplastic",
            "distribution": "ggx",
            "int_ior": optics.coat_index,
            "alpha": optics.alpha,
            "nonlinear": True,
            "diffuse_reflectance": colour,
        }

    def _sensor(self, camera: Camera, size: tuple[int, int]) -> dict[str, Any]:
        width, height = size
        view = view_of(camera, width / height)
        transform = self._engine.ScalarTransform4f
        place = transform().look_at(view.position, view.target, [0, 0, 1])
        film = {"type": "hdrfilm", "width": width, "height": height, "rfilter": {"type": "box"}}
        common = {"near_clip": 1.0, "far_clip": 1e5, "film": film, "sampler": {"type": "independent"}}
        if view.width is not None:
            scale = transform().scale([view.width / 2, view.width / 2, 1])
            return {"type": "orthographic", "to_world": place @ scale, **common}
        return {
            "type": "perspective",
            "to_world": place,
            "fov": view.vertical_angle,
            "fov_axis": "y",
            **common,
        }


def _grey(value: float) -> dict[str, Any]:
    return {"type": "rgb", "value": [value, value, value]}
