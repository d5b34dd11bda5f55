"""`swatches`: pictures of the library's materials drawn anew."""

from __future__ import annotations

import os
import time
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from giftwrap.core.materials.library import library, picture_of
from giftwrap.core.render.swatches import swatch_file

NICE = 10


class Command(BaseCommand):
    help = "Draw the pictures of the library's materials: those named by their keys, or all."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("keys", nargs="*")
        parser.add_argument("--missing", action="store_true", help="only those that have none")

    def handle(self, *args: Any, **options: Any) -> None:
        known = {one.key: one for one in library()}
        strange = [key for key in options["keys"] if key not in known]
        if strange:
            raise CommandError(f"The library has no “{strange[0]}”: it has {', '.join(list(known)[:8])} …")
        wanted = [known[key] for key in options["keys"] or known]
        if options["missing"]:
            wanted = [one for one in wanted if not picture_of(one.key).exists()]
        os.nice(NICE)
        began = time.perf_counter()
        for one in wanted:
            path = picture_of(one.key)
            path.parent.mkdir(exist_ok=True)
            path.write_bytes(swatch_file(one.material))
        self.stdout.write(f"{len(wanted)} drawn in {time.perf_counter() - began:.0f} s")
