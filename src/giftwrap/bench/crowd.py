"""Forty packs among two hundred props: shaped, laid out and looked at, and walked around in a browser."""

from __future__ import annotations

import resource
import statistics
import time
from collections.abc import Callable, Iterator

from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import WebDriverWait

from giftwrap.bench.demo_job import demo_frame
from giftwrap.bench.figure import Figure
from giftwrap.bench.in_browser import demo_in_browser
from giftwrap.core.model import Frame, OfPack, Pose, Standing
from giftwrap.core.model.arrangement import Scatter
from giftwrap.core.model.prop import PropName
from giftwrap.core.render.files import shelf
from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.proof import proof_job, proof_pass
from giftwrap.core.stage.arranging import arranged
from giftwrap.core.things.making import thing_of, thing_of_prop

PROOF = (480, 300)
PACKS, PROPS = 40, 200
STREWN: tuple[PropName, ...] = ("pebble", "laurel-leaf", "berry", "hazelnut", "petal")
PATIENCE_S = 120.0
WARM_UP_S = 20.0
STEPS = 60
_WALK = """
const [steps, done] = arguments
const frame = document.querySelector('.camera-view .frame')
const canvas = frame.querySelector('canvas')
const {left, top} = frame.getBoundingClientRect()
let drawn = 0
const {clear} = WebGL2RenderingContext.prototype
WebGL2RenderingContext.prototype.clear = function (...all) {
  if (this.canvas === canvas) drawn += 1
  return clear.apply(this, all)
}
const at = (type, step) => frame.dispatchEvent(new PointerEvent(type, {pointerId: 1, bubbles: true,
  clientX: left + 4 + step, clientY: top + 4, button: 0, buttons: 1, pointerType: 'mouse'}))
frame.setPointerCapture = () => undefined
const stood = new Set()
at('pointerdown', 0)
let step = 0
const began = performance.now()
const next = () => {
  at('pointermove', (step += 1))
  requestAnimationFrame(() => {
    stood.add(frame.dataset.seen)
    if (step < steps) return next()
    const seconds = (performance.now() - began) / 1000
    at('pointerup', step)
    WebGL2RenderingContext.prototype.clear = clear
    done(Math.min(drawn, stood.size) / seconds)
  })
}
next()
"""
"""Walks around by dragging, a px with each picture of the page, and counts drawings and places."""


def crowd(frame: Frame) -> Frame:
    """A frame's hero forty times, and as many of two hundred props around them as find room."""
    thing = thing_of(frame.shown_packs()[frame.hero()], shelf.files(frame.artwork_uses()), coarse=True)
    packs = [
        Standing(
            id=f"pack-{n}",
            of=OfPack(pack=frame.hero()),
            pose=Pose(x=130.0 * (n % 10 - 4.5), y=130.0 * (n // 10 - 2), turn=9.0 * n - 180),
        )
        for n in range(PACKS)
    ]
    alone = frame.model_copy(update={"photo_set": frame.photo_set.model_copy(update={"standing": packs})})
    strewn = Scatter(what=[*STREWN], count=PROPS, across=2400, deep=1500)
    return alone.model_copy(update={"photo_set": arranged(alone, strewn, {frame.hero(): thing})})


def of_demo() -> Frame:
    """The demo's hero as a crowd."""
    frame, artwork = demo_frame()
    for data in artwork.values():
        shelf.put(data)
    return crowd(frame)


def stand() -> None:
    """Have it stand on the set of the demo's first shot, which takes it all in, in the database."""
    from giftwrap.studio.jobs.models import PhotoSet, Shot

    frame = of_demo()
    shot = Shot.objects.get(slug="hero", job__slug="velloway")
    shot.document["framed_by_hand"] = False
    shot.save()
    row = PhotoSet.objects.get(slug=frame.shot.photo_set, job__slug="velloway")
    row.document = frame.photo_set.model_dump(mode="json")
    row.save()


def run() -> Iterator[Figure]:
    """Laid out, looked at, one moved, and walked around."""
    started = time.perf_counter()
    frame = of_demo()
    yield Figure("set: two hundred props strewn around forty packs", time.perf_counter() - started, "s", None)
    count = len(frame.photo_set.standing) - PACKS
    yield Figure("set: props of two hundred that found room", count, "", PROPS, better="higher")
    thing_of_prop.cache.clear()  # type: ignore[attr-defined]
    started = time.perf_counter()
    proof_pass(proof_job(frame, *PROOF), "crowd", 0)
    yield Figure(
        "set: first proof of forty packs and two hundred props", time.perf_counter() - started, "s", 3
    )
    times = [_seconds(lambda n=number: proof_job(_nudged(frame, n), *PROOF)) for number in range(11)]
    moved = 1000 * statistics.median(times)
    yield Figure("set: one of two hundred props moved, to a picture of it", moved, "ms", None)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024**2
    yield Figure("set: peak memory of the process", peak, "GB", 3)
    with demo_in_browser("from giftwrap.bench.crowd import stand; stand()") as (browser, address, _):
        yield from _walked(browser, address)


def _walked(browser: webdriver.Chrome, address: str) -> Iterator[Figure]:
    """How often the view is drawn from another place while one walks, without a graphics card."""
    browser.set_script_timeout(PATIENCE_S)
    for words, shot in (("forty packs and two hundred props", "hero"), ("the demo on plinths", "on-plinths")):
        browser.get(f"{address}/jobs/velloway/set?shot={shot}")
        WebDriverWait(browser, PATIENCE_S).until(
            lambda b: b.find_elements(By.CSS_SELECTOR, "[data-test=proof]")
        )
        time.sleep(WARM_UP_S)
        rate = browser.execute_async_script(_WALK, STEPS)
        yield Figure(
            f"set: view of {words} walked around in software", rate, "a second", None, better="higher"
        )


def _seconds(make: Callable[[], PictureJob]) -> float:
    job = make()
    started = time.perf_counter()
    proof_pass(job, f"{started}", 0)
    return time.perf_counter() - started


def _nudged(frame: Frame, by: int) -> Frame:
    """A frame in which the last thing has moved."""
    *rest, last = frame.photo_set.standing
    moved = last.model_copy(update={"pose": last.pose.model_copy(update={"x": last.pose.x + by})})
    photo_set = frame.photo_set.model_copy(update={"standing": [*rest, moved]})
    return frame.model_copy(update={"photo_set": photo_set})
