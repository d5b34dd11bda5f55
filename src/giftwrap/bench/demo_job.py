"""The demo's documents, without a database."""

from __future__ import annotations

import hashlib
from functools import cache

from django.utils.text import slugify

from giftwrap.core.model import Frame
from giftwrap.core.render.files import shelf
from giftwrap.core.render.job import PictureJob
from giftwrap.story import demo_story


@cache
def demo_frame(shot: str = "hero", colourway: str = "") -> tuple[Frame, dict[str, bytes]]:
    """One of the demo's shots, the first one as it is unless another is asked for; and all artwork."""
    story, files = demo_story()
    artwork = {hashlib.sha256(data).hexdigest(): data for data in files.values()}
    rows = {kind: {slugify(row["name"]): row["document"] for row in story[kind]} for kind in _KINDS}
    document = rows["shots"][shot]
    frame = Frame.model_validate(
        {
            "packs": rows["packs"],
            "photo_set": rows["sets"][document["photo_set"]],
            "shot": document,
            "palette": story["palette"],
            "colourway": rows["colourways"][colourway] if colourway else {},
        }
    )
    shown = {frame.hero(), *frame.pack_keys()}
    return frame.model_copy(update={"packs": {k: p for k, p in frame.packs.items() if k in shown}}), artwork


_KINDS = ("packs", "sets", "shots", "colourways")


def demo_picture(width: int, height: int, shot: str = "hero", colourway: str = "") -> PictureJob:
    """One of the demo's shots at a size."""
    frame, artwork = demo_frame(shot, colourway)
    for data in artwork.values():
        shelf.put(data)
    return PictureJob.of(frame, width, height)
