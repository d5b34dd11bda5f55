"""One member of the family, as supervisor starts it: `python -m giftwrap.launch.member NAME`.

Whatever it writes is for its owner alone, and it ends when what watches over it is gone.
"""

from __future__ import annotations

import argparse
import contextlib
import ctypes
import os
import signal
import sys
from collections.abc import Callable
from pathlib import Path

from giftwrap.crew import FINAL, PROOF

OWNER_ONLY = 0o077
GIVES_WAY = {"proofs": 5, "finals": 10, "dispatcher": 10, "helper": 10}
"""Niceness: what the hand moves comes first, then proofs."""
_PR_SET_PDEATHSIG = 1
GRACE_S = 2
"""What is under way when the pages stop has this long to end."""


def main(arguments: list[str]) -> None:
    """Become a member of the family."""
    parser = argparse.ArgumentParser(prog="python -m giftwrap.launch.member", description=__doc__)
    parser.add_argument("name", choices=sorted(MEMBERS))
    parser.add_argument("--home", type=Path, required=True)
    parser.add_argument("--port", type=int, default=0, help="of the pages or of the scheduler")
    parser.add_argument("--scheduler", default="", help="its address, tls://HOST:PORT")
    parser.add_argument("--host", default="127.0.0.1", help="the address to listen at")
    parser.add_argument("--keys", type=Path, help="the studio's keys; default: in its home")
    chosen = parser.parse_args(arguments)
    os.umask(OWNER_ONLY)
    end_with_parent()
    if niceness := GIVES_WAY.get(chosen.name):
        give_way(niceness)
    chosen.keys = chosen.keys or chosen.home / "keys"
    MEMBERS[chosen.name](chosen)


def end_with_parent() -> None:
    """End with the process that started this one (Linux; prctl(2)): another family takes its place."""
    if sys.platform == "linux":
        ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
        if os.getppid() == 1 and os.environ.get("GIFTWRAP_WATCHED") == "1":
            sys.exit("What watches over this process is gone.")


def give_way(niceness: int) -> None:
    """Let other processes go first, those of other sessions too.

    Where the kernel shares time between sessions (sched(7), autogrouping), niceness counts only within
    one: the browser would get no more than its half. So this process becomes a session of its own, and that
    session is nice.
    """
    os.nice(niceness)
    with contextlib.suppress(OSError):
        if os.getpgrp() == os.getpid():
            os.setpgid(0, os.getpgid(os.getppid()))  # whoever leads a group cannot begin a session
        os.setsid()
        Path("/proc/self/autogroup").write_text(str(niceness))


def _web(chosen: argparse.Namespace) -> None:
    import uvicorn

    uvicorn.run(
        "giftwrap.studio.asgi:application",
        host=chosen.host,
        port=chosen.port,
        loop="asyncio",
        log_level="warning",
        access_log=False,
        ws="websockets-sansio",
        server_header=False,
        timeout_graceful_shutdown=GRACE_S,
    )


def _scheduler(chosen: argparse.Namespace) -> None:
    from giftwrap.crew.members import run_scheduler

    run_scheduler(chosen.keys, chosen.port, files=chosen.home / "files", host=chosen.host)


def _renderer(name: str, work: str) -> Callable[[argparse.Namespace], None]:
    def run(chosen: argparse.Namespace) -> None:
        from giftwrap.crew.members import run_renderer

        folder = chosen.home / "crew"
        run_renderer(chosen.keys, chosen.scheduler, name=name, work=work, folder=folder, host=chosen.host)

    return run


def _dispatcher(chosen: argparse.Namespace) -> None:
    import django
    from django.core.management import call_command

    django.setup()
    call_command("dispatch")


MEMBERS: dict[str, Callable[[argparse.Namespace], None]] = {
    "web": _web,
    "scheduler": _scheduler,
    "finals": _renderer("finals", FINAL),
    "proofs": _renderer("proofs", PROOF),
    "dispatcher": _dispatcher,
    "helper": _renderer(f"helper-{os.getpid()}", FINAL),
}


if __name__ == "__main__":
    main(sys.argv[1:])
