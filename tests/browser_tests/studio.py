"""The real application on free ports with a home of its own, and real browsers that look at it."""

from __future__ import annotations

import atexit
import shutil
import subprocess
import tempfile
import time
from functools import cache
from pathlib import Path

import psutil
from django.test import SimpleTestCase
from selenium import webdriver
from selenium.common.exceptions import (
    ElementClickInterceptedException,
    ElementNotInteractableException,
    StaleElementReferenceException,
    TimeoutException,
)
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from giftwrap.launch.browser import open_browser
from giftwrap.launch.family import Family, environment, free_port
from giftwrap.launch.provide import PYTHON, ROOT

NAME, PASSWORD = "ada", "pips-and-peel"
PATIENCE_S = 90
"""A wait ends when the page has not changed for this long: busy machines take longer and get there."""
AT_MOST_S = 1200
SHOWN = (
    "return location.href + document.body?.innerText + [...document.images].map((i) => i.src).join() "
    "+ [...document.querySelectorAll('input')].map((i) => i.value).join()"
)
"""Everything on a page that changes while something goes on."""
FAILED = ROOT / "var" / "test" / "failed"
"""Pictures of what the browser showed when a wait ran out."""


@cache
def running_studio() -> Family:
    """One application for all browser tests, with the demo job and one user who has to sign in."""
    home = Path(tempfile.mkdtemp(prefix="giftwrap-browser-"))
    atexit.register(shutil.rmtree, home, ignore_errors=True)
    values = environment(home)
    add_user = (
        "from django.contrib.auth import get_user_model as m;"
        f"m().objects.create_user('{NAME}', password='{PASSWORD}')"
    )
    for arguments in (["load_demo"], ["shell", "--no-imports", "-c", add_user]):
        subprocess.run([str(PYTHON), "-m", "django", *arguments], cwd=ROOT, env=values, check=True)
    family = Family(home, free_port(), demo=False)
    family.start()
    atexit.register(family.stop)
    return family


def members(family: Family, name: str) -> list[psutil.Process]:
    """The processes of a member of the family: web, scheduler, finals, proofs or dispatcher."""
    assert family.pid is not None
    return [p for p in psutil.Process(family.pid).children() if f"giftwrap.launch.member {name} " in _line(p)]


def _line(process: psutil.Process) -> str:
    """How a process was started; nothing when it has just ended."""
    try:
        return " ".join(process.cmdline())
    except (psutil.ZombieProcess, psutil.NoSuchProcess):
        return ""


class BrowserTestCase(SimpleTestCase):
    """A browser 1280 × 800 px in front of the running studio."""

    studio: Family
    folder: Path

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.studio = running_studio()
        cls.folder = Path(tempfile.mkdtemp(prefix="giftwrap-files-"))
        cls.addClassCleanup(shutil.rmtree, cls.folder, ignore_errors=True)
        cls.browser = cls.new_browser()

    @classmethod
    def new_browser(cls) -> webdriver.Chrome:
        """A browser nobody has used, closed when the class is done."""
        profile = tempfile.mkdtemp(prefix="giftwrap-profile-")
        cls.addClassCleanup(shutil.rmtree, profile, ignore_errors=True)
        browser = open_browser(Path(profile), cls.folder)
        cls.addClassCleanup(browser.quit)
        return browser

    def open(self, path: str) -> None:
        self.browser.get(self.studio.address + path)

    def sign_in(self) -> None:
        self.open("/sign-in/")
        if self.browser.find_elements(By.NAME, "username"):
            self.browser.find_element(By.NAME, "username").send_keys(NAME)
            self.browser.find_element(By.NAME, "password").send_keys(PASSWORD, Keys.ENTER)
            self.wait(lambda: "/sign-in/" not in self.browser.current_url)

    def start_job(self, name: str) -> str:
        """Start a job by hand; returns its address."""
        self.open("/")
        self.css("input[name=name]").send_keys(name)
        self.css("input[name=client]").send_keys("Velloway Orchard House")
        self.button("Start the job").click()
        self.wait(lambda: "/form" in self.browser.current_url)
        self.button("Leave it").click()
        self.marked("brimful")
        self.steady("corner-0")
        return self.browser.current_url.split("/form")[0].removeprefix(self.studio.address)

    def job(self) -> dict:
        """The job that is open, as the studio has it."""
        slug = self.browser.current_url.split("/jobs/")[1].split("/")[0]
        script = "const d = arguments[1]; fetch(arguments[0]).then(r => r.json()).then(d)"
        return self.browser.execute_async_script(script, f"/api/jobs/{slug}")

    def station(self, name: str) -> None:
        self.browser.find_element(By.PARTIAL_LINK_TEXT, name).click()

    def css(self, selector: str) -> WebElement:
        """The first element a selector finds, waiting for it to show."""
        return self._found(By.CSS_SELECTOR, selector, selector)

    def _found(self, by: str, sought: str, what: str) -> WebElement:
        found: list[WebElement] = []

        def shows() -> bool:
            found[:] = self.browser.find_elements(by, sought)
            return bool(found)

        self.wait(shows, what)
        return found[0]

    def marked(self, name: str) -> WebElement:
        return self.css(f"[data-test='{name}']")

    def field(self, label: str) -> WebElement:
        """A field with a unit, unfolded when it is folded away."""
        found = self.css(f"input[aria-label^='{label} (']")
        script = (
            "for (let d = arguments[0].closest('details'); d; d = d.parentElement.closest('details')) "
            "d.open = true"
        )
        self.browser.execute_script(script, found)
        return found

    def steady(self, mark: str) -> WebElement:
        """A mark once the drawing around it has been laid out."""
        seen: list[dict] = []

        def rests() -> bool:
            seen.append(self.marked(mark).rect)
            return len(seen) > 4 and seen[-1] == seen[-5]

        self.wait(rests, f"{mark} at rest")
        return self.marked(mark)

    def carried(self, element: WebElement, start: tuple[float, float], by: tuple[int, int]) -> None:
        """Drag on an element from a place, shares of its size from its middle, by so many px."""
        x, y = (
            round(share * element.size[side]) for share, side in zip(start, ("width", "height"), strict=True)
        )
        way = ActionChains(self.browser, duration=80).move_to_element_with_offset(element, x, y)
        way.click_and_hold()
        for step in range(1, 5):
            way.move_to_element_with_offset(element, x + by[0] * step // 4, y + by[1] * step // 4).pause(0.1)
        way.release().perform()

    def pick(self, menu: str, entry: str) -> None:
        """Choose an entry of a menu once it has unfolded."""

        def chosen() -> bool:
            try:
                self.marked(entry).click()
            except (ElementNotInteractableException, ElementClickInterceptedException):
                return False
            return True

        self.marked(menu).click()
        self.wait(chosen, f"{entry} of {menu}")

    def button(self, words: str) -> WebElement:
        return self._found(By.XPATH, f"//button[contains(normalize-space(.), '{words}')]", words)

    def enter(self, label: str, text: str) -> None:
        """Type into a field with a unit."""
        field = self.field(label)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text, Keys.ENTER)

    def saved(self) -> None:
        """Wait until the page says that everything is saved."""
        self.wait(lambda: self.marked("save-state").text == "Saved", "Saved")

    def wait(self, condition: object, what: str = "") -> None:
        """Wait until a condition holds, for as long as there is progress on the page."""
        began = changed = time.monotonic()
        shows = ""
        while not self._holds(condition):
            time.sleep(0.1)
            now, showed = time.monotonic(), shows
            shows = self.browser.execute_script(SHOWN)
            changed = now if shows != showed else changed
            if now - changed > PATIENCE_S or now - began > AT_MOST_S:
                FAILED.mkdir(parents=True, exist_ok=True)
                self.browser.save_screenshot(str(FAILED / f"{self.id()}.png"))
                raise TimeoutException(f"no sign of {what}, and nothing moves on the page")

    def _holds(self, condition: object) -> bool:
        try:
            return bool(condition())
        except StaleElementReferenceException:
            return False

    def text_of(self, words: str) -> bool:
        return words in self.css("body").text
