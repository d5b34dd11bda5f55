"""`./giftwrap`: demo, test, render, bench and manage, each after whatever set-up is missing."""

from __future__ import annotations

import argparse
import os
import subprocess
import time
from pathlib import Path

from giftwrap.launch.checking import checks, run_beside, shares, tests_of
from giftwrap.launch.family import HOST, STEADY_SEED, Family, environment, manage, stop_on_signal
from giftwrap.launch.provide import (
    PYTHON,
    ROOT,
    SetUpError,
    provide_browser,
    provide_llvm,
    provide_node_modules,
    provide_pages,
    provide_python,
    provide_separator,
    provide_type_reader,
)

PROOF_PASSES = "6"
"""Of proofs in tests: what refines for as long as somebody looks takes the machine from what is tested."""


def main(arguments: list[str]) -> int:
    """Run one command; returns its exit status."""
    parser = argparse.ArgumentParser(
        prog="./giftwrap", description="Packaging pictures, from label to client."
    )
    commands = parser.add_subparsers(dest="command", required=True)
    demo = commands.add_parser("demo", help="the app with demo data at http://127.0.0.1:8000")
    demo.add_argument("--port", type=int, default=8000)
    test = commands.add_parser("test", help="type check, linters and every test")
    test.add_argument("labels", nargs="*", help="test labels; with any, only these tests run")
    for name, what in (
        ("render", "a final without a browser: render JOB SHOT --size 640x800 --out picture.png"),
        ("bench", "the benchmarks"),
        ("manage", "Django's management commands"),
    ):
        commands.add_parser(name, help=what, add_help=False)
    chosen, rest = parser.parse_known_args(arguments)
    if rest and chosen.command in ("demo", "test"):
        parser.error(f"unrecognized arguments: {' '.join(rest)}")
    try:
        if chosen.command == "demo":
            return run_demo(chosen.port)
        if chosen.command == "test":
            return run_tests(chosen.labels)
        return _run_in_python(chosen.command, rest)
    except SetUpError as error:
        print(error)
        return 1


def run_demo(port: int) -> int:
    """Set everything up, load the demo job and run until interrupted."""
    began = time.monotonic()
    _provide_for_running()
    provide_pages()
    home = Path(os.environ.get("GIFTWRAP_HOME") or ROOT / "var")
    home.mkdir(parents=True, exist_ok=True)
    if manage(["load_demo", "--signed-in"], home=home, demo=True) != 0:
        return 1
    family = Family(home, port, demo=True)
    stop_on_signal(family)
    family.start()
    print(
        f"Giftwrap is at {family.address} (up in {time.monotonic() - began:.1f} s). Ctrl+C stops it.",
        flush=True,
    )
    if not family.scheduler.startswith(f"tls://{HOST}:"):
        print(f"Rendering processes of other machines may join at {family.scheduler}.", flush=True)
    family.wait()
    return 0


def run_tests(labels: list[str]) -> int:
    """Linters, types and everything that needs no browser in two lanes, then what needs one: a browser that
    draws without a graphics card and the processes behind it need both cores."""
    _provide_for_running()
    provide_pages()
    provide_browser()
    provide_separator()
    if not labels:
        lit, rest = shares()
        lanes = {"with light": [tests_of(lit)], "the rest": [*checks(), tests_of(rest)]}
        values = {name: _test_environment(name.replace(" ", "-")) for name in lanes}
        status = run_beside(lanes, values)
        if status != 0:
            return status
    last = tests_of(labels or ["browser_tests"])
    print(f"· {last.words}", flush=True)
    return subprocess.run(last.command, cwd=ROOT, env=_test_environment(), check=False).returncode


def _test_environment(lane: str = "") -> dict[str, str]:
    values = environment(ROOT / "var" / "test" / lane)
    values["PYTHONPATH"] += f"{os.pathsep}{ROOT / 'tests'}"
    values["GIFTWRAP_PROOF_PASSES"] = PROOF_PASSES
    return values


def _run_in_python(command: str, rest: list[str]) -> int:
    _provide_for_running()
    if command == "manage":
        return manage(rest)
    os.environ.setdefault("PYTHONHASHSEED", STEADY_SEED)
    if command == "render":
        return manage(["load_demo"]) or manage(["render", *rest])
    provide_node_modules()
    provide_type_reader()
    arguments = [str(PYTHON), "-m", "giftwrap.bench", *rest]
    return subprocess.run(arguments, cwd=ROOT, env=environment(), check=False).returncode


def _provide_for_running() -> None:
    provide_python()
    provide_llvm()
