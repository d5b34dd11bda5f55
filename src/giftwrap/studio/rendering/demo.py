"""The invented demo job, as it is added to a database."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from giftwrap.core import model as core
from giftwrap.core.formats.pictures import read_linear
from giftwrap.core.grade.display import grade_picture
from giftwrap.story import DEMO_DIR, demo_story
from giftwrap.studio.jobs import revisions
from giftwrap.studio.jobs.frames import frame_of
from giftwrap.studio.jobs.models import Job, Palette, Shot
from giftwrap.studio.jobs.services import ADDRESSES, add_row
from giftwrap.studio.library.artwork import add_artwork
from giftwrap.studio.rendering import storage
from giftwrap.studio.rendering.models import Order, Picture


def load_demo_job() -> Job:
    """Velloway Orchard House: seven packs, eight sets, eleven shots, two colourways and pictures of some."""
    story, files = demo_story()
    with transaction.atomic():
        job = Job.objects.create(slug=story["slug"], name=story["name"], client=story["client"])
        for name, data in files.items():
            add_artwork(job, data, name)
        revisions.create(Palette, job, "palette", "Palette", core.Palette.model_validate(story["palette"]))
        for kind, model in ADDRESSES.items():
            for row in story[kind]:
                add_row(model, job, row["name"], model.document_type.model_validate(row["document"]))
        for facts in story["pictures"]:
            _add_picture(job.shots.get(slug=facts["shot"]), facts)
    return job


def _add_picture(shot: Shot, facts: dict[str, Any]) -> None:
    light = read_linear(DEMO_DIR / "pictures" / facts["light"])[..., :3]
    height, width = light.shape[:2]
    colourway = facts.get("colourway", "")
    order = Order.objects.create(
        shot=shot,
        colourway=colourway,
        documents=frame_of(shot, colourway or None).model_dump(mode="json"),
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
