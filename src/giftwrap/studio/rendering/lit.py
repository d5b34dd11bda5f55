"""Small pictures of what stands in the light of every set-up, so that nobody has to guess."""

from __future__ import annotations

import base64
import logging
from collections.abc import AsyncIterator
from typing import Any

from channels.db import database_sync_to_async
from distributed import KilledWorker
from distributed.client import FutureCancelledError

from giftwrap.core.errors import GiftwrapError
from giftwrap.core.model import Frame
from giftwrap.core.model.arrangement import Arrangement, SetUp
from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.proof import thumbnail
from giftwrap.core.stage.arranging import arranged
from giftwrap.core.stage.setups import SETUPS
from giftwrap.crew import FINAL
from giftwrap.studio.jobs.shapes import things_of
from giftwrap.studio.library.own_set_ups import own_set_ups
from giftwrap.studio.rendering.bus import bus

log = logging.getLogger(__name__)

PIXELS = 9_000
PRIORITY = 40
"""Behind colours that are matched, before thumbnails."""


async def lit_by_all(frame: Frame, aspect: float) -> AsyncIterator[dict[str, Any]]:
    """What is told to the page, set-up by set-up as they are ready; what cannot be seen is left out."""
    width = max(round((PIXELS * aspect) ** 0.5), 16)
    size = width, max(round(width / aspect), 16)
    for what, how in await database_sync_to_async(_every_setup)():
        try:
            job = await database_sync_to_async(_job)(frame, how, size)
            client = bus.client()
            if client is None:
                return
            picture = await client.submit(thumbnail, job, pure=False, resources={FINAL: 1}, priority=PRIORITY)
        except (GiftwrapError, FutureCancelledError, KilledWorker, OSError):
            continue
        except Exception:
            log.exception("A set-up could not be pictured.")
            continue
        data = base64.b64encode(picture).decode()
        yield {"type": "set-up", "what": what, "picture": f"data:image/jpeg;base64,{data}"}


def _every_setup() -> list[tuple[str, Arrangement]]:
    """Those that the studio has kept first, by what pages call them."""
    own: list[tuple[str, Arrangement]] = [(f"own-{one.number}", one.how) for one in own_set_ups()]
    return [*own, *((what, SetUp(what=what)) for what in SETUPS)]


def _job(frame: Frame, how: Arrangement, size: tuple[int, int]) -> PictureJob:
    photo_set = arranged(frame, how, things_of(frame))
    lit = frame.model_copy(update={"photo_set": photo_set})
    return PictureJob.of(lit, *size, print_ppi=40, quick=True)
