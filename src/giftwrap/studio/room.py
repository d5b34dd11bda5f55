"""Room on the disk: how much is left, what is said of it, and what is refused when there is hardly any."""

from __future__ import annotations

import shutil
from dataclasses import dataclass
from typing import Literal

from django.conf import settings
from django.db import OperationalError

from giftwrap.core.errors import DiskFull
from giftwrap.core.formats.whole import is_full


@dataclass(frozen=True)
class Room:
    """Bytes that are free where the studio keeps its files."""

    free: int

    @property
    def state(self) -> Literal["enough", "low", "full"]:
        """Below the warning it is low. Below the reserve, which is kept for documents, it counts as full."""
        if self.free < settings.DISK_RESERVE_BYTES:
            return "full"
        return "low" if self.free < settings.DISK_WARNING_BYTES else "enough"

    @property
    def left(self) -> str:
        """How much that is, in words."""
        return f"{self.free / 1e9:.1f} GB" if self.free >= 1e9 else f"{self.free / 1e6:.0f} MB"

    @property
    def words(self) -> str:
        """What the page says of it; nothing when there is enough."""
        if self.state == "full":
            return f"The disk is full: {self.left} left. Pictures wait and files are refused."
        return f"The disk is nearly full: {self.left} left. Make room on it." if self.state == "low" else ""


def room() -> Room:
    """The room there is now."""
    return Room(shutil.disk_usage(settings.HOME).free)


def take_room(size: int) -> None:
    """Raise DiskFull when taking in so many bytes would use up what is kept for documents."""
    left = Room(room().free - size)
    if left.state == "full":
        raise DiskFull(f": {room().left} left")


def says_full(error: BaseException) -> bool:
    """Whether an error from the file system or the database means that the disk is full.

    SQLite's result code SQLITE_FULL reads "database or disk is full".
    """
    if isinstance(error, OperationalError):
        return "disk is full" in str(error) or "disk I/O error" in str(error)
    return isinstance(error, DiskFull) or (isinstance(error, OSError) and is_full(error))
