"""Content-addressed files: a file's name is the SHA-256 of what is in it."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from pathlib import Path

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.http import HttpResponse

from giftwrap.core.errors import ArtworkError
from giftwrap.core.formats.whole import write_whole
from giftwrap.core.model import ArtworkUse
from giftwrap.core.model.document import shortened
from giftwrap.crew.files import read_stored, stored_file
from giftwrap.studio.room import take_room


def file_path(sha256: str) -> Path:
    """Where the file with a hash lives."""
    path = stored_file(settings.FILES_DIR, sha256)
    if path is None:
        raise ArtworkError("That is not the name of an artwork file.")
    return path


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


def bytes_of(file: UploadedFile, most: int, what: str) -> bytes:
    """What somebody has sent, in memory. Raises as `contents_of` does."""
    source = contents_of(file, most, what, "Leave out what is not needed.")
    return source if isinstance(source, bytes) else source.read_bytes()


def attachment(data: bytes, kind: str, name: str) -> HttpResponse:
    """A file to keep, of a media type, by its name."""
    return HttpResponse(
        data, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


def name_of(file: UploadedFile) -> str:
    """What a person calls a file they have sent."""
    return shortened(Path(file.name or "").name or "The file", 80)


def read_file(sha256: str) -> bytes | None:
    """A file's bytes; None when it is lost."""
    return read_stored(settings.FILES_DIR, sha256)


def refuse_lost(uses: Iterable[ArtworkUse]) -> None:
    """Raise ArtworkError, naming its use, when a file that is used is not there."""
    for use in uses:
        if not file_path(use.sha256).exists():
            raise ArtworkError(
                f"The artwork file of {use.what} is not in the library: drop it again.", use.place
            )


def artwork_of(uses: Iterable[ArtworkUse]) -> dict[str, bytes]:
    """Contents of every file that is used, by SHA-256.

    Raises ArtworkError, naming its use, when one is not there.
    """
    uses = list(uses)
    refuse_lost(uses)
    return {use.sha256: file_path(use.sha256).read_bytes() for use in uses}
