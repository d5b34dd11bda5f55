"""The demo's documents, without a database."""

from __future__ import annotations

import hashlib
import json
from functools import cache
from pathlib import Path

from giftwrap.core.model import Frame
from giftwrap.core.render.files import shelf
from giftwrap.core.render.job import PictureJob

DEMO_DIR = Path(__file__).resolve().parents[3] / "demo"


@cache
def demo_frame() -> tuple[Frame, dict[str, bytes]]:
    """The demo job's shot, and its artwork by SHA-256."""
    story = json.loads((DEMO_DIR / "job.json").read_text())
    label = (DEMO_DIR / "artwork" / story["label"]).read_bytes()
    name = hashlib.sha256(label).hexdigest()
    pack = json.loads(json.dumps(story["pack"]).replace("demo:label", name))
    frame = Frame.model_validate({"packs": {"pack": pack}, "photo_set": story["set"], "shot": story["shot"]})
    return frame, {name: label}


def demo_picture(width: int, height: int) -> PictureJob:
    """The demo's shot at a size."""
    frame, artwork = demo_frame()
    for data in artwork.values():
        shelf.put(data)
    return PictureJob.of(frame, width, height)
