"""Pictures of materials on their chip."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image

from giftwrap.core.grade.display import encode_srgb, linear_colour
from giftwrap.core.model.material import Material
from giftwrap.core.model.panel import pictures_in
from giftwrap.core.render.denoise import denoise
from giftwrap.core.render.files import shelf
from giftwrap.core.render.film import Film
from giftwrap.core.scene.swatch import CAMERA, PICTURE_SET, swatch_scene

SIZE, SAMPLES = (168, 126), 40
"""A swatch's picture, px, and the samples of each."""
QUALITY = 92


def draw_swatch(material: Material, *, size: tuple[int, int] = SIZE, samples: int = SAMPLES) -> Image.Image:
    """A chip of a material, RGB. Raises RenderError when light cannot be computed on this machine."""
    from giftwrap.core.render.renderer import Renderer  # starts the compiler library

    film = Film(*size)
    film.add(
        Renderer(swatch_scene(material, shelf.files(pictures_in(material)))).expose(
            CAMERA, size, samples=samples, seed=1
        )
    )
    background = linear_colour(PICTURE_SET.background)
    light = denoise(film.mean_light(background), *film.albedo_and_normal())
    return Image.fromarray(np.round(255 * encode_srgb(light)).astype(np.uint8))


def swatch_file(material: Material) -> bytes:
    """A chip of a material as a WebP picture. Raises RenderError as `draw_swatch` does."""
    stream = io.BytesIO()
    draw_swatch(material).save(stream, "WEBP", quality=QUALITY)
    return stream.getvalue()
