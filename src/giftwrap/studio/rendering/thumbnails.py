"""Thumbnails of a job's shots in its colourways: which are stale, and making those anew.
Pictures of materials that the studio has saved are made here, too.

A thumbnail knows the revisions of everything it shows. When one of them changes it is stale; it stays
to be seen until the next is there.
"""

from __future__ import annotations

import asyncio
import hashlib
import json
import logging
import time
from collections import Counter
from dataclasses import dataclass
from typing import Any

from channels.db import database_sync_to_async
from distributed.client import FutureCancelledError
from django.conf import settings

from giftwrap.core import model as core
from giftwrap.core.errors import GiftwrapError
from giftwrap.core.formats.whole import write_whole
from giftwrap.core.model.photo_set import OfPack
from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.proof import thumbnail
from giftwrap.core.render.swatches import swatch_file
from giftwrap.crew import FINAL
from giftwrap.studio.jobs.frames import frame_of
from giftwrap.studio.jobs.models import Job, Palette, PhotoSet, Shot
from giftwrap.studio.library.own_materials import picture_file, without_picture
from giftwrap.studio.pages import announce
from giftwrap.studio.rendering.bus import bus
from giftwrap.studio.rendering.models import Order, Thumbnail
from giftwrap.studio.rendering.work import proof_of

log = logging.getLogger(__name__)

PIXELS = 44_000
"""Of a thumbnail."""
IDLE_S = 1.5
"""The hand has rested for so long before a thumbnail is made."""
LOOK_S = 0.4
BROKE = "Something broke inside while this was drawn. The studio's log says what."
PRIORITY = -10


@dataclass(frozen=True)
class Cell:
    """A shot in a colourway, by its key or "" for as it is; `made_of` tells the state of what it shows."""

    shot: Shot
    colourway: str
    made_of: str


def cells_of(job: Job) -> list[Cell]:
    """Every shot of a job in every colourway, in order."""
    packs = {row.slug: (row.pk, row.revision) for row in job.packs.there()}
    sets = {row.slug: (row, _packs_on(row)) for row in job.sets.there()}
    palette = Palette.objects.filter(job=job).values_list("revision", flat=True).first()
    ways = [("", 0), *((row.slug, row.revision) for row in job.colourways.there())]
    cells = []
    for shot in job.shots.there():
        try:
            document = core.Shot.model_validate(shot.document)
        except ValueError:
            continue
        its_set = sets.get(document.photo_set) if document.photo_set else next(iter(sets.values()), None)
        hero = document.hero or next(iter(packs), "")
        shown = sorted({hero, *(its_set[1] if its_set else ())})
        state = [
            shot.revision,
            None if its_set is None else (its_set[0].pk, its_set[0].revision),
            palette,
            [packs.get(key) for key in shown],
        ]
        cells += [Cell(shot, key, _told([*state, key, revision])) for key, revision in ways]
    return cells


def kept_of(job: Job) -> dict[tuple[int, str], Thumbnail]:
    """The thumbnails there are, by shot and colourway."""
    found = Thumbnail.objects.filter(shot__job=job)
    return {(one.shot_id, one.colourway): one for one in found}


def thumbnail_file(shot_id: int, colourway: str) -> Any:
    """Where one lies."""
    return settings.RENDERS_DIR / "thumbnails" / f"{shot_id}-{colourway or 'as-it-is'}.jpg"


def work_on(cell: Cell) -> PictureJob:
    """The work on a thumbnail. Raises GiftwrapError when the shot cannot be taken."""
    frame = frame_of(cell.shot, cell.colourway or None)
    width = max(round((PIXELS * frame.shot.aspect) ** 0.5), 8)
    return proof_of(frame, (width, max(round(width / frame.shot.aspect), 8)))


def keep(cell: Cell, picture: bytes | None, problem: str = "") -> None:
    """Keep a thumbnail, or why there is none."""
    if picture is not None:
        path = thumbnail_file(cell.shot.pk, cell.colourway)
        path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, picture)
    Thumbnail.objects.update_or_create(
        shot=cell.shot,
        colourway=cell.colourway,
        defaults={"made_of": cell.made_of, "problem": problem},
    )


def stale_cell(job_id: int) -> Cell | None:
    """The first thumbnail of a job that is not of the present state."""
    job = Job.objects.filter(pk=job_id).first()
    if job is None:
        return None
    kept = {key: one.made_of for key, one in kept_of(job).items()}
    return next((c for c in cells_of(job) if kept.get((c.shot.pk, c.colourway)) != c.made_of), None)


class Thumbnailing:
    """Makes stale thumbnails of the jobs that are open, one at a time, while no hand moves.

    They are made where finals are, so that proofs keep what they have loaded; open orders come first.
    """

    def __init__(self) -> None:
        self._open: Counter[int] = Counter()
        self._touched = 0.0
        self._busy: set[object] = set()
        self._settled: set[int] = set()
        self._task: asyncio.Task[None] | None = None

    def start(self) -> None:
        """Begin looking for stale ones."""
        self._task = asyncio.create_task(self._go_on())

    def stop(self) -> None:
        """Stop looking."""
        if self._task:
            self._task.cancel()

    def opened(self, job_id: int) -> None:
        """Somebody looks at a job: it comes before those that were opened earlier."""
        self._open[job_id] = self._open.pop(job_id, 0) + 1

    def closed(self, job_id: int) -> None:
        """Somebody does not any more."""
        self._open[job_id] -= 1
        self._open += Counter()

    @property
    def jobs(self) -> list[int]:
        """What is open, the one opened last first."""
        return list(reversed(self._open))

    def touched(self) -> None:
        """A hand moves."""
        self._touched = time.monotonic()

    def begins(self, proof: object) -> None:
        """A proof is being refined."""
        self._busy.add(proof)

    def ends(self, proof: object) -> None:
        """It is as clean as it gets, or nobody waits for it any more."""
        self._busy.discard(proof)

    async def _go_on(self) -> None:
        while True:
            await asyncio.sleep(LOOK_S)
            try:
                while self._idle() and await self._one():
                    pass
            except Exception:
                log.exception("Thumbnails could not be looked through.")
                await asyncio.sleep(5)

    def _idle(self) -> bool:
        return not self._busy and time.monotonic() - self._touched > IDLE_S and bus.client() is not None

    async def _one(self) -> bool:
        """Make one stale thumbnail; false when there is none, or something is more urgent."""
        if await Order.objects.filter(state__in=Order.OPEN).aexists():
            return False
        if self.jobs and await self._picture():
            return True
        for job_id in self.jobs:
            cell = await database_sync_to_async(stale_cell)(job_id)
            if cell is not None:
                await self._make(job_id, cell)
                return True
        return False

    async def _picture(self) -> bool:
        """Make the picture of a material that the studio has saved; false when there is none to make."""
        wanting = await database_sync_to_async(without_picture)(self._settled)
        client = bus.client()
        if wanting is None or client is None:
            return False
        number, material = wanting
        try:
            picture = await client.submit(
                swatch_file, material.material, pure=False, resources={FINAL: 1}, priority=PRIORITY
            )
        except (FutureCancelledError, OSError):
            return False  # the process was lost: the next look makes it
        except Exception:
            log.exception("The picture of “%s” failed.", material.name)
            self._settled.add(number)
            return False
        path = picture_file(material)
        path.parent.mkdir(parents=True, exist_ok=True)
        await asyncio.to_thread(write_whole, path, picture)
        return True

    async def _make(self, job_id: int, cell: Cell) -> None:
        picture, problem = None, ""
        try:
            work = await database_sync_to_async(work_on)(cell)
            client = bus.client()
            if client is None:
                return
            picture = await client.submit(
                thumbnail, work, pure=False, resources={FINAL: 1}, priority=PRIORITY
            )
        except GiftwrapError as error:
            problem = error.message
        except (FutureCancelledError, OSError):
            return  # the process was lost: the next look makes it
        except Exception:
            log.exception("A thumbnail failed.")
            problem = BROKE
        await database_sync_to_async(keep)(cell, picture, problem)
        said = {"shot": cell.shot.slug, "colourway": cell.colourway, "at": cell.made_of, "problem": problem}
        await announce(job_id, {"type": "thumbnail", **said, "fresh": True})


thumbnailing = Thumbnailing()


def _packs_on(row: PhotoSet) -> list[str]:
    """Keys of the packs that stand on a set."""
    try:
        document = core.PhotoSet.model_validate(row.document)
    except ValueError:
        return []
    return [one.of.pack for one in document.standing if isinstance(one.of, OfPack)]


def _told(state: Any) -> str:
    return hashlib.sha256(json.dumps(state).encode()).hexdigest()[:40]
