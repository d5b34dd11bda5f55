"""What can go wrong in the job's own rules, in words a designer understands."""

from __future__ import annotations


class GiftwrapError(ValueError):
    """Something the person asked for cannot be done.

    `message` says what happened, to what, and the way out; `place` is the dotted path of the
    document field it concerns ("body.profile.2.rounding"), or "" when it concerns the whole.
    """

    def __init__(self, message: str, place: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.place = place


class PackError(GiftwrapError):
    """A pack that cannot exist: its wall, contents, closure or panel contradict its profile."""


class ArtworkError(GiftwrapError):
    """An artwork file that cannot be read or placed."""


class RenderError(GiftwrapError):
    """Light cannot be computed on this machine, or the scene cannot be rendered."""
