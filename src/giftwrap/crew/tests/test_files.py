"""Rendering processes get the files they lack over the crew's own channel, and nothing else."""

from __future__ import annotations

import asyncio
import hashlib
import tempfile
from pathlib import Path
from unittest import TestCase

from distributed import Client

from giftwrap.core.errors import ArtworkError
from giftwrap.core.model import ArtworkUse
from giftwrap.core.render.files import Shelf
from giftwrap.crew.files import ask_for_file, read_stored, stored_file
from giftwrap.crew.keys import crew_security, provide_keys
from giftwrap.crew.members import CrewScheduler, CrewWorker


def use(sha256: str) -> ArtworkUse:
    return ArtworkUse(sha256, "panels.0.placements.0.artwork", "placement 1 on “Label”")


class FileTests(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.home = Path(folder.name)

    def keep(self, data: bytes, name: str = "") -> str:
        sha = name or hashlib.sha256(data).hexdigest()
        path = self.home / sha[:2] / sha
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
        return sha

    def test_a_worker_fetches_by_way_of_the_scheduler(self) -> None:
        large = bytes(range(256)) * 40_000
        sha, keys = self.keep(large), provide_keys(self.home / "keys")

        async def run() -> list[bytes | None]:
            security = crew_security(keys)
            how = {"host": "127.0.0.1", "protocol": "tls", "security": security, "dashboard": False}
            async with (
                CrewScheduler(files=self.home, port=0, **how) as scheduler,
                CrewWorker(scheduler.address, nthreads=1, **how),
                Client(scheduler.address, security=security, asynchronous=True) as client,
            ):
                wanted = (sha, "0" * 64, "../../etc/passwd", "")
                return [await client.submit(ask_for_file, one, pure=False) for one in wanted]

        self.assertEqual(asyncio.run(run()), [large, None, None, None])

    def test_only_hashes_are_names_of_files(self) -> None:
        (self.home / "secret").write_text("key")
        for name in ("secret", "../secret", "a" * 63, "A" * 64, "a" * 64 + "/..", ""):
            self.assertIsNone(stored_file(self.home, name), name)
            self.assertIsNone(read_stored(self.home, name), name)


class ShelfTests(TestCase):
    def test_a_file_is_fetched_once_and_kept(self) -> None:
        data, asked = b"label", []
        sha = hashlib.sha256(data).hexdigest()
        shelf = Shelf()
        shelf.fetch_with(lambda name: asked.append(name) or data)
        for _ in range(3):
            self.assertEqual(shelf.files([use(sha), use(sha)]), {sha: data})
        self.assertEqual(asked, [sha])

    def test_what_is_lost_or_not_what_it_says_is_named(self) -> None:
        shelf = Shelf()
        for found in (None, b"something else"):
            shelf.fetch_with(lambda name, found=found: found)
            with self.assertRaisesRegex(
                ArtworkError, "placement 1 on “Label” is not in the library"
            ) as caught:
                shelf.files([use("a" * 64)])
            self.assertEqual(caught.exception.place, "panels.0.placements.0.artwork")
