"""Starting a job."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any, TypeVar

from django.db import models, transaction
from django.utils import timezone
from django.utils.text import slugify

from giftwrap.core import model as core
from giftwrap.core.errors import GiftwrapError
from giftwrap.core.model.document import Document, told_apart
from giftwrap.core.stage.starting import starting_set, starting_shot
from giftwrap.core.things.starting import starting_pack, starting_point, starting_points
from giftwrap.studio.jobs import revisions
from giftwrap.studio.jobs.models import Colourway, Job, Pack, Palette, PhotoSet, Shot, VersionedDocument

Row = TypeVar("Row", bound=VersionedDocument)


class TooMany(GiftwrapError):
    """A job has as many of a kind as it can."""


class NameTaken(GiftwrapError):
    """Something else is called so."""


class LastOne(GiftwrapError):
    """The last of its kind stays."""


def start_job(name: str, client: str) -> Job:
    """A new job with a starting pack on a lit set and one shot of it."""
    pack = starting_pack()
    with transaction.atomic():
        job = Job.objects.create(slug=_free_slug(name), name=name, client=client)
        add_row(Pack, job, starting_point().title, pack)
        add_row(PhotoSet, job, "Studio", starting_set())
        add_row(Shot, job, "Hero", starting_shot())
    return job


MOST_ROWS = 100
"""Packs, or shots, of one job."""
ADDRESSES: dict[str, type[VersionedDocument]] = {
    "packs": Pack,
    "sets": PhotoSet,
    "shots": Shot,
    "colourways": Colourway,
}
"""Rows that people add, name, order and take away, by what addresses call them."""


def add_row(kind: type[Row], job: Job, name: str, document: Document) -> Row:
    """Add a document to a job, the last of its kind. A name that is taken gets a number.

    Raises TooMany when the job has as many as it can.
    """
    with transaction.atomic():
        rows = kind.objects.filter(job=job)
        if rows.there().count() >= MOST_ROWS:
            raise TooMany(f"A job has at most {MOST_ROWS} of these: take one away, or start another job.")
        taken = set(rows.there().values_list("name", flat=True))
        told = told_apart(name, taken)
        keys = set(rows.values_list("slug", flat=True))
        key = told_apart(slugify(told)[:50] or kind.kind, keys, joint="-")
        row = revisions.create(kind, job, key, told, document)
        last = rows.aggregate(last=models.Max("position"))["last"] or 0
        kind.objects.filter(pk=row.pk).update(position=last + 1)
    return row


def rename(row: VersionedDocument, name: str) -> None:
    """Call a row something else; its key stays. Raises NameTaken when another of its kind is called so."""
    others = type(row).objects.filter(job=row.job).there().exclude(pk=row.pk)
    if others.filter(name=name).exists():
        raise NameTaken(f"Something else in this job is called “{name}”: choose another name.", "name")
    row.name = name
    row.save(update_fields=["name"])


def name_after(row: VersionedDocument, title: str) -> None:
    """Call a pack after what it was started from, unless somebody has named it."""
    titles = "|".join(re.escape(point.title) for point in starting_points())
    if not re.fullmatch(rf"(?:{titles})(?: \d+)?", row.name):
        return
    others = type(row).objects.filter(job=row.job).there().exclude(pk=row.pk)
    row.name = told_apart(title, set(others.values_list("name", flat=True)))
    row.save(update_fields=["name"])


def put_in_order(kind: type[VersionedDocument], job: Job, keys: Sequence[str]) -> None:
    """Order a job's rows of a kind. Those that are not named come after, as they were."""
    rows = {row.slug: row for row in kind.objects.filter(job=job).there()}
    wanted = [key for key in dict.fromkeys(keys) if key in rows]
    wanted += [key for key in rows if key not in wanted]
    with transaction.atomic():
        for position, key in enumerate(wanted, start=1):
            kind.objects.filter(pk=rows[key].pk).update(position=position)


def remove(row: VersionedDocument) -> None:
    """Take a row out of its job; it can be fetched back. Raises LastOne for the last of its kind."""
    with transaction.atomic():
        alone = type(row).objects.filter(job=row.job).there().count() <= 1
        if alone and not isinstance(row, Colourway):
            raise LastOne(f"“{row.name}” is the only one: add another before you take it away.")
        row.removed = timezone.now()
        row.save(update_fields=["removed"])


def fetch_back(row: VersionedDocument) -> None:
    """Put a row that was removed back into its job; if its name is taken meanwhile, with a number."""
    with transaction.atomic():
        others = type(row).objects.filter(job=row.job).there().exclude(pk=row.pk)
        row.name = told_apart(row.name, set(others.values_list("name", flat=True)))
        row.removed = None
        row.save(update_fields=["name", "removed"])


def removed_rows(job: Job) -> list[dict[str, Any]]:
    """What was taken out of a job, the latest first."""
    return [
        {"kind": row.kind, "id": row.pk, "name": row.name}
        for kind in ADDRESSES.values()
        for row in kind.objects.filter(job=job).exclude(removed=None).order_by("-removed")
    ]


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
