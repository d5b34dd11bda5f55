"""Jobs, revisions and orders of the release before are what they were, and go on."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from giftwrap.core import model as core
from giftwrap.studio.files import store
from giftwrap.studio.jobs.models import Job, Pack, PhotoSet, Revision, Shot
from giftwrap.studio.rendering.models import Order, Picture
from giftwrap.studio.tests.test_rendering import DispatchingTestCase

KEPT = Path(core.__file__).parent / "tests" / "kept"
LABEL = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="20mm" viewBox="0 0 40 20">'
    b'<rect width="40" height="20" fill="#b3324c"/><circle cx="12" cy="10" r="6" fill="#fff"/></svg>'
)


def kept(name: str) -> Any:
    return json.loads((KEPT / f"{name}.json").read_text())


class OldJobTests(DispatchingTestCase):
    def setUp(self) -> None:
        """Rows as the release before wrote them: a pack with a past of two versions, a running order."""
        super().setUp()
        store(LABEL)
        self.old = Job.objects.create(slug="old", name="Old job")
        self.row = self.put(Pack, "bottle", kept("pack-1"), kept("pack-2"))
        self.put(PhotoSet, "studio", kept("set-1"))
        self.old_shot = self.put(Shot, "hero", kept("shot-1"))
        documents = {"pack": kept("pack-1"), "photo_set": kept("set-1"), "shot": kept("shot-1")}
        made_of = {"pack": [self.row.pk, 1], "set": [1, 1], "shot": [self.old_shot.pk, 1]}
        self.order = Order.objects.create(
            shot=self.old_shot,
            documents=documents,
            made_of=made_of,
            width=48,
            height=60,
            samples=4,
            state="running",
        )

    def put(self, kind: Any, slug: str, *states: Any) -> Any:
        row = kind.objects.create(
            job=self.old, slug=slug, name=slug, document=states[-1], revision=len(states)
        )
        for number, state in enumerate(states, start=1):
            Revision.objects.create(
                kind=kind.kind, row=row.pk, number=number, parent=number - 1 or None, document=state
            )
        return row

    def test_it_opens(self) -> None:
        detail = self.client.get("/api/jobs/old").json()
        pack = detail["packs"][0]
        self.assertEqual((pack["key"], pack["document"]["form"]["kind"]), ("bottle", "vessel"))
        self.assertEqual(detail["sets"][0]["document"]["standing"][0]["of"], {"kind": "hero"})
        self.assertEqual(detail["shots"][0]["document"]["purposes"][0]["width_px"], 800)
        self.assertEqual((detail["palette"]["document"]["entries"], detail["colourways"]), ({}, []))

    def test_an_untouched_save_makes_no_revision(self) -> None:
        detail = self.client.get("/api/jobs/old").json()
        for address, rows in (("packs", "packs"), ("sets", "sets"), ("shots", "shots")):
            row = detail[rows][0]
            body = {"base_revision": row["revision"], "document": row["document"]}
            status, saved = self.send("put", f"/api/{address}/{row['id']}", body)
            self.assertEqual((status, saved["revision"]), (200, row["revision"]), address)
        self.assertEqual(Revision.objects.filter(row=self.row.pk, kind="pack").count(), 2)
        self.row.refresh_from_db()
        self.assertEqual(self.row.document, kept("pack-2"), "it is kept as it was")

    def test_it_is_undone_and_redone_through_its_old_revisions(self) -> None:
        undone = self.send("post", f"/api/packs/{self.row.pk}/undo")[1]
        self.assertEqual(undone["document"]["form"]["closure"]["kind"], "cap")
        self.assertEqual(undone["document"]["schema_version"], 3)
        redone = self.send("post", f"/api/packs/{self.row.pk}/redo")[1]
        self.assertEqual(redone["document"]["form"]["closure"]["kind"], "pump")
        redone["document"]["exploded"] = 9
        body = {"base_revision": redone["revision"], "document": redone["document"]}
        saved = self.send("put", f"/api/packs/{self.row.pk}", body)[1]
        self.assertEqual((saved["revision"], saved["document"]["exploded"]), (3, 9))
        back = self.send("post", f"/api/packs/{self.row.pk}/undo")[1]
        self.assertEqual(back["document"]["exploded"], 6)

    def test_its_running_order_is_finished_as_it_was_ordered(self) -> None:
        self.run_one()
        self.order.refresh_from_db()
        self.assertEqual((self.order.state, self.order.message), (Order.State.DONE, ""))
        listed = self.client.get("/api/jobs/old/pictures").json()
        self.assertEqual([p["pack"] for p in listed], ["bottle"])
        self.assertTrue(Picture.objects.filter(order=self.order).exists())

    def test_a_new_picture_of_it_is_ordered(self) -> None:
        wish = {"width": 64, "height": 80, "samples": 4}
        status, order = self.send("post", f"/api/shots/{self.old_shot.pk}/orders", wish)
        self.assertEqual((status, order["state"]), (200, "queued"))
