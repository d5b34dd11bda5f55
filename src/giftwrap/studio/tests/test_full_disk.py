"""A full disk is a state: files are refused, saves are said not to be saved, nothing half-written stays."""

from __future__ import annotations

import errno
from pathlib import Path
from unittest.mock import patch

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection
from django.test import override_settings

from giftwrap.core.errors import DiskFull
from giftwrap.core.formats.whole import whole, write_whole
from giftwrap.core.tests.samples import png
from giftwrap.studio.library.models import Artwork
from giftwrap.studio.room import Room, room, says_full
from giftwrap.studio.tests.base import StudioTestCase

GIGABYTE = 1_000_000_000


class FullDiskTests(StudioTestCase):
    def test_states_of_room_and_their_words(self) -> None:
        for free, state in ((GIGABYTE * 50, "enough"), (GIGABYTE, "low"), (20_000_000, "full")):
            found = Room(free)
            self.assertEqual(found.state, state)
            self.assertEqual(bool(found.words), state != "enough")
        self.assertIn("20 MB left", Room(20_000_000).words)

    def test_files_are_refused_before_the_disk_is_full(self) -> None:
        with override_settings(DISK_RESERVE_BYTES=room().free * 2):
            for address in ("artwork", "photos"):
                file = SimpleUploadedFile("label.png", png())
                response = self.client.post(f"/api/jobs/{self.job.slug}/{address}", {"file": file})
                self.assertEqual(response.status_code, 507, address)
                self.assertIn("disk is full", response.json()["message"])
            self.assertIn("disk is full", self.client.get("/api/session").json()["room"])
        self.assertFalse(Artwork.objects.exists())
        self.assertEqual(self.client.get("/api/session").json()["room"], "")

    def test_a_save_that_the_database_has_no_room_for_is_refused_in_words(self) -> None:
        """SQLite's own "database or disk is full", brought about by a limit on its pages."""
        row = self.pack()
        with connection.cursor() as cursor:
            pages = cursor.execute("PRAGMA page_count").fetchone()[0]
            cursor.execute(f"PRAGMA max_page_count = {pages + 12}")
        try:
            row["document"]["form"]["tracing"] = None
            statuses = set()
            for wall in range(20, 60):
                row["document"]["form"]["body"]["wall_thickness"] = wall / 10
                body = {"base_revision": row["revision"], "document": row["document"]}
                status, answer = self.send("put", f"/api/packs/{row['id']}", body)
                statuses.add(status)
                if status == 507:
                    break
                row["revision"] = answer["revision"]
        finally:
            with connection.cursor() as cursor:
                cursor.execute("PRAGMA max_page_count = 1073741823")
        self.assertEqual(statuses, {200, 507})
        self.assertIn("disk is full", answer["message"])
        self.assertEqual(self.pack()["revision"], row["revision"], "what was saved before is there")

    def test_nothing_half_written_stays(self) -> None:
        target = self.home / "picture.png"
        full = OSError(errno.ENOSPC, "No space left on device")
        with self.assertRaises(DiskFull), whole(target) as partial:
            partial.write_bytes(b"half of it")
            raise full
        self.assertEqual(list(self.home.iterdir()), [])
        with patch("os.fsync", side_effect=full), self.assertRaises(DiskFull):
            write_whole(target, b"quince")
        self.assertEqual(list(self.home.iterdir()), [])

    def test_which_errors_mean_a_full_disk(self) -> None:
        self.assertTrue(says_full(OSError(errno.EDQUOT, "quota")) and says_full(DiskFull()))
        self.assertTrue(says_full(OperationalError("database or disk is full")))
        self.assertFalse(
            says_full(OperationalError("database is locked")) or says_full(OSError(errno.ENOENT, "no"))
        )
        self.assertFalse(Path(settings.INCOMING_DIR).samefile("/tmp"))
