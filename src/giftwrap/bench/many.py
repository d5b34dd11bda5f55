"""A job of many packs, shots and colourways in a browser: opening it, flicking through it, its thumbnails."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator

from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import WebDriverWait

from giftwrap.bench.figure import Figure
from giftwrap.bench.form import SIX
from giftwrap.bench.in_browser import demo_in_browser

PATIENCE_S = 120.0
WARM_UP_S = 15.0
SHOTS, COLOURWAYS = 8, 6
FLICKS = 6
_FLICK = """
const [key, done] = arguments
const frame = document.querySelector('.camera-view .frame')
const source = (name) => document.querySelector(`[data-test=${name}]`)?.src
const [stood, small, old] = [frame.dataset.seen, source('kept'), source('proof')]
const began = performance.now()
let view = null
document.body.dispatchEvent(new KeyboardEvent('keydown', {key, bubbles: true}))
const look = () => {
  const kept = document.querySelector('[data-test=kept]')
  if (view === null && (kept ? kept.src !== small && kept.complete : frame.dataset.seen !== stood))
    requestAnimationFrame(() => setTimeout(() => (view ??= performance.now() - began)))
  const proof = document.querySelector('[data-test=proof]')
  if (view !== null && proof && proof.src !== old && proof.complete) done([view, performance.now() - began])
  else setTimeout(look, 10) // frames asked for would be drawn, and take the machine from the proof
}
look()
"""
_OPEN = """
const done = arguments[0]
const began = performance.now()
document.querySelector("a[href^='/jobs/many/']").click()
const there = () => document.querySelector('[data-test=brimful]')
const look = () => (there() ? done(performance.now() - began) : requestAnimationFrame(look))
look()
"""
_SHOWN = """
const pictures = [...document.querySelectorAll('td .see img')]
return pictures.filter((i) => i.complete && i.naturalWidth).length
"""


def build() -> None:
    """Put two jobs into the database: one of many packs, and one of a grid of shots and colourways."""
    from giftwrap.core import model as core
    from giftwrap.core.stage.starting import starting_set, starting_shot
    from giftwrap.core.things.starting import starting_pack
    from giftwrap.studio.jobs.models import Colourway, Job, Pack, PhotoSet, Shot
    from giftwrap.studio.jobs.services import add_row

    for slug, packs, shots, ways in (("many", 40, 20, 8), ("grid", 6, SHOTS, COLOURWAYS)):
        job = Job.objects.create(slug=slug, name=slug.title(), client="")
        rows = [add_row(Pack, job, SIX[n % 6], starting_pack(SIX[n % 6])) for n in range(packs)]
        sets = []
        for number in range(3):
            chosen = (
                rows[2 * number : 2 * number + 2] if slug == "grid" else rows[6 * number : 6 * number + 6]
            )
            standing = [
                core.Standing(id=row.slug, of=core.OfPack(pack=row.slug), pose=core.Pose(x=110.0 * n))
                for n, row in enumerate(chosen)
            ]
            sets.append(
                add_row(PhotoSet, job, "Set", starting_set().model_copy(update={"standing": standing}))
            )
        for number in range(shots):
            shot = starting_shot()
            camera = shot.camera.model_copy(update={"azimuth": 7.0 * number - 30})
            where = {"camera": camera, "photo_set": sets[number % 3].slug}
            add_row(Shot, job, f"Shot {number + 1}", shot.model_copy(update=where))
        for number in range(ways):
            fill = {row.slug: 30.0 + number for row in rows[:6] if row.read().form.contents}  # type: ignore[attr-defined]
            add_row(Colourway, job, f"Way {number + 1}", core.Colourway(fill=fill))


def run() -> Iterator[Figure]:
    """Open the one and flick through the other, in a browser without a graphics card."""
    with demo_in_browser("from giftwrap.bench.many import build; build()") as (browser, address, _):
        time.sleep(WARM_UP_S)
        yield from _opening(browser, address)
        yield from _grid(browser, address)
        yield from _flicking(browser, address)


def _opening(browser: webdriver.Chrome, address: str) -> Iterator[Figure]:
    browser.set_script_timeout(PATIENCE_S)
    times = []
    for _ in range(3):
        browser.get(f"{address}/")
        _wait(browser, "a[href^='/jobs/many/']")
        times.append(browser.execute_async_script(_OPEN) / 1000)
    yield Figure(
        "range: a job of 40 packs, 20 shots, 8 colourways opens in", statistics.median(times), "s", 1.5
    )


def _flicking(browser: webdriver.Chrome, address: str) -> Iterator[Figure]:
    browser.get(f"{address}/jobs/grid/set")
    _wait(browser, "[data-test=proof]")
    views, proofs = [], []
    for turn in range(3):
        for _ in range(FLICKS):
            time.sleep(1.0)
            view, proof = browser.execute_async_script(_FLICK, "PageUp" if turn == 1 else "PageDown")
            if turn:  # the first turn loads what is flicked through
                views.append(view)
                proofs.append(proof)
    yield Figure("range: flicking to another shot, its view, median", statistics.median(views), "ms", 200)
    yield Figure("range: the slowest of these", max(views), "ms", None)
    yield Figure("range: flicking to another shot, its proof, median", statistics.median(proofs), "ms", 600)
    yield Figure("range: the slowest of these proofs", max(proofs), "ms", None)


def _grid(browser: webdriver.Chrome, address: str) -> Iterator[Figure]:
    """How long a whole grid takes to become fresh while nobody does anything, and to be shown again."""
    cells = SHOTS * (COLOURWAYS + 1)
    began = time.monotonic()
    browser.get(f"{address}/jobs/grid/show")
    _wait(browser, ".sheet")
    there: list[dict] = []
    read = "const done = arguments[0]; fetch('/api/jobs/grid/thumbnails').then(r => r.json()).then(done)"
    while time.monotonic() - began < PATIENCE_S * 3:
        there = [one for one in browser.execute_async_script(read) if one["fresh"] and one["at"]]
        if len(there) == cells:
            break
        time.sleep(0.5)
    took = time.monotonic() - began
    yield Figure(f"range: {cells} thumbnails, none kept, become fresh while idle", took, "s", 60)
    yield Figure("range: thumbnails that are fresh then", len(there), f"of {cells}", cells, "higher")
    browser.get(f"{address}/jobs/grid/shoot")
    began = time.monotonic()
    WebDriverWait(browser, PATIENCE_S).until(lambda b: b.execute_script(_SHOWN) == cells)
    yield Figure("range: kept thumbnails shown from opening the page", time.monotonic() - began, "s", None)


def _wait(browser: webdriver.Chrome, selector: str) -> None:
    WebDriverWait(browser, PATIENCE_S).until(lambda b: b.find_elements(By.CSS_SELECTOR, selector))
