"""Files by their content, as a rendering process has them: fetched when they are needed first, then kept.

Work names files by their SHA-256 and never carries them.
"""

from __future__ import annotations

import hashlib
import threading
from collections.abc import Callable, Iterable

from cachetools import LRUCache

from giftwrap.core.errors import ArtworkError
from giftwrap.core.model import ArtworkUse

KEPT_BYTES = 400_000_000

Fetch = Callable[[str], bytes | None]
"""Gives a file by its SHA-256, or None when it is not there."""


class Shelf:
    """The files of one process."""

    def __init__(self) -> None:
        self._kept: LRUCache[str, bytes] = LRUCache(KEPT_BYTES, getsizeof=len)
        self._lock = threading.Lock()
        self._fetch: Fetch = lambda sha256: None

    def fetch_with(self, fetch: Fetch) -> None:
        """Get what is missing from somewhere."""
        self._fetch = fetch

    def put(self, data: bytes) -> str:
        """Keep a file; returns its SHA-256."""
        sha256 = hashlib.sha256(data).hexdigest()
        with self._lock:
            self._kept[sha256] = data
        return sha256

    def files(self, uses: Iterable[ArtworkUse]) -> dict[str, bytes]:
        """Contents of every file that is used, by SHA-256.

        Raises ArtworkError, naming its use, when one is lost.
        """
        found: dict[str, bytes] = {}
        for use in uses:
            if use.sha256 in found:
                continue
            data = self._file(use.sha256)
            if data is None:
                raise ArtworkError(
                    f"The artwork file of {use.what} is not in the library: drop it again.", use.place
                )
            found[use.sha256] = data
        return found

    def _file(self, sha256: str) -> bytes | None:
        with self._lock:
            kept = self._kept.get(sha256)
        if kept is not None:
            return kept
        data = self._fetch(sha256)
        if data is None or hashlib.sha256(data).hexdigest() != sha256:
            return None
        with self._lock:
            if len(data) <= KEPT_BYTES:
                self._kept[sha256] = data
        return data


shelf = Shelf()
"""That of this process."""
