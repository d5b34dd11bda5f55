"""Cartons by hand: typed, folded, printed, and their blank taken away and read back."""

from __future__ import annotations

from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.select import Select

from browser_tests.studio import BrowserTestCase
from giftwrap.core.formats.blank_in import read_blank

LEAF = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="40mm" viewBox="0 0 20 40">'
    '<path fill="none" stroke="#000" d="M10 0L20 20L10 40L0 20Z"/></svg>'
)
ARTWORK = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="30mm" viewBox="0 0 60 30">'
    '<rect width="60" height="30" fill="#7d2239"/></svg>'
)


class CartonTests(BrowserTestCase):
    def setUp(self) -> None:
        self.sign_in()

    def document(self) -> dict:
        """The first pack as the studio keeps it."""
        slug = self.browser.current_url.split("/jobs/")[1].split("/")[0]
        script = "const d = arguments[1]; fetch(arguments[0]).then(r => r.json()).then(d)"
        return self.browser.execute_async_script(script, f"/api/jobs/{slug}")["packs"][0]["document"]

    def size(self) -> list[float]:
        return [float(n) for n in self.marked("carton-size").text.removesuffix(" mm").split(" × ")]

    def downloaded(self, form: str) -> Path:
        """The file a button lays into the folder."""
        for old in self.folder.glob(f"*-blank.{form}"):
            old.unlink()
        self.css("[data-test=files] summary").click()
        self.marked(f"blank-file-{form}").click()
        self.wait(lambda: list(self.folder.glob(f"*-blank.{form}")), f"the {form}")
        return next(self.folder.glob(f"*-blank.{form}"))

    def test_a_reverse_tuck_carton_from_typed_sizes(self) -> None:
        self.start_job("Quince soap")
        self.marked("tab-start").click()
        self.marked("start-dropper-carton").click()
        self.marked("blank-draft")
        Select(self.marked("carton-style")).select_by_value("reverse-tuck")
        for side, mm in (("length", "84"), ("width", "30"), ("depth", "61")):
            self.enter(f"Inside {side}", mm)
        self.enter("Caliper", "0.4")
        self.saved()
        form = self.document()["form"]
        self.assertEqual(
            (form["style"], form["length"], form["width"], form["depth"]), ("reverse-tuck", 84, 30, 61)
        )
        self.wait(lambda: 61 < self.size()[2] < 63.5 and 84 < self.size()[0] < 86, "the carton of that size")

        # folded open by the slider, and one flap by itself
        fold = self.marked("fold")
        ActionChains(self.browser).click_and_hold(fold).move_by_offset(-40, 0).release().perform()
        self.wait(lambda: self.size()[2] > 70, "an open lid stands up")
        self.enter("Closed", "100")
        self.wait(lambda: self.size()[2] < 63.5, "closed again")
        ActionChains(self.browser).click(self.marked("flat-top-lid")).perform()
        self.wait(lambda: self.marked("chosen-panel").text == "top lid", "the lid is chosen")
        self.enter("Angle of the top lid", "20")
        self.wait(lambda: self.size()[2] > 80, "the lid by itself")
        self.saved()
        self.browser.refresh()
        self.wait(lambda: self.size()[2] > 80, "as it was after a reload")

        # sizes are typed on the blank too, and a window is cut
        self.marked("dimension-depth").click()
        self.enter("Inside depth on the blank", "70")
        self.saved()
        self.assertEqual(self.document()["form"]["depth"], 70)
        self.enter("Inside depth on the blank", "61")
        ActionChains(self.browser).click(self.marked("flat-left")).perform()
        self.marked("cut-window").click()
        self.saved()
        form = self.document()["form"]
        self.assertEqual((form["depth"], [one["panel"] for one in form["windows"]]), (61, ["left"]))
        self.button("Close it").click()
        self.saved()

        # what is downloaded is the same blank
        for form_ in ("svg", "dxf", "pdf"):
            path = self.downloaded(form_)
            found = read_blank(path.read_bytes(), path.name)
            self.assertEqual(len(found.blank.panels), 13)
            front = next(p for p in found.blank.panels if p.name == "front")
            left, foot, right, top = front.outline.bounds
            self.assertAlmostEqual(right - left, 84.4, places=3)
            self.assertGreater(top - foot, 61)

        # what cannot be folded is said, and the last good carton stays
        before = self.size()
        self.enter("Caliper", "8")
        self.wait(lambda: "cannot be folded" in self.marked("form-problem").text, "it says so")
        self.assertEqual(self.size(), before)
        self.css("button[aria-label=Undo]").click()
        self.wait(
            lambda: not self.browser.find_elements(By.CSS_SELECTOR, "[data-test='form-problem']"), "well"
        )

        # artwork on the blank
        self.station("Wrap")
        (self.folder / "band.svg").write_text(ARTWORK)
        self.marked("panel-0")
        self.marked("artwork-file").send_keys(str(self.folder / "band.svg"))
        self.marked("placed-0")
        self.enter("Artwork width", "75")
        self.saved()
        placed = self.document()["form"]["prints"]["carton"]
        self.assertEqual([one["width"] for one in placed], [75])

        # a label on the front, where the carton is open, picked and carried up
        canvas = self.marked("round")
        self.marked("add-panel").click()
        ActionChains(self.browser).move_to_element_with_offset(canvas, 0, 20).click().perform()
        self.wait(lambda: self.marked("panel-1").get_attribute("aria-pressed") == "true", "the label")
        self.saved()
        for side in ("width", "height"):
            self.enter(f"Label {side}", "12")
        self.saved()
        seal = self.document()["panels"][0]
        self.assertEqual((seal["part"], seal["at"][2]), ("carton", 0))
        self.marked("hand-label").click()
        self.carried(canvas, (0, 20 / canvas.size["height"]), (0, -20))
        self.wait(lambda: self.document()["panels"][0]["at"] != seal["at"], "it further up")
        self.saved()
        moved = self.document()["panels"][0]["at"]
        self.assertAlmostEqual(moved[0], seal["at"][0], delta=2.0)
        self.assertGreater(moved[1], seal["at"][1] + 1)
        self.marked("hand-turn").click()
        self.marked("panel-0").click()
        self.marked("placed-0")

        # a barcode is made where it is needed; a wrong digit is said before
        self.css("[data-test='slip-barcode'] summary").click()
        self.marked("barcode-text").send_keys("2001234567890")
        self.marked("make-barcode").click()
        self.wait(lambda: "must be 3" in self.marked("barcode-problem").text, "the right digit is said")
        self.marked("barcode-text").send_keys(Keys.BACKSPACE)
        self.marked("make-barcode").click()
        self.marked("placed-1")
        self.saved()
        self.assertEqual(self.document()["form"]["prints"]["carton"][1]["width"], 37.29)

    def test_what_is_done_to_panels(self) -> None:
        """A gable box: cut, pressed and torn as drawn, its order of closing changed, its roof by hand."""
        self.start_job("Picnic box")
        self.marked("tab-start").click()
        self.marked("start-gable-box").click()
        self.marked("blank-draft")
        ActionChains(self.browser).click(self.marked("flat-front")).perform()
        self.made_of_something_else()
        self.wait(lambda: self.marked("chosen-panel").text == "front", "the front is chosen")
        self.marked("emboss").click()
        (self.folder / "leaf.svg").write_text(LEAF)
        self.button("Shape from a drawing …").click()
        self.marked("area-shape").send_keys(str(self.folder / "leaf.svg"))
        self.wait(lambda: "shaped as drawn" in self.css(".slip").text, "its shape")
        self.enter("Embossing 1 height", "0.6")
        ActionChains(self.browser).click(self.marked("flat-right")).perform()
        self.marked("perforate").click()
        self.saved()
        form = self.document()["form"]
        [pressed] = form["embossings"]
        self.assertEqual((pressed["panel"], pressed["height"], len(pressed["shape"])), ("front", 0.6, 4))
        self.assertEqual([one["panel"] for one in form["perforations"]], ["right"])
        written = self.downloaded("pdf").read_bytes()
        read = read_blank(written, "gable.pdf").blank
        self.assertEqual(({tear.panel for tear in read.tears}, len(read.panels)), ({"right"}, 23))

        # the sides go with the roof, and the roof goes when it is told to
        ActionChains(self.browser).click(self.marked("flat-gable-right")).perform()
        self.wait(lambda: "it goes with the roof front" in self.css(".slip").text, "what moves it")
        ActionChains(self.browser).click(self.marked("flat-roof-front")).perform()
        self.enter("Step of the roof front", "2")
        self.saved()
        self.assertEqual(self.document()["form"]["order"], {"roof front": 1})
        self.enter("Angle of the roof front", "-30")
        self.wait(lambda: "cannot follow a slope" in self.marked("form-problem").text, "it says so")

    def made_of_something_else(self) -> None:
        """A panel's outside by a material's picture, carried onto it in the round, and as the board again."""
        self.marked("own-face").click()
        self.marked("choose-outside-of-the-front").click()
        self.marked("find-material").send_keys("linen")
        linen = self.steady("material-linen")
        way = ActionChains(self.browser, duration=60).click_and_hold(linen).move_by_offset(12, 12)
        way.move_to_element(self.marked("round")).perform()
        self.wait(lambda: "Shift: all" in self.css(".in-hand").text, "what it is held over")
        held = self.css(".in-hand").text.split(" · ")[0].split("\n")[-1]
        ActionChains(self.browser).release().perform()
        self.saved()
        faces = self.document()["form"]["faces"]
        self.assertEqual((set(faces), faces[held]["grain"]["pattern"]), ({"front", held}, "woven"))
        self.marked("close-tray").click()
        self.marked("no-face").click()
        self.saved()
        self.assertNotIn("front", self.document()["form"]["faces"])

    def test_a_box_fitted_to_a_bottle(self) -> None:
        self.start_job("Quince cordial")
        self.marked("pack-switch").click()
        self.css("[data-test^='box-']").click()
        self.wait(lambda: 212.8 < self.size()[2] < 216, "a carton as high as the bottle and its clearance")
        self.assertIn("Carton of", self.css(".slip h2").text)
        Select(self.marked("carton-style")).select_by_value("lid-and-base")
        self.marked("blank-lid").click()
        self.marked("flat-front")
        self.css("[data-test='slip-insert'] summary").click()
        self.marked("put-insert").click()
        self.marked("blank-insert").click()
        Select(self.marked("hole-for")).select_by_index(1)
        self.marked("hole-0")
        self.wait(lambda: "comes within" in self.marked("form-problem").text, "no room for a hole that size")
        self.enter("Hole 1 wide", "60")
        self.enter("Hole 1 deep", "60")
        self.marked("flat-deck")
        self.saved()

        # on the set the bottle stands in its box
        self.enter("Hole 1 wide", "74")
        self.enter("Inside length", "120")
        self.enter("Inside width", "120")
        self.enter("Hole 1 deep", "74")
        self.saved()
        self.station("Set")
        self.css("[data-test^='tray-carton']").click()
        self.wait(lambda: len(self.browser.find_elements(By.CSS_SELECTOR, "[data-test^='standing-']")) == 2)
        bottle = next(
            one
            for one in self.browser.find_elements(By.CSS_SELECTOR, "[data-test^='standing-']")
            if "Carton" not in one.text
        )
        bottle.click()
        Select(self.marked("put-in")).select_by_index(1)
        self.wait(lambda: "Stands in the Carton of" in self.marked("stands-in").text, "it stands in the box")
        self.marked("take-out").click()
        self.wait(lambda: self.marked("put-in"), "it stands beside it")
