"""`sweep`: cut back what grows without end, or say what that would free."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from giftwrap.studio.upkeep.sweep import summary, sweep


class Command(BaseCommand):
    help = "Remove what is kept longer than the studio's rules say; the dispatcher does it every night."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--dry-run", action="store_true", help="only say what it would free")

    def handle(self, *args: Any, **options: Any) -> None:
        dry_run = options["dry_run"]
        self.stdout.write(summary(list(sweep(dry_run=dry_run)), dry_run=dry_run))
