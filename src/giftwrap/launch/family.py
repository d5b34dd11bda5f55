"""The family of processes that make up the running application, watched over by supervisor.

web         pages, API and the live channel
scheduler   spreads rendering work; other machines' workers may join it
finals      a rendering process that works on orders, giving way to everything else
proofs      a rendering process that keeps stages loaded for live proofs
dispatcher  takes orders from the database and adds the light up

A process that dies is started again; the others go on. They listen on the loopback address only.
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
STEADY_SEED = "0"
"""Hash seed of processes that render: with it kernels come out alike and are read back from disk."""


class Family:
    """One running application, its files in `home`, answering at a port on the loopback address."""

    def __init__(self, home: Path, port: int, *, demo: bool) -> None:
        self.home, self.port = home, port
        self.address = f"http://{HOST}:{port}"
        self._crew_host = os.environ.get("GIFTWRAP_CREW_HOST", HOST)
        self._scheduler_port = free_port()
        self.environment = environment(home, demo=demo) | {
            "GIFTWRAP_SCHEDULER": f"tls://{self._crew_host}:{self._scheduler_port}",
            "GIFTWRAP_WATCHED": "1",
            "MALLOC_TRIM_THRESHOLD_": "65536",  # memory that is free is given back
            "OPENBLAS_NUM_THREADS": "1",
        }
        self._process: subprocess.Popen[bytes] | None = None
        self._stopping = False

    def start(self) -> None:
        """Start every process and wait until the pages answer.

        Raises SetUpError when the port is taken or the pages do not come up.
        """
        if _answers(self.port):
            raise SetUpError(f"Port {self.port} is taken: stop what runs there, or use --port N.")
        self._stopping = False
        keep_to_owner(self.home)
        if not (self.home / "keys" / "studio.pem").exists():
            command = [str(PYTHON), "-m", "giftwrap.crew.keys", str(self.home)]
            subprocess.run(command, cwd=ROOT, env=self.environment, check=True)
        (self.home / "logs").mkdir(parents=True, exist_ok=True)
        (self.home / "supervisor.conf").write_text(self._configuration())
        self._watch_over()
        deadline = time.monotonic() + READY_WITHIN_S
        while not self._is_ready():
            if self._process is None or self._process.poll() is not None or time.monotonic() > deadline:
                self.stop()
                raise SetUpError(f"The application did not come up. See {self.home / 'logs'}.")
            time.sleep(0.1)

    def _watch_over(self) -> None:
        """Start supervisor, which starts the others."""
        configuration = str(self.home / "supervisor.conf")
        self._process = subprocess.Popen(
            [str(PYTHON), "-W", "ignore", "-m", "supervisor.supervisord", "-c", configuration],
            cwd=ROOT,
            env=self.environment,
            start_new_session=True,
        )

    @property
    def scheduler(self) -> str:
        """Address at which other machines' rendering processes may join."""
        return self.environment["GIFTWRAP_SCHEDULER"]

    @property
    def pid(self) -> int | None:
        """The process that watches over the others, while it runs."""
        return self._process.pid if self._process else None

    def wait(self) -> None:
        """Run until interrupted. Should supervisor itself die, everything is started again."""
        while self._process and not self._stopping:
            self._process.wait()
            while not self._stopping and (
                _answers(self.port) or _answers(self._scheduler_port, self._crew_host)
            ):
                time.sleep(0.1)  # its members end when it is gone
            if not self._stopping:
                self._watch_over()

    def stop(self) -> None:
        """Stop every process."""
        self._stopping = True
        if self._process and self._process.poll() is None:
            self._process.send_signal(signal.SIGTERM)
            try:
                self._process.wait(timeout=20)
            except subprocess.TimeoutExpired:
                os.killpg(self._process.pid, signal.SIGKILL)
        self._process = None

    def _is_heard(self) -> bool:
        """Whether somebody still holds the ports."""
        return _answers(self.port) or _answers(self._scheduler_port, self._crew_host)

    def _is_ready(self) -> bool:
        try:
            urllib.request.urlopen(f"{self.address}/sign-in/", timeout=2)
        except (urllib.error.URLError, OSError):
            return False
        return True

    def _configuration(self) -> str:
        scheduler = self.scheduler
        member = f"{PYTHON} -W ignore -m giftwrap.launch.member"
        home = f"--home {self.home}"
        crew = f"{home} --host {self._crew_host}"
        programs = {
            "web": f"{member} web {home} --port {self.port}",
            "scheduler": f"{member} scheduler {crew} --port {self._scheduler_port}",
            "finals": f"{member} finals {crew} --scheduler {scheduler}",
            "proofs": f"{member} proofs {crew} --scheduler {scheduler}",
            "dispatcher": f"{member} dispatcher {home}",
        }
        lines = [
            "[supervisord]",
            "nodaemon=true",
            "silent=true",
            "umask=077",
            "logfile_maxbytes=1MB",
            "logfile_backups=1",
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
                "startsecs=1",
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


def keep_to_owner(home: Path) -> None:
    """Make a home folder that its owner alone can look into, with everything that is put there."""
    os.umask(0o077)
    home.mkdir(mode=0o700, parents=True, exist_ok=True)
    home.chmod(0o700)
    for name in ("giftwrap.sqlite3", "secret-key"):
        if (home / name).exists():
            (home / name).chmod(0o600)


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


def _answers(port: int, host: str = HOST) -> bool:
    with socket.socket() as probe:
        probe.settimeout(0.5)
        return probe.connect_ex((host, port)) == 0


def stop_on_signal(family: Family) -> None:
    """Stop the family when this process is told to end."""

    def end(number: int, frame: object) -> None:
        family.stop()
        sys.exit(0)

    signal.signal(signal.SIGTERM, end)
    signal.signal(signal.SIGINT, end)
