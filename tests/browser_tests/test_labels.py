"""Labels of every kind: placed by dragging and by typing, measured, mapped; texts filled for colourways."""

from __future__ import annotations

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from browser_tests.studio import BrowserTestCase

FIELDS = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="20mm" viewBox="0 0 40 20">'
    '<rect width="40" height="20" fill="#e9d9a8"/><text id="flavour" x="20" y="12" font-size="7" '
    'text-anchor="middle">Quince</text></svg>'
)


class LabelTests(BrowserTestCase):
    def setUp(self) -> None:
        self.sign_in()

    def panels(self) -> list[dict]:
        self.saved()
        return self.job()["packs"][0]["document"]["panels"]

    def add(self, kind: str, count: int) -> None:
        self.pick("add-panel", f"add-{kind}")
        self.marked(f"panel-{count}")
        self.wait(lambda: self.marked(f"panel-{count}").get_attribute("aria-pressed") == "true", kind)

    def opened(self, mark: str) -> WebElement:
        slip = self.marked(mark)
        self.browser.execute_script("arguments[0].open = true", slip)
        return slip

    def test_labels(self) -> None:
        self.start_job("Labelled cordial")
        self.station("Wrap")
        if self.browser.find_elements(By.CSS_SELECTOR, "[data-test='first-panel']"):
            self.marked("first-panel").click()
        self.marked("panel-0")
        (self.folder / "fields.svg").write_text(FIELDS)
        self.marked("artwork-file").send_keys(str(self.folder / "fields.svg"))
        self.marked("placed-0")
        self.placed_by_hand()
        self.dragged_on_the_pack()
        self.of_every_kind()
        self.filled()

    def placed_by_hand(self) -> None:
        """Typed to a tenth, dragged off, and drawn back to the middle."""
        self.enter("Artwork from left", "7.3")
        self.assertEqual(self.panels()[0]["placements"][0]["x"], 7.3)
        self.carried(self.css("[data-test='placed-0'] .frame"), (0, 0), (45, 0))
        moved = self.panels()[0]["placements"][0]
        self.assertGreater(moved["x"], 9)
        self.button("Centre it").click()
        middle = self.panels()[0]["placements"][0]["x"]
        self.carried(self.css("[data-test='placed-0'] .frame"), (0, 0), (4, 0))
        self.assertEqual(self.panels()[0]["placements"][0]["x"], middle)

    def dragged_on_the_pack(self) -> None:
        """The label goes up with the hand, artwork aside; a tape says mm on both."""
        before = self.panels()[0]
        canvas = self.marked("round")
        self.marked("hand-label").click()
        self.carried(canvas, (0, 0.12), (0, -40))
        self.wait(lambda: self.panels()[0]["from_base"] > before["from_base"] + 5, "the label higher up")
        self.marked("hand-artwork").click()
        self.carried(canvas, (0, 0.06), (25, 0))
        self.wait(
            lambda: self.panels()[0]["placements"][0]["x"] > before["placements"][0]["x"] + 2, "it aside"
        )
        self.marked("hand-tape").click()
        self.carried(canvas, (-0.05, 0.06), (40, 20))
        self.wait(lambda: float(self.marked("tape").text.split()[1]) > 5, "the tape")
        self.let_go_on_the_closure(canvas)
        self.marked("hand-turn").click()

    def let_go_on_the_closure(self, canvas: WebElement) -> None:
        """Low enough for it, the label goes around the closure where it is let go there; and back by undo."""
        wide, tall = (self.panels()[0][side] for side in ("width", "height"))
        self.enter("Label width", "60")
        self.enter("Label height", "8")
        self.saved()
        self.marked("panel-0").click()  # which puts the tape away
        self.marked("hand-label").click()
        label = self.met(canvas, range(40, -40, -1))
        self.carried(canvas, (0, label), (0, round((-0.36 - label) * canvas.size["height"])))
        self.wait(lambda: self.panels()[0]["part"] == "closure", "it around the closure")
        self.css("button[aria-label=Undo]").click()
        self.wait(lambda: self.panels()[0]["part"] == "body", "it back")
        self.enter("Label width", f"{wide:g}")
        self.enter("Label height", f"{tall:g}")
        self.saved()

    def met(self, canvas: WebElement, hundredths: range) -> float:
        """How far from a picture's middle the first place of this label is, as a share of its height."""
        for share in hundredths:
            y = round(share / 100 * canvas.size["height"])
            ActionChains(self.browser, duration=20).move_to_element_with_offset(canvas, 0, y).perform()
            if self.browser.find_elements(By.CSS_SELECTOR, "[data-test='pointed']"):
                return share / 100
        raise AssertionError("the label is nowhere on the pack")

    def of_every_kind(self) -> None:
        self.add("seal", 1)
        self.add("top", 2)
        self.enter("Rounding of corners", "2")
        self.add("sleeve", 3)
        self.assertIn("shrinks by", self.marked("sleeve-shrink").text)
        kinds = [panel["kind"] for panel in self.panels()]
        self.assertEqual(kinds, ["wrap", "seal", "picked", "sleeve"])
        self.assertEqual(self.panels()[2]["rounding"], 2)
        self.marked("artwork-file").send_keys(str(self.folder / "fields.svg"))
        self.marked("placed-0")
        self.opened("slip-stretch")
        self.marked("stretch-map").click()
        self.wait(lambda: len(self.browser.find_elements(By.CSS_SELECTOR, ".cells rect")) > 50, "the map")
        self.marked("compensate").click()
        self.marked("compensated")
        self.button("Take it off the pack").click()
        self.wait(lambda: len(self.panels()) == 3, "it off")

    def filled(self) -> None:
        """A field is filled on the label, and with another text in a colourway."""
        self.marked("panel-0").click()
        self.marked("field-flavour").send_keys("Pear", Keys.TAB)
        self.assertEqual(self.panels()[0]["placements"][0]["texts"], {"flavour": "Pear"})
        self.station("Set")
        self.browser.execute_script(
            "arguments[0].closest('details').open = true", self.marked("add-colourway")
        )
        self.marked("add-colourway").click()
        self.marked("field-flavour").send_keys("Damson", Keys.TAB)
        self.saved()
        (way,) = self.job()["colourways"]
        self.assertEqual(way["document"]["texts"], {"flavour": "Damson"})
        self.assertEqual(self.panels()[0]["placements"][0]["texts"], {"flavour": "Pear"})
