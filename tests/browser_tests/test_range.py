"""A range in one job: packs beside each other, shots, colourways, and the client's yes."""

from __future__ import annotations

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from browser_tests.studio import BrowserTestCase


class RangeTests(BrowserTestCase):
    def test_from_a_copy_to_the_clients_answer(self) -> None:
        self.sign_in()
        self.start_job("Orchard oils")
        self.choose_a_dropper_and_find_it_framed()
        self.copy_it_and_stand_the_copy_beside_it()
        self.add_a_shot_and_a_colourway()
        self.order_two_pictures_with_a_reload_in_the_middle()
        self.hear_what_the_client_says()

    def choose_a_dropper_and_find_it_framed(self) -> None:
        self.browser.find_element(By.XPATH, "//button[contains(., 'Start from')]").click()
        self.marked("start-dropper-30").click()
        self.wait(lambda: self.text_of("Dropper bottle"), "a pack named after what it started from")
        self.saved()
        self.station("Set")
        self.marked("proof")
        self.assertTrue(self.text_of("It frames what stands by itself"))
        self.assertFalse(self.many("[data-test=fit-says]"))

    def copy_it_and_stand_the_copy_beside_it(self) -> None:
        self.station("Form")
        self.marked("pack-switch").click()
        self.css("button[aria-label='Copy Dropper bottle']").click()
        self.wait(lambda: "2 of 2" in self.marked("pack-switch").text, "the copy, open")
        self.css("body").send_keys(Keys.PAGE_UP)
        self.wait(lambda: "1 of 2" in self.marked("pack-switch").text, "the first one")
        self.browser.back()
        self.wait(lambda: "2 of 2" in self.marked("pack-switch").text, "the copy by the way back")
        self.station("Set")
        trays = self.many("[data-test^='tray-']")
        self.assertEqual(len(trays), 2)
        trays[1].click()
        self.wait(lambda: len(self.standing()) == 2, "two on the floor")
        self.assertFalse(self.many("[data-test=crossing]"))
        self.marked("plan-zoom").click()
        copy = self.standing()[1]
        before = copy.get_attribute("aria-label")
        outline = copy.find_element(By.CSS_SELECTOR, "path")
        ActionChains(self.browser).drag_and_drop_by_offset(outline, -90, 0).perform()
        self.wait(lambda: self.standing()[1].get_attribute("aria-label") != before, "it moved")
        self.wait(lambda: self.many("[data-test=crossing]"), "that it crosses")
        self.marked("apart").click()
        self.wait(lambda: not self.many("[data-test=crossing]"), "them apart")
        self.saved()

    def many(self, selector: str) -> list:
        return self.browser.find_elements(By.CSS_SELECTOR, selector)

    def verdicts(self) -> list[str]:
        return [found.text for found in self.many("[data-test=verdict]")]

    def standing(self) -> list:
        return self.many("[data-test^='stands-']")

    def add_a_shot_and_a_colourway(self) -> None:
        self.marked("add-shot").click()
        self.wait(lambda: "shot=hero-2" in self.browser.current_url, "the second shot")
        self.enter("Camera turn", "25")
        self.saved()
        self.css("body").send_keys(Keys.PAGE_UP)
        self.wait(lambda: self.field("Camera turn").get_attribute("value") == "0", "the first shot by a key")
        self.css("body").send_keys(Keys.PAGE_DOWN)
        self.wait(lambda: self.field("Camera turn").get_attribute("value") == "25", "the second again")
        self.browser.find_element(By.XPATH, "//summary[.='Colourway']").click()
        self.marked("add-colourway").click()
        self.wait(lambda: "colourway=colourway" in self.browser.current_url, "the colourway")
        self.css("[data-test^='fill-']").click()
        colour = self.css("input[aria-label='Dropper bottle contents colour, hex']")
        colour.send_keys(Keys.CONTROL, "a")
        colour.send_keys("#7a1f4d", Keys.ENTER)
        self.saved()
        self.compare_it_with_as_it_is()

    def compare_it_with_as_it_is(self) -> None:
        """Its proof beside the open one's, again after the camera has moved."""
        Select(self.marked("compare")).select_by_visible_text("as it is")
        first = self.marked("compared").get_attribute("src")
        self.marked("proof")
        self.css(".camera-view .frame").send_keys(Keys.ARROW_RIGHT)
        self.wait(
            lambda: any(i.get_attribute("src") != first for i in self.many("[data-test=compared]")),
            "the other colourway from where the camera is now",
        )
        self.marked("proof")
        self.marked("stop-comparing").click()
        self.wait(lambda: not self.many("[data-test=compared]"), "one picture again")
        self.saved()

    def order_two_pictures_with_a_reload_in_the_middle(self) -> None:
        self.station("Shoot")
        for name, value in (("Picture width", "160"), ("Picture height", "200"), ("Samples", "24")):
            self.enter(name, value)
        for cell in ("cell-hero-as-it-is", "cell-hero-2-colourway"):
            self.marked(cell).find_element(By.CSS_SELECTOR, "input").click()
        self.browser.find_element(By.XPATH, "//button[contains(., 'Take them all at this size')]").click()
        self.wait(lambda: "Shoot 2 pictures" in self.marked("shoot").text, "an order of two")
        self.saved()
        self.marked("shoot").click()
        self.marked("developing")
        self.browser.refresh()
        self.wait(lambda: len(self.many(".taken")) == 2, "both taken")
        self.station("Show")
        self.wait(lambda: len(self.many("[data-test^='print-']")) == 2, "both")
        groups = self.many("[data-test^='group-']")
        self.assertEqual([group.find_element(By.TAG_NAME, "h3").text for group in groups], ["Hero", "Hero 2"])

    def hear_what_the_client_says(self) -> None:
        self.marked("make-link").click()
        link = self.marked("client-link").get_attribute("value")
        designer, self.browser = self.browser, self.new_browser()
        try:
            self.browser.get(link)
            self.marked("client-pick-hero-as-it-is").click()
            self.marked("client-name").send_keys("Rosa Velloway")
            self.marked("approve").click()
            self.wait(lambda: self.text_of("you approve it"), "thanks")
            self.marked("client-pick-hero-2-colourway").click()
            picture = self.css("[data-test=pinned-picture]")
            ActionChains(self.browser).move_to_element_with_offset(picture, -30, 40).click().perform()
            pinned_at = 50 - 100 * 30 / picture.rect["width"]
            self.marked("pin")
            self.marked("client-remark").send_keys("A little <b>darker</b> here")
            self.marked("ask-changes").click()
            self.wait(lambda: self.text_of("Sent to the studio"), "it sent")
        finally:
            self.browser = designer
        self.wait(
            lambda: self.verdicts() == ["approved", "asks for changes"], "both answers, without a reload"
        )
        self.browser.find_element(By.CSS_SELECTOR, "[data-test=group-hero-2] [data-test^='print-']").click()
        self.wait(
            lambda: "A little <b>darker</b> here" in self.marked("answers").text, "the remark as it was typed"
        )
        left = self.marked("pin").get_attribute("style").split("left: ")[1].split("%")[0]
        self.assertAlmostEqual(float(left), pinned_at, delta=1)
        self.browser.refresh()
        self.wait(lambda: self.verdicts() == ["approved", "asks for changes"], "both after a reload")
