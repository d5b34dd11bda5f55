"""From an empty job through all five stations to a picture the client opens."""

from __future__ import annotations

import io

import numpy as np
import segno
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from browser_tests.studio import BrowserTestCase
from giftwrap.core.formats.pictures import read_linear


def write_label(folder: object) -> str:
    """A label file with a QR code on it, as a designer would export it."""
    stream = io.BytesIO()
    segno.make("https://velloway.example/pear").save(stream, kind="svg", xmldecl=False, svgns=False, border=2)
    code = stream.getvalue().decode().replace("<svg ", '<svg x="35" y="30" ')
    path = folder / "pear-label.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="110mm" height="90mm" viewBox="0 0 110 90">'
        '<rect width="110" height="90" fill="#f4ead2"/><rect width="110" height="6" fill="#4d6b3c"/>'
        '<text x="55" y="22" font-family="Fraunces" font-size="12" text-anchor="middle">Pear</text>'
        f"{code}</svg>"
    )
    return str(path)


class FirstPictureTests(BrowserTestCase):
    def test_from_empty_job_to_client_link(self) -> None:
        self.sign_in()
        address = self.start_job("Pear cordial")
        self.form_a_bottle()
        self.wrap_a_label()
        self.set_the_scene()
        self.shoot_a_picture()
        link = self.show_the_client()
        self.client_looks(link, address)

    def form_a_bottle(self) -> None:
        before = self.marked("brimful").text
        corner = self.steady("corner-1")
        ActionChains(self.browser).drag_and_drop_by_offset(corner, 14, 0).perform()
        self.wait(lambda: self.marked("brimful").text != before, "a new capacity")
        wider = self.marked("brimful").text
        self.saved()
        self.css("button[aria-label=Undo]").click()
        self.wait(lambda: self.marked("brimful").text == before, "the old capacity")
        self.css("button[aria-label=Redo]").click()
        self.wait(lambda: self.marked("brimful").text == wider, "the new capacity again")
        self.css("button[aria-label=Undo]").click()
        self.wait(lambda: self.marked("brimful").text == before, "the old capacity again")
        self.enter("Contents", "450/1")
        self.wait(lambda: self.text_of("Contents450 ml") or self.text_of("Contents 450 ml"), "450 ml")
        self.saved()

    def wrap_a_label(self) -> None:
        self.station("Wrap")
        chooser = self.marked("artwork-file")
        chooser.send_keys(write_label(self.folder))
        placed = self.marked("placed-0")
        self.assertIn("100 mm wide", placed.get_attribute("aria-label"))
        frame = placed.find_element(By.CSS_SELECTOR, "rect")
        ActionChains(self.browser).drag_and_drop_by_offset(frame, 30, 0).perform()
        self.wait(
            lambda: "at 0, 0" not in self.marked("placed-0").get_attribute("aria-label"), "a moved label"
        )
        self.enter("Artwork from left", "0")
        self.wait(
            lambda: "at 0, 0 mm" in self.marked("placed-0").get_attribute("aria-label"), "it back at 0, 0"
        )
        self.saved()

    def set_the_scene(self) -> None:
        self.station("Set")
        first = self.marked("proof").get_attribute("src")
        self.enter("Lens", "100")
        self.wait(lambda: self.marked("proof").get_attribute("src") != first, "a new proof")
        strength = self.field("Key strength").get_attribute("value")
        self.enter("Key strength", "11")
        self.saved()
        self.css("button[aria-label=Undo]").click()
        self.wait(
            lambda: self.field("Key strength").get_attribute("value") == strength, "the key light as it was"
        )
        self.css("button[aria-label=Undo]").click()
        self.wait(lambda: self.field("Lens").get_attribute("value") == "85", "the lens as it was")
        self.saved()

    def shoot_a_picture(self) -> None:
        self.station("Shoot")
        self.enter("Picture width", "200")
        self.enter("Picture height", "250")
        self.enter("Samples", "16")
        self.wait(lambda: "about" in self.marked("shoot").text, "an estimate")
        self.marked("shoot").click()
        self.marked("finished")
        self.marked("download").click()
        self.wait(lambda: list(self.folder.glob("*.png")), "the download")
        path = next(self.folder.glob("*.png"))
        self.assertRegex(path.name, r"^pear-cordial-hero-\d+\.png$")
        self.assertEqual(path.read_bytes()[24], 16, "bits a channel")
        picture = read_linear(path)
        self.assertEqual(picture.shape, (250, 200, 3))
        self.assertGreater(float(picture.std()), 0.05)
        self.assertGreater(float(np.median(picture)), 0.2)

    def show_the_client(self) -> str:
        self.station("Show")
        self.marked("make-link").click()
        return self.marked("client-link").get_attribute("value")

    def client_looks(self, link: str, job_address: str) -> None:
        """In another browser that has never signed in."""
        designer, self.browser = self.browser, self.new_browser()
        try:
            self.browser.get(link)
            shown = self.css("[data-test=client-picture] img")
            self.wait(lambda: shown.get_property("naturalWidth") == 200, "the picture")
            self.assertIn("Pear cordial", self.css("h1").text)
            source = self.css("a.download").get_attribute("href")
            self.assertIn("/api/client/", source)
            self.open(job_address + "/show")
            self.assertIn("/sign-in/", self.browser.current_url)
            self.browser.get(link[:-4] + "xxxx")
            self.wait(lambda: self.text_of("does not work any more"), "a plain refusal")
        finally:
            self.browser = designer


class PictureFileTests(BrowserTestCase):
    def test_the_demo_picture_is_on_the_first_page(self) -> None:
        self.sign_in()
        self.open("/")
        picture = self.css("a.job[href='/jobs/velloway/form'] img")
        self.wait(lambda: picture.get_property("naturalWidth") > 300, "the demo's picture")
        response = self.browser.execute_async_script(
            "const done = arguments[0]; fetch(document.querySelector('a.job img').src)"
            ".then(r => r.blob()).then(b => done(b.type))"
        )
        self.assertEqual(response, "image/jpeg")
