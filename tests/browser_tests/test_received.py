"""A model somebody sent: read, cleaned up, labelled, replaced by a newer one, and rendered."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import trimesh
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from browser_tests.studio import BrowserTestCase
from giftwrap.core.formats.pictures import read_linear
from giftwrap.core.tests.models import bottle_glb

ARTWORK = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="20mm" viewBox="0 0 40 20">'
    '<rect width="40" height="20" fill="#2a7d4f"/></svg>'
)


class ReceivedTests(BrowserTestCase):
    def setUp(self) -> None:
        self.sign_in()

    def document(self) -> dict:
        """The first pack as the studio keeps it."""
        return self.job()["packs"][0]["document"]

    def send(self, name: str, data: bytes) -> None:
        path = self.folder / name
        path.write_bytes(data)
        self.marked("model-file").send_keys(str(path))

    def size(self, mark: str) -> list[float]:
        return [float(n) for n in self.marked(mark).text.removesuffix(" mm").split(" × ")]

    def there(self, mark: str) -> bool:
        return bool(self.browser.find_elements(By.CSS_SELECTOR, f"[data-test='{mark}']"))

    def downloaded(self, pattern: str) -> Path:
        self.wait(lambda: list(self.folder.glob(pattern)), pattern)
        return next(self.folder.glob(pattern))

    def test_a_bottle_somebody_sent(self) -> None:
        self.start_job("Sent cordial")
        self.read_and_taken()
        self.cleaned_up()
        self.labelled()
        self.replaced()
        self.rendered()

    def read_and_taken(self) -> None:
        """What cannot be read is said; a model shows its size before it is taken, in the unit one says."""
        self.send("broken.glb", bottle_glb()[:9000])
        self.wait(lambda: "cut short" in self.marked("model-problem").text, "the refusal")
        self.marked("leave-model").click()
        self.send("bottle.glb", bottle_glb())
        self.wait(lambda: self.size("model-size")[2] == 195, "its size")
        self.assertIn("lay exactly on another", self.marked("model-notes").text)
        Select(self.marked("model-unit")).select_by_visible_text("a foot")
        self.wait(lambda: self.size("model-size")[2] < 60, "as if it were in feet")
        Select(self.marked("model-unit")).select_by_visible_text("a metre")
        self.wait(lambda: self.size("model-size")[2] == 195, "its size again")
        self.marked("model-replace").click()
        self.wait(lambda: self.size("received-size")[2] == 195, "the pack is the model")
        self.saved()
        form = self.document()["form"]
        self.assertEqual([p["role"] for p in form["parts"]], ["container", "contents", "closure", "label"])
        self.assertEqual(
            set(self.job()["palette"]["document"]["entries"]), {"green glass", "juice", "brass", "paper"}
        )

    def cleaned_up(self) -> None:
        self.marked("received-Cap").click()
        name = self.marked("part-name")
        name.clear()
        name.send_keys("Brass cap\t")
        self.marked("received-Brass-cap")
        self.marked("received-Front-label").click()
        Select(self.marked("part-role")).select_by_value("left out")
        self.enter("Fill height", "80")
        self.wait(
            lambda: 211.5 < float(self.marked("received-ml").text.removesuffix(" ml")) < 212.2, "its ml"
        )
        self.saved()
        parts = {p["name"]: p["role"] for p in self.document()["form"]["parts"]}
        self.assertEqual(parts["Front label"], "left out")
        self.assertIn("Brass cap", parts)
        # what holds nothing is said, and the last good model stays
        self.enter("Fill height", "2")
        self.wait(lambda: "holds nothing" in self.marked("form-problem").text, "it says so")
        self.css("button[aria-label=Undo]").click()
        self.wait(lambda: not self.there("form-problem"), "well")

    def labelled(self) -> None:
        self.station("Wrap")
        self.marked("first-panel").click()
        self.marked("picking")
        ActionChains(self.browser).move_to_element_with_offset(self.steady("round"), 0, 60).click().perform()
        self.marked("label-stretch")
        self.enter("Label width", "44")
        self.enter("Label height", "26")
        (self.folder / "band.svg").write_text(ARTWORK)
        self.marked("artwork-file").send_keys(str(self.folder / "band.svg"))
        self.marked("placed-0")
        self.saved()
        label = self.document()["panels"][0]
        self.assertEqual((label["kind"], label["part"], label["width"]), ("picked", "Bottle", 44))
        self.assertLess(label["at"][1], -30)
        self.assertEqual(len(label["placements"]), 1)
        self.looped()
        self.enter("Label width", "400")
        self.wait(lambda: "% of “Label” lies on “Bottle”" in self.marked("wrap-problem").text, "it says so")
        self.css("button[aria-label=Undo]").click()
        self.wait(lambda: not self.there("wrap-problem"), "well")
        self.saved()

    def cut(self) -> str:
        """What the label is cut to."""
        return self.marked("label-cut").get_attribute("value") or ""

    def looped(self) -> None:
        """A loop drawn around a place on the pack: the label is cut to it; undo makes it whole again."""
        self.marked("lasso-label").click()
        self.marked("picking")
        hand = ActionChains(self.browser).move_to_element_with_offset(self.steady("round"), -30, 60)
        hand.click_and_hold()
        for x, y in ((10, -25), (25, -5), (20, 0), (12, 22), (-15, 16), (-22, 6)):
            hand.move_by_offset(x, y).pause(0.1)
        hand.release().perform()
        self.wait(lambda: self.cut() == "own", "the loop is taken")
        self.saved()
        label = self.document()["panels"][0]
        self.assertGreater(len(label["outline"]), 5)
        across = [x for x, _ in label["outline"]]
        self.assertAlmostEqual(max(across) - min(across), label["width"], delta=0.05)
        Select(self.marked("label-cut")).select_by_value("corners")
        self.saved()
        self.assertIsNone(self.document()["panels"][0].get("outline"))
        for cut in (True, False):
            self.css("button[aria-label=Undo]").click()
            self.wait(lambda cut=cut: (self.cut() == "own") == cut, "undone")
        self.saved()
        self.assertEqual(self.document()["panels"][0]["width"], 44)

    def replaced(self) -> None:
        """A newer file keeps names and labels; undo brings the older one back."""
        self.station("Form")
        self.marked("received-size")
        self.send("bottle two.glb", bottle_glb())
        self.marked("model-size")
        self.marked("model-replace").click()
        self.wait(lambda: not self.there("model-replace"), "the newer file taken")
        self.marked("received-Brass-cap")
        self.saved()
        self.wait(lambda: self.document()["form"]["file"] == "bottle two.glb", "the newer file saved")
        document = self.document()
        self.assertEqual((len(document["panels"]), document["form"]["fill_height"]), (1, 80))
        self.css("[data-test=files] summary").click()
        self.marked("save-3mf").click()
        solids = trimesh.load_scene(io.BytesIO(self.downloaded("*.3mf").read_bytes()), file_type="3mf")
        self.assertEqual(set(solids.geometry), {"Bottle", "Brass cap"})

    def rendered(self) -> None:
        self.station("Shoot")
        self.enter("Picture width", "160")
        self.enter("Picture height", "200")
        self.enter("Samples", "16")
        self.wait(lambda: "about" in self.marked("shoot").text, "an estimate")
        self.marked("shoot").click()
        self.marked("finished")
        self.marked("download").click()
        picture = read_linear(self.downloaded("*.png"))
        self.assertEqual(picture.shape, (200, 160, 3))
        self.assertGreater(float(picture.std()), 0.03)
        # the label's green is in it, in front of the juice
        green = (picture[..., 1] > 1.25 * picture[..., 0]) & (picture[..., 1] > 1.25 * picture[..., 2])
        self.assertGreater(int(green.sum()), 150)
        self.assertTrue(np.isfinite(picture).all())
