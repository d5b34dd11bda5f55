"""The demo's documents, without a database."""

from __future__ import annotations

import hashlib
import json
from functools import cache
from pathlib import Path

from giftwrap.core.model import Pack, PhotoSet, Shot
from giftwrap.core.render.job import PictureJob

DEMO_DIR = Path(__file__).resolve().parents[3] / "demo"


@cache
def demo_documents() -> tuple[Pack, PhotoSet, Shot, dict[str, bytes]]:
    """Pack, set, shot and artwork of the demo job."""
    story = json.loads((DEMO_DIR / "job.json").read_text())
    label = (DEMO_DIR / "artwork" / story["label"]).read_bytes()
    name = hashlib.sha256(label).hexdigest()
    pack = Pack.model_validate_json(json.dumps(story["pack"]).replace("demo:label", name))
    return pack, PhotoSet.model_validate(story["set"]), Shot.model_validate(story["shot"]), {name: label}


def demo_picture(width: int, height: int) -> PictureJob:
    """The demo's shot at a size."""
    pack, photo_set, shot, artwork = demo_documents()
    return PictureJob(
        pack.model_dump_json(),
        photo_set.model_dump_json(),
        shot.model_dump_json(),
        tuple(artwork.items()),
        width,
        height,
    )
