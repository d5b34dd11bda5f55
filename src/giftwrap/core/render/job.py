"""A picture as work: cut into units that any process can do and anybody can add up."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from giftwrap.core.errors import RenderError
from giftwrap.core.grade.display import grade_picture
from giftwrap.core.model import Grade, Pack, PhotoSet, Shot
from giftwrap.core.render.denoise import denoise
from giftwrap.core.render.film import Exposure, Film, Floats
from giftwrap.core.render.interfaces import compile_stage
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.wrap.printing import PRINT_PPI

PATHS_PER_UNIT = 2_400_000
"""Keeps a unit at a few seconds and its memory bounded whatever the picture's size."""
GUIDE_SAMPLES = 12
"""Guides are free of grain after about this many samples a pixel."""
MAX_SIDE = 16_384
MAX_SAMPLES = 65_536


@dataclass(frozen=True)
class PictureJob:
    """Everything a process needs to work on one picture: documents as JSON, artwork by SHA-256."""

    pack: str
    photo_set: str
    shot: str
    artwork: tuple[tuple[str, bytes], ...]
    width: int
    height: int
    print_ppi: float = PRINT_PPI

    def __post_init__(self) -> None:
        if not (8 <= self.width <= MAX_SIDE and 8 <= self.height <= MAX_SIDE):
            raise RenderError(
                f"A picture of {self.width} × {self.height} px cannot be made: "
                f"each side takes 8 to {MAX_SIDE} px.",
                "size",
            )

    @property
    def stage_key(self) -> str:
        """Names the stage: equal for pictures that differ only in camera, grade or size."""
        names = "".join(name for name, _ in self.artwork)
        parts = [self.pack, self.photo_set, names, str(self.print_ppi)]
        return hashlib.sha256("\0".join(parts).encode()).hexdigest()


@dataclass(frozen=True)
class WorkUnit:
    """One seed's share of a picture: a band of rows and a number of samples, some with guides."""

    seed: int
    top: int
    bottom: int
    samples: int
    guide_samples: int


def plan_units(width: int, height: int, samples: int) -> Iterator[WorkUnit]:
    """Cut a picture into units, whole passes over the picture one after the other.

    At least two passes are planned so that noise can be told, and each grows the whole picture.
    """
    if not 2 <= samples <= MAX_SAMPLES:
        raise RenderError(f"{samples} samples cannot be taken: choose 2 to {MAX_SAMPLES}.", "samples")
    rows = min(height, max(PATHS_PER_UNIT // width, 1))
    per_pass = max(min(PATHS_PER_UNIT // (width * rows), samples // 2, 16), 1)
    seed, taken, guided = 0, 0, 0
    while taken < samples:
        count = min(per_pass, samples - taken)
        guides = min(count, GUIDE_SAMPLES - guided)
        for top in range(0, height, rows):
            yield WorkUnit(seed, top, min(top + rows, height), count, guides)
            seed += 1
        taken += count
        guided += guides


def expose_unit(job: PictureJob, unit: WorkUnit) -> Exposure:
    """Take one unit's samples. The stage stays loaded for the next unit of the same one."""
    camera = Shot.model_validate_json(job.shot).camera
    renderer = _stages(_Keyed(job.stage_key, job))
    return renderer.expose(
        camera,
        (job.width, job.height),
        samples=unit.samples,
        seed=unit.seed,
        rows=(unit.top, unit.bottom),
        guide_samples=unit.guide_samples,
    )


def develop(film: Film, grade: Grade, *, fast: bool = False) -> tuple[Floats, Floats]:
    """Denoise and grade: `(light, picture)`, linear light and sRGB code values."""
    light = denoise(film.mean_light(), *film.guides(), fast=fast)
    return light, grade_picture(light, grade)


@dataclass(frozen=True)
class _Keyed:
    """A job that is equal to every job on the same stage."""

    key: str
    job: PictureJob

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Keyed) and other.key == self.key


@lru_cache(maxsize=2)
def _stages(keyed: _Keyed) -> Renderer:
    job = keyed.job
    pack = Pack.model_validate_json(job.pack)
    photo_set = PhotoSet.model_validate_json(job.photo_set)
    return Renderer(compile_stage(pack, photo_set, dict(job.artwork), print_ppi=job.print_ppi))
