"""From rows to work: what a rendering process needs to know about a picture."""

from __future__ import annotations

from giftwrap.core.model import Pack, PhotoSet, Shot
from giftwrap.core.render.job import PictureJob
from giftwrap.core.wrap.printing import PRINT_PPI
from giftwrap.studio.jobs import models
from giftwrap.studio.library.files import artwork_of


def picture_job(
    pack: Pack,
    photo_set: PhotoSet,
    shot: Shot,
    size: tuple[int, int],
    *,
    print_ppi: float = PRINT_PPI,
) -> PictureJob:
    """Bundle documents and the artwork they use.

    Raises ArtworkError when a file is missing and RenderError when the size is impossible.
    """
    return PictureJob(
        pack=pack.model_dump_json(),
        photo_set=photo_set.model_dump_json(),
        shot=shot.model_dump_json(),
        artwork=tuple(sorted(artwork_of(pack.artwork_uses()).items())),
        width=size[0],
        height=size[1],
        print_ppi=print_ppi,
    )


def documents_of(shot: models.Shot) -> dict[str, dict]:
    """A shot's documents as they are now, as JSON."""
    return {
        "pack": shot.pack.document,
        "photo_set": shot.photo_set.document,
        "shot": shot.document,
    }


def job_from(documents: dict[str, dict], size: tuple[int, int]) -> PictureJob:
    """The work for documents kept as JSON."""
    return picture_job(
        Pack.model_validate(documents["pack"]),
        PhotoSet.model_validate(documents["photo_set"]),
        Shot.model_validate(documents["shot"]),
        size,
    )
