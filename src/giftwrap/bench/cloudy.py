"""A jar of cream that fills the picture: what a final of it takes."""

from __future__ import annotations

import time
from collections.abc import Iterator

from giftwrap.bench.figure import Figure
from giftwrap.core.model import Camera, Frame, Shot
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import PictureJob, scene_renderer, take
from giftwrap.core.render.planning import Limits
from giftwrap.core.stage.starting import starting_set
from giftwrap.core.things.starting import starting_pack

SIZE, NOISE = (560, 700), 3.0
PART = 4
"""Light by paths alone is looked at in a picture so many times smaller each way, and reckoned from that."""
SAMPLES = 16


def cream_jar() -> Frame:
    """An open jar, its cream behind 2 to 3 mm of glass."""
    pack = starting_pack("jar-50")
    form = pack.form.model_copy(update={"closure": None})
    camera = Camera(distance=220, height=70, aim_height=22, lens_mm=70, azimuth=12)
    packs = {"one": pack.model_copy(update={"panels": [], "form": form})}
    return Frame(packs=packs, photo_set=starting_set(), shot=Shot(camera=camera))


def cream_to_a_final() -> Iterator[Figure]:
    """With the light on it kept, and by paths alone."""
    job = PictureJob.of(cream_jar(), *SIZE)
    camera = job.frame.shot.camera
    renderer = scene_renderer(PictureJob.of(cream_jar(), *SIZE, print_ppi=100, quick=True))
    width, height = SIZE[0] // PART, SIZE[1] // PART
    renderer.expose(camera, (width, height), samples=1, seed=1)  # what is loaded once
    alone = Film(width, height)
    began = time.perf_counter()
    alone.add(renderer.expose(camera, (width, height), samples=SAMPLES, seed=2))
    noise = alone.noise() or 0.0
    reckoned = (time.perf_counter() - began) * PART**2 * (noise / NOISE) ** 2
    began = time.perf_counter()
    film = take(job, Limits(4096, noise=NOISE))
    seconds = time.perf_counter() - began
    name = f"materials: a jar of cream to {film.noise():.1f} % at {SIZE[0]} × {SIZE[1]}"
    yield Figure(name, seconds, "s", 60.0)
    yield Figure("materials: that over paths alone, everywhere alike", seconds / reckoned, "×", None)
