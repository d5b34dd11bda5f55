"""Pictures of materials on their chip, and of props."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image

from giftwrap.core.grade.display import encode_srgb, linear_colour
from giftwrap.core.model import Frame, OfProp, Pose, Standing
from giftwrap.core.model.material import Material
from giftwrap.core.model.panel import pictures_in
from giftwrap.core.model.prop import PropName
from giftwrap.core.props.kinds import usual
from giftwrap.core.render.denoise import denoise
from giftwrap.core.render.files import shelf
from giftwrap.core.render.film import Film
from giftwrap.core.render.planning import Limits
from giftwrap.core.scene.swatch import CAMERA, PICTURE_SET, swatch_scene
from giftwrap.core.stage.starting import starting_set, starting_shot

SIZE, SAMPLES = (168, 126), 40
"""A swatch's picture, px, and the samples of each."""
QUALITY = 92
PROP_SEED = 5


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


def draw_prop(what: PropName) -> bytes:
    """A prop as it usually is, alone on a new set, as a WebP picture. Raises RenderError as `draw_swatch`."""
    from giftwrap.core.render.job import PictureJob, develop, take

    prop = usual(what, seed=PROP_SEED)
    on_set = starting_set().model_copy(
        update={
            "props": {what: prop},
            "standing": [Standing(id=what, of=OfProp(prop=what), pose=Pose(turn=24))],
            "background": PICTURE_SET.background,
        }
    )
    camera = starting_shot().camera.model_copy(update={"height": 420.0, "margin": 0.18})
    shot = starting_shot().model_copy(update={"camera": camera})
    job = PictureJob.of(Frame(packs={}, photo_set=on_set, shot=shot), *(2 * side for side in SIZE))
    _, picture = develop(take(job, Limits(samples=SAMPLES, adaptive=False)), job)
    small = Image.fromarray(np.round(255 * picture).astype(np.uint8)).resize(SIZE, Image.Resampling.LANCZOS)
    return _webp(small)


def swatch_file(material: Material) -> bytes:
    """A chip of a material as a WebP picture. Raises RenderError as `draw_swatch` does."""
    return _webp(draw_swatch(material))


def _webp(image: Image.Image) -> bytes:
    stream = io.BytesIO()
    image.save(stream, "WEBP", quality=QUALITY)
    return stream.getvalue()
