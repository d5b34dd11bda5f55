"""A picture as work that any process can do and anybody can add up."""

from __future__ import annotations

import hashlib
import threading
import time
import zlib
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from giftwrap.core.errors import RenderError
from giftwrap.core.grade.display import grade_picture
from giftwrap.core.model import EvenSurround, Frame, Grade, SweepBehind
from giftwrap.core.render.behind import before_exposure, even_behind, seen_surround, unshaded
from giftwrap.core.render.denoise import denoise
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.files import shelf
from giftwrap.core.render.film import Exposure, Film, Floats
from giftwrap.core.render.planning import Limits, Plan, Region, WorkUnit
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.scene.scene import Scene
from giftwrap.core.stage.fitting import fitted_camera

if TYPE_CHECKING:
    from giftwrap.core.render.renderer import Renderer

SCENES_KEPT = 3
"""Scenes that stay loaded: those of a few people at work."""
QUICK_SCENES_KEPT = 12
"""Scenes of proofs that stay loaded, those of a few shots besides: each takes some 50 MB."""
MAX_SIDE = 16_384
MAX_FILM_PIXELS = 16_000_000
"""A film of this many pixels takes about three gigabytes; larger pictures are taken in blocks."""


@dataclass(frozen=True)
class PictureJob:
    """Everything a process needs to work on one picture.

    packed : the frame, as `of` packs it; files are named in it and fetched (`render.files`)
    width, height : of the whole picture in px
    print_ppi : how finely labels are printed; None for as finely as the picture shows them
    region : the part of it that is wanted
    quick : for a proof: packs are shaped with fewer columns
    """

    packed: bytes
    width: int
    height: int
    print_ppi: float | None = None
    region: Region | None = None
    quick: bool = False

    @classmethod
    def of(
        cls, frame: Frame, width: int, height: int, *, print_ppi: float | None = None, quick: bool = False
    ) -> PictureJob:
        """The work on a frame at a size in px. Raises RenderError when the size is impossible."""
        packed = zlib.compress(frame.model_dump_json().encode())
        return cls(packed, width, height, print_ppi, quick=quick)

    @property
    def frame(self) -> Frame:
        """The documents."""
        return _unpacked(self.packed)

    def __post_init__(self) -> None:
        if not (8 <= self.width <= MAX_SIDE and 8 <= self.height <= MAX_SIDE):
            raise RenderError(
                f"A picture of {self.width} × {self.height} px cannot be made: "
                f"each side takes 8 to {MAX_SIDE} px.",
                "size",
            )
        part = self.region
        if part and not (
            0 <= part.left < part.left + part.width <= self.width
            and 0 <= part.top < part.top + part.height <= self.height
        ):
            raise RenderError(
                f"The region {part.width} × {part.height} px at {part.left}, {part.top} reaches beyond the "
                f"picture of {self.width} × {self.height} px: make it smaller or move it.",
                "region",
            )

    @property
    def film_size(self) -> tuple[int, int]:
        """Width and height of what is wanted, in px."""
        return (self.region.width, self.region.height) if self.region else (self.width, self.height)

    @property
    def grade(self) -> Grade:
        """From light to screen."""
        return self.frame.shot.grade

    @property
    def background(self) -> tuple[float, float, float]:
        """Radiance the camera sees where there is nothing, where that is even."""
        return even_behind(self.frame)

    @property
    def scene_key(self) -> str:
        """Names the scene: equal for pictures that differ only in grade, or in camera and size where
        labels are not printed by these."""
        left_out = {"grade", "purposes", "views", "references"}
        printed = f"{self.width}x{self.height}"
        if self.print_ppi is not None:
            left_out |= {"camera", "framed_by_hand"}
            printed = f"{self.print_ppi}"
        own = self.frame.model_dump_json(exclude={"shot": left_out})
        held = self.frame.shot.camera.azimuth if self._holds_to_camera() else ""
        return hashlib.sha256(f"{own}@{printed}{self.quick}{held}".encode()).hexdigest()

    def _holds_to_camera(self) -> bool:
        """Whether a surround goes with the camera."""
        photo_set = self.frame.photo_set
        arounds = [photo_set.surround, getattr(photo_set.behind, "other", None)]
        return any(getattr(one, "held", None) == "camera" for one in arounds)


@lru_cache(maxsize=16)
def _unpacked(packed: bytes) -> Frame:
    return Frame.model_validate_json(zlib.decompress(packed))


def expose_unit(job: PictureJob, unit: WorkUnit) -> Exposure:
    """Take one unit's samples. The scene stays loaded for the next unit of the same one."""
    work = unit.work(*job.film_size)
    renderer = scene_renderer(job)
    return renderer.expose(
        fitted_camera(job.frame.shot, renderer.extent, job.width / job.height),
        (job.width, job.height),
        samples=work.samples,
        seed=unit.seed,
        begin=work.begin,
        region=job.region,
        pixels=work.pixels,
    )


def take(
    job: PictureJob,
    limits: Limits,
    *,
    until: Callable[[Film], bool] = lambda film: False,
    first_number: int = 0,
) -> Film:
    """Take a picture in this process; `until` is asked after each unit whether it is enough.

    Pictures with other first numbers (see `Plan`) are taken anew, with samples of their own.

    Raises RenderError when it is too large to be taken in one piece.
    """
    width, height = job.film_size
    if width * height > MAX_FILM_PIXELS:
        raise RenderError(
            f"{width} × {height} px are too many to be taken in one piece: at most "
            f"{MAX_FILM_PIXELS / 1e6:.0f} megapixels.",
            "size",
        )
    film, plan = Film(*job.film_size), Plan(*job.film_size, limits, first_number=first_number)
    exposure_ev = job.grade.exposure_ev
    started = time.monotonic()
    while units := plan.next_pass(film, exposure_ev):
        for unit in units:
            film.add(expose_unit(job, unit))
            late = limits.seconds is not None and time.monotonic() - started > limits.seconds
            if (until(film) or late) and film.samples.min() > 0:
                return film
    return film


def develop(film: Film, job: PictureJob, *, fast: bool = False) -> tuple[Floats, Floats]:
    """Denoise and grade: `(light, picture)`, linear light and sRGB code values, each (h, w, 3)."""
    albedo, normal = film.albedo_and_normal()
    light = light_of(film, job, lambda noisy: denoise(noisy, albedo, normal, fast=fast))
    return light, grade_picture(light, job.grade)


def light_of(film: Film, job: PictureJob, clean: Callable[[Floats], Floats] = lambda noisy: noisy) -> Floats:
    """(h, w, 3) linear light before what is seen behind.

    clean : takes the grain out of (h, w, 3) light
    """
    light = clean(film.mean_light(job.background))
    if isinstance(job.frame.photo_set.behind, SweepBehind):
        return light
    passed = film.caught_light() * unshaded(film, clean)[..., None]
    around = seen_surround(job.frame)
    if around is not None:
        even = isinstance(around, EvenSurround)
        shown = passed * np.array(job.background, np.float32) if even else passed
        return np.asarray(light + shown, np.float32)
    artwork = shelf.files(job.frame.photo_set.picture_uses())
    painted = before_exposure(job.frame, artwork, (job.width, job.height), job.region)
    return np.asarray(light + (film.buffer("background") + passed) * painted, np.float32)


def scene_renderer(job: PictureJob) -> Renderer:
    """The job's scene, loaded. What it has in common with the scene before stays loaded.

    Raises RenderError when light cannot be computed on this machine.
    """
    light_engine()
    from giftwrap.core.render.renderer import Renderer  # starts the compiler library

    with _lock:
        renderer = _loaded.pop(job.scene_key, None)
        if renderer is None:
            before = next(reversed(_loaded.values()), None)
            renderer = Renderer(scene_of(job), previous=before)
            if not job.quick:
                renderer.keep_light(job.width * job.height)
        _loaded[job.scene_key] = renderer
        while len(_loaded) > (QUICK_SCENES_KEPT if job.quick else SCENES_KEPT):
            _loaded.popitem(last=False)
        return renderer


_lock = threading.Lock()
_loaded: OrderedDict[str, Renderer] = OrderedDict()


def scene_of(job: PictureJob) -> Scene:
    """The job's scene, compiled anew."""
    artwork = shelf.files(job.frame.artwork_uses())
    size = (job.width, job.height)
    return compile_scene(job.frame, artwork, size=size, print_ppi=job.print_ppi, quick=job.quick)
