"""Limits of orders, the dispatcher at work on a scheduler, passes, and what a page sends for proofs."""

from __future__ import annotations

import asyncio
import io
import logging

from distributed import Client, LocalCluster
from django.core.management import CommandError, call_command

from giftwrap.core.errors import GiftwrapError
from giftwrap.core.model import Camera, Shot
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import expose_unit
from giftwrap.core.render.planning import Limits, WorkUnit
from giftwrap.studio.rendering import storage
from giftwrap.studio.rendering.dispatcher import Dispatcher
from giftwrap.studio.rendering.estimate import estimate_seconds
from giftwrap.studio.rendering.live import JobChannel, ProofRequest
from giftwrap.studio.rendering.models import Order, Picture
from giftwrap.studio.rendering.work import job_from
from giftwrap.studio.tests.base import StudioTestCase


class EstimateTests(StudioTestCase):
    def test_noise_and_time_shorten_it(self) -> None:
        self.shot.paths_per_second, self.shot.noise_of_one_sample = 1e6, 20.0
        free = estimate_seconds(self.shot, 1000, 1000, Limits(500))
        by_noise = estimate_seconds(self.shot, 1000, 1000, Limits(500, noise=2.0))
        by_time = estimate_seconds(self.shot, 1000, 1000, Limits(500, noise=2.0, seconds=30))
        self.assertAlmostEqual(free - by_noise, 400, delta=1)  # (20 / 2)² = 100 samples of 500
        self.assertAlmostEqual(by_noise - by_time, 70, delta=1)


class DispatcherTests(StudioTestCase):
    """Orders are worked off in this process, through a real scheduler."""

    def setUp(self) -> None:
        super().setUp()
        logging.disable(logging.WARNING)  # the scheduler is talkative
        self.addCleanup(logging.disable, logging.NOTSET)

    def run_one(self) -> None:
        crew = {"n_workers": 1, "threads_per_worker": 1, "processes": False, "resources": {"FINAL": 1}}
        with LocalCluster(dashboard_address=None, **crew) as cluster, Client(cluster) as client:
            self.assertTrue(Dispatcher(client).run_next())
            self.assertFalse(Dispatcher(client).run_next())

    def work_off(self, **limits: float) -> Order:
        wish = {"width": 64, "height": 80, "samples": 64, **limits}
        order = self.send("post", f"/api/shots/{self.shot.pk}/orders", wish)[1]
        self.run_one()
        return Order.objects.get(pk=order["id"])

    def test_an_order_ends_at_its_noise_with_picture_and_passes(self) -> None:
        order = self.work_off(noise=6.0, samples=4000)
        self.assertEqual((order.state, order.message), (Order.State.DONE, ""))
        self.assertLessEqual(order.noise, 6.3)
        self.assertLess(order.samples_done, 1000)
        picture = Picture.objects.get(order=order)
        listed = self.client.get(f"/api/jobs/{self.job.slug}/pictures").json()[0]
        self.assertTrue(listed["has_passes"])
        self.assertEqual(self.client.get(f"/api/pictures/{picture.pk}.exr").status_code, 200)
        self.assertFalse(storage.film_file(order.pk).exists())
        self.shot.refresh_from_db()
        self.assertGreater(self.shot.paths_per_second, 0)

    def test_an_order_ends_at_its_samples(self) -> None:
        order = self.work_off(samples=40)
        self.assertAlmostEqual(order.samples_done, 40, delta=2)
        self.assertEqual(order.state, Order.State.DONE)

    def test_an_order_goes_on_from_its_saved_sums(self) -> None:
        order = self.work_off(samples=16)
        job = job_from(order.documents, (64, 80))
        film = Film(64, 80)
        film.add(expose_unit(job, WorkUnit(0, 0, samples=12, first=0, last=64 * 80)))
        later = Order.objects.create(
            shot=self.shot, documents=order.documents, width=64, height=80, samples=16, state="running"
        )
        storage.save_film(later.pk, 0, film, {0})
        self.run_one()
        later.refresh_from_db()
        self.assertEqual(later.state, Order.State.DONE)
        self.assertAlmostEqual(later.samples_done, 16, delta=1)


class RenderCommandTests(StudioTestCase):
    def render(self, *more: str) -> str:
        stdout = io.StringIO()
        out = ("--out", str(self.home / "picture.png"))
        call_command("render", self.job.slug, "hero", "--size", "64x80", *out, *more, stdout=stdout)
        return stdout.getvalue()

    def test_region_and_passes(self) -> None:
        passes = self.home / "passes.exr"
        said = self.render("--samples", "4", "--region", "20x10+30+40", "--passes", str(passes))
        self.assertIn("20 × 10 px", said)
        self.assertTrue(passes.exists())

    def test_what_cannot_be_is_said(self) -> None:
        with self.assertRaisesRegex(CommandError, "beyond the picture"):
            self.render("--samples", "4", "--region", "60x10+30+40")
        with self.assertRaisesRegex(CommandError, r"should end in \.exr"):
            self.render("--passes", "passes.png")


class ProofRequestTests(StudioTestCase):
    """A page sends a document again only when it has changed."""

    def setUp(self) -> None:
        super().setUp()
        self.channel = JobChannel()
        self.channel._documents = {}
        self.documents = {
            "pack": self.shot.pack.document,
            "photo_set": self.shot.photo_set.document,
            "shot": self.shot.document,
        }

    def request(self, **documents: object) -> ProofRequest:
        about = {"number": 1, "shot_id": self.shot.pk, "width": 48, "height": 60}
        return ProofRequest.model_validate({**about, **documents})

    def test_what_is_left_out_is_as_before(self) -> None:
        self.channel._documents_of(self.request(**self.documents))
        moved = Shot(camera=Camera(lens_mm=35)).model_dump(mode="json")
        pack, photo_set, shot = self.channel._documents_of(self.request(shot=moved))
        self.assertEqual(shot.camera.lens_mm, 35)
        self.assertEqual(pack.model_dump(mode="json"), self.documents["pack"])
        self.assertEqual(photo_set.model_dump(mode="json"), self.documents["photo_set"])

    def test_a_page_that_lost_touch_is_told(self) -> None:
        with self.assertRaisesRegex(GiftwrapError, "reload"):
            self.channel._documents_of(self.request(shot=self.documents["shot"]))

    def test_holding_ends_the_refining(self) -> None:
        async def hold() -> bool:
            task = asyncio.ensure_future(asyncio.sleep(60))
            self.channel._proofing = task
            self.channel._hold()
            await asyncio.sleep(0)
            return task.cancelled() and self.channel._proofing is None

        self.assertTrue(asyncio.run(hold()))
