"""The studio's outer walls: what strangers send, and the words for all of it.

Headers are held to OWASP's Secure Headers Project, uploads to its File Upload Cheat Sheet, both from memory.
"""

from __future__ import annotations

import json
import stat
from dataclasses import replace
from unittest.mock import patch

from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.sessions.models import Session
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.db import OperationalError
from django.test import Client, override_settings
from django.urls import path, reverse

from giftwrap.core.formats.whole import write_whole
from giftwrap.core.reading import ARTWORK
from giftwrap.core.tests.hostile import SVG, filtered, svg
from giftwrap.studio import refusals
from giftwrap.studio.library import api
from giftwrap.studio.library.models import Artwork
from giftwrap.studio.tests.base import StudioTestCase
from giftwrap.studio.urls import urlpatterns as real_patterns


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
        body = self.pack()["document"]["form"]["body"]
        with (
            patch("giftwrap.studio.jobs.forming.form_body", side_effect=RuntimeError("a secret")),
            self.assertLogs(),
        ):
            status, answer = self.send("post", "/api/fill-height", {"body": body, "volume_ml": 10})
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
            with patch("giftwrap.core.reading.svgs.TRIAL_S", 0.2):
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
