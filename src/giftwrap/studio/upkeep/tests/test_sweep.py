"""What grows without end is cut back, by rules; what people may want back is not."""

from __future__ import annotations

import io
import os
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.db import connection
from django.test import override_settings
from django.utils import timezone

from giftwrap.core import model as core
from giftwrap.core.tests.samples import formed, png
from giftwrap.studio.files import file_path, store
from giftwrap.studio.jobs import revisions
from giftwrap.studio.jobs.models import Colourway, Revision
from giftwrap.studio.jobs.services import add_row, remove
from giftwrap.studio.library.artwork import add_artwork
from giftwrap.studio.rendering import storage
from giftwrap.studio.rendering.models import Order, Picture, Thumbnail
from giftwrap.studio.rendering.thumbnails import cells_of, keep
from giftwrap.studio.tests.base import StudioTestCase
from giftwrap.studio.upkeep.sweep import summary, sweep, sweep_when_due

LONG_AGO = timezone.now() - timedelta(days=200)


class SweepTestCase(StudioTestCase):
    def setUp(self) -> None:
        super().setUp()
        incoming = self.home / "incoming"
        incoming.mkdir()
        settings = override_settings(HOME=self.home, INCOMING_DIR=incoming)
        settings.enable()
        self.addCleanup(settings.disable)

    def sweep(self, **how: Any) -> dict[str, int]:
        """How many each rule found."""
        return {found.words: found.count for found in sweep(**how) if found.count}

    def age(self, path: Path, days: float = 200) -> Path:
        then = (timezone.now() - timedelta(days=days)).timestamp()
        os.utime(path, (then, then))
        return path

    def order(self, state: str, **more: Any) -> Order:
        fields = {"documents": {}, "width": 8, "height": 8, "samples": 4, "state": state, "ended": LONG_AGO}
        return Order.objects.create(shot=self.shot, **{**fields, **more})


class RevisionTests(SweepTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.row = self.job.packs.get()

    def save(self, wall: float, at: datetime, author: str = "ada") -> int:
        """Save the pack as somebody did at a moment; returns the revision's number."""
        self.row.refresh_from_db()
        document = self.row.read()
        body = document.form.body.model_copy(update={"wall_thickness": wall})
        changed = formed(document, body=body)
        self.row = revisions.save(self.row, changed, base=self.row.revision, author=author)
        Revision.objects.filter(kind="pack", row=self.row.pk, number=self.row.revision).update(created=at)
        return self.row.revision

    def numbers(self) -> list[int]:
        rows = Revision.objects.filter(kind="pack", row=self.row.pk)
        return list(rows.order_by("number").values_list("number", flat=True))

    def walls_by_undo(self) -> list[float]:
        walls = []
        while True:
            walls.append(self.row.read().form.body.wall_thickness)
            if not revisions.standing(self.row).can_undo:
                return walls
            self.row = revisions.undo(self.row)

    def test_a_minute_s_revisions_become_its_last_and_undo_still_walks(self) -> None:
        Revision.objects.update(created=LONG_AGO)
        minute = LONG_AGO.replace(second=5, microsecond=0)
        for i in range(8):
            self.save(3.0 + i / 10, minute + timedelta(seconds=5 * i))
        for i in range(3):
            self.save(4.0 + i / 10, minute + timedelta(minutes=5, seconds=i))
        self.sweep()
        self.assertEqual(self.numbers(), [1, 9, 12])
        self.assertEqual(self.walls_by_undo(), [4.2, 3.7, 2.6])
        self.assertEqual(self.sweep(), {}, "a second sweep finds nothing")

    def test_what_orders_of_this_release_and_the_one_before_were_made_of_stays(self) -> None:
        Revision.objects.update(created=LONG_AGO)
        minute = LONG_AGO.replace(second=0, microsecond=0)
        sent = [self.save(3.0 + i / 10, minute + timedelta(seconds=i)) for i in range(6)]
        self.order("done", made_of={"pack": [self.row.pk, sent[1]], "set": [1, 1]})
        self.order(
            "done", made_of={"pack": [[self.row.pk, sent[2]], [self.row.pk + 9, 1]], "palette": [[1, 1]]}
        )
        self.sweep()
        self.assertEqual(self.numbers(), [1, sent[1], sent[2], sent[5]])

    def test_young_ones_sent_ones_and_other_hands_stay(self) -> None:
        Revision.objects.update(created=LONG_AGO)
        minute = LONG_AGO.replace(second=0, microsecond=0)
        sent = self.save(3.0, minute + timedelta(seconds=1))
        self.order("done", made_of={"pack": [self.row.pk, sent]})
        self.save(3.1, minute + timedelta(seconds=2), author="ben")
        self.save(3.2, minute + timedelta(seconds=3))
        self.save(3.3, minute + timedelta(seconds=4))
        young = timezone.now().replace(second=0, microsecond=0)
        for i in range(3):
            self.save(4.0 + i / 10, young + timedelta(seconds=i))
        self.sweep()
        self.assertEqual(self.numbers(), [1, 2, 3, 5, 6, 7, 8])

    def test_where_ways_part_and_where_one_stands_stays(self) -> None:
        Revision.objects.update(created=LONG_AGO)
        minute = LONG_AGO.replace(second=0, microsecond=0)
        self.save(3.0, minute + timedelta(seconds=1))
        self.save(3.1, minute + timedelta(seconds=2))
        self.row = revisions.undo(self.row)
        self.save(3.2, minute + timedelta(seconds=3))
        self.row = revisions.undo(self.row)
        self.sweep()
        self.assertEqual(self.numbers(), [1, 2, 3, 4])
        self.row.refresh_from_db()
        self.assertEqual(revisions.redo(self.row).read().form.body.wall_thickness, 3.2)

    def test_a_dry_run_tells_the_same_and_removes_nothing(self) -> None:
        Revision.objects.update(created=LONG_AGO)
        for i in range(4):
            self.save(3 + i / 10, LONG_AGO.replace(second=i, microsecond=0))
        before = self.numbers()
        would = self.sweep(dry_run=True)
        self.assertEqual(self.numbers(), before)
        self.assertEqual(self.sweep(), would)
        self.assertLess(len(self.numbers()), len(before))


class FileTests(SweepTestCase):
    def test_work_of_ended_orders_goes_and_pictures_stay(self) -> None:
        done, failed, running = self.order("done"), self.order("failed"), self.order("running", ended=None)
        Picture.objects.create(order=done, width=8, height=8, samples=4, seconds=1)
        for order in (done, failed, running):
            for name in ("film.npz", "film-3.npz", "preview.jpg", "picture.png"):
                (storage.folder(order.pk) / name).write_bytes(b"x" * 1000)
            (storage.canvas_folder(order.pk)).mkdir()
        lost = storage.folder(987654)
        self.sweep()
        self.assertEqual([p.name for p in storage.folder(done.pk).iterdir()], ["picture.png"])
        self.assertEqual(len(list(storage.folder(running.pk).iterdir())), 5)
        self.assertFalse(lost.exists())
        self.assertFalse(Order.objects.filter(pk=failed.pk).exists())

    def test_passes_of_older_pictures_go_after_half_a_year(self) -> None:
        orders = [self.order("done") for _ in range(2)]
        for order in orders:
            Picture.objects.create(order=order, width=8, height=8, samples=4, seconds=1)
            storage.passes_file(order.pk).write_bytes(b"x" * 5000)
        self.assertEqual(self.sweep(), {})
        Picture.objects.update(created=LONG_AGO)
        self.sweep()
        self.assertEqual([storage.passes_file(o.pk).exists() for o in orders], [False, True])

    def test_thumbnails_of_what_was_taken_away_go(self) -> None:
        way = add_row(Colourway, self.job, "Damson", core.Colourway())
        for cell in cells_of(self.job):
            keep(cell, b"jpeg")
        self.assertEqual(self.sweep(), {})
        remove(way)
        self.assertEqual(self.sweep(), {"thumbnails of shots and colourways that were taken away": 1})
        self.assertEqual([t.colourway for t in Thumbnail.objects.all()], [""])
        self.assertEqual(len(list((self.home / "renders" / "thumbnails").iterdir())), 1)

    def test_files_that_nothing_mentions_go_after_a_month(self) -> None:
        used = add_artwork(self.job, png(), "label.png").sha256
        traced, unused, young = store(b"traced"), store(b"unused"), store(b"young")
        document = self.job.packs.get().document
        document["form"]["tracing"] = {"picture": traced}
        Revision.objects.filter(kind="pack").update(document=document)
        for sha in (used, traced, unused):
            self.age(file_path(sha))
        self.sweep()
        kept = [file_path(sha).exists() for sha in (used, traced, unused, young)]
        self.assertEqual(kept, [True, True, False, True])

    def test_what_was_never_finished_goes(self) -> None:
        (self.home / "files" / "ab").mkdir(parents=True)
        half = self.age(self._touch(self.home / "files" / "ab" / ".part-1-x"), days=1)
        upload = self.age(self._touch(self.home / "incoming" / "tmp9"), days=2)
        busy = self._touch(self.home / "files" / "ab" / ".part-2-x")
        self.sweep()
        self.assertEqual([p.exists() for p in (half, upload, busy)], [False, False, True])

    def _touch(self, path: Path) -> Path:
        path.write_bytes(b"half")
        return path


class TimeTests(SweepTestCase):
    def test_once_a_night_and_at_the_latest_after_a_day_and_a_half(self) -> None:
        start = datetime(2026, 5, 4, 14, 0, tzinfo=timezone.get_current_timezone())
        self.assertFalse(sweep_when_due(start), "a studio just set up")
        self.assertFalse(sweep_when_due(start + timedelta(hours=13)), "three hours into the night, too soon")
        night = start + timedelta(hours=14 + 24)
        self.assertTrue(sweep_when_due(night))
        self.assertFalse(sweep_when_due(night + timedelta(hours=1)))
        self.assertFalse(sweep_when_due(night + timedelta(hours=30)), "by day")
        self.assertTrue(sweep_when_due(night + timedelta(hours=37)), "a machine that is off at night")

    def test_the_command_says_how_much_in_a_line(self) -> None:
        out = io.StringIO()
        call_command("sweep", "--dry-run", stdout=out)
        self.assertEqual(out.getvalue().strip(), "Would free 0.0 MB: nothing to sweep.")
        (storage.folder(12345) / "film.npz").write_bytes(b"x" * 3_000_000)
        out = io.StringIO()
        call_command("sweep", stdout=out)
        self.assertIn("Freed 3.0 MB: 1 work of orders that have ended (3.0 MB)", out.getvalue())
        self.assertEqual(summary([], dry_run=False), "Freed 0.0 MB: nothing to sweep.")
        with connection.cursor() as cursor:
            self.assertEqual(cursor.execute("PRAGMA integrity_check").fetchone()[0], "ok")
