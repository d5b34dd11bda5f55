"""The web process: pages and API over HTTP, the live channel over WebSocket."""

from __future__ import annotations

import gc
import os
from collections.abc import Awaitable, Callable
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "giftwrap.studio.settings")

from django.core.asgi import get_asgi_application

http_application = get_asgi_application()

from channels.auth import AuthMiddlewareStack
from channels.routing import ProtocolTypeRouter, URLRouter
from channels.security.websocket import AllowedHostsOriginValidator
from django.urls import path

from giftwrap.studio.rendering.bus import bus
from giftwrap.studio.rendering.live import JobChannel

Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]


async def lifespan(scope: dict[str, Any], receive: Receive, send: Send) -> None:
    """Keep the connection to the scheduler for as long as the server runs."""
    while True:
        message = await receive()
        if message["type"] == "lifespan.startup":
            bus.start()
            gc.freeze()  # what stays until the end need not be looked through again
            await send({"type": "lifespan.startup.complete"})
        elif message["type"] == "lifespan.shutdown":
            await bus.stop()
            await send({"type": "lifespan.shutdown.complete"})
            return


application = ProtocolTypeRouter(
    {
        "http": http_application,
        "websocket": AllowedHostsOriginValidator(
            AuthMiddlewareStack(URLRouter([path("live/jobs/<slug:slug>", JobChannel.as_asgi())]))
        ),
        "lifespan": lifespan,
    }
)
