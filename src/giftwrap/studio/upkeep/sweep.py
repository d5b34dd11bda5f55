"""Sweeping by the rules, and when it is due."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.db import connection, transaction
from django.utils import timezone

from giftwrap.studio.upkeep.rules import RULES

log = logging.getLogger(__name__)

NIGHT = range(3, 6)
"""Hours of the day, in the studio's time, in which to sweep."""
AT_LEAST_EVERY = timedelta(hours=36)
AT_MOST_EVERY = timedelta(hours=20)
LOOSE_SHARE = 0.3
"""The database is packed when more of its pages than this are empty."""


@dataclass(frozen=True)
class Swept:
    """What one rule found."""

    words: str
    count: int
    size: int

    def __str__(self) -> str:
        return f"{self.count} {self.words} ({self.size / 1e6:.1f} MB)"


def sweep(*, dry_run: bool = False, now: datetime | None = None) -> Iterator[Swept]:
    """Apply every rule, or only look what each would free."""
    now = now or timezone.now()
    for rule in RULES:
        leaving = list(rule.find(now))
        if not dry_run:
            with transaction.atomic():
                for item in leaving:
                    item.remove()
        yield Swept(rule.words, len(leaving), sum(item.size for item in leaving))
    if not dry_run:
        _pack_database()


def summary(found: list[Swept], *, dry_run: bool) -> str:
    """One line about a sweep."""
    size = sum(item.size for item in found) / 1e6
    said = ", ".join(str(item) for item in found if item.count) or "nothing to sweep"
    return f"{'Would free' if dry_run else 'Freed'} {size:.1f} MB: {said}."


def sweep_when_due(now: datetime | None = None) -> bool:
    """Sweep at night, once; whether it did. A studio just set up has nothing to sweep yet."""
    now = now or timezone.now()
    last = _last()
    if last is None:
        _note(now)
        return False
    if not (
        now - last > AT_LEAST_EVERY or (now - last > AT_MOST_EVERY and timezone.localtime(now).hour in NIGHT)
    ):
        return False
    _note(now)
    log.info(summary(list(sweep(now=now)), dry_run=False))
    return True


def _noted() -> Path:
    return settings.HOME / "last-sweep"


def _last() -> datetime | None:
    try:
        return datetime.fromisoformat(_noted().read_text())
    except (OSError, ValueError):
        return None


def _note(now: datetime) -> None:
    _noted().write_text(now.isoformat())


def _pack_database() -> None:
    """Give empty pages of the database back to the disk."""
    if connection.in_atomic_block:
        return
    with connection.cursor() as cursor:
        pages, empty = (
            cursor.execute(f"PRAGMA {what}").fetchone()[0] for what in ("page_count", "freelist_count")
        )
        if empty > LOOSE_SHARE * pages:
            cursor.execute("VACUUM")
        cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")
