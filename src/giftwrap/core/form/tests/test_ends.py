"""Every number has an end, and what costs too much is refused by the field that asks for it."""

from __future__ import annotations

import resource
import time
from unittest import TestCase

from pydantic import ValidationError

from giftwrap.core.errors import GiftwrapError, PackError
from giftwrap.core.model import Copy, Pack, Ribs, Ring
from giftwrap.core.model.document import describe_invalid, shortened
from giftwrap.core.tests.samples import formed
from giftwrap.core.things.starting import starting_pack, starting_vessels
from giftwrap.core.things.vessel import shape_vessel


def changed(pack: Pack, **body: object) -> Pack:
    return formed(pack, body=pack.form.body.model_copy(update=body))


class EndTests(TestCase):
    def test_a_thread_has_a_least_pitch(self) -> None:
        document = starting_pack().model_dump(mode="json")
        for pitch in (0.0003, 1e-6, 0, 51):
            document["form"]["body"]["finish"]["pitch"] = pitch
            with self.assertRaises(ValidationError) as caught:
                Pack.model_validate(document)
            self.assertEqual(describe_invalid(caught.exception)[1], "form.body.finish.pitch")

    def test_relief_that_is_too_fine_names_itself(self) -> None:
        pack = starting_pack()
        ribs = [Ribs(bottom=2, top=140, count=200, depth=0.1) for _ in range(20)]
        began = time.monotonic()
        with self.assertRaisesRegex(PackError, "times the points that can be drawn") as caught:
            shape_vessel(changed(pack, relief=[Ring(height=30), *ribs]), coarse=True)
        self.assertTrue(caught.exception.place.startswith("form.body.relief."))
        self.assertNotEqual(caught.exception.place, "form.body.relief.0")
        self.assertLess(time.monotonic() - began, 5)

    def test_copies_end_where_there_are_too_many_triangles(self) -> None:
        pack = changed(starting_pack(), relief=[Ribs(bottom=2, top=90, count=90, depth=0.1)])
        pack = pack.model_copy(update={"copies": [Copy(of="body", x=100 * i) for i in range(20)]})
        with self.assertRaisesRegex(PackError, "more triangles than can be drawn") as caught:
            shape_vessel(pack, coarse=True)
        self.assertTrue(caught.exception.place.startswith("copies."))

    def test_packs_people_make_are_far_from_the_ends(self) -> None:
        for point in starting_vessels():
            shape_vessel(point.pack, coarse=True)
        self.assertLess(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6, 4)

    def test_a_tin_lid_without_a_side_is_refused(self) -> None:
        pack = next(p.pack for p in starting_vessels() if p.slug == "tin-150-soap")
        for height in (0.01, 0.3, 1.0):
            flat = formed(pack, closure=pack.form.closure.model_copy(update={"height": height}))
            with self.assertRaisesRegex(GiftwrapError, "at least") as caught:
                shape_vessel(flat, coarse=True)
            self.assertEqual(caught.exception.place, "form.closure.height")


class WordsTests(TestCase):
    def test_what_was_sent_is_not_echoed_at_length(self) -> None:
        document = starting_pack().model_dump(mode="json")
        for change in (
            {"form": {**document["form"], "stands_on": "x" * 1_000_000}},
            {"parts": {"y" * 1_000_000: {}}},
            {"z" * 1_000_000: 1},
            {"form": {**document["form"], "closure": {"kind": "w" * 1_000_000}}},
        ):
            with self.assertRaises(ValidationError) as caught:
                Pack.model_validate({**document, **change})
            message, place = describe_invalid(caught.exception)
            self.assertLess(len(message) + len(place), 1000)

    def test_shortened(self) -> None:
        self.assertEqual(shortened("pear", 4), "pear")
        self.assertEqual(shortened("quince", 4), "quin…")
