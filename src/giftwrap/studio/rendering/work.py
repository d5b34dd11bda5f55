"""From frames to work: what a rendering process needs to know about a picture."""

from __future__ import annotations

from typing import Any

from giftwrap.core.model import Frame
from giftwrap.core.render.job import PictureJob
from giftwrap.core.wrap.printing import PRINT_PPI
from giftwrap.studio.files import refuse_lost


def picture_job(frame: Frame, size: tuple[int, int], *, print_ppi: float = PRINT_PPI) -> PictureJob:
    """The work on a frame. Files go by their hashes; rendering processes fetch what they lack.

    Raises ArtworkError when a file is missing, PackError when the documents contradict each other, and
    RenderError when the size is impossible.
    """
    refuse_lost(frame.artwork_uses())
    return PictureJob.of(frame, *size, print_ppi=print_ppi)


def job_from(documents: dict[str, Any], size: tuple[int, int]) -> PictureJob:
    """The work for a frame kept as JSON, of this release or of an older one."""
    return picture_job(Frame.model_validate(documents), size)
