"""From a job's rows to frames: everything that a picture of a shot shows."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from typing import TypeVar

from giftwrap.core import model as core
from giftwrap.core.errors import GiftwrapError
from giftwrap.core.model.document import Document
from giftwrap.studio.jobs.models import Colourway, Job, Pack, Palette, PhotoSet, Shot, VersionedDocument

D = TypeVar("D", bound=Document)


class Gone(GiftwrapError):
    """Something a document refers to is not in the job any more."""


@dataclass(frozen=True)
class Unsaved:
    """Documents as they are on a page, in place of the job's own; packs by their keys."""

    packs: Mapping[str, core.Pack] = field(default_factory=dict)
    photo_set: core.PhotoSet | None = None
    shot: core.Shot | None = None
    palette: core.Palette | None = None
    colourway: core.Colourway | None = None


@dataclass(frozen=True)
class Rows:
    """The rows that a frame of a shot is made of; those of packs are all of the job's, the first first."""

    packs: list[Pack]
    photo_set: PhotoSet
    shot: Shot
    palette: Palette | None
    colourway: Colourway | None

    def all(self) -> list[VersionedDocument]:
        """Every row."""
        rest = [self.photo_set, self.shot, self.palette, self.colourway]
        return [*self.packs, *(row for row in rest if row is not None)]


def frame_of(
    shot: Shot,
    colourway: str | None = None,
    unsaved: Unsaved | None = None,
    *,
    more: Collection[str] = (),
) -> core.Frame:
    """What a shot shows, in a colourway by its key or as it is.

    more : keys of packs that come along although they do not stand there

    Raises GiftwrapError, in words, when its set, a pack, the line-up or the colourway is gone.
    """
    unsaved = unsaved or Unsaved()
    shot_document = unsaved.shot or _read(shot, core.Shot)
    rows = rows_of(shot, shot_document, colourway)
    packs = {row.slug: unsaved.packs.get(row.slug) or _read(row, core.Pack) for row in rows.packs}
    frame = core.Frame(
        packs=packs,
        photo_set=unsaved.photo_set or _read(rows.photo_set, core.PhotoSet),
        shot=shot_document,
        palette=unsaved.palette or (_read(rows.palette, core.Palette) if rows.palette else core.Palette()),
        colourway=unsaved.colourway
        or (_read(rows.colourway, core.Colourway) if rows.colourway else core.Colourway()),
    )
    shown = {frame.hero(): None} | dict.fromkeys(frame.pack_keys())
    shown |= {key: None for key in more if key in packs}
    return frame.model_copy(update={"packs": {key: packs[key] for key in shown}})


def rows_of(shot: Shot, document: core.Shot, colourway: str | None = None) -> Rows:
    """The rows a shot is made of. Raises Gone."""
    job = shot.job
    return Rows(
        packs=list(job.packs.there()),
        photo_set=set_of(job, document),
        shot=shot,
        palette=Palette.objects.filter(job=job).first(),
        colourway=None if colourway is None else _colourway(job, colourway),
    )


def set_of(job: Job, shot: core.Shot) -> PhotoSet:
    """The set a shot is on. Raises Gone."""
    rows = job.sets.there()
    row = rows.filter(slug=shot.photo_set).first() if shot.photo_set else rows.first()
    if row is None:
        raise Gone(
            f"The shot is on the set “{shot.photo_set or '?'}”, which is not in the job any more: choose "
            "another.",
            "photo_set",
        )
    return row


def pack_keys(job: Job) -> set[str]:
    """Keys of the packs that are there."""
    return set(job.packs.there().values_list("slug", flat=True))


def _colourway(job: Job, key: str) -> Colourway:
    row = job.colourways.there().filter(slug=key).first()
    if row is None:
        raise Gone(f"The colourway “{key}” is not in the job any more: choose another.", "colourway")
    return row


def _read(row: VersionedDocument, kind: type[D]) -> D:
    """A row's document, of the kind that is expected there."""
    document = row.read()
    assert isinstance(document, kind)
    return document
