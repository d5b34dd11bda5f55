"""Takes orders from the database, has their units computed by rendering processes, adds the light up.

An order ends: done, cancelled, or failed with the reason in words. Between its taking up and its end the
process may be killed at any moment; another goes on from what is on disk.
"""

from __future__ import annotations

import contextlib
import logging
import time
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from distributed import Client
from django.db import DatabaseError, transaction
from django.utils import timezone

from giftwrap.core.errors import DiskFull, GiftwrapError
from giftwrap.core.formats.pictures import reduced
from giftwrap.core.grade.display import grade_picture
from giftwrap.core.render.blocks import Block, Canvas, Taken, blocks_of, taken_of, whole_region
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import PictureJob, develop, light_of
from giftwrap.core.render.planning import Limits, Plan, WorkUnit
from giftwrap.studio.rendering import storage
from giftwrap.studio.rendering.bus import TOPIC, order_event
from giftwrap.studio.rendering.crew_work import LOST_TOUCH, CrewWork
from giftwrap.studio.rendering.models import Order, Picture
from giftwrap.studio.rendering.work import job_from
from giftwrap.studio.room import Room, room, says_full

log = logging.getLogger(__name__)

RECOVERY_S = 0.5
ROOM_S = 2.0
"""How often a paused order looks whether there is room again."""
SAVE_EVERY_S = 4.0
SAVING_SHARE = 20
"""Saving takes at most one part in this many of the time."""
SHOW_EVERY_S = 1.0
SPEED_WEIGHT = 0.5
"""Weight of an order's speed against what was measured for its shot before."""
NOBODY_THERE = "Waiting for the process that computes light, which is starting again."
SOMETHING_BROKE = "Something broke inside. The dispatcher's log says what."
LOST_SCHEDULER = "Waiting for the scheduler, which is starting again."


class Cancelled(Exception):
    """Somebody has cancelled the order."""


@dataclass
class Progress:
    """An order on its way: the block that is being taken, and the canvas if it has several."""

    order: Order
    whole: PictureJob
    blocks: list[Block]
    canvas: Canvas | None
    seconds_before: float
    number: int = -1
    job: PictureJob = field(init=False)
    film: Film = field(init=False)
    plan: Plan = field(init=False)
    crew: CrewWork = field(init=False)
    done: set[int] = field(default_factory=set)
    fresh: bool = True
    started: float = field(default_factory=time.monotonic)
    paths: float = 0.0
    next_save: float = 0.0
    shown: float = 0.0

    @property
    def limits(self) -> Limits:
        order = self.order
        return Limits(samples=order.samples, noise=order.noise_limit, seconds=order.seconds_limit)

    @property
    def exposure_ev(self) -> float:
        return self.whole.grade.exposure_ev

    @property
    def seconds(self) -> float:
        return self.seconds_before + time.monotonic() - self.started

    @property
    def is_late(self) -> bool:
        limit = self.limits.seconds
        return limit is not None and self.seconds > limit

    @property
    def speed(self) -> float | None:
        """Samples × pixels a second since this process took the order up."""
        elapsed = time.monotonic() - self.started
        return self.paths / elapsed if self.paths and elapsed > 0 else None

    def begin(self, client: Client, number: int) -> None:
        """Begin the block with a number, or go on with it from what was saved."""
        self.number = number
        self.job = self.blocks[number].job(self.whole)
        self.film, self.done = storage.load_film(self.order.pk, number, *self.job.film_size)
        first = max(self.done, default=-1) + 1
        speed = self.order.shot.paths_per_second
        self.plan = Plan(*self.job.film_size, self.limits, first_number=first, speed=speed)
        self.plan.take_up(self.film)
        self.crew = CrewWork(client, f"order-{self.order.pk}-{number}", self.job)
        self.fresh = True

    def plan_more(self) -> None:
        """Plan another pass when nothing waits and there is news to plan by."""
        if not self.crew.is_waiting and self.fresh:
            self.crew.add(self.plan.next_pass(self.film, self.exposure_ev))
            self.fresh = False

    def add(self, arrived: Iterable[tuple[WorkUnit, Any]]) -> None:
        """Add up what has come back."""
        for unit, exposure in arrived:
            self.film.add(exposure)
            self.done.add(unit.number)
            self.paths += unit.paths(*self.job.film_size)
            self.fresh = True

    def paths_of_block(self) -> tuple[float, float]:
        """Paths that the present block has behind it and, as far as can be told, before it."""
        underway = sum(unit.paths(*self.job.film_size) for unit in self.crew.units)
        planned = self.plan.remaining_paths(self.film, self.exposure_ev)
        return float(self.film.samples.sum()), underway + planned

    def summary(self) -> Taken:
        """Samples for each pixel and noise, over the present block and all that are finished."""
        film = taken_of(self.film, self.job)
        if self.canvas is None:
            return film
        parts = [(self.blocks[n].fills, taken) for n, taken in self.canvas.taken.items() if n != self.number]
        parts.append((self.blocks[self.number].fills, film))
        sizes = np.array([fills.width * fills.height for fills, _ in parts], float)
        share = sizes / (self.whole.width * self.whole.height)
        noises = [taken.noise for _, taken in parts]
        known = [(s, n) for s, n in zip(sizes, noises, strict=True) if n is not None]
        noise = float(np.sqrt(sum(s * n**2 for s, n in known) / sum(s for s, _ in known))) if known else None
        return Taken(float(sum(s * t.samples for s, (_, t) in zip(share, parts, strict=True))), noise)


class Dispatcher:
    """Works on one order after the other, oldest first."""

    def __init__(self, client: Client) -> None:
        self.client = client

    def run_next(self) -> bool:
        """Work on the oldest open order until it ends; False when there is none."""
        order = Order.objects.filter(state__in=Order.OPEN).first()
        if order is None:
            return False
        try:
            self._work(order)
        except Cancelled:
            self._end(order, Order.State.CANCELLED)
        except DiskFull:
            self._wait_for_room(order)
        except GiftwrapError as error:
            self._end(order, Order.State.FAILED, error.message)
        except Exception as error:
            if says_full(error):
                self._wait_for_room(order)
            elif isinstance(error, LOST_TOUCH) or self.client.status != "running":
                log.warning(
                    "Order %s: lost touch with the scheduler (%r); it goes on later.", order.pk, error
                )
                self._waits(order, LOST_SCHEDULER)
                time.sleep(RECOVERY_S)
            elif isinstance(error, DatabaseError):
                log.warning("Order %s: the database does not answer (%r); it goes on later.", order.pk, error)
                time.sleep(RECOVERY_S)
            else:
                log.exception("Order %s failed.", order.pk)
                self._end(order, Order.State.FAILED, SOMETHING_BROKE)
        return True

    def _work(self, order: Order) -> None:
        if Picture.objects.filter(order=order).exists():
            self._end(order, Order.State.DONE)  # a process of an older release died between the two
            return
        progress = self._take_up(order)
        for number in range(len(progress.blocks)):
            if progress.canvas is None or number not in progress.canvas.taken:
                progress.begin(self.client, number)
                self._expose(progress)
                self._develop(progress)
        self._finish(progress)

    def _take_up(self, order: Order) -> Progress:
        job = job_from(order.documents, (order.width, order.height))
        blocks = blocks_of(job)
        order.state, order.waiting = Order.State.RUNNING, ""
        order.save(update_fields=["state", "waiting"])
        self._tell(order)
        canvas = Canvas(storage.canvas_folder(order.pk), whole_region(job)) if len(blocks) > 1 else None
        return Progress(order, job, blocks, canvas, order.seconds)

    def _expose(self, progress: Progress) -> None:
        """Take samples of the present block until it has what was ordered or somebody wants no more."""
        order, crew = progress.order, progress.crew
        while True:
            progress.plan_more()
            if not crew.units:
                return
            if self.client.status != "running":
                storage.save_film(order.pk, progress.number, progress.film, progress.done)
                raise ConnectionError("its connection is gone")
            self._heed_wish(progress)
            enough = order.wish == Order.Wish.FINISH or progress.is_late
            if enough and progress.film.samples.min() > 0:
                crew.cancel()
                return
            space, workers = room(), crew.workers()
            self._waits(
                order, _waits_for_room(space) if space.state == "full" else "" if workers else NOBODY_THERE
            )
            if space.state != "full":
                crew.send_out(workers)
            progress.add(crew.come_back())
            self._report(progress)

    def _heed_wish(self, progress: Progress) -> None:
        progress.order.refresh_from_db(fields=["wish"])
        if progress.order.wish == Order.Wish.CANCEL:
            progress.crew.cancel()
            raise Cancelled

    def _report(self, progress: Progress) -> None:
        now, order = time.monotonic(), progress.order
        if now > progress.next_save and progress.done:
            with contextlib.suppress(DiskFull):  # what is not saved stays in memory
                storage.save_film(order.pk, progress.number, progress.film, progress.done)
            spent = time.monotonic() - now
            progress.next_save = now + max(SAVE_EVERY_S, SAVING_SHARE * spent)
        if now - progress.shown > SHOW_EVERY_S and progress.done:
            progress.shown = now
            with contextlib.suppress(DiskFull):
                storage.save_preview(order.pk, _shown(progress))
            self._store(progress)
            self._tell(order)

    def _store(self, progress: Progress) -> None:
        order, taken = progress.order, progress.summary()
        order.samples_done, order.noise, order.seconds = taken.samples, taken.noise, progress.seconds
        behind, before = progress.paths_of_block()
        count = len(progress.blocks)
        order.progress = (progress.number + behind / max(behind + before, 1)) / count
        left = before + (behind + before) * (count - 1 - progress.number)
        order.remaining_seconds = left / progress.speed if progress.speed else None
        if order.remaining_seconds is not None and order.seconds_limit is not None:
            order.remaining_seconds = min(
                order.remaining_seconds, max(order.seconds_limit - order.seconds, 0)
            )
        order.save(update_fields=["samples_done", "noise", "seconds", "progress", "remaining_seconds"])

    def _develop(self, progress: Progress) -> None:
        """Put the present block on the canvas; a picture of one block is developed when it is finished."""
        if progress.canvas is None:
            return
        light, picture = develop(progress.film, progress.job)
        taken = taken_of(progress.film, progress.job)
        progress.canvas.fill(progress.number, progress.blocks[progress.number], light, picture, taken)
        storage.film_file(progress.order.pk, progress.number).unlink(missing_ok=True)

    def _finish(self, progress: Progress) -> None:
        """Write the files, then say in one transaction that they are there and the order is done."""
        order = progress.order
        if progress.canvas is None:
            light, picture = develop(progress.film, progress.job)
            storage.save_passes(order.pk, progress.film)
        else:
            light, picture = progress.canvas.light, progress.canvas.picture
        storage.save_picture(order.pk, light, picture)
        with transaction.atomic():
            if progress.number >= 0:  # not all was there already
                self._store(progress)
            Picture.objects.create(
                order=order,
                width=order.width,
                height=order.height,
                samples=order.samples_done,
                noise=order.noise,
                seconds=order.seconds,
            )
            self._measured(progress)
            self._set_ended(order, Order.State.DONE)
        storage.drop_work(order.pk)
        self._tell(order)

    def _measured(self, progress: Progress) -> None:
        """Keep how fast and how noisy the shot was, for estimates."""
        if not progress.speed:
            return
        shot, order = progress.order.shot, progress.order
        before = shot.paths_per_second or progress.speed
        shot.paths_per_second = before + SPEED_WEIGHT * (progress.speed - before)
        if order.noise:
            shot.noise_of_one_sample = order.noise * order.samples_done**0.5
        shot.save(update_fields=["paths_per_second", "noise_of_one_sample"])

    def _end(self, order: Order, state: str, message: str = "") -> None:
        self._set_ended(order, state, message)
        storage.drop_work(order.pk)
        self._tell(order)

    def _set_ended(self, order: Order, state: str, message: str = "") -> None:
        order.state, order.message, order.ended = state, message, timezone.now()
        order.remaining_seconds, order.waiting = None, ""
        order.save(update_fields=["state", "message", "ended", "remaining_seconds", "waiting"])

    def _waits(self, order: Order, why: str) -> None:
        """Say what an order waits for, when that has changed; "" for nothing."""
        if order.waiting == why:
            return
        order.waiting = why
        with contextlib.suppress(DatabaseError):
            order.save(update_fields=["waiting"])
        self._tell(order)

    def _wait_for_room(self, order: Order) -> None:
        """Leave an order as it is while the disk is full; it goes on by itself."""
        log.warning("Order %s waits: the disk is full.", order.pk)
        self._waits(order, _waits_for_room(room()))
        time.sleep(ROOM_S)

    def _tell(self, order: Order) -> None:
        with contextlib.suppress(*LOST_TOUCH):
            self.client.log_event(TOPIC, order_event(order))


def _waits_for_room(space: Room) -> str:
    return f"It waits for room on the disk, where {space.left} are left, and goes on by itself."


def _shown(progress: Progress) -> Any:
    """The picture so far, with its grain; of a large one, the blocks that are there."""
    job, film = progress.job, progress.film
    picture = grade_picture(light_of(film, job), job.grade)
    if progress.canvas is None:
        return picture
    block = progress.blocks[progress.number]
    whole = reduced(progress.canvas.picture, storage.PAGE_SIDE) / 65535
    scale = whole.shape[1] / progress.whole.width
    part = reduced(block.cut(picture), max(round(max(block.fills.width, block.fills.height) * scale), 1))
    top, left = round(block.fills.top * scale), round(block.fills.left * scale)
    height, width = min(part.shape[0], whole.shape[0] - top), min(part.shape[1], whole.shape[1] - left)
    whole[top : top + height, left : left + width] = part[:height, :width]
    return whole
