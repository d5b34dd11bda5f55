"""What a designer waits for in the morning: the whole application, and the first proof at Set."""

from __future__ import annotations

import json
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from http.cookiejar import CookieJar
from pathlib import Path

from websockets.sync.client import connect

from giftwrap.bench.demo_job import demo_frame
from giftwrap.bench.figure import Figure
from giftwrap.bench.proof import PROOF
from giftwrap.launch.family import Family, free_port, manage

WARM_UP_S = 10.0
"""The rendering processes read back their kernels meanwhile."""
REPEATS = 5


def run() -> Iterator[Figure]:
    """Start the family in a home of its own, then ask for proofs over the live channel."""
    with tempfile.TemporaryDirectory(prefix="giftwrap-bench-") as folder:
        home = Path(folder)
        manage(["load_demo", "--signed-in"], home=home, demo=True)
        family = Family(home, free_port(), demo=True)
        started = time.perf_counter()
        try:
            family.start()
            yield Figure("start: every process started, pages answer", time.perf_counter() - started, "s", 10)
            yield from _proofs(family)
        finally:
            family.stop()


def _proofs(family: Family) -> Iterator[Figure]:
    cookies = CookieJar()
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(cookies))
    opener.open(f"{family.address}/api/session").read()
    header = "; ".join(f"{c.name}={c.value}" for c in cookies)
    address = f"{family.address.replace('http', 'ws')}/live/jobs/velloway"
    shot_id = json.loads(opener.open(f"{family.address}/api/jobs/velloway").read())["shots"][0]["id"]
    time.sleep(WARM_UP_S)
    with connect(address, additional_headers={"Cookie": header}, origin=family.address) as channel:
        yield Figure(
            "start: first proof at Set after the start", _proof_seconds(channel, shot_id, 0, 0), "s", 3
        )
        moves = sorted(_proof_seconds(channel, shot_id, n, n) for n in range(1, REPEATS + 1))
        yield Figure("start: proof after a camera move, median", moves[len(moves) // 2], "s", None)


def _proof_seconds(channel: object, shot_id: int, number: int, azimuth: float) -> float:
    shot = demo_frame()[0].shot
    moved = shot.model_copy(update={"camera": shot.camera.model_copy(update={"azimuth": float(azimuth)})})
    wish = {
        "number": number,
        "shot_id": shot_id,
        "width": PROOF[0],
        "height": PROOF[1],
        "shot": moved.model_dump(),
    }
    started = time.perf_counter()
    channel.send(json.dumps({"type": "proof", "proof": wish}))
    while True:
        news = channel.recv(timeout=60)
        if isinstance(news, bytes):
            length = int.from_bytes(news[:4], "big")
            if json.loads(news[4 : 4 + length])["number"] == number:
                return time.perf_counter() - started
