"""The studio's outer walls: what strangers send, a full disk, and the words for all of it.

Headers are held to OWASP's Secure Headers Project, uploads to its File Upload Cheat Sheet, both from memory.
"""

from __future__ import annotations

import asyncio
import errno
import json
import stat
from pathlib import Path
from unittest.mock import patch

from asgiref.testing import ApplicationCommunicator
from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.sessions.models import Session
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.db import OperationalError, connection
from django.test import Client, SimpleTestCase, TransactionTestCase, override_settings
from django.urls import path, reverse

from giftwrap.core.errors import DiskFull
from giftwrap.core.formats.whole import whole, write_whole
from giftwrap.core.tests.hostile import SVG, filtered, svg
from giftwrap.core.tests.samples import png
from giftwrap.studio import refusals
from giftwrap.studio.asgi import application
from giftwrap.studio.guard import BodyLimit, is_own_origin
from giftwrap.studio.jobs.services import start_job
from giftwrap.studio.library.models import Artwork
from giftwrap.studio.room import Room, room, says_full
from giftwrap.studio.tests.base import StudioTestCase
from giftwrap.studio.urls import urlpatterns as real_patterns

GIGABYTE = 1_000_000_000


def break_inside(request: object) -> None:
    raise RuntimeError("a secret of the inside")


urlpatterns = [path("broken", break_inside), *real_patterns]
handler400, handler403, handler404, handler500 = (
    f"giftwrap.studio.refusals.{name}" for name in ("bad_request", "forbidden", "not_found", "broken_page")
)


class WordsTests(StudioTestCase):
    """Whatever goes wrong is said as JSON with a message, or on a plain page."""

    def test_numbers_out_of_range_are_refused_and_not_broken_by(self) -> None:
        row = self.pack()
        for number in (10**30, -1, 0):
            body = {"base_revision": number, "document": row["document"]}
            status, answer = self.send("put", f"/api/packs/{row['id']}", body)
            self.assertEqual((status, answer["place"]), (422, "base_revision"))
            self.assertEqual(self.send("post", f"/api/packs/{row['id']}/restore", {"number": number})[0], 422)
        for address in (f"/api/orders/{10**30}", f"/api/pictures/{10**30}.png", f"/api/packs/{10**25}/undo"):
            call = self.client.post if address.endswith("undo") else self.client.get
            self.assertEqual(call(address).status_code, 422, address)

    def test_a_megabyte_is_not_echoed_back(self) -> None:
        status, answer = self.send("post", "/api/jobs", {"name": "x" * 1_000_000})
        self.assertEqual(status, 422)
        self.assertLess(len(json.dumps(answer)), 1000)

    def test_deep_and_broken_json_is_answered(self) -> None:
        for body in ("[" * 100_000, "{", "\xff", '{"a":' * 3000, "", "null", "[]", "NaN"):
            response = self.client.post("/api/shape", data=body, content_type="application/json")
            self.assertIn(response.status_code, (400, 422), body[:9])
            self.assertTrue(response.json()["message"])

    def test_refusals_of_every_door_speak_alike(self) -> None:
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.user, backend=settings.AUTHENTICATION_BACKENDS[1])
        stranger = Client()
        for response, status in (
            (strict.post("/api/jobs", {"name": "x"}, content_type="application/json"), 403),
            (stranger.get("/api/jobs"), 401),
            (stranger.get("/api/openapi.json"), 401),
            (stranger.get("/api/nowhere"), 404),
            (self.client.get("/api/nowhere"), 404),
            (self.client.get(f"/api/photos/{'0' * 64}.jpg"), 404),
            (self.client.delete("/api/jobs"), 405),
        ):
            self.assertEqual(response.status_code, status, response.request["PATH_INFO"])
            if status != 405:
                self.assertTrue(response.json()["message"], response.request["PATH_INFO"])
        self.assertEqual(self.client.get("/api/openapi.json").json()["openapi"], "3.1.0")

    def test_what_breaks_inside_is_said_without_its_secrets(self) -> None:
        self.client.raise_request_exception = False
        with (
            patch("giftwrap.studio.jobs.api.view_of", side_effect=RuntimeError("a secret")),
            self.assertLogs(),
        ):
            status, answer = self.send("post", "/api/view", {"camera": {}, "aspect": 1.0})
        self.assertEqual((status, answer["message"]), (500, refusals.BROKEN))
        with override_settings(ROOT_URLCONF=__name__), self.assertLogs("django.request"):
            page = self.client.get("/broken")
        self.assertContains(page, "Something broke inside", status_code=500)
        self.assertNotContains(page, "secret", status_code=500)

    def test_a_busy_database_is_said_to_be_busy(self) -> None:
        locked = OperationalError("database is locked")
        with patch("giftwrap.studio.jobs.services.start_job", side_effect=locked):
            self.assertEqual(
                self.send("post", "/api/jobs", {"name": "x"}), (503, {"message": refusals.BUSY, "place": ""})
            )

    def test_hostile_artwork_is_refused_in_words_and_leaves_nothing(self) -> None:
        for data in (
            svg("", 'viewBox="0 0 0.001 90000"'),
            filtered('<feTurbulence baseFrequency="1" numOctaves="9e4"/>'),
        ):
            with patch("giftwrap.core.wrap.artwork.TRIAL_S", 0.2):
                file = SimpleUploadedFile("drawing.svg", data)
                response = self.client.post(f"/api/jobs/{self.job.slug}/artwork", {"file": file})
            self.assertEqual(response.status_code, 422)
            self.assertIn("drawing.svg", response.json()["message"])
        self.assertFalse(Artwork.objects.exists() or list((self.home / "files").rglob("*")))

    def test_a_preview_of_what_takes_too_long_is_refused_too(self) -> None:
        slow = SVG.format('width="60mm" height="40mm"', "").encode()
        made = self.client.post(
            f"/api/jobs/{self.job.slug}/artwork", {"file": SimpleUploadedFile("a.svg", slow)}
        ).json()
        kept = next((self.home / "files").rglob(made["sha256"]))
        kept.write_bytes(filtered('<feTurbulence baseFrequency="0.9" numOctaves="99999"/>'))
        with self.quick():
            response = self.client.get(f"/api/artwork/{made['id']}/preview.png")
        self.assertEqual(response.status_code, 422)
        self.assertIn("to draw", response.json()["message"])
        kept.unlink()
        self.assertIn(
            "not in the library", self.client.get(f"/api/artwork/{made['id']}/preview.png").json()["message"]
        )

    def quick(self) -> object:
        from dataclasses import replace

        from giftwrap.core.reading import ARTWORK
        from giftwrap.studio.library import api

        limits = replace(ARTWORK, seconds=1.0, cpu_seconds=1)
        drawn = api.rasterise
        return patch.object(
            api, "rasterise", lambda *all_, **more: drawn(*all_, **{**more, "limits": limits})
        )


class HeaderTests(StudioTestCase):
    def test_every_answer_is_for_this_origin_and_runs_nothing_inline(self) -> None:
        for response in (
            self.client.get("/api/jobs"),
            self.client.get("/sign-in/"),
            self.client.get("/api/nowhere"),
            self.client.get("/favicon.svg"),
            Client().get("/jobs/velloway/form"),
        ):
            policy = response["Content-Security-Policy"]
            self.assertIn("default-src 'none'", policy)
            self.assertIn("frame-ancestors 'none'", policy)
            self.assertNotIn("unsafe", policy)
            self.assertEqual(response["Cross-Origin-Resource-Policy"], "same-origin")
            self.assertEqual(response["X-Content-Type-Options"], "nosniff")
            self.assertEqual(response["Cross-Origin-Opener-Policy"], "same-origin")

    def test_a_page_s_styles_carry_its_nonce_and_no_other_s(self) -> None:
        pages = [self.client.get("/") for _ in range(2)]
        if pages[0].status_code == 503:
            self.skipTest("the pages are not built")
        nonces = [page.content.decode().split('style-nonce" content="')[1].split('"')[0] for page in pages]
        self.assertNotEqual(*nonces)
        for page, nonce in zip(pages, nonces, strict=True):
            self.assertIn(f"style-src 'self' 'nonce-{nonce}'", page["Content-Security-Policy"])

    def test_build_stamps_are_not_among_the_pages(self) -> None:
        hidden = [p.name for p in settings.WEB_DIST.rglob(".*")]
        self.assertEqual(hidden, [])

    def test_the_home_folder_is_its_owner_s_alone(self) -> None:
        self.assertEqual(stat.S_IMODE(settings.HOME.stat().st_mode) & 0o077, 0)
        write_whole(self.home / "a", b"quince")
        self.assertEqual(stat.S_IMODE((self.home / "a").stat().st_mode) & 0o077, 0)


class SignInTests(StudioTestCase):
    def test_after_five_failures_it_has_to_wait(self) -> None:
        visitor = Client()
        wrong, right = {"username": "ada", "password": "x"}, {"username": "ada", "password": "pips"}
        answers = [visitor.post(reverse("sign-in"), wrong).status_code for _ in range(6)]
        self.assertEqual((answers[0], answers[-1]), (200, 429))
        page = visitor.post(reverse("sign-in"), right)
        self.assertContains(page, "Wait a minute", status_code=429)
        AccessAttempt.objects.all().delete()
        self.assertEqual(visitor.post(reverse("sign-in"), right).status_code, 302)

    def test_others_are_not_locked_out_with_them(self) -> None:
        for _ in range(6):
            Client(REMOTE_ADDR="192.0.2.9").post(reverse("sign-in"), {"username": "ada", "password": "x"})
        right = {"username": "ada", "password": "pips"}
        self.assertEqual(Client().post(reverse("sign-in"), right).status_code, 302)

    @override_settings(DEMO=True)
    def test_demo_visits_leave_no_sessions_behind(self) -> None:
        call_command("load_demo", "--signed-in")
        before = Session.objects.count()
        for _ in range(5):
            self.assertEqual(Client().get("/api/session").json()["user"], "designer")
        self.assertEqual(Session.objects.count(), before)


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
        from django.contrib.auth import get_user_model

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
        from django.contrib.auth import get_user_model

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

        scope = {"type": "http", "path": address, "headers": [(b"content-length", str(length).encode())]}
        with patch("giftwrap.studio.guard._is_signed_in", known):
            asyncio.run(BodyLimit(inner)(scope, receive, send))
        if sent[0]["status"] == 413:
            self.assertIn("too large", json.loads(sent[1]["body"])["message"])
        return sent[0]["status"], passed

    def test_documents_and_files_have_their_own_ends(self) -> None:
        self.assertEqual(self.ask("/api/packs/1", b"x" * 1000), (200, 1000))
        self.assertEqual(self.ask("/api/packs/1", b"", announced=9_000_000), (413, 0))
        self.assertEqual(self.ask("/api/jobs/pear/artwork", b"", announced=60_000_000)[0], 200)
        self.assertEqual(self.ask("/api/jobs/pear/artwork", b"", announced=70_000_000), (413, 0))
        self.assertEqual(self.ask("/api/jobs/pear/photos", b"", announced=300_000_000)[0], 200)

    def test_what_was_announced_too_small_is_cut_off(self) -> None:
        status, passed = self.ask("/api/packs/1", *[b"x" * 1_000_000] * 12, announced=10)
        self.assertEqual((status, passed), (413, 8_000_000))

    def test_strangers_may_send_hardly_anything(self) -> None:
        self.assertEqual(self.ask("/api/jobs/pear/photos", b"", announced=200_000, signed_in=False), (413, 0))
        self.assertEqual(self.ask("/sign-in/", b"x" * 90_000, signed_in=False)[0], 200)


class FullDiskTests(StudioTestCase):
    def test_states_of_room_and_their_words(self) -> None:
        for free, state in ((GIGABYTE * 50, "enough"), (GIGABYTE, "low"), (20_000_000, "full")):
            found = Room(free)
            self.assertEqual(found.state, state)
            self.assertEqual(bool(found.words), state != "enough")
        self.assertIn("20 MB left", Room(20_000_000).words)

    def test_files_are_refused_before_the_disk_is_full(self) -> None:
        with override_settings(DISK_RESERVE_BYTES=room().free * 2):
            for address in ("artwork", "photos"):
                file = SimpleUploadedFile("label.png", png())
                response = self.client.post(f"/api/jobs/{self.job.slug}/{address}", {"file": file})
                self.assertEqual(response.status_code, 507, address)
                self.assertIn("disk is full", response.json()["message"])
            self.assertIn("disk is full", self.client.get("/api/session").json()["room"])
        self.assertFalse(Artwork.objects.exists())
        self.assertEqual(self.client.get("/api/session").json()["room"], "")

    def test_a_save_that_the_database_has_no_room_for_is_refused_in_words(self) -> None:
        """SQLite's own "database or disk is full", brought about by a limit on its pages."""
        row = self.pack()
        with connection.cursor() as cursor:
            pages = cursor.execute("PRAGMA page_count").fetchone()[0]
            cursor.execute(f"PRAGMA max_page_count = {pages + 12}")
        try:
            row["document"]["tracing"] = None
            statuses = set()
            for wall in range(20, 60):
                row["document"]["body"]["wall_thickness"] = wall / 10
                body = {"base_revision": row["revision"], "document": row["document"]}
                status, answer = self.send("put", f"/api/packs/{row['id']}", body)
                statuses.add(status)
                if status == 507:
                    break
                row["revision"] = answer["revision"]
        finally:
            with connection.cursor() as cursor:
                cursor.execute("PRAGMA max_page_count = 1073741823")
        self.assertEqual(statuses, {200, 507})
        self.assertIn("disk is full", answer["message"])
        self.assertEqual(self.pack()["revision"], row["revision"], "what was saved before is there")

    def test_nothing_half_written_stays(self) -> None:
        target = self.home / "picture.png"
        full = OSError(errno.ENOSPC, "No space left on device")
        with self.assertRaises(DiskFull), whole(target) as partial:
            partial.write_bytes(b"half of it")
            raise full
        self.assertEqual(list(self.home.iterdir()), [])
        with patch("os.fsync", side_effect=full), self.assertRaises(DiskFull):
            write_whole(target, b"quince")
        self.assertEqual(list(self.home.iterdir()), [])

    def test_which_errors_mean_a_full_disk(self) -> None:
        self.assertTrue(says_full(OSError(errno.EDQUOT, "quota")) and says_full(DiskFull()))
        self.assertTrue(says_full(OperationalError("database or disk is full")))
        self.assertFalse(
            says_full(OperationalError("database is locked")) or says_full(OSError(errno.ENOENT, "no"))
        )
        self.assertFalse(Path(settings.INCOMING_DIR).samefile("/tmp"))
