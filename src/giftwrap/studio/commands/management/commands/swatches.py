"""`swatches`: pictures of the library's materials, or of its props, drawn anew."""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from giftwrap.core.materials.library import library, picture_of
from giftwrap.core.props.kinds import KINDS
from giftwrap.core.props.kinds import picture_of as kind_picture
from giftwrap.core.render.swatches import draw_prop, swatch_file

NICE = 10


class Command(BaseCommand):
    help = "Draw the pictures of the library's materials, or of its props: those named by their keys, or all."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("keys", nargs="*")
        parser.add_argument("--props", action="store_true", help="of props, not of materials")
        parser.add_argument("--missing", action="store_true", help="only those that have none")

    def handle(self, *args: Any, **options: Any) -> None:
        known: dict[str, tuple[Path, Callable[[], bytes]]] = (
            {what: (kind_picture(what), partial(draw_prop, what)) for what in KINDS}
            if options["props"]
            else {one.key: (picture_of(one.key), partial(swatch_file, one.material)) for one in library()}
        )
        strange = [key for key in options["keys"] if key not in known]
        if strange:
            raise CommandError(f"The library has no “{strange[0]}”: it has {', '.join(list(known)[:8])} …")
        wanted = [known[key] for key in options["keys"] or known]
        if options["missing"]:
            wanted = [one for one in wanted if not one[0].exists()]
        os.nice(NICE)
        began = time.perf_counter()
        for path, draw in wanted:
            path.parent.mkdir(exist_ok=True)
            path.write_bytes(draw())
        self.stdout.write(f"{len(wanted)} drawn in {time.perf_counter() - began:.0f} s")
