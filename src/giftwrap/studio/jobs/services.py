"""Starting a job."""

from __future__ import annotations

from django.db import transaction
from django.utils.text import slugify

from giftwrap.core import model as core
from giftwrap.core.stage.starting import starting_set, starting_shot
from giftwrap.core.things.making import thing_of
from giftwrap.core.things.starting import starting_pack
from giftwrap.studio.jobs import revisions
from giftwrap.studio.jobs.models import Job, Pack, Palette, PhotoSet, Shot


def start_job(name: str, client: str) -> Job:
    """A new job with a starting pack on a lit set and one shot of it."""
    pack = starting_pack()
    with transaction.atomic():
        job = Job.objects.create(slug=_free_slug(name), name=name, client=client)
        add_shot(job, pack, starting_set(), starting_shot(thing_of(pack, {}).extent))
    return job


def add_shot(
    job: Job,
    pack: core.Pack,
    photo_set: core.PhotoSet,
    shot: core.Shot,
    *,
    pack_name: str = "Bottle",
    shot_name: str = "Hero",
) -> Shot:
    """Store a pack, a set and a shot of the one on the other."""
    revisions.create(Pack, job, slugify(pack_name), pack_name, pack)
    revisions.create(PhotoSet, job, "studio", "Studio", photo_set)
    return revisions.create(Shot, job, slugify(shot_name), shot_name, shot)


def palette_of(job: Job) -> Palette:
    """The job's palette: every job has one, jobs of older releases from when it is first asked for."""
    found = Palette.objects.filter(job=job).first()
    return found or revisions.create(Palette, job, "palette", "Palette", core.Palette())


def _free_slug(name: str) -> str:
    base = slugify(name)[:50] or "job"
    slug, number = base, 2
    while Job.objects.filter(slug=slug).exists():
        slug, number = f"{base}-{number}", number + 1
    return slug
