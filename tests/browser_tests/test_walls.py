"""The walls as somebody outside finds them: sockets, a fuzzer, files without end, deaths in the family."""

from __future__ import annotations

import json
import os
import signal
import stat
import time
import urllib.request
from collections.abc import Callable

import psutil
from django.test import SimpleTestCase
from selenium.webdriver.common.by import By

from browser_tests.studio import NAME, PASSWORD, BrowserTestCase, members, running_studio
from giftwrap.bench.fuzzing import Visitor, fuzz
from giftwrap.bench.sockets import listening
from giftwrap.core.tests.hostile import filtered
from giftwrap.launch.family import Family

SEED = 1405
FUZZ_S = 100
EXAMPLES = 12


def wait_until(condition: Callable[[], object], patience_s: float = 180) -> None:
    """Wait for something outside a page."""
    end = time.monotonic() + patience_s
    while not condition():
        if time.monotonic() > end:
            raise AssertionError("it did not come")
        time.sleep(0.1)


class SocketTests(SimpleTestCase):
    def test_nothing_listens_beyond_the_loopback_address(self) -> None:
        """By /proc/net/tcp and tcp6 (proc(5)), over every process of the family."""
        family = running_studio()
        wait_until(lambda: len(listening(family.pid)) >= 4)  # pages, scheduler and two rendering processes
        found = listening(family.pid)
        for name, address in found:
            self.assertTrue(address.startswith(("127.", "::1")), f"{name} listens at {address}")

    def test_what_is_in_the_home_folder_is_its_owner_s_alone(self) -> None:
        home = running_studio().home
        for path in (home, home / "keys", home / "giftwrap.sqlite3", home / "secret-key", home / "logs"):
            self.assertEqual(stat.S_IMODE(path.stat().st_mode) & 0o077, 0, path)

    def test_nobody_may_have_another_s_port_answer_pages_for_status(self) -> None:
        for _, address in listening(running_studio().pid):
            port = int(address.rsplit(":", 1)[1])
            if port == running_studio().port:
                continue
            with self.assertRaises(OSError):
                urllib.request.urlopen(f"http://127.0.0.1:{port}/health", timeout=5)


class FuzzTests(SimpleTestCase):
    """Schemathesis asks every address of the schema for what it says and for what it does not."""

    def test_no_request_breaks_anything_and_every_answer_is_as_the_schema_says(self) -> None:
        family = running_studio()
        visitor = Visitor(family.address, NAME, PASSWORD)
        found = fuzz(visitor, seconds=FUZZ_S, examples=EXAMPLES, seed=SEED)
        self.assertGreater(found.requests, 500)
        self.assertEqual(found.broken, 0, found.said[-6000:])
        self.assertEqual(json.loads(visitor.get("/api/session"))["user"], NAME)


class BrowserWallTests(BrowserTestCase):
    def setUp(self) -> None:
        self.sign_in()

    def test_a_drawing_that_never_ends_stops_nobody(self) -> None:
        address = self.start_job("Endless cordial")
        self.station("Wrap")
        endless = self.folder / "endless.svg"
        endless.write_bytes(filtered('<feTurbulence baseFrequency="0.9" numOctaves="100000"/>'))
        self.marked("artwork-file").send_keys(str(endless))
        visitor = Visitor(self.studio.address, NAME, PASSWORD)
        for _ in range(5):
            self.assertTrue(json.loads(visitor.get("/api/jobs")))
        self.wait(lambda: "more than 20 s to draw" in self.marked("wrap-problem").text, "the refusal")
        self.open(f"{address}/form")
        self.marked("brimful")

    def test_a_page_says_what_a_proof_waits_for(self) -> None:
        self.start_job("Waiting cordial")
        self.station("Set")
        self.marked("proof")
        (process,) = members(self.studio, "proofs")
        process.send_signal(signal.SIGSTOP)  # neither dead nor working
        try:
            self.enter("Lens", "70")
            self.marked("proof-waits")
        finally:
            process.kill()
        self.wait(lambda: "starting again" in self.rule() or self.is_proofed(), "what it waits for")
        self.wait(self.is_proofed, "the proof, when the process is back")

    def rule(self) -> str:
        return self.css(".rule").text

    def is_proofed(self) -> bool:
        return bool(self.browser.find_elements(By.CSS_SELECTOR, "[data-test='proof']"))

    def test_words_and_no_markup_when_the_pages_die_and_come_back(self) -> None:
        self.start_job("Unplugged cordial")
        for process in members(self.studio, "web"):
            process.kill()
        self.enter("Base thickness", "8")
        self.wait(
            lambda: "not" in self.marked("save-state").text or self.marked("save-state").text == "Saved",
            "words",
        )
        self.assertNotIn("<", self.css("body").text)
        self.saved()
        self.assertEqual(self.field("Base thickness").get_attribute("value"), "8")


class FamilyTests(SimpleTestCase):
    """Whoever of the family is killed, it is whole again by itself."""

    def test_everyone_comes_back(self) -> None:
        family = running_studio()
        watcher = psutil.Process(family.pid)
        before = {p.pid for p in watcher.children()}
        for name in ("web", "scheduler", "finals", "proofs", "dispatcher"):
            for process in members(family, name):
                os.kill(process.pid, signal.SIGKILL)
        wait_until(lambda: len(self.fresh(watcher, before)) == 5)
        wait_until(lambda: self.answers(family))

    def fresh(self, watcher: psutil.Process, before: set[int]) -> list[psutil.Process]:
        return [p for p in watcher.children() if p.pid not in before]

    def answers(self, family: Family) -> bool:
        try:
            return urllib.request.urlopen(f"{family.address}/sign-in/", timeout=5).status == 200
        except OSError:
            return False
