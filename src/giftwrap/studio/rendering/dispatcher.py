"""Takes orders from the database, spreads their units over rendering processes, adds them up."""

from __future__ import annotations

import contextlib
import logging
import time
from collections import deque
from dataclasses import dataclass, field

from distributed import Client, Future, wait
from distributed.client import ClosedClientError, FutureCancelledError
from django.db import transaction
from django.utils import timezone

from giftwrap.core.errors import GiftwrapError
from giftwrap.core.grade.display import grade_picture
from giftwrap.core.render.film import Film, Floats
from giftwrap.core.render.job import PictureJob, develop, expose_unit
from giftwrap.core.render.planning import Limits, Plan, WorkUnit
from giftwrap.studio.rendering import storage
from giftwrap.studio.rendering.bus import FINAL, TOPIC, order_event
from giftwrap.studio.rendering.models import Order, Picture
from giftwrap.studio.rendering.work import job_from

log = logging.getLogger(__name__)

LOST_TOUCH = (OSError, TimeoutError, FutureCancelledError, ClosedClientError)
RECOVERY_S = 0.5
IN_FLIGHT_PER_WORKER = 1
SAVE_EVERY_S = 4.0
SAVING_SHARE = 20
"""Saving takes at most one part in this many of the time."""
SHOW_EVERY_S = 1.0
SPEED_WEIGHT = 0.5
"""Weight of an order's speed against what was measured for its shot before."""


@dataclass
class Progress:
    """An order on its way."""

    order: Order
    job: PictureJob
    film: Film
    plan: Plan
    done: set[int]
    seconds_before: float
    exposure_ev: float
    waiting: deque[WorkUnit] = field(default_factory=deque)
    flying: dict[Future, WorkUnit] = field(default_factory=dict)
    fresh: bool = True
    started: float = field(default_factory=time.monotonic)
    paths: float = 0.0
    next_save: float = 0.0
    shown: float = 0.0

    @property
    def seconds(self) -> float:
        return self.seconds_before + time.monotonic() - self.started

    @property
    def is_late(self) -> bool:
        limit = self.plan.limits.seconds
        return limit is not None and self.seconds > limit

    @property
    def speed(self) -> float | None:
        """Samples × pixels a second since this process took the order up."""
        elapsed = time.monotonic() - self.started
        return self.paths / elapsed if self.paths and elapsed > 0 else None

    @property
    def paths_done(self) -> float:
        return float(self.film.samples.sum())

    @property
    def paths_left(self) -> float:
        underway = sum(self.paths_of(unit) for unit in (*self.waiting, *self.flying.values()))
        return underway + self.plan.remaining_paths(self.film, self.exposure_ev)

    def paths_of(self, unit: WorkUnit) -> int:
        return unit.paths(*self.job.film_size)

    def plan_more(self) -> None:
        """Plan another pass when nothing waits and there is news to plan by."""
        if not self.waiting and self.fresh:
            self.waiting.extend(self.plan.next_pass(self.film, self.exposure_ev))
            self.fresh = False


class Dispatcher:
    """Works on one order after the other, oldest first."""

    def __init__(self, client: Client) -> None:
        self.client = client

    def run_next(self) -> bool:
        """Work on the oldest open order until it ends; False when there is none."""
        order = Order.objects.filter(state__in=[Order.State.RUNNING, Order.State.QUEUED]).first()
        if order is None:
            return False
        try:
            progress = self._take_up(order)
            self._work(progress)
        except GiftwrapError as error:
            self._end(order, Order.State.FAILED, error.message)
        except Exception as error:
            if isinstance(error, LOST_TOUCH) or self.client.status != "running":
                log.warning(
                    "Order %s: lost touch with the scheduler (%r); it goes on later.", order.pk, error
                )
                time.sleep(RECOVERY_S)
            else:
                log.exception("Order %s failed.", order.pk)
                message = "Something broke inside. The dispatcher's log says what."
                self._end(order, Order.State.FAILED, message)
        return True

    def _take_up(self, order: Order) -> Progress:
        job = job_from(order.documents, (order.width, order.height))
        film, done = storage.load_film(order.pk, *job.film_size)
        limits = Limits(samples=order.samples, noise=order.noise_limit, seconds=order.seconds_limit)
        plan = Plan(*job.film_size, limits, first_number=max(done, default=-1) + 1)
        plan.take_up(film)
        order.state = Order.State.RUNNING
        order.save(update_fields=["state"])
        self._tell(order)
        return Progress(order, job, film, plan, done, order.seconds, job.grade.exposure_ev)

    def _work(self, progress: Progress) -> None:
        order = progress.order
        while True:
            progress.plan_more()
            if not progress.waiting and not progress.flying:
                break
            if self.client.status != "running":
                storage.save_film(order.pk, progress.film, progress.done)
                raise ConnectionError("its connection is gone")
            order.refresh_from_db(fields=["wish"])
            if order.wish == Order.Wish.CANCEL:
                self.client.cancel(list(progress.flying))
                self._end(order, Order.State.CANCELLED)
                storage.film_file(order.pk).unlink(missing_ok=True)
                return
            enough = order.wish == Order.Wish.FINISH or progress.is_late
            if enough and progress.film.samples.min() > 0:
                self.client.cancel(list(progress.flying))
                break
            self._launch(progress)
            self._collect(progress)
            self._report(progress)
        self._finish(progress)

    def _launch(self, progress: Progress) -> None:
        workers = self._finals_workers()
        while progress.waiting and len(progress.flying) < IN_FLIGHT_PER_WORKER * workers:
            unit = progress.waiting.popleft()
            future = self.client.submit(
                expose_unit,
                progress.job,
                unit,
                pure=False,
                key=f"order-{progress.order.pk}-{unit.number}-{time.monotonic_ns()}",
                resources={FINAL: 1},
                retries=2,
            )
            progress.flying[future] = unit

    def _collect(self, progress: Progress) -> None:
        """Add whatever has arrived; units lost with a scheduler go back in line."""
        with contextlib.suppress(TimeoutError, FutureCancelledError):
            wait(list(progress.flying), timeout=0.5, return_when="FIRST_COMPLETED")
        for future in [f for f in progress.flying if f.done()]:
            unit = progress.flying.pop(future)
            if future.status == "finished":
                progress.film.add(future.result())
                progress.done.add(unit.number)
                progress.paths += progress.paths_of(unit)
                progress.fresh = True
            elif future.status == "error" and isinstance(future.exception(), GiftwrapError):
                raise future.exception()
            else:
                log.warning("Order %s: unit %s was lost and is done again.", progress.order.pk, unit.number)
                progress.waiting.append(unit)

    def _finals_workers(self) -> int:
        workers = self.client.scheduler_info(n_workers=-1)["workers"].values()
        return max(sum(FINAL in worker["resources"] for worker in workers), 1)

    def _report(self, progress: Progress) -> None:
        now, order = time.monotonic(), progress.order
        if now > progress.next_save and progress.done:
            storage.save_film(order.pk, progress.film, progress.done)
            spent = time.monotonic() - now
            progress.next_save = now + max(SAVE_EVERY_S, SAVING_SHARE * spent)
        if now - progress.shown > SHOW_EVERY_S and progress.done:
            progress.shown = now
            storage.save_preview(order.pk, _shown(progress))
            self._store(progress)
            self._tell(order)

    def _store(self, progress: Progress) -> None:
        order, film = progress.order, progress.film
        order.samples_done = film.samples_per_pixel
        order.noise = film.noise(progress.exposure_ev)
        order.seconds = progress.seconds
        left = progress.paths_left
        order.progress = progress.paths_done / max(progress.paths_done + left, 1)
        order.remaining_seconds = left / progress.speed if progress.speed else None
        if order.remaining_seconds is not None and order.seconds_limit is not None:
            order.remaining_seconds = min(
                order.remaining_seconds, max(order.seconds_limit - order.seconds, 0)
            )
        order.save(update_fields=["samples_done", "noise", "seconds", "progress", "remaining_seconds"])

    def _finish(self, progress: Progress) -> None:
        order, film = progress.order, progress.film
        light, picture = develop(film, progress.job)
        self._store(progress)
        storage.save_picture(order.pk, light, picture)
        storage.save_passes(order.pk, film)
        with transaction.atomic():
            Picture.objects.create(
                order=order,
                width=order.width,
                height=order.height,
                samples=film.samples_per_pixel,
                noise=order.noise,
                seconds=order.seconds,
            )
            if progress.speed:
                shot = order.shot
                before = shot.paths_per_second or progress.speed
                shot.paths_per_second = before + SPEED_WEIGHT * (progress.speed - before)
                if order.noise:
                    shot.noise_of_one_sample = order.noise * film.samples_per_pixel**0.5
                shot.save(update_fields=["paths_per_second", "noise_of_one_sample"])
        self._end(order, Order.State.DONE)

    def _end(self, order: Order, state: str, message: str = "") -> None:
        order.state, order.message, order.ended = state, message, timezone.now()
        order.remaining_seconds = None
        order.save(update_fields=["state", "message", "ended", "remaining_seconds"])
        self._tell(order)

    def _tell(self, order: Order) -> None:
        with contextlib.suppress(*LOST_TOUCH):
            self.client.log_event(TOPIC, order_event(order))


def _shown(progress: Progress) -> Floats:
    """The picture so far, with its grain."""
    return grade_picture(progress.film.mean_light(progress.job.background), progress.job.grade)
