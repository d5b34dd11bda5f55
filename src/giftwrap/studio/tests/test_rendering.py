"""Limits of orders, the dispatcher at work on a scheduler, passes, and what a page sends for proofs."""

from __future__ import annotations

import asyncio
import errno
import hashlib
import io
import logging
import pickle
from functools import partial
from unittest.mock import patch

import numpy as np
from distributed import Client, KilledWorker, LocalCluster
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from pydantic import ValidationError

from giftwrap.core import model as core
from giftwrap.core.errors import DiskFull, GiftwrapError
from giftwrap.core.formats.pictures import read_linear
from giftwrap.core.render.blocks import Canvas, blocks_of
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import PictureJob, expose_unit
from giftwrap.core.render.planning import Limits, Plan, Region, WorkUnit
from giftwrap.core.tests.samples import png, three_lights
from giftwrap.core.things.starting import starting_pack
from giftwrap.studio.files import file_path
from giftwrap.studio.jobs import models, revisions, services
from giftwrap.studio.jobs.frames import Unsaved
from giftwrap.studio.jobs.services import start_job
from giftwrap.studio.rendering import crew_work, storage
from giftwrap.studio.rendering import dispatcher as dispatching
from giftwrap.studio.rendering.dispatcher import Dispatcher
from giftwrap.studio.rendering.estimate import estimate_seconds
from giftwrap.studio.rendering.live import JobChannel, ProofRequest
from giftwrap.studio.rendering.models import Order, Picture
from giftwrap.studio.rendering.work import job_from
from giftwrap.studio.room import Room
from giftwrap.studio.tests.base import StudioTestCase


class EstimateTests(StudioTestCase):
    def test_noise_and_time_shorten_it(self) -> None:
        self.shot.paths_per_second, self.shot.noise_of_one_sample = 1e6, 20.0
        free = estimate_seconds(self.shot, 1000, 1000, Limits(500))
        by_noise = estimate_seconds(self.shot, 1000, 1000, Limits(500, noise=2.0))
        by_time = estimate_seconds(self.shot, 1000, 1000, Limits(500, noise=2.0, seconds=30))
        self.assertAlmostEqual(free - by_noise, 400, delta=1)  # (20 / 2)² = 100 samples of 500
        self.assertAlmostEqual(by_noise - by_time, 70, delta=1)


class DispatchingTestCase(StudioTestCase):
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


class DispatcherTests(DispatchingTestCase):
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


failures: list[Exception] = []
"""What the next units fail of, the last first."""


def expose_or_fail(job: PictureJob, unit: WorkUnit) -> object:
    """A unit as a rendering process works on it, or its failure."""
    if failures:
        raise failures.pop()
    return expose_unit(job, unit)


class EndingTests(DispatchingTestCase):
    """Whatever breaks on the way, an order ends, and the next one goes on."""

    def order(self, **more: object) -> Order:
        wish = {"width": 64, "height": 80, "samples": 4, **more}
        return Order.objects.get(pk=self.send("post", f"/api/shots/{self.shot.pk}/orders", wish)[1]["id"])

    def run_all(self) -> None:
        crew = {"n_workers": 1, "threads_per_worker": 1, "processes": False, "resources": {"FINAL": 1}}
        with LocalCluster(dashboard_address=None, **crew) as cluster, Client(cluster) as client:
            dispatcher = Dispatcher(client)
            for _ in range(20):
                if not dispatcher.run_next():
                    return
        self.fail("orders are still open")

    def test_a_unit_that_fails_ends_its_order_and_not_the_queue(self) -> None:
        failures[:] = [RuntimeError("x" * 9000), MemoryError(), ZeroDivisionError("no light")]
        with patch.object(crew_work, "expose_unit", expose_or_fail):
            for words in ("ZeroDivisionError: no light", "more memory than there is", "RuntimeError"):
                first = self.order()
                self.run_all()
                first.refresh_from_db()
                self.assertEqual(first.state, Order.State.FAILED)
                self.assertIn(words, first.message)
                self.assertLess(len(first.message), 400)
                self.assertEqual(list(storage.folder(first.pk).iterdir()), [], "no sums stay behind")
            second = self.order()
            self.run_all()
        second.refresh_from_db()
        self.assertEqual(second.state, Order.State.DONE)

    def test_a_unit_that_is_lost_is_done_again_a_few_times(self) -> None:
        failures[:] = [ConnectionError("the process is gone")] * 3
        order = self.order()
        with patch.object(crew_work, "expose_unit", expose_or_fail):
            self.run_all()
            order.refresh_from_db()
            self.assertEqual(order.state, Order.State.DONE)
            failures[:] = [ConnectionError("the process is gone")] * 100
            hopeless = self.order()
            self.run_all()
        hopeless.refresh_from_db()
        self.assertEqual(hopeless.state, Order.State.FAILED)
        self.assertIn("died 5 times", hopeless.message)
        self.assertEqual(len(failures), 95)
        self.assertTrue(crew_work._is_loss(KilledWorker("unit", None, 1)))

    def test_artwork_placed_far_larger_than_its_panel_is_shot(self) -> None:
        row = self.pack()
        svg = SimpleUploadedFile("a.svg", b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>')
        sha = self.client.post(f"/api/jobs/{self.job.slug}/artwork", {"file": svg}).json()["sha256"]
        row["document"]["panels"][0]["placements"] = [{"artwork": sha, "width": 985}]
        body = {"base_revision": row["revision"], "document": row["document"]}
        self.assertEqual(self.send("put", f"/api/packs/{row['id']}", body)[0], 200)
        order = self.order()
        self.run_all()
        order.refresh_from_db()
        self.assertEqual((order.state, order.message), (Order.State.DONE, ""))

    def test_the_thinnest_pictures_are_written(self) -> None:
        orders = [self.order(width=8, height=2000, samples=2), self.order(width=2000, height=8, samples=2)]
        self.run_all()
        for order in orders:
            order.refresh_from_db()
            self.assertEqual((order.state, order.message), (Order.State.DONE, ""))

    def test_a_death_between_picture_and_end_leaves_one_picture_of_a_done_order(self) -> None:
        order = self.order()
        with (
            patch.object(Dispatcher, "_set_ended", side_effect=KeyboardInterrupt),
            self.assertRaises(KeyboardInterrupt),
        ):
            self.run_all()
        self.assertFalse(Picture.objects.exists(), "both are told in one transaction")
        self.run_all()
        order.refresh_from_db()
        self.assertEqual((order.state, Picture.objects.count()), (Order.State.DONE, 1))
        Order.objects.update(state=Order.State.RUNNING)  # as an older release could leave it
        self.run_all()
        order.refresh_from_db()
        self.assertEqual((order.state, Picture.objects.count()), (Order.State.DONE, 1))

    def test_sums_that_cannot_be_read_are_taken_again(self) -> None:
        order = self.order()
        storage.film_file(order.pk).write_bytes(b"half of a film")
        self.run_all()
        order.refresh_from_db()
        self.assertEqual(order.state, Order.State.DONE)

    def test_an_order_waits_while_the_disk_is_full_and_goes_on_by_itself(self) -> None:
        order = self.order()
        looks, heard = [], []

        def little_room() -> Room:
            looks.append(1)
            return Room(1000 if len(looks) < 4 else 10**12)

        told = Dispatcher._tell

        def listen(dispatcher: Dispatcher, order: Order) -> None:
            heard.append((order.state, order.waiting))
            told(dispatcher, order)

        with patch.object(dispatching, "room", little_room), patch.object(Dispatcher, "_tell", listen):
            self.run_all()
        order.refresh_from_db()
        self.assertEqual((order.state, order.waiting), (Order.State.DONE, ""))
        self.assertTrue(any("room on the disk" in waiting for _, waiting in heard))

    def test_a_disk_that_fills_while_writing_leaves_nothing_and_is_tried_again(self) -> None:
        order = self.order()
        written = storage.save_picture
        full = [DiskFull(), OSError(errno.ENOSPC, "No space left on device")]

        def write(*all_: object) -> None:
            if full:
                raise full.pop()
            written(*all_)

        with patch.object(storage, "save_picture", write), patch.object(dispatching, "ROOM_S", 0.01):
            self.run_all()
        order.refresh_from_db()
        self.assertEqual((order.state, Picture.objects.count()), (Order.State.DONE, 1))

    def test_large_pictures_are_taken_in_blocks_and_go_on_where_they_were(self) -> None:
        order = self.order(width=96, height=80, samples=8)
        filled: list[int] = []
        fill = Canvas.fill

        def note(canvas: Canvas, number: int, *all_: object) -> None:
            if len(filled) == 2 and number == 2:
                filled.append(-1)
                raise KeyboardInterrupt
            filled.append(number)
            fill(canvas, number, *all_)

        blocks = partial(blocks_of, most=1500)
        with patch.object(dispatching, "blocks_of", blocks), patch.object(Canvas, "fill", note):
            with self.assertRaises(KeyboardInterrupt):
                self.run_all()
            self.run_all()
        order.refresh_from_db()
        self.assertEqual((order.state, order.message), (Order.State.DONE, ""))
        self.assertEqual(filled, [0, 1, -1, *range(2, len(blocks(job_from(order.documents, (96, 80)))))])
        self.assertAlmostEqual(order.samples_done, 8, delta=0.5)
        self.assertEqual(read_linear(storage.png_file(order.pk)).shape[:2], (80, 96))
        self.assertFalse(storage.canvas_folder(order.pk).exists())
        picture = self.client.get(f"/api/jobs/{self.job.slug}/pictures").json()[0]
        self.assertFalse(picture["has_passes"])

    def test_the_revisions_an_order_was_made_of_are_noted(self) -> None:
        order = self.order()
        self.assertEqual(order.made_of["pack"], [[self.job.packs.get().pk, 1]])
        self.assertEqual(set(order.made_of), {"pack", "set", "shot"})

    def test_a_file_lost_after_it_was_ordered_ends_the_order_in_words(self) -> None:
        row = self.pack()
        label = SimpleUploadedFile("a.png", png())
        sha = self.client.post(f"/api/jobs/{self.job.slug}/artwork", {"file": label}).json()["sha256"]
        row["document"]["panels"][0]["placements"] = [{"artwork": sha, "width": 20}]
        body = {"base_revision": row["revision"], "document": row["document"]}
        self.assertEqual(self.send("put", f"/api/packs/{row['id']}", body)[0], 200)
        lost, next_one = self.order(), None
        file_path(sha).unlink()
        self.run_all()
        lost.refresh_from_db()
        self.assertEqual(lost.state, Order.State.FAILED)
        self.assertIn("artwork file of placement 1 on “Label” is not in the library", lost.message)
        row = self.pack()
        row["document"]["panels"][0]["placements"] = []
        body = {"base_revision": row["revision"], "document": row["document"]}
        self.assertEqual(self.send("put", f"/api/packs/{row['id']}", body)[0], 200)
        next_one = self.order()
        self.run_all()
        next_one.refresh_from_db()
        self.assertEqual((next_one.state, next_one.message), (Order.State.DONE, ""), "the rest goes on")

    def test_a_colourway_is_ordered_by_its_key(self) -> None:
        palette = services.palette_of(self.job)
        revisions.save(palette, core.Palette(entries={"Cap": core.Opaque(colour="#ff0000")}), base=1)
        row = self.job.packs.get()
        document = row.read()
        linked = document.form.closure.model_copy(update={"material": core.Linked(entry="Cap")})
        form = document.form.model_copy(update={"closure": linked})
        revisions.save(row, document.model_copy(update={"form": form}), base=1)
        blue = core.Colourway(entries={"Cap": core.Opaque(colour="#0000ff")})
        revisions.create(models.Colourway, self.job, "winter", "Winter", blue)
        order = self.order(colourway="winter")
        self.assertEqual(order.colourway, "winter")
        self.assertEqual(set(order.made_of), {"pack", "set", "shot", "palette", "colourway"})
        worn = core.Frame.model_validate(order.documents).shown_packs()[row.slug]
        self.assertEqual(worn.form.closure.material.colour, "#0000ff")
        wish = {"width": 64, "height": 80, "samples": 4, "colourway": "summer"}
        status, answer = self.send("post", f"/api/shots/{self.shot.pk}/orders", wish)
        self.assertEqual(status, 422)
        self.assertIn("“summer” is not in the job any more", answer["message"])


class WeightTests(StudioTestCase):
    def test_units_carry_hashes_and_weigh_little(self) -> None:
        """Forty packs of six kinds, each with artwork of a megabyte, at twelve megapixels."""
        kinds = ("cordial-500", "long-neck-750", "dropper-50", "jar-50", "pump-250-oval", "flask-350-square")
        shelf_marks = [hashlib.sha256(kind.encode()).hexdigest() for kind in kinds]
        packs = {}
        for kind, sha in zip(kinds, shelf_marks, strict=True):
            pack = starting_pack(kind)
            label = core.WrapPanel(
                from_base=20, width=30, height=20, placements=[core.Placement(artwork=sha, width=20)]
            )
            packs[kind] = pack.model_copy(update={"panels": [label]})
        standing = [
            core.Standing(
                id=f"n{n}", of=core.OfPack(pack=kinds[n % 6]), pose=core.Pose(x=100.0 * n, turn=7.0 * n)
            )
            for n in range(40)
        ]
        photo_set = three_lights().model_copy(update={"standing": standing})
        frame = core.Frame(packs=packs, photo_set=photo_set, shot=core.Shot())
        job = PictureJob.of(frame, 4000, 3000)
        film = Film(4000, 3000)
        rng = np.random.default_rng(3)
        film.samples[:] = 8
        film.light = np.full((3, 3, film.samples.size), 3.0, np.float32)
        film.odd = np.full((2, film.samples.size), 4.0, np.float32)
        film.odd[0] *= rng.random(film.samples.size, dtype=np.float32)
        plan = Plan(4000, 3000, Limits(64, noise=1.0))
        plan.take_up(film)
        units = plan.next_pass(film)
        self.assertGreater(len(units), 5)
        self.assertLess(max(len(pickle.dumps((job, unit))) for unit in units), 100_000)


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
    """A page sends a document again only when it has changed; what it never sent is the job's."""

    def setUp(self) -> None:
        super().setUp()
        self.channel = JobChannel()
        self.channel._job_id = self.job.pk
        self.channel._unsaved = Unsaved()

    def request(self, **documents: object) -> ProofRequest:
        about = {"number": 1, "shot_id": self.shot.pk, "width": 48, "height": 60}
        return ProofRequest.model_validate({**about, **documents})

    def test_what_is_left_out_is_as_before_or_as_the_job_has_it(self) -> None:
        row = self.job.packs.get()
        empty = row.read().model_copy(update={"panels": []}).model_dump(mode="json")
        first = self.channel._frame(self.request(packs={row.slug: empty}))
        self.assertEqual(first.packs[row.slug].panels, [])
        self.assertEqual(first.shot, self.shot.read())
        moved = core.Shot(camera=core.Camera(lens_mm=35)).model_dump(mode="json")
        second = self.channel._frame(self.request(shot=moved))
        self.assertEqual(second.shot.camera.lens_mm, 35)
        self.assertEqual(second.packs[row.slug].panels, [], "as it was sent before")
        self.assertEqual(second.photo_set, self.job.sets.get().read())

    def test_a_part_may_be_of_a_large_picture_and_no_proof_is_large(self) -> None:
        part = {"left": 4000, "top": 2000, "width": 400, "height": 300}
        asked = self.request(width=12_000, height=9_000, part=part)
        self.assertEqual(asked.part, Region(4000, 2000, 400, 300))
        self.assertIsNone(self.request().part)
        for wrong in ({"width": 12_000, "height": 9_000}, {"width": 12_000, "height": 9_000, "part": None}):
            with self.assertRaisesRegex(ValidationError, "at most 4,000,000 px: ask for a smaller one"):
                self.request(**wrong)
        with self.assertRaises(ValidationError):
            self.request(part={**part, "width": "wide"})

    def test_a_shot_of_another_job_is_not_shown(self) -> None:
        other = start_job("Secret balm", "Somebody").shots.get()
        with self.assertRaisesRegex(GiftwrapError, "not in the job any more"):
            self.channel._frame(self.request(shot_id=other.pk))

    def test_holding_ends_the_refining(self) -> None:
        async def hold() -> bool:
            task = asyncio.ensure_future(asyncio.sleep(60))
            self.channel._proofing = task
            self.channel._hold()
            await asyncio.sleep(0)
            return task.cancelled() and self.channel._proofing is None

        self.assertTrue(asyncio.run(hold()))
