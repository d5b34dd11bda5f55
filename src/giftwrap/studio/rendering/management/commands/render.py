"""`render`: a final without a browser."""

from __future__ import annotations

import argparse
import re
import sys
import time
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from giftwrap.core import model as core
from giftwrap.core.errors import GiftwrapError
from giftwrap.core.formats.pictures import write_exr, write_png
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import PictureJob, develop, expose_unit, plan_units
from giftwrap.studio.jobs.models import Job, Shot
from giftwrap.studio.rendering.work import documents_of, job_from


class Command(BaseCommand):
    help = "Render a shot to a file: .png for a graded picture, .exr for its linear light."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("job")
        parser.add_argument("shot")
        parser.add_argument("--size", type=picture_size, metavar="WIDTHxHEIGHT", help="default: the shot's")
        parser.add_argument("--samples", type=int, help="default: the shot's")
        parser.add_argument("--out", type=Path, required=True)

    def handle(self, *args: Any, **options: Any) -> None:
        out: Path = options["out"]
        if out.suffix not in (".png", ".exr"):
            raise CommandError(f"{out} should end in .png or .exr.")
        if not out.resolve().parent.is_dir():
            raise CommandError(f"The folder {out.resolve().parent} does not exist: make it first.")
        started = time.perf_counter()
        documents = documents_of(_find(options["job"], options["shot"]))
        try:
            shot = core.Shot.model_validate(documents["shot"])
            size = options["size"] or (shot.width_px, shot.height_px)
            film = self._expose(job_from(documents, size), options["samples"] or shot.samples)
            grade = shot.grade
            light, picture = develop(film, grade)
            if out.suffix == ".exr":
                write_exr(out, light)
            else:
                write_png(out, picture)
        except GiftwrapError as error:
            raise CommandError(error.message) from error
        noise = film.noise(grade.exposure_ev)
        self.stdout.write(
            f"{out}: {film.width} × {film.height} px, {film.samples_per_pixel:.0f} samples, "
            f"noise {noise or 0:.2f} % before denoising, {time.perf_counter() - started:.1f} s"
        )

    def _expose(self, job: PictureJob, samples: int) -> Film:
        film = Film(job.width, job.height)
        for unit in plan_units(job.width, job.height, samples):
            film.add(expose_unit(job, unit))
            if sys.stderr.isatty():
                self.stderr.write(f"\r{film.samples_per_pixel:.0f} of {samples} samples", ending="")
        if sys.stderr.isatty():
            self.stderr.write("")
        return film


def picture_size(text: str) -> tuple[int, int]:
    """Read "640x800"."""
    match = re.fullmatch(r"(\d{1,5})[x×](\d{1,5})", text)
    if not match:
        raise argparse.ArgumentTypeError(f"{text!r} is not a size: write it like 640x800")
    return int(match[1]), int(match[2])


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
