"""Processes die and work goes on; two windows, bad input and reloads lose nothing."""

from __future__ import annotations

import re

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from browser_tests.studio import BrowserTestCase, members

REACHING = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9">'
    b'<image href="http://x.example/a.png"/></svg>'
)


class SurvivalTests(BrowserTestCase):
    """A final keeps going while the processes under it are killed one after the other."""

    def test_killing_processes_in_the_middle_of_a_final(self) -> None:
        self.sign_in()
        self.start_job("Stubborn cordial")
        self.station("Shoot")
        self.enter("Picture width", "240")
        self.enter("Picture height", "300")
        self.enter("Noise", "0")
        self.enter("Samples", "600")
        self.saved()
        self.marked("shoot").click()
        self.wait_for_samples(beyond=0)
        for process in members(self.studio, "finals"):
            process.kill()
        self.wait_for_samples(beyond=self.samples_done() + 16)
        self.assertEqual(self.status_of("/api/session"), 200)
        for process in members(self.studio, "dispatcher"):
            process.kill()
        self.wait_for_samples(beyond=self.samples_done() + 16)
        for process in members(self.studio, "scheduler"):
            process.kill()
        self.marked("finished")
        samples = re.search(r"([\d.]+) samples, taken in", self.css(".slip").text)
        self.assertGreater(float(samples[1]), 520, "600 at most; the last few per cent are not worth a pass")

    def wait_for_samples(self, beyond: float) -> None:
        self.wait(lambda: self.samples_done() > beyond, f"more than {beyond} samples")

    def samples_done(self) -> float:
        found = self.browser.find_elements(By.CSS_SELECTOR, "[data-test='samples-done']")
        return float(found[0].text) if found else 0.0

    def status_of(self, address: str) -> int:
        script = f"const done = arguments[0]; fetch('{address}').then(r => done(r.status), () => done(0))"
        return self.browser.execute_async_script(script)


class StoppingTests(BrowserTestCase):
    def test_stop_early_keeps_the_picture_and_cancel_drops_it(self) -> None:
        self.sign_in()
        self.start_job("Hasty cordial")
        self.station("Shoot")
        self.enter("Picture width", "200")
        self.enter("Picture height", "250")
        self.enter("Noise", "0")
        self.enter("Samples", "5000")
        self.saved()
        self.marked("shoot").click()
        self.marked("growing")
        self.button("Stop now and keep it").click()
        self.marked("finished")
        self.marked("shoot").click()
        self.marked("progress")
        self.button("Cancel it").click()
        self.wait(
            lambda: not self.browser.find_elements(By.CSS_SELECTOR, "[data-test='progress']"), "the end"
        )
        self.station("Show")
        self.wait(lambda: self.text_of("Pictures1") or self.text_of("Pictures 1"), "one picture")


class EditingTests(BrowserTestCase):
    def setUp(self) -> None:
        self.sign_in()

    def test_bad_profiles_are_refused_and_the_last_good_pack_stays(self) -> None:
        address = self.start_job("Crooked cordial")
        before = self.marked("brimful").text
        self.enter("Wall thickness", "20")
        problem = self.marked("form-problem")
        self.wait(lambda: "base" in problem.text or "opening" in problem.text, "the reason")
        self.assertEqual(self.marked("brimful").text, before)
        self.wait(lambda: "Not saved" in self.marked("save-state").text, "that it is not saved")
        self.css("button[aria-label=Undo]").click()
        self.wait(lambda: self.field("Wall thickness").get_attribute("value") == "2.6", "the good wall")
        self.enter("Contents", "9000")
        self.wait(lambda: self.text_of("more than the pack holds to the brim"), "the reason")
        ActionChains(self.browser).drag_and_drop_by_offset(self.steady("corner-1"), -60, 200).perform()
        self.marked("form-problem")
        self.open(f"{address}/form")
        self.wait(lambda: self.marked("brimful").text == before, "the pack as it was saved")

    def test_bad_files_are_refused_by_name(self) -> None:
        self.start_job("Blotted cordial")
        self.station("Wrap")
        files = {
            "broken.png": (b"\x89PNG\r\n\x1a\n" + b"\x00" * 40, "damaged"),
            "really.png": (b"%PDF-1.7 not a picture", "PDF"),
            "reaching.svg": (REACHING, "embed"),
        }
        for name, (data, words) in files.items():
            (self.folder / name).write_bytes(data)
            self.marked("artwork-file").send_keys(str(self.folder / name))
            self.wait(lambda n=name, w=words: n in self.problem() and w in self.problem(), name)
        self.enter("Label height", "400")
        self.wait(lambda: "only" in self.problem() and "wall" in self.problem(), "a label too tall")

    def problem(self) -> str:
        found = self.browser.find_elements(By.CSS_SELECTOR, "[data-test='wrap-problem']")
        return found[0].text if found else ""

    def test_two_windows_keep_both_sides(self) -> None:
        address = self.start_job("Shared cordial")
        mine, self.browser = self.browser, self.new_browser()
        self.sign_in()
        self.open(f"{address}/form")
        self.marked("brimful")
        theirs, self.browser = self.browser, mine
        self.enter("Base thickness", "8")
        self.saved()
        self.browser = theirs
        self.wait(lambda: self.field("Base thickness").get_attribute("value") == "8", "the other's change")
        self.browser.execute_cdp_cmd("Network.enable", {})
        self.lose_touch(True)
        self.enter("Base thickness", "9")
        self.wait(lambda: "does not answer" in self.marked("save-state").text, "that nothing is saved")
        self.browser = mine
        self.enter("Base thickness", "10")
        self.saved()
        self.browser = theirs
        self.lose_touch(False)
        self.button("Go on with mine").click()
        self.saved()
        self.assertEqual(self.field("Base thickness").get_attribute("value"), "9")
        self.browser = mine
        self.wait(lambda: self.field("Base thickness").get_attribute("value") == "9", "the settled value")

    def lose_touch(self, lost: bool) -> None:
        self.browser.execute_cdp_cmd(
            "Network.emulateNetworkConditions",
            {"offline": lost, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1},
        )

    def test_undo_outlives_a_reload_and_back_goes_back(self) -> None:
        address = self.start_job("Patient cordial")
        self.enter("Base thickness", "8")
        self.saved()
        self.station("Wrap")
        self.css("[data-test='panel-draft']")
        self.browser.back()
        self.marked("corner-0")
        self.open(f"{address}/form")
        self.wait(lambda: self.field("Base thickness").get_attribute("value") == "8", "the saved base")
        self.css("button[aria-label=Undo]").click()
        self.wait(lambda: self.field("Base thickness").get_attribute("value") == "5", "the base before")
