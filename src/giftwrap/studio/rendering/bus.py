"""How the processes tell each other what happened: topics of the scheduler, and the live channel."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from typing import Any

from channels.layers import get_channel_layer
from distributed import Client
from django.conf import settings

from giftwrap.crew.keys import crew_security, provide_keys
from giftwrap.studio.rendering.models import Order

log = logging.getLogger(__name__)

TOPIC = "giftwrap"


def group_of(job_id: int) -> str:
    """Name of the live channel's group for one job."""
    return f"job-{job_id}"


def order_event(order: Order) -> dict[str, Any]:
    """What a page needs to know about an order, as plain data."""
    return {
        "type": "order",
        "job": order.shot.job_id,
        "order": {
            "id": order.pk,
            "state": str(order.state),
            "wish": str(order.wish),
            "samples": order.samples,
            "samples_done": order.samples_done,
            "noise": order.noise,
            "seconds": order.seconds,
            "progress": order.progress,
            "remaining_seconds": order.remaining_seconds,
            "message": order.message,
            "waiting": order.waiting,
        },
    }


async def announce(job_id: int, event: dict[str, Any]) -> None:
    """Send an event to every page open on a job."""
    await get_channel_layer().group_send(group_of(job_id), {"type": "tell", "event": event})


class Bus:
    """The web process's connection to the scheduler. It connects again whenever it is lost."""

    def __init__(self) -> None:
        self._client: Client | None = None
        self._task: asyncio.Task[None] | None = None

    def start(self) -> None:
        """Begin connecting, in the background."""
        self._task = asyncio.create_task(self._keep_connected())

    async def stop(self) -> None:
        """Disconnect."""
        if self._task:
            self._task.cancel()
        await self._drop()

    def client(self) -> Client | None:
        """The connection, if there is one."""
        alive = self._client is not None and self._client.status == "running"
        return self._client if alive else None

    async def _drop(self) -> None:
        """Close a connection that is of no more use."""
        client, self._client = self._client, None
        if client is not None:
            with contextlib.suppress(Exception):
                await client.close(timeout=1)

    async def _keep_connected(self) -> None:
        while True:
            if self.client() is None:
                await self._connect()
            await asyncio.sleep(0.5)

    async def _connect(self) -> None:
        await self._drop()
        try:
            client = await Client(
                settings.SCHEDULER_ADDRESS,
                security=crew_security(provide_keys(settings.HOME)),
                asynchronous=True,
                timeout=2,
                set_as_default=False,
            )
            client.subscribe_topic(TOPIC, self._heard)
            self._client = client
        except (OSError, TimeoutError) as error:
            log.debug("The scheduler does not answer yet: %s", error)

    async def _heard(self, event: tuple[float, dict[str, Any]]) -> None:
        message = event[1]
        await announce(message["job"], message)


bus = Bus()
