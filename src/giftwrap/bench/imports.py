"""Received models: from choosing a file to the model on the table; formats, fidelity, what goes out."""

from __future__ import annotations

import contextlib
import math
import statistics
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import psutil
import trimesh
from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import WebDriverWait

from giftwrap.bench.figure import Figure, median_seconds
from giftwrap.bench.in_browser import demo_in_browser
from giftwrap.core.mesh.topology import volume_of
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.received.kept import kept_model
from giftwrap.core.received.reading import read_model
from giftwrap.core.sending.gltf import write_glb
from giftwrap.core.stage.standing import Placed
from giftwrap.core.things.making import thing_of
from giftwrap.core.things.starting import starting_pack

PATIENCE_S = 120.0
WARM_UP_S = 12.0
FRAMES = 20
_ORBIT = """
const [count, done] = arguments
const canvas = document.querySelector('[data-test=round]')
const at = (type, x) => canvas.dispatchEvent(new PointerEvent(type, {
  pointerId: 1, clientX: x, clientY: 400, button: 0, buttons: 1, bubbles: true, pointerType: 'mouse'}))
const times = []
at('pointerdown', 700)
let step = 0
const next = () => {
  const began = performance.now()
  at('pointermove', 700 + 5 * ++step)
  requestAnimationFrame(() => requestAnimationFrame(() => {
    times.push(performance.now() - began)
    if (step < count) next()
    else { at('pointerup', 700 + 5 * step); done(times) }
  }))
}
next()
"""


def run() -> Iterator[Figure]:
    """A million triangles on the page, then formats and fidelity without one."""
    yield from _million()
    start_reading(EVERYTHING)
    yield from _formats()
    yield from _fidelity()
    thing = thing_of(starting_pack("cordial-500"), {})
    seconds = median_seconds(lambda: write_glb([Placed("a", "", thing, np.eye(4))], {}), runs=3)
    yield Figure("import: a bottle out as GLB", seconds, "s", None)


RING, TUBE = 0.04, 0.01


def million_glb() -> bytes:
    """A torus of a million triangles, as glTF has it: radii of 40 and 10 mm."""
    ring = trimesh.creation.torus(RING, TUBE, major_sections=1000, minor_sections=500)
    return bytes(ring.export(file_type="glb"))


def _million() -> Iterator[Figure]:
    with demo_in_browser() as (browser, address, home):
        (home / "million.glb").write_bytes(million_glb())
        with _Watched() as watched:
            yield from _on_the_table(browser, address, home / "million.glb")
        yield Figure("import: peak of one process meanwhile", watched.peak / 1e9, "GB", 2)


def _on_the_table(browser: webdriver.Chrome, address: str, path: Path) -> Iterator[Figure]:
    def found(name: str) -> bool:
        return bool(browser.find_elements(By.CSS_SELECTOR, f"[data-test='{name}']"))

    def until(there: Callable[[], bool]) -> float:
        began = time.perf_counter()
        WebDriverWait(browser, PATIENCE_S, poll_frequency=0.05).until(lambda _: there())
        return time.perf_counter() - began

    browser.set_script_timeout(PATIENCE_S)
    browser.get(f"{address}/jobs/velloway/form")
    until(lambda: found("round"))
    own = _frame(browser)
    browser.find_element(By.CSS_SELECTOR, "[data-test='model-file']").send_keys(str(path))
    yield Figure(
        "import: 1 M triangles, from choosing it to the table", until(lambda: found("model-size")), "s", 8
    )
    browser.find_element(By.CSS_SELECTOR, "[data-test='model-new']").click()
    yield Figure("import: then as a pack in the round", until(lambda: found("received-size")), "s", None)
    frame = _frame(browser)
    yield Figure("import: a frame while it is orbited, median", frame, "ms", None)
    yield Figure("import: that beside the demo's bottle", frame / own, "×", 1.5)


def _frame(browser: webdriver.Chrome) -> float:
    """Median ms of a frame while the pack is orbited, once nothing else moves."""
    time.sleep(WARM_UP_S)
    return float(statistics.median(browser.execute_async_script(_ORBIT, FRAMES)))


class _Watched:
    """The largest this process's children and theirs become."""

    def __init__(self) -> None:
        self.peak = 0
        self._over = False

    def __enter__(self) -> _Watched:
        self._thread = threading.Thread(target=self._watch, daemon=True)
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._over = True
        self._thread.join()

    def _watch(self) -> None:
        while not self._over:
            for process in psutil.Process().children(recursive=True):
                with contextlib.suppress(psutil.Error):
                    if "python" in process.name():
                        self.peak = max(self.peak, process.memory_info().rss)
            time.sleep(0.05)


def _formats() -> Iterator[Figure]:
    """A ball of 80,000 triangles in every format."""
    ball = trimesh.creation.icosphere(6, 50)
    for kind in ("glb", "obj", "ply", "stl", "3mf"):
        data = ball.export(file_type=kind)
        raw = data.encode() if isinstance(data, str) else bytes(data)
        seconds = median_seconds(lambda raw=raw, kind=kind: read_model(raw, f"ball.{kind}"), runs=3)
        volume = read_model(raw, f"ball.{kind}").bodies[0].volume
        yield Figure(f"import: 82 thousand triangles from {kind.upper()}", seconds, "s", None)
        yield Figure(
            f"import: its volume beside trimesh's, {kind.upper()}", abs(volume / ball.volume - 1), "", 1e-5
        )


def _fidelity() -> Iterator[Figure]:
    """How far the reduced mesh lies from the whole one."""
    few = kept_model("million", read_model(million_glb(), "million.glb").data).few[0]
    across = np.hypot(few.positions[:, 0], few.positions[:, 1])
    off = np.abs(np.hypot(across - RING, few.positions[:, 2]) - TUBE).max() * 1000
    yield Figure("import: triangles that pages draw of a million", len(few.faces), "", None)
    yield Figure("import: how far they lie off a torus of 100 mm", float(off), "mm", 0.1)
    volume = volume_of(few.positions, few.faces) / (2 * math.pi**2 * RING * TUBE**2)
    yield Figure("import: their volume beside the torus's", abs(volume - 1), "", 0.005)
