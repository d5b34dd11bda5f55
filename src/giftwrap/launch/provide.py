"""Set-up: everything that is missing, from the package registries, said as it is done.

Runs on the system's Python before anything is installed, so it uses the standard library only.
"""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

ROOT = Path(__file__).resolve().parents[3]
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
WEB = ROOT / "web"
LLVM_GLOBS = ("/usr/lib/*/libLLVM.so.1[6-9]*", "/usr/lib/*/libLLVM.so.2*", "/usr/lib/*/libLLVM-1[6-9].so*")
OLDEST_PYTHON = (3, 11)


class SetUpError(Exception):
    """Set-up cannot go on; the message says what to do."""


def provide_python() -> None:
    """The virtual environment, as the lock file has it."""
    if sys.version_info < OLDEST_PYTHON:
        raise SetUpError(f"Giftwrap needs Python 3.11 or newer; this is {sys.version.split()[0]}.")
    lock = ROOT / "requirements.txt"
    stamp = VENV / ".lock-sha256"
    wanted = _digest([lock])
    if stamp.exists() and stamp.read_text() == wanted:
        return
    if not PYTHON.exists():
        _say("Making a virtual environment in .venv")
        _run([sys.executable, "-m", "venv", str(VENV)])
    _say("Installing Python packages")
    _run([str(PYTHON), "-m", "pip", "install", "--quiet", "--disable-pip-version-check", "-r", str(lock)])
    stamp.write_text(wanted)


def provide_pages() -> None:
    """The front end: its packages as the lock file has them, and its build."""
    if shutil.which("npm") is None:
        raise SetUpError(
            "The pages are built with Node.js 20 or newer and npm: install them and start again."
        )
    provide_node_modules()
    stamp = WEB / ".pages-sha256"  # not among the pages, which anybody may fetch
    sources = [p for folder in ("src", "public") for p in sorted((WEB / folder).rglob("*")) if p.is_file()]
    settings = [WEB / n for n in ("index.html", "vite.config.ts", "tsconfig.json", "package-lock.json")]
    wanted = _digest([*sources, *settings])
    if (WEB / "dist" / "index.html").exists() and stamp.exists() and stamp.read_text() == wanted:
        return
    _say("Building the pages")
    _run(["npm", "run", "--silent", "build"], WEB)
    stamp.write_text(wanted)


def provide_node_modules() -> None:
    """The front end's packages."""
    stamp = WEB / "node_modules" / ".lock-sha256"
    wanted = _digest([WEB / "package-lock.json"])
    if stamp.exists() and stamp.read_text() == wanted:
        return
    _say("Installing front-end packages")
    _run(["npm", "ci", "--silent", "--no-audit", "--no-fund"], WEB)
    stamp.write_text(wanted)


def provide_llvm() -> None:
    """The compiler library that light is computed with."""
    if os.environ.get("DRJIT_LIBLLVM_PATH") or any(_found(LLVM_GLOBS)):
        return
    _install_debian(["libllvm19"], "compute light")


def provide_browser() -> None:
    """The browser that tests drive."""
    _provide_programs({"chromium": "chromium", "chromium-driver": "chromedriver"}, "drive the interface")


def provide_separator() -> None:
    """The outside referee of separations that tests ask."""
    _provide_programs({"ghostscript": "gs"}, "separate inks")


def provide_type_reader() -> None:
    """The reader of printed type that pictures are measured by."""
    _provide_programs({"tesseract-ocr": "tesseract"}, "read type in pictures")


def _provide_programs(programs: dict[str, str], purpose: str) -> None:
    """The Debian packages whose programs are missing."""
    missing = [package for package, program in programs.items() if shutil.which(program) is None]
    if missing:
        _install_debian(missing, purpose)


def _install_debian(packages: list[str], purpose: str) -> None:
    command = f"apt-get update && apt-get install -y --no-install-recommends {' '.join(packages)}"
    if os.geteuid() != 0 or shutil.which("apt-get") is None:
        sudo = "" if os.geteuid() == 0 else "sudo sh -c "
        shown = f"{sudo}'{command}'" if sudo else command
        raise SetUpError(f"To {purpose}, {' and '.join(packages)} must be installed. Run: {shown}")
    _say(f"Installing {' and '.join(packages)}")
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    quiet = subprocess.run(
        ["sh", "-c", command], env=environment, capture_output=True, text=True, check=False
    )
    if quiet.returncode != 0:
        raise SetUpError(f"This did not work: {command}\n{quiet.stderr.strip()[-800:]}")


def _found(patterns: Iterable[str]) -> Iterable[Path]:
    for pattern in patterns:
        yield from Path("/").glob(pattern.lstrip("/"))


def _digest(paths: Iterable[Path]) -> str:
    digest = hashlib.sha256()
    for path in paths:
        digest.update(str(path.relative_to(ROOT)).encode())
        digest.update(path.read_bytes())
    return digest.hexdigest()


def _run(command: list[str], cwd: Path = ROOT) -> None:
    if subprocess.run(command, cwd=cwd, check=False).returncode != 0:
        raise SetUpError(f"This did not work: {' '.join(command)}")


def _say(what: str) -> None:
    print(f"· {what} …", flush=True)
