"""Forming packs by hand: a pump bottle from nothing, a traced photo, drawings in and out, parts."""

from __future__ import annotations

import io
import math
import re
from pathlib import Path

from PIL import Image, ImageDraw
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.select import Select

from browser_tests.studio import BrowserTestCase

PX_PER_MM = 4.0
LEAN = math.radians(4)
OUTLINE = [(30, 0), (30, 110), (12, 140), (12, 170)]


def write_photo(folder: Path) -> str:
    """A dark bottle on white, 60 × 170 mm at 4 px to the mm, leaning by 4 degrees."""
    image = Image.new("RGB", (900, 1000), "white")
    right = [(450 + r * PX_PER_MM, 900 - z * PX_PER_MM) for r, z in OUTLINE]
    left = [(900 - x, y) for x, y in reversed(right)]
    ImageDraw.Draw(image).polygon([*right, *left], fill="#3a2a1c")
    path = folder / "bottle.jpg"
    image.rotate(math.degrees(LEAN), fillcolor="white", resample=Image.Resampling.BICUBIC).save(
        path, quality=90
    )
    return str(path)


def in_photo(x: float, y: float) -> tuple[float, float]:
    """Where a point of the upright picture is in the leaning photo, px."""
    dx, dy = x - 450, y - 500
    c, s = math.cos(LEAN), math.sin(LEAN)
    return 450 + c * dx + s * dy, 500 - s * dx + c * dy


class FormingTestCase(BrowserTestCase):
    def setUp(self) -> None:
        self.sign_in()

    def unfold(self, name: str) -> None:
        fold = self.marked(f"slip-{name}")
        if fold.get_attribute("open") is None:
            fold.find_element(By.CSS_SELECTOR, "summary").click()

    def choose(self, label: str, value: str) -> None:
        Select(self.css(f"select[aria-label='{label}']")).select_by_value(value)

    def corner(self, index: int, *, radius: float, height: float, rounding: float | None = None) -> None:
        """Choose a corner on the drawing and type where it goes."""
        ActionChains(self.browser).click(self.steady(f"corner-{index}")).perform()
        self.wait(lambda: f"Corner {index + 1} of" in self.css(".slip").text, f"corner {index + 1}")
        self.enter("Corner radius from the axis", str(radius))
        self.enter("Corner height", str(height))
        if rounding is not None:
            self.enter("Corner rounding", str(rounding))

    def found(self, mark: str) -> list[WebElement]:
        return self.browser.find_elements(By.CSS_SELECTOR, f"[data-test='{mark}']")

    def number(self, mark: str) -> float:
        return float(re.search(r"[\d.]+", self.marked(mark).text.replace("\u202f", ""))[0])

    def document(self) -> dict:
        """The pack as the studio keeps it."""
        slug = self.browser.current_url.split("/jobs/")[1].split("/")[0]
        script = "const d = arguments[1]; fetch(arguments[0]).then(r => r.json()).then(d)"
        return self.browser.execute_async_script(script, f"/api/jobs/{slug}")["packs"][0]["document"]


class PumpBottleTests(FormingTestCase):
    def test_a_250_ml_oval_pump_bottle_from_nothing(self) -> None:
        self.start_job("Rosehip hand wash")
        self.marked("tab-start").click()
        self.marked("start-cylinder").click()
        self.wait(lambda: 200 < self.number("brimful") < 350, "the cylinder")
        # pinch it: a corner pulled out of the wall's middle, then typed into place
        ActionChains(self.browser).drag_and_drop_by_offset(self.steady("leg-0"), -8, -30).perform()
        self.marked("corner-2")
        self.corner(2, radius=12.4, height=150)
        self.corner(1, radius=34, height=120, rounding=12)
        self.browser.execute_script("arguments[0].focus()", self.marked("corner-1"))
        ActionChains(self.browser).send_keys(Keys.INSERT).perform()
        self.marked("corner-3")
        self.corner(2, radius=11.4, height=140, rounding=5)
        self.corner(0, radius=34, height=0, rounding=5)
        self.corner(3, radius=11.4, height=146)
        self.unfold("wall")
        self.enter("Wall thickness", "1.2")
        self.enter("Base thickness", "2.5")
        self.enter("Push-up", "4")
        self.unfold("sections")
        self.choose("Cross-section", "oval")
        self.enter("Cross-section 1: Depth of its width", "62")
        self.enter("Height of cross-section 1", "118")
        self.button("Add a cross-section above").click()
        self.enter("Height of cross-section 2", "142")
        self.unfold("closure")
        self.choose("Finish", "24-410")
        self.picked_by_picture()
        self.choose("Closure: what kind", "pump")
        self.unfold("contents")
        self.choose("Contents: what kind", "liquid")
        self.enter("Nominal capacity", "250")
        self.wait(lambda: self.number("brimful") > 255, "room for 250 ml")
        self.enter("Contents", "250")
        self.saved()
        self.assertFalse(self.found("form-problem"))
        pack = self.document()
        self.assertEqual(pack["form"]["closure"]["kind"], "pump")
        self.assertEqual([m["section"]["kind"] for m in pack["form"]["body"]["sections"]], ["oval", "round"])
        self.assertEqual(
            (pack["form"]["body"]["push_up"], pack["form"]["body"]["finish"]["name"]), (4, "24-410")
        )
        self.assertEqual(self.field("Contents").get_attribute("value"), "250")
        brimful = self.number("brimful")
        self.browser.refresh()
        self.wait(lambda: self.number("brimful") == brimful, "the same bottle after a reload")
        self.unfold("closure")
        self.enter("Lifted", "30")
        self.unfold("parts")
        for part in ("collar", "actuator", "dip tube"):
            self.marked(f"part-{part}")
        self.saved()

    def picked_by_picture(self) -> None:
        """Found by words and by colour, chosen, nudged, and told by its name until then."""
        chooser = self.marked("choose-body")
        self.browser.execute_script("arguments[0].closest('details').open = true", chooser)
        chooser.click()
        self.marked("find-material").send_keys("amb pet")
        self.wait(lambda: len(self.materials()) == 1, "one that is called that")
        self.marked("material-amber-pet").click()
        self.wait(lambda: "Amber PET" in self.marked("choose-body").text, "its name")
        self.saved()
        body = self.job()["packs"][0]["document"]["form"]["body"]
        self.assertEqual((body["material"]["kind"], body["material"]["refractive_index"]), ("clear", 1.575))
        self.marked("find-material").send_keys(Keys.CONTROL, "a")
        self.marked("find-material").send_keys("nothing like it")
        self.marked("nothing-found")
        self.marked("close-tray").click()
        self.marked("choose-body").click()
        self.wait(lambda: self.materials()[0] == "material-amber-pet", "what was chosen lately, first")
        self.marked("near").click()
        self.wait(lambda: self.materials()[:1] == ["material-amber-pet"], "the nearest to its own colour")
        self.marked("close-tray").click()
        self.enter("Body frost", "10")
        self.wait(lambda: "its own mix" in self.marked("choose-body").text, "another than that")

    def materials(self) -> list[str]:
        shown = self.browser.find_elements(
            By.CSS_SELECTOR, "[data-test='material-tray'] [data-test^='material-']"
        )
        return [str(one.get_attribute("data-test")) for one in shown]

    def test_nothing_a_hand_does_loses_the_last_good_pack(self) -> None:
        self.start_job("Crossed cordial")
        before = self.number("brimful")
        for radius, height, words in (
            ("36", "4000", "Check the unit"),
            ("0.1", "141", "axis"),
            ("36", "0", "same place"),
        ):
            ActionChains(self.browser).click(self.marked("corner-1")).perform()
            self.enter("Corner radius from the axis", radius)
            self.enter("Corner height", height)
            self.wait(lambda w=words: w in self.marked("form-problem").text, words)
            self.assertEqual(self.number("brimful"), before)
            self.wait(lambda: self.css("button[aria-label=Undo]").is_enabled(), "something to undo")
            self.css("button[aria-label=Undo]").click()
            self.wait(
                lambda: not self.browser.find_elements(By.CSS_SELECTOR, "[data-test='form-problem']"),
                "all well",
            )


class TracingTests(FormingTestCase):
    def test_a_leaning_photo_is_traced_to_scale(self) -> None:
        self.start_job("Traced cordial")
        self.marked("photo-file").send_keys(write_photo(self.folder))
        photo = self.marked("trace-photo")
        for point in ((450, 220), (450, 900), (330, 700), (570, 700)):
            self.click_photo(photo, *in_photo(*point))
        self.enter("Known length", "60")
        self.marked("lay-photo").click()
        self.marked("traced-photo")
        self.saved()
        tracing = self.document()["form"]["tracing"]
        self.assertAlmostEqual(tracing["angle"], math.degrees(LEAN), delta=0.6)
        self.assertAlmostEqual(tracing["mm_per_px"], 1 / PX_PER_MM, delta=0.004)
        # the shoulder of the photo lies where its millimetres say: draw the profile over it
        self.corner(0, radius=30, height=0, rounding=0)
        self.corner(1, radius=30, height=110, rounding=0)
        self.corner(2, radius=12, height=140, rounding=0)
        self.corner(3, radius=12, height=170)
        self.saved()
        for index, (radius, height) in enumerate(OUTLINE):
            x, y = self.seen_on_photo(index)
            self.assertAlmostEqual((x - tracing["axis_px"]) * tracing["mm_per_px"], radius, delta=0.6)
            self.assertAlmostEqual((tracing["base_px"] - y) * tracing["mm_per_px"], height, delta=1.2)
        dark = self.pixel_beside(1, -4), self.pixel_beside(1, 4)
        self.assertLess(
            dark[0], dark[1] - 60, "inside the corner is the dark bottle, outside the white table"
        )

    def click_photo(self, photo: WebElement, x: float, y: float) -> None:
        """Click a point of the photo given in its own px."""
        script = (
            "const p = new DOMPoint(arguments[1], arguments[2]).matrixTransform(arguments[0].getScreenCTM());"
            "return [p.x, p.y]"
        )
        at = self.browser.execute_script(script, photo, x, y)
        ActionChains(self.browser).move_by_offset(0, 0).perform()
        actions = ActionChains(self.browser)
        actions.w3c_actions.pointer_action.move_to_location(round(at[0]), round(at[1]))
        actions.w3c_actions.pointer_action.click()
        actions.perform()

    def seen_on_photo(self, index: int) -> tuple[float, float]:
        """Where a corner of the drawing lies on the upright photo, px."""
        script = """
            const image = document.querySelector("[data-test='traced-photo']")
            const corner = document.querySelector(`[data-test='corner-${arguments[0]}'] rect`)
            const box = corner.getBoundingClientRect()
            const t = image.transform.baseVal
            const upright = t.getItem(0).matrix.multiply(t.getItem(1).matrix)
            const svg = image.ownerSVGElement.getScreenCTM().multiply(upright)
            const middle = new DOMPoint(box.x + box.width / 2, box.y + box.height / 2)
            const p = middle.matrixTransform(svg.inverse())
            return [p.x, p.y]
        """
        x, y = self.browser.execute_script(script, index)
        return x, y

    def pixel_beside(self, index: int, across: int) -> float:
        """Brightness of the screen at a place beside and below a corner, with the drawing hidden."""
        self.browser.execute_script(
            "document.querySelectorAll('.draft path').forEach(p => (p.style.visibility = 'hidden'))"
        )
        box = self.browser.execute_script(
            "const b = document.querySelector(arguments[0]).getBoundingClientRect();"
            "return [b.x + b.width / 2, b.y + b.height / 2]",
            f"[data-test='corner-{index}'] rect",
        )
        picture = Image.open(io.BytesIO(self.browser.get_screenshot_as_png())).convert("L")
        return float(picture.getpixel((round(box[0]) + 3 * across, round(box[1]) + 30)))


class DrawingTests(FormingTestCase):
    def test_profiles_go_out_and_come_back(self) -> None:
        self.start_job("Drawn cordial")
        before = self.document()["form"]["body"]["profile"]
        for kind in ("svg", "dxf"):
            self.css("[data-test=files] summary").click()
            self.marked(f"save-{kind}").click()
            self.wait(lambda k=kind: list(self.folder.glob(f"*half-profile.{k}")), kind)
            path = next(self.folder.glob(f"*half-profile.{kind}"))
            self.enter("Corner radius from the axis", "33")
            self.saved()
            self.marked("drawing-file").send_keys(str(path))
            self.wait(
                lambda: self.document()["form"]["body"]["profile"][1]["radius"] == 36, f"the {kind} profile"
            )
            found = self.document()["form"]["body"]["profile"]
            self.assertEqual(len(found), len(before))
            for a, b in zip(found[:-1], before[:-1], strict=True):  # where the drawing ends is no corner
                self.assertAlmostEqual(a["rounding"], b["rounding"], places=2)

    def test_broken_drawings_and_photos_say_what_is_wrong(self) -> None:
        self.start_job("Torn cordial")
        (self.folder / "cut.svg").write_text("<svg><path d='M0 0")
        (self.folder / "fake.jpg").write_bytes(b"no picture at all")
        self.marked("drawing-file").send_keys(str(self.folder / "cut.svg"))
        self.wait(lambda: "cut.svg is broken" in self.marked("file-problem").text, "what is wrong with it")
        self.marked("photo-file").send_keys(str(self.folder / "fake.jpg"))
        self.wait(lambda: "fake.jpg" in self.marked("file-problem").text, "what is wrong with the photo")
        self.assertGreater(self.number("brimful"), 500)


class PartTests(FormingTestCase):
    def test_hide_lock_group_duplicate_explode(self) -> None:
        self.start_job("Parted cordial")
        self.marked("tab-start").click()
        self.marked("start-dropper-50").click()
        self.unfold("parts")
        self.part("pipette", "hide").click()
        self.wait(lambda: self.part("pipette", "show"), "it hidden")
        self.saved()
        self.assertTrue(self.document()["parts"]["pipette"]["hidden"])
        self.part("body", "lock").click()
        self.wait(lambda: not self.field("Wall thickness").is_enabled(), "a locked body")
        self.part("body", "unlock").click()
        for name in ("collar", "bulb"):
            self.marked(f"part-{name}").find_element(By.CSS_SELECTOR, "input[type=checkbox]").click()
        self.button("Group 2 parts").click()
        self.part("bulb", "hide").click()
        self.wait(lambda: self.part("collar", "show"), "its group hidden with it")
        self.part("collar", "show").click()
        self.part("collar", "duplicate").click()
        self.enter("Drawn apart", "15")
        self.saved()
        pack = self.document()
        self.assertEqual((pack["exploded"], pack["copies"][0]["of"]), (15, "collar"))
        self.css("button[aria-label=Undo]").click()
        self.wait(lambda: self.document()["exploded"] == 0, "the step undone")

    def test_a_locked_label_stays_as_it_is_at_wrap(self) -> None:
        self.start_job("Locked cordial")
        self.unfold("parts")
        self.part("label-1", "lock").click()
        self.saved()
        self.station("Wrap")
        self.marked("label-locked")
        self.assertFalse(self.field("Label width").is_enabled())
        self.button("Unlock it").click()
        self.wait(lambda: self.field("Label width").is_enabled(), "the label unlocked")
        self.enter("Label width", "80")
        self.saved()
        self.assertEqual(self.document()["panels"][0]["width"], 80)

    def part(self, name: str, words: str) -> WebElement:
        row = f"//li[@data-test='part-{name}']//button[normalize-space(.)='{words}']"
        self.wait(lambda: self.browser.find_elements(By.XPATH, row), f"{words} {name}")
        return self.browser.find_element(By.XPATH, row)
