"""Files on their way through the crew: kept by their SHA-256, and asked for over the crew's own channel."""

from __future__ import annotations

import re
from pathlib import Path

ASKED = "file_of_the_studio"
"""What the scheduler is asked for."""


def stored_file(folder: Path, sha256: str) -> Path | None:
    """Where the file with a hash lies in a studio's folder of files; None when that is no hash."""
    return folder / sha256[:2] / sha256 if re.fullmatch(r"[0-9a-f]{64}", sha256) else None


def read_stored(folder: Path, sha256: str) -> bytes | None:
    """A file's bytes; None when it is not there."""
    path = stored_file(folder, sha256)
    try:
        return path.read_bytes() if path else None
    except FileNotFoundError:
        return None


def ask_for_file(sha256: str) -> bytes | None:
    """In a rendering process at work: a file of the studio's, by way of the scheduler."""
    from distributed import get_worker
    from distributed.utils import sync

    worker = get_worker()
    found: bytes | None = sync(worker.loop, getattr(worker.scheduler, ASKED), sha256=sha256)
    return found
