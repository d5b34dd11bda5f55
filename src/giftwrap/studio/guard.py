"""What is checked before Django sees a request: how large it is, and where a live channel comes from."""

from __future__ import annotations

import json
import re
from collections.abc import Awaitable, Callable
from typing import Any
from urllib.parse import urlsplit

from asgiref.sync import sync_to_async
from channels.security.websocket import WebsocketDenier
from django.conf import settings
from django.http.request import split_domain_port, validate_host

from giftwrap.core.formats.profiles import MAX_BYTES as MAX_DRAWING_BYTES
from giftwrap.core.reading.artwork import MAX_BYTES as MAX_ARTWORK_BYTES
from giftwrap.core.received.reading import MAX_BYTES as MAX_MODEL_BYTES
from giftwrap.studio.signin import signed_in_user

Scope = dict[str, Any]
Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]

MAX_PHOTO_BYTES = 400_000_000
AROUND_A_FILE = 1_000_000
"""Bytes that a form may have around the file it carries."""
MAX_DOCUMENT_BYTES = 8_000_000
MAX_STRANGER_BYTES = 100_000
"""What nobody has signed in for is hardly more than a name and a password."""
_FILES = (
    (re.compile(r"/api/jobs/[^/]+/artwork"), MAX_ARTWORK_BYTES + AROUND_A_FILE),
    (re.compile(r"/api/jobs/[^/]+/photos"), MAX_PHOTO_BYTES + AROUND_A_FILE),
    (re.compile(r"/api/jobs/[^/]+/models/read"), MAX_MODEL_BYTES + AROUND_A_FILE),
    (re.compile(r"/api/(profile|outline)/read"), MAX_DRAWING_BYTES + AROUND_A_FILE),
)


class TooLarge(Exception):
    """A request has more bytes than its address takes."""


class BodyLimit:
    """Refuses requests that are too large for their address, before they fill memory or the disk."""

    def __init__(self, app: App) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        most, announced = _most_bytes(scope["path"]), _announced(scope)
        patience = MAX_PHOTO_BYTES
        if (announced is None or announced > MAX_STRANGER_BYTES) and not await _is_signed_in(scope):
            most, patience = MAX_STRANGER_BYTES, 10 * MAX_STRANGER_BYTES
        arrived = 0
        answered = whole = False

        async def counted() -> dict[str, Any]:
            nonlocal arrived, whole
            message = await receive()
            arrived += len(message.get("body", b""))
            whole = not message.get("more_body")
            if arrived > most:
                raise TooLarge
            return message

        async def watched(message: dict[str, Any]) -> None:
            nonlocal answered
            answered = True
            await send(message)

        try:
            if announced is not None and announced > most:
                raise TooLarge
            await self.app(scope, counted, watched)
        except TooLarge:
            if not answered:
                if not whole:
                    await _drain(receive, patience)
                await _refuse(send, most)


def _most_bytes(path: str) -> int:
    return next((most for pattern, most in _FILES if pattern.fullmatch(path)), MAX_DOCUMENT_BYTES)


def _announced(scope: Scope) -> int | None:
    """Bytes that are to come; None where that is not said."""
    headers = dict(scope["headers"])
    text = headers.get(b"content-length", b"" if b"transfer-encoding" in headers else b"0")
    return int(text) if text.isdigit() and len(text) < 18 else None


async def _is_signed_in(scope: Scope) -> bool:
    user = await sync_to_async(signed_in_user)(scope)
    return user.is_authenticated


async def _drain(receive: Receive, most: int) -> None:
    """Let a request that is refused come to its end, and drop it: who is still sending hears no answer."""
    seen = 0
    while seen < most:
        message = await receive()
        seen += len(message.get("body", b""))
        if not message.get("more_body"):
            return


async def _refuse(send: Send, most: int) -> None:
    words = f"That is too large: at most {most / 1e6:.3g} MB are taken here. Nothing was changed."
    body = json.dumps({"message": words, "place": ""}).encode()
    headers = [
        (b"content-type", b"application/json"),
        (b"content-length", str(len(body)).encode()),
        (b"connection", b"close"),
        (b"content-security-policy", b"default-src 'none'; frame-ancestors 'none'"),
        (b"x-content-type-options", b"nosniff"),
        *((name.lower().encode(), value.encode()) for name, value in settings.SAFE_HEADERS.items()),
    ]
    await send({"type": "http.response.start", "status": 413, "headers": headers})
    await send({"type": "http.response.body", "body": body})


class OwnOrigin:
    """Lets pages of this very origin open a live channel, port included, and nobody else."""

    def __init__(self, app: App) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        headers = dict(scope["headers"])
        origin = headers.get(b"origin", b"").decode("latin-1")
        host = headers.get(b"host", b"").decode("latin-1")
        allow = is_own_origin(origin, host, secure=scope.get("scheme") == "wss")
        await (self.app if allow else WebsocketDenier())(scope, receive, send)


def is_own_origin(origin: str, host: str, *, secure: bool) -> bool:
    """Whether an Origin header names the very server that a Host header asks for (RFC 6454, section 4)."""
    try:
        asked, named = urlsplit(origin), urlsplit(f"//{host}")
        standard = 443 if secure else 80
        same = (asked.hostname, asked.port or standard) == (named.hostname, named.port or standard)
    except ValueError:
        return False
    domain, _ = split_domain_port(host)
    scheme = "https" if secure else "http"
    return same and asked.scheme == scheme and bool(domain) and validate_host(domain, settings.ALLOWED_HOSTS)
