"""Forty packs of six kinds on one set: what they wait for, take and weigh."""

from __future__ import annotations

import os
import pickle
import resource
import statistics
import time
from collections.abc import Callable, Iterator
from unittest import mock

import django
import drjit as dr
import numpy as np

from giftwrap.bench import many
from giftwrap.bench.demo_job import demo_frame
from giftwrap.bench.figure import Figure
from giftwrap.bench.form import SIX
from giftwrap.core.model import Frame, OfPack, Pack, PhotoSet, Pose, Standing
from giftwrap.core.render.files import shelf
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.planning import Limits, Plan
from giftwrap.core.render.proof import proof_job, proof_pass
from giftwrap.core.stage.fitting import framed
from giftwrap.core.stage.standing import extent_of, line_up
from giftwrap.core.things import making, vessel
from giftwrap.core.things.making import thing_of
from giftwrap.core.things.starting import starting_pack

PROOF = (480, 300)
COUNT, ACROSS, SPACING = 40, 8, 120.0
REPEATS = 15
LARGE = (4000, 3000)


def run() -> Iterator[Figure]:
    """The first proof of all, moving one, what compiles, memory, and a unit of an order."""
    frame, artwork = demo_frame()
    for data in artwork.values():
        shelf.put(data)
    proof_pass(_job(frame), "warm", 0)
    proof_pass(_job(frame), "warm", 1)
    all_of_them = _range(frame)
    yield Figure("range: first proof of forty packs", _seconds(_job(all_of_them), "first"), "s", 3)
    times = [1000 * _seconds(_job(_moved(all_of_them, n)), f"moved {n}") for n in range(REPEATS)]
    yield Figure("range: moving one to a picture, median", statistics.median(times), "ms", 250)
    yield Figure(
        "range: moving one to a picture, 95th percentile", float(np.quantile(times, 0.95)), "ms", None
    )
    changes = (
        lambda: _moved(all_of_them, 99),
        lambda: _standing(all_of_them, all_of_them.photo_set.standing[:-3]),
        lambda: _standing(all_of_them, all_of_them.photo_set.standing[:1]),
        lambda: _turned(all_of_them),
        lambda: all_of_them,
    )
    yield Figure("range: kernels compiled by adding, moving and removing", _compiled(changes), "", 0)
    one = _standing(all_of_them, all_of_them.photo_set.standing[:1])
    alone = [1000 * _seconds(_job(_moved(one, n)), f"alone {n}") for n in range(REPEATS)]
    yield Figure("range: moving one of forty over moving one alone", _ratio(times, alone), "×", None)
    yield Figure("range: heaviest unit of an order of 12 megapixels", _heaviest(all_of_them), "KB", 100)
    yield from _shapings(all_of_them)
    six = _framed(_standing(all_of_them, all_of_them.photo_set.standing[:6]))
    yield Figure("range: first proof of a line-up of six", _seconds(_job(six), "six"), "s", 1.5)
    times = [1000 * _seconds(_job(_moved(six, n)), f"six {n}") for n in range(REPEATS)]
    yield Figure("range: moving one of six, median", statistics.median(times), "ms", 250)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024**2
    yield Figure("range: peak memory of the process", peak, "GB", 3)
    yield from many.run()


def _range(demo: Frame) -> Frame:
    """Forty packs in rows, each turned a little further, in front of a camera that takes them all in."""
    packs: dict[str, Pack] = {slug: starting_pack(slug) for slug in SIX}
    packs[SIX[0]] = demo.packs[demo.hero()]
    standing = [
        Standing(
            id=f"n{n}",
            of=OfPack(pack=SIX[n % len(SIX)]),
            pose=Pose(
                x=SPACING * (n % ACROSS - (ACROSS - 1) / 2), y=SPACING * (n // ACROSS - 2), turn=9.0 * n - 180
            ),
        )
        for n in range(COUNT)
    ]
    sweep = demo.photo_set.sweep.model_copy(update={"back": 1600.0, "front": 4000.0, "width": 5000.0})
    photo_set = demo.photo_set.model_copy(update={"standing": standing, "sweep": sweep})
    return _framed(Frame(packs=packs, photo_set=photo_set, shot=demo.shot, palette=demo.palette))


def _framed(frame: Frame) -> Frame:
    """The frame with a camera that takes in all that stands; nothing is shaped yet when it is looked at."""
    things = {key: thing_of(pack, {}) for key, pack in frame.packs.items() if not pack.artwork_uses()}
    extent = extent_of(line_up(_without_art(frame), things))
    camera = framed(frame.shot.camera, extent, PROOF[0] / PROOF[1])
    making.thing_of.cache.clear()  # type: ignore[attr-defined]
    return frame.model_copy(update={"shot": frame.shot.model_copy(update={"camera": camera})})


def _without_art(frame: Frame) -> Frame:
    """The frame without what stands there that has artwork."""
    plain = [s for s in frame.photo_set.standing if not frame.packs[frame.key_of(s)].artwork_uses()]
    return _standing(frame, plain)


def _standing(frame: Frame, standing: list[Standing]) -> Frame:
    photo_set: PhotoSet = frame.photo_set.model_copy(update={"standing": standing})
    return frame.model_copy(update={"photo_set": photo_set})


def _moved(frame: Frame, step: int) -> Frame:
    first, *rest = frame.photo_set.standing
    pose = first.pose.model_copy(update={"y": first.pose.y - 3.0 - step})
    return _standing(frame, [first.model_copy(update={"pose": pose}), *rest])


def _turned(frame: Frame) -> Frame:
    last = frame.photo_set.standing[-1]
    leaning = last.pose.model_copy(update={"lean": 20.0})
    return _standing(frame, [*frame.photo_set.standing[:-1], last.model_copy(update={"pose": leaning})])


def _job(frame: Frame) -> PictureJob:
    return proof_job(frame, *PROOF)


def _seconds(job: PictureJob, key: str) -> float:
    started = time.perf_counter()
    proof_pass(job, key, 0)
    return time.perf_counter() - started


def _ratio(ours: list[float], others: list[float]) -> float:
    return statistics.median(ours) / statistics.median(others)


def _compiled(changes: tuple[Callable[[], Frame], ...]) -> int:
    with dr.scoped_set_flag(dr.JitFlag.KernelHistory, True):
        dr.kernel_history_clear()
        for number, change in enumerate(changes):
            proof_pass(_job(change()), f"compiled {number}", 0)
        return sum(k["type"] == dr.KernelType.JIT and not k["cache_hit"] for k in dr.kernel_history())


def _heaviest(frame: Frame) -> float:
    """Kilobytes of the heaviest unit, with everything that goes along."""
    job, film = PictureJob.of(frame, *LARGE), Film(*LARGE)
    rng = np.random.default_rng(3)
    film.samples[:] = 8
    film.light = np.full((3, 3, film.samples.size), 3.0, np.float32)
    film.odd = np.full((2, film.samples.size), 4.0, np.float32)
    film.odd[0] *= rng.random(film.samples.size, dtype=np.float32)
    plan = Plan(*LARGE, Limits(64, noise=1.0))
    plan.take_up(film)
    return max(len(pickle.dumps((job, unit))) for unit in plan.next_pass(film)) / 1000


def _shapings(frame: Frame) -> Iterator[Figure]:
    """How often one edit shapes a pack: for the page and its save, and for its proof."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "giftwrap.studio.settings")
    django.setup()
    from giftwrap.studio.jobs import shapes

    edited = starting_pack(SIX[3])
    form = edited.form.model_copy(update={"nominal_capacity_ml": 43.21})
    edited = edited.model_copy(update={"form": form})
    with mock.patch.object(shapes, "shape_vessel", wraps=vessel.shape_vessel) as shaped:
        shapes.shape_answer(edited)  # what the page shows
        shapes.shape_for_page(edited)  # what is saved is checked
    yield Figure("range: one edit shapes a pack for the page and its save", shaped.call_count, "×", 1)
    changed = frame.model_copy(update={"packs": {**frame.packs, SIX[3]: edited}})
    with mock.patch.object(making, "shape_vessel", wraps=vessel.shape_vessel) as shaped:
        for number in range(3):
            proof_pass(_job(changed), "edited", number)
    yield Figure("range: one edit shapes packs for its proof", shaped.call_count, "×", 1)
