"""What can go wrong in the job's own rules, in words a designer understands."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager


class GiftwrapError(ValueError):
    """Something the person asked for cannot be done.

    `message` says what happened, to what, and the way out; `place` is the dotted path of the
    document field it concerns ("body.profile.2.rounding"), or "" when it concerns the whole.
    """

    def __init__(self, message: str, place: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.place = place


@contextmanager
def within(place: str) -> Iterator[None]:
    """What goes wrong inside is said to lie at a place of the whole: its own place is put behind."""
    try:
        yield
    except GiftwrapError as error:
        error.place = f"{place}.{error.place}" if error.place else place
        raise


class PackError(GiftwrapError):
    """A pack that cannot exist: its wall, contents, closure or panel contradict its profile."""


class ArtworkError(GiftwrapError):
    """An artwork file that cannot be read or placed."""


class ModelError(GiftwrapError):
    """A model file that cannot be read."""


class RenderError(GiftwrapError):
    """Light cannot be computed on this machine, or the scene cannot be rendered."""


class DiskFull(GiftwrapError):
    """There is no room on the disk. What was asked for can be asked again when there is."""

    def __init__(self, left: str = "") -> None:
        super().__init__(
            f"The studio's disk is full{left}. Make room on it and try again: nothing that was saved is "
            "lost, and what you did stays on this page."
        )
