"""Thumbnails: which are stale, what they are made of, how they are served."""

from __future__ import annotations

from typing import Any
from unittest.mock import AsyncMock, Mock, patch

from asgiref.sync import async_to_sync
from distributed.client import FutureCancelledError

from giftwrap.core import model as core
from giftwrap.core.render.proof import thumbnail
from giftwrap.core.things.starting import starting_pack
from giftwrap.studio.jobs import revisions, services
from giftwrap.studio.jobs.models import Colourway, Job, Pack, Shot
from giftwrap.studio.rendering import thumbnails
from giftwrap.studio.rendering.thumbnails import Thumbnailing, cells_of, keep, stale_cell, work_on
from giftwrap.studio.tests.base import StudioTestCase


class ThumbnailTests(StudioTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.way = services.add_row(Colourway, self.job, "Damson", core.Colourway())
        self.other = services.add_row(Pack, self.job, "Jar", starting_pack("jar-50"))

    def listed(self) -> list[dict[str, Any]]:
        return self.client.get(f"/api/jobs/{self.job.slug}/thumbnails").json()

    def make_all(self) -> None:
        for cell in cells_of(self.job):
            keep(cell, b"jpeg")

    def stale(self) -> list[str]:
        return [one["colourway"] for one in self.listed() if not one["fresh"]]

    def edit(self, row: Any, **changes: Any) -> None:
        row.refresh_from_db()
        revisions.save(row, row.read().model_copy(update=changes), base=row.revision)

    def test_every_shot_in_every_colourway(self) -> None:
        services.add_row(Shot, self.job, "Hero", self.shot.read())
        self.assertEqual(
            [(one["shot"], one["colourway"], one["at"], one["fresh"]) for one in self.listed()],
            [(shot, way, "", False) for shot in ("hero", "hero-2") for way in ("", "damson")],
        )

    def test_what_it_shows_makes_it_stale_and_nothing_else(self) -> None:
        self.make_all()
        self.assertEqual(self.stale(), [])
        self.edit(self.other, exploded=9.0)
        self.assertEqual(self.stale(), [], "a pack that stands nowhere")
        self.edit(self.way, fill={self.job.packs.first().slug: 90.0})
        self.assertEqual(self.stale(), ["damson"])
        self.make_all()
        self.edit(self.job.packs.first(), exploded=3.0)
        self.assertEqual(self.stale(), ["", "damson"])
        self.make_all()
        self.edit(self.shot, line_up=None, grade=core.Grade(exposure_ev=1))
        self.assertEqual(self.stale(), ["", "damson"])
        self.make_all()
        self.edit(services.palette_of(self.job), entries={"Cap": core.Opaque()})
        self.assertEqual(self.stale(), ["", "damson"])

    def test_undone_it_is_fresh_again(self) -> None:
        pack = self.job.packs.first()
        self.make_all()
        self.edit(pack, exploded=3.0)
        revisions.undo(pack)
        self.assertEqual(self.stale(), [])

    def test_it_is_served_until_the_next_is_there(self) -> None:
        shot = self.shot.pk
        self.assertEqual(self.client.get(f"/api/shots/{shot}/thumbnail.jpg").status_code, 404)
        self.make_all()
        self.edit(self.job.packs.first(), exploded=3.0)
        answer = self.client.get(f"/api/shots/{shot}/thumbnail.jpg?colourway=damson")
        self.assertEqual(b"".join(answer.streaming_content), b"jpeg")
        self.assertEqual([bool(one["at"]) for one in self.listed()], [True, True])

    def test_a_shot_that_cannot_be_taken_says_why_and_is_not_tried_for_ever(self) -> None:
        self.edit(self.shot, hero="gone")
        cell = stale_cell(self.job.pk)
        with self.assertRaises(Exception) as caught:
            work_on(cell)
        keep(cell, None, str(caught.exception))
        keep(stale_cell(self.job.pk), None, "no")
        self.assertIsNone(stale_cell(self.job.pk))
        self.assertIn("gone", self.listed()[0]["problem"])

    def test_a_thumbnail_is_the_picture_made_small(self) -> None:
        work = work_on(cells_of(self.job)[0])
        self.assertAlmostEqual(work.width / work.height, 0.8, delta=0.01)
        jpeg = thumbnail(work)
        self.assertTrue(jpeg.startswith(bytes.fromhex("ffd8")))
        self.assertLess(len(jpeg), 40_000)

    def test_jobs_that_are_open_are_looked_at_the_latest_first(self) -> None:
        making = Thumbnailing()
        for job in (1, 2, 1):
            making.opened(job)
        self.assertEqual(making.jobs, [1, 2])
        making.closed(1)
        self.assertEqual(making.jobs, [1, 2])
        making.closed(1)
        self.assertEqual(making.jobs, [2])

    def test_a_thumbnail_whose_process_was_lost_is_made_again(self) -> None:
        """A process that ends takes its work with it; that says nothing of what was to be drawn."""
        submit = AsyncMock(side_effect=[FutureCancelledError("key", "lost"), b"jpeg"])
        making = Thumbnailing()
        making.opened(self.job.pk)
        with patch.object(thumbnails, "bus", Mock(client=Mock(return_value=Mock(submit=submit)))):
            self.assertTrue(async_to_sync(making._one)())
            self.assertEqual([(one["at"], one["problem"]) for one in self.listed()], [("", "")] * 2)
            self.assertTrue(async_to_sync(making._one)())
        self.assertEqual([bool(one["at"]) for one in self.listed()], [True, False])

    def test_a_broken_document_stops_no_others(self) -> None:
        second = services.add_row(Shot, self.job, "Second", self.shot.read())
        Shot.objects.filter(pk=self.shot.pk).update(document={"schema_version": 99})
        self.assertEqual({cell.shot.pk for cell in cells_of(Job.objects.get(pk=self.job.pk))}, {second.pk})
