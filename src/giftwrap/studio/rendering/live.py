"""The live channel of one job: proofs on request, and news of orders and documents."""

from __future__ import annotations

import asyncio
import json
import logging
import struct
import uuid
from typing import Any, Self

from channels.db import database_sync_to_async
from channels.generic.websocket import AsyncWebsocketConsumer
from distributed import KilledWorker
from distributed.client import FutureCancelledError
from django.conf import settings
from pydantic import BaseModel, Field, ValidationError, model_validator

from giftwrap.core.errors import GiftwrapError, RenderError
from giftwrap.core.model import Camera, Colourway, Frame, Pack, Palette, PhotoSet, Shot
from giftwrap.core.model.document import MOST_ID, Key, describe_invalid
from giftwrap.core.render.job import MAX_SIDE, PictureJob
from giftwrap.core.render.planning import Region
from giftwrap.core.render.proof import SAMPLES_IN_PASS, ProofPicture
from giftwrap.core.stage.camera import lens_for
from giftwrap.core.stage.starting import bench_set
from giftwrap.crew import PROOF
from giftwrap.crew.proofs import name_of_pass, pass_that_gives_way
from giftwrap.studio.jobs import models
from giftwrap.studio.jobs.frames import Unsaved, frame_of
from giftwrap.studio.pages import EVERYBODY, group_of
from giftwrap.studio.rendering.bus import bus
from giftwrap.studio.rendering.lit import lit_by_all
from giftwrap.studio.rendering.matching import MatchRequest, matched
from giftwrap.studio.rendering.thumbnails import thumbnailing
from giftwrap.studio.rendering.work import proof_of
from giftwrap.studio.room import room
from giftwrap.studio.signin import signed_in_user

log = logging.getLogger(__name__)

PROOF_PRIORITY = 100
LOST_AT_MOST = 5
MISSING_S = 0.6
"""A proof that has not come after this long may wait for a process that is starting again."""
MOST_PIXELS = 4_000_000
"""Of a proof."""
PROOF_BROKE = "Something broke inside while this was drawn. The studio's log says what."
MEASURED_FROM_PASS = 5
"""Earlier passes are too short to tell a speed."""


MOVING_S = 0.12
"""After the first picture a moving hand has this long to ask for the next before more is begun."""


class Bench(BaseModel):
    """One pack in neutral light, seen as its drawing is: from where, in mm, and how far it is turned."""

    pack: Key
    turn: float = Field(ge=-360, le=360)
    azimuth: float = Field(ge=-360, le=360)
    distance: float = Field(gt=0, le=5000)
    height: float = Field(ge=-5000, le=5000)
    aim_height: float = Field(ge=-5000, le=5000)
    vertical_angle: float = Field(gt=1, lt=120)


class ProofRequest(BaseModel):
    """What a page sends to see a proof: documents as they are on its screen, saved or not; packs by key.

    A document that is left out is as it was in the request before, or as the job has it.

    width, height : of the whole picture in px, of which `part` alone may be wanted
    """

    number: int = Field(ge=0, le=MOST_ID)
    shot_id: int = Field(0, ge=0, le=MOST_ID)
    bench: Bench | None = None
    width: int = Field(ge=8, le=MAX_SIDE)
    height: int = Field(ge=8, le=MAX_SIDE)
    part: Region | None = None
    colourway: Key | None = None
    packs: dict[Key, Pack] = Field({}, max_length=100)
    photo_set: PhotoSet | None = None
    shot: Shot | None = None
    palette: Palette | None = None
    dress: Colourway | None = Field(None, description="the colourway as it is on the page")

    @model_validator(mode="after")
    def _is_quick(self) -> Self:
        wanted = self.part or self
        if wanted.width * wanted.height > MOST_PIXELS:
            raise ValueError(f"A proof has at most {MOST_PIXELS:,} px: ask for a smaller one, or for a part.")
        return self


class JobChannel(AsyncWebsocketConsumer):
    """One page looking at one job. Only the newest proof request is worked on."""

    async def connect(self) -> None:
        self._proofing: asyncio.Task[None] | None = None
        self._asked: ProofRequest | None = None
        self._matching: set[asyncio.Task[None]] = set()
        self._lighting: asyncio.Task[None] | None = None
        self._unsaved = Unsaved()
        user = await database_sync_to_async(signed_in_user)(self.scope)
        slug = self.scope["url_route"]["kwargs"]["slug"]
        job = await models.Job.objects.filter(slug=slug).afirst()
        if not user.is_authenticated or job is None:
            await self.close(code=4403)
            return
        self._job_id = job.pk
        await self.channel_layer.group_add(group_of(job.pk), self.channel_name)
        await self.channel_layer.group_add(EVERYBODY, self.channel_name)
        await self.accept()
        thumbnailing.opened(job.pk)
        await self._send({"type": "room", "words": room().words})

    async def disconnect(self, code: int) -> None:
        self._hold()
        if self._lighting:
            self._lighting.cancel()
        if hasattr(self, "_job_id"):
            thumbnailing.closed(self._job_id)
            await self.channel_layer.group_discard(group_of(self._job_id), self.channel_name)
            await self.channel_layer.group_discard(EVERYBODY, self.channel_name)

    async def receive(self, text_data: str | None = None, bytes_data: bytes | None = None) -> None:
        try:
            message = json.loads(text_data or "")
            if message.get("type") == "hold":
                self._hold()
                return
            if message.get("type") == "match":
                await self._match(MatchRequest.model_validate(message.get("match")))
                return
            if message.get("type") == "set-ups":
                self._light()
                return
            request = ProofRequest.model_validate(message.get("proof"))
        except (ValueError, AttributeError, RecursionError) as error:
            what = "What the page sent cannot be read: reload it."
            if isinstance(error, ValidationError):
                what = describe_invalid(error)[0]
            await self._send({"type": "proof-failed", "message": what})
            return
        self._hold()
        self._asked = request
        thumbnailing.begins(self)
        self._proofing = asyncio.create_task(self._refine(request))

    async def tell(self, message: dict[str, Any]) -> None:
        """Pass on an event of the job."""
        await self._send(message["event"])

    def _hold(self) -> None:
        thumbnailing.touched()
        thumbnailing.ends(self)
        if self._proofing:
            self._proofing.cancel()
            self._proofing = None

    async def _match(self, request: MatchRequest) -> None:
        """Match a colour in what was last asked a proof of, while whoever asked goes on."""
        asked = self._asked
        if asked is None:
            words = "There is no picture yet to match a colour in: wait for the proof."
            await self._send({"type": "matched", "number": request.number, "problem": words})
            return

        async def tell() -> None:
            try:
                frame = await database_sync_to_async(self._frame)(asked)
            except GiftwrapError as error:
                told = {"type": "matched", "number": request.number, "problem": error.message}
            else:
                told = await matched(request, frame, asked.width / asked.height)
            await self._send(told)

        task = asyncio.create_task(tell())
        self._matching.add(task)
        task.add_done_callback(self._matching.discard)

    def _light(self) -> None:
        """Show what was last asked a proof of in the light of every set-up."""
        asked = self._asked
        if asked is None:
            return

        async def show() -> None:
            try:
                frame = await database_sync_to_async(self._frame)(asked)
            except GiftwrapError:
                return  # the proof says what is wrong
            async for told in lit_by_all(frame, asked.width / asked.height):
                await self._send(told)

        if self._lighting:
            self._lighting.cancel()
        self._lighting = asyncio.create_task(show())

    async def _refine(self, request: ProofRequest) -> None:
        try:
            size = (request.width, request.height)
            frame = await database_sync_to_async(self._frame)(request)
            job = await asyncio.to_thread(proof_of, frame, size, request.part)
            key = uuid.uuid4().hex
            passes = min(settings.PROOF_PASSES, len(SAMPLES_IN_PASS))
            for number in range(passes):
                picture = await self._pass(job, key, number)
                await self._show(request, picture, last=number == passes - 1)
                if number == 0:
                    await asyncio.sleep(MOVING_S)
                if number >= MEASURED_FROM_PASS and not request.bench and not request.part:
                    await self._measured(request.shot_id, picture)
        except Exception as error:
            if not isinstance(error, GiftwrapError):
                log.exception("A proof failed.")
            words = error.message if isinstance(error, GiftwrapError) else PROOF_BROKE
            await self._send({"type": "proof-failed", "message": words, "number": request.number})
        thumbnailing.ends(self)

    def _frame(self, request: ProofRequest) -> Frame:
        """What is meant. Raises GiftwrapError when something of it is gone."""
        before = self._unsaved
        self._unsaved = Unsaved(
            {**before.packs, **request.packs},
            request.photo_set or before.photo_set,
            request.shot or before.shot,
            request.palette or before.palette,
            request.dress,
        )
        if request.bench:
            return self._bench(request, request.bench)
        shot = models.Shot.objects.filter(pk=request.shot_id, job=self._job_id).select_related("job").first()
        if shot is None:
            raise GiftwrapError("This shot is not in the job any more: choose another.")
        return frame_of(shot, request.colourway, self._unsaved)

    def _bench(self, request: ProofRequest, bench: Bench) -> Frame:
        """A pack alone in neutral light. Raises GiftwrapError when it is gone."""
        unsaved = self._unsaved
        pack = unsaved.packs.get(bench.pack)
        if pack is None:
            raise GiftwrapError("This pack is not in the job any more: choose another.")
        view = bench.model_dump(include={"azimuth", "distance", "height", "aim_height"})
        lens = lens_for(bench.vertical_angle, request.width / request.height)
        shot = Shot(camera=Camera(lens_mm=min(max(lens, 8), 1200), **view))
        palette = unsaved.palette or Palette()
        return Frame(packs={bench.pack: pack}, photo_set=bench_set(bench.turn), shot=shot, palette=palette)

    async def _pass(self, job: PictureJob, key: str, number: int) -> ProofPicture:
        """One pass in the proofing process, waiting for it to come back when it was lost.

        Raises GiftwrapError when it was lost again and again.
        """
        watching = asyncio.create_task(self._tell_what_is_missing())
        try:
            lost = 0
            while lost < LOST_AT_MOST:
                while (client := bus.client()) is None:
                    await asyncio.sleep(0.1)
                how = {"resources": {PROOF: 1}, "priority": PROOF_PRIORITY, "key": name_of_pass(number)}
                future = client.submit(pass_that_gives_way, job, key, number, **how)
                try:
                    if picture := await future:
                        return picture
                except (FutureCancelledError, KilledWorker, OSError) as error:
                    lost += 1
                    log.warning("A proof was lost (%s) and is begun again.", error)
                    await asyncio.sleep(0.2)
                except asyncio.CancelledError:
                    future.release()
                    raise
        finally:
            watching.cancel()
        raise RenderError("The process that computes proofs died over this again and again: undo it.")

    async def _tell_what_is_missing(self) -> None:
        """Tell the page what its proof waits for once that is more than a moment."""
        told = ""
        while True:
            await asyncio.sleep(MISSING_S)
            missing = await bus.missing(PROOF)
            if missing != told:
                told = missing
                await self._send({"type": "proof-waits", "message": missing})

    async def _show(self, request: ProofRequest, picture: ProofPicture, *, last: bool) -> None:
        head = json.dumps(
            {
                "type": "proof",
                "number": request.number,
                "samples": picture.samples,
                "noise": picture.noise,
                "seconds": picture.seconds,
                "last": last,
            }
        ).encode()
        await self.send(bytes_data=struct.pack(">I", len(head)) + head + picture.jpeg)

    async def _measured(self, shot_id: int, picture: ProofPicture) -> None:
        found = {"paths_per_second": picture.paths_per_second}
        if picture.noise:
            found["noise_of_one_sample"] = picture.noise * picture.samples**0.5
        shots = models.Shot.objects.filter(pk=shot_id, job=self._job_id)
        await database_sync_to_async(shots.update)(**found)

    async def _send(self, event: dict[str, Any]) -> None:
        await self.send(text_data=json.dumps(event))
