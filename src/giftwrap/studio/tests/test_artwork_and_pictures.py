"""Artwork coming in, orders and pictures, and who may see them."""

from __future__ import annotations

import io

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.test import Client, override_settings
from PIL import Image

from giftwrap.core.grade.display import grade_picture
from giftwrap.core.model import Grade
from giftwrap.core.stage.standing import crossings, line_up
from giftwrap.core.tests.samples import png
from giftwrap.story import demo_story
from giftwrap.studio.jobs.frames import frame_of
from giftwrap.studio.jobs.models import Shot
from giftwrap.studio.jobs.services import start_job
from giftwrap.studio.jobs.shapes import things_of
from giftwrap.studio.library.models import Artwork
from giftwrap.studio.rendering import storage
from giftwrap.studio.rendering.demo import load_demo_job
from giftwrap.studio.rendering.models import Order, Picture
from giftwrap.studio.signin import is_loopback
from giftwrap.studio.tests.base import StudioTestCase


class ArtworkTests(StudioTestCase):
    def upload(self, data: bytes, name: str) -> tuple[int, dict]:
        response = self.client.post(
            f"/api/jobs/{self.job.slug}/artwork", {"file": SimpleUploadedFile(name, data)}
        )
        return response.status_code, response.json()

    def test_the_same_file_twice_is_one_artwork(self) -> None:
        first, second = self.upload(png(), "label.png"), self.upload(png(), "again.png")
        self.assertEqual(first[1]["id"], second[1]["id"])
        self.assertEqual(Artwork.objects.count(), 1)
        self.assertEqual(len([p for p in (self.home / "files").rglob("*") if p.is_file()]), 1)

    def test_a_bad_file_is_refused_and_leaves_nothing(self) -> None:
        for data, name in ((b"%PDF-1.4", "label.pdf"), (png()[:60], "label.png"), (b"", "none.svg")):
            status, answer = self.upload(data, name)
            self.assertEqual(status, 422)
            self.assertIn(name, answer["message"])
        self.assertEqual(Artwork.objects.count(), 0)
        self.assertFalse((self.home / "files").exists())

    def test_a_barcode_is_artwork_of_its_size(self) -> None:
        address = f"/api/jobs/{self.job.slug}/barcodes"
        status, made = self.send("post", address, {"kind": "ean-13", "text": "200123456789"})
        self.assertEqual(status, 200, made)
        self.assertEqual((made["filename"], made["width"]), ("EAN-13 2001234567893.svg", 37.29))
        self.assertEqual([a.id for a in Artwork.objects.filter(job=self.job)], [made["id"]])
        for body, words in (
            ({"kind": "ean-13", "text": "200"}, "13 digits"),
            ({"kind": "qr", "text": "\udcff"}, ""),
            ({"kind": "ean-8", "text": "2012345", "magnification": 3}, "80 to 200 %"),
        ):
            status, refused = self.send("post", address, body)
            self.assertEqual(status, 422, refused)
            self.assertIn(words, refused["message"])

    def test_names_with_paths_stay_names(self) -> None:
        self.assertEqual(self.upload(png(), "../../etc/label.png")[1]["filename"], "label.png")

    def test_panel_picture_shows_the_print(self) -> None:
        sha256 = self.upload(png(colour="#00ff00"), "green.png")[1]["sha256"]
        panel = {"from_base": 20, "width": 40, "height": 20}
        panel["placements"] = [{"artwork": sha256, "x": 0, "y": 0, "width": 40}]
        response = self.client.post(
            "/api/panel-picture?ppi=50", {"panel": panel}, content_type="application/json"
        )
        image = Image.open(io.BytesIO(response.content)).convert("RGB")
        self.assertEqual(image.getpixel((image.width // 2, image.height // 2)), (0, 255, 0))

    def test_preview(self) -> None:
        made = self.upload(png((80, 40)), "label.png")[1]
        response = self.client.get(f"/api/artwork/{made['id']}/preview.png?width=100")
        self.assertEqual(Image.open(io.BytesIO(response.content)).size, (100, 50))


class OrderTests(StudioTestCase):
    WISH = {"width": 64, "height": 80, "samples": 4}

    def test_an_order_keeps_its_own_copy_of_the_documents(self) -> None:
        status, order = self.send("post", f"/api/shots/{self.shot.pk}/orders", self.WISH)
        self.assertEqual((status, order["state"]), (200, "queued"))
        pack = self.job.packs.get()
        pack.document["form"]["body"]["wall_thickness"] = 9
        pack.save()
        kept = Order.objects.get().documents["packs"][pack.slug]["form"]["body"]["wall_thickness"]
        self.assertEqual(kept, 2.6)

    def test_impossible_sizes_are_refused(self) -> None:
        for change in ({"width": 4}, {"height": 99_999}, {"samples": 0}, {"samples": "many"}):
            status, answer = self.send("post", f"/api/shots/{self.shot.pk}/orders", {**self.WISH, **change})
            self.assertEqual((status, answer["place"]), (422, next(iter(change))))
        self.assertEqual(Order.objects.count(), 0)

    def test_the_estimate_is_only_given_when_measured(self) -> None:
        address = f"/api/shots/{self.shot.pk}/estimate"
        self.assertIsNone(self.send("post", address, self.WISH)[1]["seconds"])
        self.shot.paths_per_second = 1e6
        self.shot.save()
        wish = {"width": 1000, "height": 1000, "samples": 60}
        self.assertTrue(60 < self.send("post", address, wish)[1]["seconds"] < 70)

    def test_stop_and_cancel_are_wishes_until_the_dispatcher_sees_them(self) -> None:
        order = self.send("post", f"/api/shots/{self.shot.pk}/orders", self.WISH)[1]
        self.assertEqual(self.send("post", f"/api/orders/{order['id']}/stop")[1]["wish"], "finish")
        self.assertEqual(self.send("post", f"/api/orders/{order['id']}/cancel")[1]["wish"], "cancel")
        Order.objects.update(state=Order.State.DONE, wish=Order.Wish.GO_ON)
        self.assertEqual(self.send("post", f"/api/orders/{order['id']}/cancel")[1]["wish"], "go_on")


def finished_picture(shot: object) -> Picture:
    light = np.random.default_rng(1).random((20, 16, 3), dtype=np.float32)
    order = Order.objects.create(shot=shot, documents={}, width=16, height=20, samples=4, state="done")
    storage.save_picture(order.pk, light, grade_picture(light, Grade()))
    return Picture.objects.create(order=order, width=16, height=20, samples=4, seconds=1)


class ClientLinkTests(StudioTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.picture = finished_picture(self.shot)
        self.other = finished_picture(start_job("Secret balm", "Somebody").shots.get())
        self.token = self.send("post", f"/api/jobs/{self.job.slug}/client-link")[1]["token"]
        self.visitor = Client()

    def test_a_client_sees_this_job_s_pictures_without_signing_in(self) -> None:
        page = self.visitor.get(f"/api/client/{self.token}").json()
        self.assertEqual([p["id"] for p in page["pictures"]], [self.picture.pk])
        png_answer = self.visitor.get(f"/api/client/{self.token}/pictures/{self.picture.pk}.png")
        data = b"".join(png_answer.streaming_content)
        self.assertEqual(Image.open(io.BytesIO(data)).size, (16, 20))
        self.assertIn("pear-cordial-hero", png_answer["Content-Disposition"])

    def test_a_client_sees_nothing_else(self) -> None:
        self.assertEqual(
            self.visitor.get(f"/api/client/{self.token}/pictures/{self.other.pk}.png").status_code, 404
        )
        self.assertEqual(self.visitor.get("/api/client/wrong").status_code, 404)
        for address in (
            "/api/jobs",
            f"/api/jobs/{self.job.slug}",
            f"/api/pictures/{self.picture.pk}.png",
            f"/api/orders/{self.picture.order_id}",
            f"/api/jobs/{self.job.slug}/artwork",
        ):
            self.assertEqual(self.visitor.get(address).status_code, 401, address)
        self.assertEqual(
            self.visitor.post("/api/jobs", {"name": "x"}, content_type="application/json").status_code, 401
        )
        self.assertRedirects(
            self.visitor.get("/jobs/pear-cordial/form"), "/sign-in/?next=/jobs/pear-cordial/form"
        )

    def test_a_renewed_link_closes_the_old_one(self) -> None:
        again = self.send("post", f"/api/jobs/{self.job.slug}/client-link")[1]["token"]
        self.assertEqual(again, self.token)
        fresh = self.send("post", f"/api/jobs/{self.job.slug}/client-link/renew")[1]["token"]
        self.assertEqual(self.visitor.get(f"/api/client/{self.token}").status_code, 404)
        self.assertEqual(self.visitor.get(f"/api/client/{fresh}").status_code, 200)


class SignInTests(StudioTestCase):
    def test_name_and_password_open_the_studio(self) -> None:
        visitor = Client()
        self.assertEqual(visitor.get("/api/session").status_code, 401)
        visitor.post("/sign-in/", {"username": "ada", "password": "wrong"})
        self.assertEqual(visitor.get("/api/session").status_code, 401)
        visitor.post("/sign-in/", {"username": "ada", "password": "pips"})
        self.assertEqual(visitor.get("/api/session").json()["user"], "ada")

    def test_changes_need_the_token_of_the_page(self) -> None:
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.user)
        answer = strict.post("/api/jobs", {"name": "x"}, content_type="application/json")
        self.assertEqual(answer.status_code, 403)

    @override_settings(DEMO=True)
    def test_the_demo_signs_in_by_itself_from_this_machine_only(self) -> None:
        load_demo_job()
        call_command("load_demo", "--signed-in")
        self.assertEqual(Client().get("/api/session").json()["user"], "designer")
        self.assertEqual(Client(REMOTE_ADDR="192.0.2.7").get("/api/session").status_code, 401)
        self.assertTrue(is_loopback("::1") and is_loopback("127.0.0.1"))
        self.assertFalse(is_loopback("10.0.0.1") or is_loopback("unknown"))


class DemoTests(StudioTestCase):
    def test_the_demo_job_is_complete_and_loaded_once(self) -> None:
        call_command("load_demo", "--signed-in")
        call_command("load_demo")
        detail = self.client.get("/api/jobs/velloway").json()
        self.assertEqual(detail["shots"][0]["name"], "Hero")
        self.assertEqual(
            [len(detail[kind]) for kind in ("packs", "sets", "shots", "colourways")], [7, 8, 11, 2]
        )
        for shot in Shot.objects.filter(job__slug="velloway"):
            for colourway in (None, "damson", "pear"):
                frame = frame_of(shot, colourway)
                self.assertEqual(crossings(line_up(frame, things_of(frame))), [])
        shape = self.send(
            "post",
            "/api/shape",
            {"pack": detail["packs"][0]["document"], "palette": detail["palette"]["document"]},
        )[1]
        self.assertAlmostEqual(shape["facts"]["contents_ml"], 500, delta=1)
        pictures = self.client.get("/api/jobs/velloway/pictures").json()
        self.assertEqual(len(pictures), len(demo_story()[0]["pictures"]))
        self.assertEqual(self.client.get(f"/api/pictures/{pictures[0]['id']}.png").status_code, 200)

    def test_render_command_says_what_is_wrong(self) -> None:
        call_command("load_demo")
        for words, arguments in (
            ("no job “nobody”. There is:", ("nobody", "hero", "--out", "x.png")),
            ("no shot “side”. It has: hero", ("velloway", "side", "--out", "x.png")),
            (".png or .exr", ("velloway", "hero", "--out", "x.bmp")),
            ("does not exist", ("velloway", "hero", "--out", "/nowhere/x.png")),
        ):
            with self.assertRaisesRegex(CommandError, words):
                call_command("render", *arguments)

    def test_render_command_writes_the_size_asked_for(self) -> None:
        call_command("load_demo")
        out = self.home / "hero.png"
        stdout = io.StringIO()
        call_command(
            "render",
            "velloway",
            "hero",
            "--size",
            "48x60",
            "--samples",
            "4",
            "--out",
            str(out),
            stdout=stdout,
        )
        self.assertEqual(Image.open(out).size, (48, 60))
        self.assertIn("48 × 60 px, 4 samples", stdout.getvalue())
