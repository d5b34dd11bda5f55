"""What the scheduler and a rendering process do from their start to their end.

Both listen at one address, which is the loopback address unless another is asked for, and speak to
nobody who does not hold the studio's key. They have no status pages.
"""

from __future__ import annotations

import asyncio
import logging
import os
import signal
from collections.abc import Awaitable
from pathlib import Path
from typing import Any

import dask
from distributed import Scheduler, Worker

from giftwrap.crew.files import ASKED, ask_for_file, read_stored
from giftwrap.crew.keys import crew_security

log = logging.getLogger(__name__)

LOOPBACK = "127.0.0.1"
AGAIN_S = 0.2
GRACE_S = 2.0
QUIET = {
    "distributed.worker.profile.enabled": False,  # it samples even while idle
    "distributed.admin.tick.interval": "500ms",
    "distributed.scheduler.allowed-failures": 3,
}


class _WithoutPages:
    """A member of the engine that opens no port for status pages."""

    def start_http_server(self, *_: Any, **__: Any) -> None:
        """Do nothing."""


class CrewScheduler(_WithoutPages, Scheduler):  # type: ignore[misc]
    """Hands work units to rendering processes, and the studio's files when they ask for them."""

    def __init__(self, *, files: Path, **how: Any) -> None:
        super().__init__(**how)
        self._files = files
        self.handlers[ASKED] = self._file

    async def _file(self, sha256: str) -> bytes | None:
        return await asyncio.to_thread(read_stored, self._files, sha256)


class CrewWorker(_WithoutPages, Worker):  # type: ignore[misc]
    """Computes light."""


def run_scheduler(keys: Path, port: int, *, files: Path, host: str = LOOPBACK) -> None:
    """Schedule until told to end. `files` is the folder of the studio's files."""
    dask.config.set(QUIET)

    async def serve() -> None:
        async with CrewScheduler(
            files=files, host=host, port=port, protocol="tls", security=crew_security(keys), dashboard=False
        ) as scheduler:
            await scheduler.finished()

    asyncio.run(_until_told(serve()))


def run_renderer(
    keys: Path, scheduler: str, *, name: str, work: str, folder: Path, host: str = LOOPBACK
) -> None:
    """Compute light for a scheduler until told to end; what is loaded outlives the scheduler.

    scheduler : its address, tls://HOST:PORT
    work : its resource, `FINAL` or `PROOF`
    folder : for files that it needs meanwhile
    """
    from giftwrap.core.render.files import shelf  # the scheduler has no use for these
    from giftwrap.core.render.worker import warm_up_process

    dask.config.set(QUIET)
    shelf.fetch_with(ask_for_file)
    warm_up_process()

    async def serve() -> None:
        while True:
            worker = CrewWorker(
                scheduler,
                nthreads=1,
                name=name,
                resources={work: 1},
                host=host,
                protocol="tls",
                security=crew_security(keys),
                local_directory=str(folder),
                memory_limit=0,
                dashboard=False,
            )
            try:
                async with asyncio.timeout(10):
                    await worker
                await worker.finished()
            except (OSError, TimeoutError) as error:
                log.info("The scheduler does not answer yet: %s", error)
                await worker.close(timeout=1)
            await asyncio.sleep(AGAIN_S)

    asyncio.run(_until_told(serve()))


async def _until_told(work: Awaitable[None]) -> None:
    """Do some work until it ends or the process is told to end, which it then soon does."""
    task = asyncio.ensure_future(work)
    loop = asyncio.get_running_loop()

    def end() -> None:
        task.cancel()
        loop.call_later(GRACE_S, os._exit, 0)  # the engine may hold on to what it is doing

    for number in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(number, end)
    try:
        await task
    except asyncio.CancelledError:
        log.info("Told to end.")
