"""Drawing and arranging what stands on a set."""

from __future__ import annotations

from typing import Any

from giftwrap.core import model as core
from giftwrap.core.things.starting import starting_pack
from giftwrap.studio.jobs import services
from giftwrap.studio.jobs.models import Pack
from giftwrap.studio.tests.base import StudioTestCase


class StagingTests(StudioTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.jar = services.add_row(Pack, self.job, "Jar", starting_pack("jar-50"))
        detail = self.client.get(f"/api/jobs/{self.job.slug}").json()
        self.documents = {"photo_set": detail["sets"][0]["document"], "shot": detail["shots"][0]["document"]}

    def plan(self) -> tuple[int, Any]:
        return self.send("post", f"/api/shots/{self.shot.pk}/plan", self.documents)

    def arrange(self, **how: Any) -> tuple[int, Any]:
        status, answer = self.send(
            "post", f"/api/shots/{self.shot.pk}/arrange", {**self.documents, "how": how}
        )
        if status == 200:
            self.documents["photo_set"] = answer["photo_set"]
        return status, answer

    def test_a_new_shot_frames_what_stands_and_follows_it(self) -> None:
        first = self.plan()[1]
        self.assertEqual(first["fit"], "fits")
        self.assertEqual([one["id"] for one in first["stands"]], ["hero"])
        self.arrange(kind="stand", pack="jar", x=260, y=0)
        second = self.plan()[1]
        self.assertEqual(second["fit"], "fits")
        self.assertGreater(second["shot_camera"]["distance"], first["shot_camera"]["distance"])
        self.assertGreater(
            second["photo_set"]["lights"][0]["distance"], first["photo_set"]["lights"][0]["distance"]
        )
        self.assertGreater(second["middle"][0], 100)

    def test_a_shot_framed_by_hand_stays_and_says_so(self) -> None:
        self.documents["shot"] |= {"camera": self.plan()[1]["shot_camera"], "framed_by_hand": True}
        self.arrange(kind="stand", pack="jar", x=400, y=0)
        plan = self.plan()[1]
        self.assertEqual(plan["shot_camera"], self.documents["shot"]["camera"])
        self.assertEqual(plan["fit"], "cropped")

    def test_crossing_is_drawn_and_moved_apart(self) -> None:
        self.arrange(kind="stand", pack="jar", x=20, y=0)
        self.assertEqual([one["crosses"] for one in self.plan()[1]["stands"]], [["jar"], ["hero"]])
        self.arrange(kind="apart")
        self.assertEqual([one["crosses"] for one in self.plan()[1]["stands"]], [[], []])

    def test_a_pack_that_is_gone_is_named_and_the_rest_is_drawn(self) -> None:
        self.arrange(kind="stand", pack="jar", x=200, y=0)
        services.remove(self.jar)
        plan = self.plan()[1]
        self.assertEqual(list(plan["gone"]), ["jar"])
        self.assertIn("take it away", plan["gone"]["jar"])
        self.assertEqual([one["id"] for one in plan["stands"]], ["hero"])
        self.assertEqual(self.arrange(kind="stand", pack="jar")[0], 422)

    def test_what_is_gone_can_be_taken_away(self) -> None:
        self.arrange(kind="stand", pack="jar", x=200, y=0)
        services.remove(self.jar)
        self.assertEqual(self.arrange(kind="take-away", ids=["jar"])[0], 200)
        self.assertEqual([one["id"] for one in self.documents["photo_set"]["standing"]], ["hero"])

    def test_an_empty_set_is_drawn(self) -> None:
        self.assertEqual(self.arrange(kind="take-away", ids=["hero"])[0], 200)
        status, plan = self.plan()
        self.assertEqual((status, plan["stands"]), (200, []))
        self.assertEqual(self.arrange(kind="stand", pack="jar")[0], 200)

    def test_three_hundred_things_and_no_more_than_four(self) -> None:
        self.assertEqual(self.arrange(kind="copies", ids=["hero"], count=60, gap=4)[0], 200)
        ids = [one["id"] for one in self.documents["photo_set"]["standing"]]
        self.assertEqual(len(set(ids)), 61)
        status, answer = self.arrange(kind="copies", ids=ids, count=6, gap=4)
        self.assertEqual(status, 422)
        self.assertIn("400", answer["message"])

    def test_orders_go_as_the_set_has_arranged_itself(self) -> None:
        """What is drawn is what is rendered: the compiled scene's lights hang where the plan has them."""
        from giftwrap.core.scene.compile import compile_scene
        from giftwrap.studio.jobs.frames import frame_of

        scene = compile_scene(frame_of(self.shot), {})
        plan = self.plan()[1]
        for lamp, place in zip(scene.lamps, plan["lights"], strict=True):
            for a, b in zip(lamp.centre, place["centre"], strict=True):
                self.assertAlmostEqual(a, b, delta=0.5)
        core.Camera.model_validate(plan["shot_camera"])
