"""What `./giftwrap test` runs, and beside what: two cores have room for two things that need one each."""

from __future__ import annotations

import subprocess
import tempfile
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from giftwrap.launch.provide import PYTHON, ROOT, WEB

CHECKED = [f"src/giftwrap/{package}" for package in ("core", "crew", "launch", "studio")]
"""What is held to strict types."""
WITH_LIGHT = ("core.model", "core.render", "core.scene", "studio")
"""Packages whose tests render: half of the time of all that need no browser."""


@dataclass(frozen=True)
class Step:
    """A command in a folder."""

    command: Sequence[str]
    folder: Path = ROOT

    @property
    def words(self) -> str:
        """As it is typed."""
        return " ".join([Path(self.command[0]).name, *self.command[1:]])


def checks() -> list[Step]:
    """Linters and types, then the front end's tests."""
    python = [str(PYTHON), "-m"]
    return [
        Step([*python, "ruff", "check", "--quiet", "."]),
        Step([*python, "ruff", "format", "--quiet", "--check", "."]),
        Step([*python, "mypy", *CHECKED]),
        *(Step(["npm", "run", "--silent", name], WEB) for name in ("check", "lint", "test")),
    ]


def tests_of(labels: Sequence[str]) -> Step:
    """Tests by Django's runner."""
    return Step([str(PYTHON), "-m", "django", "test", *labels])


def shares(source: Path = ROOT / "src" / "giftwrap") -> tuple[list[str], list[str]]:
    """Labels of all tests that need no browser, in two shares that take about as long."""
    folders = {path.parent for path in source.rglob("test_*.py")}
    packages = sorted(".".join(folder.relative_to(source).parts) for folder in folders)
    lit = [f"giftwrap.{name}" for name in packages if name.startswith(WITH_LIGHT)]
    rest = [f"giftwrap.{name}" for name in packages if not name.startswith(WITH_LIGHT)]
    return lit, rest


def run_beside(lanes: Mapping[str, Sequence[Step]], values: Mapping[str, Mapping[str, str]]) -> int:
    """Run lanes of steps beside each other, each to its first failure. What begins is told at once, what a
    lane has to say when it is through.

    values : each lane's environment; returns the first status that is not 0
    """
    with ThreadPoolExecutor(len(lanes)) as pool:
        through = [pool.submit(_run_lane, steps, values[name]) for name, steps in lanes.items()]
        return next((lane.result() for lane in through if lane.result() != 0), 0)


def _run_lane(steps: Sequence[Step], values: Mapping[str, str]) -> int:
    status = 0
    with tempfile.TemporaryFile() as said:
        for step in steps:
            print(f"· {step.words}", flush=True)
            said.write(f"· {step.words}\n".encode())
            said.flush()
            status = subprocess.run(
                step.command, cwd=step.folder, env=values, stdout=said, stderr=said, check=False
            ).returncode
            if status != 0:
                break
        said.seek(0)
        print(said.read().decode(errors="replace"), end="", flush=True)
    return status
