"""How the processes tell each other what happened: topics of the scheduler, and the live channel."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from typing import Any

from distributed import Client
from django.conf import settings

from giftwrap.crew.keys import crew_security, provide_keys
from giftwrap.studio.pages import announce, announce_to_all
from giftwrap.studio.rendering.models import Order
from giftwrap.studio.room import Room, room

log = logging.getLogger(__name__)

TOPIC = "giftwrap"


def order_event(order: Order) -> dict[str, Any]:
    """What a page needs to know about an order, as plain data."""
    return {
        "type": "order",
        "job": order.shot.job_id,
        "order": {
            "id": order.pk,
            "shot_id": order.shot_id,
            "colourway": order.colourway,
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


class Bus:
    """The web process's connection to the scheduler. It connects again whenever it is lost."""

    def __init__(self) -> None:
        self._client: Client | None = None
        self._task: asyncio.Task[None] | None = None
        self._room: Room = room()

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

    async def missing(self, resource: str) -> str:
        """What must be there before work with a resource is done, in words; "" when all of it is."""
        client = self.client()
        if client is None:
            return "Waiting for the scheduler, which is starting again."
        try:
            found = await client.scheduler.identity(n_workers=-1)
        except (OSError, TimeoutError):
            return "Waiting for the scheduler, which is starting again."
        workers = found["workers"].values()
        if any(resource in worker["resources"] for worker in workers):
            return ""
        return "Waiting for the process that computes light, which is starting again."

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
            await self._watch_room()
            await asyncio.sleep(0.5)

    async def _watch_room(self) -> None:
        """Tell every page when the room on the disk becomes little, or enough again."""
        now = room()
        if now.state != self._room.state:
            self._room = now
            await announce_to_all({"type": "room", "words": now.words})

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
