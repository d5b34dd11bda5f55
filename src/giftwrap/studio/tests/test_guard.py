"""Who may open a live channel, what it answers, and how large a request may be."""

from __future__ import annotations

import asyncio
import json
from unittest.mock import patch

from asgiref.testing import ApplicationCommunicator
from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import Client, SimpleTestCase, TransactionTestCase

from giftwrap.studio.asgi import application
from giftwrap.studio.guard import BodyLimit, is_own_origin
from giftwrap.studio.jobs.services import start_job


class OriginTests(SimpleTestCase):
    def test_only_the_very_server_may_open_a_channel(self) -> None:
        for origin, host, allowed in (
            ("http://127.0.0.1:8000", "127.0.0.1:8000", True),
            ("http://localhost", "localhost", True),
            ("http://[::1]:8000", "[::1]:8000", True),
            ("http://127.0.0.1:9999", "127.0.0.1:8000", False),
            ("https://127.0.0.1:8000", "127.0.0.1:8000", False),
            ("http://localhost:8000", "127.0.0.1:8000", False),
            ("http://evil.example", "evil.example", False),
            ("null", "127.0.0.1:8000", False),
            ("", "127.0.0.1:8000", False),
            ("http://127.0.0.1:99999999", "127.0.0.1:8000", False),
        ):
            self.assertEqual(is_own_origin(origin, host, secure=False), allowed, (origin, host))


class LiveChannel(ApplicationCommunicator):
    """One page's end of a live channel."""

    async def connect(self) -> bool:
        await self.send_input({"type": "websocket.connect"})
        return (await self.receive_output(5))["type"] == "websocket.accept"

    async def say(self, text: str) -> None:
        await self.send_input({"type": "websocket.receive", "text": text})

    async def hear(self) -> dict:
        return json.loads((await self.receive_output(5))["text"])

    async def disconnect(self) -> None:
        await self.send_input({"type": "websocket.disconnect", "code": 1000})
        await self.wait(5)


class ChannelTests(TransactionTestCase):
    """The live channel as strangers and confused pages use it."""

    def open(self, origin: str, user: object = None) -> LiveChannel:
        client = Client()
        if user is not None:
            client.force_login(user, backend=settings.AUTHENTICATION_BACKENDS[1])
        cookies = "; ".join(f"{name}={morsel.value}" for name, morsel in client.cookies.items())
        headers = [(b"host", b"127.0.0.1:8000"), (b"origin", origin.encode()), (b"cookie", cookies.encode())]
        scope = {"type": "websocket", "path": "/live/jobs/pear", "headers": headers, "scheme": "ws"}
        return LiveChannel(application, {**scope, "query_string": b"", "client": ("192.0.2.1", 1)})

    def test_strangers_and_other_origins_are_turned_away(self) -> None:
        user = get_user_model().objects.create_user("ada")
        start_job("Pear", "")

        async def knock(origin: str, who: object) -> bool:
            channel = await asyncio.to_thread(self.open, origin, who)
            connected = await channel.connect()
            await channel.disconnect()
            return connected

        own, other = "http://127.0.0.1:8000", "http://127.0.0.1:8001"
        for origin, who, welcome in ((own, user, True), (other, user, False), (own, None, False)):
            self.assertEqual(asyncio.run(knock(origin, who)), welcome, (origin, who))

    def test_messages_that_cannot_be_read_are_answered(self) -> None:
        user = get_user_model().objects.create_user("ada")
        start_job("Pear", "")

        async def say(*texts: str) -> list[dict]:
            channel = await asyncio.to_thread(self.open, "http://127.0.0.1:8000", user)
            await channel.connect()
            self.assertEqual((await channel.hear())["type"], "room")
            heard = []
            for text in texts:
                await channel.say(text)
                heard.append(await channel.hear())
            await channel.disconnect()
            return heard

        strange = (
            "[" * 100_000,
            "{",
            "[]",
            "7",
            '{"type":"proof","proof":{"number":1e400}}',
            '{"proof":null}',
        )
        for answer in asyncio.run(say(*strange)):
            self.assertEqual(answer["type"], "proof-failed")
            self.assertTrue(0 < len(answer["message"]) < 1000)


UNSAID = -1


class BodyLimitTests(SimpleTestCase):
    """A request's size is judged before Django sees it, by the address it goes to."""

    def ask(
        self, address: str, *chunks: bytes, announced: int | None = None, signed_in: bool = True
    ) -> tuple[int, int]:
        """Status, and the bytes that came through."""
        sent: list[dict] = []
        length = sum(map(len, chunks)) if announced is None else announced
        coming = [
            {"type": "http.request", "body": c, "more_body": i + 1 < len(chunks)}
            for i, c in enumerate(chunks)
        ]
        passed = 0

        async def inner(scope: dict, receive: object, send: object) -> None:
            nonlocal passed
            while True:
                message = await receive()
                passed += len(message["body"])
                if not message["more_body"]:
                    break
            await send({"type": "http.response.start", "status": 200, "headers": []})

        async def receive() -> dict:
            return coming.pop(0)

        async def send(message: dict) -> None:
            sent.append(message)

        async def known(scope: dict) -> bool:
            return signed_in

        header = (
            (b"transfer-encoding", b"chunked") if announced == UNSAID else (b"content-length", b"%d" % length)
        )
        scope = {"type": "http", "path": address, "headers": [header]}
        with patch("giftwrap.studio.guard._is_signed_in", known):
            asyncio.run(BodyLimit(inner)(scope, receive, send))
        self.left = len(coming)
        if sent[0]["status"] == 413:
            self.assertIn("too large", json.loads(sent[1]["body"])["message"])
        return sent[0]["status"], passed

    def test_documents_and_files_have_their_own_ends(self) -> None:
        self.assertEqual(self.ask("/api/packs/1", b"x" * 1000), (200, 1000))
        self.assertEqual(self.ask("/api/packs/1", b"", announced=9_000_000), (413, 0))
        self.assertEqual(self.ask("/api/jobs/pear/artwork", b"", announced=60_000_000)[0], 200)
        self.assertEqual(self.ask("/api/jobs/pear/artwork", b"", announced=410_000_000), (413, 0))
        self.assertEqual(self.ask("/api/jobs/pear/photos", b"", announced=300_000_000)[0], 200)

    def test_what_was_announced_too_small_is_cut_off(self) -> None:
        status, passed = self.ask("/api/packs/1", *[b"x" * 1_000_000] * 12, announced=10)
        self.assertEqual((status, passed), (413, 8_000_000))

    def test_who_sends_too_much_is_answered_when_all_of_it_is_sent(self) -> None:
        """Browsers that are still sending when the answer comes show a broken connection instead."""
        self.assertEqual(self.ask("/api/packs/1", *[b"x" * 1_000_000] * 12), (413, 0))
        self.assertEqual(self.left, 0)
        self.ask("/sign-in/", *[b"x" * 1_000_000] * 12, signed_in=False)
        self.assertEqual(self.left, 11, "strangers are not listened to for long")

    def test_bodies_of_unsaid_size_are_counted(self) -> None:
        self.assertEqual(self.ask("/api/packs/1", b"x" * 1000, announced=UNSAID), (200, 1000))
        self.assertEqual(self.ask("/api/packs/1", *[b"x" * 1_000_000] * 12, announced=UNSAID)[0], 413)
        stranger = self.ask("/sign-in/", *[b"x" * 60_000] * 2, announced=UNSAID, signed_in=False)
        self.assertEqual(stranger, (413, 60_000))

    def test_strangers_may_send_hardly_anything(self) -> None:
        self.assertEqual(self.ask("/api/jobs/pear/photos", b"", announced=200_000, signed_in=False), (413, 0))
        self.assertEqual(self.ask("/sign-in/", b"x" * 90_000, signed_in=False)[0], 200)
