"""A label printed in layers: foil from a PDF's spot ink, clear film, a newer version, a template and back."""

from __future__ import annotations

import pikepdf
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from browser_tests.studio import BrowserTestCase
from giftwrap.core.tests.documents import MM, document, rectangle

FOIL = "Gold foil"


def label(colour: str) -> bytes:
    """A page of 60 × 40 mm with a ground in a CMYK colour and a square in a spot ink."""
    content = f"{colour} k {rectangle(0, 0, 60, 40)} f /Spot0 cs 1 scn {rectangle(20, 10, 20, 20)} f"
    return document(content, inks=(FOIL,))


class PrintingTests(BrowserTestCase):
    def setUp(self) -> None:
        self.sign_in()

    def panel(self) -> dict:
        return self.job()["packs"][0]["document"]["panels"][0]

    def choose(self, mark: str, words: str) -> None:
        Select(self.marked(mark)).select_by_visible_text(words)

    def send(self, mark: str, name: str, data: bytes) -> None:
        (self.folder / name).write_bytes(data)
        self.marked(mark).send_keys(str(self.folder / name))

    def test_a_label_in_layers(self) -> None:
        self.start_job("Printed cordial")
        self.station("Wrap")
        if self.browser.find_elements(By.CSS_SELECTOR, "[data-test='first-panel']"):
            self.marked("first-panel").click()
        self.marked("panel-0")
        self.foiled()
        self.on_film()
        self.newer()
        self.checked()
        self.template()

    def foiled(self) -> None:
        """A spot ink says where the foil is, and is not printed; what is broken is refused in words."""
        self.send("artwork-file", "broken.pdf", label("0 0 0 1")[:300])
        self.wait(lambda: "damaged or cut short" in self.marked("wrap-problem").text, "the refusal")
        self.send("artwork-file", "label.pdf", label("0 0.1 0.2 0"))
        self.marked("placed-0")
        self.choose("start-run", "Foil crest on cotton")
        self.choose("area-foil", f"its ink “{FOIL}”")
        self.wait(lambda: "No artwork says where" not in self.marked("layer-1").text, "the foil's place")
        self.marked("take-2").click()  # the embossing takes all of it, which is not printed then
        self.marked("printed").click()
        self.saved()
        panel = self.panel()
        self.assertEqual(panel["tooth"], "felt")
        self.assertEqual([layer["kind"] for layer in panel["run"]], ["ink", "foil", "emboss"])
        (placed,) = panel["placements"]
        self.assertEqual(placed["areas"], {"Foil": f"ink:{FOIL}", "Emboss": "shape"})
        self.assertTrue(placed["printed"])

    def chosen_by_picture(self) -> None:
        """A stock out of the library, which knows it again."""
        self.marked("choose-stock").click()
        self.marked("find-material").send_keys("laid")
        self.wait(lambda: self.marked("material-laid-paper").is_displayed(), "laid paper")
        self.steady("material-laid-paper").click()
        self.wait(lambda: "Laid paper" in self.marked("choose-stock").text, "what it is printed on")
        self.marked("close-tray").click()
        self.saved()
        stock = self.panel()["stock"]
        self.assertEqual((stock["kind"], stock["grain"]["pattern"]), ("opaque", "laid"))

    def on_film(self) -> None:
        """Another stock and another run keep what is placed."""
        self.choose("start-run", "No-label look")
        self.saved()
        panel = self.panel()
        self.assertEqual((panel["stock"]["kind"], panel["stock_thickness"]), ("clear", 0.06))
        self.assertEqual(panel["placements"][0]["areas"], {})
        self.choose("stock", "Paper")
        self.chosen_by_picture()
        self.marked("add-foil").click()
        self.marked("take-3").click()
        self.saved()
        self.assertEqual(self.panel()["placements"][0]["areas"], {"Foil": "shape"})
        self.marked("add-cut").click()
        self.choose("cut-4", "along its lines")
        self.enter("Slits of the Die-cut", "2.5")
        self.marked("take-4").click()
        self.saved()
        layer = self.panel()["run"][4]
        self.assertEqual((layer["kind"], layer["slit"], layer["tie"]), ("cut", 2.5, 0.8))
        self.assertEqual(self.panel()["placements"][0]["areas"], {"Foil": "shape", "Die-cut": "shape"})
        self.choose("start-run", "Kraft and white")
        self.saved()
        self.assertTrue(self.panel()["placements"][0]["printed"], "what says nothing else is printed again")

    def newer(self) -> None:
        """A newer file takes the place of the first; that one can be shown again, and undone."""
        first = self.panel()["placements"][0]["artwork"]
        self.send("newer-file", "label-2.pdf", label("0.6 0.1 0.2 0"))
        self.wait(lambda: "label-2.pdf" in Select(self.marked("version")).first_selected_option.text, "it")
        self.saved()
        versions = self.job()["palette"]["document"]["versions"][first]
        self.assertEqual((len(versions["files"]), versions["files"][1]), (2, versions["shown"]))
        self.assertEqual(self.panel()["placements"][0]["artwork"], first)
        self.marked("older").click()
        self.wait(
            lambda: "1: label.pdf" in Select(self.marked("version")).first_selected_option.text, "the first"
        )
        self.saved()
        self.assertEqual(self.job()["palette"]["document"]["versions"][first]["shown"], first)

    def checked(self) -> None:
        """A finding leads to the artwork it is about."""
        self.send("artwork-file", "second.pdf", label("0.1 0.8 0.2 0"))
        self.marked("placed-1")
        field = self.field("Artwork from left")
        field.clear()
        field.send_keys("-90", Keys.ENTER)
        self.saved()
        self.css("[data-test='placed-0'] .frame")
        self.browser.execute_script("arguments[0].dispatchEvent(new Event('focus'))", self.marked("placed-0"))
        self.wait(lambda: "chosen" in self.marked("placed-0").get_attribute("class"), "the first")
        self.marked("preflight").click()
        self.marked("finding-0")
        said = self.browser.find_elements(By.CSS_SELECTOR, "[data-test^='finding-']")
        beside = next(one for one in said if "beside the panel" in one.text)
        beside.find_element(By.TAG_NAME, "button").click()
        self.wait(lambda: "chosen" in self.marked("placed-1").get_attribute("class"), "what it is about")
        self.button("Take it off").click()
        self.saved()
        self.assertEqual(len(self.panel()["placements"]), 1)

    def template(self) -> None:
        """It goes out as large as the label; what is drawn on it comes back where it was drawn."""
        panel = self.panel()
        self.browser.execute_script("arguments[0].open = true", self.marked("slip-template"))
        self.marked("template-pdf").click()
        self.wait(lambda: list(self.folder.glob("*-template.pdf")), "the template")
        path = next(self.folder.glob("*-template.pdf"))
        with pikepdf.open(path) as pdf:
            left, foot, right, top = (float(v) / MM for v in pdf.pages[0].trimbox)
            self.assertAlmostEqual(right - left, panel["width"], places=2)
            self.assertAlmostEqual(top - foot, panel["height"], places=2)
            drawn = pdf.pages[0].Contents.read_bytes() + f"\n0 0 1 rg {rectangle(20, 20, 9, 9)} f".encode()
            pdf.pages[0].Contents = pikepdf.Stream(pdf, drawn)
            pdf.save(self.folder / "drawn.pdf")
        self.marked("artwork-file").send_keys(str(self.folder / "drawn.pdf"))
        self.marked("placed-1")
        self.saved()
        back = self.panel()["placements"][1]
        self.assertEqual((back["x"], back["y"]), (0, 0))
        self.assertAlmostEqual(back["width"], panel["width"], places=1)
        self.assertEqual(set(back["without"]), {"Cut", "Bleed", "Safe", "Middle"})
