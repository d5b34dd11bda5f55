"""The web process: pages and API over HTTP, the live channel over WebSocket."""

from __future__ import annotations

import gc
import os
import threading
from collections.abc import Awaitable, Callable
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "giftwrap.studio.settings")

from django.core.asgi import get_asgi_application

http_application = get_asgi_application()

from channels.routing import ProtocolTypeRouter, URLRouter
from django.urls import path

from giftwrap.core.reading import start_reading
from giftwrap.core.reading.reader import EVERYTHING
from giftwrap.studio.guard import BodyLimit, OwnOrigin
from giftwrap.studio.rendering.bus import bus
from giftwrap.studio.rendering.live import JobChannel
from giftwrap.studio.rendering.thumbnails import thumbnailing

Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]


async def lifespan(scope: dict[str, Any], receive: Receive, send: Send) -> None:
    """Keep the connection to the scheduler for as long as the server runs."""
    while True:
        message = await receive()
        if message["type"] == "lifespan.startup":
            bus.start()
            thumbnailing.start()
            threading.Thread(target=start_reading, args=[EVERYTHING], daemon=True).start()
            gc.freeze()  # what stays until the end need not be looked through again
            await send({"type": "lifespan.startup.complete"})
        elif message["type"] == "lifespan.shutdown":
            thumbnailing.stop()
            await bus.stop()
            await send({"type": "lifespan.shutdown.complete"})
            return


application = ProtocolTypeRouter(
    {
        "http": BodyLimit(http_application),
        "websocket": OwnOrigin(URLRouter([path("live/jobs/<slug:slug>", JobChannel.as_asgi())])),
        "lifespan": lifespan,
    }
)
