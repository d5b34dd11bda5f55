"""Content-addressed files: a file's name is the SHA-256 of what is in it."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable
from pathlib import Path

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile

from giftwrap.core.errors import ArtworkError
from giftwrap.core.formats.whole import write_whole
from giftwrap.core.model import ArtworkUse
from giftwrap.core.model.document import shortened
from giftwrap.core.wrap.artwork import read_artwork
from giftwrap.studio.jobs.models import Job
from giftwrap.studio.library.models import Artwork
from giftwrap.studio.room import take_room


def file_path(sha256: str) -> Path:
    """Where the file with a hash lives."""
    if not re.fullmatch(r"[0-9a-f]{64}", sha256):
        raise ArtworkError("That is not the name of an artwork file.")
    return settings.FILES_DIR / sha256[:2] / sha256


def store(data: bytes) -> str:
    """Keep bytes, whole or not at all; returns their SHA-256. Raises DiskFull when there is no room."""
    sha256 = hashlib.sha256(data).hexdigest()
    path = file_path(sha256)
    if not path.exists():
        take_room(len(data))
        path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, data)
    return sha256


def contents_of(file: UploadedFile, most: int, what: str, advice: str) -> bytes | Path:
    """What somebody has sent: its bytes, or where it lies when it is large.

    Raises ArtworkError when it is larger than `most` bytes, DiskFull when there is no room for it.
    """
    size = file.size or 0
    if size > most:
        raise ArtworkError(
            f"{name_of(file)} is {size / 1e6:.0f} MB: {what} may be at most {most / 1e6:.0f} MB. {advice}"
        )
    take_room(size)
    lies = getattr(file, "temporary_file_path", None)
    return Path(lies()) if lies else file.read()


def name_of(file: UploadedFile) -> str:
    """What a person calls a file they have sent."""
    return shortened(Path(file.name or "").name or "The file", 80)


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
        },
    )
    return artwork


def path_of(artwork: Artwork) -> Path:
    """Where an artwork's file lies. Raises ArtworkError when it is gone."""
    path = file_path(artwork.sha256)
    if not path.exists():
        raise ArtworkError(f"The file of {artwork.filename} is not in the library any more: drop it again.")
    return path


def artwork_of(uses: Iterable[ArtworkUse]) -> dict[str, bytes]:
    """Contents of every file that is used, by SHA-256.

    Raises ArtworkError, naming its use, when one is not there.
    """
    files: dict[str, bytes] = {}
    for use in uses:
        path = file_path(use.sha256)
        if not path.exists():
            raise ArtworkError(
                f"The artwork file of {use.what} is not in the library: drop it again.", use.place
            )
        files[use.sha256] = path.read_bytes()
    return files
