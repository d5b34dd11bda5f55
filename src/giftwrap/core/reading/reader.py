"""Asking the reading process, and starting another when it is gone."""

from __future__ import annotations

import contextlib
import json
import logging
import mmap
import os
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from giftwrap.core.errors import GiftwrapError
from giftwrap.core.reading.limits import Limits
from giftwrap.core.reading.process import BROKEN, HEAD, TOO_MUCH

log = logging.getLogger(__name__)

AT_A_TIME = 2
"""Files of one kind of trust that are read at the same time."""
TURN_S = 15.0
"""A file that has not had its turn after this long is refused for now."""
GRACE_S = 20.0
"""The reading process has this long beyond a file's own limit to start and to say how it ended."""
EVERYTHING = (
    "giftwrap.core.reading.parsing",
    "giftwrap.core.formats.blank_in",
    "giftwrap.core.formats.profiles",
    "giftwrap.core.form.tracing",
    "giftwrap.core.received.reading",
    "giftwrap.core.materials.surfaces",
    "giftwrap.core.materials.materialx",
)
SOURCE = Path(__file__).resolve().parents[3]


class ReaderLost(Exception):
    """The reading process is gone; what it was asked can be asked again."""


@dataclass(frozen=True)
class Reading:
    """What came of a file, and what it cost: seconds, and bytes of memory at the most."""

    head: Any
    body: bytes
    seconds: float
    peak: int


class Reader:
    """A reading process. It starts when it is first needed and again whenever it is gone.

    modules : loaded before the first file comes
    """

    def __init__(self, modules: Sequence[str] = EVERYTHING[:1]) -> None:
        self.modules = tuple(modules)
        self._process: subprocess.Popen[bytes] | None = None
        self._control: socket.socket | None = None
        self._lock = threading.Lock()
        self._turns = {known: threading.BoundedSemaphore(AT_A_TIME) for known in (False, True)}

    @property
    def pid(self) -> int | None:
        """The reading process, while it runs."""
        return self._process.pid if self._process and self._process.poll() is None else None

    def start(self) -> None:
        """Start the reading process unless it runs."""
        with self._lock:
            self._started()

    def stop(self) -> None:
        """End the reading process."""
        with self._lock:
            self._end()

    def _end(self) -> None:
        if self._control:
            self._control.close()
        if self._process:
            self._process.kill()
            self._process.wait()
        self._process = self._control = None

    def read(
        self,
        call: str,
        source: bytes | Path,
        name: str,
        /,
        *,
        limits: Limits,
        refusal: type[GiftwrapError],
        known: bool = False,
        **arguments: Any,
    ) -> Reading:
        """Have a function read a file within limits.

        call : "module:function"; it is given the file's bytes and the arguments, and returns a head
            that JSON can say and a body of bytes
        source : the file's bytes, or where it lies
        name : what the person calls the file
        known : whether it was read before; such files do not wait behind new ones

        Raises `refusal` with the reason when the file is not usable or costs more than it may.
        """
        turn = self._turns[known]
        if not turn.acquire(timeout=TURN_S):
            raise refusal(f"{name} has to wait: other files take long to read. Try again in a moment.")
        try:
            request = {"call": call, "arguments": arguments, "limits": asdict(limits)}
            try:
                ended, answer = self._ask(request, source, limits)
            except ReaderLost:
                log.warning("The reading process was lost over %s and is started again.", name)
                ended, answer = self._ask(request, source, limits)
        except ReaderLost as error:
            raise refusal(f"{name} {limits.brought_it_down()}") from error
        finally:
            turn.release()
        return _judge(ended, answer, name, limits, refusal)

    def _ask(
        self, request: dict[str, Any], source: bytes | Path, limits: Limits
    ) -> tuple[dict[str, Any], tuple[dict[str, Any], bytes] | None]:
        """How the copy that read the file ended, and its answer if it has one."""
        mine, its = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        with mine, its, _descriptor_of(source) as file, _in_memory("answer") as answer:
            with self._lock:
                control = self._started()
                try:
                    socket.send_fds(control, [json.dumps(request).encode()], [file, answer, its.fileno()])
                    told = None
                except OSError:
                    told = b""
            its.close()
            mine.settimeout(limits.seconds + GRACE_S)
            if told is None:
                try:
                    told = mine.recv(4096)
                except OSError:
                    told = b""
            if not told:
                self._give_up(control)
                raise ReaderLost
            return json.loads(told), _answer_in(answer, limits.answer)

    def _give_up(self, control: socket.socket) -> None:
        """End a reading process that is lost, unless another has taken its place by now."""
        with self._lock:
            if self._control is control:
                self._end()

    def _started(self) -> socket.socket:
        if self._control is not None and self.pid is not None:
            return self._control
        if self._control is not None:
            self._control.close()
        mine, its = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        with its:
            module = "giftwrap.core.reading.process"
            self._process = subprocess.Popen(
                [sys.executable, "-W", "ignore", "-m", module, str(its.fileno()), *self.modules],
                env={**os.environ, "PYTHONPATH": str(SOURCE), "OPENBLAS_NUM_THREADS": "1"},
                pass_fds=[its.fileno()],
                stdin=subprocess.DEVNULL,
            )
        self._control = mine
        return mine


_reader = Reader()


def start_reading(modules: Sequence[str] = EVERYTHING[:1]) -> Reader:
    """Start this process's reader before the first file comes, with modules loaded."""
    if not set(modules) <= set(_reader.modules):
        _reader.stop()
        _reader.modules = tuple(modules)
    _reader.start()
    return _reader


def read_apart(
    call: str,
    source: bytes | Path,
    name: str,
    /,
    *,
    limits: Limits,
    refusal: type[GiftwrapError],
    known: bool = False,
    **arguments: Any,
) -> tuple[Any, bytes]:
    """Have a function read a file in this process's reading process; see `Reader.read`."""
    reading = _reader.read(call, source, name, limits=limits, refusal=refusal, known=known, **arguments)
    return reading.head, reading.body


def _judge(
    ended: dict[str, Any],
    answer: tuple[dict[str, Any], bytes] | None,
    name: str,
    limits: Limits,
    refusal: type[GiftwrapError],
) -> Reading:
    """The reading, or the refusal that says why there is none."""
    status = ended["status"]
    if status == 0 and answer is not None:
        head, body = answer
        if "answer" in head:
            return Reading(head["answer"], body, ended["seconds"], ended["peak"])
        if "refused" in head:
            raise refusal(head["refused"], head["place"])
        raise refusal(f"{name} {limits.brought_it_down()} ({head['broken']})")
    log.warning("Reading %s ended with status %s after %.1f s.", name, status, ended["seconds"])
    if status in (-signal.SIGALRM, -signal.SIGXCPU):
        raise refusal(f"{name} {limits.took_too_long()}")
    if status in (TOO_MUCH, -signal.SIGABRT, -signal.SIGKILL):
        raise refusal(f"{name} {limits.took_too_much()}")
    assert status in (0, BROKEN) or status < 0, status
    raise refusal(f"{name} {limits.brought_it_down()}")


@contextlib.contextmanager
def _descriptor_of(source: bytes | Path) -> Iterator[int]:
    """A descriptor from which a file can be read."""
    if isinstance(source, bytes):
        with _in_memory("file") as descriptor:
            with os.fdopen(descriptor, "wb", closefd=False) as stream:
                stream.write(source)
            yield descriptor
    else:
        with source.open("rb") as stream:
            yield stream.fileno()


@contextlib.contextmanager
def _in_memory(name: str) -> Iterator[int]:
    descriptor = os.memfd_create(name)
    try:
        yield descriptor
    finally:
        os.close(descriptor)


def _answer_in(descriptor: int, most: int) -> tuple[dict[str, Any], bytes] | None:
    """The head and body of an answer that has been written whole; None when it has not."""
    size = os.fstat(descriptor).st_size
    if not HEAD < size <= most:
        return None
    with mmap.mmap(descriptor, size, access=mmap.ACCESS_READ) as memory:
        end = HEAD + int.from_bytes(memory[:HEAD], "big")
        if end > size:
            return None
        try:
            head = json.loads(memory[HEAD:end])
        except ValueError:
            return None
        return (head, memory[end:]) if isinstance(head, dict) else None
