"""What clients answer, and how it comes to the studio."""

from __future__ import annotations

from typing import Any

from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext

from giftwrap.core import model as core
from giftwrap.core.things.starting import starting_pack
from giftwrap.studio.jobs import revisions
from giftwrap.studio.jobs.frames import frame_of
from giftwrap.studio.jobs.models import Colourway, Pack, Shot
from giftwrap.studio.jobs.services import add_row, remove
from giftwrap.studio.rendering.models import Order, Picture
from giftwrap.studio.review.api import MOST_ANSWERS
from giftwrap.studio.review.models import Answer
from giftwrap.studio.tests.base import StudioTestCase


class AnswerTests(StudioTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.token = self.client.post(f"/api/jobs/{self.job.slug}/client-link").json()["token"]
        self.picture = self.taken()
        self.client.logout()

    def taken(self, shot: Shot | None = None, colourway: str = "") -> Picture:
        """A finished picture of a shot."""
        shot = shot or self.shot
        order = Order.objects.create(
            shot=shot,
            colourway=colourway,
            documents=frame_of(shot).model_dump(mode="json"),
            width=64,
            height=64,
            samples=4,
            state=Order.State.DONE,
        )
        return Picture.objects.create(order=order, width=64, height=64, samples=4, seconds=1)

    def say(self, picture: Picture | None = None, token: str = "", **words: Any) -> tuple[int, Any]:
        picture = picture or self.picture
        body = {"verdict": "approved", "name": "Rosa", "newest": self.picture.pk} | words
        return self.send("post", f"/api/client/{token or self.token}/pictures/{picture.pk}/answers", body)

    def page(self) -> list[dict[str, Any]]:
        return self.client.get(f"/api/client/{self.token}").json()["pictures"]

    def test_a_picture_is_approved_and_carries_it(self) -> None:
        self.assertEqual(self.say()[0], 200)
        (answer,) = self.page()[0]["answers"]
        self.assertEqual((answer["verdict"], answer["name"]), ("approved", "Rosa"))
        self.client.force_login(self.user)
        pictures = self.client.get(f"/api/jobs/{self.job.slug}/pictures").json()
        self.assertEqual(pictures[0]["answers"], self.page()[0]["answers"])

    def test_many_pictures_are_listed_with_no_more_questions_than_few(self) -> None:
        """Their colourways are told by name, those that were taken away too."""
        way = add_row(Colourway, self.job, "Damson", core.Colourway())
        self.taken(colourway=way.slug)
        with CaptureQueriesContext(connection) as few:
            self.assertEqual([one["colourway"] for one in self.page()], ["Damson", ""])
        for _ in range(6):
            self.taken(colourway=way.slug)
        remove(way)
        with CaptureQueriesContext(connection) as many:
            self.assertEqual([one["colourway"] for one in self.page()], ["Damson"] * 7 + [""])
        self.assertEqual(len(many), len(few))

    def test_a_picture_is_called_after_the_pack_it_is_of(self) -> None:
        """The shot's hero; without one the job's first pack; of one that is gone, the job."""
        jar = add_row(Pack, self.job, "Balm jar", starting_pack("jar-50"))
        first = self.job.packs.first().name
        for hero, name in ((None, first), (jar.slug, "Balm jar"), ("gone", self.job.name)):
            self.shot.refresh_from_db()
            revisions.save(
                self.shot, self.shot.read().model_copy(update={"hero": hero}), base=self.shot.revision
            )
            self.assertEqual(self.page()[0]["pack"], name)

    def test_changes_are_asked_for_at_a_place(self) -> None:
        self.assertEqual(self.say(verdict="changes", remark="Darker here", x=0.25, y=0.8)[0], 200)
        (answer,) = self.page()[0]["answers"]
        self.assertEqual((answer["remark"], answer["x"], answer["y"]), ("Darker here", 0.25, 0.8))

    def test_whoever_answers_twice_is_heard_twice(self) -> None:
        self.say(verdict="changes", remark="Darker")
        self.say()
        self.assertEqual([one["verdict"] for one in self.page()[0]["answers"]], ["changes", "approved"])

    def test_what_is_missing_is_asked_for(self) -> None:
        for words, place in (
            ({"name": "  "}, "name"),
            ({"verdict": "changes"}, "remark"),
            ({"verdict": "changes", "remark": " "}, "remark"),
            ({"x": 0.5}, "x"),
            ({"x": 1.5, "y": 0}, "x"),
            ({"verdict": "maybe"}, "verdict"),
            ({"name": "x" * 81}, "name"),
        ):
            with self.subTest(words):
                status, answer = self.say(**words)
                self.assertEqual(status, 422)
                self.assertIn(place, answer["place"])
        self.assertEqual(Answer.objects.count(), 0)

    def test_a_megabyte_is_refused_and_markup_is_only_words(self) -> None:
        status, answer = self.say(verdict="changes", remark="x" * 1_000_000)
        self.assertEqual(status, 422)
        self.assertLess(len(str(answer)), 1000)
        markup = "<script>alert(1)</script>"
        self.assertEqual(self.say(verdict="changes", remark=markup)[0], 200)
        answer = self.client.get(f"/api/client/{self.token}")
        self.assertTrue(answer["Content-Type"].startswith("application/json"))
        self.assertEqual(answer.json()["pictures"][0]["answers"][0]["remark"], markup)

    def test_a_picture_that_was_just_replaced_is_looked_at_again_first(self) -> None:
        seen = self.picture.pk
        newer = self.taken()
        status, answer = self.say(newest=seen)
        self.assertEqual(status, 409)
        self.assertIn("newer version", answer["message"])
        self.assertEqual(self.say(newest=newer.pk)[0], 200, "who has seen the new one may mean the old one")

    def test_a_picture_of_another_colourway_replaces_nothing(self) -> None:
        self.taken(colourway="damson")
        self.assertEqual(self.say()[0], 200)

    def test_a_link_answers_for_its_own_job_alone(self) -> None:
        self.assertEqual(self.say(token="no-such-link")[0], 404)
        from giftwrap.studio.jobs.services import start_job

        other = start_job("Secret", "Somebody")
        theirs = self.taken(other.shots.get())
        self.assertEqual(self.say(picture=theirs)[0], 404)
        self.assertEqual(Client().post(f"/api/pictures/{theirs.pk}/answers").status_code, 404)

    def test_there_is_an_end_to_it(self) -> None:
        Answer.objects.bulk_create(
            Answer(picture=self.picture, verdict="approved", name="x") for _ in range(MOST_ANSWERS)
        )
        status, answer = self.say()
        self.assertEqual(status, 422)
        self.assertIn("write to the studio", answer["message"])
