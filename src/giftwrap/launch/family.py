"""The family of processes that make up the running application, watched over by supervisor.

web         pages, API and the live channel
scheduler   spreads rendering work; other machines' workers may join it
finals      a rendering process that works on orders, giving way to everything else
proofs      a rendering process that keeps stages loaded for live proofs
dispatcher  takes orders from the database and adds the light up

A process that dies is started again; the others go on.
"""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

from giftwrap.launch.provide import PYTHON, ROOT, SetUpError

READY_WITHIN_S = 60.0
HOST = "127.0.0.1"
BEHIND = "nice -n 10"
"""How what works on finals is started: pages and proofs come first."""
STEADY_SEED = "0"
"""Hash seed of processes that render: with it kernels come out alike and are read back from disk."""


class Family:
    """One running application, its files in `home`, answering at a port on the loopback address."""

    def __init__(self, home: Path, port: int, *, demo: bool) -> None:
        self.home, self.port = home, port
        self.address = f"http://{HOST}:{port}"
        self.environment = environment(home, demo=demo) | {
            "GIFTWRAP_SCHEDULER": f"tcp://{HOST}:{free_port()}",
            "DASK_DISTRIBUTED__WORKER__PROFILE__ENABLED": "False",  # it samples even while idle
        }
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start every process and wait until the pages answer.

        Raises SetUpError when the port is taken or the pages do not come up.
        """
        if _answers(self.port):
            raise SetUpError(f"Port {self.port} is taken: stop what runs there, or use --port N.")
        (self.home / "logs").mkdir(parents=True, exist_ok=True)
        configuration = self.home / "supervisor.conf"
        configuration.write_text(self._configuration())
        self._process = subprocess.Popen(
            [str(PYTHON), "-W", "ignore", "-m", "supervisor.supervisord", "-c", str(configuration)],
            cwd=ROOT,
            env=self.environment,
            start_new_session=True,
        )
        deadline = time.monotonic() + READY_WITHIN_S
        while not self._is_ready():
            if self._process.poll() is not None or time.monotonic() > deadline:
                self.stop()
                raise SetUpError(f"The application did not come up. See {self.home / 'logs'}.")
            time.sleep(0.1)

    @property
    def pid(self) -> int | None:
        """The process that watches over the others, while it runs."""
        return self._process.pid if self._process else None

    def wait(self) -> None:
        """Run until interrupted."""
        if self._process:
            self._process.wait()

    def stop(self) -> None:
        """Stop every process."""
        if self._process and self._process.poll() is None:
            self._process.send_signal(signal.SIGTERM)
            try:
                self._process.wait(timeout=20)
            except subprocess.TimeoutExpired:
                os.killpg(self._process.pid, signal.SIGKILL)
        self._process = None

    def _is_ready(self) -> bool:
        try:
            urllib.request.urlopen(f"{self.address}/sign-in/", timeout=2)
        except (urllib.error.URLError, OSError):
            return False
        return True

    def _configuration(self) -> str:
        scheduler = self.environment["GIFTWRAP_SCHEDULER"]
        python = f"{PYTHON} -W ignore"
        worker = (
            f"{python} -m distributed.cli.dask_worker {scheduler} --nthreads 1 --no-dashboard "
            f"--memory-limit 0 --local-directory {self.home / 'dask'} "
            "--preload giftwrap.core.render.worker --death-timeout 60"
        )
        programs = {
            "web": f"{python} -m uvicorn giftwrap.studio.asgi:application --host {HOST} --port {self.port} "
            "--loop asyncio --log-level warning --no-access-log --ws websockets-sansio",
            "scheduler": f"{python} -m distributed.cli.dask_scheduler --host {HOST} "
            f"--port {scheduler.rsplit(':', 1)[1]} --no-dashboard --no-show",
            "finals": f"{BEHIND} {worker} --name finals --resources FINAL=1",
            "proofs": f"{worker} --name proofs --resources PROOF=1",
            "dispatcher": f"{BEHIND} {python} -m django dispatch",
        }
        lines = [
            "[supervisord]",
            "nodaemon=true",
            "silent=true",
            f"logfile={self.home / 'logs' / 'supervisor.log'}",
            f"pidfile={self.home / 'supervisor.pid'}",
        ]
        for priority, (name, command) in enumerate(programs.items(), start=1):
            lines += [
                f"[program:{name}]",
                f"command={command}",
                f"directory={ROOT}",
                f"priority={priority}",
                "autorestart=true",
                "startretries=1000",
                "startsecs=2",
                "stopasgroup=true",
                "killasgroup=true",
                "stopwaitsecs=5",
                "redirect_stderr=true",
                f"stdout_logfile={self.home / 'logs' / name}.log",
                "stdout_logfile_maxbytes=5MB",
                "stdout_logfile_backups=1",
            ]
            if name in ("finals", "proofs"):
                lines.append(f'environment=PYTHONHASHSEED="{STEADY_SEED}"')
        return "\n".join(lines).replace("%", "%%") + "\n"


def environment(home: Path | None = None, *, demo: bool = False) -> dict[str, str]:
    """The environment every process of the application runs in."""
    values = {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "giftwrap.studio.settings",
        "PYTHONPATH": os.pathsep.join(filter(None, [str(ROOT / "src"), os.environ.get("PYTHONPATH")])),
        "PYTHONUNBUFFERED": "1",
    }
    if home is not None:
        values["GIFTWRAP_HOME"] = str(home)
    if demo:
        values["GIFTWRAP_DEMO"] = "1"
    return values


def manage(arguments: list[str], *, home: Path | None = None, demo: bool = False) -> int:
    """Run one of Django's commands in the project's own environment."""
    command = [str(PYTHON), "-m", "django", *arguments]
    return subprocess.run(command, cwd=ROOT, env=environment(home, demo=demo), check=False).returncode


def free_port() -> int:
    """A port of the loopback address that nobody uses now."""
    with socket.socket() as probe:
        probe.bind((HOST, 0))
        port: int = probe.getsockname()[1]
        return port


def _answers(port: int) -> bool:
    with socket.socket() as probe:
        probe.settimeout(0.5)
        return probe.connect_ex((HOST, port)) == 0


def stop_on_signal(family: Family) -> None:
    """Stop the family when this process is told to end."""

    def end(number: int, frame: object) -> None:
        family.stop()
        sys.exit(0)

    signal.signal(signal.SIGTERM, end)
    signal.signal(signal.SIGINT, end)
