"""Files that appear whole or not at all, whatever happens while they are written."""

from __future__ import annotations

import contextlib
import errno
import os
from collections.abc import Iterator
from pathlib import Path

from giftwrap.core.errors import DiskFull

PARTIAL = ".part-"
"""How the name of a file begins that is not whole yet."""


@contextlib.contextmanager
def whole(path: Path) -> Iterator[Path]:
    """Where to write what is to become a file. It takes its place when it is done, and goes when it is not.

    Raises DiskFull when there is no room for it.
    """
    partial = path.with_name(f"{PARTIAL}{os.getpid()}-{path.name}")
    try:
        yield partial
        partial.replace(path)
    except OSError as error:
        raise (DiskFull() if is_full(error) else error) from error
    finally:
        with contextlib.suppress(OSError):
            partial.unlink(missing_ok=True)


def write_whole(path: Path, data: bytes | memoryview) -> None:
    """Write a file, and have it on the disk itself before it takes its place."""
    with whole(path) as partial, partial.open("wb") as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())


def is_full(error: OSError) -> bool:
    """Whether an error means that a disk or somebody's share of it is full."""
    return error.errno in (errno.ENOSPC, errno.EDQUOT)
