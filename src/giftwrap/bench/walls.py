"""What strangers, hostile files and dying processes can do to a running studio."""

from __future__ import annotations

import contextlib
import json
import random
import sqlite3
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
import uuid
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any

import psutil

from giftwrap.bench.figure import Figure
from giftwrap.bench.fuzzing import Visitor, fuzz
from giftwrap.bench.sockets import listening
from giftwrap.core.tests.hostile import Hostile, hostile_files
from giftwrap.launch.family import Family, free_port, manage

MEMBERS = ("web", "scheduler", "finals", "proofs", "dispatcher")
ANSWER_S, PEAK_GB, OUTAGE_S = 12.0, 1.5, 5.0
KILL_ROUNDS = 20
PAGES_BACK_S, FAMILY_BACK_S = 4.0, 10.0
FUZZ_REQUESTS, FUZZ_S, FUZZ_EXAMPLES = 10_000, 420.0, 60
SEED = 1405
PATIENCE_S = 300.0
_ADDRESSES = {
    "artwork": "/api/jobs/velloway/artwork",
    "photo": "/api/jobs/velloway/photos",
    "profile": "/api/profile/read",
    "outline": "/api/outline/read",
    "model": "/api/jobs/velloway/models/read",
}


def run() -> Iterator[Figure]:
    """Studios of its own, attacked by files and requests, and by kills.

    Kills have a studio to themselves: what the fuzzer has saved and ordered would take hours to render.
    """
    with _studio() as family:
        assert family.pid is not None
        beyond = [address for _, address in listening(family.pid) if not _is_loopback(address)]
        yield Figure("walls: sockets beyond the loopback address", len(beyond), "", 0)
        yield from _quiet_kills(family)
        yield from _files(family)
        yield from _requests(family)
    with _studio() as family:
        yield from _kills(family)


@contextlib.contextmanager
def _studio() -> Iterator[Family]:
    """A running studio with the demo job."""
    with tempfile.TemporaryDirectory(prefix="giftwrap-bench-") as folder:
        home = Path(folder)
        manage(["load_demo", "--signed-in"], home=home, demo=True)
        family = Family(home, free_port(), demo=True)
        try:
            family.start()
            threading.Thread(target=family.wait, daemon=True).start()
            wait_until(lambda: is_whole(family))
            yield family
        finally:
            family.stop()


# ---- files


@dataclass
class Watch:
    """Looks at a studio while something is done to it: who answers how late, who takes how much memory."""

    address: str
    pid: int
    slowest_s: float = 0.0
    outages: int = 0
    peaks: dict[str, int] = field(default_factory=dict)
    _over: bool = False

    def __enter__(self) -> Watch:
        self._threads = [threading.Thread(target=work) for work in (self._ask, self._weigh)]
        for thread in self._threads:
            thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._over = True
        for thread in self._threads:
            thread.join()

    def _ask(self) -> None:
        while not self._over:
            began = time.monotonic()
            try:
                urllib.request.urlopen(f"{self.address}/sign-in/", timeout=120).read()
                waited = time.monotonic() - began
            except OSError:
                self.outages += 1
                waited = time.monotonic() - began
            self.slowest_s = max(self.slowest_s, waited)
            self.outages += waited > OUTAGE_S
            time.sleep(0.2)

    def _weigh(self) -> None:
        top = psutil.Process(self.pid)
        while not self._over:
            with contextlib.suppress(psutil.Error):
                for process in (top, *top.children(recursive=True)):
                    with contextlib.suppress(psutil.Error):
                        name = _name_of(process)
                        self.peaks[name] = max(self.peaks.get(name, 0), process.memory_info().rss)
            time.sleep(0.05)


@dataclass(frozen=True)
class Tried:
    """What came of one file."""

    file: Hostile
    seconds: float
    status: int
    words: str


def try_file(visitor: Visitor, file: Hostile) -> Tried:
    """Drop a file where it belongs and, if it is taken in, look at it."""
    began = time.monotonic()
    status, said = _post_file(visitor, _ADDRESSES[file.importer], file.name, file.make())
    if file.importer == "artwork" and status == 200:
        with contextlib.suppress(urllib.error.HTTPError):
            visitor.get(f"/api/artwork/{json.loads(said)['id']}/preview.png?width=600")
    try:
        words = json.loads(said).get("message", "")
    except ValueError:
        words = said[:80]
    return Tried(file, time.monotonic() - began, status, words)


def _files(family: Family) -> Iterator[Figure]:
    visitor, tried = Visitor(family.address), []
    assert family.pid is not None
    with Watch(family.address, family.pid) as watch:
        for file in hostile_files():
            tried.append(try_file(visitor, file))
    slowest = max(t.seconds for t in tried)
    answered = sum(t.status in (200, 413, 422) and (t.status == 200 or bool(t.words)) for t in tried)
    yield Figure("walls: hostile files tried", len(tried), "", 200, "higher")
    yield Figure("walls: taken in or refused in words", answered, "", len(tried), "higher")
    yield Figure("walls: outages meanwhile", watch.outages, "", 0)
    yield Figure("walls: slowest answer to a file", slowest, "s", ANSWER_S)
    yield Figure("walls: longest that anybody else waited", watch.slowest_s, "s", 1.0)
    yield Figure("walls: largest process", max(watch.peaks.values()) / 1e9, "GB", PEAK_GB)
    for name, peak in sorted(watch.peaks.items()):
        yield Figure(f"walls: peak memory, {name}", peak / 1e9, "GB", PEAK_GB)


# ---- requests


def _requests(family: Family) -> Iterator[Figure]:
    found = fuzz(Visitor(family.address), seconds=FUZZ_S, examples=FUZZ_EXAMPLES, seed=SEED)
    if found.broken:
        print(found.said[-4000:], file=sys.stderr)
    yield Figure("walls: fuzzed requests", found.requests, "", FUZZ_REQUESTS, "higher")
    yield Figure("walls: of these broke something or left the schema", found.broken, "", 0)


# ---- kills


@dataclass
class Saver:
    """Somebody who saves a pack again and again and remembers every save that was acknowledged."""

    visitor: Visitor
    row: dict[str, Any]
    kept: dict[int, float] = field(default_factory=dict)
    over: bool = False

    def run(self) -> None:
        """Save until it is over; whatever is refused or lost is tried again from what is there."""
        count = 0
        while not self.over:
            count += 1
            wall = 2.0 + count % 800 / 1000
            document = json.loads(json.dumps(self.row["document"]))
            document["form"]["body"]["wall_thickness"] = wall
            wish = {"base_revision": self.row["revision"], "document": document}
            try:
                answer = self._put(f"/api/packs/{self.row['id']}", wish)
                self.row = answer
                self.kept[answer["revision"]] = wall
            except (OSError, ValueError):
                time.sleep(0.1)
                with contextlib.suppress(OSError, ValueError):
                    self.row = json.loads(self.visitor.get("/api/jobs/velloway"))["packs"][0]

    def _put(self, path: str, body: Any) -> Any:
        return json.loads(_call(self.visitor, "PUT", path, body))


def _quiet_kills(family: Family) -> Iterator[Figure]:
    """How soon pages answer, and all is whole, after a kill while nothing else goes on."""
    for target, wait, goal in (("web", _answers, PAGES_BACK_S), ("everyone", is_whole, FAMILY_BACK_S)):
        times = []
        for _ in range(3):
            time.sleep(2)
            began = time.monotonic()
            _kill(family, target)
            time.sleep(0.05)
            wait_until(partial(wait, family))
            times.append(time.monotonic() - began)
            wait_until(partial(is_whole, family))
        yield Figure(f"walls: back after a kill of {target}, quiet, slowest of 3", max(times), "s", goal)


def _kills(family: Family) -> Iterator[Figure]:
    chance = random.Random(SEED)
    visitor = Visitor(family.address)
    detail = json.loads(visitor.get("/api/jobs/velloway"))
    shot = detail["shots"][0]["id"]
    saver = Saver(visitor, detail["packs"][0])
    saving = threading.Thread(target=saver.run)
    saving.start()
    orders: list[int] = []
    back: dict[str, list[float]] = {}
    broken = 0
    targets = [*MEMBERS, "reader", "supervisor", "everyone"]
    for number in range(KILL_ROUNDS):
        while len(_open_orders(visitor)) < 2:
            with contextlib.suppress(OSError, ValueError):
                wish = {"width": 160, "height": 200, "samples": 16}
                made = json.loads(_call(visitor, "POST", f"/api/shots/{shot}/orders", wish))
                orders.append(made["id"])
        time.sleep(chance.uniform(0.5, 4.0))
        target = targets[number % len(targets)]
        began = time.monotonic()
        _kill(family, target)
        time.sleep(0.05)
        wait_until(lambda: _answers(family))
        if target in ("web", "everyone", "supervisor"):
            back.setdefault(f"pages after {target}", []).append(time.monotonic() - began)
        wait_until(lambda: is_whole(family))
        if target != "reader":  # it starts again when it is needed
            back.setdefault(f"all after {target}", []).append(time.monotonic() - began)
        broken += _integrity(family) != "ok"
    saver.over = True
    saving.join()
    wait_until(lambda: not _open_orders(visitor), patience_s=PATIENCE_S)
    states = [json.loads(visitor.get(f"/api/orders/{order}"))["state"] for order in orders]
    pictures = {p["id"] for p in json.loads(visitor.get("/api/jobs/velloway/pictures"))}
    yield Figure("walls: rounds of kills", KILL_ROUNDS, "", 20, "higher")
    yield Figure("walls: saves acknowledged", len(saver.kept), "", None, "higher")
    yield Figure("walls: of these lost", _lost(family, saver), "", 0)
    yield Figure("walls: orders given", len(orders), "", None, "higher")
    yield Figure("walls: of these not done", sum(state != "done" for state in states), "", 0)
    yield Figure("walls: pictures missing", len(orders) - (len(pictures) - 1), "", 0)
    yield Figure("walls: rounds after which the database was not sound", broken, "", 0)
    for name, times in sorted(back.items()):
        yield Figure(f"walls: {name}, under load, slowest of {len(times)}", max(times), "s", None)


def _kill(family: Family, target: str) -> None:
    assert family.pid is not None
    watcher = psutil.Process(family.pid)
    if target == "supervisor":
        watcher.kill()
        return
    if target == "reader":
        victims = [p for p in watcher.children(recursive=True) if "reading.process" in _line(p)]
    else:
        wanted = MEMBERS if target == "everyone" else (target,)
        victims = [p for p in watcher.children() if _name_of(p) in wanted]
    for process in victims:
        with contextlib.suppress(psutil.Error):
            process.kill()


def is_whole(family: Family) -> bool:
    """Whether every member runs, and all that listen are heard."""
    if family.pid is None or not _answers(family):
        return False
    with contextlib.suppress(psutil.Error):
        names = {_name_of(p) for p in psutil.Process(family.pid).children()}
        return names >= set(MEMBERS) and len(listening(family.pid)) >= 4
    return False


def _open_orders(visitor: Visitor) -> list[Any]:
    while True:
        try:
            found: list[Any] = json.loads(visitor.get("/api/jobs/velloway/orders"))
            return found
        except (OSError, ValueError):
            time.sleep(0.1)


def _lost(family: Family, saver: Saver) -> int:
    """Acknowledged saves that the database does not hold as they were sent."""
    with contextlib.closing(_database(family)) as base:
        query = "SELECT number, document FROM jobs_revision WHERE kind = 'pack' AND row = ?"
        found = ((n, json.loads(d)["form"]["body"]) for n, d in base.execute(query, [saver.row["id"]]))
        held = {number: body["wall_thickness"] for number, body in found}
    return sum(held.get(number) != wall for number, wall in saver.kept.items())


def _integrity(family: Family) -> str:
    with contextlib.closing(_database(family)) as base:
        return str(base.execute("PRAGMA integrity_check").fetchone()[0])


def _database(family: Family) -> sqlite3.Connection:
    return sqlite3.connect(f"file:{family.home / 'giftwrap.sqlite3'}?mode=ro", uri=True, timeout=20)


# ---- requests by hand


def wait_until(condition: Any, patience_s: float = 120.0) -> None:
    """Wait for a condition. Raises TimeoutError when it does not come."""
    end = time.monotonic() + patience_s
    while not condition():
        if time.monotonic() > end:
            raise TimeoutError("it did not come back")
        time.sleep(0.05)


def _answers(family: Family) -> bool:
    try:
        return bool(urllib.request.urlopen(f"{family.address}/sign-in/", timeout=5).status == 200)
    except OSError:
        return False


def _call(visitor: Visitor, method: str, path: str, body: Any) -> bytes:
    headers = {**visitor.headers, "Content-Type": "application/json"}
    data = json.dumps(body).encode()
    request = urllib.request.Request(f"{visitor.address}{path}", data, headers, method=method)
    answer: bytes = urllib.request.urlopen(request, timeout=60).read()
    return answer


def _post_file(visitor: Visitor, path: str, name: str, data: bytes) -> tuple[int, str]:
    """Status and text of the answer to a file; status 0 when there was none."""
    edge = uuid.uuid4().hex
    head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
    body = head.encode() + data + f"\r\n--{edge}--\r\n".encode()
    headers = {**visitor.headers, "Content-Type": f"multipart/form-data; boundary={edge}"}
    request = urllib.request.Request(f"{visitor.address}{path}", body, headers, method="POST")
    try:
        with urllib.request.urlopen(request, timeout=900) as answer:
            return answer.status, answer.read().decode(errors="replace")
    except urllib.error.HTTPError as error:
        return error.code, error.read().decode(errors="replace")
    except OSError as error:
        return 0, repr(error)


def _is_loopback(address: str) -> bool:
    return address.startswith(("127.", "::1"))


def _line(process: psutil.Process) -> str:
    try:
        return " ".join(process.cmdline())
    except psutil.Error:
        return ""


def _name_of(process: psutil.Process) -> str:
    """What a process of the family is."""
    line = _line(process)
    for name in MEMBERS:
        if f"giftwrap.launch.member {name} " in line:
            return name
    return "reader" if "reading.process" in line else "supervisor" if "supervisord" in line else "others"
