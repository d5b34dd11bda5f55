"""Colours that a page asks to be matched as they are seen in its proof."""

from __future__ import annotations

import logging
from typing import Annotated, Any

from distributed import KilledWorker
from distributed.client import FutureCancelledError
from pydantic import BaseModel, Field

from giftwrap.core.errors import GiftwrapError, RenderError
from giftwrap.core.model import Frame
from giftwrap.core.model.document import MOST_ID, HexColour
from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque
from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.matching import match_seen
from giftwrap.crew import FINAL
from giftwrap.studio.rendering.bus import bus

log = logging.getLogger(__name__)

PIXELS = 24_000
"""Of the picture that is matched in."""
PRIORITY = 50
LOST = "The process that was matching is gone: try again in a moment."
BROKE = "Something broke inside while this was matched. The studio's log says what."


class MatchRequest(BaseModel):
    """A part of the pack that is seen, what it is made of, and the colour of the picture it should have."""

    number: int = Field(ge=0, le=MOST_ID)
    part: str = Field(min_length=1, max_length=120)
    material: Annotated[Clear | Cloudy | Opaque | Metal, Field(discriminator="kind")]
    target: HexColour


async def matched(request: MatchRequest, frame: Frame, aspect: float) -> dict[str, Any]:
    """What is told to the page: the material, how it looks and what is left, or why there is none."""
    told: dict[str, Any] = {"type": "matched", "number": request.number}
    width = max(round((PIXELS * aspect) ** 0.5), 16)
    try:
        client = bus.client()
        if client is None:
            raise RenderError(LOST)
        job = PictureJob.of(frame, width, max(round(width / aspect), 16), print_ppi=60, quick=True)
        found = await client.submit(
            *(match_seen, job, request.part, request.material, request.target),
            **{"pure": False, "resources": {FINAL: 1}, "priority": PRIORITY},
        )
    except GiftwrapError as error:
        return {**told, "problem": error.message}
    except (FutureCancelledError, KilledWorker, OSError):
        return {**told, "problem": LOST}
    except Exception:
        log.exception("A match failed.")
        return {**told, "problem": BROKE}
    material = found.material.model_dump(mode="json")
    return {**told, "material": material, "seen": found.seen, "off": found.off, "why": found.why}
