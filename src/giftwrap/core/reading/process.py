"""The reading process: has its parsers ready, and reads each file in a copy of itself that ends with it.

Started as `python -m giftwrap.core.reading.process FD MODULE …` by `Reader`. A request is one message
on the control socket with three descriptors beside it: the file, where the answer goes, and where to
report how the copy ended. Nothing a file does outlives its copy.
"""

from __future__ import annotations

import contextlib
import gc
import importlib
import json
import mmap
import os
import selectors
import signal
import socket
import sys
import time
from collections.abc import Callable
from typing import Any

from giftwrap.core.errors import GiftwrapError
from giftwrap.core.reading.limits import Limits

MESSAGE = 64 * 1024
_reports: set[int] = set()
"""Where the ends of the copies that are reading will be reported: not theirs to see."""
HEAD = 8
"""Bytes that say how long an answer's head is; the body follows it."""
TOO_MUCH, BROKEN = 3, 4
"""Exit statuses of a copy that ran out of memory, and of one that failed in a way nobody foresaw."""


def serve(control: socket.socket) -> None:
    """Take requests until whoever started this process closes the socket."""
    watched = selectors.DefaultSelector()
    watched.register(control, selectors.EVENT_READ)
    while True:
        for key, _ in watched.select():
            if key.data is not None:
                watched.unregister(key.fd)
                key.data()
                continue
            message, descriptors, _, _ = socket.recv_fds(control, MESSAGE, 3)
            if not message:
                return
            pid, ended = _begin(json.loads(message), *descriptors, control=control)
            watched.register(pid, selectors.EVENT_READ, ended)


def _begin(
    request: dict[str, Any], file: int, answer: int, report: int, *, control: socket.socket
) -> tuple[int, Callable[[], None]]:
    """Start a copy on a request; returns its pidfd and what to do when it has ended."""
    pid = os.fork()
    if pid == 0:
        control.close()
        for other in (report, *_reports):
            os.close(other)
        _read_and_end(request, file, answer)
    _reports.add(report)
    os.close(file)
    os.close(answer)
    began, handle = time.monotonic(), os.pidfd_open(pid)

    def ended() -> None:
        _, status, used = os.wait4(pid, 0)
        os.close(handle)
        _reports.discard(report)
        told = {
            "status": os.waitstatus_to_exitcode(status),
            "seconds": time.monotonic() - began,
            "peak": used.ru_maxrss * 1024,
        }
        # whoever asked may have gone
        with socket.socket(fileno=report) as back, contextlib.suppress(OSError):
            back.sendall(json.dumps(told).encode())

    return handle, ended


def _read_and_end(request: dict[str, Any], file: int, answer: int) -> None:
    """Do what is asked within its limits and write what comes of it. Never returns."""
    status = BROKEN
    try:
        signal.signal(signal.SIGINT, signal.SIG_DFL)
        Limits(**request["limits"]).apply()
        module, name = request["call"].split(":")
        size = os.fstat(file).st_size
        data = mmap.mmap(file, size, access=mmap.ACCESS_READ)[:] if size else b""
        head, body = getattr(importlib.import_module(module), name)(data, **request["arguments"])
        _answer(answer, {"answer": head}, body)
        status = 0
    except GiftwrapError as error:
        _answer(answer, {"refused": error.message, "place": error.place})
        status = 0
    except MemoryError:
        status = TOO_MUCH
    except RecursionError:
        status = BROKEN
    except Exception as error:  # a parser's own failure is news about the file, not about the studio
        _answer(answer, {"broken": f"{type(error).__name__}: {error}"[:300]})
        status = 0
    finally:
        os._exit(status)


def _answer(where: int, head: dict[str, Any], body: bytes | memoryview = b"") -> None:
    text = json.dumps(head, allow_nan=False).encode()
    with os.fdopen(where, "wb", closefd=False) as stream:
        stream.write(len(text).to_bytes(HEAD, "big") + text)
        stream.write(body)


def main(arguments: list[str]) -> None:
    """Load the modules that are named and serve."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # it ends with whoever started it
    for module in arguments[1:]:
        importlib.import_module(module)
    gc.collect()
    gc.freeze()  # copies share what is loaded
    with socket.socket(fileno=int(arguments[0])) as control:
        serve(control)


if __name__ == "__main__":
    main(sys.argv[1:])
    # what was frozen is not taken apart piece by piece, which libraries take for leaks
    os._exit(0)
