"""Saving documents: every save is a revision, and a stale save loses nothing."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import TypeVar

from django.db import models, transaction

from giftwrap.core.errors import GiftwrapError
from giftwrap.core.model.document import Document
from giftwrap.studio.jobs.models import Job, Revision, VersionedDocument

Row = TypeVar("Row", bound=VersionedDocument)


class StaleRevision(GiftwrapError):
    """Somebody saved in between. Both sides are kept; `kept` is the number of the refused one."""

    def __init__(self, row: VersionedDocument, kept: int) -> None:
        super().__init__(
            f"“{row.name}” was changed elsewhere in the meantime. Your version is kept as revision {kept}: "
            "choose which to go on with."
        )
        self.current = row.revision
        self.kept = kept


class NothingToStepTo(GiftwrapError):
    """There is nothing to undo or redo."""


def create(kind: type[Row], job: Job, slug: str, name: str, document: Document) -> Row:
    """Store a new document as its first revision."""
    data = document.model_dump(mode="json")
    with transaction.atomic():
        row = kind(job=job, slug=slug, name=name, document=data, revision=1)
        row.save()
        _record(row, 1, None, data, "")
    return row


def save(row: Row, document: Document, *, base: int, author: str = "") -> Row:
    """Store a new state that was made from revision `base`.

    Raises StaleRevision, having kept the document as a side revision, when `base` is not current.
    """
    data = document.model_dump(mode="json")
    with transaction.atomic():
        row = _locked(row)
        if row.revision == base and row.read().model_dump(mode="json") == data:
            return row  # nothing is changed, though it may be kept in the words of an older release
        number = _newest(row) + 1
        stale = base != row.revision
        _record(row, number, base, data, author, refused=stale)
        if not stale:
            _move(row, number, data)
    if stale:
        raise StaleRevision(row, number)
    return row


def undo(row: Row) -> Row:
    """Go back to the revision the present one was made from."""
    with transaction.atomic():
        row = _locked(row)
        parent = _revisions(row).get(number=row.revision).parent
        if parent is None:
            raise NothingToStepTo(f"There is nothing to undo on “{row.name}”.")
        return _go_to(row, parent)


def redo(row: Row) -> Row:
    """Go forward to the newest revision made from the present one."""
    with transaction.atomic():
        row = _locked(row)
        child = _children(row).last()
        if child is None:
            raise NothingToStepTo(f"There is nothing to redo on “{row.name}”.")
        return _go_to(row, child.number)


def restore(row: Row, number: int, *, author: str = "") -> Row:
    """Make an older or refused revision the present one, as a new revision."""
    with transaction.atomic():
        row = _locked(row)
        wanted = _revisions(row).filter(number=number).first()
        if wanted is None:
            raise GiftwrapError(f"“{row.name}” has no revision {number}.")
        newest = _newest(row) + 1
        _record(row, newest, row.revision, wanted.document, author)
        return _move(row, newest, wanted.document)


@dataclass(frozen=True)
class Standing:
    """Where a row stands in its history. Times let several documents be stepped as one."""

    can_undo: bool
    can_redo: bool
    made: datetime
    next_made: datetime | None


def standing(row: VersionedDocument) -> Standing:
    """Whether a row can step back or forward, and when its present and next states were made."""
    present = _revisions(row).get(number=row.revision)
    following = _children(row).last()
    return Standing(
        can_undo=present.parent is not None,
        can_redo=following is not None,
        made=present.created,
        next_made=following.created if following else None,
    )


def _locked(row: Row) -> Row:
    """The row as it is now; transactions are immediate, so nobody else writes meanwhile."""
    return type(row).objects.get(pk=row.pk)


def _revisions(row: VersionedDocument) -> models.QuerySet[Revision]:
    return Revision.objects.filter(kind=row.kind, row=row.pk)


def _children(row: VersionedDocument) -> models.QuerySet[Revision]:
    return _revisions(row).filter(parent=row.revision, refused=False).order_by("number")


def _newest(row: VersionedDocument) -> int:
    return _revisions(row).aggregate(newest=models.Max("number"))["newest"] or 0


def _record(
    row: VersionedDocument, number: int, parent: int | None, data: dict, author: str, *, refused: bool = False
) -> None:
    Revision.objects.create(
        kind=row.kind,
        row=row.pk,
        number=number,
        parent=parent,
        document=data,
        author=author,
        refused=refused,
    )


def _go_to(row: Row, number: int) -> Row:
    return _move(row, number, _revisions(row).get(number=number).document)


def _move(row: Row, number: int, data: dict) -> Row:
    row.revision, row.document = number, data
    row.save(update_fields=["revision", "document", "changed"])
    return row
