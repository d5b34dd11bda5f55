"""`render`: a final without a browser."""

from __future__ import annotations

import argparse
import re
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from numpy.typing import NDArray

from giftwrap.core import model as core
from giftwrap.core.errors import GiftwrapError
from giftwrap.core.formats.pictures import write_exr, write_png
from giftwrap.core.picture.passes import write_passes
from giftwrap.core.render.blocks import Canvas, Taken, blocks_of, taken_of, whole_region
from giftwrap.core.render.files import shelf
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import PictureJob, develop, take
from giftwrap.core.render.planning import MAX_SAMPLES, Limits, Region
from giftwrap.studio.files import read_file
from giftwrap.studio.jobs.frames import frame_of
from giftwrap.studio.jobs.models import Job, Shot
from giftwrap.studio.rendering.work import picture_job


class Command(BaseCommand):
    help = "Render a shot to a file: .png for a graded picture, .exr for its linear light."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("job")
        parser.add_argument("shot")
        parser.add_argument("--size", type=picture_size, metavar="WIDTHxHEIGHT", help="default: the shot's")
        parser.add_argument("--samples", type=int, help="at most, on average per pixel; default: the shot's")
        parser.add_argument("--noise", type=float, help="per cent at which it is clean enough")
        parser.add_argument("--seconds", type=float, help="of rendering, at most")
        parser.add_argument(
            "--region", type=picture_region, metavar="WIDTHxHEIGHT+LEFT+TOP", help="a part of the picture"
        )
        parser.add_argument("--colourway", metavar="KEY", help="default: as it is")
        parser.add_argument("--passes", type=Path, help="also write lights, masks and depth to this .exr")
        parser.add_argument("--out", type=Path, required=True)

    def handle(self, *args: Any, **options: Any) -> None:
        out: Path = options["out"]
        passes: Path | None = options["passes"]
        _check_target(out, (".png", ".exr"))
        if passes:
            _check_target(passes, (".exr",))
        started = time.perf_counter()
        shelf.fetch_with(read_file)
        try:
            frame = frame_of(_find(options["job"], options["shot"]), options["colourway"])
            purpose = frame.shot.purposes[0]
            size = options["size"] or (purpose.width_px, purpose.height_px)
            job = replace(picture_job(frame, size), region=options["region"])
            taken = self._render(job, _limits(options, purpose), out, passes)
        except GiftwrapError as error:
            raise CommandError(error.message) from error
        width, height = job.film_size
        self.stdout.write(
            f"{out}: {width} × {height} px, {taken.samples:.0f} samples, noise {taken.noise or 0:.2f} % "
            f"before denoising, {time.perf_counter() - started:.1f} s"
        )

    def _render(self, job: PictureJob, limits: Limits, out: Path, passes: Path | None) -> Taken:
        """Take a picture and write it; a large one block by block, on disk."""
        blocks = blocks_of(job)
        if len(blocks) == 1:
            film = take(job, limits, until=self._tell)
            light, picture = develop(film, job)
            _write(out, light, picture)
            if passes:
                write_passes(passes, film)
            return taken_of(film, job)
        if passes:
            raise CommandError("A picture this large is taken in blocks and has no passes.")
        with tempfile.TemporaryDirectory(prefix=".part-", dir=out.resolve().parent) as folder:
            canvas = Canvas(Path(folder), whole_region(job))
            for number, block in enumerate(blocks):
                part = block.job(job)
                film = take(part, limits, until=self._tell)
                taken = taken_of(film, part)
                canvas.fill(number, block, *develop(film, part), taken)
            _write(out, canvas.light, canvas.picture)
        return taken

    def _tell(self, film: Film) -> bool:
        if sys.stderr.isatty():
            self.stderr.write(f"\r{film.samples_per_pixel:.0f} samples", ending="")
        return False


def _limits(options: dict[str, Any], purpose: core.Purpose) -> Limits:
    """What was asked for; the limits of the shot's first purpose when nothing was."""
    if not any(options[name] for name in ("samples", "noise", "seconds")):
        return Limits(samples=purpose.samples, noise=purpose.noise_percent, seconds=purpose.seconds)
    return Limits(options["samples"] or MAX_SAMPLES, options["noise"], options["seconds"])


def _write(out: Path, light: NDArray[Any], picture: NDArray[Any]) -> None:
    if out.suffix == ".exr":
        write_exr(out, light)
    else:
        write_png(out, picture)


def _check_target(path: Path, suffixes: tuple[str, ...]) -> None:
    if path.suffix not in suffixes:
        raise CommandError(f"{path} should end in {' or '.join(suffixes)}.")
    if not path.resolve().parent.is_dir():
        raise CommandError(f"The folder {path.resolve().parent} does not exist: make it first.")


def picture_size(text: str) -> tuple[int, int]:
    """Read "640x800"."""
    match = re.fullmatch(r"(\d{1,5})[x×](\d{1,5})", text)
    if not match:
        raise argparse.ArgumentTypeError(f"{text!r} is not a size: write it like 640x800")
    return int(match[1]), int(match[2])


def picture_region(text: str) -> Region:
    """Read "200x100+40+60"."""
    match = re.fullmatch(r"(\d{1,5})[x×](\d{1,5})\+(\d{1,5})\+(\d{1,5})", text)
    if not match:
        raise argparse.ArgumentTypeError(f"{text!r} is not a region: write it like 200x100+40+60")
    width, height, left, top = map(int, match.groups())
    return Region(left, top, width, height)


def _find(job_slug: str, shot_slug: str) -> Shot:
    job = Job.objects.filter(slug=job_slug).first()
    if job is None:
        known = ", ".join(Job.objects.values_list("slug", flat=True))
        raise CommandError(f"There is no job “{job_slug}”. There is: {known}.")
    shot = job.shots.filter(slug=shot_slug).first()
    if shot is None:
        known = ", ".join(job.shots.values_list("slug", flat=True))
        raise CommandError(f"The job “{job_slug}” has no shot “{shot_slug}”. It has: {known}.")
    return shot
