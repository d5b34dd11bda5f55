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
from giftwrap.core.model import Grade, Shot
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import PictureJob, WorkUnit, develop, expose_unit, plan_units
from giftwrap.studio.rendering import storage
from giftwrap.studio.rendering.bus import FINAL, TOPIC, order_event
from giftwrap.studio.rendering.models import Order, Picture
from giftwrap.studio.rendering.work import job_from

log = logging.getLogger(__name__)

LOST_TOUCH = (OSError, TimeoutError, FutureCancelledError, ClosedClientError)
RECOVERY_S = 0.5
IN_FLIGHT_PER_WORKER = 2
SAVE_EVERY_S = 4.0
SHOW_EVERY_S = 1.0
SPEED_WEIGHT = 0.5
"""Weight of an order's speed against what was measured for its shot before."""


@dataclass
class Progress:
    """An order on its way."""

    order: Order
    job: PictureJob
    film: Film
    done: set[int]
    waiting: deque[WorkUnit]
    grade: Grade
    flying: dict[Future, WorkUnit] = field(default_factory=dict)
    seconds_before: float = 0.0
    started: float = field(default_factory=time.monotonic)
    paths: float = 0.0
    saved: float = 0.0
    shown: float = 0.0

    @property
    def seconds(self) -> float:
        return self.seconds_before + time.monotonic() - self.started

    @property
    def speed(self) -> float | None:
        """Samples × pixels a second since this process took the order up."""
        elapsed = time.monotonic() - self.started
        return self.paths / elapsed if self.paths and elapsed > 0 else None

    @property
    def remaining_seconds(self) -> float | None:
        units = [*self.waiting, *self.flying.values()]
        left = sum((u.bottom - u.top) * self.job.width * u.samples for u in units)
        return left / self.speed if self.speed else None


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
        film, done = storage.load_film(order.pk, order.width, order.height)
        units = plan_units(order.width, order.height, order.samples)
        order.state = Order.State.RUNNING
        order.save(update_fields=["state"])
        self._tell(order)
        return Progress(
            order=order,
            job=job,
            film=film,
            done=done,
            waiting=deque(u for u in units if u.seed not in done),
            grade=Shot.model_validate(order.documents["shot"]).grade,
            seconds_before=order.seconds,
        )

    def _work(self, progress: Progress) -> None:
        order = progress.order
        while progress.waiting or progress.flying:
            if self.client.status != "running":
                storage.save_film(order.pk, progress.film, progress.done)
                raise ConnectionError("its connection is gone")
            order.refresh_from_db(fields=["wish"])
            if order.wish == Order.Wish.CANCEL:
                self.client.cancel(list(progress.flying))
                self._end(order, Order.State.CANCELLED)
                storage.film_file(order.pk).unlink(missing_ok=True)
                return
            if order.wish == Order.Wish.FINISH and progress.film.samples.min() > 0:
                self.client.cancel(list(progress.flying))
                break
            self._launch(progress)
            self._collect(progress)
            self._report(progress)
        self._finish(progress)

    def _launch(self, progress: Progress) -> None:
        workers = max(len(self.client.scheduler_info(n_workers=-1)["workers"]) - 1, 1)
        while progress.waiting and len(progress.flying) < IN_FLIGHT_PER_WORKER * workers:
            unit = progress.waiting.popleft()
            future = self.client.submit(
                expose_unit,
                progress.job,
                unit,
                pure=False,
                key=f"order-{progress.order.pk}-{unit.seed}-{time.monotonic_ns()}",
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
                progress.done.add(unit.seed)
                progress.paths += (unit.bottom - unit.top) * progress.job.width * unit.samples
            elif future.status == "error" and isinstance(future.exception(), GiftwrapError):
                raise future.exception()
            else:
                log.warning("Order %s: unit %s was lost and is done again.", progress.order.pk, unit.seed)
                progress.waiting.append(unit)

    def _report(self, progress: Progress) -> None:
        now, order = time.monotonic(), progress.order
        if now - progress.saved > SAVE_EVERY_S and progress.done:
            progress.saved = now
            storage.save_film(order.pk, progress.film, progress.done)
        if now - progress.shown > SHOW_EVERY_S and progress.done:
            progress.shown = now
            storage.save_preview(order.pk, grade_picture(progress.film.mean_light(), progress.grade))
            self._store(progress)
            self._tell(order)

    def _store(self, progress: Progress) -> None:
        order, film = progress.order, progress.film
        order.samples_done = film.samples_per_pixel
        order.noise = film.noise(progress.grade.exposure_ev)
        order.seconds = progress.seconds
        order.remaining_seconds = progress.remaining_seconds
        order.save(update_fields=["samples_done", "noise", "seconds", "remaining_seconds"])

    def _finish(self, progress: Progress) -> None:
        order, film = progress.order, progress.film
        light, picture = develop(film, progress.grade)
        self._store(progress)
        storage.save_picture(order.pk, light, picture)
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
                shot.save(update_fields=["paths_per_second"])
        self._end(order, Order.State.DONE)

    def _end(self, order: Order, state: str, message: str = "") -> None:
        order.state, order.message, order.ended = state, message, timezone.now()
        order.remaining_seconds = None
        order.save(update_fields=["state", "message", "ended", "remaining_seconds"])
        self._tell(order)

    def _tell(self, order: Order) -> None:
        with contextlib.suppress(*LOST_TOUCH):
            self.client.log_event(TOPIC, order_event(order))
