"""Who holds the studio's key may join; nobody else gets as far as saying anything.

TLS as in the documentation of dask.distributed ("TLS/SSL"): both ends show a certificate.
"""

from __future__ import annotations

import asyncio
import os
import ssl
import stat
import tempfile
from collections.abc import Callable
from pathlib import Path
from unittest import TestCase

from distributed import Client, Security

from giftwrap.crew import keys
from giftwrap.crew.keys import crew_security, provide_keys
from giftwrap.crew.members import CrewScheduler, CrewWorker


class KeyTests(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.home = Path(folder.name)

    def test_keys_are_made_once_for_their_owner_alone(self) -> None:
        folder = provide_keys(self.home)
        first = (folder / keys.KEY).read_bytes()
        self.assertEqual(provide_keys(self.home), folder)
        self.assertEqual((folder / keys.KEY).read_bytes(), first)
        self.assertEqual(stat.S_IMODE(folder.stat().st_mode), 0o700)
        self.assertEqual(stat.S_IMODE((folder / keys.KEY).stat().st_mode), 0o600)

    def test_broken_keys_are_made_anew(self) -> None:
        folder = provide_keys(self.home)
        (folder / keys.CERTIFICATE).write_text("no certificate")
        provide_keys(self.home)
        self.assertIn("BEGIN CERTIFICATE", (folder / keys.CERTIFICATE).read_text())


class StrangerTests(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.home = Path(folder.name)
        self.keys = provide_keys(self.home / "ours")
        self.theirs = provide_keys(self.home / "theirs")

    def with_crew(self, act: Callable[..., object]) -> object:
        """Do something beside a scheduler and a worker."""

        async def run() -> object:
            security = crew_security(self.keys)
            async with CrewScheduler(
                files=self.home / "files",
                host="127.0.0.1",
                port=0,
                protocol="tls",
                security=security,
                dashboard=False,
            ) as scheduler:
                worker = CrewWorker(
                    scheduler.address,
                    security=security,
                    host="127.0.0.1",
                    protocol="tls",
                    nthreads=1,
                    memory_limit=0,
                    dashboard=False,
                    local_directory=str(self.home),
                )
                async with worker:
                    return await act(scheduler, worker)

        return asyncio.run(run())

    async def ask(self, address: str, security: Security | None) -> int:
        """Have a function run at an address."""
        async with Client(
            address, security=security, asynchronous=True, timeout=2, set_as_default=False
        ) as client:
            return await client.submit(os.getpid)

    def test_a_member_is_obeyed(self) -> None:
        async def act(scheduler: CrewScheduler, worker: CrewWorker) -> int:
            return await self.ask(scheduler.address, crew_security(self.keys))

        self.assertEqual(self.with_crew(act), os.getpid())

    def test_strangers_are_not(self) -> None:
        async def act(scheduler: CrewScheduler, worker: CrewWorker) -> None:
            for address in (scheduler.address, worker.address):
                for security in (None, crew_security(self.theirs)):
                    open_address = address if security else address.replace("tls://", "tcp://")
                    with self.assertRaises((OSError, TimeoutError, ssl.SSLError, ValueError)):
                        await self.ask(open_address, security)

        self.with_crew(act)

    def test_no_port_for_status_pages_is_open(self) -> None:
        async def act(scheduler: CrewScheduler, worker: CrewWorker) -> None:
            self.assertEqual((scheduler.services, worker.services), ({}, {}))
            for member in (scheduler, worker):
                self.assertTrue(member.address.startswith("tls://127.0.0.1:"))

        self.with_crew(act)
