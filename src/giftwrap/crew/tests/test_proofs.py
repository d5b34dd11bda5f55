"""Proofs in a rendering process: whose first look waits comes first, and nobody waits for ever."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Awaitable, Callable
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest import TestCase
from unittest.mock import patch

from distributed import Client, get_worker

from giftwrap.crew import PROOF, proofs
from giftwrap.crew.keys import crew_security, provide_keys
from giftwrap.crew.members import CrewScheduler, CrewWorker
from giftwrap.crew.proofs import name_of_pass, pass_that_gives_way

PATIENCE_S = 60


def until_somebody_waits(job: str, key: str, number: int, overtaken: Callable[[], bool]) -> str | None:
    """Stands for a pass: it goes on until another waits, and then asks whether to give way."""
    end = time.monotonic() + PATIENCE_S
    while job == "long" and time.monotonic() < end:
        if get_worker().state.constrained:
            return None if overtaken() else "went on"
        time.sleep(0.01)
    return job


class GivingWayTests(TestCase):
    def beside(self, number: int) -> Any:
        """What comes of refining one proof when that pass of another comes to wait."""

        async def run(home: Path) -> Any:
            keys = provide_keys(home)
            how = {
                "host": "127.0.0.1",
                "protocol": "tls",
                "security": crew_security(keys),
                "dashboard": False,
            }
            worker_how = {"nthreads": 1, "memory_limit": 0, "resources": {PROOF: 1}}
            async with (
                CrewScheduler(files=home, port=0, **how) as scheduler,
                CrewWorker(scheduler.address, local_directory=str(home), **worker_how, **how),
                Client(scheduler.address, security=how["security"], asynchronous=True) as client,
            ):

                def begin(job: str, pass_number: int) -> Awaitable[Any]:
                    name = name_of_pass(pass_number)
                    wanted = {"resources": {PROOF: 1}, "key": name}
                    return client.submit(pass_that_gives_way, job, "proof", pass_number, **wanted)

                refined = begin("long", 7)
                looked = begin("short", number)
                return [await refined, await looked]

        with (
            TemporaryDirectory() as folder,
            patch.object(proofs, "proof_pass", until_somebody_waits),
        ):
            return asyncio.run(run(Path(folder)))

    def test_refining_gives_way_to_a_first_look(self) -> None:
        self.assertEqual(self.beside(0), [None, "short"])

    def test_refining_does_not_give_way_to_refining(self) -> None:
        """Otherwise two people's proofs would stop each other for ever."""
        self.assertEqual(self.beside(3), ["went on", "short"])
