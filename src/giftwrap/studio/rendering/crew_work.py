"""Units of a picture on their way through rendering processes: sent out, come back, lost or failed.

What is lost is done again: a process died or the scheduler did, which says nothing of the unit. Only a
unit that is lost again and again is given up. What fails would fail again and ends the order.
"""

from __future__ import annotations

import contextlib
import logging
import time
from collections import Counter, deque
from collections.abc import Iterable, Iterator

from distributed import Client, Future, KilledWorker, wait
from distributed.client import ClosedClientError, FutureCancelledError

from giftwrap.core.errors import GiftwrapError, RenderError
from giftwrap.core.render.film import Exposure
from giftwrap.core.render.job import PictureJob, expose_unit
from giftwrap.core.render.planning import WorkUnit
from giftwrap.crew import FINAL

log = logging.getLogger(__name__)

LOST_TOUCH = (OSError, TimeoutError, FutureCancelledError, ClosedClientError)
"""What is raised when the scheduler or a process is gone."""
LOST_AT_MOST = 5
"""A unit that was lost so many times is not tried again."""
IN_FLIGHT_PER_WORKER = 1
WAIT_S = 0.5


class CrewWork:
    """The units of one picture or block.

    name : tells its tasks from others'
    """

    def __init__(self, client: Client, name: str, job: PictureJob) -> None:
        self._client, self._name, self._job = client, name, job
        self._waiting: deque[WorkUnit] = deque()
        self._flying: dict[Future, WorkUnit] = {}
        self._lost: Counter[int] = Counter()

    @property
    def units(self) -> tuple[WorkUnit, ...]:
        """What has not come back."""
        return (*self._waiting, *self._flying.values())

    @property
    def is_waiting(self) -> bool:
        """Whether there are units that are not sent out."""
        return bool(self._waiting)

    def add(self, units: Iterable[WorkUnit]) -> None:
        """Put units in line."""
        self._waiting.extend(units)

    def workers(self) -> int:
        """Rendering processes that work on finals."""
        workers = self._client.scheduler_info(n_workers=-1)["workers"].values()
        return sum(FINAL in worker["resources"] for worker in workers)

    def send_out(self, workers: int) -> None:
        """Send out as many units as there are processes for."""
        while self._waiting and len(self._flying) < IN_FLIGHT_PER_WORKER * max(workers, 1):
            unit = self._waiting.popleft()
            future = self._client.submit(
                expose_unit,
                self._job,
                unit,
                pure=False,
                key=f"{self._name}-{unit.number}-{time.monotonic_ns()}",
                resources={FINAL: 1},
            )
            self._flying[future] = unit

    def come_back(self) -> Iterator[tuple[WorkUnit, Exposure]]:
        """The units that have come back, after waiting for one a little; lost ones go back in line.

        Raises GiftwrapError when a unit failed or was lost too often.
        """
        if not self._flying:
            time.sleep(WAIT_S)
            return
        with contextlib.suppress(TimeoutError, FutureCancelledError):
            wait(list(self._flying), timeout=WAIT_S, return_when="FIRST_COMPLETED")
        for future in [f for f in self._flying if f.done()]:
            unit = self._flying.pop(future)
            if future.status == "finished":
                yield unit, future.result()
            elif future.status == "error" and not _is_loss(future.exception()):
                raise _failure(future.exception())
            else:
                self._take_back(unit)

    def cancel(self) -> None:
        """Forget what has not come back."""
        with contextlib.suppress(*LOST_TOUCH):
            self._client.cancel(list(self._flying))
        self._flying.clear()
        self._waiting.clear()

    def _take_back(self, unit: WorkUnit) -> None:
        self._lost[unit.number] += 1
        times = self._lost[unit.number]
        log.warning("%s: unit %s was lost, %s times by now: done again.", self._name, unit.number, times)
        if times >= LOST_AT_MOST:
            raise RenderError(
                f"The process that computes light died {times} times over the same part of the picture. Make "
                "the picture smaller or its packs simpler and order it again."
            )
        self._waiting.appendleft(unit)


def _is_loss(error: BaseException) -> bool:
    return isinstance(error, (KilledWorker, *LOST_TOUCH))


def _failure(error: BaseException) -> GiftwrapError:
    """What went wrong in a unit, in words."""
    if isinstance(error, GiftwrapError):
        return error
    log.error("A unit failed.", exc_info=error)
    if isinstance(error, MemoryError):
        return RenderError("This picture needs more memory than there is: order it smaller.")
    said = f"{type(error).__name__}: {error}"[:200]
    return RenderError(f"Light could not be computed for a part of the picture ({said}).")
