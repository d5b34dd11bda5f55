"""What the hand sees: from a key on a corner to the new drawing and the new pack, in a browser.

The browser has no graphics card here: it draws the pack with the same two cores that shape it.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator

from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import WebDriverWait

from giftwrap.bench.figure import Figure
from giftwrap.bench.in_browser import demo_in_browser

MOVES = 15
PAUSE_S = 1.5
WARM_UP_S = 15.0
PATIENCE_S = 60.0
_WATCH = """
window.seen = {key: 0, drawing: [], round: []}
addEventListener('keydown', () => (seen.key = performance.now()), true)
const note = (list) => seen.key && list.push(performance.now() - seen.key)
const shown = (list) => requestAnimationFrame(() => setTimeout(() => note(list)))
const follow = new MutationObserver(() => shown(seen.drawing))
const figures = document.querySelector('[data-test=brimful]')
follow.observe(figures, {characterData: true, subtree: true, childList: true})
const {bufferData, drawElements} = WebGL2RenderingContext.prototype
let fresh = false
WebGL2RenderingContext.prototype.bufferData = function (...all) {
  fresh = true
  return bufferData.apply(this, all)
}
WebGL2RenderingContext.prototype.drawElements = function (...all) {
  if (fresh) shown(seen.round)
  fresh = false
  return drawElements.apply(this, all)
}
"""


def run() -> Iterator[Figure]:
    """Move a corner of the demo pack to and fro with the arrow keys."""
    with demo_in_browser() as (browser, address, _):
        yield from _moves(browser, f"{address}/jobs/velloway/form")


def _moves(browser: webdriver.Chrome, address: str) -> Iterator[Figure]:
    browser.get(address)
    corner = WebDriverWait(browser, PATIENCE_S).until(
        lambda b: b.find_element(By.CSS_SELECTOR, "[data-test='corner-2']")
    )
    time.sleep(WARM_UP_S)
    browser.execute_script(_WATCH)
    corner.click()
    drawing, around = [], []
    for move in range(MOVES):
        browser.execute_script("Object.assign(seen, {key: 0, drawing: [], round: []})")
        browser.switch_to.active_element.send_keys((Keys.ARROW_LEFT, Keys.ARROW_RIGHT)[move % 2])
        time.sleep(PAUSE_S)
        seen = browser.execute_script("return seen")
        drawing += seen["drawing"][:1]
        around += seen["round"][:1]
    yield Figure("hand: a corner moved, until the drawing follows", statistics.median(drawing), "ms", 100)
    yield Figure("hand: the slowest of these", max(drawing), "ms", None)
    yield Figure("hand: until the pack in the round follows", statistics.median(around), "ms", None)
    yield Figure(
        "hand: moves that were followed within the pause", len(around), f"of {MOVES}", MOVES, "higher"
    )
