"""What things are made of, by hand: found, carried on, linked, picked, kept for the next job."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from browser_tests.studio import BrowserTestCase

TARGET = "#4d7f63"
OWN = "Orchard lid"
LEAF = b"""<?xml version="1.0"?><materialx version="1.39">
<standard_surface name="S" type="surfaceshader">
  <input name="base_color" type="color3" value="0.30196, 0.49804, 0.38824" colorspace="srgb_texture"/>
</standard_surface>
<surfacematerial name="Leaf_green" type="material">
  <input name="surfaceshader" type="surfaceshader" nodename="S"/>
</surfacematerial></materialx>"""


class MaterialTests(BrowserTestCase):
    def test_materials_from_the_first_picture_to_the_next_job(self) -> None:
        self.sign_in()
        self.start_job("Bramley cordial")
        self.found_and_carried()
        self.linked_and_unlinked()
        self.edited()
        self.pictured()
        self.turned_on_the_pack()
        self.picked_from_a_picture()
        self.named_by_the_brand()
        self.matched_as_it_is_seen()
        self.kept_and_used_in_another_job()

    def form(self) -> dict:
        self.saved()
        return self.job()["packs"][0]["document"]["form"]

    def opened(self, name: str) -> WebElement:
        """A button in a slip that may be folded."""
        found = self.marked(name)
        unfold = "for (let d = arguments[0]; d; d = d.parentElement?.closest('details')) d.open = true"
        self.browser.execute_script(unfold, found)
        self.browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", found)
        return found

    def sought(self, words: str, key: str) -> WebElement:
        field = self.marked("find-material")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(words)
        self.wait(lambda: self.marked(f"material-{key}").is_displayed(), key)
        return self.steady(f"material-{key}")

    def carried_onto(self, swatch: WebElement, target: WebElement, says: str, *, alike: bool = False) -> None:
        """Carry a picture onto something; what is said beside the hand before it is let go."""
        way = ActionChains(self.browser, duration=60).click_and_hold(swatch).move_by_offset(12, 12)
        if alike:
            way.key_down(Keys.SHIFT)
        way.move_to_element(target).move_by_offset(1, 1).perform()
        self.wait(lambda: says in self.css(".in-hand").text, says)
        ActionChains(self.browser).release().key_up(Keys.SHIFT).perform()
        self.wait(lambda: not self.browser.find_elements(By.CSS_SELECTOR, ".in-hand"), "the hand empty")

    def found_and_carried(self) -> None:
        self.opened("choose-closure").click()
        self.marked("material-tray")
        # onto the pack, where its body is under the hand
        self.carried_onto(self.sought("frosted amber", "frosted-amber-glass"), self.marked("round"), "body")
        body = self.form()["body"]["material"]
        self.assertEqual((body["kind"], body["frost"]), ("clear", 0.5))
        # onto a part in the list; what it cannot be made of is said, and changes nothing
        cap = self.opened("part-closure")
        self.carried_onto(self.sought("flint", "flint-glass"), cap, "cannot be clear")
        self.carried_onto(self.sought("walnut", "walnut"), cap, "cap")
        form = self.form()
        self.assertEqual(form["closure"]["material"]["grain"]["pattern"], "wood")
        self.assertEqual(form["body"]["material"], body)
        self.wait(lambda: "Walnut" in self.marked("choose-closure").text, "what the cap is made of")
        ActionChains(self.browser).move_to_element(self.marked("material-walnut")).perform()
        self.css("[aria-label='Walnut: favourite']").click()
        self.marked("close-tray").click()

    def linked_and_unlinked(self) -> None:
        """Two parts of one entry: seen to be linked, changed together, and apart again."""
        self.opened("choose-closure")
        self.within("choose-closure", "Put in the palette").click()
        self.css("input[aria-label='Closure: name in the palette']").send_keys(Keys.CONTROL, "a")
        self.css("input[aria-label='Closure: name in the palette']").send_keys("Lid", Keys.ENTER)
        self.opened("choose-body")
        self.css("select[aria-label='Body: what kind'] option[value='=Lid']").click()
        self.wait(lambda: "Linked: body" in self.css("[data-test='linked']").text, "what else is linked")
        form = self.form()
        link = {"kind": "linked", "entry": "Lid"}
        self.assertEqual([form["body"]["material"], form["closure"]["material"]], [link, link])
        self.opened("choose-body").click()
        self.carried_onto(
            self.sought("satin gold", "satin-gold"), self.marked("round"), "body, cap", alike=True
        )
        self.saved()
        self.assertEqual(self.job()["palette"]["document"]["entries"]["Lid"]["metal"], "gold")
        self.assertEqual(self.form()["body"]["material"], link)
        self.marked("close-tray").click()
        self.opened("choose-body")
        self.within("choose-body", "Unlink").click()
        self.wait(lambda: self.form()["body"]["material"].get("metal") == "gold", "a copy of its own")
        self.assertEqual(self.form()["closure"]["material"], link)

    def edited(self) -> None:
        """Nudged, and another pattern put on."""
        self.css("select[aria-label='Body: what kind'] option[value='opaque']").click()
        self.enter("Body sheen", "40")
        self.wait(lambda: "its own mix" in self.marked("choose-body").text, "no name any more")
        self.css("[data-test='pattern-body'] option[value='leather']").click()
        self.enter("Body pattern scale", "2.5")
        self.opened("fade-body").click()
        self.enter("Body fade whole", "70")
        body = self.form()["body"]["material"]
        self.assertEqual(
            (body["sheen"], body["grain"]["pattern"], body["grain"]["scale"]), (0.4, "leather", 2.5)
        )
        self.assertEqual(body["fade"]["whole"], 70)

    def pictured(self) -> None:
        """Three pictures at once, told apart by their names; taken for something else; one that is none."""
        grey = np.random.default_rng(2).integers(0, 256, (48, 64), np.uint8)
        with tempfile.TemporaryDirectory() as folder:
            paths = [Path(folder) / f"bark_{what}.png" for what in ("basecolor", "roughness", "height")]
            for path in paths:
                Image.fromarray(grey).save(path)
            self.opened("pattern-body")
            self.marked("choose-pictures-body").send_keys("\n".join(map(str, paths)))
            self.wait(lambda: self.browser.find_elements(By.CSS_SELECTOR, "[data-test='taken-relief-body']"))
            grain = self.form()["body"]["material"]["grain"]
            self.assertTrue(all(grain["pattern"].values()))
            self.assertEqual((grain["scale"], grain["depth"]), (40, 0.8))
            self.css("[data-test='taken-gloss-body'] option[value='gloss']").click()
            rough = grain["pattern"]["gloss"]
            self.wait(lambda: self.form()["body"]["material"]["grain"]["pattern"]["gloss"] != rough, "gloss")
            paths[0].write_bytes(b"no picture")
            self.marked("choose-pictures-body").send_keys(str(paths[0]))
            self.wait(lambda: "bark_basecolor.png is not" in self.css(".pictures [role='alert']").text)
        self.enter("Body pattern scale", "20")
        self.opened("no-picture-colour-body").click()
        grain = self.form()["body"]["material"]["grain"]
        self.assertEqual((grain["pattern"]["colour"], grain["scale"], grain["depth"]), (None, 20, 0.4))

    def turned_on_the_pack(self) -> None:
        """The way of the grain, shown on the drawing and in the round, turned on either."""
        self.opened("turn-body").click()
        ends = "[data-test='grain-end']"
        self.wait(lambda: len(self.browser.find_elements(By.CSS_SELECTOR, ends)) == 2, "two arrows")
        for which, wanted in ((0, 45), (1, 90)):
            end = self.browser.find_elements(By.CSS_SELECTOR, ends)[which]
            self.browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", end)
            middle = self.browser.find_elements(By.CSS_SELECTOR, "[data-test='grain'] .under")[5 * which + 2]
            way = ActionChains(self.browser, duration=80).click_and_hold(end).move_to_element(middle)
            way.move_by_offset(30 if wanted == 45 else 0, -30).release().perform()
            self.wait(lambda wanted=wanted: self.turn() == wanted, f"{wanted}°")
        self.opened("turn-body").click()
        self.wait(lambda: not self.browser.find_elements(By.CSS_SELECTOR, ends), "no arrows")

    def turn(self) -> float:
        return float(self.form()["body"]["material"]["grain"]["turn"])

    def picked_from_a_picture(self) -> None:
        """A file's pixel, to the last bit."""
        picture = np.full((60, 90, 3), 240, np.uint8)
        picture[20:40, 30:60] = [int(TARGET[i : i + 2], 16) for i in (1, 3, 5)]
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "leaf.png"
            Image.fromarray(picture).save(path)
            self.opened("more-body-colour").click()
            self.marked("pick-from-file").send_keys(str(path))
            canvas = self.marked("pick-canvas")
            self.wait(lambda: canvas.get_attribute("width") == "90", "the picture")
            ActionChains(self.browser).move_to_element(canvas).click().perform()
            self.wait(lambda: self.form()["body"]["material"]["colour"] == TARGET, TARGET)
            # what is no picture says so, and changes nothing
            broken = Path(folder) / "broken.png"
            broken.write_bytes(b"no picture")
            self.marked("pick-from-file").send_keys(str(broken))
            self.wait(lambda: self.css("[data-test='colours'] [role='alert']").text, "why not")
        self.assertEqual(self.form()["body"]["material"]["colour"], TARGET)

    def named_by_the_brand(self) -> None:
        name = self.css("input[aria-label='Name of this colour']")
        name.send_keys("Leaf")
        self.marked("add-colour").click()
        self.marked("brand-Leaf")
        self.enter("Body colour L*", "80")
        self.wait(lambda: self.form()["body"]["material"]["colour"] != TARGET, "a lighter one")
        self.marked("brand-Leaf").click()
        self.wait(lambda: self.form()["body"]["material"]["colour"] == TARGET, "the brand's")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "brand.csv"
            path.write_text("name;hex\nDamson;#6f1d33\n")
            self.marked("bring-colours").send_keys(str(path))
            self.marked("brand-Damson")
            path.write_text("name;hex\nDamson;#6f1\n")
            self.marked("bring-colours").send_keys(str(path))
            self.wait(lambda: "line 2" in self.css("[data-test='colours'] [role='alert']").text, "line 2")
        self.marked("keep-colours").click()
        self.wait(
            lambda: not self.browser.find_elements(By.CSS_SELECTOR, "[data-test='keep-colours']"), "kept"
        )
        self.marked("close-colours").click()
        self.saved()
        colours = self.job()["palette"]["document"]["colours"]
        self.assertEqual([one["name"] for one in colours], ["Leaf", "Damson"])

    def matched_as_it_is_seen(self) -> None:
        """Made to look, in its light, like a colour; what is left is said."""
        own = self.form()["body"]["material"]["colour"]
        self.wait(lambda: self.browser.find_elements(By.CSS_SELECTOR, ".round-view img"), "the proof")
        self.opened("match-body").click()
        self.marked("brand-Damson").click()
        self.marked("close-colours").click()
        self.wait(lambda: "ΔE₀₀" in self.marked("matched-body").text, "how close it comes")
        self.wait(lambda: self.form()["body"]["material"]["colour"] != own, "another colour")

    def kept_and_used_in_another_job(self) -> None:
        made = self.form()["body"]["material"]
        self.opened("save-body").click()
        self.css("input[aria-label='Body: name in the studio']").send_keys(OWN, Keys.ENTER)
        self.wait(lambda: OWN in self.marked("choose-body").text, "its name")
        first = self.job()["slug"]
        self.start_job("Russet cordial")
        self.opened("choose-body").click()
        field = self.marked("find-material")
        field.send_keys("orchard li")
        found = "[data-test^='material-own-']"
        self.wait(lambda: self.browser.find_elements(By.CSS_SELECTOR, found), OWN)
        self.steady(self.css(found).get_attribute("data-test") or "").click()
        self.wait(lambda: self.form()["body"]["material"] == made, "the same material")
        ActionChains(self.browser).move_to_element(self.css(found)).perform()
        self.css(f"[aria-label='Take {OWN} away']").click()
        self.wait(lambda: not self.browser.find_elements(By.CSS_SELECTOR, found), "none of that name")
        self.assertEqual(self.form()["body"]["material"], made)
        self.brought_from_elsewhere(found)
        self.marked("close-tray").click()
        self.opened("more-body-colour").click()
        self.marked("studio-Damson").click()
        self.wait(lambda: self.form()["body"]["material"]["colour"] == "#6f1d33", "the other job's colour")
        self.marked("close-colours").click()
        self.open(f"/jobs/{first}/form")
        self.assertEqual(self.form()["body"]["material"], made)

    def brought_from_elsewhere(self, found: str) -> None:
        """A document of MaterialX; one that is none is refused in words."""
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "leaf.mtlx"
            path.write_bytes(LEAF[:40])
            self.marked("bring-materials").send_keys(str(path))
            self.wait(lambda: "is no MaterialX" in self.marked("material-tray").text, "the refusal")
            path.write_bytes(LEAF)
            self.marked("bring-materials").send_keys(str(path))
            self.marked("find-material").send_keys(Keys.CONTROL, "a", Keys.DELETE)
            self.wait(lambda: self.browser.find_elements(By.CSS_SELECTOR, found), "what was brought")
        self.steady(self.css(found).get_attribute("data-test") or "").click()
        self.wait(lambda: self.form()["body"]["material"]["colour"] == "#4d7f63", "its colour")

    def within(self, mark: str, words: str) -> WebElement:
        """A button of the sentence that something stands in."""
        way = f"//*[@data-test='{mark}']/ancestor::p//button[contains(normalize-space(.), '{words}')]"
        return self._found(By.XPATH, way, words)
