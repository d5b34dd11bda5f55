"""One order shared by rendering processes: two of one core each beside one of both, and a death."""

from __future__ import annotations

import contextlib
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from distributed import Client, Future, KilledWorker, wait
from distributed.client import FutureCancelledError

from giftwrap.bench.demo_job import demo_picture
from giftwrap.bench.figure import Figure
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import expose_unit
from giftwrap.core.render.planning import WorkUnit
from giftwrap.crew.keys import crew_security, provide_keys
from giftwrap.launch.family import environment, free_port

SIZE = (320, 400)
UNITS, SAMPLES = 12, 8
IN_FLIGHT_PER_WORKER = 1
REPEATS = 3


def run() -> Iterator[Figure]:
    """The same seeds by one process and by two, in turns, then with one of two killed."""
    with _Crew({"both": 2}) as one, _Crew({"left": 1, "right": 1}) as two:
        ratios, films = [], []
        for _ in range(REPEATS):
            alone, alone_film = one.take_order()
            shared, shared_film = two.take_order()
            ratios.append(shared / alone)
            films.append((alone_film, shared_film))
        yield Figure("share: two processes of a core over one of both", float(np.median(ratios)), "×", 1.1)
        alone_film, shared_film = films[-1]
        apart = np.abs(alone_film.light - shared_film.light).max() / alone_film.light.max()
        yield Figure("share: largest difference of their sums", float(apart), "", 1e-5)
        _, after_death = two.take_order(kill="left")
        lost = float(np.abs(after_death.samples - UNITS * SAMPLES).max())
        yield Figure("share: samples lost by killing one in the middle", lost, "", 0)
        apart = np.abs(alone_film.light - after_death.light).max() / alone_film.light.max()
        yield Figure("share: largest difference of the sums then", float(apart), "", 1e-5)


@dataclass
class _Crew:
    """A scheduler and its rendering processes, by name and number of threads."""

    threads: dict[str, int]

    def __enter__(self) -> _Crew:
        self._stack = contextlib.ExitStack()
        folder = self._stack.enter_context(tempfile.TemporaryDirectory(prefix="giftwrap-share-"))
        home = Path(folder)
        keys = provide_keys(home)
        port = free_port()
        address = f"tls://127.0.0.1:{port}"
        self._start("scheduler", home, ["--port", str(port)])
        self._workers = {
            name: self._start("helper", home, ["--scheduler", address], GIFTWRAP_THREADS=str(count))
            for name, count in self.threads.items()
        }
        self._client = self._stack.enter_context(
            Client(address, security=crew_security(keys), timeout=60, set_as_default=False)
        )
        self._client.wait_for_workers(len(self.threads), timeout=120)
        self.take_order()  # kernels and scene
        return self

    def __exit__(self, *_: object) -> None:
        self._stack.close()

    def _start(self, member: str, home: Path, arguments: list[str], **more: str) -> subprocess.Popen[bytes]:
        command = [sys.executable, "-W", "ignore", "-m", "giftwrap.launch.member", member]
        command += ["--home", str(home), *arguments]
        quiet = subprocess.DEVNULL
        process = subprocess.Popen(command, env=environment() | more, stdout=quiet, stderr=quiet)
        self._stack.callback(process.wait)
        self._stack.callback(process.terminate)
        return process

    def take_order(self, *, kill: str | None = None) -> tuple[float, Film]:
        """Seconds for every unit, and their film. `kill` names a process that dies on the way."""
        job, film = demo_picture(*SIZE), Film(*SIZE)
        waiting = [WorkUnit(n, 0, n * SAMPLES, SAMPLES, 0, SIZE[0] * SIZE[1]) for n in range(UNITS)]
        flying: dict[Future, WorkUnit] = {}
        added = 0
        started = time.perf_counter()
        while waiting or flying:
            while waiting and len(flying) < IN_FLIGHT_PER_WORKER * len(self.threads):
                unit = waiting.pop()
                flying[self._client.submit(expose_unit, job, unit, pure=False, retries=2)] = unit
            with (
                self._client.as_current(),
                contextlib.suppress(TimeoutError, FutureCancelledError, KilledWorker),
            ):
                wait(list(flying), timeout=0.5, return_when="FIRST_COMPLETED")
            for future in [f for f in flying if f.done()]:
                unit = flying.pop(future)
                try:
                    film.add(future.result(timeout=10))
                    added += 1
                except (OSError, TimeoutError, FutureCancelledError, KilledWorker):
                    waiting.append(unit)
                future.release()
            if kill and added >= 3:
                self._workers[kill].kill()
                kill = None
        return time.perf_counter() - started, film
