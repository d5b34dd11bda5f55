"""The rules by which the studio sweeps: what each finds, and how much it frees.

Never touched: present documents, revisions that orders were made of, pictures and their light.
"""

from __future__ import annotations

import re
import shutil
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.sessions.models import Session
from django.db.models import Model, QuerySet, TextField
from django.db.models.functions import Cast, Length
from django.utils import timezone

from giftwrap.core.formats.whole import PARTIAL
from giftwrap.studio.jobs.models import Colourway, Pack, Palette, PhotoSet, Revision, Shot
from giftwrap.studio.library.models import Artwork, OwnMaterial, OwnSetUp
from giftwrap.studio.rendering import storage
from giftwrap.studio.rendering.models import Order, Picture, Thumbnail
from giftwrap.studio.rendering.thumbnails import thumbnail_file

HISTORY = timedelta(days=30)
"""Revisions, failed orders and files nobody uses are kept whole for this long."""
PASSES = timedelta(days=180)
UNFINISHED = timedelta(hours=1)
INCOMING = timedelta(days=1)
ROW_BYTES = 500
"""Roughly what a small row takes."""
_SHA256 = re.compile(r"[0-9a-f]{64}")


@dataclass(frozen=True)
class Leaving:
    """Something that may go: the bytes it takes, and how it goes."""

    size: int
    remove: Callable[[], Any]


@dataclass(frozen=True)
class Rule:
    """What may go, in words, and how it is found at a moment."""

    words: str
    find: Callable[[datetime], Iterator[Leaving]]


KINDS = (Pack, PhotoSet, Shot, Palette, Colourway)
"""Whose every state is kept as a revision."""


def close_revisions(now: datetime) -> Iterator[Leaving]:
    """All but the last of what one person changed within one minute, a month later.

    A revision that orders were made of stays, as do those from which more than one goes on.
    """
    sent = _sent()
    for model in KINDS:
        present = dict(model.objects.values_list("pk", "revision"))
        rows = Revision.objects.filter(kind=model.kind).annotate(size=Length(Cast("document", TextField())))
        fields = ("pk", "row", "number", "parent", "author", "created", "refused", "size")
        made = {(r.row, r.number): r for r in rows.only(*fields[:-1])}
        children = Counter((r.row, r.parent) for r in made.values() if r.parent is not None)
        following = {(r.row, r.parent): r for r in made.values() if r.parent is not None}
        for key, revision in sorted(made.items()):
            following_one = following.get(key)
            if revision.created > now - HISTORY or key in sent[model.kind]:
                continue
            if revision.row not in present or (revision.refused and not children[key]):
                yield Leaving(revision.size, revision.delete)
            elif (
                following_one is not None
                and children[key] == 1
                and revision.parent is not None
                and not following_one.refused
                and present[revision.row] != revision.number
                and _one_minute(revision, following_one)
            ):
                yield Leaving(revision.size, _bridged(revision, following_one))


def _one_minute(before: Revision, after: Revision) -> bool:
    minute = before.created.replace(second=0, microsecond=0)
    return before.author == after.author and minute <= after.created < minute + timedelta(minutes=1)


def _bridged(revision: Revision, after: Revision) -> Callable[[], None]:
    """Take a revision out and let the one after it follow the one before it."""

    def remove() -> None:
        revision.refresh_from_db(fields=["parent"])
        Revision.objects.filter(pk=after.pk).update(parent=revision.parent)
        revision.delete()

    return remove


def _sent() -> dict[str, set[tuple[int, int]]]:
    """Rows and numbers of the revisions that orders were made of, by kind."""
    found: dict[str, set[tuple[int, int]]] = {model.kind: set() for model in KINDS}
    for made_of in Order.objects.values_list("made_of", flat=True):
        for kind, rows in made_of.items():
            # orders of older releases were made of one row of each kind
            for row, number in [rows] if rows and isinstance(rows[0], int) else rows:
                found[kind].add((row, number))
    return found


def ended_work(now: datetime) -> Iterator[Leaving]:
    """Sums, blocks and previews of orders that have ended, and folders of orders that are gone."""
    if not settings.RENDERS_DIR.is_dir():
        return
    open_orders = set(Order.objects.filter(state__in=Order.OPEN).values_list("pk", flat=True))
    known = set(Order.objects.values_list("pk", flat=True))
    for folder in settings.RENDERS_DIR.iterdir():
        if not folder.name.isdigit() or int(folder.name) in open_orders:
            continue
        if int(folder.name) not in known:
            yield Leaving(_size(folder), _removal(folder))
            continue
        for path in (*folder.glob("film*.npz"), folder / "preview.jpg", folder / "canvas"):
            if path.exists():
                yield Leaving(_size(path), _removal(path))


def fruitless_orders(now: datetime) -> Iterator[Leaving]:
    """Orders that failed or were cancelled a month ago."""
    ended = Order.objects.filter(
        state__in=[Order.State.FAILED, Order.State.CANCELLED], ended__lt=now - HISTORY, picture=None
    )
    for order in ended:
        folder = settings.RENDERS_DIR / str(order.pk)

        def remove(order: Order = order, folder: Path = folder) -> None:
            shutil.rmtree(folder, ignore_errors=True)
            order.delete()

        yield Leaving(_size(folder) + ROW_BYTES, remove)


def old_passes(now: datetime) -> Iterator[Leaving]:
    """Passes of pictures half a year old that are not the newest of what they show; the pictures stay."""
    newest: set[tuple[int, str]] = set()
    for picture in Picture.objects.select_related("order").order_by("-pk"):
        cell = (picture.order.shot_id, picture.order.colourway)
        if cell not in newest:
            newest.add(cell)
            continue
        path = storage.passes_file(picture.order_id)
        if picture.created < now - PASSES and path.exists():
            yield Leaving(_size(path), _removal(path))


def thumbnails_of_what_is_gone(now: datetime) -> Iterator[Leaving]:
    """Thumbnails of shots and colourways that have been taken away; fetched back, they are made anew."""
    there: dict[int, set[str]] = {}
    for thumbnail in Thumbnail.objects.select_related("shot__job"):
        shot = thumbnail.shot
        if shot.job_id not in there:
            there[shot.job_id] = {"", *shot.job.colourways.there().values_list("slug", flat=True)}
        if shot.removed is None and thumbnail.colourway in there[shot.job_id]:
            continue
        path = thumbnail_file(shot.pk, thumbnail.colourway)

        def remove(thumbnail: Thumbnail = thumbnail, path: Path = path) -> None:
            path.unlink(missing_ok=True)
            thumbnail.delete()

        yield Leaving(_size(path) + ROW_BYTES, remove)


def unused_files(now: datetime) -> Iterator[Leaving]:
    """Files that no artwork, document, revision or order has mentioned for a month."""
    used = set(Artwork.objects.values_list("sha256", flat=True))
    texts: list[QuerySet[Any, Any]] = [
        model.objects.annotate(text=Cast(field, TextField())).values_list("text", flat=True)
        for model, field in (
            (Pack, "document"),
            (PhotoSet, "document"),
            (Shot, "document"),
            (Colourway, "document"),
            (Palette, "document"),
            (OwnMaterial, "document"),
            (OwnSetUp, "document"),
            (Revision, "document"),
            (Order, "documents"),
        )
    ]
    for rows in texts:
        for text in rows.iterator(chunk_size=200):
            used.update(_SHA256.findall(text))
    for path in settings.FILES_DIR.glob("??/*"):
        if _SHA256.fullmatch(path.name) and path.name not in used and _age(path, now) > HISTORY:
            yield Leaving(_size(path), _removal(path))


def unfinished_files(now: datetime) -> Iterator[Leaving]:
    """What was never written to its end, and uploads that nobody came back for."""
    for folder in (settings.FILES_DIR, settings.RENDERS_DIR):
        for path in folder.rglob(f"{PARTIAL}*"):
            if _age(path, now) > UNFINISHED:
                yield Leaving(_size(path), _removal(path))
    for path in settings.INCOMING_DIR.glob("*"):
        if _age(path, now) > INCOMING:
            yield Leaving(_size(path), _removal(path))


def old_rows(model: type[Model], **which: Any) -> Callable[[datetime], Iterator[Leaving]]:
    """Rows whose time, in a field, is past by so much."""
    ((lookup, age),) = which.items()

    def find(now: datetime) -> Iterator[Leaving]:
        for row in model._default_manager.filter(**{lookup: now - age}):
            yield Leaving(ROW_BYTES, row.delete)

    return find


RULES = (
    Rule("revisions of one hand's minute, a month old", close_revisions),
    Rule("work of orders that have ended", ended_work),
    Rule("orders that came to nothing a month ago", fruitless_orders),
    Rule("passes half a year old, but of each shot's newest picture", old_passes),
    Rule("thumbnails of shots and colourways that were taken away", thumbnails_of_what_is_gone),
    Rule("files that nothing has used for a month", unused_files),
    Rule("files that were never finished", unfinished_files),
    Rule("sessions that have run out", old_rows(Session, expire_date__lt=timedelta())),
    Rule("failed sign-ins a month old", old_rows(AccessAttempt, attempt_time__lt=HISTORY)),
)


def _removal(path: Path) -> Callable[[], None]:
    def remove() -> None:
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)

    return remove


def _size(path: Path) -> int:
    if path.is_dir():
        return sum(p.stat().st_size for p in path.rglob("*") if p.is_file())
    return path.stat().st_size if path.exists() else 0


def _age(path: Path, now: datetime) -> timedelta:
    changed = datetime.fromtimestamp(path.stat().st_mtime, tz=timezone.get_current_timezone())
    return now - changed
