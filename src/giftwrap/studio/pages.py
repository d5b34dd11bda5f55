"""Telling open pages what happened: the groups of the live channel."""

from __future__ import annotations

from typing import Any

from channels.layers import get_channel_layer

EVERYBODY = "everybody"
"""Name of the live channel's group for all pages."""


def group_of(job_id: int) -> str:
    """Name of the live channel's group for one job."""
    return f"job-{job_id}"


async def announce(job_id: int, event: dict[str, Any]) -> None:
    """Send an event to every page open on a job."""
    await get_channel_layer().group_send(group_of(job_id), {"type": "tell", "event": event})


async def announce_to_all(event: dict[str, Any]) -> None:
    """Send an event to every page."""
    await get_channel_layer().group_send(EVERYBODY, {"type": "tell", "event": event})
