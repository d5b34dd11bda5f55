"""The invented demo job, as it is added to a database."""

from __future__ import annotations

import json
from typing import Any

from django.conf import settings
from django.db import transaction

from giftwrap.core import model as core
from giftwrap.core.formats.pictures import read_linear
from giftwrap.core.grade.display import grade_picture
from giftwrap.studio.jobs.frames import frame_of
from giftwrap.studio.jobs.models import Job
from giftwrap.studio.jobs.services import add_shot
from giftwrap.studio.library.artwork import add_artwork
from giftwrap.studio.rendering import storage
from giftwrap.studio.rendering.models import Order, Picture

DEMO_DIR = settings.BASE_DIR / "demo"
LABEL_PLACE = "demo:label"
"""Stands in the demo's pack for the SHA-256 its label gets when it is added."""


def load_demo_job() -> Job:
    """Velloway Orchard House: a quince cordial, its label, its set, one shot and its picture."""
    story = json.loads((DEMO_DIR / "job.json").read_text())
    label = DEMO_DIR / "artwork" / story["label"]
    with transaction.atomic():
        job = Job.objects.create(slug=story["slug"], name=story["name"], client=story["client"])
        artwork = add_artwork(job, label.read_bytes(), label.name)
        pack_text = json.dumps(story["pack"]).replace(LABEL_PLACE, artwork.sha256)
        shot = add_shot(
            job,
            core.Pack.model_validate_json(pack_text),
            core.PhotoSet.model_validate(story["set"]),
            core.Shot.model_validate(story["shot"]),
            pack_name=story["pack_name"],
            shot_name=story["shot_name"],
        )
        _add_picture(shot, story["picture"])
    return job


def _add_picture(shot: Any, facts: dict[str, Any]) -> None:
    light = read_linear(DEMO_DIR / "pictures" / facts["light"])[..., :3]
    height, width = light.shape[:2]
    order = Order.objects.create(
        shot=shot,
        documents=frame_of(shot).model_dump(mode="json"),
        width=width,
        height=height,
        samples=facts["samples"],
        samples_done=facts["samples"],
        state=Order.State.DONE,
    )
    grade = core.Shot.model_validate(shot.document).grade
    storage.save_picture(order.pk, light, grade_picture(light, grade))
    Picture.objects.create(
        order=order, width=width, height=height, samples=facts["samples"], seconds=facts["seconds"]
    )
