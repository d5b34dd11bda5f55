"""Light transport for one stage: load it once, then take samples from any camera.

This is the seam to the renderer library; nothing outside knows which integrator runs. The
library's own path integrator does not absorb light along its way, so clear media are coloured
where they are crossed (see `Boundary.coloured_by`).
"""

from __future__ import annotations

from typing import Any

import numpy as np

from giftwrap.core.materials.optics import boundary_optics, coat_optics
from giftwrap.core.model import Camera
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.film import Exposure
from giftwrap.core.render.guides import take_guides
from giftwrap.core.render.interfaces import Boundary, Lamp, Stage, Surface
from giftwrap.core.stage.camera import view_of

MAX_BOUNCES = 20
"""A ray through a filled bottle crosses eight interfaces; this leaves room for reflections."""
ROULETTE_FROM = 4


class Renderer:
    """A stage loaded into the light engine."""

    def __init__(self, stage: Stage) -> None:
        self._engine = light_engine()
        scene: dict[str, Any] = {"type": "scene", "integrator": _integrator()}
        if stage.surround > 0:
            scene["surround"] = {"type": "constant", "radiance": _grey(stage.surround)}
        for index, lamp in enumerate(stage.lamps):
            scene[f"lamp{index}"] = self._lamp(lamp)
        for index, surface in enumerate(stage.surfaces):
            scene[f"surface{index}"] = self._surface(surface)
        self._scene = self._engine.load_dict(scene)

    def expose(
        self,
        camera: Camera,
        size: tuple[int, int],
        *,
        samples: int,
        seed: int,
        rows: tuple[int, int] | None = None,
        guide_samples: int = 0,
    ) -> Exposure:
        """Take samples of a picture of `size` (width, height) px, or of a band of its rows.

        Different seeds give independent samples; equal seeds give the same ones. With
        `guide_samples` the denoiser's guides come along.
        """
        top, bottom = rows or (0, size[1])
        sensor = self._engine.load_dict(self._sensor(camera, size, top, bottom))
        layers = self._engine.render(self._scene, sensor=sensor, spp=samples, seed=seed)
        light = np.nan_to_num(np.array(layers, dtype=np.float32), nan=0.0, posinf=0.0, neginf=0.0)
        albedo = normal = None
        if guide_samples:
            albedo, normal = take_guides(
                self._scene, sensor, (size[0], bottom - top), samples=guide_samples, seed=seed
            )
        return Exposure(top, samples, light, guide_samples, albedo, normal)

    def _lamp(self, lamp: Lamp) -> dict[str, Any]:
        transform = self._engine.ScalarTransform4f
        upright = [0, 1, 0] if _looks_along_z(lamp.position, lamp.target) else [0, 0, 1]
        return {
            "type": "rectangle",
            "to_world": transform().look_at(lamp.position, lamp.target, upright)
            @ transform().scale([lamp.width / 2, lamp.height / 2, 1]),
            "emitter": {"type": "area", "radiance": _grey(lamp.radiance)},
            "bsdf": {"type": "diffuse", "reflectance": _grey(0.0)},
        }

    def _surface(self, surface: Surface) -> Any:
        engine, source = self._engine, surface.mesh
        look = surface.look
        optics = boundary_optics(look) if isinstance(look, Boundary) else coat_optics(look)
        if not isinstance(look, Boundary) and look.print is not None:
            _with_bitmap(engine, optics)
        properties = engine.Properties()
        properties["bsdf"] = engine.load_dict(optics)
        mesh = engine.Mesh(
            surface.name,
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

    def _sensor(self, camera: Camera, size: tuple[int, int], top: int, bottom: int) -> dict[str, Any]:
        width, height = size
        view = view_of(camera, width / height)
        transform = self._engine.ScalarTransform4f
        place = transform().look_at(view.position, view.target, [0, 0, 1])
        film = {
            "type": "hdrfilm",
            "width": width,
            "height": height,
            "crop_offset_x": 0,
            "crop_offset_y": top,
            "crop_width": width,
            "crop_height": bottom - top,
            "rfilter": {"type": "box"},
        }
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


def _integrator() -> dict[str, Any]:
    return {"type": "path", "max_depth": MAX_BOUNCES, "rr_depth": ROULETTE_FROM}


def _with_bitmap(engine: Any, optics: dict[str, Any]) -> None:
    inner = optics["bsdf"] if optics["type"] == "twosided" else optics
    key = "reflectance" if inner["type"] == "diffuse" else "diffuse_reflectance"
    texture = inner[key]
    pixels = texture.pop("data")
    bottom_up = np.array(pixels[::-1])  # the library puts a bitmap's first row at v = 0
    texture["bitmap"] = engine.Bitmap(bottom_up, pixel_format=engine.Bitmap.PixelFormat.RGB)


def _grey(value: float) -> dict[str, Any]:
    return {"type": "rgb", "value": [value, value, value]}


def _looks_along_z(position: tuple[float, float, float], target: tuple[float, float, float]) -> bool:
    return abs(position[0] - target[0]) < 1e-6 and abs(position[1] - target[1]) < 1e-6
