"""A job's artwork: taking files in, and finding them again."""

from __future__ import annotations

from collections.abc import Collection
from pathlib import Path

from django.forms import model_to_dict

from giftwrap.core.errors import ArtworkError
from giftwrap.core.reading.artwork import read_artwork
from giftwrap.studio.files import file_path, store
from giftwrap.studio.jobs.models import Job
from giftwrap.studio.library.models import Artwork


def add_artwork(job: Job, source: bytes | Path, filename: str) -> Artwork:
    """Check a file, store it and list it under a job. The same file again gives the same row.

    Raises ArtworkError, storing nothing, when the file is not usable.
    """
    facts = read_artwork(source, filename)
    data = source if isinstance(source, bytes) else source.read_bytes()
    artwork, _ = Artwork.objects.get_or_create(
        job=job,
        sha256=store(data),
        defaults={
            "filename": Path(filename).name[:255],
            "kind": facts.kind,
            "aspect": facts.aspect,
            "width_px": facts.width_px,
            "height_px": facts.height_px,
            "width": facts.width,
            "height": facts.height,
            "notes": list(facts.notes),
            "pages": [list(page) for page in facts.pages],
            "inks": list(facts.inks),
            "layers": list(facts.layers),
            "fields": dict(facts.fields),
        },
    )
    return artwork


def path_of(artwork: Artwork) -> Path:
    """Where an artwork's file lies. Raises ArtworkError when it is gone."""
    path = file_path(artwork.sha256)
    if not path.exists():
        raise ArtworkError(f"The file of {artwork.filename} is not in the library any more: drop it again.")
    return path


def share_artwork(source: Job, job: Job, names: Collection[str]) -> None:
    """List artwork of one job under another, by SHA-256. Their files are one."""
    for artwork in Artwork.objects.filter(job=source, sha256__in=names):
        facts = model_to_dict(artwork, exclude=["id", "job", "sha256"])
        Artwork.objects.get_or_create(job=job, sha256=artwork.sha256, defaults=facts)
