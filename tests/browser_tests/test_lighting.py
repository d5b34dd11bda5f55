"""Lights hung, moved and mirrored by hand; what is all around, what is behind, what is sharp and upright."""

from __future__ import annotations

import numpy as np
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.actions import interaction
from selenium.webdriver.common.actions.action_builder import ActionBuilder
from selenium.webdriver.common.actions.mouse_button import MouseButton
from selenium.webdriver.common.actions.pointer_input import PointerInput
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from browser_tests.studio import BrowserTestCase
from giftwrap.core.scene.tests.test_panorama import sky, written


class OnSetTestCase(BrowserTestCase):
    """A bottle alone on its set."""

    JOB = "Perry, lit"

    def setUp(self) -> None:
        self.sign_in()
        job = self.start_job(self.JOB)
        self.open(f"{job}/set")
        self.marked("light-0")
        self.marked("proof")

    def set(self) -> dict:
        return self.job()["sets"][0]["document"]

    def light(self, index: int) -> dict:
        return self.set()["lights"][index]

    def chosen(self, mark: str, words: str) -> None:
        """Take one of what a field offers."""
        self.show(mark)
        field = Select(self.marked(mark))
        field.select_by_visible_text(next(o.text for o in field.options if words in o.text))

    def show(self, mark: str) -> None:
        script = (
            "for (let d = arguments[0].closest('details'); d; d = d.parentElement.closest('details')) "
            "d.open = true; arguments[0].scrollIntoView({block: 'center'})"
        )
        self.browser.execute_script(script, self.marked(mark))

    def point_at(self, x: float, y: float) -> None:
        """Click at a place of the picture, 0..1 from its left and its top."""
        frame = self.css(".camera-view .frame")
        width, height = frame.size["width"], frame.size["height"]
        way = ActionChains(self.browser).move_to_element_with_offset(
            frame, round((x - 0.5) * width), round((y - 0.5) * height)
        )
        way.click().perform()

    def dragged(self, mark: str, by: tuple[int, int]) -> None:
        self.carried(self.steady(mark), (0, 0), by)
        self.saved()


class PropTests(OnSetTestCase):
    JOB = "Perry, among stones"

    def stands(self) -> list[dict]:
        return self.set()["standing"]

    def test_strewn_put_right_and_put_on_a_plinth(self) -> None:
        self.marked("open-props").click()
        self.marked("prop-cylinder").click()
        self.wait(lambda: len(self.stands()) == 2, "a plinth")
        self.marked("strewing").click()
        self.marked("prop-pebble").click()
        self.marked("strew").click()
        self.wait(lambda: len(self.stands()) > 12, "pebbles")
        self.css("[aria-label='Close the props']").click()
        group = next(iter(self.set()["groups"]))
        self.marked(f"group-{group}")
        # the plinth is dragged under the bottle: they cross, and the bottle is put on it
        plan = self.marked("plan-zoom")
        plan.click()
        self.saved()
        place = next(one for one in self.stands() if one["id"] == "cylinder")["pose"]
        self.show("standing-cylinder")
        self.marked("standing-cylinder").click()
        self.enter("Across", "0")
        self.enter("Back", "0")
        self.marked("crossing")
        self.show("standing-hero")
        self.marked("standing-hero").click()
        self.marked("rest").click()
        self.wait(lambda: abs(self.stands()[0]["pose"]["z"] - 40.05) < 0.01, "the bottle on it")
        self.assertNotEqual(place["x"], 0)
        # what still crosses the plinth are pebbles, which give way
        if self.browser.find_elements(By.CSS_SELECTOR, "[data-test='apart']"):
            self.marked("apart").click()
        self.wait(
            lambda: not self.browser.find_elements(By.CSS_SELECTOR, "[data-test='crossing']"),
            "nothing crosses",
        )
        self.assertEqual(next(one for one in self.stands() if one["id"] == "cylinder")["pose"]["x"], 0)
        self.show(f"group-{group}")
        self.marked(f"group-{group}").click()
        self.marked("take-away").click()
        self.wait(lambda: len(self.stands()) == 2, "the pebbles gone")
        self.assertEqual(list(self.set()["props"]), ["cylinder"])


class LightingTests(OnSetTestCase):
    def seen_from(self, words: str) -> None:
        label = self._found(By.XPATH, f"//*[@data-test='from']//label[contains(., '{words}')]", words)
        label.click()

    def test_a_light_is_hung_moved_and_mirrored(self) -> None:
        self.show("set-ups")
        self.marked("lit-by-window")
        self.marked("set-up-window").click()
        self.wait(lambda: [one["kind"] for one in self.set()["lights"]] == ["window", "card"], "a window")
        self.marked("set-up-name").send_keys("Our window")
        self.marked("keep-set-up").click()
        self.wait(lambda: "Our window" in self.css("[data-test='set-ups'] ul").text, "it kept")
        self.button("Undo").click()
        self.wait(lambda: len(self.set()["lights"]) == 4, "what hung there before")
        self._found(By.XPATH, "//button[contains(., 'Our window')]", "ours").click()
        self.wait(lambda: [one["kind"] for one in self.set()["lights"]] == ["window", "card"], "our window")
        self.button("Undo").click()
        self.wait(lambda: len(self.set()["lights"]) == 4, "what hung there before")
        self.show("hang-light")
        self.pick("hang-light", "hang-strip")
        self.marked("light-4")
        self.saved()
        new = self.light(4)
        self.assertEqual((new["kind"], new["name"]), ("softbox", "Strip"))
        self.dragged("grip-4", (-8, -30))
        moved = self.light(4)
        self.assertGreater(moved["azimuth"], new["azimuth"], "further back")
        self.assertIsNone(self.set()["scaled_for"], "from now on it stays as it was put")
        self.seen_from("From the side")
        self.dragged("grip-4", (0, -50))
        self.assertGreater(self.light(4)["elevation"], moved["elevation"] + 2)
        self.show("place")
        self.marked("place").click()
        self.point_at(0.02, 0.02)
        self.wait(lambda: self.text_of("Nothing stands there that could mirror a light"), "why not")
        self.point_at(0.47, 0.5)
        self.wait(lambda: self.light(4)["aim"] is not None, "its highlight")
        aim = self.light(4)["aim"]
        self.assertLess(abs(aim["x"]), 60)
        self.assertFalse(self.text_of("Nothing stands there that could mirror a light"))
        before = self.light(4)
        self.marked("reach").click()
        self.point_at(0.45, 0.5)
        self.wait(lambda: self.light(4)["width"] != before["width"], "as wide as its rim was dragged")
        self.assertEqual((self.light(4)["aim"], self.light(4)["height"]), (aim, before["height"]))
        self.marked("soften").click()
        self.point_at(0.46, 0.5)
        self.wait(lambda: 1 in {self.light(4)[way]["by"] for way in ("across", "up")}, "a soft rim")
        self.marked("alone").click()
        self.wait(lambda: self.text_of("one light alone"), "one light alone")
        self.marked("alone").click()
        self.show("untouched-sweep")
        self.marked("untouched-sweep").click()
        self.wait(
            lambda: self.light(4)["untouched"] == [{"standing": None, "part": "sweep"}], "the sweep unlit"
        )
        self.show("unreflected-hero")
        self.marked("unreflected-hero").click()
        self.wait(lambda: self.light(4)["unreflected"] != [], "not mirrored")
        self.assertEqual(self.light(4)["unreflected"][0]["standing"], "hero")
        self.browser.refresh()
        self.marked("light-4")
        self.show("drop-light")
        self.css("[data-test='grip-4']").click()
        self.marked("drop-light").click()
        self.wait(lambda: len(self.set()["lights"]) == 4, "one less")
        self.button("Undo").click()
        self.wait(lambda: len(self.set()["lights"]) == 5, "it is back")

    def test_a_picture_to_work_towards(self) -> None:
        mood = self.folder / "mood.png"
        Image.linear_gradient("L").convert("RGB").save(mood)
        self.show("pin-reference")
        self.marked("pin-reference").send_keys(str(mood))
        self.marked("reference-beside")
        self.chosen("reference-lies-0", "over its left")
        wipe = self.marked("reference-wipe")
        wipe.send_keys(*[Keys.ARROW_LEFT] * 20)
        self.saved()
        self.wait(lambda: self.job()["shots"][0]["document"]["references"][0]["strength"] < 0.4, "less of it")
        seen = self.css("img.reference").value_of_css_property("clip-path")
        self.assertRegex(seen, r"inset\(0(px|%)? [67]\d")
        self.show("references-seen")
        self.marked("references-seen").click()
        self.wait(lambda: not self.browser.find_elements(By.CSS_SELECTOR, "img.reference"), "it put away")

    def test_what_is_sharp_is_pointed_at(self) -> None:
        def camera() -> dict:
            return self.job()["shots"][0]["document"]["camera"]

        self.show("open-lens")
        self.marked("open-lens").click()
        self.enter("f-number", "2.8")
        self.wait(lambda: camera()["f_number"] == 2.8, "the lens opened")
        first = [self.marked(name).text for name in ("sharp-from", "sharp-to")]
        self.marked("focus").click()
        self.point_at(0.02, 0.02)
        self.wait(lambda: self.text_of("Nothing stands there: point at a pack"), "why not")
        self.point_at(0.5, 0.6)
        self.wait(lambda: camera()["focus"] is not None, "the focus")
        self.wait(lambda: self.marked("sharp-from").text != first[0], "another zone")
        self.assertEqual(len(self.browser.find_elements(By.CSS_SELECTOR, ".sharp")), 1)
        self.show("upright")
        self.marked("upright").click()
        self.wait(lambda: camera()["upright"] is True, "upright")
        self.show("shut-lens")
        self.marked("shut-lens").click()
        self.wait(lambda: camera()["f_number"] is None, "everything sharp")
        self.saved()

    def shot(self) -> dict:
        self.saved()
        return self.job()["shots"][0]["document"]

    def in_part(self) -> None:
        """A part is refined over the whole proof from before; large ones have more pixels."""
        wide = "return document.querySelector('[data-test=proof]').naturalWidth"
        whole = self.browser.execute_script(wide)
        self._found(By.XPATH, "//*[@data-test='proof-size']//label[contains(., 'Large')]", "sizes").click()
        self.wait(
            lambda: self.marked("proof") and self.browser.execute_script(wide) > 1.9 * whole, "a large one"
        )
        self.marked("part").click()
        self.carried(self.marked("part-frame"), (-0.2, -0.2), (90, 60))
        self.marked("beneath")
        frame, seen = self.css(".camera-view .frame").size, self.marked("proof").size
        self.assertAlmostEqual(seen["width"], 90, delta=4)
        self.assertLess(seen["height"], frame["height"] / 3)
        self.marked("whole").click()
        self.wait(lambda: self.marked("proof").size == frame, "all of it")
        self._found(By.XPATH, "//*[@data-test='proof-size']//label[contains(., 'Medium')]", "sizes").click()
        self.wait(lambda: self.marked("proof") and self.browser.execute_script(wide) == whole, "as it was")

    def before_and_after(self) -> None:
        stops = self.shot()["grade"]["exposure_ev"]
        self.marked("keep-before").click()
        self.enter("Exposure", "1.5")
        self.wait(lambda: self.shot()["grade"]["exposure_ev"] == 1.5, "brighter")
        self.assertEqual(self.css(".camera-view .left").text, "before")
        self.marked("compared")
        self.marked("go-back").click()
        self.wait(lambda: self.shot()["grade"]["exposure_ev"] == stops, "as it was before")
        self.assertEqual(self.browser.find_elements(By.CSS_SELECTOR, "[data-test=compared]"), [])

    def moved_by_hand(self) -> None:
        """With the right button, and nearer with two fingers."""
        frame, before = self.css(".camera-view .frame"), self.shot()["camera"]
        mouse = ActionBuilder(self.browser)
        mouse.pointer_action.move_to(frame).pointer_down(MouseButton.RIGHT)
        mouse.pointer_action.move_to(frame, 40, 0).pointer_up(MouseButton.RIGHT)
        mouse.perform()
        self.wait(lambda: self.shot()["camera"]["aim_x"] < before["aim_x"] - 1, "it to the right")
        fingers = ActionBuilder(self.browser, mouse=PointerInput(interaction.POINTER_TOUCH, "first"))
        second = fingers.add_pointer_input(interaction.POINTER_TOUCH, "second")
        x, y = (round(frame.rect[a] + frame.rect[b] / 2) for a, b in (("x", "width"), ("y", "height")))
        for finger, way in ((fingers.pointer_action.source, -1), (second, 1)):
            finger.create_pointer_move(duration=0, x=x + way * 20, y=y)
            finger.create_pointer_down(button=0)
            finger.create_pointer_move(duration=100, x=x + way * 60, y=y)
            finger.create_pointer_up(button=0)
        fingers.perform()
        self.wait(lambda: self.shot()["camera"]["distance"] < 0.5 * before["distance"], "nearer")

    def out_of_the_bottle(self) -> None:
        """A light that is pushed into the bottle is told of, and moved out."""
        self.enter("Light distance", "20")
        words = self.marked("fault-light").text
        self.assertIn("hangs inside of", words)
        self.button("Move it out").click()
        self.wait(
            lambda: not self.browser.find_elements(By.CSS_SELECTOR, "[data-test=fault-light]"), "it out"
        )
        self.wait(lambda: self.light(0)["distance"] > 20, "it further away")

    def test_formats_views_and_what_is_told_of_a_proof(self) -> None:
        shot = self.shot

        self.wait(lambda: "%" in self.marked("white-share").text, "what is white")
        self.assertEqual(len(self.browser.find_elements(By.CSS_SELECTOR, "[data-test=histogram] i")), 64)
        self._found(
            By.XPATH, "//*[@data-test='shows']//label[contains(., 'By brightness')]", "levels"
        ).click()
        self.wait(lambda: self.marked("sight").get_attribute("data-shows") == "brightness", "levels")
        self.in_part()
        self.before_and_after()
        self.chosen("format", "a story")
        self.wait(lambda: shot()["purposes"][0]["height_px"] == 1920, "another format")
        self.marked("lines-thirds").click()
        self.marked("frame-lines")
        self.enter("Margin", "30")
        self.wait(lambda: shot()["camera"]["margin"] == 0.3, "more air")
        self.show("keep-view")
        self.marked("keep-view").click()
        self.wait(lambda: [view["name"] for view in shot()["views"]] == ["View 1"], "it is kept")
        turned = shot()["camera"]["azimuth"]
        self.enter("Camera turn", "70")
        self.wait(lambda: shot()["camera"]["azimuth"] == 70, "from elsewhere")
        self.show("view-0")
        self.marked("view-0").click()
        self.wait(lambda: shot()["camera"]["azimuth"] == turned, "as it was kept")
        self.enter("Camera distance", "900")
        self.wait(lambda: shot()["framed_by_hand"], "stood by hand")
        lens = shot()["camera"]["lens_mm"]
        self.enter("Lens", str(2 * lens))
        self.wait(lambda: shot()["camera"]["lens_mm"] == 2 * lens, "a longer lens")
        self.assertEqual(shot()["camera"]["distance"], 1800)
        self.moved_by_hand()
        self.out_of_the_bottle()


class SurroundTests(OnSetTestCase):
    JOB = "Perry, outside"

    def bring(self, name: str, data: bytes) -> None:
        (self.folder / name).write_bytes(data)
        self.marked("surround-file").send_keys(str(self.folder / name))

    def test_a_picture_of_light_is_turned_and_seen_behind(self) -> None:
        self.bring("ball.exr", written(np.ones((32, 32, 3), np.float32)))
        self.wait(lambda: "a mirror ball" in self.marked("around-problem").text, "why not")
        self.assertEqual(self.set()["surround"]["kind"], "even")
        self.bring("yard.exr", written(sky()))
        self.wait(lambda: self.set()["surround"]["kind"] == "picture", "the yard")
        self.marked("around-map")
        self.assertFalse(any(light["on"] for light in self.set()["lights"]), "no lamp besides")
        self.assertLess(self.set()["surround"]["strength"], 0.1, "a bright sun is made a set's brightness")
        self.show("around-map")
        self.carried(self.steady("around-map"), (0, 0), (60, 0))
        self.saved()
        turn = self.set()["surround"]["turn"]
        self.assertGreater(turn, 40)
        self.show("turn-around")
        self.marked("turn-around").click()
        frame = self.css(".camera-view .frame")
        before = self.job()["shots"][0]["document"]["camera"]["azimuth"]
        self.carried(frame, (0, 0), (80, 0))
        self.saved()
        self.assertNotEqual(self.set()["surround"]["turn"], turn)
        self.assertEqual(self.job()["shots"][0]["document"]["camera"]["azimuth"], before)
        self.chosen("behind", "what is all around")
        self.wait(lambda: self.set()["behind"]["kind"] == "surround", "seen behind")
        self.wait(lambda: len(Select(self.marked("behind-other")).options) > 4, "others to be seen")
        Select(self.marked("behind-other")).select_by_index(2)
        self.wait(lambda: self.set()["behind"]["other"], "another one behind")
        self.button("Undo").click()
        self.wait(lambda: not self.set()["behind"].get("other"), "the one that lights it")
        self.button("Undo").click()
        self.wait(lambda: self.set()["behind"]["kind"] == "sweep", "the sweep again")

    def test_light_cards_a_sky_and_white_behind(self) -> None:
        self.show("starting-surrounds")
        self.marked("surround-strips").click()
        self.wait(lambda: self.set()["surround"]["kind"] == "studio", "light cards")
        self.show("map-card-0")
        card = self.set()["surround"]["cards"][0]
        self.carried(self.steady("map-card-0"), (0, 0), (30, 0))
        self.saved()
        moved = self.set()["surround"]["cards"][0]
        self.assertLess(moved["azimuth"], card["azimuth"] - 15, "towards the left of the camera")
        self.show("add-card")
        self.marked("add-card").click()
        self.wait(lambda: len(self.set()["surround"]["cards"]) == 4, "a card more")
        self.marked("drop-card").click()
        self.wait(lambda: len(self.set()["surround"]["cards"]) == 3, "as before")
        self.show("surround-morning")
        self.marked("surround-morning").click()
        self.wait(lambda: "The sun stands" in self.marked("sun-is").text, "a morning")
        self.enter("Hour", "2")
        self.wait(lambda: "The sun is down" in self.marked("sun-is").text, "night")
        self.chosen("behind", "white")
        self.wait(
            lambda: self.set()["behind"] == {"kind": "colour", "colour": "#ffffff", "shadow": True}, "white"
        )
        self.marked("behind-shadow").click()
        self.wait(lambda: self.set()["behind"]["shadow"] is False, "no shadow")
        self.marked("proof")
        self.browser.refresh()
        self.marked("around-map")
        self.assertEqual(self.set()["surround"]["kind"], "sky")
