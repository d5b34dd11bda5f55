"""ZIP archives that strangers send: unpacked in memory, and refused when they are broken or a trap."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Mapping
from pathlib import PurePosixPath

from giftwrap.core.errors import GiftwrapError

BEGINS = b"PK\x03\x04"
MOST_ENTRIES = 400
MOST_UNPACKED = 800_000_000
"""Bytes that an archive may hold."""


def pack_files(files: Mapping[str, bytes]) -> bytes:
    """An archive of files by their names there, as they are."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for name, data in files.items():
            archive.writestr(zipfile.ZipInfo(name), data)  # of no time: equal files make equal archives
    return stream.getvalue()


def unpack_files(data: bytes, name: str, *, refusal: type[GiftwrapError], relief: str) -> dict[str, bytes]:
    """Every file of an archive by its name there, which never touch the disk.

    relief : what makes one smaller, for the words of a refusal

    Raises `refusal` when it is broken, too large, or points out of itself.
    """
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        return _contents(archive, name, refusal, relief)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, zipfile.zlib.error) as error:  # type: ignore[attr-defined]
        raise refusal(f"{name} is no sound archive ({error}): pack it again.") from None


def _contents(
    archive: zipfile.ZipFile, name: str, refusal: type[GiftwrapError], relief: str
) -> dict[str, bytes]:
    entries = [entry for entry in archive.infolist() if not entry.is_dir()]
    entries = [entry for entry in entries if not entry.filename.startswith("__MACOSX/")]
    if len(entries) > MOST_ENTRIES:
        raise refusal(f"{name} holds {len(entries)} files; {MOST_ENTRIES} is the most: {relief}.")
    for entry in entries:
        path = PurePosixPath(entry.filename.replace("\\", "/"))
        if path.is_absolute() or ".." in path.parts or re.match(r"[A-Za-z]:", entry.filename):
            raise refusal(
                f"{name} has a file that points out of it (“{entry.filename[:60]}”): pack the folder itself."
            )
    total = sum(entry.file_size for entry in entries)
    if total > MOST_UNPACKED:
        raise refusal(
            f"{name} unpacks to {total / 1e9:.1f} GB; {MOST_UNPACKED / 1e9:.1f} GB is the most: {relief}."
        )
    found, left = {}, MOST_UNPACKED
    for entry in entries:
        with archive.open(entry) as stream:
            content = stream.read(left + 1)  # sizes that are told may be lies
        left -= len(content)
        if left < 0:
            raise refusal(f"{name} unpacks to more than it says: it is damaged or a trap.")
        found[entry.filename] = content
    return found
