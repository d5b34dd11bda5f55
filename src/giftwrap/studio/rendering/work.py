"""From frames to work: what a rendering process needs to know about a picture."""

from __future__ import annotations

from typing import Any

from giftwrap.core.model import Frame
from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.planning import Region
from giftwrap.core.render.proof import proof_job
from giftwrap.studio.files import refuse_lost


def picture_job(frame: Frame, size: tuple[int, int]) -> PictureJob:
    """The work on a frame. Files go by their hashes, and are fetched when they are lacked.

    Raises ArtworkError when a file is missing, PackError when the documents contradict each other, and
    RenderError when the size is impossible.
    """
    refuse_lost(frame.artwork_uses())
    return PictureJob.of(frame, *size)


def proof_of(frame: Frame, size: tuple[int, int], region: Region | None = None) -> PictureJob:
    """The work on a proof of a frame, or of a part of it, like that on a picture."""
    refuse_lost(frame.artwork_uses())
    return proof_job(frame, *size, region)


def job_from(documents: dict[str, Any], size: tuple[int, int]) -> PictureJob:
    """The work for a frame kept as JSON, of this release or of an older one."""
    return picture_job(Frame.model_validate(documents), size)
